//! Reading an object into the grid.

use std::borrow::Cow;
use std::fmt;
use std::sync::Arc;

use serde::de::{Deserialize, Deserializer, MapAccess, Visitor};
use serde_json::value::RawValue;

use super::super::error::Broken;
use super::super::grid::{CellKind, CellValue, Grid, GridCell};
use super::super::layout::Layout;
use super::{FoundFields, Json, OTHERS, why};
use crate::text::matches::Span;

/// How deep objects and lists may stand in each other where their strings are cells. Each level is read again by itself, so
/// that time is in proportion to depth.
const DEEPEST: usize = 128;

/// The members of an object in their order.
struct Members<'t>(Vec<(Cow<'t, str>, &'t RawValue)>);

struct MemberKey<'t>(Cow<'t, str>);

impl<'t> Deserialize<'t> for MemberKey<'t> {
    fn deserialize<D: Deserializer<'t>>(deserializer: D) -> Result<Self, D::Error> {
        struct Text;
        impl<'t> Visitor<'t> for Text {
            type Value = MemberKey<'t>;

            fn expecting(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
                formatter.write_str("a string")
            }

            fn visit_borrowed_str<E>(self, text: &'t str) -> Result<MemberKey<'t>, E> {
                Ok(MemberKey(Cow::Borrowed(text)))
            }

            fn visit_str<E>(self, text: &str) -> Result<MemberKey<'t>, E> {
                Ok(MemberKey(Cow::Owned(text.to_owned())))
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
                while let Some((MemberKey(key), value)) = map.next_entry()? {
                    members.push((key, value));
                }
                Ok(Members(members))
            }
        }
        deserializer.deserialize_map(Object)
    }
}

/// Reading one record.
pub(super) struct ObjectReader<'g> {
    pub(super) text: &'g [u8],
    /// How many objects and lists the value that is read stands in.
    pub(super) depth: usize,
    pub(super) json: &'g Json,
    pub(super) layout: &'g Layout,
    pub(super) grid: &'g mut Grid,
    pub(super) found: &'g mut FoundFields,
    /// Where fields can be made, by the column they come from.
    pub(super) places: Vec<NewMember>,
}

/// Where a new field of an object can stand.
#[derive(Clone, Copy)]
pub(super) struct NewMember {
    /// The column it comes from.
    source: usize,
    /// Before which cell of the grid.
    cell: usize,
    /// Where in the text.
    at: usize,
    /// The white space to put before it, if it is to stand on a line of its own.
    lead: Span,
}

impl ObjectReader<'_> {
    pub(super) fn record(&mut self, place: Span) -> Result<(), Broken> {
        let line = std::str::from_utf8(place.of(self.text))
            .map_err(|error| Broken::Json { column: error.valid_up_to() + 1, why: "it is not UTF-8".to_owned() })?;
        if !line.trim_start().starts_with('{') {
            return Err(Broken::NoObject);
        }
        let Members(members) = serde_json::from_str(line).map_err(|error| broken(&error, 0))?;
        let first = self.grid.cells.len();
        self.members(&members, "", place.start, line)?;
        self.make(first);
        Ok(())
    }

    /// Fields that rules make stand after the one they come from, unless they are there.
    fn make(&mut self, first: usize) {
        let mut made: Vec<(usize, GridCell)> = Vec::new();
        for (source, column) in &self.json.makes {
            let is_there = self.grid.cells[first..].iter().any(|cell| cell.column == *column && cell.is_value());
            let place = self.places.iter().find(|place| place.source == *source).copied();
            let Some(place) = place.filter(|_| !is_there) else { continue };
            let new = GridCell::new(*column, Span::new(place.at, place.at), CellValue::EMPTY, CellKind::New);
            made.push((place.cell, GridCell { original: CellValue::Text(place.lead), ..new }));
            self.places.push(NewMember { source: *column, ..place });
        }
        made.sort_by_key(|(cell, new)| (*cell, new.raw.start));
        for (at, cell) in made.into_iter().rev() {
            self.grid.cells.insert(at, cell);
        }
    }

    /// The column of a field.
    pub(super) fn column(&self, path: &str) -> usize {
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
                    CellValue::Text(Span::new(place.start + 1, place.end - 1))
                } else {
                    let text: String = serde_json::from_str(raw).map_err(|error| broken(&error, offset))?;
                    self.grid.keep(text.as_bytes())
                };
                let name: Option<Arc<str>> = (column == OTHERS).then(|| path.into());
                self.grid.cells.push(GridCell { name, ..GridCell::new(column, place, original, CellKind::Text) });
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
            Some(b'{') if self.is_looked_into(path) || self.logs_keys() => {
                let Members(members) = serde_json::from_str(raw).map_err(|error| broken(&error, offset))?;
                self.deeper(offset)?;
                self.members(&members, path, start, line)?;
                self.depth -= 1;
            }
            Some(b'[') if self.is_looked_into(path) || self.layout.seen[column] || self.logs_keys() => {
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

    /// Adds a value other than a text.
    fn other(&mut self, column: usize, raw: &str, path: &str, at: usize) {
        let place = Span::new(at, at + raw.len());
        let name: Option<Arc<str>> = (column == OTHERS).then(|| path.into());
        self.grid
            .cells
            .push(GridCell { name, ..GridCell::new(column, place, CellValue::Text(place), CellKind::Other) });
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
    fn logs_keys(&self) -> bool {
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
