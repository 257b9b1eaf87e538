//! One hunk drawn: its lines before and after, and under each a row of marks.

use std::io::{self, Write};

use anstyle::Style;
use smol_str::SmolStr;
use unicode_width::UnicodeWidthStr;
use washout_core::observe::{Hunk, Piece, Side};
use washout_core::{RuleId, RuleName};

use super::number::counted;
use super::style::{GONE, NEW, QUIET};
use super::visible::{Glyph, GlyphLook, drawn_within, glyphs, line_end_glyph, shown};

/// Columns left of the text: the line number and which of the two texts it is.
pub(crate) const MARGIN: usize = 16;
/// Lines of one side that are shown.
const MOST_LINES: usize = 6;
/// Bytes of the cell that another was made from that are looked at.
const MOST_OF_SOURCE: usize = 2_000;
/// Columns of unchanged text that are kept before the first change, where a line is too long.
const LEAD: usize = 24;

/// Draws hunks of one program in a given width.
pub(crate) struct HunkDrawer<'n> {
    names: &'n [RuleName],
    text_columns: usize,
    names_rules: bool,
}

/// One line of one side.
#[derive(Default)]
pub(crate) struct DrawnLine {
    pub(crate) cells: Vec<LineGlyph>,
}

/// One glyph of a line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct LineGlyph {
    pub(crate) glyph: Glyph,
    pub(crate) side: Side,
    /// Something of the other side is right before it.
    pub(crate) at_seam: bool,
}

impl<'n> HunkDrawer<'n> {
    pub(crate) fn new(names: &'n [RuleName], columns: usize) -> Self {
        Self { names, text_columns: columns.saturating_sub(MARGIN).max(20), names_rules: true }
    }

    /// Does not say which rule it was: all changes are by one.
    pub(crate) fn without_rules(names: &'n [RuleName], columns: usize) -> Self {
        Self { names_rules: false, ..Self::new(names, columns) }
    }

    /// What a rule is called.
    pub(crate) fn number(&self, rule: RuleId) -> &'n str {
        &self.names[rule.0].number
    }

    /// Draws a hunk; gives how many rows it took.
    pub(crate) fn draw(&self, hunk: &Hunk, out: &mut impl Write) -> io::Result<usize> {
        let before = lines(hunk, |side| !matches!(side, Side::Put(_)));
        let after = lines(hunk, |side| !matches!(side, Side::Removed(_)));
        let mut rows = 0;
        if let Some(place) = &hunk.cell {
            let record = if place.record == 0 { "header".to_owned() } else { place.record.to_string() };
            let field = place.field.as_deref().map_or_else(|| "whole record".to_owned(), shown);
            writeln!(out, "{QUIET}{record:>6}  {field}{QUIET:#}")?;
            rows += 1;
        }
        if let Some(source) = &hunk.source {
            let field = shown(&source.field);
            let value = &source.value[..source.value.len().min(MOST_OF_SOURCE)];
            let value = drawn_within(value, self.text_columns.saturating_sub(field.width() + 2).max(20));
            writeln!(out, "{QUIET}        from    {field}: {value}{QUIET:#}")?;
            rows += 1;
        }
        // The only line of a cell needs no number.
        let numbered = hunk.cell.is_none() || hunk.first_line > 1 || hunk.lines_before > 1;
        rows += self.side("before", numbered.then_some(hunk.first_line), &before, &[], hunk, out)?;
        let named = self.rules(before.iter().take(MOST_LINES).flat_map(|line| &line.cells));
        rows += self.side("after", None, &after, &named, hunk, out)?;
        writeln!(out)?;
        Ok(rows + 1)
    }

    /// Draws the lines of one side. `named`: rules the other side has named already.
    fn side(
        &self,
        word: &str,
        first_line: Option<u64>,
        lines: &[DrawnLine],
        named: &[&str],
        hunk: &Hunk,
        out: &mut impl Write,
    ) -> io::Result<usize> {
        let mut rows = 0;
        if lines.is_empty() {
            let nothing = match (word, &hunk.cell) {
                ("before", None) => "(no line here)",
                ("before", Some(_)) => "(empty)",
                _ => "(nothing left)",
            };
            margin(first_line, word, out)?;
            writeln!(out, "{QUIET}{nothing}{QUIET:#}")?;
            return Ok(1);
        }
        for (index, line) in lines.iter().take(MOST_LINES).enumerate() {
            margin(first_line.map(|first| first + index as u64), if index == 0 { word } else { "" }, out)?;
            let is_cut = hunk.cut_bytes > 0 && index + 1 == lines.len();
            rows += self.line(line, named, is_cut, out)?;
        }
        let total = if word == "before" { hunk.lines_before } else { hunk.lines_after };
        let hidden = total.saturating_sub(lines.len().min(MOST_LINES) as u64);
        if hidden > 0 {
            margin(None, "", out)?;
            writeln!(out, "{QUIET}… and {}{QUIET:#}", counted(hidden, "more line"))?;
            rows += 1;
        }
        Ok(rows)
    }

    /// `is_cut`: it goes on, and no one has kept that.
    fn line(&self, line: &DrawnLine, named: &[&str], is_cut: bool, out: &mut impl Write) -> io::Result<usize> {
        let view = View::of(&line.cells, self.text_columns);
        if line.cells.is_empty() {
            writeln!(out, "{QUIET}(empty line){QUIET:#}")?;
            return Ok(1);
        }
        view.write_text(out)?;
        if line.cells.iter().all(|cell| cell.side == Side::Kept) {
            return Ok(1);
        }
        let rules = self.rules(&line.cells);
        let summary = if !self.names_rules || rules.iter().all(|rule| named.contains(rule)) {
            String::new()
        } else {
            rule_words(&rules)
        };
        view.write_marks(&summary, self.text_columns, is_cut, out)?;
        Ok(2)
    }

    /// The numbers of the rules that touched these cells, in order of appearance.
    fn rules<'c>(&self, cells: impl IntoIterator<Item = &'c LineGlyph>) -> Vec<&'n str> {
        let mut rules: Vec<&str> = Vec::new();
        for cell in cells {
            if let Some(rule) = cell.side.rule() {
                let number = self.number(rule);
                if !rules.contains(&number) {
                    rules.push(number);
                }
            }
        }
        rules
    }
}

