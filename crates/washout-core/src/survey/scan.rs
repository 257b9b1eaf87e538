//! One quick pass over a text for the places where litter may be: it may say yes too often, never too seldom.
//!
//! Most of a text is letters of ASCII and spaces between words. A bit for each byte of a block tells where the others
//! are; only those few that may begin something are looked at.

use super::kinds::LitterKind;
use crate::text::chars::{char_at, char_before, is_blank_byte};
use crate::text::lines::skip_blanks;
use crate::words::fold;

/// Bytes that are looked at at once: a bit for each in a word.
const BLOCK: usize = 64;

/// Tells of every place in `text` where a kind may be. The places of one kind ascend.
pub(super) fn candidates(text: &[u8], mut tell: impl FnMut(LitterKind, usize)) {
    // Where the word before a blank starts: after the last byte that is not a letter of ASCII.
    let mut word = 0;
    let (blocks, rest) = text.as_chunks::<BLOCK>();
    for (index, block) in blocks.iter().enumerate() {
        word = look_at_block(text, index * BLOCK, &BlockBits::of(block), word, &mut tell);
    }
    let mut last = [b'a'; BLOCK];
    last[..rest.len()].copy_from_slice(rest);
    look_at_block(text, text.len() - rest.len(), &BlockBits::of(&last), word, &mut tell);
}

/// What the bytes of a block are, a bit each.
struct BlockBits {
    /// No letters of ASCII.
    others: u64,
    /// Spaces and tabs.
    blanks: u64,
    /// Beyond ASCII.
    beyond: u64,
}

impl BlockBits {
    #[inline]
    fn of(block: &[u8; BLOCK]) -> Self {
        let (words, _) = block.as_chunks::<8>();
        let (mut others, mut blanks, mut beyond) = (0, 0, 0);
        for (index, word) in words.iter().enumerate() {
            let bytes = u64::from_le_bytes(*word);
            others |= gathered(others_than_letters(bytes)) << (index * 8);
            blanks |= gathered(each(bytes, b' ') | each(bytes, b'\t')) << (index * 8);
        }
        if !block.is_ascii() {
            for (index, word) in words.iter().enumerate() {
                beyond |= gathered(u64::from_le_bytes(*word) & (EACH * 0x80)) << (index * 8);
            }
        }
        Self { others, blanks, beyond }
    }
}

const EACH: u64 = 0x0101_0101_0101_0101;

/// The top bits of eight bytes as the last bits of a word.
#[inline]
fn gathered(top_bits: u64) -> u64 {
    (top_bits >> 7).wrapping_mul(0x0102_0408_1020_4080) >> 56
}

/// The top bit of each of eight bytes that is not a letter of ASCII.
#[inline]
fn others_than_letters(bytes: u64) -> u64 {
    // Below 0x80, a sum with no carry into the next byte reaches the top bit just where the byte is large enough.
    let lower = (bytes | (EACH * 0x20)) & (EACH * 0x7F);
    let from_a = lower + EACH * (0x80 - u64::from(b'a'));
    let beyond_z = lower + EACH * (0x7F - u64::from(b'z'));
    !(from_a & !beyond_z & !bytes) & (EACH * 0x80)
}

/// The top bit of each of eight bytes that is this one.
#[inline]
fn each(bytes: u64, byte: u8) -> u64 {
    let others = bytes ^ (EACH * u64::from(byte));
    !(((others & (EACH * 0x7F)) + EACH * 0x7F) | others) & (EACH * 0x80)
}

/// Gives where the word starts that the block ends in.
#[inline]
fn look_at_block(
    text: &[u8],
    base: usize,
    bits: &BlockBits,
    word: usize,
    tell: &mut impl FnMut(LitterKind, usize),
) -> usize {
    let BlockBits { others, blanks, beyond } = *bits;
    let before = |bit: u32| before_end(others & ((1 << bit) - 1)).map_or(word, |end| base + end);
    // Blanks before a blank or beside what is beyond ASCII, and the last byte, whose next one is not seen here.
    let beside = beyond != 0 || (word > 0 && !text[word - 1].is_ascii());
    let special = if beside { u64::MAX } else { (blanks >> 1) | (1 << 63) };
    let mut left = blanks;
    while left != 0 {
        let bit = left.trailing_zeros();
        left &= left - 1;
        let (at, word) = (base + bit as usize, before(bit));
        if special & (1 << bit) != 0 || may_be_same(text, at, word) {
            blank(text, at, word, tell);
        }
    }
    let mut left = others & !blanks;
    while left != 0 {
        let bit = left.trailing_zeros();
        left &= left - 1;
        let at = base + bit as usize;
        if IS_TELLING[usize::from(text[at])] {
            look(text, at, tell);
        }
    }
    before_end(others).map_or(word, |end| base + end)
}

/// After the last bit that is set.
#[inline]
fn before_end(others: u64) -> Option<usize> {
    (others != 0).then(|| 64 - others.leading_zeros() as usize)
}

/// Bytes that [`look`] may tell something of.
static IS_TELLING: [bool; 256] = byte_table(b":([{&-<@.\x1B\x9B\xC3");

/// Of every byte, whether it is one of these.
pub(super) const fn byte_table(bytes: &[u8]) -> [bool; 256] {
    let mut table = [false; 256];
    let mut index = 0;
    while index < bytes.len() {
        table[bytes[index] as usize] = true;
        index += 1;
    }
    table
}

/// Whether the word before a blank and what stands after it start with the same letters, eight at most.
#[inline]
fn may_be_same(text: &[u8], at: usize, word: usize) -> bool {
    let (Some(one), Some(two)) = (eight(text, word), eight(text, at + 1)) else { return true };
    let first = FIRST[(at - word).min(8)];
    first != 0 && (one ^ two) & !(EACH * 0x20) & first == 0
}

/// The first that many of eight bytes.
const FIRST: [u64; 9] = {
    let mut first = [0; 9];
    let mut bytes = 1;
    while bytes < 9 {
        first[bytes] = u64::MAX >> (64 - 8 * bytes);
        bytes += 1;
    }
    first
};

#[inline]
fn eight(text: &[u8], at: usize) -> Option<u64> {
    text.get(at..)?.first_chunk().map(|bytes| u64::from_le_bytes(*bytes))
}

fn look(text: &[u8], at: usize, tell: &mut impl FnMut(LitterKind, usize)) {
    let next = || text.get(at + 1).copied().unwrap_or_default();
    match text[at] {
        b':' if next().is_ascii_digit() && at > 0 && text[at - 1].is_ascii_digit() => {
            tell(LitterKind::TimeCodesInline, at);
        }
        b':' if text[at..].starts_with(b"://") => tell(LitterKind::Urls, at),
        b'.' if at > 0 && matches!(text[at - 1], b'w' | b'W') => tell(LitterKind::Urls, at),
        b'<' => tell(LitterKind::Tags, at),
        b'@' => tell(LitterKind::Emails, at),
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
#[inline(never)]
fn blank(text: &[u8], at: usize, start: usize, tell: &mut impl FnMut(LitterKind, usize)) {
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
    let beyond_ascii = !first.is_ascii() || (start > 0 && !text[start - 1].is_ascii());
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
