//! The number of a line, at its start or its end.
//!
//! At the start: `12`, `12.`, `12:`, `12)`, `[12]`, `0012`, then a blank, a `|` or the end of the line. The blanks
//! before it are taken, and exactly one blank or tab after it, so that the text's own indentation stays.
//! At the end: `12`, `[12]` or `0012` with the blanks before it. `12.`, `12:` and `12)` are not taken there: a
//! sentence may end in a year.

use std::ops::Range;

use crate::text::chars::is_blank_byte;
use crate::text::lines::{Line, skip_blanks, skip_blanks_back};

/// Finds line numbers.
#[derive(Clone, Copy, Debug)]
pub(crate) struct LineNumber;

/// Digits in a line number; more are some other number.
const MOST_DIGITS: usize = 7;

impl LineNumber {
    /// The number at the start of `line`, with the blanks around it that it takes.
    pub(crate) fn at_start(text: &[u8], line: Line) -> Option<Range<usize>> {
        let content = &text[..line.content_end];
        let number = skip_blanks(content, line.start);
        let after = opening_form(content, number)?;
        let bar = skip_blanks(content, after);
        let end = match content.get(bar) {
            Some(b'|') => bar + 1,
            _ if bar == after && after < content.len() => return None,
            _ => after,
        };
        let blank = content.get(end).is_some_and(|byte| is_blank_byte(*byte));
        Some(line.start..end + usize::from(blank))
    }

    /// The number at the end of `line`, no part of it before `from`, with the blanks before it.
    pub(crate) fn at_end(text: &[u8], line: Line, from: usize) -> Option<Range<usize>> {
        let end = skip_blanks_back(&text[..line.content_end], line.content_end).max(from);
        let number = closing_form(&text[from..end])? + from;
        let blanks = from + skip_blanks_back(&text[from..number], number - from);
        let has_bar = blanks > from && text[blanks - 1] == b'|';
        let start = if has_bar { from + skip_blanks_back(&text[from..blanks - 1], blanks - 1 - from) } else { blanks };
        let alone = has_bar || blanks < number || number == line.start || is_blank_byte(text[number - 1]);
        alone.then_some(start..end)
    }

    /// The number that `line` holds and nothing else.
    pub(crate) fn whole_line(text: &[u8], line: Line) -> Option<Range<usize>> {
        Self::at_start(text, line).filter(|span| skip_blanks(&text[..line.content_end], span.end) == line.content_end)
    }
}

fn digits(text: &[u8]) -> Option<usize> {
    let digits = text.iter().take_while(|byte| byte.is_ascii_digit()).count();
    (1..=MOST_DIGITS).contains(&digits).then_some(digits)
}

/// The end of a number form that starts at `at`.
fn opening_form(text: &[u8], at: usize) -> Option<usize> {
    if text.get(at) == Some(&b'[') {
        let end = at + 1 + digits(&text[at + 1..])?;
        return (text.get(end) == Some(&b']')).then_some(end + 1);
    }
    let end = at + digits(&text[at..])?;
    let mark = matches!(text.get(end), Some(b'.' | b':' | b')'));
    Some(end + usize::from(mark))
}

/// The start of a number form that `text` ends with.
fn closing_form(text: &[u8]) -> Option<usize> {
    let (inner, bracketed) = match text {
        [inner @ .., b']'] => (inner, true),
        _ => (text, false),
    };
    let digits = inner.iter().rev().take_while(|byte| byte.is_ascii_digit()).count();
    let start = inner.len() - digits;
    if !(1..=MOST_DIGITS).contains(&digits) {
        return None;
    }
    if bracketed {
        return (start > 0 && inner[start - 1] == b'[').then(|| start - 1);
    }
    Some(start)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at_start(text: &str) -> Option<&str> {
        LineNumber::at_start(text.as_bytes(), Line::at(text.as_bytes(), 0)).map(|span| &text[span])
    }

    fn at_end(text: &str) -> Option<&str> {
        LineNumber::at_end(text.as_bytes(), Line::at(text.as_bytes(), 0), 0).map(|span| &text[span])
    }

    #[test]
    fn numbers_at_the_start_take_one_blank_after_them() {
        for (text, want) in [
            ("12 lamp", Some("12 ")),
            ("  12.   lamp", Some("  12. ")),
            ("12:\tlamp", Some("12:\t")),
            ("12) lamp", Some("12) ")),
            ("[12] lamp", Some("[12] ")),
            ("0012 lamp", Some("0012 ")),
            ("12 | lamp", Some("12 | ")),
            ("12|lamp", Some("12|")),
            ("12", Some("12")),
            ("12.5 m of water", None),
            ("12m of water", None),
            ("12,000 candles", None),
            ("14:05 lamp lit", None),
            ("[12 lamp", None),
            ("12345678 lamp", None),
            ("192.168.0.1 is up", None),
            ("3:16 says", None),
            ("1:2 is the ratio", None),
            ("555-0134 rang", None),
            ("lamp 12", None),
        ] {
            assert_eq!(at_start(text), want, "{text:?}");
        }
    }

    #[test]
    fn numbers_at_the_end_take_the_blanks_before_them() {
        for (text, want) in [
            ("lamp   12", Some("   12")),
            ("lamp [12]", Some(" [12]")),
            ("lamp\t0012  ", Some("\t0012")),
            ("lamp | 12", Some(" | 12")),
            ("12", Some("12")),
            ("lamp12", None),
            ("at 14:05", None),
            ("in 1912.", None),
            ("12.5", None),
            ("(see note 12)", None),
            ("lamp 12345678", None),
            ("lamp 12]", None),
        ] {
            assert_eq!(at_end(text), want, "{text:?}");
        }
    }
}
