//! A text that is open in an editor: its lines, and places in it as the protocol has them.

use std::ops;

use super::types::{ContentChange, Position, Range};

/// An open text. Lines end with LF, CRLF or CR; characters of a line count in UTF-16 code units, from 0.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Document {
    pub(super) text: String,
    /// Where each line starts, in bytes.
    starts: Vec<usize>,
    pub(super) version: Option<i32>,
}

impl Document {
    pub(super) fn new(text: String, version: Option<i32>) -> Self {
        let starts = line_starts(&text);
        Self { text, starts, version }
    }

    /// Applies a change that an editor reports; without a range it is the whole text.
    pub(super) fn change(&mut self, change: ContentChange) {
        let Some(range) = change.range else {
            *self = Self::new(change.text, self.version);
            return;
        };
        let place = self.bytes(range);
        let first = self.line_at(place.start).saturating_sub(1);
        self.text.replace_range(place.clone(), &change.text);
        // Only what is near the change has other lines: what comes after it moves.
        let moved = |start: usize| start + change.text.len() - place.len();
        let behind = self.starts.partition_point(|start| *start <= place.end + 1);
        let after: Vec<usize> = self.starts[behind..].iter().map(|start| moved(*start)).collect();
        let until = after.first().copied().unwrap_or(self.text.len());
        self.starts.truncate(first + 1);
        let from = self.starts[first];
        let near = line_starts_from(&self.text, from, until);
        self.starts.extend(near.into_iter().filter(|start| after.first().is_none_or(|next| start < next)));
        self.starts.extend(after);
    }

    /// The line of a place in bytes, from 0.
    fn line_at(&self, at: usize) -> usize {
        self.starts.partition_point(|start| *start <= at).saturating_sub(1)
    }

    /// A place in bytes as the protocol has it.
    pub(super) fn position(&self, at: usize) -> Position {
        let mut at = at.min(self.text.len());
        while !self.text.is_char_boundary(at) {
            at -= 1;
        }
        let line = self.line_at(at);
        let units = self.text[self.starts[line]..at].encode_utf16().count();
        Position { line: u32::try_from(line).unwrap_or(u32::MAX), character: u32::try_from(units).unwrap_or(u32::MAX) }
    }

    pub(super) fn range(&self, place: ops::Range<usize>) -> Range {
        Range { start: self.position(place.start), end: self.position(place.end) }
    }

    /// A place of the protocol in bytes; one that is not there is the end of its line or of the text.
    pub(super) fn byte(&self, position: Position) -> usize {
        let line = position.line as usize;
        if line >= self.starts.len() {
            return self.text.len();
        }
        let start = self.starts[line];
        let end = self.starts.get(line + 1).copied().unwrap_or(self.text.len());
        let content = self.text[start..end].trim_end_matches(['\n', '\r']);
        let mut units = 0;
        for (at, character) in content.char_indices() {
            if units >= position.character as usize {
                return start + at;
            }
            units += character.len_utf16();
        }
        start + content.len()
    }

    pub(super) fn bytes(&self, range: Range) -> ops::Range<usize> {
        let (start, end) = (self.byte(range.start), self.byte(range.end));
        start.min(end)..start.max(end)
    }
}

fn line_starts(text: &str) -> Vec<usize> {
    let mut starts = vec![0];
    starts.extend(line_starts_from(text, 0, text.len()));
    starts
}

/// Where lines start after a line end that is in this part of the text.
fn line_starts_from(text: &str, from: usize, until: usize) -> Vec<usize> {
    let bytes = text.as_bytes();
    let ends = memchr::memchr2_iter(b'\n', b'\r', &bytes[from..until]).map(|at| from + at);
    ends.filter(|at| !(bytes[*at] == b'\r' && bytes.get(at + 1) == Some(&b'\n'))).map(|at| at + 1).collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

        /// Random edits, against an editor that does nothing cleverly.
        #[test]
        fn changes_give_what_the_text_gives_from_scratch(
            text in "[a\u{e9}𝄽\r\n]{0,24}",
            edits in proptest::collection::vec((0..5_u32, 0..6_u32, 0..5_u32, 0..6_u32, "[b\u{301}𝄽\r\n]{0,4}"), 0..8),
        ) {
            let mut document = Document::new(text, None);
            for (line, unit, end_line, end_unit, new) in edits {
                let place = |line, character| Position { line, character };
                let range = Range { start: place(line, unit), end: place(end_line, end_unit) };
                let bytes = document.bytes(range);
                let mut want = document.text.clone();
                want.replace_range(bytes, &new);
                document.change(ContentChange { range: Some(range), text: new });
                prop_assert_eq!(&document, &Document::new(want, None));
                for (at, _) in document.text.char_indices() {
                    let is_in_line_end = document.text[..at].ends_with('\r') && document.text[at..].starts_with('\n');
                    let is_line_end = document.text[at..].starts_with(['\r', '\n']);
                    prop_assert!(is_in_line_end || is_line_end || document.byte(document.position(at)) == at);
                }
            }
        }
    }
}
