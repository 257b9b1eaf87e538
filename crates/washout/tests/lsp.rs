//! The language server, with a client over pipes.

mod support;

use std::io::{BufRead, BufReader, Read, Write};
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::time::Instant;

use proptest::prelude::*;
use serde_json::{Value, json};
use support::TestDir;

/// An editor, as far as the server can tell.
struct Editor {
    server: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
    folder: String,
    next: i64,
    version: i64,
}

impl Editor {
    fn start(desk: &TestDir) -> Self {
        Self::start_with(desk, json!({}))
    }

    /// The same with what it can do.
    #[expect(clippy::needless_pass_by_value, reason = "tests build it in place")]
    fn start_with(desk: &TestDir, capabilities: Value) -> Self {
        let mut command = desk.command();
        command.arg("lsp").stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::inherit());
        let mut server = command.spawn().expect("the built program");
        let (to, from) = (server.stdin.take().expect("a pipe"), BufReader::new(server.stdout.take().expect("a pipe")));
        let folder = desk.path("").canonicalize().expect("a folder").to_string_lossy().into_owned();
        let mut editor = Self { server, to, from, folder, next: 0, version: 0 };
        let answer =
            editor.ask("initialize", json!({ "capabilities": capabilities, "processId": null, "rootUri": null }));
        assert_eq!(answer["capabilities"]["textDocumentSync"]["change"], 2, "{answer}");
        editor.tell("initialized", json!({}));
        editor
    }

    fn send(&mut self, message: &Value) {
        let text = message.to_string();
        write!(self.to, "Content-Length: {}\r\n\r\n{text}", text.len())
            .and_then(|()| self.to.flush())
            .expect("a server");
    }

    #[expect(clippy::needless_pass_by_value, reason = "tests build it in place")]
    fn tell(&mut self, method: &str, params: Value) {
        self.send(&json!({ "jsonrpc": "2.0", "method": method, "params": params }));
    }

    fn hear(&mut self) -> Value {
        let mut len = 0;
        loop {
            let mut line = String::new();
            assert!(self.from.read_line(&mut line).expect("a server") > 0, "the server is gone");
            if let Some(value) = line.strip_prefix("Content-Length: ") {
                len = value.trim().parse().expect("a length");
            }
            if line == "\r\n" {
                break;
            }
        }
        let mut text = vec![0; len];
        self.from.read_exact(&mut text).expect("a message");
        serde_json::from_slice(&text).expect("JSON")
    }

    /// Asks; gives the whole response.
    #[expect(clippy::needless_pass_by_value, reason = "tests build it in place")]
    fn response(&mut self, method: &str, params: Value) -> Value {
        self.next += 1;
        let id = self.next;
        self.send(&json!({ "jsonrpc": "2.0", "id": id, "method": method, "params": params }));
        loop {
            let message = self.hear();
            if message["id"] == id {
                return message;
            }
        }
    }

    fn ask(&mut self, method: &str, params: Value) -> Value {
        let response = self.response(method, params);
        assert!(response.get("error").is_none(), "{method}: {response}");
        response["result"].clone()
    }

    fn uri(&self, file: &str) -> String {
        format!("file://{}/{file}", self.folder)
    }

    fn text(&self, file: &str) -> Value {
        json!({ "uri": self.uri(file) })
    }

    /// Opens a text; gives its diagnostics.
    fn open(&mut self, file: &str, text: &str) -> Vec<Value> {
        self.version += 1;
        let document = json!({ "uri": self.uri(file), "languageId": "text", "version": self.version, "text": text });
        self.tell("textDocument/didOpen", json!({ "textDocument": document }));
        self.diagnostics(file)
    }

    /// Puts a text in place of what is between two places (line and character, from 0).
    fn change(&mut self, file: &str, from: (u32, u32), to: (u32, u32), text: &str) -> Vec<Value> {
        self.version += 1;
        let place = |(line, character)| json!({ "line": line, "character": character });
        let change = json!({ "range": { "start": place(from), "end": place(to) }, "text": text });
        let document = json!({ "uri": self.uri(file), "version": self.version });
        self.tell("textDocument/didChange", json!({ "textDocument": document, "contentChanges": [change] }));
        self.diagnostics(file)
    }

    /// The diagnostics of the newest version.
    fn diagnostics(&mut self, file: &str) -> Vec<Value> {
        loop {
            let message = self.hear();
            let params = &message["params"];
            if message["method"] == "textDocument/publishDiagnostics"
                && params["uri"] == self.uri(file)
                && params["version"] == self.version
            {
                return params["diagnostics"].as_array().expect("a list").clone();
            }
        }
    }

    fn end(mut self) {
        self.ask("shutdown", Value::Null);
        self.tell("exit", Value::Null);
        assert!(self.server.wait().expect("it ended").success());
    }
}

