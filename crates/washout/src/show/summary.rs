//! What a run did, rule by rule.

use std::collections::BTreeMap;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use comfy_table::Cell;
use washout_core::RuleName;
use washout_core::text::TextSize;
use washout_files::{FileReport, Skip, State, Washed};

use super::number::{counted, grouped};
use super::screen::Screen;
use super::style::{QUIET, STRONG};
use super::table::{keep_whole, right, table, trimmed};
use super::visible::{shown, shown_path};

/// Everything a run has to print at its end, added up.
#[derive(Debug, Default)]
pub(crate) struct Summary {
    changes: Vec<u64>,
    /// In how many files each rule made a change.
    files_touched: Vec<u64>,
    pub(crate) before: TextSize,
    pub(crate) after: TextSize,
    seen: u64,
    pub(crate) changed: u64,
    pub(crate) unchanged: u64,
    skipped: BTreeMap<String, u64>,
    pub(crate) failed: u64,
    /// Files that are not UTF-8, by what they look like: how many, and the first.
    looks_like: BTreeMap<&'static str, (u64, PathBuf)>,
    /// Files that look binary and were worked on: how many, and the first.
    looks_binary: Option<(u64, PathBuf)>,
}

/// What happened to the results, for the words of the closing lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Tense {
    /// Nothing was written.
    Would,
    /// Results were written.
    Did,
}

impl Summary {
    pub(crate) fn new(rules: usize) -> Self {
        Self { changes: vec![0; rules], files_touched: vec![0; rules], ..Self::default() }
    }

    pub(crate) fn add(&mut self, report: &FileReport) {
        self.seen += 1;
        match &report.state {
            State::Changed(washed, _) => {
                self.note_encoding(&report.path, washed);
                self.changed += 1;
                self.add_washed(washed);
            }
            State::Unchanged(washed) => {
                self.note_encoding(&report.path, washed);
                self.unchanged += 1;
                self.add_washed(washed);
            }
            State::Skipped(skip) => self.skip(*skip),
            State::Failed(_) => self.failed += 1,
        }
    }

    pub(crate) fn skip(&mut self, skip: Skip) {
        *self.skipped.entry(skip.to_string()).or_default() += 1;
    }

