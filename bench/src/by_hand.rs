//! The twelve rules written by hand for the texts of this benchmark, and for nothing else: how fast rules could be if each
//! set of them were compiled to a program of its own.
//!
//! A line at a time, rule by rule, each looking only for what can call for it. Lines end in LF, and whoever wrote this knew
//! which rules cannot get in each other's way.

use std::ops::Range;

use memchr::memmem::Finder;
use memchr::{memchr, memchr_iter, memchr3_iter};

const UNWANTED: &[&str] = &["-copy", "(draft)", "[sic]"];

/// What is in the way of a word: no letter, digit or underscore of ASCII, nor a letter beyond.
fn ends_word(byte: Option<&u8>) -> bool {
    byte.is_none_or(|byte| byte.is_ascii() && !byte.is_ascii_alphanumeric() && *byte != b'_')
}

fn is_blank(byte: u8) -> bool {
    matches!(byte, b' ' | b'\t')
}

/// Appends what the twelve rules make of `text` to `out`.
pub fn twelve_rules_by_hand(text: &[u8], out: &mut Vec<u8>) {
    let two_spaces = Finder::new("  ");
    let mut line = Vec::with_capacity(1024);
    let mut from = 0;
    while from < text.len() {
        let end = memchr(b'\n', &text[from..]).map_or(text.len(), |found| from + found + 1);
        let whole = &text[from..end];
        from = end;
        let (content, line_end) = match whole.split_last() {
            Some((b'\n', content)) => (content, &b"\n"[..]),
            _ => (whole, &b""[..]),
        };
        line.clear();
        line.extend_from_slice(content);
        if wash(&mut line, &two_spaces) {
            out.extend_from_slice(&line);
            out.extend_from_slice(line_end);
        }
    }
}

/// What a line may hold, each a bit of a byte.
const ODD: u8 = 1;
const FILLER: u8 = 2;
const UNWANTED_START: u8 = 4;
const DATE: u8 = 8;
const SPACES: u8 = 16;

/// One look over a line for all that calls for rules in the middle of it; the compiler makes vector code of it. Code for
/// longer vectors was no faster on lines as short as these.
#[expect(clippy::needless_bitwise_bool, reason = "branches would be in the way of vector code")]
fn look(line: &[u8]) -> u8 {
    let flag = |flag: u8, holds: bool| if holds { flag } else { 0 };
    let odd = |byte: u8| flag(ODD, !(b' '..0x7F).contains(&byte));
    let Some(last) = line.len().checked_sub(2) else { return line.iter().fold(0, |all, byte| all | odd(*byte)) };
    let rows = line[..last].iter().zip(&line[1..]).zip(&line[2..]);
    let in_rows = rows.fold(0, |all, ((a, b), c)| {
        let (small_b, small_c) = (b | 0x20, c | 0x20);
        let um = (small_b == b'u') & ((small_c == b'm') | (small_c == b'h'));
        let er = (small_b == b'e') & (small_c == b'r');
        let start = ((*a == b'-') & (*b == b'c')) | ((*a == b'(') & (*b == b'd')) | ((*a == b'[') & (*b == b's'));
        all | odd(*a)
            | flag(FILLER, (*a == b' ') & (um | er))
            | flag(UNWANTED_START, start)
            | flag(DATE, a.is_ascii_digit() & (*b == b'.') & c.is_ascii_digit())
            | flag(SPACES, (*a == b' ') & (*b == b' '))
    });
    // Two spaces at the very end are trimmed in any case.
    line[last..].iter().fold(in_rows, |all, byte| all | odd(*byte))
}

