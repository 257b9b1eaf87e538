//! The line before the times of a caption: its number, or its identifier.

use crate::text::lines::{Line, is_line_start, line_before, skip_blanks, skip_blanks_back};
use crate::text::matches::Span;

/// The caption's times with the number or identifier before them. `follows_text`: something that is not an empty line
/// stands before `text`.
pub(crate) fn with_number(text: &[u8], range: Span, follows_text: bool) -> Span {
    let line = skip_blanks_back(text, range.start);
    if line == 0 || !is_line_start(text, line) {
        return range;
    }
    let before = Line::at(text, line_before(text, line));
    let content = text[before.start..before.content_end].trim_ascii();
    let is_number = !content.is_empty() && content.iter().all(u8::is_ascii_digit);
    // Words are an identifier only where a caption may begin: else they are the words of the caption before.
    let begins = if before.start == 0 { !follows_text } else { is_empty(text, line_before(text, before.start)) };
    // WebVTT, 4.1: an identifier holds no `-->`. Else of two ranges in a row the first would be that of the second.
    let is_identifier = !content.is_empty() && begins && memchr::memmem::find(content, b"-->").is_none();
    if is_number || is_identifier { Span::new(before.start, range.end) } else { range }
}

pub(crate) fn is_empty(text: &[u8], line: usize) -> bool {
    skip_blanks(text, line) == Line::at(text, line).content_end
}
