//! Records of comma-separated values (RFC 4180) and of the same with other delimiters.
//!
//! Read more widely than that standard: lines may end in LF or CR alone, a quotation mark within a cell that does not
//! begin with one stands for itself, and empty lines are not records.

use std::borrow::Cow;

use memchr::{memchr, memchr3};

use super::LineEnd;
use super::lines::line_ends;
use super::matches::Span;

pub(crate) const QUOTE: u8 = b'"';

/// What is wrong with a record.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum CsvFault {
    /// A quotation mark is never closed.
    Unclosed,
    /// Text follows the closing quotation mark of a cell.
    AfterQuote,
}

impl CsvFault {
    /// What the record does, in words.
    pub(crate) fn what(self) -> &'static str {
        match self {
            Self::AfterQuote => {
                "goes on after a closing quotation mark; a quotation mark within quotes is written twice"
            }
            Self::Unclosed => "opens a quotation mark that nothing closes",
        }
    }
}

/// A record of a CSV table: the number of its first line, from 1, and its cells without quotes.
type RecordAt = (u64, Vec<Vec<u8>>);

/// The records of a whole CSV table, each with the number of its first line, from 1, and its cells without quotes.
///
/// Empty lines are not records, nor are lines between records that are comments. An error is the last item: its line, and
/// what is wrong there.
pub(crate) fn table_records(
    text: &[u8],
    delimiter: u8,
    is_comment: impl Fn(&[u8]) -> bool,
) -> impl Iterator<Item = Result<RecordAt, (u64, &'static str)>> {
    let (mut at, mut line) = (0, 1);
    std::iter::from_fn(move || {
        while at < text.len() {
            let (start, first_line) = (at, line);
            let line_end = memchr::memchr2(b'\n', b'\r', &text[at..]).map_or(text.len(), |end| at + end);
            if line_end == start || is_comment(&text[start..line_end]) {
                at = line_end + LineEnd::starting_at(text, line_end).map_or(0, |end| end.as_bytes().len());
                line += 1;
                continue;
            }
            let mut raw = Vec::new();
            let record = read_record(text, start, delimiter, true, |cell| raw.push(cell));
            let cells = record.and_then(|end| {
                at = end.map_or(text.len(), |end| end.all);
                raw.iter().map(|raw| Ok(unquoted(raw.of(text))?.into_owned())).collect::<Result<Vec<_>, CsvFault>>()
            });
            line += line_ends(&text[start..at]);
            return Some(match cells {
                Ok(cells) => Ok((first_line, cells)),
                Err(broken) => {
                    at = text.len();
                    Err((first_line, broken.what()))
                }
            });
        }
        None
    })
}

/// Where a record ends.
#[derive(Clone, Copy, Debug)]
pub(crate) struct RecordEnd {
    /// Without its line end.
    pub(crate) content: usize,
    /// With its line end.
    pub(crate) all: usize,
}

/// Reads the record at `start`, cell by cell as written. `None`: it may go on after the text. `last`: no more text
/// follows.
pub(crate) fn read_record(
    text: &[u8],
    start: usize,
    delimiter: u8,
    last: bool,
    mut cell: impl FnMut(Span),
) -> Result<Option<RecordEnd>, CsvFault> {
    let mut at = start;
    loop {
        let raw = at;
        if text.get(at) == Some(&QUOTE) {
            match closing(text, at + 1) {
                Some(close) => at = close + 1,
                None if last => return Err(CsvFault::Unclosed),
                None => return Ok(None),
            }
        }
        let found = memchr3(delimiter, b'\n', b'\r', &text[at..]);
        let end = found.map_or(text.len(), |found| at + found);
        cell(Span::new(raw, end));
        match text.get(end) {
            None if last => return Ok(Some(RecordEnd { content: end, all: end })),
            None => return Ok(None),
            Some(byte) if *byte == delimiter => at = end + 1,
            Some(b'\r') => match text.get(end + 1) {
                Some(b'\n') => return Ok(Some(RecordEnd { content: end, all: end + 2 })),
                None if !last => return Ok(None),
                _ => return Ok(Some(RecordEnd { content: end, all: end + 1 })),
            },
            Some(_) => return Ok(Some(RecordEnd { content: end, all: end + 1 })),
        }
    }
}

/// The quotation mark that closes what was opened before `at`.
fn closing(text: &[u8], at: usize) -> Option<usize> {
    let mut at = at;
    loop {
        let quote = at + memchr(QUOTE, &text[at..])?;
        if text.get(quote + 1) != Some(&QUOTE) {
            return Some(quote);
        }
        at = quote + 2;
    }
}

/// The value of a cell as written.
pub(crate) fn unquoted(raw: &[u8]) -> Result<Cow<'_, [u8]>, CsvFault> {
    if raw.first() != Some(&QUOTE) {
        return Ok(Cow::Borrowed(raw));
    }
    let close = closing(raw, 1).ok_or(CsvFault::Unclosed)?;
    if close + 1 != raw.len() {
        return Err(CsvFault::AfterQuote);
    }
    let inner = &raw[1..close];
    if memchr(QUOTE, inner).is_none() {
        return Ok(Cow::Borrowed(inner));
    }
    let mut value = Vec::with_capacity(inner.len());
    let mut from = 0;
    while let Some(quote) = memchr(QUOTE, &inner[from..]) {
        value.extend_from_slice(&inner[from..=from + quote]);
        from += quote + 2;
    }
    value.extend_from_slice(&inner[from..]);
    Ok(Cow::Owned(value))
}
