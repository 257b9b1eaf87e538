//! `trim`.

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::class::{CharTable, NamedClass};
use crate::rules::{Trim, TrimAt};
use crate::text::chars::char_before;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, content_end};
use crate::text::stand_ins::StandIns;

/// `trim`.
#[derive(Clone, Debug)]
pub(super) struct EdgeTrim {
    at: TrimAt,
    set: CharTable,
    /// Characters that go as blanks do.
    blanks: StandIns,
}

impl EdgeTrim {
    pub(super) fn new(trim: Trim) -> Self {
        let class = NamedClass::find(trim.class.name()).expect("OK because both classes of `trim` are named ones");
        Self { at: trim.at, set: CharTable::new(class.set()), blanks: StandIns::default() }
    }

    fn skip(&self, text: &[u8], line: Line) -> usize {
        let mut at = line.start;
        while at < line.content_end {
            match self.set.match_len(text, at) {
                0 => break,
                len => at += len,
            }
        }
        at
    }

    fn skip_back(&self, text: &[u8], from: usize, end: usize) -> usize {
        let mut at = end;
        while let Some(character) =
            char_before(&text[from..], at - from).filter(|character| self.set.contains(*character))
        {
            at -= character.len_utf8();
        }
        at
    }
}

impl Operation for EdgeTrim {
    fn line_use(&self) -> LineUse {
        LineUse::KEEPS_NUMBER
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text: &[u8] = &self.blanks.as_blanks(block.text);
        if self.at == TrimAt::End
            && let Some(places) = block.places
        {
            // Each of them is the last blank before a line end.
            let mut from = 0;
            for place in places {
                let is_last = matches!(text.get(place + 1), Some(b'\n' | b'\r'));
                let end = if is_last { place + 1 } else { content_end(text, *place) };
                edit(text, self.skip_back(text, from, end), end, state);
                from = end;
            }
            return;
        }
        for line in (Haystack { text, ..block }).lines() {
            let start = if self.at == TrimAt::End { line.start } else { self.skip(text, line) };
            edit(text, line.start, start, state);
            if self.at != TrimAt::Start {
                edit(text, self.skip_back(text, start, line.content_end), line.content_end, state);
            }
        }
    }

    fn count_as_blanks(&mut self, blanks: StandIns) {
        self.blanks = blanks;
    }

    fn looks_near(&self) -> bool {
        true
    }
}

fn edit(text: &[u8], start: usize, end: usize, state: &mut RuleState) {
    if start < end {
        state.push(text, start..end, b"", 1);
    }
}
