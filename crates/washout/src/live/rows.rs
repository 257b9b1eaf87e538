//! The rows of the view: what stands beside what, worked out for those that are seen.

use std::collections::{BTreeSet, HashMap};
use std::sync::{Arc, Mutex, PoisonError};

use unicode_width::UnicodeWidthStr;
use washout_core::RuleId;
use washout_core::names::NameOutcome;
use washout_core::observe::{Hunk, Side};
use washout_core::table::CellTexts;
use washout_core::text::Lines;
use washout_files::Plans;

use super::subject::{Subject, TextSample};
use crate::show::hunk::lines_len;
use crate::show::names::{DrawnName, compared, drawn, folder_shown};
use crate::show::side_text::{LineGlyph, LinePlace, SideText};
use crate::show::visible::{Glyph, GlyphLook, glyphs, shown};

/// Of a longer line, only the start is drawn, in bytes.
const MOST_OF_LINE: usize = 16 << 10;
/// Records by which columns of a table get their width, and the widest there is.
const MEASURED: usize = 200;
const WIDEST: usize = 28;

/// One side of a row.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct PaneLine {
    /// What stands left of the text: a line number, the number of a record.
    pub(super) number: String,
    pub(super) glyphs: Vec<LineGlyph>,
    /// It only says something about what is beside it.
    pub(super) is_quiet: bool,
}

/// What stands in one row.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Row {
    pub(super) before: Option<PaneLine>,
    pub(super) after: Option<PaneLine>,
    pub(super) is_changed: bool,
}

/// All rows.
pub(super) struct Rows {
    kind: Kind,
    len: usize,
    /// Those that change, in order.
    changed: Vec<usize>,
    /// Lines, records or names that change, and how many there are: rows may be more.
    pub(super) counts: (usize, usize),
    /// Stands above them: names of fields.
    pub(super) heading: Option<Row>,
}

enum Kind {
    Text(TextRows),
    Whole(Vec<Row>),
}

impl Rows {
    pub(super) fn len(&self) -> usize {
        self.len
    }

    /// The rows that change.
    pub(super) fn changed(&self) -> &[usize] {
        &self.changed
    }

    /// One row, from 0.
    pub(super) fn row(&self, index: usize) -> Row {
        match &self.kind {
            Kind::Text(text) => text.row(index),
            Kind::Whole(rows) => rows.get(index).cloned().unwrap_or_default(),
        }
    }

    /// The number of the line or record of a row, from 1.
    pub(super) fn number(&self, index: usize) -> String {
        let row = self.row(index);
        row.before.or(row.after).map(|line| line.number).unwrap_or_default()
    }

    fn whole(rows: Vec<Row>, heading: Option<Row>) -> Self {
        let changed = rows.iter().enumerate().filter(|(_, row)| row.is_changed);
        let changed: Vec<usize> = changed.map(|(index, _)| index).collect();
        Self { len: rows.len(), counts: (changed.len(), rows.len()), changed, kind: Kind::Whole(rows), heading }
    }
}

// ---- texts

/// The rows of a text.
struct TextRows {
    subject: Arc<Subject>,
    hunks: Vec<Hunk>,
    segments: Vec<Segment>,
    /// The lines of the hunk that was asked for last: long ones are not taken apart for every row.
    last: Mutex<Option<(usize, [HunkLines; 2])>>,
}

/// Rows that follow each other: the lines of a hunk, or lines that stay.
#[derive(Clone, Copy, Debug)]
struct Segment {
    /// Its first row.
    row: usize,
    /// Its first line before and after, from 0.
    before: usize,
    after: usize,
    hunk: Option<usize>,
}

