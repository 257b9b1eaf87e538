//! The changes of one file, as many as a screen holds.

use std::io::{self, Write};
use std::path::Path;

use washout_core::RuleName;
use washout_files::{Excerpt, Washed};

use super::hunk::HunkDrawer;
use super::number::{counted, grouped};
use super::screen::Screen;
use super::style::{FILE, QUIET};
use super::visible::shown_path;

/// How much of the changes is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Amount {
    /// A screenful of each file, and a few files.
    Some,
    /// Every change.
    All,
}

/// Files whose changes are shown before the others are only counted.
const MOST_FILES: usize = 8;

impl Amount {
    /// How many hunks of a file have to be kept for showing so much.
    pub(crate) fn hunks(self) -> usize {
        match self {
            Self::Some => 64,
            Self::All => usize::MAX,
        }
    }
}

/// Draws previews, file by file.
pub(crate) struct Preview<'n> {
    drawer: HunkDrawer<'n>,
    rows_per_file: usize,
    amount: Amount,
    shown_files: usize,
    /// Files with changes that were not shown.
    pub(crate) hidden_files: u64,
}

impl<'n> Preview<'n> {
    pub(crate) fn new(names: &'n [RuleName], screen: Screen, amount: Amount) -> Self {
        // A third of the screen leaves room for the next file and for the summary.
        let rows_per_file = (screen.rows / 3).clamp(9, 24);
        Self { drawer: HunkDrawer::new(names, screen.columns), rows_per_file, amount, shown_files: 0, hidden_files: 0 }
    }

    pub(crate) fn file(
        &mut self,
        path: &Path,
        washed: &Washed,
        excerpt: &Excerpt,
        out: &mut impl Write,
    ) -> io::Result<()> {
        if self.amount == Amount::Some && self.shown_files == MOST_FILES {
            self.hidden_files += 1;
            return Ok(());
        }
        if self.shown_files == 0 {
            legend(out)?;
        }
        self.shown_files += 1;
        let changed = grouped(excerpt.changed_lines);
        let summary = match &washed.table {
            _ if !excerpt.differs() => {
                let is_table = washed.table.is_some();
                let what = if is_table { "its fields or its encoding change" } else { "its encoding changes" };
                format!("{what}, and nothing else")
            }
            None => {
                let verb = if washed.before.lines == 1 { "changes" } else { "change" };
                format!("{changed} of {} {verb}", counted(washed.before.lines, "line"))
            }
            Some(table) => table_changes(excerpt, table.records),
        };
        writeln!(out, "{FILE}{}{FILE:#}{QUIET}  {summary}{QUIET:#}\n", shown_path(path))?;
        if let Some(rule) = excerpt.byte_order_mark {
            let number = self.drawer.number(rule);
            writeln!(out, "        the byte order mark goes{QUIET}  rule {number}{QUIET:#}\n")?;
        }
        let mut rows = 0;
        let mut shown = 0;
        for hunk in &excerpt.hunks {
            if self.amount == Amount::Some && rows >= self.rows_per_file {
                break;
            }
            rows += self.drawer.draw(hunk, out)?;
            shown += 1;
        }
        let more = excerpt.more_hunks + (excerpt.hunks.len() - shown) as u64;
        if more > 0 {
            writeln!(
                out,
                "{QUIET}        … and {} in this file; --all shows them{QUIET:#}\n",
                counted(more, "more place")
            )?;
        }
        Ok(())
    }
}

/// How much of a table changes that has this many records.
pub(crate) fn table_changes(excerpt: &Excerpt, records: u64) -> String {
    let verb = |count: u64, verb: &str| if count == 1 { format!("{verb}s") } else { verb.to_owned() };
    let all = counted(records, "record");
    let (cells, dropped, names) = (excerpt.changed_lines, excerpt.dropped_records, excerpt.changed_names);
    let parts = [
        (cells > 0).then(|| format!("{} in {all} {}", counted(cells, "cell"), verb(cells, "change"))),
        (dropped > 0).then(|| match cells {
            0 => format!("{} of {all} {}", grouped(dropped), if dropped == 1 { "goes" } else { "go" }),
            _ => format!("{} {}", counted(dropped, "record"), if dropped == 1 { "goes" } else { "go" }),
        }),
        (names > 0).then(|| format!("{} of the header {}", counted(names, "field"), verb(names, "change"))),
    ];
    parts.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

pub(crate) fn legend(out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "{QUIET}× goes   ^ comes   · blank   → tab   ↵ line end{QUIET:#}\n")
}