impl Drop for Editor {
    fn drop(&mut self) {
        let _ = self.server.kill();
    }
}

/// `line:character rule` of each, from 0.
fn places(diagnostics: &[Value]) -> Vec<String> {
    let place = |one: &Value| {
        let start = &one["range"]["start"];
        format!("{}:{} {}", start["line"], start["character"], one["code"].as_str().unwrap_or_default())
    };
    diagnostics.iter().map(place).collect()
}

/// The same from `check`, whose places count characters from 1.
fn checked(desk: &TestDir, file: &str, text: &str) -> Vec<String> {
    desk.write(file, text.as_bytes());
    let json = desk.run(&["check", file, "--json"]);
    let found: Value = serde_json::from_slice(&json.out).expect("JSON");
    let lines: Vec<&str> = text.split('\n').collect();
    let place = |one: &Value| {
        let (line, column) = (one["line"].as_u64().expect("a number"), one["column"].as_u64().expect("a number"));
        let line_text = lines[usize::try_from(line - 1).expect("a line")];
        let units: usize =
            line_text.chars().take(usize::try_from(column - 1).expect("a column")).map(char::len_utf16).sum();
        format!("{}:{units} {}", line - 1, one["rule"].as_str().expect("a rule"))
    };
    found["found"].as_array().expect("a list").iter().map(place).collect()
}

fn desk() -> TestDir {
    TestDir::with(&[
        ("washout.toml", "[[apply]]\nrules = ['log.wash.toml']\nonly = ['*.txt']\n"),
        (
            "log.wash.toml",
            "[[rule]]\nlabel = 'no marks'\nremove.chars = '#'\n[[rule]]\nlabel = 'no blanks at line ends'\ntrim.at = 'end'\n",
        ),
    ])
}

#[test]
fn diagnostics_are_what_check_finds_after_each_change() {
    let desk = desk();
    let mut text = "𝄞 # fog \nlamp\n".to_owned();
    desk.write("a b.txt", text.as_bytes());
    let mut editor = Editor::start(&desk);
    let file = "a%20b.txt";
    let found = editor.open(file, &text);
    assert_eq!(places(&found), checked(&desk, "a b.txt", &text));
    assert_eq!((found[0]["message"].as_str(), found[0]["source"].as_str()), (Some("no marks"), Some("washout")));
    // A character beyond the basic plane counts as two.
    assert_eq!(places(&found)[0], "0:3 1");
    let edits = [
        ((1, 4), (1, 4), "  "),
        ((0, 3), (0, 4), ""),
        ((1, 0), (1, 0), "# one\n#two \n"),
        ((0, 0), (2, 1), "x"),
        ((9, 9), (9, 9), "end #"),
    ];
    for (from, to, new) in edits {
        replace(&mut text, from, to, new);
        let found = editor.change(file, from, to, new);
        assert_eq!(places(&found), checked(&desk, "a b.txt", &text), "{text:?}");
    }
    // Formatting is cleaning; so is the offer to clean the file.
    let edits = editor.ask(
        "textDocument/formatting",
        json!({ "textDocument": editor.text(file), "options": { "tabSize": 4, "insertSpaces": true } }),
    );
    let cleaned = desk.run(&["clean", "a b.txt", "-r", "log.wash.toml", "--stdout"]).status(0).out();
    assert_eq!(edited(&text, &edits), cleaned);
    editor.end();
}

