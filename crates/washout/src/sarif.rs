//! What is found as SARIF 2.1.0 (OASIS Standard, 27 March 2020), for programs that show findings in code.
//!
//! Columns and lengths are in characters (`unicodeCodePoints`), lines and columns from 1.

use std::path::{Path, PathBuf};

use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, percent_encode};
use serde_json::{Value, json};
use washout_core::RuleName;
use washout_core::observe::PlacedChange;
use washout_files::{Recorder, Skip};

use crate::json::Escaped;

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

/// Writes a change as one result on one line.
pub(crate) fn recorder(names: &[RuleName]) -> Box<Recorder<'_>> {
    Box::new(move |file, change, out| {
        out.extend(Escaped(&result(names, file, change)).to_string().into_bytes());
        out.push(b'\n');
    })
}

fn result(names: &[RuleName], file: &Path, change: &PlacedChange) -> Value {
    let name = &names[change.rule.0];
    let artifact = json!({"uri": uri(file)});
    let mut result = json!({
        "ruleId": name.number,
        "ruleIndex": change.rule.0,
        "level": "warning",
        "message": {"text": name.caption},
        "locations": [{"physicalLocation": {"artifactLocation": artifact}}],
    });
    if let Some(place) = &change.cell {
        // Lines are those of the cell: where it stands in the file is not known.
        let record = if place.record == 0 { "header".to_owned() } else { format!("record {}", place.record) };
        let cell = match &place.field {
            Some(field) => {
                json!({"name": **field, "fullyQualifiedName": format!("{record}, {field}"), "kind": "member"})
            }
            None => json!({"name": record, "fullyQualifiedName": record, "kind": "object"}),
        };
        result["locations"][0]["logicalLocations"] = json!([cell]);
        return result;
    }
    let region = region(change);
    result["locations"][0]["physicalLocation"]["region"] = region.clone();
    // A fix is text: what is not valid UTF-8 cannot be put into one.
    if let (Ok(_), Ok(after)) = (std::str::from_utf8(&change.before), std::str::from_utf8(&change.after)) {
        let replacement = json!({"deletedRegion": region, "insertedContent": {"text": after}});
        let changes = json!([{"artifactLocation": artifact, "replacements": [replacement]}]);
        result["fixes"] = json!([{"description": {"text": name.caption}, "artifactChanges": changes}]);
    }
    result
}

/// The stretch that goes; `endColumn` is the one after it.
fn region(change: &PlacedChange) -> Value {
    let PlacedChange { line, column, before, .. } = change;
    let (mut end_line, mut end_column) = (*line, *column);
    let text = String::from_utf8_lossy(before);
    let mut characters = text.chars().peekable();
    while let Some(character) = characters.next() {
        let ends_line = character == '\n' || (character == '\r' && characters.peek() != Some(&'\n'));
        (end_line, end_column) = if ends_line { (end_line + 1, 1) } else { (end_line, end_column + 1) };
    }
    json!({"startLine": line, "startColumn": column, "endLine": end_line, "endColumn": end_column})
}

/// A path as a URI reference: relative as it was named, or a file URI.
fn uri(path: &Path) -> String {
    let bytes = path.as_os_str().as_encoded_bytes();
    let encoded = percent_encode(bytes, PATH).to_string();
    if path.is_absolute() { format!("file://{encoded}") } else { encoded }
}
