//! `--json`: every command gives one value of the shape that `docs/json.md` tells.

mod support;

use std::collections::{BTreeMap, BTreeSet};

use serde_json::Value;
use support::TestDir;

/// Every field of a value with the types it has: `files[].state` is a string.
type Shape = BTreeMap<String, BTreeSet<String>>;

fn add(path: &str, value: &Value, shape: &mut Shape) {
    let kind = match value {
        Value::Null => "null",
        Value::Bool(_) => "true or false",
        Value::Number(_) => "number",
        Value::String(_) => "text",
        Value::Array(_) => "list",
        Value::Object(_) => "object",
    };
    // What every value starts with, and the objects of a list, are reported in words.
    let is_told =
        path.is_empty() || matches!(path, "version" | "command") || (path.ends_with("[]") && value.is_object());
    if !is_told {
        shape.entry(path.to_owned()).or_default().insert(kind.to_owned());
    }
    match value {
        Value::Array(values) => values.iter().for_each(|value| add(&format!("{path}[]"), value, shape)),
        Value::Object(fields) => fields.iter().for_each(|(name, value)| {
            let path = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
            add(&path, value, shape);
        }),
        _ => {}
    }
}

/// The tables of the page: by command, the types of each field.
fn documented() -> BTreeMap<String, Shape> {
    let page = include_str!("../../../docs/json.md");
    let mut all: BTreeMap<String, Shape> = BTreeMap::new();
    let mut command = String::new();
    for line in page.lines() {
        if let Some(heading) = line.strip_prefix("## `") {
            heading.split('`').next().unwrap_or_default().clone_into(&mut command);
        }
        if let Some(row) = line.strip_prefix("| `") {
            let cells: Vec<&str> = row.split(" | ").collect();
            let field = cells[0].trim_end_matches('`').to_owned();
            let types = cells[1].split(", ").map(str::to_owned).collect();
            all.entry(command.clone()).or_default().insert(field, types);
        }
    }
    all
}

fn desk() -> TestDir {
    let desk = TestDir::with(&[
        (
            "log.wash.toml",
            "protect = []\n[[rule]]\nlabel = 'no signs'\nremove = { chars = '#' }\n[[rule]]\n\
          replace = { pattern = '(a)b', with = '$1' }\n[[example]]\nlabel = 'a'\ngiven = '#'\ngives = ''\n\
          [[example]]\nrule = 1\ngiven = '#'\ngives = 'x'\n",
        ),
        ("other.wash.toml", "[[rule]]\nremove = { chars = '#ab' }\n"),
        (
            "bad.wash.toml",
            "[[rule]]\nremove = { class = 'punctuation' }\n[[rule]]\nremove = { chars = '.' }\n\
          [[rule]]\nreplace = { text = 'a', with = 'aa' }\n[[example]]\ngiven = 'a'\ngives = 'aa'\n",
        ),
        (
            "slow.wash.toml",
            "[[rule]]\nremove.pattern = '^(a|aa)+\\1(?!c)c'\n[[example]]\n\
          given = 'aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaac'\ngives = ''\n",
        ),
        ("in/a.txt", "#fog ab “x” \"y\"\n1 the the\n2 ...\n3 lamp \n"),
        ("in/b.txt", "fog\n"),
        ("stores.csv", "a,b\n x#,x\nX,\n"),
    ]);
    desk.write("stores.csv", b"a,b,c\n x,x,\nX,\xFF\xC3\xA9#,\n,,\n");
    desk.write("in/c.bin", b"\x7FELF\x02\x01\x01\0\0\0");
    desk.write("in/d.txt", b"caf\xE9\xE8 fog and more of it, tout \xE0 fait\n");
    desk
}