/// Puts a text in place of what is between two places (line and character, from 0), as the protocol has them.
fn replace(text: &mut String, from: (u32, u32), to: (u32, u32), new: &str) {
    let at = |(line, units): (u32, u32)| {
        let start: usize = text.split_inclusive('\n').take(line as usize).map(str::len).sum();
        let line = text[start..].split('\n').next().unwrap_or_default();
        let mut seen = 0;
        let inside = line.char_indices().find(|(_, character)| {
            let is_here = seen >= units as usize;
            seen += character.len_utf16();
            is_here
        });
        start + inside.map_or(line.len(), |(at, _)| at)
    };
    let place = at(from)..at(to);
    text.replace_range(place, new);
}

/// Rules that look at lines, at several lines, and at the whole text.
const KINDS_OF_RULES: [&str; 4] = [
    "[[rule]]\nremove.chars = '#'\n[[rule]]\ntrim.at = 'end'\n",
    "[[rule]]\nremove = { pattern = 'x\\n+y', across_lines = true }\n[[rule]]\ndrop_lines.empty = 'extra'\n",
    "[[rule]]\ndrop_repeats = {}\n[[rule]]\nreplace = { text = 'x', with = '𝄞' }\n[[rule]]\nremove.chars = '𝄞'\n",
    "[[rule]]\nfrom_line = { text = 'x' }\nto_line = { text = 'y' }\nremove.chars = '# '\n",
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, max_shrink_iters: 200, ..ProptestConfig::default() })]

    #[test]
    fn however_a_text_is_edited_its_diagnostics_are_those_of_the_text(
        kind in 0..KINDS_OF_RULES.len(),
        start in "[xy# é𝄞\n]{0,30}",
        edits in prop::collection::vec(((0..6_u32, 0..9_u32), (0..6_u32, 0..9_u32), "[xy# é𝄞\n]{0,6}"), 1..10),
    ) {
        let desk = desk();
        desk.write("log.wash.toml", KINDS_OF_RULES[kind].as_bytes());
        let mut text = start;
        desk.write("a.txt", text.as_bytes());
        let mut editor = Editor::start(&desk);
        prop_assert_eq!(places(&editor.open("a.txt", &text)), checked(&desk, "a.txt", &text));
        for (one, other, new) in edits {
            let (from, to) = (one.min(other), one.max(other));
            // A place within a character that counts as two is none.
            let is_place = |(line, units): (u32, u32)| {
                let Some(line) = text.split('\n').nth(line as usize) else { return false };
                let starts = line.chars().scan(0, |at, character| {
                    let start = *at;
                    *at += u32::try_from(character.len_utf16()).expect("a small number");
                    Some(start)
                });
                let len = u32::try_from(line.encode_utf16().count()).expect("a short line");
                starts.chain([len]).any(|start| start == units)
            };
            if !is_place(from) || !is_place(to) {
                continue;
            }
            replace(&mut text, from, to, &new);
            let found = editor.change("a.txt", from, to, &new);
            prop_assert_eq!(places(&found), checked(&desk, "a.txt", &text), "{:?}", text);
        }
        editor.end();
    }
}

/// A text with edits of the protocol in it.
fn edited(text: &str, edits: &Value) -> String {
    let mut edits: Vec<Value> = edits.as_array().expect("edits").clone();
    let at = |place: &Value| {
        let line = usize::try_from(place["line"].as_u64().expect("a line")).expect("a line");
        let start: usize = text.split_inclusive('\n').take(line).map(str::len).sum();
        let mut units = place["character"].as_u64().expect("a place");
        let mut bytes = start;
        for character in text[start..].chars() {
            if units == 0 {
                break;
            }
            units -= character.len_utf16() as u64;
            bytes += character.len_utf8();
        }
        bytes
    };
    let mut new = text.to_owned();
    // From the end: places before it stay as they are. Of two at one place the first comes first.
    edits.reverse();
    for edit in &edits {
        new.replace_range(
            at(&edit["range"]["start"])..at(&edit["range"]["end"]),
            edit["newText"].as_str().expect("a text"),
        );
    }
    new
}