fn rule_words(rules: &[&str]) -> String {
    format!("  rule{} {}", if rules.len() == 1 { "" } else { "s" }, rules.join(", "))
}

/// Draws what stands left of a line's text.
pub(crate) fn margin(line: Option<u64>, word: &str, out: &mut impl Write) -> io::Result<()> {
    let line = line.map(|line| line.to_string()).unwrap_or_default();
    write!(out, "{QUIET}{line:>6}  {word:<6}{QUIET:#}  ")
}

/// The part of a line that fits into the width, around its first change.
struct View<'c> {
    cells: &'c [LineGlyph],
    cut_left: bool,
    cut_right: bool,
    /// Changes that are out of view, to the right.
    hidden_changes: usize,
}

impl<'c> View<'c> {
    fn of(cells: &'c [LineGlyph], columns: usize) -> Self {
        let width = |cells: &[LineGlyph]| cells.iter().map(|cell| cell.glyph.width).sum::<usize>();
        if width(cells) <= columns {
            return Self { cells, cut_left: false, cut_right: false, hidden_changes: 0 };
        }
        let changed = cells.iter().position(|cell| cell.side != Side::Kept || cell.at_seam).unwrap_or(0);
        let mut start = changed;
        let mut lead = 0;
        while start > 0 && lead + cells[start - 1].glyph.width <= LEAD {
            start -= 1;
            lead += cells[start].glyph.width;
        }
        if width(&cells[..changed]) + LEAD < columns {
            start = 0;
        }
        let room = columns - 1 - usize::from(start > 0);
        let mut end = start;
        let mut used = 0;
        while end < cells.len() && used + cells[end].glyph.width <= room {
            used += cells[end].glyph.width;
            end += 1;
        }
        let stretches = cells[end..].chunk_by(|one, other| one.side == other.side);
        let hidden_changes = stretches.filter(|stretch| stretch[0].side != Side::Kept).count();
        // One that begins in view is seen.
        let goes_on = end > start
            && cells.get(end).is_some_and(|next| next.side != Side::Kept && next.side == cells[end - 1].side);
        let hidden_changes = hidden_changes - usize::from(goes_on);
        Self { cells: &cells[start..end], cut_left: start > 0, cut_right: end < cells.len(), hidden_changes }
    }

    fn write_text(&self, out: &mut impl Write) -> io::Result<()> {
        let ellipsis = |cut: bool| if cut { "…" } else { "" };
        write!(out, "{QUIET}{}{QUIET:#}", ellipsis(self.cut_left))?;
        for stretch in self.cells.chunk_by(|one, other| one.side == other.side) {
            let text: String = stretch.iter().map(|cell| cell.glyph.text.as_str()).collect();
            let style = style(stretch[0].side);
            write!(out, "{style}{text}{style:#}")?;
        }
        writeln!(out, "{QUIET}{}{QUIET:#}", ellipsis(self.cut_right))
    }

