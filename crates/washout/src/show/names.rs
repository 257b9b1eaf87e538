//! Old and new names, with the changed stretches marked.

use std::io::{self, Write};
use std::ops::Range;
use std::path::Path;

use anstyle::Style;
use similar::{Algorithm, DiffOp, capture_diff_slices};
use smol_str::SmolStr;
use washout_core::names::{NameOutcome, Refusal};
use washout_files::PlannedFolder;

use super::number::{counted, grouped};
use super::screen::Screen;
use super::style::{FILE, GONE, NEW, QUIET, STRONG};
use super::visible::{Glyph, GlyphLook, glyphs, shown, shown_path, text_of};

/// Folders that are shown before the others are only counted.
const MOST_FOLDERS: usize = 8;
/// Names left alone that are shown of each folder.
const MOST_LEFT: usize = 10;

/// Draws renames, folder by folder.
pub(crate) struct NamesTable {
    columns: usize,
    /// Rows for the renames of each folder; `None`: as many as there are.
    most: Option<usize>,
    shown_folders: usize,
    hidden_folders: u64,
}

/// A name that is left alone, the name it would have, and why it has not.
type Left<'p> = (&'p [u8], Option<&'p [u8]>, &'p Refusal);

/// A stretch of a name that changes, or one that stays.
pub(crate) struct NamePiece {
    pub(crate) text: String,
    pub(crate) changed: bool,
}

/// A name with what changes of it.
pub(crate) struct DrawnName {
    glyphs: Vec<(Glyph, bool)>,
}

impl DrawnName {
    fn width(&self) -> usize {
        self.glyphs.iter().map(|(glyph, _)| glyph.width).sum()
    }

    /// The stretches of it, in order.
    pub(crate) fn parts(&self) -> impl Iterator<Item = NamePiece> + '_ {
        let stretches = self.glyphs.chunk_by(|one, next| one.1 == next.1);
        stretches.map(|stretch| NamePiece {
            text: stretch.iter().map(|(glyph, _)| glyph.text.as_str()).collect(),
            changed: stretch[0].1,
        })
    }

    fn text(&self, style: Style) -> String {
        let drawn = self
            .parts()
            .map(|NamePiece { text, changed }| if changed { format!("{style}{text}{style:#}") } else { text });
        drawn.collect()
    }

    /// The row below it: a sign for each column that changes.
    fn marks(&self, sign: &str, style: Style) -> String {
        let last = self.glyphs.iter().rposition(|(_, changed)| *changed).map_or(0, |last| last + 1);
        let stretches = self.glyphs[..last].chunk_by(|one, next| one.1 == next.1);
        let drawn = stretches.map(|stretch| {
            let width = stretch.iter().map(|(glyph, _)| glyph.width).sum();
            if stretch[0].1 { format!("{style}{}{style:#}", sign.repeat(width)) } else { " ".repeat(width) }
        });
        drawn.collect()
    }

    fn marks_width(&self) -> usize {
        let last = self.glyphs.iter().rposition(|(_, changed)| *changed).map_or(0, |last| last + 1);
        self.glyphs[..last].iter().map(|(glyph, _)| glyph.width).sum()
    }
}

fn is_kept(op: &DiffOp) -> bool {
    matches!(op, DiffOp::Equal { .. })
}