    /// The changes of each rule, and in how many files.
    pub(crate) fn rules(&self) -> impl Iterator<Item = (u64, u64)> + '_ {
        self.changes.iter().copied().zip(self.files_touched.iter().copied())
    }

    /// How many changes all rules made.
    pub(crate) fn changes(&self) -> u64 {
        self.changes.iter().sum()
    }

    /// How many files were left out.
    pub(crate) fn skipped(&self) -> u64 {
        self.skipped.values().sum()
    }

    /// How many of the files of the list have been looked at.
    pub(crate) fn seen(&self) -> u64 {
        self.seen
    }

    fn note_encoding(&mut self, path: &Path, washed: &Washed) {
        if washed.looks_binary {
            self.looks_binary.get_or_insert_with(|| (0, path.to_owned())).0 += 1;
        }
        if let Some(label) = washed.looks_like {
            let (files, _) = self.looks_like.entry(label).or_insert_with(|| (0, path.to_owned()));
            *files += 1;
        }
    }

    /// Prints cautions on standard error: which files are not UTF-8, and which look binary.
    pub(crate) fn print_cautions(&self) -> io::Result<()> {
        let mut err = anstream::stderr();
        let which = |files: u64, first: &Path, [one, many]: [&str; 2]| match files {
            1 => format!("{} {one}", shown_path(first)),
            _ => format!("{} ({} the first) {many}", counted(files, "file"), shown_path(first)),
        };
        for (label, (files, first)) in &self.looks_like {
            let which = which(*files, first, ["is", "are"]);
            writeln!(
                err,
                "washout: caution, {which} not UTF-8, but perhaps {label}: bytes that are not UTF-8 pass as they are; to \
                 clean them as what they stand for, add --encoding {label}"
            )?;
        }
        if let Some((files, first)) = &self.looks_binary {
            let which = which(*files, first, ["looks", "look"]);
            writeln!(err, "washout: caution, {which} binary: rules may break what is not text")?;
        }
        Ok(())
    }

    fn add_washed(&mut self, washed: &Washed) {
        for (rule, count) in washed.changes.iter().enumerate() {
            self.changes[rule] += count;
            self.files_touched[rule] += u64::from(*count > 0);
        }
        self.before += washed.before;
        self.after += washed.after;
    }

    /// Draws the table of rules and the closing lines.
    pub(crate) fn draw(
        &self,
        names: &[RuleName],
        tense: Tense,
        screen: Screen,
        out: &mut impl Write,
    ) -> io::Result<()> {
        self.draw_rules(names, screen, out)?;
        self.draw_sizes(screen, out)?;
        self.draw_files(tense, out)
    }

    fn draw_rules(&self, names: &[RuleName], screen: Screen, out: &mut impl Write) -> io::Result<()> {
        draw_rules(names, self.rules(), "files", screen, out)
    }

    fn draw_sizes(&self, screen: Screen, out: &mut impl Write) -> io::Result<()> {
        let change = |before: u64, after: u64| format!("{} → {}", grouped(before), grouped(after));
        let chars = format!("characters  {}", change(self.before.chars, self.after.chars));
        let lines = format!("lines  {}", change(self.before.lines, self.after.lines));
        let fits = chars.chars().count() + lines.chars().count() + 4 <= screen.columns;
        writeln!(out, "{chars}{}{lines}", if fits { "    " } else { "\n" })
    }

    fn draw_files(&self, tense: Tense, out: &mut impl Write) -> io::Result<()> {
        writeln!(out, "{STRONG}{}{STRONG:#}", self.files_line(tense == Tense::Would))
    }

    /// What happened to the files, in a line.
    pub(crate) fn files_line(&self, is_preview: bool) -> String {
        let changed = counted(self.changed, "file");
        let mut parts = vec![if is_preview { format!("{changed} would change") } else { format!("{changed} changed") }];
        if self.unchanged > 0 {
            parts.push(format!("{} unchanged", grouped(self.unchanged)));
        }
        for (why, count) in &self.skipped {
            parts.push(format!("{} left out ({why})", grouped(*count)));
        }
        if self.failed > 0 {
            parts.push(format!("{} failed (named above)", grouped(self.failed)));
        }
        parts.join(", ")
    }
}

/// A row for each rule: its changes, and in how many `things` (files, names) it made any.
pub(crate) fn draw_rules(
    names: &[RuleName],
    counts: impl Iterator<Item = (u64, u64)>,
    things: &str,
    screen: Screen,
    out: &mut impl Write,
) -> io::Result<()> {
    let mut table = table(screen.columns.min(100));
    table.set_header([right("rule"), Cell::new("what it does"), right("changes"), right(things), Cell::new("")]);
    for (name, (changes, touched)) in names.iter().zip(counts) {
        table.add_row([
            right(shown(&name.number)),
            Cell::new(shown(&name.caption)),
            right(grouped(changes)),
            right(grouped(touched)),
            Cell::new(if changes == 0 { "← none" } else { "" }),
        ]);
    }
    keep_whole(&mut table, &[0, 2, 3, 4]);
    writeln!(out, "{}\n", trimmed(&table))
}

/// One line for a stream that was cleaned: `12 changes by 3 of 5 rules`.
pub(crate) fn stream_line(washed: &Washed) -> String {
    let total: u64 = washed.changes.iter().sum();
    let busy = washed.changes.iter().filter(|count| **count > 0).count();
    format!("washout: {} by {busy} of {}", counted(total, "change"), counted(washed.changes.len() as u64, "rule"))
}

/// A quiet line of advice.
pub(crate) fn advise(words: &str, command: &str, out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "{QUIET}{words}{QUIET:#}  {command}")
}
