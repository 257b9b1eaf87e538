//! The changes of a hunk one by one, with the place of each.

use std::sync::Arc;

use super::hunk::{CellPlace, CellSource, Hunk, Piece, Side};
use crate::rules::RuleId;

/// A change and where it is in the text before.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct PlacedChange {
    /// The cell it is in, if the text is a table; line and column are those of the cell then.
    pub cell: Option<CellPlace>,
    /// The cell of the same record from which the text in it came, if it was another.
    pub source: Option<Arc<CellSource>>,
    /// The line, from 1.
    pub line: u64,
    /// The character of the line, from 1. What is not valid UTF-8 counts as in [`TextSize`](crate::text::TextSize).
    pub column: u64,
    /// The rule that had the last word.
    pub rule: RuleId,
    /// What went.
    pub before: Vec<u8>,
    /// What came.
    pub after: Vec<u8>,
}

impl Hunk {
    /// The changes in it: what went and what came in its place, by one rule, is one.
    pub fn changes(&self) -> Vec<PlacedChange> {
        let mut changes: Vec<PlacedChange> = Vec::new();
        let mut at = Position::at(self.first_line, self.chars_before + 1);
        // Whether the last change may still go on: no unchanged byte has followed.
        let mut open = false;
        for piece in &self.pieces {
            let Some(rule) = piece.side.rule() else {
                at.pass_piece(piece);
                open = false;
                continue;
            };
            let goes_on = open && changes.last().is_some_and(|last| last.rule == rule);
            if !goes_on {
                at.settle(&piece.bytes);
                let Position { line, column, .. } = at;
                let (cell, source) = (self.cell.clone(), self.source.clone());
                changes.push(PlacedChange { cell, source, line, column, rule, before: Vec::new(), after: Vec::new() });
                open = true;
            }
            let Some(change) = changes.last_mut() else { continue };
            if let Side::Removed(_) = piece.side {
                change.before.extend_from_slice(&piece.bytes);
                at.pass_piece(piece);
            } else {
                change.after.extend_from_slice(&piece.bytes);
            }
        }
        changes
    }
}

/// A place in the text before.
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
    pub(super) fn pass_piece(&mut self, piece: &Piece) {
        self.column += piece.omitted_chars;
        if !matches!(piece.side, Side::Put(_)) {
            self.pass(&piece.bytes);
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
            let changes = |hunks: &[Hunk]| hunks.iter().flat_map(Hunk::changes).collect::<Vec<_>>();
            assert_eq!(changes(&whole), changes(&parts));
            let longest =
                |hunks: &[Hunk]| hunks.iter().map(|hunk| hunk.pieces.iter().map(|piece| piece.bytes.len()).sum()).max();
            assert!(
                longest(&parts).is_none_or(|bytes: usize| bytes < 300_000),
                "{:?} bytes in a part",
                longest(&parts)
            );
        }
    }
}
