//! Tables of comma-separated values, or of values between other delimiters.

use std::borrow::Cow;

use memchr::{memchr, memchr_iter, memchr3};

use super::error::Broken;
use super::grid::{CellKind, CellValue, Extent, Grid, GridCell};
use super::layout::Layout;
use crate::text::csv::{CsvFault, QUOTE, read_record, unquoted};
use crate::text::matches::Span;

/// A longer record is taken for one whose quotation mark is never closed.
pub(super) const LONGEST_RECORD: usize = 64 << 20;

/// How to read and to write such a table.
#[derive(Clone, Copy, Debug)]
pub(super) struct Csv {
    pub(super) delimiter: u8,
    pub(super) keeps_ragged: bool,
}

/// The first record of a table.
#[derive(Debug)]
pub(super) struct FirstRecord {
    /// Its cells, without quotes.
    pub(super) cells: Vec<Vec<u8>>,
    /// Where they are, quotes included.
    pub(super) raw: Vec<Span>,
    pub(super) end: usize,
}

impl Csv {
    /// The first record. `None`: there is none, only empty lines, or it is not whole. `last`: no more text follows.
    pub(super) fn first_record(self, text: &[u8], last: bool) -> Result<Option<FirstRecord>, Broken> {
        let mut at = 0;
        while at < text.len() {
            let mut raw = Vec::new();
            let end = read_record(text, at, self.delimiter, last, |cell| raw.push(cell))?;
            let Some(end) = end else { break };
            if end.content > at {
                let cells = raw.iter().map(|raw| Ok(unquoted(raw.of(text))?.into_owned()));
                let cells = cells.collect::<Result<_, CsvFault>>()?;
                return Ok(Some(FirstRecord { cells, raw, end: end.all }));
            }
            at = end.all;
        }
        Ok(None)
    }

    /// Reads records from the start of the text on, as far as `extent` goes and they are whole. Gives where they end.
    ///
    /// # Errors
    /// What is wrong, and where the record starts; those before are in the grid.
    pub(super) fn read(
        self,
        text: &[u8],
        extent: Extent,
        layout: &Layout,
        grid: &mut Grid,
    ) -> Result<usize, (usize, Broken)> {
        let seen_up_to = layout.seen_up_to();
        let mut raw = Vec::new();
        let mut at = 0;
        while at < text.len() && at < extent.bytes && (grid.records.len() as u64) < extent.records {
            let start = at;
            let stop = memchr3(b'\n', b'\r', QUOTE, &text[start..]).map(|found| start + found);
            let fields;
            raw.clear();
            if stop.is_some_and(|stop| text[stop] == QUOTE) {
                let mut count = 0;
                let end = read_record(text, start, self.delimiter, extent.last, |cell| {
                    if count < seen_up_to {
                        raw.push(cell);
                    }
                    count += 1;
                });
                at = match end {
                    Ok(Some(end)) => end.all,
                    Ok(None) => break,
                    Err(_) if self.keeps_ragged => text.len(),
                    Err(fault) => return Err((start, fault.into())),
                };
                fields = count;
            } else {
                let content = stop.unwrap_or(text.len());
                let is_open = match (stop, text.get(content + 1)) {
                    (None, _) => true,
                    (Some(_), None) => text[content] == b'\r',
                    (Some(_), Some(_)) => false,
                };
                if is_open && !extent.last {
                    break;
                }
                at = match (stop, text.get(content + 1)) {
                    (None, _) => text.len(),
                    (Some(_), Some(b'\n')) if text[content] == b'\r' => content + 2,
                    (Some(_), _) => content + 1,
                };
                if content == start {
                    continue;
                }
                fields = self.plain(text, Span::new(start, content), seen_up_to, &mut raw);
            }
            grid.open_record(Span::new(start, at));
            if layout.has_record_cells {
                grid.add_record(Span::new(start, at), Span::new(start, content_end(text, start, at)));
            }
            if fields != layout.originals {
                if !self.keeps_ragged {
                    return Err((start, Broken::Ragged { fields, wanted: layout.originals }));
                }
                grid.pass_record();
                continue;
            }
            for (column, raw) in raw.iter().enumerate().filter(|(column, _)| layout.seen[*column]) {
                if let Err(broken) = add_cell(text, *raw, column, layout, grid) {
                    if !self.keeps_ragged {
                        return Err((start, broken));
                    }
                    grid.pass_record();
                    break;
                }
            }
        }
        Ok(at)
    }

