//! Reports of names: a page, or a line for each name.

use std::fmt::Write as _;
use std::io::Write as _;
use std::path::{Path, PathBuf};

use maud::{Markup, html};
use washout_core::RuleName;
use washout_core::names::NameOutcome;
use washout_files::{PlannedFolder, PlannedName, Plans};

use super::ReportFiles;
use super::page::page;
use super::rules::{chart, filter_style, filters};
use crate::exit::Trouble;
use crate::json;
use crate::names_result::RenameSummary;
use crate::show::names::{NamePiece, compared, drawn, folder_shown};
use crate::show::number::{counted, grouped};
use crate::show::visible::{shown, shown_path};

/// Names that are shown; more make a page slow.
const MOST_NAMES: usize = 10_000;

/// Writes the reports; gives where they are.
pub(crate) fn write(
    mut files: ReportFiles,
    plans: &Plans,
    rules: &[RuleName],
    summary: &RenameSummary<'_>,
) -> Result<Vec<PathBuf>, Trouble> {
    for target in &mut files.lines {
        let mut file = std::io::BufWriter::new(&mut *target);
        let written = json::names::entries(plans, rules, summary).try_for_each(|entry| writeln!(file, "{entry}"));
        let written = written.and_then(|()| file.flush());
        drop(file);
        written.map_err(|error| Trouble::File(shown_path(target.path()), error))?;
    }
    files.finish(|| names_page(plans, rules, summary))
}

fn names_page(plans: &Plans, rules: &[RuleName], summary: &RenameSummary<'_>) -> String {
    let folders: Vec<&PlannedFolder> =
        plans.folders.iter().filter(|folder| shown_names(folder).next().is_some()).collect();
    let mut room = MOST_NAMES;
    let mut hidden = 0;
    let sections: Vec<Markup> = folders
        .iter()
        .enumerate()
        .map(|(index, folder)| section(index, folder, rules, summary, &mut room, &mut hidden))
        .collect();
    let paths: Vec<String> = folders.iter().map(|folder| folder_shown(&folder.shown)).collect();
    let counts = || plans.changes.iter().copied().zip(plans.touched.iter().copied());
    let tense = if summary.carried.is_some() { "Names that changed" } else { "Names that would change" };
    let body = html! {
        main {
            h1 { (tense) }
            p.quiet { (summary.counts("")) }
            @if !rules.is_empty() { (chart(rules, counts(), "names")) }
            (filters(rules, counts(), &paths, "folder"))
            h2 { "Names" }
            @if hidden > 0 {
                p.quiet { (counted(hidden, "more name")) " not shown; NAME.jsonl lists every one." }
            }
            @if folders.is_empty() { p { "No name changes." } }
            @for section in &sections { (section) }
        }
    };
    page("Washout: names", &filter_style(rules.len(), folders.len()), &body)
}

/// Names that change, or would if they could.
fn shown_names(folder: &PlannedFolder) -> impl Iterator<Item = PlannedName<'_>> {
    folder.names().filter(|name| *name.outcome != NameOutcome::Stays)
}

fn section(
    index: usize,
    folder: &PlannedFolder,
    rules: &[RuleName],
    summary: &RenameSummary<'_>,
    room: &mut usize,
    hidden: &mut u64,
) -> Markup {
    let all: Vec<PlannedName<'_>> = shown_names(folder).collect();
    let (shown_here, rest) = all.split_at(all.len().min(*room));
    *room -= shown_here.len();
    *hidden += rest.len() as u64;
    let mut touched: Vec<usize> = all.iter().flat_map(|name| name.rules).map(|(rule, _)| *rule).collect();
    touched.sort_unstable();
    touched.dedup();
    html! {
        section class=(format!("file f{index}{}", classes(touched.into_iter()))) {
            h3 {
                (folder_shown(&folder.shown))
                span.quiet { "  " (grouped(folder.renames())) " of " (counted(folder.names().count() as u64, "name")) }
            }
            div.hunk.head { span { "" } span { "before" } span { "after" } span { "rule" } }
            @for name in shown_here { (row(folder, *name, rules, summary)) }
            @if !rest.is_empty() { p.quiet { "… and " (counted(rest.len() as u64, "more name")) " in this folder" } }
        }
    }
}

fn classes(rules: impl Iterator<Item = usize>) -> String {
    rules.fold(String::new(), |mut classes, rule| {
        let _ = write!(classes, " r{rule}");
        classes
    })
}

fn row(folder: &PlannedFolder, name: PlannedName<'_>, rules: &[RuleName], summary: &RenameSummary<'_>) -> Markup {
    let numbers: Vec<String> = name.rules.iter().map(|(rule, _)| shown(&rules[*rule].number)).collect();
    let class = format!("hunk{}", classes(name.rules.iter().map(|(rule, _)| *rule)));
    let path: &Path = &folder.path_of(name);
    let failure = summary.failure(path).map(ToString::to_string);
    html! {
        div class=(class) {
            span.quiet {}
            @match name.outcome {
                NameOutcome::Becomes(new) => {
                    @let (old, new) = compared(name.name, new);
                    pre { @for part in old.parts() { (marked(&part, true)) } }
                    pre {
                        @for part in new.parts() { (marked(&part, false)) }
                        @if let Some(why) = &failure { "\n" span.quiet { "not done: " (shown(why)) } }
                    }
                }
                NameOutcome::Refused(wanted, why) => {
                    pre { (drawn(name.name)) }
                    pre {
                        @if let Some(wanted) = wanted { (drawn(wanted)) "\n" }
                        span.quiet { "left alone: " (shown(&why.to_string())) }
                    }
                }
                NameOutcome::Stays => {}
            }
            span { (numbers.join(", ")) }
        }
    }
}

fn marked(part: &NamePiece, gone: bool) -> Markup {
    html! {
        @match (part.changed, gone) {
            (false, _) => (part.text),
            (true, true) => del { (part.text) },
            (true, false) => ins { (part.text) },
        }
    }
}