impl Rows {
    /// A text and what changes in it.
    pub(super) fn of_text(subject: &Arc<Subject>, hunks: Vec<Hunk>) -> Self {
        let lines = text_of(subject).map_or(0, |text| text.starts.len());
        let (mut segments, mut changed) = (Vec::new(), Vec::new());
        let (mut row, mut before, mut after) = (0, 0, 0);
        for (index, hunk) in hunks.iter().enumerate() {
            let first = usize::try_from(hunk.first_line).unwrap_or(usize::MAX).saturating_sub(1).min(lines);
            if first > before {
                segments.push(Segment { row, before, after, hunk: None });
                (row, after, before) = (row + first - before, after + first - before, first);
            }
            let count = |lines: u64| usize::try_from(lines).unwrap_or(usize::MAX);
            let (lines_before, lines_after) = (count(hunk.lines_before), count(hunk.lines_after));
            segments.push(Segment { row, before, after, hunk: Some(index) });
            let rows = lines_before.max(lines_after);
            changed.extend(row..row + rows);
            (row, before, after) = (row + rows, before + lines_before, after + lines_after);
        }
        if before < lines {
            segments.push(Segment { row, before, after, hunk: None });
            row += lines - before;
        }
        let text = TextRows { subject: Arc::clone(subject), hunks, segments, last: Mutex::default() };
        let counts = (changed.len(), row);
        Self { kind: Kind::Text(text), len: row, changed, counts, heading: None }
    }
}

fn text_of(subject: &Subject) -> Option<&TextSample> {
    if let Subject::Text(text) = subject { Some(text) } else { None }
}

impl TextRows {
    fn row(&self, index: usize) -> Row {
        let Some(text) = text_of(&self.subject) else { return Row::default() };
        let segment = self.segments.partition_point(|segment| segment.row <= index);
        let Some(segment) = segment.checked_sub(1).and_then(|segment| self.segments.get(segment)) else {
            return Row::default();
        };
        let line = index - segment.row;
        let number = |line: usize| (text.first_line + line as u64).to_string();
        let Some(hunk) = segment.hunk else {
            let glyphs = kept_line(text, segment.before + line);
            let side = |line| Some(PaneLine { number: number(line), glyphs: glyphs.clone(), is_quiet: false });
            return Row { before: side(segment.before + line), after: side(segment.after + line), is_changed: false };
        };
        let mut last = self.last.lock().unwrap_or_else(PoisonError::into_inner);
        if last.as_ref().is_none_or(|(known, _)| *known != hunk) {
            let pieces = &self.hunks[hunk];
            let sides = [
                HunkLines::of(pieces, |side| !matches!(side, Side::Put(_))),
                HunkLines::of(pieces, |side| !matches!(side, Side::Removed(_))),
            ];
            *last = Some((hunk, sides));
        }
        let Some((_, [before, after])) = last.as_ref() else { return Row::default() };
        let side = |lines: &HunkLines, first: usize| {
            lines.line(line).map(|glyphs| PaneLine { number: number(first + line), glyphs, is_quiet: false })
        };
        Row { before: side(before, segment.before), after: side(after, segment.after), is_changed: true }
    }
}

/// A line of the text that stays as it is.
fn kept_line(text: &TextSample, line: usize) -> Vec<LineGlyph> {
    let start = text.starts.get(line).copied().unwrap_or(text.bytes.len());
    let end = text.starts.get(line + 1).copied().unwrap_or(text.bytes.len());
    let line = &text.bytes[start..end];
    let content = Lines::of(line).next().map_or(0, |line| line.content_end);
    let content = &line[..content.min(MOST_OF_LINE)];
    let place = LinePlace { content: 0..content.len(), end: content.len()..content.len() };
    SideText::kept(content).draw(&place).line_glyphs()
}

/// One side of a hunk, in lines.
struct HunkLines {
    text: SideText,
    lines: Vec<LinePlace>,
}

impl HunkLines {
    fn of(hunk: &Hunk, on_side: impl Fn(Side) -> bool) -> Self {
        let text = SideText::of(hunk, on_side);
        Self { lines: text.lines(), text }
    }

    fn line(&self, line: usize) -> Option<Vec<LineGlyph>> {
        let LinePlace { content, end } = self.lines.get(line)?.clone();
        let content = content.start..content.end.min(content.start + MOST_OF_LINE);
        Some(self.text.draw(&LinePlace { content, end }).line_glyphs())
    }
}

// ---- tables