#[test]
fn each_place_rule_and_file_can_be_mended_and_nothing_is_written() {
    let desk = desk();
    let text = "# one \n# two\n";
    desk.write("a.txt", text.as_bytes());
    let mut editor = Editor::start(&desk);
    editor.open("a.txt", text);
    let place = json!({ "line": 0, "character": 0 });
    let ask = |only: Value| json!({ "textDocument": {}, "range": { "start": place, "end": place }, "context": { "diagnostics": [], "only": only } });
    let mut asked = ask(Value::Null);
    asked["textDocument"] = editor.text("a.txt");
    asked["context"].as_object_mut().expect("a context").remove("only");
    let actions = editor.ask("textDocument/codeAction", asked.clone());
    let titles: Vec<&str> =
        actions.as_array().expect("a list").iter().filter_map(|action| action["title"].as_str()).collect();
    assert_eq!(
        titles,
        [
            "change this place: rule 1, no marks",
            "in the whole file: rule 1, no marks",
            "clean the whole file by all rules"
        ]
    );
    for (action, want) in
        actions.as_array().expect("a list").iter().zip([" one \n# two\n", " one \n two\n", " one\n two\n"])
    {
        assert_eq!(edited(text, &action["edit"]["changes"][editor.uri("a.txt")]), want, "{action}");
    }
    asked["context"]["only"] = json!(["source.fixAll"]);
    let actions = editor.ask("textDocument/codeAction", asked);
    assert_eq!((actions.as_array().map(Vec::len), actions[0]["kind"].as_str()), (Some(1), Some("source.fixAll")));
    // A file that the project has no rules for.
    assert!(editor.open("a.md", "# one \n").is_empty());
    // The rules are saved with a mistake, and again without.
    desk.write("log.wash.toml", b"[[rule]]\nremov.chars = '#'\n");
    editor.tell("textDocument/didSave", json!({ "textDocument": editor.text("a.txt") }));
    editor.version -= 1;
    let found = editor.diagnostics("a.txt");
    assert!(found.len() == 1 && found[0]["message"].as_str().is_some_and(|said| said.contains("remov")), "{found:?}");
    desk.write("log.wash.toml", b"[[rule]]\nremove.chars = 'o'\n");
    editor.tell("textDocument/didSave", json!({ "textDocument": editor.text("a.txt") }));
    assert_eq!(places(&editor.diagnostics("a.txt")), ["0:2 1", "1:4 1"]);
    editor.end();
    assert_eq!(desk.read("a.txt"), text);
}

