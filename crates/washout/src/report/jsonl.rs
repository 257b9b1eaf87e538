//! A line for each change.

use std::io::Write as _;
use std::path::Path;

use serde_json::{Value, json};
use washout_core::RuleName;
use washout_core::observe::PlacedChange;

use crate::json::{Escaped, path, text, write_text};
use crate::record::{ChangeFormat, write_number};

/// A change as a JSON object on one line: file, line, column, rule, before and after.
pub(crate) struct ChangeJson {
    /// The fields of each rule, and the name of the field that follows.
    rules: Vec<Vec<u8>>,
}

impl ChangeJson {
    pub(crate) fn new(names: &[RuleName]) -> Self {
        let fields = |name: &RuleName| {
            let (number, label) = (Value::from(&*name.number), Value::from(&*name.caption));
            format!(",\"rule\":{},\"label\":{},\"before\":", Escaped(&number), Escaped(&label)).into_bytes()
        };
        Self { rules: names.iter().map(fields).collect() }
    }
}

impl ChangeFormat for ChangeJson {
    /// The first field, and the name of the second.
    type File = Vec<u8>;

    fn file(&self, file: &Path) -> Vec<u8> {
        format!("{{\"file\":{},\"record\":", Escaped(&path(file).into())).into_bytes()
    }

    fn change(&self, file: &Vec<u8>, change: &PlacedChange<'_>, out: &mut Vec<u8>) {
        let PlacedChange { cell, source, line, column, rule, before, after } = change;
        out.extend_from_slice(file);
        // Writing to a vector does not fail.
        match cell {
            None => out.extend_from_slice(b"null,\"field\":null"),
            Some(cell) => {
                let _ = write!(out, "{},\"field\":{}", cell.record, Escaped(&json!(cell.field.as_deref())));
            }
        }
        out.extend_from_slice(b",\"line\":");
        write_number(*line, out);
        out.extend_from_slice(b",\"column\":");
        write_number(*column, out);
        out.extend_from_slice(&self.rules[rule.0]);
        write_text(before, out);
        out.extend_from_slice(b",\"after\":");
        write_text(after, out);
        if let Some(source) = source {
            let from = json!({"field": *source.field, "value": text(&source.value)});
            let _ = write!(out, ",\"from\":{}", Escaped(&from));
        }
        out.push(b'}');
    }
}