/// Both names, each with what the other has not.
pub(crate) fn compared(old: &[u8], new: &[u8]) -> (DrawnName, DrawnName) {
    let (before, after) = (glyphs(old, GlyphLook::Text), glyphs(new, GlyphLook::Text));
    let texts = |glyphs: &[Glyph]| glyphs.iter().map(|glyph| glyph.text.clone()).collect::<Vec<_>>();
    let ops = capture_diff_slices(Algorithm::Myers, &texts(&before), &texts(&after));
    let mut changed = (vec![false; before.len()], vec![false; after.len()]);
    let kept: usize = ops.iter().filter(|op| is_kept(op)).map(|op| op.old_range().len()).sum();
    // Where little is left, what happens to be the same in between says nothing.
    let is_other_name = kept * 2 < before.len().max(after.len());
    for (index, op) in ops.iter().enumerate() {
        let inner = index > 0 && index + 1 < ops.len();
        if !is_kept(op) || (inner && is_other_name) {
            changed.0[op.old_range()].fill(true);
            changed.1[op.new_range()].fill(true);
        }
    }
    for three in ops.windows(3) {
        if let [DiffOp::Delete { .. }, DiffOp::Equal { .. }, DiffOp::Delete { .. }] = three {
            slide(&before, &mut changed.0, &three[0].old_range(), &three[1].old_range());
        }
        if let [DiffOp::Insert { .. }, DiffOp::Equal { .. }, DiffOp::Insert { .. }] = three {
            slide(&after, &mut changed.1, &three[0].new_range(), &three[1].new_range());
        }
    }
    let drawn = |glyphs: Vec<Glyph>, changed: Vec<bool>| {
        let blank = |(glyph, changed): (Glyph, bool)| {
            // A blank that changes would not be seen.
            let glyph =
                if changed && glyph.text == " " { Glyph { text: SmolStr::new_static("·"), width: 1 } } else { glyph };
            (glyph, changed)
        };
        DrawnName { glyphs: glyphs.into_iter().zip(changed).map(blank).collect() }
    };
    (drawn(before, changed.0), drawn(after, changed.1))
}

/// Of `boat (typed)` without ` (typed)` the first `t` stays, not the second: where a change begins with what stays behind
/// it, that is what stays, and two changes are one.
fn slide(glyphs: &[Glyph], changed: &mut [bool], change: &Range<usize>, kept: &Range<usize>) {
    let first = change.start..change.start + kept.len();
    if kept.len() <= change.len() && glyphs[first.clone()] == glyphs[kept.clone()] {
        changed[kept.clone()].fill(true);
        changed[first].fill(false);
    }
}

impl NamesTable {
    pub(crate) fn new(screen: Screen, all: bool) -> Self {
        let most = (!all).then(|| (screen.rows / 2).clamp(20, 48));
        Self { columns: screen.columns, most, shown_folders: 0, hidden_folders: 0 }
    }

    /// Draws the renames of a folder, and what is left alone in it.
    pub(crate) fn folder(&mut self, folder: &PlannedFolder, out: &mut impl Write) -> io::Result<()> {
        let renames = folder.names().filter_map(|name| match name.outcome {
            NameOutcome::Becomes(new) => Some((name.name, new.as_slice())),
            NameOutcome::Stays | NameOutcome::Refused(..) => None,
        });
        let left = folder.names().filter_map(|name| match name.outcome {
            NameOutcome::Refused(wanted, why) => Some((name.name, wanted.as_deref(), &**why)),
            NameOutcome::Stays | NameOutcome::Becomes(_) => None,
        });
        let (changed, left_alone) = (renames.clone().count(), left.clone().count());
        if changed + left_alone == 0 {
            return Ok(());
        }
        if self.most.is_some() && self.shown_folders == MOST_FOLDERS {
            self.hidden_folders += 1;
            return Ok(());
        }
        self.opening(out)?;
        let total = folder.names().count() as u64;
        let verb = if total == 1 { "changes" } else { "change" };
        writeln!(
            out,
            "{FILE}{}{FILE:#}{QUIET}  {} of {} {verb}{QUIET:#}\n",
            folder_shown(&folder.shown),
            grouped(changed as u64),
            counted(total, "name")
        )?;
        self.renames(renames, changed, out)?;
        self.left(left, left_alone, out)
    }

    /// What the signs mean.
    fn opening(&mut self, out: &mut impl Write) -> io::Result<()> {
        if self.shown_folders == 0 {
            writeln!(out, "{QUIET}× goes   ^ comes   · blank{QUIET:#}\n")?;
        }
        self.shown_folders += 1;
        Ok(())
    }

