//! What is found as SARIF 2.1.0 (OASIS Standard, 27 March 2020), for programs that show findings in code.
//!
//! Columns and lengths are in characters (`unicodeCodePoints`), lines and columns from 1.

use std::io::Write as _;
use std::path::{Path, PathBuf};

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, percent_encode};
use serde_json::{Value, json};
use washout_core::RuleName;
use washout_core::observe::{CellPlace, PlacedChange};
use washout_files::Skip;

use crate::json::{Escaped, write_text};
use crate::record::ChangeFormat;
use crate::show::number::counted;

const SCHEMA: &str = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json";

/// What stays as it is in a path of a URI (RFC 3986, `pchar` and `/`, but no colon: a relative reference must not look
/// as if it had a scheme).
const PATH: &AsciiSet = &NON_ALPHANUMERIC
    .remove(b'/')
    .remove(b'-')
    .remove(b'.')
    .remove(b'_')
    .remove(b'~')
    .remove(b'!')
    .remove(b'$')
    .remove(b'\'')
    .remove(b'(')
    .remove(b')')
    .remove(b'*')
    .remove(b'+')
    .remove(b',')
    .remove(b';')
    .remove(b'=')
    .remove(b'@');

/// Everything up to the list of results, which is open.
pub(crate) fn opening(names: &[RuleName]) -> String {
    let rules: Vec<Value> =
        names.iter().map(|name| json!({"id": name.number, "shortDescription": {"text": name.caption}})).collect();
    let driver = json!({"name": "Washout", "version": env!("CARGO_PKG_VERSION"), "rules": rules});
    let driver = Escaped(&driver);
    format!(
        "{{\"$schema\": {}, \"version\": \"2.1.0\", \"runs\": [{{\"tool\": {{\"driver\": {driver}}}, \
         \"columnKind\": \"unicodeCodePoints\", \"results\": [",
        json!(SCHEMA)
    )
}

/// What comes after the results.
pub(crate) fn closing(successful: bool, left_out: &[(PathBuf, Skip)]) -> String {
    let notifications: Vec<Value> = left_out.iter().map(|(path, why)| not_checked(path, *why)).collect();
    let invocation = json!({"executionSuccessful": successful, "toolExecutionNotifications": notifications});
    format!("\n], \"invocations\": [{}]}}]}}\n", Escaped(&invocation))
}

fn not_checked(path: &Path, why: Skip) -> Value {
    json!({
        "level": "note",
        "message": {"text": format!("not checked: {why}")},
        "locations": [{"physicalLocation": {"artifactLocation": {"uri": uri(path)}}}],
    })
}

/// A file and its number of changes, as a result on one line.
pub(crate) fn changes(path: &Path, changes: u64) -> String {
    let result = json!({
        "level": "warning",
        "message": {"text": counted(changes, "change")},
        "locations": [{"physicalLocation": {"artifactLocation": {"uri": uri(path)}}}],
    });
    Escaped(&result).to_string()
}

/// A change as a result on one line.
pub(crate) struct SarifResult {
    rules: Vec<RuleFields>,
}

/// What all results of one rule have in common.
struct RuleFields {
    /// The fields before the place, up to the name of the file.
    start: String,
    /// The fields of a fix before its file.
    fix: String,
}

impl SarifResult {
    pub(crate) fn new(names: &[RuleName]) -> Self {
        let fields = |(index, name): (usize, &RuleName)| {
            let (number, label) = (Value::from(&*name.number), Value::from(&*name.caption));
            let (number, label) = (Escaped(&number), Escaped(&label));
            RuleFields {
                start: format!(
                    "{{\"ruleId\":{number},\"ruleIndex\":{index},\"level\":\"warning\",\"message\":{{\"text\":{label}}},\
                     \"locations\":[{{\"physicalLocation\":{{\"artifactLocation\":"
                ),
                fix: format!(
                    "}}}}],\"fixes\":[{{\"description\":{{\"text\":{label}}},\"artifactChanges\":[{{\"artifactLocation\":"
                ),
            }
        };
        Self { rules: names.iter().enumerate().map(fields).collect() }
    }
}

impl ChangeFormat for SarifResult {
    /// Where the file is.
    type File = String;

    fn file(&self, path: &Path) -> String {
        Escaped(&json!({"uri": uri(path)})).to_string()
    }

    fn change(&self, file: &String, change: &PlacedChange<'_>, out: &mut Vec<u8>) {
        let RuleFields { start, fix } = &self.rules[change.rule.0];
        out.extend_from_slice(start.as_bytes());
        out.extend_from_slice(file.as_bytes());
        // Writing to a vector does not fail.
        if let Some(place) = change.cell {
            let _ = write!(out, "}},\"logicalLocations\":{}}}]}}", Escaped(&json!([logical(place)])));
            return;
        }
        let region = region(change);
        let _ = write!(out, ",\"region\":{region}");
        // A fix is text: what is not valid UTF-8 cannot be put into one.
        if std::str::from_utf8(&change.before).is_ok() && std::str::from_utf8(&change.after).is_ok() {
            let _ = write!(
                out,
                "{fix}{file},\"replacements\":[{{\"deletedRegion\":{region},\"insertedContent\":{{\"text\":"
            );
            write_text(&change.after, out);
            out.extend_from_slice(b"}}]}]}]}");
        } else {
            out.extend_from_slice(b"}}]}");
        }
    }
}

/// A cell. Lines are those of the cell: where it stands in the file is not known.
fn logical(place: &CellPlace) -> Value {
    let record = if place.record == 0 { "header".to_owned() } else { format!("record {}", place.record) };
    match &place.field {
        Some(field) => json!({"name": **field, "fullyQualifiedName": format!("{record}, {field}"), "kind": "member"}),
        None => json!({"name": record, "fullyQualifiedName": record, "kind": "object"}),
    }
}

/// The stretch that goes; `endColumn` is the one after it.
fn region(change: &PlacedChange<'_>) -> String {
    let PlacedChange { line, column, before, .. } = change;
    let (mut end_line, mut end_column) = (*line, *column);
    let text = String::from_utf8_lossy(before);
    let mut characters = text.chars().peekable();
    while let Some(character) = characters.next() {
        let ends_line = character == '\n' || (character == '\r' && characters.peek() != Some(&'\n'));
        (end_line, end_column) = if ends_line { (end_line + 1, 1) } else { (end_line, end_column + 1) };
    }
    format!("{{\"startLine\":{line},\"startColumn\":{column},\"endLine\":{end_line},\"endColumn\":{end_column}}}")
}

/// A path as a URI reference: relative as it was named, or a file URI.
fn uri(path: &Path) -> String {
    let bytes = path.as_os_str().as_encoded_bytes();
    let encoded = percent_encode(bytes, PATH).to_string();
    if path.is_absolute() { format!("file://{encoded}") } else { encoded }
}