impl Rows {
    /// The records of a table, fields with rules of their own first, and what changes in their cells.
    pub(super) fn of_table(texts: &CellTexts, hunks: &[Hunk]) -> Self {
        let mut cells: HashMap<(u64, &str), Vec<&Hunk>> = HashMap::new();
        let mut dropped: HashMap<u64, RuleId> = HashMap::new();
        let mut made: BTreeSet<&str> = BTreeSet::new();
        for hunk in hunks {
            let Some(place) = &hunk.cell else { continue };
            match &place.field {
                Some(field) => {
                    cells.entry((place.record, field)).or_default().push(hunk);
                    if !texts.fields.contains(field) {
                        made.insert(field);
                    }
                }
                None => drop(hunk.rules().first().map(|rule| dropped.insert(place.record, *rule))),
            }
        }
        // A rule for all fields says nothing of which are of interest.
        let fewest = texts.rules.iter().copied().min().unwrap_or(0);
        let places = || 0..texts.fields.len();
        let cleaned = places().filter(|place| texts.rules[*place] > fewest);
        let others = places().filter(|place| texts.rules[*place] == fewest);
        // Each with the place of its cells, if the table comes with it.
        let mut columns: Vec<(&str, Option<usize>)> =
            cleaned.map(|place| (&*texts.fields[place], Some(place))).collect();
        columns.extend(made.into_iter().map(|field| (field, None)));
        columns.extend(others.map(|place| (&*texts.fields[place], Some(place))));
        let measured = texts.records.iter().take(MEASURED);
        let mut widths: Vec<usize> = columns.iter().map(|(name, _)| shown(name).width()).collect();
        for record in measured {
            for (width, (_, place)) in widths.iter_mut().zip(&columns) {
                let value = place.and_then(|place| record[place].as_deref()).unwrap_or_default();
                *width = (*width).max(bytecount_width(value));
            }
        }
        widths.iter_mut().for_each(|width| *width = (*width).clamp(3, WIDEST));
        let mut rows = Vec::with_capacity(texts.records.len());
        for (number, record) in (1_u64..).zip(&texts.records) {
            let mut sides: [Vec<LineGlyph>; 2] = Default::default();
            let mut is_changed = false;
            for ((name, place), width) in columns.iter().zip(&widths) {
                let value = place.and_then(|place| record[place].as_deref()).unwrap_or_default();
                let hunks = cells.get(&(number, *name));
                is_changed |= hunks.is_some();
                let parts = composed(value, hunks.map_or(&[][..], Vec::as_slice));
                let gone = dropped.get(&number).copied();
                for (is_after, side) in sides.iter_mut().enumerate() {
                    add_cell(side, &parts, is_after == 1, gone, *width);
                }
            }
            let [before, after] = sides;
            let line = |glyphs| PaneLine { number: number.to_string(), glyphs, is_quiet: false };
            let after = if dropped.contains_key(&number) {
                PaneLine { glyphs: plain("(dropped)"), is_quiet: true, ..PaneLine::default() }
            } else {
                line(after)
            };
            is_changed |= dropped.contains_key(&number);
            rows.push(Row { before: Some(line(before)), after: Some(after), is_changed });
        }
        let mut names = Vec::new();
        for ((name, _), width) in columns.iter().zip(&widths) {
            add_cell(&mut names, &[(Side::Kept, name.as_bytes().to_vec())], false, None, *width);
        }
        let heading = PaneLine { glyphs: names, is_quiet: true, number: String::new() };
        let heading = Row { before: Some(heading.clone()), after: Some(heading), is_changed: false };
        Self::whole(rows, Some(heading))
    }
}

fn bytecount_width(value: &[u8]) -> usize {
    String::from_utf8_lossy(&value[..value.len().min(4 * WIDEST)]).width()
}

/// A value with what goes and what comes.
fn composed(value: &[u8], hunks: &[&Hunk]) -> Vec<(Side, Vec<u8>)> {
    let mut parts: Vec<(Side, Vec<u8>)> = Vec::new();
    let (mut rest, mut line) = (value, 1);
    for hunk in hunks {
        let before = lines_len(rest, hunk.first_line.saturating_sub(line));
        parts.push((Side::Kept, rest[..before].to_vec()));
        rest = &rest[before..];
        parts.extend(hunk.pieces().map(|piece| (piece.side, piece.bytes.to_vec())));
        rest = &rest[lines_len(rest, hunk.lines_before)..];
        line = hunk.first_line + hunk.lines_before;
    }
    parts.push((Side::Kept, rest.to_vec()));
    parts
}

