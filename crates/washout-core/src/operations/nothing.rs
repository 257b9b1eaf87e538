//! What does nothing to a text.

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::text::haystack::Haystack;

/// The operation of verbs that act on tables only, of `include`, and of rules that are off.
#[derive(Clone, Copy, Debug)]
pub(super) struct Nothing;

impl Operation for Nothing {
    fn line_use(&self) -> LineUse {
        LineUse::WithOthers
    }

    fn run(&self, _: Haystack<'_>, _: BlockContext, _: &mut RuleState) {}

    fn judge_open_line(&self, text: &[u8], _: usize, _: bool, _: &mut RuleState) -> Option<usize> {
        Some(text.len())
    }
}
