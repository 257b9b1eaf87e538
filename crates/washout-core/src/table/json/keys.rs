//! Dropping and renaming fields of an object.

use std::borrow::Cow;
use std::collections::{HashMap, HashSet};

use serde_json::value::RawValue;

use super::super::error::Broken;
use super::super::grid::{CellKind, CellValue, GridCell, NO_COLUMN};
use super::object::ObjectReader;
use super::write::last_key;
use super::{OTHERS, skip_space};
use crate::text::matches::Span;

impl ObjectReader<'_> {
    /// Where the key of a field starts whose value is at `value`, and which follows another that ends at `before`.
    pub(super) fn key_start(&self, before: Option<usize>, value: usize) -> usize {
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
    pub(super) fn lead_start(&self, key: usize) -> usize {
        self.text[..key].trim_ascii_end().len()
    }

    /// Adds what is to be done to a field of an object, other than to its value.
    pub(super) fn member(
        &mut self,
        column: usize,
        before: Option<usize>,
        key_start: usize,
        value: Span,
        (is_dropped, is_first): (bool, bool),
    ) {
        if is_dropped {
            let raw = Span::new(before.unwrap_or(key_start), value.end);
            self.grid.cells.push(GridCell {
                original: CellValue::Text(value),
                ..GridCell::new(column, raw, CellValue::EMPTY, CellKind::Member)
            });
        } else if is_first && let Some(end) = before {
            let raw = Span::new(end, key_start);
            self.grid.cells.push(GridCell::new(NO_COLUMN, raw, CellValue::EMPTY, CellKind::Separator));
        }
        let Some(renamed) = self.layout.renamed[column].clone().filter(|_| column != OTHERS) else { return };
        let close = self.text[..value.start].trim_ascii_end().len() - 1;
        let close = self.text[..close].trim_ascii_end().len();
        let raw = Span::new(key_start, close);
        let value = self.grid.keep(last_key(&renamed).as_bytes());
        let original = CellValue::Text(Span::new(raw.start + 1, raw.end - 1));
        self.grid.cells.push(GridCell { original, ..GridCell::new(column, raw, value, CellKind::Key) });
    }

    /// Refuses an object that would have a key twice.
    pub(super) fn refuse_two(&self, members: &[(Cow<'_, str>, &RawValue)], above: &str) -> Result<(), Broken> {
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
