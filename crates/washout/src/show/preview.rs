//! The changes of one file, as many as a screen holds.

use std::io::{self, Write};
use std::path::Path;

use washout_core::RuleName;
use washout_core::observe::Hunk;
use washout_files::{CONTEXT, Excerpt, FileRecorder, Recorder, Totals, Washed};

use super::hunk::{DrawScratch, HunkDrawer};
use super::number::{counted, grouped};
use super::screen::Screen;
use super::style::{FILE, QUIET};
use super::visible::shown_path;
use crate::record::copy_record;

/// How much of the changes is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Amount {
    /// A screenful of each file, and a few files.
    Some,
    /// Every change.
    All,
}

/// Files whose changes are shown before the others are only counted.
pub(crate) const MOST_FILES: usize = 8;

impl Amount {
    /// How many hunks of a file have to be kept for showing so much. All are drawn as they are found.
    pub(crate) fn hunks(self) -> usize {
        match self {
            Self::Some => 64,
            Self::All => 0,
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

/// Hunks that are worth a thread that draws them.
const FEWEST_TOGETHER: usize = 64;

/// Draws each hunk as it is found.
pub(crate) struct DrawnHunks<'n>(HunkDrawer<'n>);

impl<'n> DrawnHunks<'n> {
    pub(crate) fn new(names: &'n [RuleName], screen: Screen) -> Self {
        let drawer = HunkDrawer::new(names, screen.columns);
        Self(if screen.has_colours { drawer } else { drawer.without_colours() })
    }
}

impl Recorder for DrawnHunks<'_> {
    fn file<'f>(&'f self, _path: &'f Path) -> Box<dyn FileRecorder + Send + 'f> {
        Box::new(&self.0)
    }
}

impl FileRecorder for &HunkDrawer<'_> {
    fn hunk(&mut self, hunk: &Hunk, out: &mut Vec<u8>) {
        // Writing to a vector does not fail.
        let _ = self.draw(&hunk.around(CONTEXT), out);
    }

    fn hunks(&mut self, hunks: &[Hunk], out: &mut Vec<u8>) {
        let drawer = *self;
        let draw = |hunks: &[Hunk], out: &mut Vec<u8>| {
            let mut scratch = DrawScratch::default();
            for hunk in hunks {
                // Writing to a vector does not fail.
                let _ = drawer.draw_with(&mut scratch, &hunk.around(CONTEXT), out);
            }
        };
        // Drawing takes much longer than washing. The threads that wash may be waiting for just this: others draw.
        let share = hunks.len().div_ceil(rayon::current_num_threads()).max(FEWEST_TOGETHER);
        let mut shares = hunks.chunks(share);
        let Some(first) = shares.next() else { return };
        std::thread::scope(|scope| {
            let drawn = |hunks| {
                let mut out = Vec::new();
                draw(hunks, &mut out);
                out
            };
            let others: Vec<_> = shares.map(|hunks| scope.spawn(move || drawn(hunks))).collect();
            draw(first, out);
            for other in others {
                let drawn = other.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
                out.extend_from_slice(&drawn);
            }
        });
    }
}

impl<'n> Preview<'n> {
    pub(crate) fn new(names: &'n [RuleName], screen: Screen, amount: Amount) -> Self {
        // A third of the screen leaves room for the next file and for the summary.
        let rows_per_file = (screen.rows / 3).clamp(9, 24);
        Self { drawer: HunkDrawer::new(names, screen.columns), rows_per_file, amount, shown_files: 0, hidden_files: 0 }
    }

    /// Shows what was kept of a file; `drawn`: all its hunks, where they were drawn already.
    pub(crate) fn file(
        &mut self,
        path: &Path,
        washed: &Washed,
        excerpt: &Excerpt,
        drawn: Option<impl io::Read>,
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
        let summary = if excerpt.differs() {
            how_much(washed, excerpt)
        } else {
            let is_table = washed.table.is_some();
            let what = if is_table { "its fields or its encoding change" } else { "its encoding changes" };
            format!("{what}, and nothing else")
        };
        writeln!(out, "{FILE}{}{FILE:#}{QUIET}  {summary}{QUIET:#}\n", shown_path(path))?;
        if let Some(rule) = excerpt.byte_order_mark {
            let number = self.drawer.number(rule);
            writeln!(out, "        the byte order mark goes{QUIET}  rule {number}{QUIET:#}\n")?;
        }
        if let Some(drawn) = drawn {
            return copy_record(drawn, out);
        }
        let mut rows = 0;
        let mut shown = 0;
        for hunk in &excerpt.hunks {
            if rows >= self.rows_per_file {
                break;
            }
            rows += self.drawer.draw(hunk, out)?;
            shown += 1;
        }
        let more = match excerpt.more_hunks().map(|more| more + (excerpt.hunks.len() - shown) as u64) {
            Some(0) => return Ok(()),
            Some(more) => counted(more, "more place"),
            None => "many more places".to_owned(),
        };
        writeln!(out, "{QUIET}        … and {more} in this file; --all shows them{QUIET:#}\n")
    }
}

/// How much of a file changes, in words.
pub(crate) fn how_much(washed: &Washed, excerpt: &Excerpt) -> String {
    let verb = |count: u64, verb: &str| if count == 1 { format!("{verb}s") } else { verb.to_owned() };
    match (&washed.table, excerpt.totals) {
        (table, None) => {
            let changes = counted(washed.changes.iter().sum(), "change");
            match table {
                None => format!("{changes} in {}", counted(washed.before.lines, "line")),
                Some(table) => format!("{changes} in {}", counted(table.records, "record")),
            }
        }
        (None, Some(Totals { changed_lines, .. })) => {
            let lines = washed.before.lines;
            format!("{} of {} {}", grouped(changed_lines), counted(lines, "line"), verb(lines, "change"))
        }
        (Some(table), Some(totals)) => {
            let all = counted(table.records, "record");
            let Totals { changed_lines: cells, dropped_records: dropped, changed_names: names, .. } = totals;
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
    }
}

pub(crate) fn legend(out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "{QUIET}× goes   ^ comes   · blank   → tab   ↵ line end{QUIET:#}\n")
}