    /// Where a text that starts with a record may be split into blocks of records of about `size` bytes: at line ends
    /// with an even number of quotation marks before them. Where a quotation mark stands for itself that may be within a
    /// record after all; who reads up to there sees that the record is not whole.
    pub(super) fn likely_cuts(text: &[u8], size: usize) -> Vec<usize> {
        let mut cuts = Vec::new();
        let mut start = 0;
        while text.len() - start > size {
            let (mut counted, mut quotes) = (start, 0);
            let mut at = start + size;
            let cut = loop {
                let Some(end) = memchr(b'\n', &text[at..]).map(|found| at + found + 1) else { return cuts };
                quotes += memchr_iter(QUOTE, &text[counted..end]).count();
                if quotes % 2 == 0 {
                    break end;
                }
                (counted, at) = (end, end);
            };
            cuts.push(cut);
            start = cut;
        }
        cuts
    }

    /// The first cells of a record without quotation marks. Gives how many fields it has.
    fn plain(self, text: &[u8], record: Span, wanted: usize, raw: &mut Vec<Span>) -> usize {
        let mut delimiters = memchr_iter(self.delimiter, record.of(text));
        let mut from = record.start;
        while raw.len() < wanted {
            let Some(found) = delimiters.next() else {
                raw.push(Span::new(from, record.end));
                return raw.len();
            };
            raw.push(Span::new(from, record.start + found));
            from = record.start + found + 1;
        }
        raw.len() + delimiters.count() + 1
    }

    /// Writes a cell that has changed, with quotes if it had some or needs some. `raw`: as it was written. `alone`: its
    /// record has no other.
    pub(super) fn write(self, raw: &[u8], value: &[u8], alone: bool, out: &mut Vec<u8>) {
        let had_quotes = raw.first() == Some(&QUOTE);
        let needs_quotes = || memchr3(self.delimiter, b'\n', b'\r', value).is_some() || memchr(QUOTE, value).is_some();
        // An empty line would not be a record.
        let would_vanish = alone && value.is_empty();
        if !(had_quotes || would_vanish || needs_quotes()) {
            return out.extend_from_slice(value);
        }
        out.push(QUOTE);
        let mut from = 0;
        for quote in memchr_iter(QUOTE, value) {
            out.extend_from_slice(&value[from..=quote]);
            out.push(QUOTE);
            from = quote + 1;
        }
        out.extend_from_slice(&value[from..]);
        out.push(QUOTE);
    }
}

/// Where a record ends that stands from `start` to `end`, without its line end.
pub(super) fn content_end(text: &[u8], start: usize, end: usize) -> usize {
    match &text[start..end] {
        [.., b'\r', b'\n'] => end - 2,
        [.., b'\n' | b'\r'] => end - 1,
        _ => end,
    }
}

fn add_cell(text: &[u8], raw: Span, column: usize, layout: &Layout, grid: &mut Grid) -> Result<(), Broken> {
    let original = match unquoted(raw.of(text))? {
        Cow::Borrowed(value) if value.len() == raw.end - raw.start => CellValue::Text(raw),
        Cow::Borrowed(_) => CellValue::Text(Span::new(raw.start + 1, raw.end - 1)),
        Cow::Owned(value) => grid.keep(&value),
    };
    grid.cells.push(GridCell::new(column, raw, original, CellKind::Text));
    let place = Span::new(raw.end, raw.end);
    let made = layout.made[column].iter();
    grid.cells.extend(made.map(|made| GridCell::new(*made, place, CellValue::EMPTY, CellKind::New)));
    Ok(())
}
