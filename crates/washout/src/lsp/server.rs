//! The server: it takes what the editor tells, and looks at texts that have changed.

use std::collections::{BTreeSet, HashMap};
use std::path::PathBuf;

use lsp_server::{Connection, ErrorCode, Message, Notification, Request, RequestId, Response};
use serde_json::json;

use super::diagnostics::diagnostics;
use super::document::Document;
use super::messages::Messages;
use super::projects::Projects;
use super::protocol::{params, path_of};
use super::text_file::Changes;
use super::types::{Diagnostic, DidChange, DidOpen, OfText};

/// A text that is open in the editor.
pub(super) struct OpenFile {
    pub(super) path: PathBuf,
    pub(super) document: Document,
    pub(super) changes: Changes,
}

pub(super) struct Server<'c> {
    connection: &'c Connection,
    pub(super) messages: Messages<'c>,
    pub(super) open: HashMap<String, OpenFile>,
    pub(super) projects: Projects,
    is_over: bool,
}

impl<'c> Server<'c> {
    pub(super) fn new(connection: &'c Connection) -> Self {
        let messages = Messages::of(connection);
        Self { connection, messages, open: HashMap::new(), projects: Projects::default(), is_over: false }
    }

    /// Asks to be told of rule sets and project files that are saved by others.
    pub(super) fn register(&self, watches: bool) {
        if watches {
            let watchers = ["**/washout.toml", "**/*.wash.toml"].map(|glob| json!({ "globPattern": glob }));
            let registration = json!({ "registrations": [{
                "id": "files",
                "method": "workspace/didChangeWatchedFiles",
                "registerOptions": { "watchers": watchers },
            }] });
            let id = RequestId::from("register".to_owned());
            self.send(Message::Request(Request {
                id,
                method: "client/registerCapability".to_owned(),
                params: registration,
            }));
        }
    }

    pub(super) fn send(&self, message: Message) {
        // One who does not listen any more is gone.
        let _ = self.connection.sender.send(message);
    }

    /// Takes all messages that have come before it looks at texts: what is typed fast is looked at once.
    pub(super) fn run(&mut self) {
        let mut stale: BTreeSet<String> = BTreeSet::new();
        while !self.is_over {
            match self.messages.next(stale.is_empty()) {
                Some(Message::Request(request)) => self.take_request(request),
                Some(Message::Notification(notification)) => self.hear(notification, &mut stale),
                Some(Message::Response(_)) => {}
                None => match stale.pop_first() {
                    // What was not finished is looked at after the changes that came meanwhile.
                    Some(uri) if !self.diagnose(&uri) => drop(stale.insert(uri)),
                    Some(_) => {}
                    None => return,
                },
            }
        }
    }

    fn take_request(&mut self, request: Request) {
        if self.messages.is_cancelled(&request.id) {
            let code = ErrorCode::RequestCanceled as i32;
            return self.send(Response::new_err(request.id, code, "cancelled".to_owned()).into());
        }
        if request.method == "shutdown" {
            // The editor says `exit` next.
            return self.send(Response::new_ok(request.id, ()).into());
        }
        self.answer(request);
    }

    fn hear(&mut self, notification: Notification, stale: &mut BTreeSet<String>) {
        match notification.method.as_str() {
            "textDocument/didOpen" => {
                let Some(DidOpen { text_document: text }) = params(notification.params) else { return };
                let uri = text.uri;
                let Some(path) = path_of(&uri) else { return };
                let document = Document::new(text.text, Some(text.version));
                self.open.insert(uri.clone(), OpenFile { path, document, changes: Changes::default() });
                stale.insert(uri);
            }
            "textDocument/didChange" => {
                let Some(DidChange { text_document: text, content_changes }) = params(notification.params) else {
                    return;
                };
                let uri = text.uri;
                if let Some(open) = self.open.get_mut(&uri) {
                    content_changes.into_iter().for_each(|change| open.document.change(change));
                    open.document.version = text.version;
                    stale.insert(uri);
                }
            }
            "textDocument/didClose" => {
                let Some(OfText { text_document: text }) = params(notification.params) else { return };
                let uri = text.uri.as_str();
                self.open.remove(uri);
                stale.remove(uri);
                self.publish(uri, &[], None);
            }
            // Rules may have changed, for any of them.
            "textDocument/didSave" | "workspace/didChangeWatchedFiles" => {
                stale.extend(self.open.keys().cloned());
            }
            "exit" => self.is_over = true,
            _ => {}
        }
    }

    /// Looks at a text and says what is found; whether that was finished before a text is to be changed.
    fn diagnose(&mut self, uri: &str) -> bool {
        let Self { open, projects, messages, .. } = self;
        let Some(OpenFile { path, document, changes }) = open.get_mut(uri) else { return true };
        let version = document.version;
        let found = diagnostics(path, document, changes, projects, &|| !messages.change_texts());
        let Some(found) = found else { return false };
        self.publish(uri, &found, version);
        true
    }

    fn publish(&self, uri: &str, diagnostics: &[Diagnostic], version: Option<i32>) {
        let mut params = json!({ "uri": uri, "diagnostics": diagnostics });
        if let Some(version) = version {
            params["version"] = version.into();
        }
        self.send(Notification::new("textDocument/publishDiagnostics".to_owned(), params).into());
    }
}