#[test]
fn every_command_gives_a_value_of_the_documented_shape() {
    let desk = desk();
    let runs: &[(&str, &[&str])] = &[
        ("clean", &["-r", "log.wash.toml", "in"]),
        ("clean", &["-r", "slow.wash.toml", "slow.txt"]),
        ("check", &["-r", "log.wash.toml", "in"]),
        ("survey", &["in"]),
        ("survey", &["slow.txt"]),
        ("survey", &["stores.csv"]),
        ("check", &["--rule", "remove.chars = '#'", "stores.csv"]),
        ("check", &["--rule", "remove.chars = '#'", "in", "--list", "count"]),
        ("survey", &["--names", "in"]),
        ("learn", &["--pair", "scan 7", "scan 007", "--for", "in"]),
        ("learn", &["--pair", "a", "b", "--pair", "a", "c"]),
        ("spellout", &["in/a.txt:1", "-r", "log.wash.toml"]),
        ("spellout", &["--text", "a\u{200B}b", "--against", "ab"]),
        ("spellout", &["--text", "ab", "--against", "x"]),
        ("trace", &["-r", "log.wash.toml", "in/a.txt"]),
        ("trace", &["-r", "log.wash.toml", "--against", "other.wash.toml", "in/a.txt"]),
        ("trace", &["-r", "slow.wash.toml", "slow.txt"]),
        ("trace", &["--rule", "{ fields = 1, to_field = 'New', remove.chars = '#' }", "stores.csv:1:1"]),
        ("trace", &["--rule", "remove.text = 'a'", "--names", "--text", "a.txt"]),
        ("check", &["--rule", "{ fields = 1, to_field = 'New', remove.chars = '#' }", "stores.csv"]),
        ("test", &["log.wash.toml", "slow.wash.toml"]),
        ("explain", &["-r", "log.wash.toml", "-r", "bad.wash.toml"]),
        ("explain", &["-r", "ready:prose"]),
        ("stock", &[]),
        ("stock", &["line-number"]),
        ("stock", &["bidi"]),
        ("stock", &["stopwords:en"]),
        ("stock", &["ready:prose"]),
        ("demo", &["--into", "papers"]),
        ("history", &[]),
        ("clean", &["--rule", "remove.chars = '#'", "back", "--write"]),
        ("history", &["1"]),
        ("undo", &["1"]),
        ("clean", &["--rule", "replace = { chars = '#', with = 'x' }", "back", "--write"]),
        ("undo", &["1", "--only", "back/a"]),
        ("undo", &["3", "--only", "back/b"]),
        ("names", &["-r", "log.wash.toml", "--rule", "remove.chars = ']'", "scans"]),
        ("names", &["--rule", "replace = { text = 'a#', with = 'c' }", "scans", "--write"]),
        ("history", &[]),
        ("history", &["5"]),
        ("undo", &["5", "--preview"]),
        ("clean", &["--rule", "remove.chars = '!'", "scans", "--write", "--no-history"]),
        ("undo", &["5"]),
        ("history", &[]),
        ("undo", &[]),
        ("history prune", &["--keep-days", "0"]),
    ];
    ["back/a", "back/b"].iter().for_each(|file| desk.write(file, b"#"));
    desk.write("scans/a#1", b"!");
    ["scans/b#1", "scans/b1", "scans/]"].iter().for_each(|name| desk.write(name, b""));
    std::os::unix::fs::symlink("a.txt", desk.path("in/link.txt")).expect("a link");
    // What a killed run has left.
    desk.write("killed/.washout-0123456789abcdef.part", b"#");
    desk.write("slow.txt", format!("{}c", "a".repeat(80)).as_bytes());
    let mut found: BTreeMap<String, Shape> = BTreeMap::new();
    for (command, args) in runs {
        let ran = desk.run(&[&command.split(' ').collect::<Vec<_>>(), *args, &["--json"]].concat());
        let value: Value = serde_json::from_slice(&ran.out).unwrap_or_else(|error| panic!("{error} in {ran}"));
        assert_eq!((&value["version"], &value["command"]), (&1.into(), &(*command).into()), "{ran}");
        add("", &value, found.entry((*command).to_owned()).or_default());
    }
    let documented = documented();
    let mut wrong = Vec::new();
    for (command, shape) in &found {
        for (field, types) in shape {
            let told = documented.get(command).and_then(|fields| fields.get(field));
            if told != Some(types) {
                let types: Vec<&str> = types.iter().map(String::as_str).collect();
                wrong.push(format!("## `{command}`: | `{field}` | {} |", types.join(", ")));
            }
        }
    }
    for (command, fields) in &documented {
        for field in fields.keys().filter(|field| !found.get(command).is_some_and(|shape| shape.contains_key(*field))) {
            wrong.push(format!("{command} has no {field}"));
        }
    }
    assert!(wrong.is_empty(), "docs/json.md tells another shape:\n{}", wrong.join("\n"));
}

#[test]
fn a_report_has_a_line_for_each_change() {
    let desk = desk();
    let report = ["--report", "changes.jsonl", "--into", "cleaned"];
    let ran = desk.run(&[&["clean", "-r", "log.wash.toml", "in/a.txt", "in/b.txt"], &report[..]].concat()).status(0);
    ran.says(&["The report is in changes.jsonl", "The cleaned copies are in cleaned"]);
    assert_eq!(
        desk.read("changes.jsonl"),
        "{\"file\":\"in/a.txt\",\"record\":null,\"field\":null,\"line\":1,\"column\":1,\"rule\":\"1\",\"label\":\"no signs\",\"before\":\"#\",\"after\":\"\"}\n\
         {\"file\":\"in/a.txt\",\"record\":null,\"field\":null,\"line\":1,\"column\":6,\"rule\":\"2\",\"label\":\"replace pattern (a)b with “$1”\",\
         \"before\":\"ab\",\"after\":\"a\"}\n"
    );
    desk.run(&["clean", "-r", "log.wash.toml", "in/a.txt", "--report", "changes.txt"])
        .status(2)
        .warns(&["changes.txt: a report is a page, NAME.html, or a line for each change, NAME.jsonl"]);
}
