//! One hunk drawn: its lines before and after, and under each a row of marks.

use std::io::{self, Write};
use std::ops::Range;

use anstyle::Style;
use unicode_width::UnicodeWidthStr;
use washout_core::observe::{Hunk, Side};
use washout_core::text::Lines;
use washout_core::{RuleId, RuleName};

use super::number::counted;
use super::side_text::{DrawnLine, LinePlace, SideText};
use super::style::{GONE, NEW, QUIET};
use super::visible::{drawn_within, shown};

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
    gone: StyleCodes,
    new: StyleCodes,
    quiet: StyleCodes,
}

/// Memory that drawing needs.
#[derive(Default)]
pub(crate) struct DrawScratch {
    text: SideText,
    places: Vec<LinePlace>,
    line: DrawnLine,
}

/// What starts a style on a terminal, and what ends it.
struct StyleCodes {
    start: String,
    end: String,
}

impl StyleCodes {
    fn of(style: Style) -> Self {
        Self { start: style.render().to_string(), end: style.render_reset().to_string() }
    }

    fn write(&self, text: &str, out: &mut impl Write) -> io::Result<()> {
        [self.start.as_str(), text, self.end.as_str()].iter().try_for_each(|part| out.write_all(part.as_bytes()))
    }
}

impl<'n> HunkDrawer<'n> {
    pub(crate) fn new(names: &'n [RuleName], columns: usize) -> Self {
        Self {
            names,
            text_columns: columns.saturating_sub(MARGIN).max(20),
            names_rules: true,
            gone: StyleCodes::of(GONE),
            new: StyleCodes::of(NEW),
            quiet: StyleCodes::of(QUIET),
        }
    }

    /// Does not say which rule it was: all changes are by one.
    pub(crate) fn without_rules(names: &'n [RuleName], columns: usize) -> Self {
        Self { names_rules: false, ..Self::new(names, columns) }
    }

    /// Draws without colours: for what goes where they would be dropped.
    pub(crate) fn without_colours(self) -> Self {
        let plain = || StyleCodes::of(Style::new());
        Self { gone: plain(), new: plain(), quiet: plain(), ..self }
    }

