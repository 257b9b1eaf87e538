//! The changes of a hunk one by one, with the place of each.

use std::borrow::Cow;

use super::hunk::{CellPlace, CellSource, Hunk, Piece, Side};
use crate::rules::RuleId;

/// A change and where it is in the text before.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PlacedChange<'h> {
    /// The cell it is in, if the text is a table; line and column are those of the cell then.
    pub cell: Option<&'h CellPlace>,
    /// The cell of the same record from which the text in it came, if it was another.
    pub source: Option<&'h CellSource>,
    /// The line, from 1.
    pub line: u64,
    /// The character of the line, from 1. What is not valid UTF-8 counts as in [`TextSize`](crate::text::TextSize).
    pub column: u64,
    /// The rule that had the last word.
    pub rule: RuleId,
    /// What went.
    pub before: Cow<'h, [u8]>,
    /// What came.
    pub after: Cow<'h, [u8]>,
}

impl Hunk {
    /// The changes in it, in order: what went and what came in its place, by one rule, is one.
    pub fn changes(&self) -> impl Iterator<Item = PlacedChange<'_>> {
        let mut at = Position::at(self.first_line, self.chars_before + 1);
        let mut pieces = self.pieces().peekable();
        std::iter::from_fn(move || {
            while let Some(kept) = pieces.next_if(|piece| piece.side == Side::Kept) {
                // What follows the last change need not be counted.
                if pieces.len() > 0 {
                    at.pass_piece(&kept);
                }
            }
            let first = pieces.peek()?;
            let rule = first.side.rule()?;
            at.settle(first.bytes);
            let Position { line, column, .. } = at;
            let (cell, source) = (self.cell.as_ref(), self.source.as_deref());
            let (mut before, mut after) = (Cow::Borrowed(&[][..]), Cow::Borrowed(&[][..]));
            while let Some(piece) = pieces.next_if(|piece| piece.side.rule() == Some(rule)) {
                if let Side::Removed(_) = piece.side {
                    extend(&mut before, piece.bytes);
                    at.pass_piece(&piece);
                } else {
                    extend(&mut after, piece.bytes);
                }
            }
            Some(PlacedChange { cell, source, line, column, rule, before, after })
        })
    }
}

/// Appends bytes, which are borrowed as long as there are no others.
fn extend<'h>(all: &mut Cow<'h, [u8]>, bytes: &'h [u8]) {
    if all.is_empty() {
        *all = Cow::Borrowed(bytes);
    } else {
        all.to_mut().extend_from_slice(bytes);
    }
}

/// A place in the text before.
#[derive(Clone, Copy)]
pub(super) struct Position {
    /// The line, from 1.
    pub(super) line: u64,
    /// The character of the line, from 1.
    pub(super) column: u64,
    /// A CR has been received: if no LF follows, it was a line end.
    after_cr: bool,
}

impl Position {
    pub(super) fn at(line: u64, column: u64) -> Self {
        Self { line, column, after_cr: false }
    }

    /// Passes over what of a piece is in the text before.
    pub(super) fn pass_piece(&mut self, piece: &Piece<'_>) {
        self.column += piece.omitted_chars;
        if !matches!(piece.side, Side::Put(_)) {
            self.pass(piece.bytes);
        }
    }

    fn settle(&mut self, next: &[u8]) {
        if self.after_cr && next.first() != Some(&b'\n') {
            self.next_line();
        }
    }

    fn next_line(&mut self) {
        *self = Self::at(self.line + 1, 1);
    }

    fn pass(&mut self, bytes: &[u8]) {
        self.settle(bytes);
        let mut rest = bytes;
        while let Some(end) = memchr::memchr2(b'\n', b'\r', rest) {
            self.column += bytecount::num_chars(&rest[..end]) as u64;
            let (is_cr, next) = (rest[end] == b'\r', rest.get(end + 1));
            rest = &rest[end + 1..];
            if !is_cr || next.is_some_and(|next| *next != b'\n') {
                self.next_line();
            } else {
                self.after_cr = true;
                self.column += 1;
            }
        }
        self.column += bytecount::num_chars(rest) as u64;
    }
}

#[cfg(test)]
mod tests {
    use super::Hunk;
    use crate::observe::{Detail, Lineage};
    use crate::program::Program;
    use crate::rules::RuleSet;

    fn hunks(rules: &str, text: &str, detail: Detail) -> Vec<Hunk> {
        let program = Program::compile([&RuleSet::read("set", rules).expect("good rules")]);
        let mut washer = program.washer(Lineage::new(program.names().len(), detail));
        let mut result = Vec::new();
        for piece in text.as_bytes().chunks(1_001) {
            washer.push(piece, &mut result).expect("plain rules");
        }
        washer.finish(&mut result).expect("plain rules");
        washer.into_observer().finish()
    }

    fn told(rules: &str, text: &str) -> Vec<(u64, u64, usize, String, String)> {
        let text_of = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        let hunks = hunks(rules, text, Detail::All);
        let changes = hunks.iter().flat_map(Hunk::changes);
        changes
            .map(|change| (change.line, change.column, change.rule.0, text_of(&change.before), text_of(&change.after)))
            .collect()
    }

    #[test]
    fn changes_stand_where_they_are_in_the_text_before() {
        let change = |line, column, rule, before: &str, after: &str| (line, column, rule, before.into(), after.into());
        let rules = "[[rule]]\nreplace = { text = 'fog', with = 'mist' }\n[[rule]]\nremove = { chars = '#\\r' }\n\
                     [[rule]]\njoin_lines = {}\n";
        assert_eq!(
            told(rules, "a\n\né fog#\nfog\n\nx\r\ny#\n"),
            [
                change(3, 3, 0, "fog", "mist"),
                change(3, 6, 1, "#", ""),
                change(3, 7, 2, "\n", " "),
                change(4, 1, 0, "fog", "mist"),
                change(6, 2, 2, "\r\n", " "),
                change(7, 2, 1, "#", ""),
            ]
        );
        assert_eq!(
            told("[[rule]]\nremove.chars = '#'", "a\r#b\r\n#\n"),
            [change(2, 1, 0, "#", ""), change(3, 1, 0, "#", "")]
        );
    }

    #[test]
    fn a_long_hunk_in_parts_has_the_same_changes() {
        let long = "fög #um\r no boat in sight,\t and # none\rheard ".repeat(20_000);
        let rules = "[[rule]]\nreplace = { text = 'um', with = 'hm' }\n[[rule]]\nremove = { chars = '#\\r' }\n\
                     [[rule]]\nreplace = { text = 'hm', with = 'um' }\n[[rule]]\njoin_lines = {}\n";
        for text in
            [long.clone(), long.replace('\r', "\r\n"), long.replace('\r', "") + "\n# end\n", "fog ".repeat(99_999)]
        {
            let whole = hunks(rules, &text, Detail::All);
            let parts = hunks(rules, &text, Detail::Parts);
            assert!(whole.iter().flat_map(Hunk::changes).eq(parts.iter().flat_map(Hunk::changes)));
            let longest =
                |hunks: &[Hunk]| hunks.iter().map(|hunk| hunk.pieces().map(|piece| piece.bytes.len()).sum()).max();
            assert!(
                longest(&parts).is_none_or(|bytes: usize| bytes < 300_000),
                "{:?} bytes in a part",
                longest(&parts)
            );
        }
    }
}
