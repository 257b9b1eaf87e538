//! Whether a place is at the end of its line, blanks aside.

use crate::text::blanks::BlankRuns;
use crate::text::lines::is_content_end;

/// Answers for ascending places.
#[derive(Debug, Default)]
pub(crate) struct EndOfLine {
    blanks: BlankRuns,
}

impl EndOfLine {
    /// Whether nothing but blanks stands between `at` and the end of its line.
    pub(crate) fn reaches(&mut self, text: &[u8], at: usize) -> bool {
        if at > 0 && matches!(text[at - 1], b'\n' | b'\r') {
            return true; // what ends with its line end has reached it
        }
        is_content_end(text, self.blanks.end_after(text, at))
    }
}
