//! JSON Lines: an object on each line. Its strings are cells, at any depth; all else passes through.

use std::borrow::Cow;
use std::fmt;
use std::sync::Arc;

use serde::de::{Deserialize, Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;

use super::error::Broken;
use super::grid::{Cell, Extent, Grid, Value};
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
}

impl Found {
    pub(super) fn add(&mut self, other: &Self) {
        for (all, more) in [(&mut self.columns, &other.columns), (&mut self.texts, &other.texts)] {
            all.resize(all.len().max(more.len()), false);
            all.iter_mut().zip(more).for_each(|(one, other)| *one |= other);
        }
        other.keys.iter().for_each(|key| self.add_key(key));
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
            grid.open_record(Span::new(start, end));
            let read = Lines { text, depth: 0, layout, grid, found }.record(Span::new(start, end), self);
            match read {
                Ok(()) => {}
                Err(_) if self.keeps_ragged => grid.pass_record(),
                Err(broken) => return Err((start, broken)),
            }
        }
        Ok(at)
    }

    /// As [`Csv::likely_cuts`](super::csv::Csv::likely_cuts), and certain.
    pub(super) fn likely_cuts(text: &[u8], size: usize) -> Vec<usize> {
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

    /// Writes a field that was not there behind the text so far, spaced as that is.
    pub(super) fn write_new(name: &str, value: &[u8], spaced: bool, out: &mut Vec<u8>) -> Result<(), Broken> {
        out.extend_from_slice(if spaced { b", " } else { b"," });
        let key = name.rsplit_once('.').map_or(name, |(_, key)| key);
        Self::write(key.as_bytes(), out)?;
        out.extend_from_slice(if spaced { b": " } else { b":" });
        Self::write(value, out)
    }
}

/// Reading one record.
struct Lines<'g> {
    text: &'g [u8],
    /// How many objects and lists the value that is read stands in.
    depth: usize,
    layout: &'g Layout,
    grid: &'g mut Grid,
    found: &'g mut Found,
}

impl Lines<'_> {
    fn record(&mut self, place: Span, settings: &JsonLines) -> Result<(), Broken> {
        let line = std::str::from_utf8(place.of(self.text))
            .map_err(|error| Broken::Json { column: error.valid_up_to() + 1, why: "it is no UTF-8".to_owned() })?;
        if !line.trim_start().starts_with('{') {
            return Err(Broken::NoObject);
        }
        let Members(members) = serde_json::from_str(line).map_err(|error| broken(&error, 0))?;
        let first = self.grid.cells.len();
        self.members(&members, "", place.start, line)?;
        for (source, made) in &settings.makes {
            self.make(first, *source, *made);
        }
        Ok(())
    }

    /// A field that rules make stands behind the one it comes from, unless it is there.
    fn make(&mut self, first: usize, source: usize, made: usize) {
        let cells = &self.grid.cells[first..];
        if cells.iter().any(|cell| cell.column == made) {
            return;
        }
        let Some(place) = cells.iter().position(|cell| cell.column == source) else { return };
        let behind = cells[place..].iter().skip(1).take_while(|cell| cell.is_new).count();
        let at = first + place;
        let end = self.grid.cells[at].raw.end;
        let raw = Span::new(end, end);
        let cell = Cell { column: made, name: None, raw, original: Value::EMPTY, value: Value::EMPTY, is_new: true };
        self.grid.cells.insert(at + 1 + behind, cell);
    }

    fn members(
        &mut self,
        members: &[(Cow<'_, str>, &RawValue)],
        above: &str,
        start: usize,
        line: &str,
    ) -> Result<(), Broken> {
        for (key, value) in members {
            let joined;
            let path: &str = if above.is_empty() {
                key
            } else {
                joined = format!("{above}.{key}");
                &joined
            };
            self.found.add_key(path);
            self.value(value, path, start, line)?;
        }
        Ok(())
    }

    fn value(&mut self, value: &RawValue, path: &str, start: usize, line: &str) -> Result<(), Broken> {
        let named = self.layout.names[1..self.layout.originals].iter().position(|name| **name == *path);
        let column = named.map_or(OTHERS, |named| named + 1);
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
                self.grid.cells.push(Cell { column, name, raw: place, original, value: original, is_new: false });
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
                    self.value(item, path, start, line)?;
                }
                self.depth -= 1;
            }
            _ => {}
        }
        Ok(())
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
    let said = error.to_string();
    let why = said.split(" at line").next().unwrap_or(&said).to_owned();
    Broken::Json { column: error.column() + offset, why }
}
