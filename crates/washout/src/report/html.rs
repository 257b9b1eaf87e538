//! The page of a run: what each rule did, and every change before and after.

use std::fmt::Write as _;
use std::path::{Path, PathBuf};

use maud::{Markup, html};
use washout_core::RuleName;
use washout_core::observe::{Hunk, Side};
use washout_core::text::{Line, Lines};
use washout_files::{Excerpt, Washed};

use super::page::{drawn, page};
use super::rules::{chart, filter_style, filters};
use crate::show::number::{counted, grouped};
use crate::show::preview::how_much;
use crate::show::summary::Summary;
use crate::show::visible::{GlyphLook, drawn_within, line_end_sign, shown, shown_cell, shown_path};

/// Hunks that are shown; more make a page slow.
pub(super) const MOST_HUNKS: usize = 10_000;

/// What the page shows of the files.
#[derive(Default)]
pub(super) struct Changes {
    files: Vec<File>,
    kept: usize,
    /// Whether there are changes that are not shown.
    leaves_out: bool,
}

struct File {
    path: PathBuf,
    /// How much of it changes, in words.
    how_much: String,
    is_table: bool,
    hunks: Vec<Hunk>,
    /// Places that are not shown; `None`: no one has counted them.
    more: Option<u64>,
    mark_goes: bool,
}

impl Changes {
    pub(super) fn add(&mut self, path: &Path, washed: &Washed, excerpt: &Excerpt) {
        let room = MOST_HUNKS - self.kept;
        let hunks: Vec<Hunk> = excerpt.hunks.iter().take(room).cloned().collect();
        let more = excerpt.more_hunks().map(|more| more + (excerpt.hunks.len() - hunks.len()) as u64);
        self.kept += hunks.len();
        self.leaves_out |= more != Some(0);
        self.files.push(File {
            path: path.to_owned(),
            how_much: how_much(washed, excerpt),
            is_table: washed.table.is_some(),
            hunks,
            more,
            mark_goes: excerpt.byte_order_mark.is_some(),
        });
    }

    pub(super) fn page(&self, names: &[RuleName], summary: &Summary, is_preview: bool) -> String {
        let paths: Vec<String> = self.files.iter().map(|file| shown_path(&file.path)).collect();
        let body = html! {
            main {
                h1 { "What the rules " (if is_preview { "would change" } else { "changed" }) }
                p.quiet { (summary.files_line(is_preview)) }
                (cards(summary))
                (chart(names, summary.rules(), "files"))
                (filters(names, summary.rules(), &paths, "file"))
                h2 { "Changes" }
                @if self.leaves_out {
                    p.quiet { "Not every place is shown; NAME.jsonl lists them all." }
                }
                @if self.files.is_empty() { p { "No file changes." } }
                @for (index, file) in self.files.iter().enumerate() { (file.section(index, names)) }
            }
        };
        page("Washout: what the rules changed", &filter_style(names.len(), paths.len()), &body)
    }
}

fn cards(summary: &Summary) -> Markup {
    let change = |before: u64, after: u64| format!("{} → {}", grouped(before), grouped(after));
    let total: u64 = summary.rules().map(|(changes, _)| changes).sum();
    html! {
        div.cards {
            div { b { (grouped(total)) } "changes" }
            div { b { (grouped(summary.changed)) } "files with changes" }
            div { b { (change(summary.before.chars, summary.after.chars)) } "characters" }
            div { b { (change(summary.before.lines, summary.after.lines)) } "lines" }
        }
    }
}

impl File {
    fn section(&self, index: usize, names: &[RuleName]) -> Markup {
        let mut rules: Vec<usize> = self.hunks.iter().flat_map(Hunk::rules).map(|rule| rule.0).collect();
        rules.sort_unstable();
        rules.dedup();
        html! {
            section class=(format!("file f{index}{}", classes(&rules))) {
                h3 {
                    (shown_path(&self.path))
                    span.quiet { "  " (self.how_much) }
                }
                @if self.mark_goes { p.quiet { "The byte order mark goes." } }
                div.hunk.head { span { (if self.is_table { "cell" } else { "line" }) } span { "before" } span { "after" } span { "rule" } }
                @for hunk in &self.hunks { (row(hunk, names)) }
                @match self.more {
                    Some(0) => {}
                    Some(more) => { p.quiet { "… and " (counted(more, "more place")) " in this file" } }
                    None => { p.quiet { "… and more in this file" } }
                }
            }
        }
    }
}

fn classes(rules: &[usize]) -> String {
    rules.iter().fold(String::new(), |mut classes, rule| {
        let _ = write!(classes, " r{rule}");
        classes
    })
}

/// Columns that are shown of the cell that another was made from.
const FROM: usize = 60;

/// The line, or the record and field.
fn place(hunk: &Hunk) -> String {
    match &hunk.cell {
        Some(place) => shown_cell(place, " "),
        None => grouped(hunk.first_line),
    }
}

fn row(hunk: &Hunk, names: &[RuleName]) -> Markup {
    let rules: Vec<usize> = hunk.rules().iter().map(|rule| rule.0).collect();
    let numbers: Vec<String> = rules.iter().map(|rule| shown(&names[*rule].number)).collect();
    html! {
        div class=(format!("hunk{}", classes(&rules))) {
            span.quiet.number {
                (place(hunk))
                @if let Some(source) = &hunk.source { br; "from " (shown(&source.field)) ": " (drawn_within(&source.value, FROM)) }
            }
            (side(hunk, |side| !matches!(side, Side::Put(_)), "(no line here)"))
            (side(hunk, |side| !matches!(side, Side::Removed(_)), "(nothing left)"))
            span { (numbers.join(", ")) }
        }
    }
}

fn side(hunk: &Hunk, is_on: impl Fn(Side) -> bool, nothing: &str) -> Markup {
    let pieces: Vec<_> = hunk.pieces().filter(|piece| is_on(piece.side)).collect();
    html! {
        @if pieces.is_empty() {
            pre.quiet { (nothing) }
        } @else {
            pre {
                @for piece in pieces {
                    @if piece.omitted > 0 { span.quiet { " … " } }
                    @match piece.side {
                        Side::Kept => { (lines(piece.bytes, false)) }
                        Side::Removed(_) => { del { (lines(piece.bytes, true)) } }
                        Side::Put(_) => { ins { (lines(piece.bytes, true)) } }
                    }
                }
                @if hunk.cut_bytes > 0 { span.quiet { " …" } }
            }
        }
    }
}

/// Text with its line ends as line ends; one that changed is drawn besides.
fn lines(bytes: &[u8], changed: bool) -> String {
    let mut text = String::new();
    for Line { start, content_end, end } in Lines::of(bytes) {
        text.push_str(&drawn(&bytes[start..content_end], if changed { GlyphLook::Close } else { GlyphLook::Text }));
        if content_end < end {
            text.extend([if changed { line_end_sign(&bytes[content_end..end]) } else { "" }, "\n"]);
        }
    }
    text
}
