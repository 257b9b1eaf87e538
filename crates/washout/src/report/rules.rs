//! What the pages of runs share: the chart of rules, and filters by rule and by part of the page.

use std::fmt::Write as _;

use maud::{Markup, html};
use washout_core::RuleName;

use super::page::bar;
use crate::show::number::grouped;
use crate::show::visible::shown;

/// Rules and parts that have a filter of their own.
const MOST_FILTERS: usize = 60;

/// A row for each rule: its changes, and in how many `things` it made any.
pub(super) fn chart(rules: &[RuleName], counts: impl Iterator<Item = (u64, u64)>, things: &str) -> Markup {
    let counts: Vec<(u64, u64)> = counts.collect();
    let longest = counts.iter().map(|(changes, _)| *changes).max().unwrap_or(0);
    html! {
        h2 { "Rules, in the order they ran" }
        table.chart {
            thead { tr { th.number { "rule" } th { "what it does" } th.number { "changes" } th {} th.number { (things) } } }
            tbody {
                @for (name, (changes, touched)) in rules.iter().zip(&counts) {
                    tr {
                        td.number { (shown(&name.number)) }
                        td { (shown(&name.caption)) @if *changes == 0 { span.quiet { " (found nothing)" } } }
                        td.number { (grouped(*changes)) }
                        td.share { @if *changes > 0 { (bar(*changes, longest)) } }
                        td.number { (grouped(*touched)) }
                    }
                }
            }
        }
    }
}

/// Filters that need no script: what is chosen decides, by style, what is shown. `parts`: the captions of the parts of the
/// page, each of which is a `thing`.
pub(super) fn filters(
    rules: &[RuleName],
    counts: impl Iterator<Item = (u64, u64)>,
    parts: &[String],
    thing: &str,
) -> Markup {
    let busy = rules.iter().zip(counts).enumerate().filter(|(_, (_, (changes, _)))| *changes > 0);
    let busy: Vec<(usize, &RuleName)> = busy.take(MOST_FILTERS).map(|(index, (name, _))| (index, name)).collect();
    html! {
        form.filters {
            @if busy.len() > 1 {
                fieldset {
                    legend { "Changes by" }
                    label { input #rule-all type="radio" name="rule" checked; " every rule" }
                    @for (index, name) in &busy {
                        label {
                            input id=(format!("rule-{index}")) type="radio" name="rule";
                            " " (shown(&name.number)) " " (shown(&name.caption))
                        }
                    }
                }
            }
            @if parts.len() > 1 {
                fieldset {
                    legend { "In" }
                    label { input #file-all type="radio" name="file" checked; " every " (thing) }
                    @for (index, part) in parts.iter().enumerate().take(MOST_FILTERS) {
                        label { input id=(format!("file-{index}")) type="radio" name="file"; " " (part) }
                    }
                }
            }
        }
    }
}

/// The style that does what the filters say.
pub(super) fn filter_style(rules: usize, parts: usize) -> String {
    let mut style = String::new();
    for index in 0..rules {
        let _ = writeln!(style, "body:has(#rule-{index}:checked) .hunk:not(.r{index}, .head) {{ display: none }}");
        let _ = writeln!(style, "body:has(#rule-{index}:checked) .file:not(.r{index}) {{ display: none }}");
    }
    for index in 0..parts.min(MOST_FILTERS) {
        let _ = writeln!(style, "body:has(#file-{index}:checked) .file:not(.f{index}) {{ display: none }}");
    }
    style
}
