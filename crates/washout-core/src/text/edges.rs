//! Whether a match is at an edge of its line, blanks aside.

use super::matches::Span;
use crate::text::At;
use crate::text::blanks::BlankRuns;
use crate::text::lines::{is_content_end, is_line_start};

/// Answers for ascending places.
#[derive(Debug, Default)]
pub(crate) struct Edges {
    blanks: BlankRuns,
}

impl Edges {
    /// Whether nothing but blanks stands between the start of the line and `at`.
    pub(crate) fn starts(&mut self, text: &[u8], at: usize) -> bool {
        is_line_start(text, self.blanks.start_before(text, at))
    }

    /// Whether nothing but blanks stands between `at` and the end of the line.
    pub(crate) fn reaches(&mut self, text: &[u8], at: usize) -> bool {
        if at > 0 && matches!(text[at - 1], b'\n' | b'\r') {
            return true; // what ends with its line end has reached it
        }
        is_content_end(text, self.blanks.end_after(text, at))
    }

    /// Whether a match that was found anywhere stands where `place` says.
    pub(crate) fn allow(&mut self, place: At, text: &[u8], found: Span) -> bool {
        match place {
            At::Anywhere => true,
            At::Start => self.starts(text, found.start),
            At::End => self.reaches(text, found.end),
            At::Edges => self.starts(text, found.start) || self.reaches(text, found.end),
            At::WholeLine => self.starts(text, found.start) && self.reaches(text, found.end),
        }
    }
}
