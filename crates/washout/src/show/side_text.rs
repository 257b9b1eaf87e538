//! The text of one side of a change, and its lines as they are drawn.

use std::ops::Range;

use washout_core::observe::{Hunk, Side};
use washout_core::text::{Line, Lines};

use super::visible::{Glyph, GlyphLook, GlyphSink, draw_glyphs, line_end_sign};

/// The bytes of one side of a hunk, and where they come from.
#[derive(Default)]
pub(crate) struct SideText {
    pub(crate) bytes: Vec<u8>,
    runs: Vec<Run>,
}

/// Bytes that have one side.
struct Run {
    bytes: Range<usize>,
    side: Side,
    /// Unchanged text was left out right before them.
    after_omission: bool,
    /// Something of the other side is right before them.
    at_seam: bool,
}

/// A line of a text, in bytes.
#[derive(Clone)]
pub(crate) struct LinePlace {
    pub(crate) content: Range<usize>,
    /// What ends it; empty where the text ends without.
    pub(crate) end: Range<usize>,
}

impl SideText {
    /// The text that the pieces on this side make.
    pub(crate) fn of(hunk: &Hunk, on_side: impl Fn(Side) -> bool) -> Self {
        let mut text = Self::default();
        text.fill(hunk, on_side);
        text
    }

    /// The same in place of this text.
    pub(crate) fn fill(&mut self, hunk: &Hunk, on_side: impl Fn(Side) -> bool) {
        self.bytes.clear();
        self.runs.clear();
        let mut at_seam = false;
        for piece in hunk.pieces() {
            if on_side(piece.side) {
                self.push(piece.bytes, piece.side, piece.omitted > 0, std::mem::take(&mut at_seam));
            } else {
                at_seam = true;
            }
        }
    }

    /// A text that stays as it is.
    pub(crate) fn kept(bytes: &[u8]) -> Self {
        let mut text = Self::default();
        text.push(bytes, Side::Kept, false, false);
        text
    }

    fn push(&mut self, bytes: &[u8], side: Side, after_omission: bool, at_seam: bool) {
        if bytes.is_empty() {
            return;
        }
        let start = self.bytes.len();
        self.bytes.extend_from_slice(bytes);
        match self.runs.last_mut() {
            Some(run) if run.side == side && !after_omission && !at_seam => run.bytes.end = self.bytes.len(),
            _ => self.runs.push(Run { bytes: start..self.bytes.len(), side, after_omission, at_seam }),
        }
    }

    /// The lines of the text, in order.
    pub(crate) fn lines(&self) -> Vec<LinePlace> {
        let mut lines = Vec::new();
        self.lines_into(&mut lines);
        lines
    }

    /// The same in place of these.
    pub(crate) fn lines_into(&self, lines: &mut Vec<LinePlace>) {
        lines.clear();
        let place = |Line { start, content_end, end }| LinePlace { content: start..content_end, end: content_end..end };
        lines.extend(Lines::of(&self.bytes).map(place));
    }

    /// Draws a line; of its line end, what has changed.
    pub(crate) fn draw(&self, place: &LinePlace) -> DrawnLine {
        let mut line = DrawnLine::default();
        self.draw_into(place, &mut line);
        line
    }

    /// The same in place of this line.
    pub(crate) fn draw_into(&self, place: &LinePlace, line: &mut DrawnLine) {
        line.clear();
        let content = &self.bytes[place.content.clone()];
        let trailing = content.iter().rev().take_while(|byte| matches!(byte, b' ' | b'\t')).count();
        let blanks = place.content.end - trailing;
        for (part, at_end) in [(place.content.start..blanks, false), (blanks..place.content.end, true)] {
            for (run, bytes) in self.runs_in(part) {
                let is_start = bytes.start == run.bytes.start;
                if is_start && run.after_omission {
                    line.stretch(run.side, false, |line| line.glyph(" … ", 3));
                }
                let look = if at_end || run.side != Side::Kept { GlyphLook::Close } else { GlyphLook::Text };
                let bytes = &self.bytes[bytes];
                line.stretch(run.side, is_start && run.at_seam, |line| draw_glyphs(bytes, look, line));
            }
        }
        for (run, bytes) in self.runs_in(place.end.clone()).filter(|(run, _)| run.side != Side::Kept) {
            line.stretch(run.side, false, |line| {
                let width = bytes.len();
                line.glyph(line_end_sign(&self.bytes[bytes]), width);
            });
        }
    }