/// Whether the line stays.
fn wash(line: &mut Vec<u8>, two_spaces: &Finder<'_>) -> bool {
    let mut holds = look(line);
    if holds & ODD != 0 {
        characters(line);
        holds = look(line);
    }
    let blanks = line.iter().take_while(|byte| is_blank(**byte)).count();
    let first = line.get(blanks).copied().unwrap_or(b'\n');
    if first.is_ascii_digit() || matches!(first, b'[' | b'(') {
        if is_timestamp(&line[blanks..]) {
            return false;
        }
        if let Some(number) = line_number(&line[blanks..]) {
            line.drain(..blanks + number);
            holds = look(line);
        }
    }
    if holds & FILLER != 0 {
        let mut at = 0;
        while let Some(word) = filler(line, at) {
            at = word.start;
            line.drain(word);
        }
        holds = look(line);
    }
    if holds & UNWANTED_START != 0 {
        let mut at = 0;
        while let Some(found) = unwanted(line, at) {
            at = found.start;
            line.drain(found);
        }
        holds = look(line);
    }
    if holds & DATE != 0 {
        dates(line);
    }
    if holds & SPACES != 0 {
        let mut at = 0;
        while let Some(found) = line.get(at..).and_then(|rest| two_spaces.find(rest)).map(|found| at + found) {
            let more = line[found + 1..].iter().take_while(|byte| **byte == b' ').count();
            line.drain(found + 1..found + 1 + more);
            at = found + 1;
        }
    }
    if line.starts_with(b"MARROW POINT LIGHT STATION ") && is_page_heading(line) {
        return false;
    }
    edges(line);
    let kept = line.iter().rposition(|byte| !is_blank(*byte)).map_or(0, |last| last + 1);
    line.truncate(kept);
    true
}

/// Puts the year first.
fn dates(line: &mut [u8]) {
    let mut at = 0;
    while let Some(point) = line.get(at..).and_then(|rest| memchr(b'.', rest)).map(|found| at + found) {
        at = point + 1;
        if let Some(date) = point.checked_sub(2).and_then(|start| line.get_mut(start..start + 10))
            && let [d, e, b'.', m, n, b'.', y @ ..] = &*date
            && [d, e, m, n].into_iter().chain(y).all(u8::is_ascii_digit)
        {
            let turned = [y[0], y[1], y[2], y[3], b'-', *m, *n, b'-', *d, *e];
            date.copy_from_slice(&turned);
            at = point + 8;
        }
    }
}

/// Control and invisible characters, odd spaces and double quotation marks: no other rule comes between these here.
fn characters(line: &mut Vec<u8>) {
    let (mut from, mut to) = (0, 0);
    while from < line.len() {
        let (len, put) = match line[from..] {
            [0..=8 | 11 | 12 | 14..=31 | 127, ..] => (1, None),
            [0xC2, 0x80..=0x9F | 0xAD, ..] => (2, None),
            [0xC2, 0xA0, ..] => (2, Some(b' ')),
            [0xC2, 0xAB | 0xBB, ..] => (2, Some(b'"')),
            [0xE2, 0x80, 0x8B | 0x8E | 0x8F | 0xAA..=0xAE, ..]
            | [0xE2, 0x81, 0xA0..=0xAF, ..]
            | [0xEF, 0xBB, 0xBF, ..] => (3, None),
            [0xE2, 0x80, 0x80..=0x8A | 0xA8 | 0xA9 | 0xAF, ..]
            | [0xE1, 0x9A, 0x80, ..]
            | [0xE2, 0x81, 0x9F, ..]
            | [0xE3, 0x80, 0x80, ..] => (3, Some(b' ')),
            [0xE2, 0x80, 0x9C..=0x9F, ..]
            | [0xE2, 0xB9, 0x82, ..]
            | [0xE3, 0x80, 0x9D..=0x9F, ..]
            | [0xEF, 0xBC, 0x82, ..] => (3, Some(b'"')),
            _ => (1, Some(line[from])),
        };
        if let Some(put) = put {
            line[to] = put;
            to += 1;
        }
        from += len;
    }
    line.truncate(to);
}

fn digits(text: &[u8], most: usize) -> usize {
    text.iter().take(most).take_while(|byte| byte.is_ascii_digit()).count()
}