    /// What a rule is called.
    pub(crate) fn number(&self, rule: RuleId) -> &'n str {
        &self.names[rule.0].number
    }

    /// Draws a hunk; gives how many rows it took.
    pub(crate) fn draw(&self, hunk: &Hunk, out: &mut impl Write) -> io::Result<usize> {
        self.draw_with(&mut DrawScratch::default(), hunk, out)
    }

    /// The same with memory that was used for others.
    pub(crate) fn draw_with(&self, scratch: &mut DrawScratch, hunk: &Hunk, out: &mut impl Write) -> io::Result<usize> {
        let mut rows = 0;
        if let Some(place) = &hunk.cell {
            let record = if place.record == 0 { "header".to_owned() } else { place.record.to_string() };
            let field = place.field.as_deref().map_or_else(|| "whole record".to_owned(), shown);
            self.quiet.write(&format!("{record:>6}  {field}"), out)?;
            writeln!(out)?;
            rows += 1;
        }
        if let Some(source) = &hunk.source {
            let field = shown(&source.field);
            let value = &source.value[..source.value.len().min(MOST_OF_SOURCE)];
            let value = drawn_within(value, self.text_columns.saturating_sub(field.width() + 2).max(20));
            self.quiet.write(&format!("        from    {field}: {value}"), out)?;
            writeln!(out)?;
            rows += 1;
        }
        // The only line of a cell needs no number.
        let numbered = hunk.cell.is_none() || hunk.first_line > 1 || hunk.lines_before > 1;
        let first_line = numbered.then_some(hunk.first_line);
        scratch.text.fill(hunk, |side| !matches!(side, Side::Put(_)));
        let (rows_before, named) = self.side("before", first_line, scratch, &[], hunk, out)?;
        scratch.text.fill(hunk, |side| !matches!(side, Side::Removed(_)));
        let (rows_after, _) = self.side("after", None, scratch, &named, hunk, out)?;
        out.write_all(b"\n")?;
        Ok(rows + rows_before + rows_after + 1)
    }

    /// Draws the lines of one side; gives how many rows they took, and the rules that touched them. `named`: rules the other side has
    /// named already.
    fn side(
        &self,
        word: &str,
        first_line: Option<u64>,
        scratch: &mut DrawScratch,
        named: &[&str],
        hunk: &Hunk,
        out: &mut impl Write,
    ) -> io::Result<(usize, Vec<&'n str>)> {
        let mut rows = 0;
        let DrawScratch { text, places, line } = scratch;
        text.lines_into(places);
        if places.is_empty() {
            let nothing = match (word, &hunk.cell) {
                ("before", None) => "(no line here)",
                ("before", Some(_)) => "(empty)",
                _ => "(nothing left)",
            };
            self.margin(first_line, word, out)?;
            self.quiet.write(nothing, out)?;
            out.write_all(b"\n")?;
            return Ok((1, Vec::new()));
        }
        let mut rules = Vec::new();
        for (index, place) in places.iter().take(MOST_LINES).enumerate() {
            text.draw_into(place, line);
            self.margin(first_line.map(|first| first + index as u64), if index == 0 { word } else { "" }, out)?;
            let is_cut = hunk.cut_bytes > 0 && index + 1 == places.len();
            rows += self.line(line, named, is_cut, out)?;
            self.add_rules(line, &mut rules);
        }
        let total = if word == "before" { hunk.lines_before } else { hunk.lines_after };
        let hidden = total.saturating_sub(places.len().min(MOST_LINES) as u64);
        if hidden > 0 {
            self.margin(None, "", out)?;
            self.quiet.write(&format!("… and {}", counted(hidden, "more line")), out)?;
            out.write_all(b"\n")?;
            rows += 1;
        }
        Ok((rows, rules))
    }

    /// `is_cut`: it goes on, and no one has kept that.
    fn line(&self, line: &DrawnLine, named: &[&str], is_cut: bool, out: &mut impl Write) -> io::Result<usize> {
        let view = View::of(line, self.text_columns);
        if line.len() == 0 {
            self.quiet.write("(empty line)", out)?;
            out.write_all(b"\n")?;
            return Ok(1);
        }
        self.write_text(&view, out)?;
        if line.sides(0..line.len()).all(|(side, _)| side == Side::Kept) {
            return Ok(1);
        }
        let mut rules = Vec::new();
        self.add_rules(line, &mut rules);
        let summary = if !self.names_rules || rules.iter().all(|rule| named.contains(rule)) {
            String::new()
        } else {
            rule_words(&rules)
        };
        Ok(1 + self.write_marks(&view, &summary, is_cut, out)?)
    }

    /// Adds the numbers of the rules that touched this line, in order of appearance.
    fn add_rules(&self, line: &DrawnLine, rules: &mut Vec<&'n str>) {
        for rule in line.sides(0..line.len()).filter_map(|(side, _)| side.rule()) {
            let number = self.number(rule);
            if !rules.contains(&number) {
                rules.push(number);
            }
        }
    }

    fn margin(&self, line: Option<u64>, word: &str, out: &mut impl Write) -> io::Result<()> {
        write_margin(line, word, &self.quiet, out)
    }

    fn write_text(&self, view: &View<'_>, out: &mut impl Write) -> io::Result<()> {
        let ellipsis = |cut: bool| if cut { "…" } else { "" };
        self.quiet.write(ellipsis(view.cut_left), out)?;
        for (side, part) in view.line.sides(view.glyphs.clone()) {
            let text = view.line.text(part);
            match side {
                Side::Kept => out.write_all(text.as_bytes())?,
                Side::Removed(_) => self.gone.write(text, out)?,
                Side::Put(_) => self.new.write(text, out)?,
            }
        }
        self.quiet.write(ellipsis(view.cut_right), out)?;
        out.write_all(b"\n")
    }

    /// Gives how many rows that took. `is_cut`: no one has kept the end of the line.
    fn write_marks(&self, view: &View<'_>, rules: &str, is_cut: bool, out: &mut impl Write) -> io::Result<usize> {
        self.margin(None, "", out)?;
        write_times(" ", usize::from(view.cut_left), out)?;
        let mut used = usize::from(view.cut_left);
        let mut blank = 0;
        for (side, part) in view.line.sides(view.glyphs.clone()) {
            let width = view.line.width(part);
            let (sign, codes) = match side {
                Side::Kept => {
                    blank += width;
                    continue;
                }
                Side::Removed(_) => ("×", &self.gone),
                Side::Put(_) => ("^", &self.new),
            };
            write_times(" ", blank, out)?;
            out.write_all(codes.start.as_bytes())?;
            write_times(sign, width, out)?;
            out.write_all(codes.end.as_bytes())?;
            used += std::mem::take(&mut blank) + width;
        }
        let hidden = match view.hidden_changes {
            0 if is_cut => "  (and more changes to the right)".to_owned(),
            0 => String::new(),
            count if is_cut => format!("  (and at least {} to the right)", counted(count as u64, "more change")),
            count => format!("  (and {} to the right)", counted(count as u64, "more change")),
        };
        let summary = format!("{rules}{hidden}");
        if used + summary.len() <= self.text_columns {
            self.quiet.write(&summary, out)?;
            out.write_all(b"\n")?;
            return Ok(1);
        }
        out.write_all(b"\n")?;
        let rows = textwrap::wrap(summary.trim_start(), self.text_columns);
        for row in &rows {
            self.margin(None, "", out)?;
            self.quiet.write(row, out)?;
            out.write_all(b"\n")?;
        }
        Ok(1 + rows.len())
    }
}

/// Draws what stands left of a line's text.
pub(crate) fn margin(line: Option<u64>, word: &str, out: &mut impl Write) -> io::Result<()> {
    write_margin(line, word, &StyleCodes::of(QUIET), out)
}

