//! What the messages of the protocol have in common: parameters, answers, places of files.

use std::path::{Path, PathBuf};

use lsp_server::{Message, RequestId};
use percent_encoding::{AsciiSet, NON_ALPHANUMERIC, percent_decode_str, percent_encode};
use serde::de::DeserializeOwned;

use super::document::Document;
use super::text_file::PlacedEdit;
use super::types::{Cancel, Diagnostic, Range, Severity, TextEdit};
use crate::project::is_rule_set_name;

const SOURCE: &str = "washout";

/// An answer, or why there is none.
pub(super) type Answer = Result<serde_json::Value, NoAnswer>;

/// Why there is no answer.
#[derive(Debug)]
pub(super) enum NoAnswer {
    /// It is not wanted any more.
    Unwanted,
    /// It cannot be given, and why.
    Failed(String),
}

impl From<String> for NoAnswer {
    fn from(why: String) -> Self {
        Self::Failed(why)
    }
}

impl From<&str> for NoAnswer {
    fn from(why: &str) -> Self {
        Self::Failed(why.to_owned())
    }
}

pub(super) fn value(answer: impl serde::Serialize) -> Answer {
    serde_json::to_value(answer).map_err(|error| error.to_string().into())
}

pub(super) fn needed<P: DeserializeOwned>(asked: serde_json::Value) -> Result<P, NoAnswer> {
    serde_json::from_value(asked).map_err(|error| error.to_string().into())
}

pub(super) fn params<P: DeserializeOwned>(told: serde_json::Value) -> Option<P> {
    serde_json::from_value(told).ok()
}

/// The request that a message takes back.
pub(super) fn cancelled(message: &Message) -> Option<RequestId> {
    let Message::Notification(told) = message else { return None };
    if told.method != "$/cancelRequest" {
        return None;
    }
    params(told.params.clone()).map(|Cancel { id }| id)
}

pub(super) fn diagnostic(range: Range, message: String, severity: Severity, rule: Option<&str>) -> Diagnostic {
    Diagnostic { range, severity, code: rule.map(str::to_owned), source: SOURCE, message }
}

pub(super) fn text_edits(document: &Document, edits: &[PlacedEdit]) -> Result<Vec<TextEdit>, String> {
    let edit = |edit: &PlacedEdit| {
        let new_text = String::from_utf8(edit.after.clone()).map_err(|_| "a rule makes what is not UTF-8")?;
        Ok(TextEdit { range: document.range(edit.place.clone()), new_text })
    };
    edits.iter().map(edit).collect()
}

pub(super) fn is_rule_set(path: &Path) -> bool {
    path.file_name().is_some_and(|name| is_rule_set_name(&name.to_string_lossy()))
}

/// What need not be encoded in the path of a URI (RFC 3986).
pub(super) const PATH: &AsciiSet = &NON_ALPHANUMERIC.remove(b'/').remove(b'-').remove(b'.').remove(b'_').remove(b'~');

pub(super) fn path_of(uri: &str) -> Option<PathBuf> {
    use std::os::unix::ffi::OsStringExt;
    let path = uri.strip_prefix("file://")?;
    let path = &path[path.find('/')?..];
    Some(PathBuf::from(std::ffi::OsString::from_vec(percent_decode_str(path).collect())))
}

pub(super) fn uri_of(path: &Path) -> String {
    let path = percent_encode(path.as_os_str().as_encoded_bytes(), PATH).to_string();
    format!("file://{path}")
}