fn is_timestamp(rest: &[u8]) -> bool {
    let mut rest = rest.strip_prefix(b"[").or(rest.strip_prefix(b"(")).unwrap_or(rest);
    let hours = digits(rest, 2);
    let two = |rest: &[u8]| matches!(rest, [b':', b'0'..=b'5', b'0'..=b'9', ..]);
    if hours == 0 || !two(&rest[hours..]) {
        return false;
    }
    rest = &rest[hours + 3..];
    if two(rest) {
        rest = &rest[3..];
    }
    if let [b'.' | b',', behind @ ..] = rest
        && digits(behind, 9) > 0
    {
        rest = &behind[digits(behind, 9)..];
    }
    let rest = rest.strip_prefix(b"]").or(rest.strip_prefix(b")")).unwrap_or(rest);
    rest.iter().all(|byte| is_blank(*byte))
}

/// The length of a line number and the blank behind it.
fn line_number(rest: &[u8]) -> Option<usize> {
    let mut len = if rest.starts_with(b"[") {
        let number = digits(&rest[1..], 7);
        if number == 0 || rest.get(number + 1) != Some(&b']') {
            return None;
        }
        number + 2
    } else {
        let number = digits(rest, 7);
        if number == 0 {
            return None;
        }
        number + usize::from(matches!(rest.get(number), Some(b'.' | b':' | b')')))
    };
    let blanks = rest[len..].iter().take_while(|byte| is_blank(**byte)).count();
    if rest.get(len + blanks) == Some(&b'|') {
        len += blanks + 1;
    }
    match rest.get(len) {
        None => Some(len),
        Some(byte) => is_blank(*byte).then_some(len + 1),
    }
}

/// The next filler word with the blank before it.
fn filler(line: &[u8], from: usize) -> Option<Range<usize>> {
    memchr_iter(b' ', &line[from..]).map(|found| from + found).find_map(|space| {
        let word = line.get(space + 1..space + 3)?;
        let word = [word[0].to_ascii_lowercase(), word[1].to_ascii_lowercase()];
        let fills = matches!(&word, b"um" | b"uh" | b"er") && ends_word(line.get(space + 3));
        fills.then_some(space..space + 3)
    })
}

fn unwanted(line: &[u8], from: usize) -> Option<Range<usize>> {
    memchr3_iter(b'-', b'(', b'[', &line[from..]).map(|found| from + found).find_map(|start| {
        let found = UNWANTED.iter().find(|text| line[start..].starts_with(text.as_bytes()))?;
        Some(start..start + found.len())
    })
}

fn is_page_heading(line: &[u8]) -> bool {
    let number = line.iter().rev().take_while(|byte| byte.is_ascii_digit()).count();
    number > 0 && line[..line.len() - number].ends_with(b" page ") && line.len() - number >= 33
}

/// Takes rows of `#` and `*` away at both edges, with the blanks outside of them.
fn edges(line: &mut Vec<u8>) {
    let is_mark = |byte: &u8| matches!(byte, b'#' | b'*');
    let blanks = line.iter().take_while(|byte| is_blank(**byte)).count();
    let marks = line[blanks..].iter().take_while(|byte| is_mark(byte)).count();
    if marks > 0 {
        line.drain(..blanks + marks);
    }
    let text = line.iter().rposition(|byte| !is_blank(*byte)).map_or(0, |last| last + 1);
    let marks = line[..text].iter().rev().take_while(|byte| is_mark(byte)).count();
    if marks > 0 {
        line.truncate(text - marks);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Dirt, Script, TWELVE_PATTERNS, log_in};

    #[test]
    fn what_is_written_by_hand_does_what_the_plain_loop_does() {
        for script in [Script::Ascii, Script::Mixed] {
            let text = log_in(script, 300_000, Dirt::All);
            let mut plain = text.clone();
            for (pattern, with) in TWELVE_PATTERNS {
                let regex = regex::bytes::Regex::new(pattern).expect("a pattern");
                plain = regex.replace_all(&plain, with.as_bytes()).into_owned();
            }
            let mut by_hand = Vec::new();
            twelve_rules_by_hand(&text, &mut by_hand);
            assert!(by_hand == plain, "{script:?}");
        }
    }
}
