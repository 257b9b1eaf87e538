//! What may stand before and after a match.

use crate::text::chars::{char_at, char_before, is_blank_byte};
use crate::text::lines::{is_content_end, is_line_start, skip_blanks, skip_blanks_back};
use crate::words::is_word_char;

pub(super) fn anything(_text: &[u8], _at: usize) -> bool {
    true
}

pub(super) fn any_end(_text: &[u8], _start: usize, _end: usize) -> bool {
    true
}

fn is_part(character: char) -> bool {
    is_word_char(character) || character == '_'
}

/// Not inside a word.
pub(super) fn no_word_before(text: &[u8], at: usize) -> bool {
    !char_before(text, at).is_some_and(is_part)
}

pub(super) fn no_word_after(text: &[u8], _start: usize, end: usize) -> bool {
    !char_at(text, end).is_some_and(|(after, _)| is_part(after))
}

/// Not inside a word or after a number that goes on: `1.2026-01-05`, `v1.12.2026`; but `log-2026-01-05`.
pub(super) fn no_number_before(text: &[u8], at: usize) -> bool {
    match char_before(text, at) {
        None => true,
        Some('.' | '-' | '/' | ':' | ',') => !char_before(text, at - 1).is_some_and(|before| before.is_ascii_digit()),
        Some(before) => !is_part(before),
    }
}

/// Not inside a word or before a number that goes on: `10.12.1936.5`.
pub(super) fn no_number_after(text: &[u8], start: usize, end: usize) -> bool {
    let goes_on = matches!(char_at(text, end), Some(('.' | '-' | '/' | ':' | ',', _)))
        && char_at(text, end + 1).is_some_and(|(after, _)| after.is_ascii_digit());
    !goes_on && no_word_after(text, start, end)
}

/// Neither a word nor a hyphen.
pub(super) fn no_hyphen_before(text: &[u8], at: usize) -> bool {
    no_word_before(text, at) && char_before(text, at) != Some('-')
}

pub(super) fn no_hyphen_after(text: &[u8], start: usize, end: usize) -> bool {
    no_word_after(text, start, end) && text.get(end) != Some(&b'-')
}

/// For addresses and names that open with a mark: not within a word, and none of these marks.
pub(super) fn no_name_before(text: &[u8], at: usize) -> bool {
    no_word_before(text, at) && !matches!(char_before(text, at), Some('@' | '#' | '&' | '/' | '.' | '+' | '%' | '-'))
}

pub(super) fn no_name_after(text: &[u8], start: usize, end: usize) -> bool {
    no_word_after(text, start, end) && !matches!(text.get(end), Some(b'@'))
}

/// Only blanks before it on the line.
pub(super) fn at_line_start(text: &[u8], at: usize) -> bool {
    is_line_start(text, skip_blanks_back(text, at))
}

/// A blank or the line end after it.
pub(super) fn blank_after(text: &[u8], _start: usize, end: usize) -> bool {
    is_content_end(text, end) || is_blank_byte(text[end])
}

pub(super) fn line_end_after(text: &[u8], _start: usize, end: usize) -> bool {
    is_content_end(text, skip_blanks(text, end))
}

pub(super) fn no_blank_before(text: &[u8], at: usize) -> bool {
    at == 0 || !is_blank_byte(text[at - 1])
}

pub(super) fn no_blank_after(text: &[u8], _start: usize, end: usize) -> bool {
    !text.get(end).is_some_and(|byte| is_blank_byte(*byte))
}

/// The end of a name: of the line, or before an extension at its end.
pub(super) fn name_ends_after(text: &[u8], start: usize, end: usize) -> bool {
    if line_end_after(text, start, end) {
        return true;
    }
    let Some(extension) = text[end..].strip_prefix(b".") else { return false };
    let letters = extension.iter().take(6).take_while(|byte| byte.is_ascii_alphanumeric()).count();
    (1..=5).contains(&letters) && !extension.get(letters).is_some_and(|byte| matches!(byte, b'.' | b'-' | b'_'))
}
