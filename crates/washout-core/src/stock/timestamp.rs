//! Times of day and time codes.
//!
//! Takes `m:ss` to `hh:mm:ss`, with a fraction after `.` or `,`, with am or pm, and with the brackets or parentheses
//! around it. What stands before and after must not make it a part of something longer: an IPv6 address, a version,
//! a date and time, a Bible verse with a letter.

use crate::text::chars::{char_at, char_before};
use crate::text::lines::skip_blanks;
use crate::text::walk::Walk;
use crate::words::is_word_char;

/// Finds timestamps.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Timestamp;

/// Digits in a fraction of a second; more are some other number.
const MOST_FRACTION_DIGITS: usize = 9;

impl Timestamp {
    /// The first place at or after `from` where a timestamp may start.
    #[inline]
    pub(crate) fn next_candidate(text: &[u8], from: usize) -> Option<usize> {
        // Every timestamp has a colon within four bytes (bracket, blank, two digits) of its start, and colons are
        // far rarer than digits and brackets.
        let mut from = from;
        loop {
            let colon = from + memchr::memchr(b':', &text[from..])?;
            let earliest = colon.saturating_sub(4).max(from);
            if let Some(found) = text[earliest..colon].iter().position(|byte| may_start(*byte)) {
                return Some(earliest + found);
            }
            from = colon + 1;
        }
    }

    /// The end of the longest timestamp that starts at `at` and whose end is accepted.
    pub(crate) fn match_at(text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<usize> {
        let closing = match text.get(at)? {
            b'[' => b']',
            b'(' => b')',
            _ => return bare(text, at, &accept),
        };
        let inner = skip_one_blank(text, at + 1);
        // A bracket is taken with its time or not at all, so what ends before the bracket is no end.
        bare(text, inner, &|end| closes(text, end, closing).is_some_and(&accept))
            .and_then(|end| closes(text, end, closing))
    }
}

fn may_start(byte: u8) -> bool {
    byte.is_ascii_digit() || matches!(byte, b'[' | b'(')
}

fn skip_one_blank(text: &[u8], at: usize) -> usize {
    skip_blanks(text, at).min(at + 1)
}

fn closes(text: &[u8], end: usize, closing: u8) -> Option<usize> {
    let at = skip_one_blank(text, end);
    (text.get(at) == Some(&closing)).then_some(at + 1)
}

/// A time without its brackets: the longest of its readings that is whole and accepted.
fn bare(text: &[u8], at: usize, accept: &impl Fn(usize) -> bool) -> Option<usize> {
    if !may_follow(text, at) {
        return None;
    }
    let digits = digits_at(text, at);
    if !(1..=2).contains(&digits) {
        return None;
    }
    let minutes = sixtieth(text, at + digits)?;
    let clock = sixtieth(text, minutes).unwrap_or(minutes);
    let exact = fraction(text, clock).unwrap_or(clock);
    let half = half_of_day(text, exact);
    half.into_iter().chain([exact]).find(|end| may_end(text, *end) && accept(*end))
}

/// `:` and two digits below 60.
fn sixtieth(text: &[u8], at: usize) -> Option<usize> {
    match text.get(at..at + 3)? {
        [b':', b'0'..=b'5', b'0'..=b'9'] => Some(at + 3),
        _ => None,
    }
}

fn fraction(text: &[u8], at: usize) -> Option<usize> {
    if !matches!(text.get(at), Some(b'.' | b',')) {
        return None;
    }
    let digits = digits_at(text, at + 1);
    (1..=MOST_FRACTION_DIGITS).contains(&digits).then_some(at + 1 + digits)
}

/// `am`, `pm`, `a.m.` or `p.m.`, after at most one blank.
fn half_of_day(text: &[u8], at: usize) -> Option<usize> {
    let at = skip_one_blank(text, at);
    let rest: Vec<u8> = text[at..].iter().take(4).map(u8::to_ascii_lowercase).collect();
    let len = match rest[..] {
        [b'a' | b'p', b'.', b'm', b'.'] => 4,
        [b'a' | b'p', b'm', ..] => 2,
        _ => return None,
    };
    Some(at + len)
}

fn digits_at(text: &[u8], at: usize) -> usize {
    text.get(at..).map_or(0, |rest| rest.iter().take_while(|byte| byte.is_ascii_digit()).count())
}

/// Whether a time may start at `at`: not inside a word, a number or a longer row of colons.
fn may_follow(text: &[u8], at: usize) -> bool {
    match char_before(text, at) {
        None => true,
        Some(':' | '_') => false,
        Some('.' | ',') => !char_before(text, at - 1).is_some_and(|before| before.is_ascii_digit()),
        Some(before) => !is_word_char(before),
    }
}

/// Whether a time may end at `end`.
fn may_end(text: &[u8], end: usize) -> bool {
    match char_at(text, end) {
        None => true,
        Some(('_', _)) => false,
        // `44:11:3a`, `10:15:99`, `12:30.5.1`; but a colon or point with no letter or digit after it ends a clause.
        Some((':' | '.' | ',', _)) => !char_at(text, end + 1)
            .is_some_and(|(after, _)| is_word_char(after) && (after.is_ascii_digit() || text[end] == b':')),
        Some((after, _)) => !is_word_char(after),
    }
}

impl Walk for Timestamp {
    fn next_candidate(&self, text: &[u8], from: usize) -> Option<usize> {
        Self::next_candidate(text, from)
    }

    fn match_at(&self, text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<usize> {
        Self::match_at(text, at, accept)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn first(text: &str) -> Option<&str> {
        let text_bytes = text.as_bytes();
        let mut from = 0;
        while let Some(at) = Timestamp::next_candidate(text_bytes, from) {
            if let Some(end) = Timestamp::match_at(text_bytes, at, |_| true) {
                return Some(&text[at..end]);
            }
            from = at + 1;
        }
        None
    }

    #[test]
    fn takes_times_whole() {
        for (text, want) in [
            ("0:14", "0:14"),
            ("00:14 Marrow Point", "00:14"),
            ("at 12:30 sharp", "12:30"),
            ("relief at 9:05:59.", "9:05:59"),
            ("01:02:03.250 lamp lit", "01:02:03.250"),
            ("01:02:03,250 lamp lit", "01:02:03,250"),
            ("at 14:05, fog", "14:05"),
            ("[01:02] call", "[01:02]"),
            ("( 1:02:03 ) call", "( 1:02:03 )"),
            ("(12:30 to noon)", "12:30"),
            ("7:45 pm and after", "7:45 pm"),
            ("7:45PM", "7:45PM"),
            ("7:45 p.m. and after", "7:45 p.m."),
            ("7:45 pmx", "7:45"),
            ("12:30-13:00", "12:30"),
            ("14:05: lamp lit", "14:05"),
            ("7:45 a.m", "7:45"),
        ] {
            assert_eq!(first(text), Some(want), "{text:?}");
        }
    }

    #[test]
    fn leaves_what_only_looks_like_a_time() {
        for text in [
            "a ratio of 1:2",
            "12:60",
            "12:3",
            "123:45",
            "fe80::1:20",
            "00:1b:44:11:3a:b7",
            "2026-01-05T14:05:00Z",
            "v1.12:30",
            "12:30.5.1",
            "12:301",
            "x12:30",
            "12:30x",
            "lamp_12:30_room",
            "10:15:99",
        ] {
            assert_eq!(first(text), None, "{text:?}");
        }
    }
}
