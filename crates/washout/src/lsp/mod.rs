//! The language server (LSP 3.17) on standard input and output.
//!
//! [`server`] takes what the editor tells, [`diagnostics`] are what it sends unasked, and [`answers`] what it is asked for.
//! [`projects`] knows which rules are for a file. [`document`] is an open text; [`text_file`] says what rules of a project would change in it, and remembers that part by part;
//! [`rule_set`] reads rule sets. The server writes no file: what it proposes, the editor does.
//!
//! Source: [Language Server Protocol 3.17](https://microsoft.github.io/language-server-protocol/specifications/lsp/3.17/specification/).

mod answers;
mod diagnostics;
mod document;
mod messages;
mod projects;
mod protocol;
mod rule_set;
mod server;
mod text_file;
mod types;

use std::io::{self, IsTerminal as _};

use lsp_server::Connection;
use serde_json::{Value, json};

use crate::exit::{Exit, Trouble};
use crate::show::visible::shown;
use server::Server;
use types::ActionKind;

/// Characters of a message that are repeated where it is unexpected.
const MOST_OF_MESSAGE: usize = 120;

/// Runs the command.
pub(crate) fn run() -> Result<Exit, Trouble> {
    if io::stdin().is_terminal() {
        let message =
            "an editor starts this, and talks to it over pipes; its documentation says how to name a language server";
        return Err(Trouble::Usage(message.to_owned()));
    }
    let (connection, threads) = Connection::stdio();
    // What is unexpected may be a whole text.
    let failed = |error: lsp_server::ProtocolError| {
        let why: String = error.to_string().chars().take(MOST_OF_MESSAGE).collect();
        Trouble::Usage(format!("the editor does not keep to the protocol: {}", shown(&why)))
    };
    let (id, client) = match connection.initialize_start() {
        // Whoever started it has nothing to say.
        Err(error) if error.channel_is_disconnected() => return Ok(Exit::Done),
        begun => begun.map_err(failed)?,
    };
    let server = json!({ "name": "washout", "version": env!("CARGO_PKG_VERSION") });
    connection
        .initialize_finish(id, json!({ "capabilities": capabilities(), "serverInfo": server }))
        .map_err(failed)?;
    let watches = client["capabilities"]["workspace"]["didChangeWatchedFiles"]["dynamicRegistration"] == json!(true);
    let mut server = Server::new(&connection);
    server.register(watches);
    server.run();
    drop(connection);
    // Whoever talks to it may be gone.
    let _ = threads.join();
    Ok(Exit::Done)
}

/// What the server can do.
fn capabilities() -> Value {
    let as_changed = 2;
    json!({
        "textDocumentSync": { "openClose": true, "change": as_changed, "save": true },
        "codeActionProvider": { "codeActionKinds": [ActionKind::QUICK_FIX, ActionKind::FIX_ALL] },
        "documentFormattingProvider": true,
        "hoverProvider": true,
        "completionProvider": { "triggerCharacters": ["\"", "'", "{", "."] },
        "definitionProvider": true,
        "renameProvider": true,
        "codeLensProvider": { "resolveProvider": false },
    })
}