#[test]
fn rule_sets_are_checked_completed_explained_and_renamed() {
    let desk = desk();
    desk.write("words.txt", b"um\n");
    let mut editor = Editor::start(&desk);
    let set = "[[rule]]\nlabel = \"digits\"\nremov = { pattern = '\\d+' }\n\n[[example]]\nrule = \"digits\"\ngiven = 'a1'\ngives = 'a'\n";
    let found = editor.open("new.wash.toml", set);
    assert!(
        found[0]["severity"] == 1
            && found[0]["message"].as_str().is_some_and(|said| said.contains("did you mean `remove`")),
        "{found:?}"
    );
    let asked = json!({ "textDocument": editor.text("new.wash.toml"), "range": found[0]["range"], "context": { "diagnostics": [] } });
    let actions = editor.ask("textDocument/codeAction", asked);
    assert_eq!(actions[0]["title"], "write `remove`");
    assert!(edited(set, &actions[0]["edit"]["changes"][editor.uri("new.wash.toml")]).contains("\nremove = {"));
    assert!(editor.change("new.wash.toml", (2, 5), (2, 5), "e").is_empty());
    let at = |editor: &Editor, line: u32, character: u32| json!({ "textDocument": editor.text("new.wash.toml"), "position": { "line": line, "character": character } });
    let asked = at(&editor, 2, 2);
    let hover = editor.ask("textDocument/hover", asked);
    let said = hover["contents"]["value"].as_str().expect("words");
    assert!(said.contains("rule 1") && said.contains("`\\d` ") || said.contains("digit"), "{said}");
    let asked = json!({ "textDocument": editor.text("new.wash.toml") });
    let lens = editor.ask("textDocument/codeLens", asked.clone());
    assert_eq!(
        (lens[0]["command"]["title"].as_str(), &lens[0]["range"]["start"]["line"]),
        (Some("the example holds"), &json!(4))
    );
    let mut rename = at(&editor, 1, 11);
    rename["newName"] = json!("no \"digits\"");
    let renamed = editor.ask("textDocument/rename", rename);
    let now = set.replace("remov ", "remove ");
    let renamed = edited(&now, &renamed["changes"][editor.uri("new.wash.toml")]);
    assert_eq!(renamed.matches("no \"digits\"").count(), 2, "{renamed}");
    assert!(editor.open("other.wash.toml", &renamed).is_empty(), "it is a good set still");
    // An example that does not hold.
    let found = editor.change("other.wash.toml", (7, 9), (7, 10), "b");
    assert!(found.len() == 1 && found[0]["severity"] == 2 && found[0]["range"]["start"]["line"] == 4, "{found:?}");
    // What can stand where.
    let project = "[[apply]]\nrules = ['c.wash.toml']\nonly = ['*.csv']\n";
    desk.write("washout.toml", project.as_bytes());
    desk.write("c.wash.toml", b"[table]\ndelimiter = ';'\n[[rule]]\ntrim = {}\n");
    desk.write("ledger.csv", b"Date;Keeper;Wind;Remarks\n1;2;3;4\n");
    let complete = |editor: &mut Editor, text: &str| -> Vec<String> {
        editor.open("c.wash.toml", text);
        let line = u32::try_from(text.matches('\n').count()).expect("few lines");
        let character = text.rsplit('\n').next().map_or(0, str::len);
        let asked =
            json!({ "textDocument": editor.text("c.wash.toml"), "position": { "line": line, "character": character } });
        let items = editor.ask("textDocument/completion", asked);
        items.as_array().expect("a list").iter().filter_map(|item| item["label"].as_str().map(str::to_owned)).collect()
    };
    for (text, has, has_not) in [
        ("", "rule", "remove"),
        ("[[rule]]\n", "join_lines", "given"),
        ("[[rule]]\nremove = { ", "stopwords", "join_lines"),
        ("[[rule]]\nremove.", "pattern", "join_lines"),
        ("[[rule]]\nremove = { class = \"", "invisible", "line-number"),
        ("[[rule]]\nremove = { class = [\"control\", \"", "invisible", "line-number"),
        ("[[rule]]\nremove = { stock = \"", "line-number", "invisible"),
        ("[[rule]]\nremove = { chars = \"#\", at = \"", "edges", "control"),
        ("[[rule]]\ninclude = \"", "ready:prose", "control"),
        ("[[example]]\n", "given", "remove"),
        // Fields of tables that the project names the set for.
        ("[[rule]]\nfields = [\"", "Keeper", "control"),
        ("[[rule]]\nfields = 'Remarks'\nto_field = \"", "Date", "control"),
        ("[[rule]]\ndrop_fields = '", "Wind", "control"),
    ] {
        let labels = complete(&mut editor, text);
        assert!(
            labels.iter().any(|label| label == has) && !labels.iter().any(|label| label == has_not),
            "{text:?}: {labels:?}"
        );
    }
    let text = "[[rule]]\nremove.words_from = 'words.txt'\n";
    editor.open("d.wash.toml", text);
    let asked = json!({ "textDocument": editor.text("d.wash.toml"), "position": { "line": 1, "character": 24 } });
    assert_eq!(editor.ask("textDocument/definition", asked)["uri"], editor.uri("words.txt"));
    editor.end();
}

