//! A line for each change.

use std::path::Path;

use serde_json::json;
use washout_core::RuleName;
use washout_core::observe::PlacedChange;

use crate::json::{Escaped, path, text};

/// Writes a change as one line of JSON: file, line, column, rule, before and after.
pub(crate) fn change_line(names: &[RuleName], file: &Path, change: &PlacedChange, out: &mut Vec<u8>) {
    let PlacedChange { cell, source, line, column, rule, before, after } = change;
    let name = &names[rule.0];
    let mut value = json!({
        "file": path(file),
        "record": cell.as_ref().map(|cell| cell.record),
        "field": cell.as_ref().and_then(|cell| cell.field.as_deref()),
        "line": line,
        "column": column,
        "rule": name.number,
        "label": name.caption,
        "before": text(before),
        "after": text(after),
    });
    if let Some(source) = source {
        value["from"] = json!({"field": *source.field, "value": text(&source.value)});
    }
    out.extend(Escaped(&value).to_string().into_bytes());
    out.push(b'\n');
}
