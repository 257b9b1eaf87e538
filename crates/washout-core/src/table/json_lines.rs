//! Tables of JSON: an object on each line, or an array of objects. Strings are cells, at any depth; all else passes through.

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};
use std::fmt;
use std::sync::Arc;

use serde::de::{Deserialize, Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;

use super::csv::content_end;
use super::error::Broken;
use super::grid::{Cell, CellKind, Extent, Grid, NO_COLUMN, Value};
use super::layout::Layout;
use crate::matching::Span;

/// The column of all strings that no rule names.
pub(super) const OTHERS: usize = 0;

/// How deep objects and lists may stand in each other where their strings are cells. Each level is read again by itself, so
/// that time is in proportion to depth.
const DEEPEST: usize = 128;

/// More keys are not listed where one is not found.
const MOST_KEYS: usize = 40;

/// How to read and to write such a table.
#[derive(Clone, Debug, Default)]
pub(super) struct JsonLines {
    /// All objects are in an array.
    pub(super) is_array: bool,
    pub(super) keeps_ragged: bool,
    /// Fields that rules make: the column they come from, and theirs.
    pub(super) makes: Vec<(usize, usize)>,
}

/// Which fields there were.
#[derive(Clone, Debug, Default)]
pub(super) struct Found {
    /// By column.
    pub(super) columns: Vec<bool>,
    /// The same: whether there was any text in it.
    pub(super) texts: Vec<bool>,
    pub(super) keys: Vec<String>,
    /// The array was closed that all records are in.
    pub(super) is_closed: bool,
}

impl Found {
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

/// The members of an object in their order.
struct Members<'t>(Vec<(Cow<'t, str>, &'t RawValue)>);

struct Key<'t>(Cow<'t, str>);

impl<'t> Deserialize<'t> for Key<'t> {
    fn deserialize<D: Deserializer<'t>>(deserializer: D) -> Result<Self, D::Error> {
        struct Text;
        impl<'t> Visitor<'t> for Text {
            type Value = Key<'t>;

            fn expecting(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
                formatter.write_str("a string")
            }

            fn visit_borrowed_str<E>(self, text: &'t str) -> Result<Key<'t>, E> {
                Ok(Key(Cow::Borrowed(text)))
            }

            fn visit_str<E>(self, text: &str) -> Result<Key<'t>, E> {
                Ok(Key(Cow::Owned(text.to_owned())))
            }
        }
        deserializer.deserialize_str(Text)
    }
}

impl<'t> Deserialize<'t> for Members<'t> {
    fn deserialize<D: Deserializer<'t>>(deserializer: D) -> Result<Self, D::Error> {
        struct Object;
        impl<'t> Visitor<'t> for Object {
            type Value = Members<'t>;

            fn expecting(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
                formatter.write_str("an object")
            }

            fn visit_map<A: MapAccess<'t>>(self, mut map: A) -> Result<Members<'t>, A::Error> {
                let mut members = Vec::new();
                while let Some((Key(key), value)) = map.next_entry()? {
                    members.push((key, value));
                }
                Ok(Members(members))
            }
        }
        deserializer.deserialize_map(Object)
    }
}