    /// The runs that these bytes belong to, with the bytes of each.
    fn runs_in(&self, part: Range<usize>) -> impl Iterator<Item = (&Run, Range<usize>)> {
        let first = self.runs.partition_point(|run| run.bytes.end <= part.start);
        let runs = self.runs[first..].iter().take_while(move |run| run.bytes.start < part.end);
        let of_part = part.clone();
        runs.map(move |run| (run, run.bytes.start.max(of_part.start)..run.bytes.end.min(of_part.end)))
            .filter(|(_, bytes)| !bytes.is_empty())
    }
}

/// One line of one side, drawn.
#[derive(Default)]
pub(crate) struct DrawnLine {
    text: String,
    /// Where each glyph ends in the text, in bytes, and its width in columns.
    glyphs: Vec<(usize, usize)>,
    stretches: Vec<Stretch>,
    columns: usize,
}

/// Glyphs of one side.
struct Stretch {
    side: Side,
    /// Something of the other side is right before it.
    at_seam: bool,
    /// Up to which of the line's glyphs it goes.
    end: usize,
}

/// One glyph of a line.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct LineGlyph {
    pub(crate) glyph: Glyph,
    pub(crate) side: Side,
}

impl GlyphSink for DrawnLine {
    fn ascii(&mut self, text: &str) {
        let start = self.text.len();
        self.text.push_str(text);
        self.glyphs.extend((start + 1..=self.text.len()).map(|end| (end, 1)));
        self.columns += text.len();
    }

    fn glyph(&mut self, text: &str, width: usize) {
        self.text.push_str(text);
        self.glyphs.push((self.text.len(), width));
        self.columns += width;
    }
}

impl DrawnLine {
    fn clear(&mut self) {
        self.text.clear();
        self.glyphs.clear();
        self.stretches.clear();
        self.columns = 0;
    }

    fn stretch(&mut self, side: Side, at_seam: bool, draw: impl FnOnce(&mut Self)) {
        let first = self.glyphs.len();
        draw(self);
        if self.glyphs.len() > first {
            self.stretches.push(Stretch { side, at_seam, end: self.glyphs.len() });
        }
    }

    /// How many glyphs it has.
    pub(crate) fn len(&self) -> usize {
        self.glyphs.len()
    }

    /// Its width in columns.
    pub(crate) fn columns(&self) -> usize {
        self.columns
    }

    /// The width of these glyphs in columns.
    pub(crate) fn width(&self, glyphs: Range<usize>) -> usize {
        self.glyphs[glyphs].iter().map(|(_, width)| width).sum()
    }

    /// What these glyphs look like one after the other.
    pub(crate) fn text(&self, glyphs: Range<usize>) -> &str {
        let at = |glyph: usize| if glyph == 0 { 0 } else { self.glyphs[glyph - 1].0 };
        &self.text[at(glyphs.start)..at(glyphs.end)]
    }

    /// The first glyph of what is changed, or that has something of the other side before it.
    pub(crate) fn first_change(&self) -> Option<usize> {
        let index = self.stretches.iter().position(|stretch| stretch.side != Side::Kept || stretch.at_seam)?;
        Some(if index == 0 { 0 } else { self.stretches[index - 1].end })
    }

    /// The sides of these glyphs: one for as many of them as follow each other.
    pub(crate) fn sides(&self, glyphs: Range<usize>) -> impl Iterator<Item = (Side, Range<usize>)> {
        let mut start = glyphs.start;
        let mut stretches = self.stretches.iter().skip_while(move |stretch| stretch.end <= glyphs.start).peekable();
        std::iter::from_fn(move || {
            let first = stretches.next().filter(|_| start < glyphs.end)?;
            let mut end = first.end;
            while let Some(next) = stretches.next_if(|next| next.side == first.side) {
                end = next.end;
            }
            let part = start..end.min(glyphs.end);
            start = part.end;
            Some((first.side, part))
        })
    }

