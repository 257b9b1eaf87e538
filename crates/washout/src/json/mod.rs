//! What programs read: one JSON value, of a shape that is documented in `docs/json.md` and has a version.
//!
//! Paths and texts that are not valid UTF-8 have U+FFFD in place of what is broken.

pub(crate) mod clean;
mod escape;
pub(crate) mod learn;
pub(crate) mod names;
pub(crate) mod rules;
pub(crate) mod spellout;
pub(crate) mod survey;
pub(crate) mod trace;

pub(crate) use escape::{Escaped, write_text};

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use serde_json::{Map, Value, json};
use washout_files::Skip;

use crate::out::plain_stdout;
use crate::show::summary::Summary;

/// The start of the value of a check: what is found is written as it is found.
pub(crate) const OPENING_OF_CHECK: &str = "{\"version\": 1, \"command\": \"check\", \"found\": [";

/// The end of the value of a check.
pub(crate) fn closing_of_check(summary: &Summary, left_out: &[(PathBuf, Skip)]) -> String {
    let left_out = left_out.iter().map(|(file, why)| json!({"file": path(file), "why": why.to_string()}));
    let left_out = Value::from(left_out.collect::<Vec<_>>());
    let files = json!({
        "changed": summary.changed,
        "unchanged": summary.unchanged,
        "skipped": summary.skipped(),
        "failed": summary.failed,
    });
    format!("\n], \"left_out\": {}, \"files\": {files}}}\n", Escaped(&left_out))
}

/// Counts up when a field goes or changes its meaning; a new field changes nothing for those who do not know it.
const VERSION: u64 = 1;

/// The value of a command: its fields after `version` and `command`.
pub(crate) fn of_command(command: &str, fields: Value) -> Value {
    let mut all = Map::new();
    all.insert("version".to_owned(), VERSION.into());
    all.insert("command".to_owned(), command.into());
    if let Value::Object(fields) = fields {
        all.extend(fields);
    }
    Value::Object(all)
}

/// Writes a value and a line end to standard output.
pub(crate) fn write(value: &Value) -> io::Result<()> {
    let mut out = plain_stdout();
    writeln!(out, "{}", escape::escaped(&serde_json::to_string_pretty(value)?))?;
    out.flush()
}

/// Text of any bytes.
pub(crate) fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

pub(crate) fn path(path: &Path) -> String {
    path.to_string_lossy().into_owned()
}