/// Adds a cell to a line: as wide as its column, and what follows it.
fn add_cell(line: &mut Vec<LineGlyph>, parts: &[(Side, Vec<u8>)], is_after: bool, gone: Option<RuleId>, width: usize) {
    let mut cell: Vec<LineGlyph> = Vec::new();
    for (side, bytes) in parts {
        let is_here = match side {
            Side::Kept => true,
            Side::Removed(_) => !is_after,
            Side::Put(_) => is_after,
        };
        if is_here {
            let look = if *side == Side::Kept { GlyphLook::Text } else { GlyphLook::Close };
            let side = gone.map_or(*side, Side::Removed);
            let bytes = &bytes[..bytes.len().min(MOST_OF_LINE)];
            cell.extend(glyphs(bytes, look).into_iter().map(|glyph| LineGlyph { glyph, side }));
        }
    }
    let total: usize = cell.iter().map(|glyph| glyph.glyph.width).sum();
    let mut used = 0;
    if total > width {
        let mut fits = |glyph: &LineGlyph| {
            used += glyph.glyph.width;
            used < width
        };
        let kept = cell.iter().take_while(|glyph| fits(glyph)).count();
        let side = cell.get(kept).map_or(Side::Kept, |glyph| glyph.side);
        cell.truncate(kept);
        cell.push(LineGlyph { glyph: Glyph { text: "…".into(), width: 1 }, side });
    }
    let used: usize = cell.iter().map(|glyph| glyph.glyph.width).sum();
    line.append(&mut cell);
    line.extend(plain(&format!("{} │ ", " ".repeat(width.saturating_sub(used)))));
}

/// A text in which nothing changes.
pub(super) fn plain(text: &str) -> Vec<LineGlyph> {
    let glyph = |glyph| LineGlyph { glyph, side: Side::Kept };
    glyphs(text.as_bytes(), GlyphLook::Text).into_iter().map(glyph).collect()
}

// ---- names

impl Rows {
    /// Names, folder by folder.
    pub(super) fn of_names(plans: &Plans) -> Self {
        let mut rows = Vec::new();
        let quiet = |text: &str| PaneLine { glyphs: plain(text), is_quiet: true, number: String::new() };
        for folder in &plans.folders {
            rows.push(Row { before: Some(quiet(&folder_shown(&folder.shown))), ..Row::default() });
            for name in folder.names() {
                let rule = name.rules.first().map_or(RuleId(0), |(rule, _)| RuleId(*rule));
                let line = |glyphs| Some(PaneLine { glyphs, ..PaneLine::default() });
                let same = || line(plain(&drawn(name.name)));
                rows.push(match name.outcome {
                    NameOutcome::Stays => Row { before: same(), after: same(), is_changed: false },
                    NameOutcome::Becomes(new) => {
                        let (old, new) = compared(name.name, new);
                        let (old, new) = (sided(&old, Side::Removed(rule)), sided(&new, Side::Put(rule)));
                        Row { before: line(old), after: line(new), is_changed: true }
                    }
                    NameOutcome::Refused(_, why) => {
                        let why = Some(quiet(&format!("left alone: {}", shown(&why.to_string()))));
                        Row { before: same(), after: why, is_changed: true }
                    }
                });
            }
        }
        let names = plans.folders.iter().map(|folder| folder.names().count()).sum();
        let renames = usize::try_from(plans.renames()).unwrap_or(usize::MAX);
        Self { counts: (renames, names), ..Self::whole(rows, None) }
    }
}

fn sided(name: &DrawnName, side: Side) -> Vec<LineGlyph> {
    let parts = name.parts().flat_map(|part| {
        let side = if part.changed { side } else { Side::Kept };
        plain(&part.text).into_iter().map(move |glyph| LineGlyph { side, ..glyph })
    });
    parts.collect()
}
