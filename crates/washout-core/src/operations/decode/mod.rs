//! `decode`: text that was written in another way, written plainly. One pass; what it gives is not looked at again.

mod digits;
mod double_utf8;
mod entities;
mod percent;

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::rules::{Decode, Encoded};
use crate::text::haystack::Haystack;

/// Decodes.
#[derive(Clone, Copy, Debug)]
pub(super) struct Decoder(pub(super) Decode);

impl Operation for Decoder {
    fn line_use(&self) -> LineUse {
        // What is decoded may hold line ends.
        LineUse::CHANGES_NUMBER
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        match self.0.what {
            Encoded::HtmlEntities => entities::run(text, state),
            Encoded::Percent => percent::run(text, state),
            Encoded::DoubleUtf8 => double_utf8::run(text, state),
            Encoded::Digits => digits::run(text, state),
        }
    }
}
