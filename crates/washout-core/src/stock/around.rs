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

/// Not inside a word or behind a number that goes on: `1.2026-01-05`, `v1.12.2026`; but `log-2026-01-05`.
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

/// A capital letter that begins a word of at least two letters.
fn begins_name(text: &[u8], at: usize) -> bool {
    let Some((first, len)) = char_at(text, at) else { return false };
    first.is_uppercase() && char_at(text, at + len).is_some_and(|(next, _)| next.is_alphabetic() || is_apostrophe(next))
}

fn is_apostrophe(character: char) -> bool {
    matches!(character, '\'' | '’')
}

/// `M.` at `at`; gives where it ends.
fn initial_at(text: &[u8], at: usize) -> Option<usize> {
    let (letter, len) = char_at(text, at).filter(|(letter, _)| letter.is_uppercase())?;
    let _ = letter;
    (text.get(at + len) == Some(&b'.')).then_some(at + len + 1)
}

/// Initials a name has at most: a row of nothing else must not be walked from each of them.
const MOST_INITIALS: usize = 4;

/// A name with a capital, or another initial with a name before it, and blanks.
pub(super) fn name_before(text: &[u8], at: usize) -> bool {
    let mut at = at;
    for _ in 0..MOST_INITIALS {
        let word_end = skip_blanks_back(text, at);
        if word_end == at {
            return false;
        }
        let mut start = word_end;
        while let Some(before) = char_before(text, start).filter(|c| is_word_char(*c) || is_apostrophe(*c) || *c == '-')
        {
            start -= before.len_utf8();
        }
        if start < word_end {
            return begins_name(text, start);
        }
        // Another initial: `Edith M. K. Harrow`.
        let Some(letter) = text[..word_end].strip_suffix(b".").and_then(|rest| char_before(rest, rest.len())) else {
            return false;
        };
        let letter_at = word_end - 1 - letter.len_utf8();
        if !letter.is_uppercase() || !no_word_before(text, letter_at) {
            return false;
        }
        at = letter_at;
    }
    false
}

/// Blanks and a name with a capital, other initials between.
pub(super) fn name_after(text: &[u8], _start: usize, end: usize) -> bool {
    let mut end = end;
    for _ in 0..MOST_INITIALS {
        let next = skip_blanks(text, end);
        if next == end {
            return false;
        }
        match initial_at(text, next) {
            Some(after) => end = after,
            None => return begins_name(text, next),
        }
    }
    false
}

/// A name, or another title, after blanks; after a point the blanks may lack.
pub(super) fn named_after(text: &[u8], start: usize, end: usize) -> bool {
    let next = skip_blanks(text, end);
    let parted = next > end || text[start..end].ends_with(b".");
    parted && (begins_name(text, next) || initial_at(text, next).is_some())
}
