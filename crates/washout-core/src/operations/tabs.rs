//! `tabs`

use unicode_width::UnicodeWidthChar;

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::rules::Tabs;
use crate::text::chars::char_at;
use crate::text::haystack::Haystack;
use crate::text::lines::Lines;

/// Replaces tabs by spaces.
#[derive(Clone, Copy, Debug)]
pub(super) struct TabExpander(pub(super) Tabs);

impl Operation for TabExpander {
    fn line_use(&self) -> LineUse {
        LineUse::KEEPS_NUMBER
    }

    /// Columns are those of a terminal: wide characters take two, combining marks none, a broken byte one.
    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        if memchr::memchr(b'\t', text).is_none() {
            return;
        }
        let spaces = vec![b' '; self.0.width];
        for line in Lines::of(text) {
            let (mut at, mut column) = (line.start, 0);
            while at < line.content_end {
                let (width, len) = match char_at(text, at) {
                    Some(('\t', _)) => {
                        let width = self.0.width - column % self.0.width;
                        state.push(text, at..at + 1, &spaces[..width], 1);
                        (width, 1)
                    }
                    Some((character, len)) => (character.width().unwrap_or(0), len),
                    None => (1, 1),
                };
                at += len;
                column += width;
            }
        }
    }
}
