//! Whether a place is at an edge of its line, blanks aside.

use crate::text::lines::{is_content_end, skip_blanks};

/// Answers for ascending places, remembering the last run of blanks it walked: else a line of a million blanks would be
/// walked a million times.
#[derive(Debug, Default)]
pub(crate) struct EndOfLine {
    run_start: usize,
    run_end: usize,
}

impl EndOfLine {
    /// Whether nothing but blanks stands between `at` and the end of its line.
    pub(crate) fn reaches(&mut self, text: &[u8], at: usize) -> bool {
        if at > 0 && matches!(text[at - 1], b'\n' | b'\r') {
            return true; // what ends with its line end has reached it
        }
        self.reaches_from(text, at)
    }

    fn reaches_from(&mut self, text: &[u8], at: usize) -> bool {
        if !(self.run_start..self.run_end).contains(&at) {
            (self.run_start, self.run_end) = (at, skip_blanks(text, at));
        }
        is_content_end(text, self.run_end)
    }
}
