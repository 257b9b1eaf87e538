//! Where two texts differ, line by line, with the differing stretches marked.

use std::io::{self, Write};

use anstyle::Style;
use similar::{DiffOp, capture_diff_slices};

use smol_str::SmolStr;
use washout_core::text::Lines;

use super::hunk::{MARGIN, margin};
use super::style::{GONE, NEW};
use super::visible::{Glyph, GlyphLook, glyphs, line_end_sign};

/// The lines in which a result differs from what was wanted.
pub(crate) struct Difference {
    places: Vec<DifferencePlace>,
}

/// Neighbouring lines that differ.
struct DifferencePlace {
    /// The number of the first wanted line, from 1.
    line: usize,
    wanted: Vec<Vec<u8>>,
    got: Vec<Vec<u8>>,
}

impl Difference {
    pub(crate) fn between(wanted: &[u8], got: &[u8]) -> Self {
        let (wanted, got) = (lines(wanted), lines(got));
        let ops = capture_diff_slices(similar::Algorithm::Myers, &wanted, &got);
        let place = |op: DiffOp| {
            let (old, new) = (op.old_range(), op.new_range());
            let differs = !matches!(op, DiffOp::Equal { .. });
            differs.then(|| DifferencePlace {
                line: old.start + 1,
                wanted: wanted[old].to_vec(),
                got: got[new].to_vec(),
            })
        };
        Self { places: ops.into_iter().filter_map(place).collect() }
    }

    pub(crate) fn draw(&self, columns: usize, out: &mut impl Write) -> io::Result<()> {
        self.draw_as(("wanted", "got"), columns, out)
    }

    /// With other words for the two sides, six columns wide at most.
    pub(crate) fn draw_as(&self, words: (&str, &str), columns: usize, out: &mut impl Write) -> io::Result<()> {
        for (number, place) in self.places.iter().enumerate() {
            if number > 0 {
                writeln!(out)?;
            }
            for index in 0..place.wanted.len().max(place.got.len()) {
                place.draw_line(index, words, columns.saturating_sub(MARGIN), out)?;
            }
        }
        Ok(())
    }
}

impl DifferencePlace {
    /// The wanted and the got line of the same place, each with what the other has not underlined.
    fn draw_line(&self, index: usize, words: (&str, &str), columns: usize, out: &mut impl Write) -> io::Result<()> {
        let (wanted, got) = (self.wanted.get(index), self.got.get(index));
        let drawn = |line: Option<&Vec<u8>>| line.map(|line| draw(line)).unwrap_or_default();
        let (wanted_glyphs, got_glyphs) = (drawn(wanted), drawn(got));
        let same = |one: &Glyph, other: &Glyph| one == other;
        let head = wanted_glyphs.iter().zip(&got_glyphs).take_while(|(one, other)| same(one, other)).count();
        let tails = wanted_glyphs[head..].iter().rev().zip(got_glyphs[head..].iter().rev());
        let tail = tails.take_while(|(one, other)| same(one, other)).count();
        let number = (self.line + index) as u64;
        if wanted.is_some() {
            row(Some(number), (words.0, "^", NEW), &wanted_glyphs, head, tail, columns, out)?;
        }
        if got.is_some() {
            row(wanted.is_none().then_some(number), (words.1, "×", GONE), &got_glyphs, head, tail, columns, out)?;
        }
        Ok(())
    }
}

fn row(
    line: Option<u64>,
    (word, sign, style): (&str, &str, Style),
    glyphs: &[Glyph],
    head: usize,
    tail: usize,
    columns: usize,
    out: &mut impl Write,
) -> io::Result<()> {
    let width = |glyphs: &[Glyph]| glyphs.iter().map(|glyph| glyph.width).sum::<usize>();
    let text = |glyphs: &[Glyph]| glyphs.iter().map(|glyph| glyph.text.as_str()).collect::<String>();
    let (before, rest) = glyphs.split_at(head);
    let (differs, after) = rest.split_at(rest.len() - tail);
    // Of a long line, what comes before the difference is cut from the left.
    let cut = before.len()
        - before
            .iter()
            .rev()
            .scan(0, |used, glyph| {
                *used += glyph.width;
                (*used < columns / 2).then_some(())
            })
            .count();
    let ellipsis = if cut > 0 { "…" } else { "" };
    let lead = width(&before[cut..]) + usize::from(cut > 0);
    // What does not fit is cut from the right.
    let room = columns.saturating_sub(lead).max(8);
    let (differs, differs_cut) = fitting(differs, room);
    let (after, after_cut) = if differs_cut { (&after[..0], false) } else { fitting(after, room - width(differs)) };
    let end = if differs_cut || after_cut { "…" } else { "" };
    margin(line, word, out)?;
    writeln!(out, "{ellipsis}{}{style}{}{style:#}{}{end}", text(&before[cut..]), text(differs), text(after))?;
    if differs.is_empty() {
        return Ok(());
    }
    margin(None, "", out)?;
    let indent = " ".repeat(lead);
    writeln!(out, "{indent}{style}{}{style:#}", sign.repeat(width(differs)))
}

/// As many glyphs as fit into that many columns, one kept for an ellipsis; and whether any did not.
fn fitting(glyphs: &[Glyph], columns: usize) -> (&[Glyph], bool) {
    let total: usize = glyphs.iter().map(|glyph| glyph.width).sum();
    if total <= columns {
        return (glyphs, false);
    }
    let mut used = 1;
    let fits = glyphs.iter().take_while(|glyph| {
        used += glyph.width;
        used <= columns
    });
    (&glyphs[..fits.count()], true)
}

/// A line with every blank and its line end visible.
fn draw(line: &[u8]) -> Vec<Glyph> {
    let (content, end) = line.split_at(Lines::of(line).next().map_or(0, |line| line.content_end));
    let mut drawn = glyphs(content, GlyphLook::Close);
    // Half by half: whether a line ends in CRLF or LF is just what may differ.
    let half = |byte: &u8| Glyph { text: SmolStr::new_static(line_end_sign(&[*byte])), width: 1 };
    drawn.extend(end.iter().map(half));
    drawn
}

/// The lines of a text, each with its line end.
fn lines(text: &[u8]) -> Vec<Vec<u8>> {
    Lines::of(text).map(|line| text[line.start..line.end].to_vec()).collect()
}