#[test]
fn a_project_file_is_checked_while_it_is_typed() {
    let desk = desk();
    desk.write("broken.wash.toml", b"[[rule]]\nremov.chars = '#'\n");
    let mut editor = Editor::start(&desk);
    let text = "[[apply]]\nrules = ['log.wash.toml', 'gone.wash.toml', 'broken.wash.toml']\nonly = ['*.txt', '[a']\n";
    let found = editor.open("washout.toml", text);
    let said: Vec<&str> = found.iter().filter_map(|found| found["message"].as_str()).collect();
    let [gone, broken, glob] = said[..] else { panic!("{found:?}") };
    assert!(
        gone.contains("gone.wash.toml cannot be read") && broken.contains("1 mistake") && glob.contains("[a"),
        "{said:?}"
    );
    assert_eq!(found[0]["range"]["start"], json!({ "line": 1, "character": 26 }));
    let found = editor.change("washout.toml", (1, 0), (1, 5), "rule");
    assert!(
        found.len() == 1 && found[0]["message"].as_str().is_some_and(|said| said.contains("unknown field `rule`")),
        "{found:?}"
    );
    editor.end();
}

#[test]
fn what_is_taken_back_ends_and_what_is_unknown_is_refused() {
    let desk = desk();
    let mut editor = Editor::start(&desk);
    desk.write("slow.wash.toml", b"[[rule]]\nremove.chars = '#'\n[[rule]]\ndrop_repeats.scope = 'file'\n");
    desk.write("washout.toml", b"[[apply]]\nrules = ['slow.wash.toml']\n");
    let long = (0..900_000).map(|number| format!("# fog {number}\n")).collect::<Vec<_>>().concat();
    let mut sent = Instant::now();
    assert!(!editor.open("a.txt", &long).is_empty());
    let whole = sent.elapsed();
    // It is at work on the request when that is taken back.
    let format = json!({ "textDocument": editor.text("a.txt"), "options": { "tabSize": 4, "insertSpaces": true } });
    sent = Instant::now();
    editor.send(&json!({ "jsonrpc": "2.0", "id": 99, "method": "textDocument/formatting", "params": format }));
    std::thread::sleep(whole / 20);
    editor.tell("$/cancelRequest", json!({ "id": 99 }));
    let answer = editor.hear();
    assert!(
        answer["id"] == 99 && answer["error"]["code"] == -32800,
        "{answer} after {:?} of {whole:?}",
        sent.elapsed()
    );
    // A change ends what is looked for in the text before it.
    let change = |version: i64, text: &str| json!({ "textDocument": { "uri": editor.uri("a.txt"), "version": version }, "contentChanges": [{ "text": text }] });
    let (before, after) = (change(7, &format!("x{long}")), change(8, "# lamp\n"));
    editor.tell("textDocument/didChange", before);
    std::thread::sleep(whole / 4);
    editor.tell("textDocument/didChange", after);
    assert_eq!(editor.hear()["params"]["version"], 8);
    assert_eq!(editor.response("textDocument/nothing", json!({}))["error"]["code"], -32601);
    let asked = json!({ "textDocument": editor.text("gone.txt"), "options": { "tabSize": 4, "insertSpaces": true } });
    assert_eq!(editor.response("textDocument/formatting", asked)["error"]["code"], -32803);
    editor.end();
}