    fn renames<'p>(
        &self,
        renames: impl Iterator<Item = (&'p [u8], &'p [u8])>,
        all: usize,
        out: &mut impl Write,
    ) -> io::Result<()> {
        let most = self.most.map_or(all, |rows| rows / ROWS_BESIDE).min(all);
        let drawn: Vec<(DrawnName, DrawnName)> = renames.take(most).map(|(old, new)| compared(old, new)).collect();
        let widest = |width: &dyn Fn(&(DrawnName, DrawnName)) -> usize| drawn.iter().map(width).max().unwrap_or(0);
        let (left, right) = (widest(&|pair| pair.0.width()), widest(&|pair| pair.1.width()));
        let beside = 2 + left + ARROW.len() + right <= self.columns;
        let shown = if beside { &drawn } else { &drawn[..self.most.map_or(most, |rows| rows / ROWS_BELOW).min(most)] };
        for pair in shown {
            if beside { draw_beside(pair, left, out)? } else { draw_below(pair, out)? }
        }
        let more = all - shown.len();
        if more > 0 {
            let more = counted(more as u64, "more name");
            writeln!(out, "{QUIET}  … and {more} in this folder; --all shows them{QUIET:#}\n")?;
        } else if !shown.is_empty() && beside {
            writeln!(out)?;
        }
        Ok(())
    }

    fn left<'p>(&self, left: impl Iterator<Item = Left<'p>>, all: usize, out: &mut impl Write) -> io::Result<()> {
        if all == 0 {
            return Ok(());
        }
        writeln!(out, "  {STRONG}left alone{STRONG:#}")?;
        let most = if self.most.is_some() { MOST_LEFT } else { all };
        for (old, wanted, why) in left.take(most) {
            let wanted = wanted.map_or_else(String::new, |wanted| format!(" → {}", drawn(wanted)));
            writeln!(out, "    {}{wanted}", drawn(old))?;
            writeln!(out, "      {QUIET}{}{QUIET:#}", shown(&why.to_string()).replace('\n', "␊"))?;
        }
        if all > most {
            let more = counted((all - most) as u64, "more name");
            writeln!(out, "    {QUIET}… and {more}; --all shows them{QUIET:#}")?;
        }
        writeln!(out)
    }

    /// Says how many folders were not shown.
    pub(crate) fn close(&self, out: &mut impl Write) -> io::Result<()> {
        if self.hidden_folders > 0 {
            let more = counted(self.hidden_folders, "more folder");
            writeln!(out, "… and {more} with changes; --all shows them\n")?;
        }
        Ok(())
    }
}

/// Rows a rename takes where both names stand on one line, and where they do not.
const ROWS_BESIDE: usize = 2;
const ROWS_BELOW: usize = 5;

const ARROW: &str = "  → ";

/// Draws one rename as it is requested.
pub(crate) fn draw_rename(old: &[u8], new: &[u8], out: &mut impl Write) -> io::Result<()> {
    draw_below(&compared(old, new), out)
}

fn draw_beside((old, new): &(DrawnName, DrawnName), left: usize, out: &mut impl Write) -> io::Result<()> {
    let gap = " ".repeat(left - old.width());
    writeln!(out, "  {}{gap}{QUIET}{ARROW}{QUIET:#}{}", old.text(GONE), new.text(NEW))?;
    let (gone, came) = (old.marks("×", GONE), new.marks("^", NEW));
    if came.is_empty() {
        return writeln!(out, "  {gone}");
    }
    // The arrow is as wide as it is long, except for the bytes of its sign.
    let gap = " ".repeat(left - old.marks_width() + 4);
    writeln!(out, "  {gone}{gap}{came}")
}

fn draw_below((old, new): &(DrawnName, DrawnName), out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "    {}", old.text(GONE))?;
    let gone = old.marks("×", GONE);
    if !gone.is_empty() {
        writeln!(out, "    {gone}")?;
    }
    writeln!(out, "  {QUIET}→{QUIET:#} {}", new.text(NEW))?;
    let came = new.marks("^", NEW);
    if !came.is_empty() {
        writeln!(out, "    {came}")?;
    }
    writeln!(out)
}

/// A name on one line, whatever is in it.
pub(crate) fn drawn(name: &[u8]) -> String {
    text_of(&glyphs(name, GlyphLook::Text))
}

/// A folder's path, so that it is seen to be one.
pub(crate) fn folder_shown(path: &Path) -> String {
    let shown = shown_path(path);
    if shown.ends_with('/') { shown } else { format!("{shown}/") }
}