    /// All glyphs, each with its side.
    pub(crate) fn line_glyphs(&self) -> Vec<LineGlyph> {
        let glyph = |side, at: usize| {
            let glyph = Glyph { text: self.text(at..at + 1).into(), width: self.glyphs[at].1 };
            LineGlyph { glyph, side }
        };
        self.sides(0..self.len()).flat_map(|(side, part)| part.map(move |at| glyph(side, at))).collect()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use washout_core::observe::{Detail, Lineage};
    use washout_core::{Program, RuleSet};

    use super::super::visible::{glyphs, text_of};
    use super::*;

    /// What stands in texts, and what is hard to draw.
    const PARTS: &[&str] = &[
        "fog",
        " ",
        "  ",
        "\t",
        "\n",
        "\r\n",
        "\r",
        "#",
        "um, ",
        "e\u{301}",
        "\u{301}",
        "\u{200B}",
        "👩\u{200D}🚒",
        "漢字",
        "\u{A0}",
        "\u{1B}[31m",
        "\u{FE0F}",
        "می\u{200C}خ",
    ];

    fn text() -> impl Strategy<Value = String> {
        proptest::collection::vec(proptest::sample::select(PARTS), 0..40).prop_map(|parts| parts.concat())
    }

    /// The hunks of a text that goes through these rules.
    fn hunks(rules: &str, text: &str) -> Vec<Hunk> {
        let program = Program::compile([&RuleSet::read("rules", rules).expect("rules")]);
        let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
        let mut washed = Vec::new();
        washer.push(text.as_bytes(), &mut washed).and_then(|()| washer.finish(&mut washed)).expect("no pattern");
        washer.into_observer().finish()
    }

    /// The same byte by byte: each with its side, and whether it has to be drawn apart from the one before it.
    fn drawn_plainly(hunk: &Hunk, is_before: bool) -> Vec<(String, Side)> {
        let (mut bytes, mut is_apart): (Vec<(u8, Side, bool)>, bool) = (Vec::new(), false);
        for piece in hunk.pieces() {
            let is_other =
                if is_before { matches!(piece.side, Side::Put(_)) } else { matches!(piece.side, Side::Removed(_)) };
            if is_other {
                is_apart = true;
            } else {
                let starts_apart = std::mem::take(&mut is_apart);
                bytes.extend(
                    piece.bytes.iter().enumerate().map(|(at, byte)| (*byte, piece.side, at == 0 && starts_apart)),
                );
            }
        }
        let is_end = |byte: u8| byte == b'\n' || byte == b'\r';
        let mut signs = Vec::new();
        for (at, (byte, side, _)) in bytes.iter().enumerate() {
            // The second half of a line end is drawn with the first, unless only one of them changes.
            let is_second =
                *byte == b'\n' && at > 0 && bytes[at - 1].0 == b'\r' && bytes[at - 1].1 == *side && !bytes[at].2;
            if is_end(*byte) && !is_second && *side != Side::Kept {
                let is_alone = !bytes.get(at + 1).is_some_and(|next| next.0 == b'\n' && next.1 == *side && !next.2);
                let sign = match byte {
                    b'\r' if is_alone => "␍",
                    b'\r' => "␍↵",
                    _ => "↵",
                };
                signs.push((sign.to_owned(), *side));
            }
            let starts = at == 0 || is_end(bytes[at - 1].0) || bytes[at - 1].1 != *side || bytes[at].2;
            let in_blanks = |at: usize| {
                let blanks = bytes[at..].iter().take_while(|(byte, ..)| matches!(byte, b' ' | b'\t')).count();
                blanks > 0 && bytes.get(at + blanks).is_none_or(|(byte, ..)| is_end(*byte))
            };
            if is_end(*byte) || !(starts || (in_blanks(at) && !in_blanks(at - 1))) {
                continue;
            }
            let goes_on = |other: usize| {
                !is_end(bytes[other].0)
                    && bytes[other].1 == *side
                    && !bytes[other].2
                    && in_blanks(other) == in_blanks(at)
            };
            let end = (at + 1..bytes.len()).find(|other| !goes_on(*other)).unwrap_or(bytes.len());
            let stretch: Vec<u8> = bytes[at..end].iter().map(|(byte, ..)| *byte).collect();
            let look = if in_blanks(at) || *side != Side::Kept { GlyphLook::Close } else { GlyphLook::Text };
            signs.extend(glyphs(&stretch, look).into_iter().map(|glyph| (text_of([&glyph]), *side)));
        }
        signs
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

        #[test]
        fn lines_are_drawn_as_byte_by_byte(text in text()) {
            let rules = "[[rule]]\nremove.chars = '#'\n[[rule]]\nreplace = { text = 'fog', with = ' mist ' }\n[[rule]]\ntrim = {}\n[[rule]]\njoin_lines = {}\n[[rule]]\nline_ends.to = 'crlf'\n";
            for hunk in hunks(rules, &text) {
                for is_before in [true, false] {
                    let side = |side| if is_before { !matches!(side, Side::Put(_)) } else { !matches!(side, Side::Removed(_)) };
                    let drawn = SideText::of(&hunk, side);
                    let lines = drawn.lines();
                    let signs: Vec<(String, Side)> = lines
                        .iter()
                        .flat_map(|place| drawn.draw(place).line_glyphs())
                        .map(|glyph| (glyph.glyph.text.to_string(), glyph.side))
                        .collect();
                    prop_assert_eq!(signs, drawn_plainly(&hunk, is_before));
                    let mut ends = lines.iter().flat_map(|place| [place.content.end, place.end.end]);
                    prop_assert_eq!(ends.next_back().unwrap_or(0), drawn.bytes.len(), "nothing is left out");
                }
            }
        }
    }
}
