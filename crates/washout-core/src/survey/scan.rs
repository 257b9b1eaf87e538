//! One quick pass over a text for the places where litter may be: it may say yes too often, never too seldom.
//!
//! Most of a text is letters of ASCII. They are passed over eight at a time; what is left is looked at byte by byte.

use super::kinds::LitterKind;
use crate::text::chars::{char_at, char_before, is_blank_byte};
use crate::text::lines::skip_blanks;
use crate::words::fold;

/// Tells of every place in `text` where a kind may be, in ascending order.
pub(super) fn candidates(text: &[u8], mut tell: impl FnMut(LitterKind, usize)) {
    // The last byte that is no letter of ASCII: the word before a blank starts behind it.
    let mut last = None;
    let (words, rest) = text.as_chunks::<8>();
    for (index, word) in words.iter().enumerate() {
        let mut others = others_than_letters(u64::from_le_bytes(*word));
        while others != 0 {
            let at = index * 8 + others.trailing_zeros() as usize / 8;
            look(text, at, last, &mut tell);
            last = Some(at);
            others &= others - 1;
        }
    }
    for (at, byte) in rest.iter().enumerate().filter(|(_, byte)| !byte.is_ascii_alphabetic()) {
        let (at, _) = (text.len() - rest.len() + at, byte);
        look(text, at, last, &mut tell);
        last = Some(at);
    }
}

/// The top bit of each of eight bytes that is no letter of ASCII.
#[inline]
fn others_than_letters(bytes: u64) -> u64 {
    const EACH: u64 = 0x0101_0101_0101_0101;
    // Below 0x80, a sum with no carry into the next byte reaches the top bit just where the byte is large enough.
    let lower = (bytes | (EACH * 0x20)) & (EACH * 0x7F);
    let from_a = lower + EACH * (0x80 - u64::from(b'a'));
    let beyond_z = lower + EACH * (0x7F - u64::from(b'z'));
    !(from_a & !beyond_z & !bytes) & (EACH * 0x80)
}

#[inline(always)]
#[expect(clippy::inline_always, reason = "a call for every fifth byte is a quarter of the time a survey takes")]
fn look(text: &[u8], at: usize, last: Option<usize>, tell: &mut impl FnMut(LitterKind, usize)) {
    let next = || text.get(at + 1).copied().unwrap_or_default();
    match text[at] {
        b' ' | b'\t' => blank(text, at, last, tell),
        b':' if next().is_ascii_digit() && at > 0 && text[at - 1].is_ascii_digit() => {
            tell(LitterKind::TimeCodesInline, at);
        }
        b'(' | b'[' | b'{' => tell(LitterKind::Brackets, at),
        b'&' if next().is_ascii_alphabetic() || next() == b'#' => tell(LitterKind::HtmlEntities, at),
        b'-' if text[at..].starts_with(b"-->") => tell(LitterKind::CaptionTimes, at),
        0x1B => tell(LitterKind::AnsiEscapes, at),
        // U+009B (C2 9B) opens the same sequences in one character.
        0x9B if text[..at].ends_with(b"\xC2") => tell(LitterKind::AnsiEscapes, at),
        // UTF-8 read as windows-1252 and written as UTF-8 again starts with one of the characters that lead bytes
        // (0xC2 to 0xF4) turn into, U+00C2 to U+00F4, and goes on beyond ASCII.
        0xC3 if (0x82..=0xB4).contains(&next()) && text.get(at + 2).is_some_and(|third| !third.is_ascii()) => {
            tell(LitterKind::DoubleUtf8, at);
        }
        _ => {}
    }
}

/// Blanks in a row; and words that stand twice, with blanks between.
#[inline]
fn blank(text: &[u8], at: usize, last: Option<usize>, tell: &mut impl FnMut(LitterKind, usize)) {
    if at > 0 && is_blank_byte(text[at - 1]) {
        return; // The first blank of a run speaks for it.
    }
    let Some(mut first) = text.get(at + 1) else { return };
    let mut after = at + 1;
    if is_blank_byte(*first) {
        tell(LitterKind::BlankRuns, at);
        after = skip_blanks(text, after);
        let Some(behind) = text.get(after) else { return };
        first = behind;
    }
    let start = last.map_or(0, |last| last + 1);
    let beyond_ascii = !first.is_ascii() || last.is_some_and(|last| !text[last].is_ascii());
    if beyond_ascii {
        if may_be_doubled_beyond_ascii(&text[..at], &text[after..]) {
            tell(LitterKind::DoubledWords, at);
        }
    } else if start < at && text[start].eq_ignore_ascii_case(first) && is_doubled(&text[start..at], &text[after..]) {
        tell(LitterKind::DoubledWords, at);
    }
}

/// Whether `after` starts with this word, and not with a longer one.
fn is_doubled(word: &[u8], after: &[u8]) -> bool {
    after.get(..word.len()).is_some_and(|same| same.eq_ignore_ascii_case(word))
        && !after.get(word.len()).is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_')
}

/// The same for words with letters beyond ASCII: the first letters are compared.
#[cold]
fn may_be_doubled_beyond_ascii(before: &[u8], after: &[u8]) -> bool {
    let Some((first, _)) = char_at(after, 0).filter(|(first, _)| first.is_alphabetic()) else { return false };
    let mut opening = None;
    let mut at = before.len();
    while let Some(character) = char_before(before, at).filter(|character| character.is_alphabetic()) {
        at -= character.len_utf8();
        opening = Some(character);
    }
    opening.is_some_and(|opening| fold(opening) == fold(first))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_are_told_from_all_other_bytes() {
        for byte in 0..=u8::MAX {
            let mut bytes = *b"aaaZzAaa";
            bytes[3] = byte;
            let others = others_than_letters(u64::from_le_bytes(bytes));
            let want = if byte.is_ascii_alphabetic() { 0 } else { 0x80 << 24 };
            assert_eq!(others, want, "{byte:#x}");
        }
    }
}
