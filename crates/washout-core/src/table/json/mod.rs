//! Tables of JSON: an object on each line, or an array of objects. Strings are cells, at any depth; all else passes through.

mod keys;
mod object;
mod write;

pub(super) use write::is_opening;

use serde_json::value::RawValue;

use super::csv::content_end;
use super::error::Broken;
use super::grid::{Extent, Grid};
use super::layout::Layout;
use crate::text::matches::Span;
use object::ObjectReader;

/// The column of all strings that no rule names.
pub(super) const OTHERS: usize = 0;

/// More keys are not listed where one is not found.
const MOST_KEYS: usize = 40;

/// How to read and to write such a table.
#[derive(Clone, Debug, Default)]
pub(super) struct Json {
    /// All objects are in an array.
    pub(super) is_array: bool,
    pub(super) keeps_ragged: bool,
    /// Fields that rules make: the column they come from, and theirs.
    pub(super) makes: Vec<(usize, usize)>,
}

/// Which fields there were.
#[derive(Clone, Debug, Default)]
pub(super) struct FoundFields {
    /// By column.
    pub(super) columns: Vec<bool>,
    /// The same: whether there was any text in it.
    pub(super) texts: Vec<bool>,
    pub(super) keys: Vec<String>,
    /// The array was closed that all records are in.
    pub(super) is_closed: bool,
}

impl FoundFields {
    pub(super) fn add(&mut self, other: &Self) {
        for (all, more) in [(&mut self.columns, &other.columns), (&mut self.texts, &other.texts)] {
            all.resize(all.len().max(more.len()), false);
            all.iter_mut().zip(more).for_each(|(one, other)| *one |= other);
        }
        other.keys.iter().for_each(|key| self.add_key(key));
        self.is_closed |= other.is_closed;
    }

    fn add_key(&mut self, key: &str) {
        if self.keys.len() < MOST_KEYS && !self.keys.iter().any(|known| known == key) {
            self.keys.push(key.to_owned());
        }
    }
}

impl Json {
    /// As [`Csv::read`](super::csv::Csv::read).
    pub(super) fn read(
        &self,
        text: &[u8],
        extent: Extent,
        layout: &Layout,
        grid: &mut Grid,
        found: &mut FoundFields,
    ) -> Result<usize, (usize, Broken)> {
        found.columns.resize(layout.originals, false);
        found.texts.resize(layout.originals, false);
        if self.is_array {
            return self.read_array(text, extent, layout, grid, found);
        }
        let mut at = 0;
        while at < text.len() && at < extent.bytes && (grid.records.len() as u64) < extent.records {
            let end = match memchr::memchr(b'\n', &text[at..]) {
                Some(end) => at + end + 1,
                None if extent.last => text.len(),
                None => break,
            };
            let start = std::mem::replace(&mut at, end);
            if text[start..end].trim_ascii().is_empty() {
                continue;
            }
            let record = Span::new(start, end);
            let content = Span::new(start, content_end(text, start, end));
            self.record(text, record, content, layout, grid, found).map_err(|broken| (start, broken))?;
        }
        Ok(at)
    }

    /// The same of an array that has been opened: what parts records comes before each but the first.
    fn read_array(
        &self,
        text: &[u8],
        extent: Extent,
        layout: &Layout,
        grid: &mut Grid,
        found: &mut FoundFields,
    ) -> Result<usize, (usize, Broken)> {
        let mut at = 0;
        while at < text.len() && at < extent.bytes && (grid.records.len() as u64) < extent.records {
            let is_first = extent.first && grid.records.is_empty();
            let mut start = skip_space(text, at);
            match text.get(start) {
                None => break,
                Some(b']') => {
                    // What follows is looked at as a whole.
                    if !extent.last {
                        break;
                    }
                    let rest = skip_space(text, start + 1);
                    if rest < text.len() {
                        return Err((rest, Broken::AfterArray));
                    }
                    found.is_closed = true;
                    return Ok(text.len());
                }
                Some(b',') if !is_first => start = skip_space(text, start + 1),
                Some(_) if !is_first => return Err((start, Broken::NoComma)),
                Some(_) => {}
            }
            let mut values = serde_json::Deserializer::from_slice(&text[start..]).into_iter::<&RawValue>();
            let value = values.next();
            let end = start + values.byte_offset();
            match value {
                // A number may go on.
                None | Some(Ok(_)) if end == text.len() && !extent.last => break,
                None => break,
                Some(Ok(_)) => {}
                Some(Err(error)) if error.is_eof() && !extent.last => break,
                Some(Err(error)) => {
                    let (line, column) = line_of(&text[start..], &error);
                    return Err((start + line, Broken::NoArrayItem { column, why: why(&error) }));
                }
            }
            let record = Span::new(start, end);
            let raw = Span::new(if is_first { start } else { at }, end);
            self.record(text, raw, record, layout, grid, found).map_err(|broken| (start, broken))?;
            at = end;
        }
        Ok(at)
    }

    /// Reads a record. `raw`: with what goes with it if it is dropped.
    fn record(
        &self,
        text: &[u8],
        raw: Span,
        record: Span,
        layout: &Layout,
        grid: &mut Grid,
        found: &mut FoundFields,
    ) -> Result<(), Broken> {
        grid.open_record(if self.is_array { record } else { raw });
        if layout.has_record_cells {
            grid.add_record(raw, record);
        }
        let mut reading = ObjectReader { text, depth: 0, json: self, layout, grid, found, places: Vec::new() };
        match reading.record(record) {
            Err(_) if self.keeps_ragged => {
                grid.pass_record();
                Ok(())
            }
            read => read,
        }
    }

    /// Where the array that all records are in has been opened. `None`: there is nothing but white space.
    ///
    /// # Errors
    /// It is not an array.
    pub(super) fn opened(text: &[u8]) -> Result<Option<usize>, Broken> {
        let at = skip_space(text, 0);
        match text.get(at) {
            None => Ok(None),
            Some(b'[') => Ok(Some(at + 1)),
            Some(_) => Err(Broken::NoArray),
        }
    }

    /// As [`Csv::likely_cuts`](super::csv::Csv::likely_cuts), and certain. Nothing tells at a look where the records of an
    /// array end, so it is not split.
    pub(super) fn likely_cuts(&self, text: &[u8], size: usize) -> Vec<usize> {
        if self.is_array {
            return Vec::new();
        }
        let mut cuts = Vec::new();
        let mut from = 0;
        while text.len() - from > size
            && let Some(found) = memchr::memchr(b'\n', &text[from + size..])
        {
            from += size + found + 1;
            cuts.push(from);
        }
        cuts
    }
}

/// Where white space of JSON ends.
fn skip_space(text: &[u8], at: usize) -> usize {
    text[at..]
        .iter()
        .position(|byte| !matches!(byte, b' ' | b'\t' | b'\n' | b'\r'))
        .map_or(text.len(), |found| at + found)
}

/// What an error says, without its place.
fn why(error: &serde_json::Error) -> String {
    let said = error.to_string();
    said.split(" at line").next().unwrap_or(&said).to_owned()
}

/// Where in a text the line starts in which the error is, and its column there, from 1.
fn line_of(text: &[u8], error: &serde_json::Error) -> (usize, usize) {
    let mut start = 0;
    for _ in 1..error.line() {
        start += memchr::memchr(b'\n', &text[start..]).map_or(0, |end| end + 1);
    }
    (start, error.column())
}