    /// `is_cut`: no one has kept the end of the line.
    fn write_marks(&self, rules: &str, columns: usize, is_cut: bool, out: &mut impl Write) -> io::Result<()> {
        let last = self.cells.iter().rposition(|cell| cell.side != Side::Kept).map_or(0, |last| last + 1);
        margin(None, "", out)?;
        write!(out, "{}", if self.cut_left { " " } else { "" })?;
        let mut used = usize::from(self.cut_left);
        for stretch in self.cells[..last].chunk_by(|one, other| one.side == other.side) {
            let width: usize = stretch.iter().map(|cell| cell.glyph.width).sum();
            let (sign, style) = match stretch[0].side {
                Side::Kept => (" ", Style::new()),
                Side::Removed(_) => ("×", GONE),
                Side::Put(_) => ("^", NEW),
            };
            write!(out, "{style}{}{style:#}", sign.repeat(width))?;
            used += width;
        }
        let hidden = match self.hidden_changes {
            0 if is_cut => "  (and more changes to the right)".to_owned(),
            0 => String::new(),
            count if is_cut => format!("  (and at least {} to the right)", counted(count as u64, "more change")),
            count => format!("  (and {} to the right)", counted(count as u64, "more change")),
        };
        if used + rules.len() + hidden.len() > columns {
            writeln!(out)?;
            margin(None, "", out)?;
            return writeln!(out, "{QUIET}{}{QUIET:#}", format!("{rules}{hidden}").trim_start());
        }
        writeln!(out, "{QUIET}{rules}{hidden}{QUIET:#}")
    }
}

fn style(side: Side) -> Style {
    match side {
        Side::Kept => Style::new(),
        Side::Removed(_) => GONE,
        Side::Put(_) => NEW,
    }
}

/// A byte of one side.
pub(crate) struct Byte {
    pub(crate) value: u8,
    pub(crate) side: Side,
    /// Unchanged text was left out right before it.
    pub(crate) after_omission: bool,
    /// Something of the other side is right before it.
    pub(crate) at_seam: bool,
}

/// The lines of one side. A line end is drawn where it changed, and not where it stays.
fn lines(hunk: &Hunk, on_side: impl Fn(Side) -> bool) -> Vec<DrawnLine> {
    let mut bytes: Vec<Byte> = Vec::new();
    let mut at_seam = false;
    for piece in hunk.pieces() {
        if on_side(piece.side) {
            bytes.extend(bytes_of(piece, std::mem::take(&mut at_seam)));
        } else {
            at_seam = true;
        }
    }
    let mut lines = Vec::new();
    let mut rest = &bytes[..];
    while !rest.is_empty() {
        let content = rest.iter().take_while(|byte| !matches!(byte.value, b'\n' | b'\r')).count();
        let end = match (rest.get(content), rest.get(content + 1)) {
            (Some(Byte { value: b'\r', .. }), Some(Byte { value: b'\n', .. })) => 2,
            (Some(_), _) => 1,
            (None, _) => 0,
        };
        lines.push(drawn_line(&rest[..content], &rest[content..content + end]));
        rest = &rest[content + end..];
    }
    lines
}

fn bytes_of(piece: Piece<'_>, at_seam: bool) -> impl Iterator<Item = Byte> + '_ {
    piece.bytes.iter().enumerate().map(move |(index, byte)| Byte {
        value: *byte,
        side: piece.side,
        after_omission: index == 0 && piece.omitted > 0,
        at_seam: index == 0 && at_seam,
    })
}

/// Draws a line; of its line end, what has changed.
pub(crate) fn drawn_line(content: &[Byte], end: &[Byte]) -> DrawnLine {
    let trailing = content.iter().rev().take_while(|byte| matches!(byte.value, b' ' | b'\t')).count();
    let (body, blanks) = content.split_at(content.len() - trailing);
    let together = |one: &Byte, other: &Byte| one.side == other.side && !other.after_omission && !other.at_seam;
    let mut line = DrawnLine::default();
    for (part, at_end) in [(body, false), (blanks, true)] {
        for stretch in part.chunk_by(together) {
            let side = stretch[0].side;
            if stretch[0].after_omission {
                line.cells.push(LineGlyph {
                    glyph: Glyph { text: SmolStr::new_static(" … "), width: 3 },
                    side,
                    at_seam: false,
                });
            }
            let look = if at_end || side != Side::Kept { GlyphLook::Close } else { GlyphLook::Text };
            let first = line.cells.len();
            line.cells.extend(glyphs(&plain(stretch), look).into_iter().map(|glyph| LineGlyph {
                glyph,
                side,
                at_seam: false,
            }));
            if let Some(cell) = line.cells.get_mut(first) {
                cell.at_seam = stretch[0].at_seam;
            }
        }
    }
    for stretch in end.chunk_by(together).filter(|stretch| stretch[0].side != Side::Kept) {
        line.cells.push(LineGlyph { glyph: line_end_glyph(&plain(stretch)), side: stretch[0].side, at_seam: false });
    }
    line
}

/// How many bytes that many lines have, whatever ends them.
pub(crate) fn lines_len(text: &[u8], lines: u64) -> usize {
    let mut at = 0;
    for _ in 0..lines {
        let Some(end) = memchr::memchr2(b'\n', b'\r', &text[at..]) else { return text.len() };
        at += end + if text[at + end..].starts_with(b"\r\n") { 2 } else { 1 };
    }
    at
}

fn plain(bytes: &[Byte]) -> Vec<u8> {
    bytes.iter().map(|byte| byte.value).collect()
}
