//! Runs of blanks, walked once.

use super::chars::is_blank_byte;
use super::lines::{skip_blanks, skip_blanks_back};

/// Answers where runs of blanks begin and end, for ascending places, remembering the last run it walked: else a line
/// of a million blanks would be walked a million times.
#[derive(Debug, Default)]
pub(crate) struct BlankRuns {
    start: usize,
    end: usize,
}

impl BlankRuns {
    /// The first byte at or after `at` that is not a blank.
    pub(crate) fn end_after(&mut self, text: &[u8], at: usize) -> usize {
        if !(self.start..self.end).contains(&at) {
            (self.start, self.end) = (at, skip_blanks(text, at));
        }
        self.end
    }

    /// Where the blanks that end at `at` begin.
    pub(crate) fn start_before(&mut self, text: &[u8], at: usize) -> usize {
        if at == 0 || !is_blank_byte(text[at - 1]) {
            return at;
        }
        if !(self.start + 1..=self.end).contains(&at) {
            (self.start, self.end) = (skip_blanks_back(text, at), skip_blanks(text, at));
        }
        self.start
    }
}
