//! Quick looks for places where litter may be: they may say yes too often, never too seldom.
//!
//! Each kind is looked for in one pass, so that its places ascend.

use memchr::{memchr, memchr_iter, memchr2_iter, memchr3_iter, memmem};

use super::kinds::LitterKind;

/// Tells of every place in `text` where a kind may be, each kind in ascending order.
pub(super) fn candidates(text: &[u8], mut tell: impl FnMut(LitterKind, usize)) {
    colons(text, &mut tell);
    for at in memmem::find_iter(text, b"-->") {
        tell(LitterKind::CaptionTimes, at);
    }
    for at in memchr3_iter(b'(', b'[', b'{', text) {
        tell(LitterKind::Brackets, at);
    }
    for at in memchr_iter(b'&', text) {
        if text.get(at + 1).is_some_and(|next| next.is_ascii_alphabetic() || *next == b'#') {
            tell(LitterKind::HtmlEntities, at);
        }
    }
    // U+009B (C2 9B) opens the same sequences in one character.
    for at in memchr2_iter(0x1B, 0x9B, text) {
        if text[at] == 0x1B || text[..at].ends_with(b"\xC2") {
            tell(LitterKind::AnsiEscapes, at);
        }
    }
    double_utf8(text, &mut tell);
    blanks(text, &mut tell);
}

fn colons(text: &[u8], tell: &mut impl FnMut(LitterKind, usize)) {
    for at in memchr_iter(b':', text) {
        let digit = |byte: Option<&u8>| byte.is_some_and(u8::is_ascii_digit);
        if digit(text.get(at + 1)) && digit(at.checked_sub(1).and_then(|before| text.get(before))) {
            tell(LitterKind::TimeCodesInline, at);
        }
    }
}

/// UTF-8 read as windows-1252 and written as UTF-8 again starts with one of the characters that lead bytes (0xC2 to
/// 0xF4) turn into, U+00C2 to U+00F4, and goes on beyond ASCII.
fn double_utf8(text: &[u8], tell: &mut impl FnMut(LitterKind, usize)) {
    let mut from = 0;
    while let Some(found) = memchr(0xC3, &text[from..]) {
        let at = from + found;
        let lead = text.get(at + 1).is_some_and(|next| (0x82..=0xB4).contains(next));
        if lead && text.get(at + 2).is_some_and(|next| !next.is_ascii()) {
            tell(LitterKind::DoubleUtf8, at);
        }
        from = at + 1;
    }
}

/// Blanks in a row; and words that stand twice, with blanks between: after a blank comes what came before it.
fn blanks(text: &[u8], tell: &mut impl FnMut(LitterKind, usize)) {
    let is_blank = |at: usize| matches!(text.get(at), Some(b' ' | b'\t'));
    let mut before = 0;
    for at in memchr2_iter(b' ', b'\t', text) {
        if is_blank(at + 1) {
            tell(LitterKind::BlankRuns, at);
        }
        if may_be_doubled(&text[before..at], &text[at + 1..]) {
            tell(LitterKind::DoubledWords, at);
        }
        before = at + 1;
    }
}

/// Whether the word that `before` ends with may be the one that `after`, behind a blank, starts with.
#[inline]
fn may_be_doubled(before: &[u8], after: &[u8]) -> bool {
    let (Some(last), Some(first)) = (before.last(), after.first()) else { return false };
    if !last.is_ascii() || !first.is_ascii() || matches!(first, b' ' | b'\t') {
        // Letters beyond ASCII may be of another length in the other case; more blanks may follow.
        return true;
    }
    if !last.is_ascii_alphabetic() || !first.is_ascii_alphabetic() {
        return false;
    }
    // Most words are told apart by their first letter; what is before may start with a sign or on the line before.
    let letters = before.iter().rev().take_while(|byte| byte.is_ascii_alphabetic()).count();
    let start = before.len() - letters;
    let beyond_ascii = start > 0 && !before[start - 1].is_ascii();
    beyond_ascii
        || (before[start].eq_ignore_ascii_case(first)
            && after.get(..letters).is_some_and(|word| word.eq_ignore_ascii_case(&before[start..])))
}
