//! The types of the protocol, as far as they are used here.
//!
//! Source: [Language Server Protocol 3.17](https://microsoft.github.io/language-server-protocol/specifications/lsp/3.17/specification/).

use std::collections::HashMap;

use lsp_server::RequestId;
use serde::{Deserialize, Serialize};

/// A place: lines and, in a line, UTF-16 code units, both from 0.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
pub(super) struct Position {
    pub(super) line: u32,
    pub(super) character: u32,
}

/// Up to its end, which does not belong to it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
pub(super) struct Range {
    pub(super) start: Position,
    pub(super) end: Position,
}

// ---- what the editor tells and asks

#[derive(Deserialize)]
pub(super) struct TextDocument {
    pub(super) uri: String,
    #[serde(default)]
    pub(super) version: Option<i32>,
}

#[derive(Deserialize)]
pub(super) struct OpenedText {
    pub(super) uri: String,
    pub(super) version: i32,
    pub(super) text: String,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct DidOpen {
    pub(super) text_document: OpenedText,
}

/// A change of a text; without a range, its whole text.
#[derive(Deserialize)]
pub(super) struct ContentChange {
    #[serde(default)]
    pub(super) range: Option<Range>,
    pub(super) text: String,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct DidChange {
    pub(super) text_document: TextDocument,
    pub(super) content_changes: Vec<ContentChange>,
}

#[derive(Deserialize)]
pub(super) struct Cancel {
    pub(super) id: RequestId,
}

/// Something of a whole text.
#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct OfText {
    pub(super) text_document: TextDocument,
}

/// Something of a place.
#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct AtPlace {
    pub(super) text_document: TextDocument,
    pub(super) position: Position,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct Renaming {
    #[serde(flatten)]
    pub(super) at: AtPlace,
    pub(super) new_name: String,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct ActionsFor {
    pub(super) text_document: TextDocument,
    pub(super) range: Range,
    #[serde(default)]
    pub(super) context: ActionContext,
}

#[derive(Default, Deserialize)]
pub(super) struct ActionContext {
    /// Kinds of actions that are wanted; none: all.
    #[serde(default)]
    pub(super) only: Option<Vec<String>>,
}

// ---- what the server sends

#[derive(Clone, Copy, Debug, Serialize)]
pub(super) struct Severity(u8);

impl Severity {
    pub(super) const ERROR: Self = Self(1);
    pub(super) const WARNING: Self = Self(2);
    pub(super) const INFORMATION: Self = Self(3);
}

#[derive(Debug, Serialize)]
pub(super) struct Diagnostic {
    pub(super) range: Range,
    pub(super) severity: Severity,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(super) code: Option<String>,
    pub(super) source: &'static str,
    pub(super) message: String,
}

#[derive(Debug, Serialize)]
#[serde(rename_all = "camelCase")]
pub(super) struct TextEdit {
    pub(super) range: Range,
    pub(super) new_text: String,
}

/// Edits by the URI of their text.
#[derive(Debug, Serialize)]
pub(super) struct WorkspaceEdit {
    pub(super) changes: HashMap<String, Vec<TextEdit>>,
}

#[derive(Clone, Copy, Debug, Serialize)]
pub(super) struct ActionKind(pub(super) &'static str);

impl ActionKind {
    pub(super) const QUICK_FIX: Self = Self("quickfix");
    pub(super) const FIX_ALL: Self = Self("source.fixAll");
}

#[derive(Debug, Serialize)]
pub(super) struct CodeAction {
    pub(super) title: String,
    pub(super) kind: ActionKind,
    pub(super) edit: WorkspaceEdit,
}

#[derive(Clone, Copy, Debug, Serialize)]
pub(super) struct CompletionKind(u8);

impl CompletionKind {
    pub(super) const FIELD: Self = Self(5);
    pub(super) const VALUE: Self = Self(12);
}

#[derive(Debug, Serialize)]
pub(super) struct CompletionItem {
    pub(super) label: String,
    pub(super) kind: CompletionKind,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(super) detail: Option<String>,
}
