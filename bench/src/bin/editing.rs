//! How long a diagnostic takes while a text is edited, and whether the language server grows: the real program over pipes.
//!
//! `cargo run --profile dist -p washout-bench --bin editing -- target/dist/washout [EDITS]`

use std::io::{BufRead, BufReader, Read, Write};
use std::process::{ChildStdin, ChildStdout, Command, Stdio};
use std::time::Instant;

use serde_json::{Value, json};
use washout_bench::{Dirt, log};

/// Twenty minutes of five keys a second.
const EDITS: usize = 6_000;

/// Rules that see more than one line: they look at the whole text after each edit.
const WHOLE: &str = "[[rule]]\ndrop_lines.empty = 'extra'\n[[rule]]\ndrop_repeats.scope = 'file'\n";

struct Client {
    to: ChildStdin,
    from: BufReader<ChildStdout>,
}

impl Client {
    fn send(&mut self, message: &Value) {
        let text = message.to_string();
        write!(self.to, "Content-Length: {}\r\n\r\n{text}", text.len())
            .and_then(|()| self.to.flush())
            .expect("a server");
    }

    fn hear(&mut self) -> Value {
        let (mut len, mut line) = (0, String::new());
        while line != "\r\n" {
            line.clear();
            self.from.read_line(&mut line).expect("a server");
            if let Some(value) = line.strip_prefix("Content-Length: ") {
                len = value.trim().parse().expect("a length");
            }
        }
        let mut text = vec![0; len];
        self.from.read_exact(&mut text).expect("a message");
        serde_json::from_slice(&text).expect("JSON")
    }

    /// Waits for the diagnostics of a version; gives how many there are.
    fn diagnostics(&mut self, version: usize) -> usize {
        loop {
            let message = self.hear();
            if message["params"]["version"] == version {
                return message["params"]["diagnostics"].as_array().map_or(0, Vec::len);
            }
        }
    }
}

fn memory(id: u32) -> u64 {
    let status = std::fs::read_to_string(format!("/proc/{id}/status")).unwrap_or_default();
    let line = status.lines().find_map(|line| line.strip_prefix("VmRSS:")).unwrap_or("0");
    line.split_whitespace().next().and_then(|kib| kib.parse().ok()).unwrap_or(0)
}

fn main() {
    let mut args = std::env::args().skip(1);
    let program = args.next().expect("the path of the program");
    let edits = args.next().and_then(|edits| edits.parse().ok()).unwrap_or(EDITS);
    println!("{edits} edits each; milliseconds from the edit to its diagnostics, MiB at the start and the end");
    println!("{:<40}{:>9}{:>9}{:>9}{:>8}{:>8}", "", "median", "95 %", "worst", "start", "end");
    let by_line = [(1 << 20, Dirt::None), (1 << 20, Dirt::Tenth), (5 << 20, Dirt::None), (5 << 20, Dirt::Little)];
    let whole = [(1 << 20, Dirt::None), (1 << 20, Dirt::Tenth), (5 << 20, Dirt::Little)];
    let runs = by_line.map(|run| (run, "")).into_iter().chain(whole.map(|run| (run, WHOLE)));
    for ((size, dirt), more) in runs {
        let folder = tempfile::tempdir().expect("a folder");
        let rules = "[[rule]]\nremove.class = ['control', 'invisible']\n[[rule]]\nremove = { words = ['um', 'uh'], case = 'ignore' }\n\
                     [[rule]]\nreplace = { class = 'odd-space', with = ' ' }\n[[rule]]\ntrim.at = 'end'\n";
        std::fs::write(folder.path().join("rules.wash.toml"), format!("{rules}{more}")).expect("a rule set");
        std::fs::write(folder.path().join("washout.toml"), "[[apply]]\nrules = ['rules.wash.toml']\n")
            .expect("a project");
        let text = String::from_utf8_lossy(&log(size, dirt)[..size]).into_owned();
        let lines = text.matches('\n').count();
        let mut command = Command::new(&program);
        let mut server = command.arg("lsp").stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().expect("the program");
        let (to, from) = (server.stdin.take().expect("a pipe"), server.stdout.take().expect("a pipe"));
        let mut client = Client { to, from: BufReader::new(from) };
        client.send(&json!({ "jsonrpc": "2.0", "id": 1, "method": "initialize", "params": { "capabilities": {} } }));
        client.hear();
        client.send(&json!({ "jsonrpc": "2.0", "method": "initialized", "params": {} }));
        let uri = format!("file://{}/log.txt", folder.path().display());
        let document = json!({ "uri": uri, "languageId": "text", "version": 0, "text": text });
        client.send(
            &json!({ "jsonrpc": "2.0", "method": "textDocument/didOpen", "params": { "textDocument": document } }),
        );
        client.diagnostics(0);
        let start = memory(server.id());
        let mut times = Vec::new();
        for edit in 1..=edits {
            // Words typed here and there, each taken back again, and line ends among them.
            let line = (edit / 20 * 7919) % lines;
            let (from, to, new) = match edit % 20 {
                19 => (0, 18, ""),
                10 => (9, 9, " um  "),
                place => (place, place, "x"),
            };
            let place = |character: usize| json!({ "line": line, "character": character });
            let change = json!({ "range": { "start": place(from), "end": place(to) }, "text": new });
            let document = json!({ "uri": uri, "version": edit });
            let params = json!({ "textDocument": document, "contentChanges": [change] });
            let begun = Instant::now();
            client.send(&json!({ "jsonrpc": "2.0", "method": "textDocument/didChange", "params": params }));
            client.diagnostics(edit);
            times.push(begun.elapsed());
        }
        let end = memory(server.id());
        client.send(&json!({ "jsonrpc": "2.0", "id": 2, "method": "shutdown" }));
        client.send(&json!({ "jsonrpc": "2.0", "method": "exit" }));
        server.wait().expect("it ended");
        times.sort();
        let at = |part: usize| times[(times.len() - 1) * part / 100].as_secs_f64() * 1000.0;
        let kind = if more.is_empty() { "" } else { ", whole texts" };
        let what = format!("{} MiB, {dirt:?} dirty{kind}", size >> 20);
        println!("{what:<40}{:>9.1}{:>9.1}{:>9.1}{:>8}{:>8}", at(50), at(95), at(100), start >> 10, end >> 10);
    }
}
