//! `drop_repeats`

use std::collections::HashSet;
use std::hash::{BuildHasher, Hasher, RandomState};

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::rules::{Case, DropRepeats, RepeatScope};
use crate::text::chars::{char_at, step};
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, Lines, skip_blanks, skip_blanks_back};
use crate::words::fold;

/// Drops lines that were there before.
#[derive(Clone, Copy, Debug)]
pub(super) struct Repeats(pub(super) DropRepeats);

/// What has been seen: lines of a text, or records of a table.
#[derive(Debug, Default)]
pub(crate) struct Seen {
    /// The line before, as it is compared.
    last: Option<Vec<u8>>,
    /// Hashes of all lines, not the lines: 16 bytes each, keyed afresh for each text so that no one can prepare two
    /// lines with one hash.
    hashes: HashSet<u128>,
    keys: Option<(RandomState, RandomState)>,
    /// What is looked at, as it is compared.
    pub(crate) compared: Vec<u8>,
}

impl Seen {
    /// Forgets the text so far.
    pub(super) fn forget(&mut self) {
        if self.keys.is_some() || self.last.is_some() {
            *self = Self::default();
        }
    }

    /// In bytes. A table has room for more than it holds, and a byte for each place besides the hash.
    pub(crate) fn memory(&self) -> u64 {
        (self.hashes.capacity() * 8 / 7 * (size_of::<u128>() + 1)) as u64
    }
}

impl Repeats {
    /// The line as it is compared, without its line end.
    fn compared(self, text: &[u8], line: Line, compared: &mut Vec<u8>) {
        compared.clear();
        self.0.compared(&text[line.start..line.content_end], compared);
    }
}

impl Operation for Repeats {
    fn line_use(&self) -> LineUse {
        LineUse::WithOthers
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { seen, edits, guard, .. } = state;
        for line in Lines::of(text) {
            self.compared(text, line, &mut seen.compared);
            if seen.is_repeated(self.0.scope) && guard.allows_line(line) {
                edits.push(text, line.start..line.end, b"", 1);
            }
        }
    }

    fn remembers_text(&self) -> bool {
        true
    }

    fn needs(&self, lines: String) -> String {
        match self.0.scope {
            RepeatScope::Neighbours => format!("{lines}, and the one before"),
            RepeatScope::File => format!("{lines}, and 20 to 40 bytes of memory for each different line"),
        }
    }
}

impl DropRepeats {
    /// Adds a text as it is compared: as the rule says without blanks at the edges and folded.
    pub(crate) fn compared(self, text: &[u8], compared: &mut Vec<u8>) {
        let (mut start, mut end) = (0, text.len());
        if self.ignore_edges {
            start = skip_blanks(&text[..end], start);
            end = start + skip_blanks_back(&text[start..end], end - start);
        }
        if self.case == Case::Exact {
            compared.extend_from_slice(&text[start..end]);
            return;
        }
        while start < end {
            match char_at(text, start) {
                Some((character, _)) => {
                    compared.extend_from_slice(fold(character).encode_utf8(&mut [0; 4]).as_bytes());
                }
                None => compared.push(text[start]),
            }
            start += step(text, start);
        }
    }
}

impl Seen {
    /// Whether what is looked at was seen before; from now on it was.
    pub(crate) fn is_repeated(&mut self, scope: RepeatScope) -> bool {
        match scope {
            RepeatScope::Neighbours => self.is_like_last(),
            RepeatScope::File => !self.is_new(),
        }
    }

    fn is_like_last(&mut self) -> bool {
        if self.last.as_ref() == Some(&self.compared) {
            return true;
        }
        self.last.get_or_insert_default().clone_from(&self.compared);
        false
    }

    fn is_new(&mut self) -> bool {
        let (first, second) = self.keys.get_or_insert_with(|| (RandomState::new(), RandomState::new()));
        let hash = |state: &RandomState| {
            let mut hasher = state.build_hasher();
            hasher.write(&self.compared);
            u128::from(hasher.finish())
        };
        let hash = hash(first) << 64 | hash(second);
        self.hashes.insert(hash)
    }
}