impl JsonLines {
    /// As [`Csv::read`](super::csv::Csv::read).
    pub(super) fn read(
        &self,
        text: &[u8],
        extent: Extent,
        layout: &Layout,
        grid: &mut Grid,
        found: &mut Found,
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
        found: &mut Found,
    ) -> Result<usize, (usize, Broken)> {
        let mut at = 0;
        while at < text.len() && at < extent.bytes && (grid.records.len() as u64) < extent.records {
            let is_first = extent.first && grid.records.is_empty();
            let mut start = skip_space(text, at);
            match text.get(start) {
                None => break,
                Some(b']') => {
                    // What comes behind it is looked at whole.
                    if !extent.last {
                        break;
                    }
                    let rest = skip_space(text, start + 1);
                    if rest < text.len() {
                        return Err((rest, Broken::BehindArray));
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
        found: &mut Found,
    ) -> Result<(), Broken> {
        grid.open_record(if self.is_array { record } else { raw });
        if layout.has_record_cells {
            grid.add_record(raw, record);
        }
        let mut reading = Lines { text, depth: 0, json: self, layout, grid, found, places: Vec::new() };
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
    /// It is no array.
    pub(super) fn opened(text: &[u8]) -> Result<Option<usize>, Broken> {
        let at = skip_space(text, 0);
        match text.get(at) {
            None => Ok(None),
            Some(b'[') => Ok(Some(at + 1)),
            Some(_) => Err(Broken::NoArray),
        }
    }

    /// As [`Csv::likely_cuts`](super::csv::Csv::likely_cuts), and certain. Nothing tells at a look where the records of an
    /// array end, so it is not parted.
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

    /// Writes a cell that has changed.
    pub(super) fn write(value: &[u8], out: &mut Vec<u8>) -> Result<(), Broken> {
        let text = std::str::from_utf8(value).map_err(|_| Broken::NoUtf8)?;
        let start = out.len();
        if serde_json::to_writer(&mut *out, text).is_err() {
            out.truncate(start);
        }
        Ok(())
    }

    /// Writes a field that was not there behind the text so far, spaced as that is. `lead`: white space before it, if it is
    /// to stand on a line of its own.
    pub(super) fn write_new(
        name: &str,
        value: &[u8],
        (spaced, lead): (bool, &[u8]),
        out: &mut Vec<u8>,
    ) -> Result<(), Broken> {
        if !is_opening(out) {
            out.push(b',');
            out.extend_from_slice(match lead {
                [] if spaced => b" ",
                _ => lead,
            });
        }
        Self::write(last_key(name).as_bytes(), out)?;
        out.extend_from_slice(if spaced { b": " } else { b":" });
        Self::write(value, out)
    }
}

/// The key of a field that is named with those it stands within.
fn last_key(name: &str) -> &str {
    name.rsplit_once('.').map_or(name, |(_, key)| key)
}

/// Whether a text ends where an object has just been opened.
pub(super) fn is_opening(text: &[u8]) -> bool {
    text.trim_ascii_end().last() == Some(&b'{')
}

/// Where white space of JSON ends.
fn skip_space(text: &[u8], at: usize) -> usize {
    text[at..]
        .iter()
        .position(|byte| !matches!(byte, b' ' | b'\t' | b'\n' | b'\r'))
        .map_or(text.len(), |found| at + found)
}

/// Reading one record.
struct Lines<'g> {
    text: &'g [u8],
    /// How many objects and lists the value that is read stands in.
    depth: usize,
    json: &'g JsonLines,
    layout: &'g Layout,
    grid: &'g mut Grid,
    found: &'g mut Found,
    /// Where fields can be made, by the column they come from.
    places: Vec<NewMember>,
}

/// Where a new field of an object can stand.
#[derive(Clone, Copy)]
struct NewMember {
    /// The column it comes from.
    source: usize,
    /// Before which cell of the grid.
    cell: usize,
    /// Where in the text.
    at: usize,
    /// The white space to put before it, if it is to stand on a line of its own.
    lead: Span,
}

impl Lines<'_> {
    fn record(&mut self, place: Span) -> Result<(), Broken> {
        let line = std::str::from_utf8(place.of(self.text))
            .map_err(|error| Broken::Json { column: error.valid_up_to() + 1, why: "it is no UTF-8".to_owned() })?;
        if !line.trim_start().starts_with('{') {
            return Err(Broken::NoObject);
        }
        let Members(members) = serde_json::from_str(line).map_err(|error| broken(&error, 0))?;
        let first = self.grid.cells.len();
        self.members(&members, "", place.start, line)?;
        self.make(first);
        Ok(())
    }

    /// Fields that rules make stand behind the one they come from, unless they are there.
    fn make(&mut self, first: usize) {
        let mut made: Vec<(usize, Cell)> = Vec::new();
        for (source, column) in &self.json.makes {
            let is_there = self.grid.cells[first..].iter().any(|cell| cell.column == *column && cell.is_value());
            let place = self.places.iter().find(|place| place.source == *source).copied();
            let Some(place) = place.filter(|_| !is_there) else { continue };
            let new = Cell::new(*column, Span::new(place.at, place.at), Value::EMPTY, CellKind::New);
            made.push((place.cell, Cell { original: Value::Text(place.lead), ..new }));
            self.places.push(NewMember { source: *column, ..place });
        }
        made.sort_by_key(|(cell, new)| (*cell, new.raw.start));
        for (at, cell) in made.into_iter().rev() {
            self.grid.cells.insert(at, cell);
        }
    }

    /// The column of a field.
    fn column(&self, path: &str) -> usize {
        self.layout.column_of_path(path).unwrap_or(OTHERS)
    }

    fn members(
        &mut self,
        members: &[(Cow<'_, str>, &RawValue)],
        above: &str,
        start: usize,
        line: &str,
    ) -> Result<(), Broken> {
        let place_of = |value: &RawValue| {
            // Both are parts of one string.
            let at = start + value.get().as_ptr().addr() - line.as_ptr().addr();
            Span::new(at, at + value.get().len())
        };
        let changes_keys = self.layout.changes_keys();
        if changes_keys {
            self.refuse_two(members, above)?;
        }
        let mut before: Option<&RawValue> = None;
        let mut is_first = true;
        for (key, value) in members {
            let joined;
            let path: &str = if above.is_empty() {
                key
            } else {
                joined = format!("{above}.{key}");
                &joined
            };
            self.found.add_key(path);
            let column = self.column(path);
            let is_source = self.json.makes.iter().any(|(source, _)| *source == column);
            if changes_keys || is_source {
                let place = place_of(value);
                let key_start = self.key_start(before.map(|before| place_of(before).end), place.start);
                if changes_keys {
                    let of_layout = (column != OTHERS && self.layout.dropped[column], is_first);
                    self.member(column, before.map(|before| place_of(before).end), key_start, place, of_layout);
                    is_first &= of_layout.0;
                }
                self.value(value, path, column, start, line)?;
                if is_source {
                    let lead = Span::new(self.lead_start(key_start), key_start);
                    let on_its_own_line = memchr::memchr(b'\n', lead.of(self.text)).is_some();
                    let lead = if on_its_own_line { lead } else { Span::new(0, 0) };
                    let cell = self.grid.cells.len();
                    self.places.push(NewMember { source: column, cell, at: place.end, lead });
                }
            } else {
                self.value(value, path, column, start, line)?;
            }
            before = Some(value);
        }
        Ok(())
    }

    /// Where the key of a field starts whose value is at `value`, and which comes behind another that ends at `before`.
    fn key_start(&self, before: Option<usize>, value: usize) -> usize {
        let opened = |at: usize| skip_space(self.text, at);
        if let Some(end) = before {
            return opened(opened(end) + 1);
        }
        // The first of its object: its key is the only string between the brace and the value.
        let brace = self.text[..value].trim_ascii_end();
        let colon = brace.len() - 1;
        let close = self.text[..colon].trim_ascii_end().len() - 1;
        opening_quote(self.text, close)
    }

    /// Where the white space before a key starts.
    fn lead_start(&self, key: usize) -> usize {
        self.text[..key].trim_ascii_end().len()
    }

    /// Adds what is to be done to a field of an object, other than to its value.
    fn member(
        &mut self,
        column: usize,
        before: Option<usize>,
        key_start: usize,
        value: Span,
        (is_dropped, is_first): (bool, bool),
    ) {
        if is_dropped {
            let raw = Span::new(before.unwrap_or(key_start), value.end);
            self.grid
                .cells
                .push(Cell { original: Value::Text(value), ..Cell::new(column, raw, Value::EMPTY, CellKind::Member) });
        } else if is_first && let Some(end) = before {
            let raw = Span::new(end, key_start);
            self.grid.cells.push(Cell::new(NO_COLUMN, raw, Value::EMPTY, CellKind::Separator));
        }
        let Some(renamed) = self.layout.renamed[column].clone().filter(|_| column != OTHERS) else { return };
        let close = self.text[..value.start].trim_ascii_end().len() - 1;
        let close = self.text[..close].trim_ascii_end().len();
        let raw = Span::new(key_start, close);
        let value = self.grid.keep(last_key(&renamed).as_bytes());
        let original = Value::Text(Span::new(raw.start + 1, raw.end - 1));
        self.grid.cells.push(Cell { original, ..Cell::new(column, raw, value, CellKind::Key) });
    }

    /// Refuses an object that would have a key twice.
    fn refuse_two(&self, members: &[(Cow<'_, str>, &RawValue)], above: &str) -> Result<(), Broken> {
        let path = |key: &str| if above.is_empty() { key.to_owned() } else { format!("{above}.{key}") };
        let (mut renamed, mut others) = (HashMap::new(), HashSet::new());
        for (key, _) in members {
            let column = self.column(&path(key));
            match &self.layout.renamed[column] {
                _ if column != OTHERS && self.layout.dropped[column] => {}
                Some(new) if column != OTHERS => {
                    if let Some(old) = renamed.insert(last_key(new), key).filter(|old| *old != key) {
                        return Err(Broken::TwoKeys { old: old.to_string(), new: last_key(new).to_owned() });
                    }
                }
                _ => drop(others.insert(&**key)),
            }
        }
        match renamed.iter().find(|(new, _)| others.contains(**new)) {
            Some((new, old)) => Err(Broken::TwoKeys { old: old.to_string(), new: (*new).to_owned() }),
            None => Ok(()),
        }
    }

    fn value(&mut self, value: &RawValue, path: &str, column: usize, start: usize, line: &str) -> Result<(), Broken> {
        if column != OTHERS {
            self.found.columns[column] = true;
        }
        let raw = value.get();
        // Both are parts of one string.
        let offset = raw.as_ptr().addr() - line.as_ptr().addr();
        match raw.as_bytes().first() {
            Some(b'"') if self.layout.seen[column] => {
                self.found.texts[column] = true;
                let place = Span::new(start + offset, start + offset + raw.len());
                let inner = &raw[1..raw.len() - 1];
                let original = if memchr::memchr(b'\\', inner.as_bytes()).is_none() {
                    Value::Text(Span::new(place.start + 1, place.end - 1))
                } else {
                    let text: String = serde_json::from_str(raw).map_err(|error| broken(&error, offset))?;
                    self.grid.keep(text.as_bytes())
                };
                let name: Option<Arc<str>> = (column == OTHERS).then(|| path.into());
                self.grid.cells.push(Cell { name, ..Cell::new(column, place, original, CellKind::Text) });
            }
            Some(b'{') if column != OTHERS && self.layout.whole[column] => {
                self.other(column, raw, path, start + offset);
                if self.is_looked_into(path) {
                    let Members(members) = serde_json::from_str(raw).map_err(|error| broken(&error, offset))?;
                    self.deeper(offset)?;
                    self.members(&members, path, start, line)?;
                    self.depth -= 1;
                }
            }
            Some(b'{') if self.is_looked_into(path) || self.tells_keys() => {
                let Members(members) = serde_json::from_str(raw).map_err(|error| broken(&error, offset))?;
                self.deeper(offset)?;
                self.members(&members, path, start, line)?;
                self.depth -= 1;
            }
            Some(b'[') if self.is_looked_into(path) || self.layout.seen[column] || self.tells_keys() => {
                let items: Vec<&RawValue> = serde_json::from_str(raw).map_err(|error| broken(&error, offset))?;
                self.deeper(offset)?;
                for item in items {
                    self.value(item, path, column, start, line)?;
                }
                self.depth -= 1;
            }
            Some(b'{' | b'[') => {}
            _ if self.layout.whole[column] => self.other(column, raw, path, start + offset),
            _ => {}
        }
        Ok(())
    }

    /// Adds a value that is no text.
    fn other(&mut self, column: usize, raw: &str, path: &str, at: usize) {
        let place = Span::new(at, at + raw.len());
        let name: Option<Arc<str>> = (column == OTHERS).then(|| path.into());
        self.grid.cells.push(Cell { name, ..Cell::new(column, place, Value::Text(place), CellKind::Other) });
    }

    /// Goes into the object or list at `offset` of the line.
    fn deeper(&mut self, offset: usize) -> Result<(), Broken> {
        self.depth += 1;
        if self.depth < DEEPEST {
            return Ok(());
        }
        Err(Broken::Deep { column: offset + 1, deepest: DEEPEST })
    }

    /// Whether all keys of this record are wanted, at any depth, to tell them where a field is not there: now and then is
    /// enough.
    fn tells_keys(&self) -> bool {
        self.grid.records.len() == 1
    }

    /// Whether a field within this one is seen.
    fn is_looked_into(&self, path: &str) -> bool {
        let within = |name: &str| name.strip_prefix(path).is_some_and(|rest| rest.starts_with('.'));
        self.layout.seen[OTHERS] || self.layout.names[1..self.layout.originals].iter().any(|name| within(name))
    }
}

fn broken(error: &serde_json::Error, offset: usize) -> Broken {
    Broken::Json { column: error.column() + offset, why: why(error) }
}

/// What an error says, without its place.
fn why(error: &serde_json::Error) -> String {
    let said = error.to_string();
    said.split(" at line").next().unwrap_or(&said).to_owned()
}

/// The quotation mark that opens the string which another one closes.
fn opening_quote(text: &[u8], close: usize) -> usize {
    let mut at = close;
    while let Some(quote) = memchr::memrchr(b'"', &text[..at]) {
        let slashes = text[..quote].iter().rev().take_while(|byte| **byte == b'\\').count();
        if slashes % 2 == 0 {
            return quote;
        }
        at = quote;
    }
    at
}

/// Where in a text the line starts in which the error is, and its column there, from 1.
fn line_of(text: &[u8], error: &serde_json::Error) -> (usize, usize) {
    let mut start = 0;
    for _ in 1..error.line() {
        start += memchr::memchr(b'\n', &text[start..]).map_or(0, |end| end + 1);
    }
    (start, error.column())
}