#[test]
fn an_editor_that_watches_files_is_asked_to_and_what_it_tells_is_looked_at() {
    let desk = desk();
    let mut editor =
        Editor::start_with(&desk, json!({ "workspace": { "didChangeWatchedFiles": { "dynamicRegistration": true } } }));
    let asked = editor.hear();
    assert_eq!(asked["method"], "client/registerCapability");
    let registered = &asked["params"]["registrations"][0];
    assert_eq!(registered["method"], "workspace/didChangeWatchedFiles");
    assert_eq!(registered["registerOptions"]["watchers"][1]["globPattern"], "**/*.wash.toml");
    editor.send(&json!({ "jsonrpc": "2.0", "id": asked["id"], "result": null }));
    assert_eq!(editor.open("a.txt", "# fog \n").len(), 2);
    // Another program saves the rules.
    desk.write("log.wash.toml", b"[[rule]]\nlabel = 'no marks'\nremove.chars = '#'\n");
    let changed = json!({ "changes": [{ "uri": editor.uri("log.wash.toml"), "type": 2 }] });
    editor.tell("workspace/didChangeWatchedFiles", changed);
    assert_eq!(editor.diagnostics("a.txt").len(), 1);
    // A text that is closed has no diagnostics any more, and is not known.
    let closed = json!({ "textDocument": editor.text("a.txt") });
    editor.tell("textDocument/didClose", closed.clone());
    let said = editor.hear();
    assert!(said["params"]["uri"] == editor.uri("a.txt") && said["params"]["diagnostics"] == json!([]), "{said}");
    assert_eq!(editor.response("textDocument/codeLens", closed)["error"]["code"], -32803);
    // A request that is taken back before it is begun.
    editor.tell("$/cancelRequest", json!({ "id": 1000 }));
    editor.end();
}

#[test]
fn one_who_does_not_keep_to_the_protocol_is_told_so_in_a_line() {
    let desk = desk();
    let first =
        json!({ "jsonrpc": "2.0", "id": 1, "method": "initialize", "params": { "capabilities": {} } }).to_string();
    let text =
        json!({ "jsonrpc": "2.0", "method": "textDocument/didOpen", "params": { "text": "fog ".repeat(9_000) } });
    let framed = |text: &str| format!("Content-Length: {}\r\n\r\n{text}", text.len());
    let ran = desk.run_with(&["lsp"], [framed(&first), framed(&text.to_string())].concat().as_bytes());
    let ran = ran.status(2).warns(&["does not keep to the protocol"]);
    assert!(ran.err.len() < 400, "{}", ran.err);
    desk.run(&["lsp"]).status(0).silent_err();
}

#[test]
fn neovim_shows_what_would_change_and_formats() {
    if Command::new("nvim").arg("--version").output().is_err() {
        return support::cannot_run("Neovim is not installed");
    }
    let desk = desk();
    desk.write("a.txt", b"\xF0\x9D\x84\x9E # one \nlamp\n");
    // Versions differ in what these are called.
    let script = format!(
        "local start = vim.lsp.start or function(config) vim.lsp.buf_attach_client(0, vim.lsp.start_client(config)) end
         start({{ name = 'washout', cmd = {{ '{}', 'lsp' }}, root_dir = vim.fn.getcwd() }})
         vim.wait(20000, function() return #vim.diagnostic.get(0) > 0 end)
         for _, one in ipairs(vim.diagnostic.get(0)) do print(one.lnum .. ':' .. one.col .. ' ' .. one.message) end
         if vim.lsp.buf.format then vim.lsp.buf.format({{ timeout_ms = 20000 }}) else vim.lsp.buf.formatting_sync(nil, 20000) end
         vim.cmd('write')",
        env!("CARGO_BIN_EXE_washout")
    );
    desk.write("client.lua", script.as_bytes());
    let mut nvim = Command::new("nvim");
    nvim.args(["--headless", "--clean", "a.txt", "-c", "luafile client.lua", "-c", "quitall!"])
        .current_dir(desk.path(""));
    nvim.env("HOME", desk.state.path()).stdin(Stdio::null());
    let output = nvim.output().expect("Neovim");
    let said = String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned();
    // Its columns are bytes, from 0.
    assert!(said.contains("0:5 no marks") && said.contains("0:10 no blanks at line ends"), "{said}");
    assert_eq!(desk.read("a.txt"), "𝄞  one\nlamp\n");
}