fn write_margin(line: Option<u64>, word: &str, quiet: &StyleCodes, out: &mut impl Write) -> io::Result<()> {
    let mut number = itoa::Buffer::new();
    let number = line.map_or("", |line| number.format(line));
    out.write_all(quiet.start.as_bytes())?;
    write_times(" ", 6_usize.saturating_sub(number.len()), out)?;
    out.write_all(number.as_bytes())?;
    out.write_all(b"  ")?;
    out.write_all(word.as_bytes())?;
    write_times(" ", 6_usize.saturating_sub(word.len()), out)?;
    out.write_all(quiet.end.as_bytes())?;
    out.write_all(b"  ")
}

fn write_times(sign: &str, count: usize, out: &mut impl Write) -> io::Result<()> {
    (0..count).try_for_each(|_| out.write_all(sign.as_bytes()))
}

fn rule_words(rules: &[&str]) -> String {
    format!("  rule{} {}", if rules.len() == 1 { "" } else { "s" }, rules.join(", "))
}

/// The part of a line that fits into the width, around its first change.
struct View<'l> {
    line: &'l DrawnLine,
    glyphs: Range<usize>,
    cut_left: bool,
    cut_right: bool,
    /// Changes that are out of view, to the right.
    hidden_changes: usize,
}

impl<'l> View<'l> {
    fn of(line: &'l DrawnLine, columns: usize) -> Self {
        if line.columns() <= columns {
            return Self { line, glyphs: 0..line.len(), cut_left: false, cut_right: false, hidden_changes: 0 };
        }
        let width = |glyph: usize| line.width(glyph..glyph + 1);
        let changed = line.first_change().unwrap_or(0);
        let mut start = changed;
        let mut lead = 0;
        while start > 0 && lead + width(start - 1) <= LEAD {
            start -= 1;
            lead += width(start);
        }
        if line.width(0..changed) + LEAD < columns {
            start = 0;
        }
        let room = columns - 1 - usize::from(start > 0);
        let mut end = start;
        let mut used = 0;
        while end < line.len() && used + width(end) <= room {
            used += width(end);
            end += 1;
        }
        let hidden_changes = line.sides(end..line.len()).filter(|(side, _)| *side != Side::Kept).count();
        // One that begins in view is seen.
        let is_open = |(side, _): (Side, Range<usize>)| (side != Side::Kept).then_some(side);
        let next = line.sides(end..line.len()).next().and_then(is_open);
        let goes_on = end > start && next.is_some() && next == line.sides(end - 1..end).next().and_then(is_open);
        let hidden_changes = hidden_changes - usize::from(goes_on);
        Self { line, glyphs: start..end, cut_left: start > 0, cut_right: end < line.len(), hidden_changes }
    }
}

/// How many bytes that many lines have, whatever ends them.
pub(crate) fn lines_len(text: &[u8], lines: u64) -> usize {
    let lines = usize::try_from(lines).unwrap_or(usize::MAX);
    Lines::of(text).take(lines).last().map_or(0, |line| line.end)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use washout_core::observe::{Detail, Lineage};
    use washout_core::{Program, RuleSet};

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

        /// Whatever the text and the width: no row is too wide, nothing drives the terminal, and marks stand under what has changed.
        #[test]
        fn rows_fit_and_marks_stand_under_what_has_changed(
            text in "([a-z#\u{e9}\u{6f22}\u{200b}\u{301}\t\u{1b}]{0,30}[ \n]{0,2}){0,8}",
            columns in 40..120_usize,
        ) {
            let rules = "[[rule]]\nremove.chars = '#'\n[[rule]]\nreplace = { class = 'invisible', with = '?' }\n[[rule]]\ntrim = {}\n";
            let program = Program::compile([&RuleSet::read("rules", rules).expect("rules")]);
            let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
            let mut washed = Vec::new();
            washer.push(text.as_bytes(), &mut washed).and_then(|()| washer.finish(&mut washed)).expect("no pattern");
            let drawer = HunkDrawer::new(program.names(), columns).without_colours();
            for hunk in washer.into_observer().finish() {
                let mut drawn = Vec::new();
                let rows = drawer.draw(&hunk, &mut drawn).expect("a vector");
                let drawn = String::from_utf8(drawn).expect("UTF-8");
                prop_assert_eq!(drawn.lines().count(), rows);
                let lines: Vec<&str> = drawn.lines().collect();
                for (index, line) in lines.iter().enumerate() {
                    prop_assert!(line.width() <= columns, "{} columns of {}: {:?}", line.width(), columns, line);
                    prop_assert!(!line.chars().any(char::is_control), "{:?}", line);
                    let marks = line.get(MARGIN..).filter(|_| line.starts_with("                "));
                    if let Some(mark) = marks.and_then(|marks| marks.find(['×', '^']).map(|at| &marks[..at])) {
                        let above = lines[index - 1].chars().skip(MARGIN).collect::<String>();
                        prop_assert!(above.width() > mark.width(), "{:?} under {:?}", line, above);
                    }
                }
            }
        }
    }
}
