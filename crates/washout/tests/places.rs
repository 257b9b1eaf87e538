//! The places that the program lists: each is where the text before has what the rule takes, and the changes made there, one
//! by one, give what the reference gives.

#[path = "../../washout-core/tests/random/mod.rs"]
#[allow(dead_code, reason = "only whole rules and texts are used")]
mod random;
#[path = "../../washout-core/tests/reference/mod.rs"]
mod reference;
mod support;

use std::collections::BTreeSet;

use proptest::strategy::{Strategy, ValueTree};
use proptest::test_runner::TestRunner;
use serde_json::Value;
use support::TestDir;
use washout_core::RuleSet;
use washout_core::rules::Verb;

/// A change as one of the formats lists it.
#[derive(Debug, PartialEq, Eq)]
struct Listed {
    line: u64,
    column: u64,
    before: Option<String>,
    after: Option<String>,
}

fn number(value: &Value) -> u64 {
    value.as_u64().expect("a number")
}

/// What `check --json` and reports list.
fn from_json(found: &[Value]) -> Vec<Listed> {
    let text = |value: &Value| Some(value.as_str().expect("a text").to_owned());
    let listed = |value: &Value| Listed {
        line: number(&value["line"]),
        column: number(&value["column"]),
        before: text(&value["before"]),
        after: text(&value["after"]),
    };
    found.iter().map(listed).collect()
}

/// What SARIF lists: the region says what goes.
fn from_sarif(sarif: &Value, text: &str) -> Vec<Listed> {
    let index = Index::of(text);
    let results = sarif["runs"][0]["results"].as_array().expect("results");
    let listed = |result: &Value| {
        let region = &result["locations"][0]["physicalLocation"]["region"];
        let [line, column, end_line, end_column] =
            ["startLine", "startColumn", "endLine", "endColumn"].map(|name| number(&region[name]));
        let replacement = &result["fixes"][0]["artifactChanges"][0]["replacements"][0];
        assert_eq!(&replacement["deletedRegion"], region);
        let (start, end) = (index.byte(line, column), index.byte(end_line, end_column));
        let before = Some(text[start..end].to_owned());
        Listed { line, column, before, after: replacement["insertedContent"]["text"].as_str().map(str::to_owned) }
    };
    results.iter().map(listed).collect()
}

/// What the lines of `check` list.
fn from_lines(lines: &str) -> Vec<Listed> {
    let listed = |line: &str| {
        let mut parts = line.strip_prefix("log.txt:").expect("the file").split(':');
        let mut next = || parts.next().expect("a number").parse().expect("a number");
        Listed { line: next(), column: next(), before: None, after: None }
    };
    lines.lines().map(listed).collect()
}

/// Where lines and characters of a text are.
struct Index {
    /// Where each character starts, in bytes, and where the text ends.
    chars: Vec<usize>,
    /// The first character of each line, from 0.
    lines: Vec<usize>,
}

impl Index {
    fn of(text: &str) -> Self {
        let all: Vec<(usize, char)> = text.char_indices().collect();
        let ends_line = |at: usize| match all[at].1 {
            '\n' => true,
            '\r' => all.get(at + 1).is_none_or(|(_, next)| *next != '\n'),
            _ => false,
        };
        let mark = usize::from(text.starts_with('\u{FEFF}'));
        let starts = (0..all.len()).filter(|at| ends_line(*at)).map(|at| at + 1);
        let lines = std::iter::once(mark).chain(starts).collect();
        Self { chars: all.into_iter().map(|(at, _)| at).chain([text.len()]).collect(), lines }
    }

    /// The byte for a line and a column, both from 1.
    fn byte(&self, line: u64, column: u64) -> usize {
        let [line, column] = [line, column].map(|number| usize::try_from(number).expect("a small number") - 1);
        self.chars[self.lines[line] + column]
    }
}

/// The text with all changes made where they are listed.
fn with_changes(text: &str, changes: &[Listed]) -> String {
    let index = Index::of(text);
    let (mut made, mut done) = (String::new(), 0);
    for change in changes {
        let before = change.before.as_deref().expect("what goes");
        let is_at_start = (change.line, change.column, done) == (1, 1, 0);
        let is_mark = before == "\u{FEFF}" && is_at_start && text.starts_with(before);
        let at = if is_mark { 0 } else { index.byte(change.line, change.column) };
        assert!(at >= done && text[at..].starts_with(before), "{change:?} is not there");
        made += &text[done..at];
        made += change.after.as_deref().expect("what comes");
        done = at + before.len();
    }
    made + &text[done..]
}

fn places(listed: &[Listed]) -> Vec<(u64, u64)> {
    listed.iter().map(|change| (change.line, change.column)).collect()
}

/// Lists the places in every format, and makes the changes of each that says what they are.
fn check(desk: &TestDir, text: &str, want: &str) {
    let list = |format: &str| {
        let ran = desk.run(&["check", "-r", "set.wash.toml", "--format", format, "log.txt"]);
        assert_eq!(ran.status, i32::from(text != want), "{ran:?}");
        ran.out()
    };
    let json: Value = serde_json::from_str(&list("json")).expect("JSON");
    let json = from_json(json["found"].as_array().expect("places"));
    assert_eq!(with_changes(text, &json), want, "{json:?}");
    let sarif: Value = serde_json::from_str(&list("sarif")).expect("JSON");
    let sarif = from_sarif(&sarif, text);
    let is_marked = |listed: &Listed| listed.before.as_deref() == Some("\u{FEFF}");
    if json.iter().any(is_marked) {
        assert_eq!(places(&sarif), places(&json));
    } else {
        assert_eq!(sarif, json);
    }
    assert_eq!(places(&from_lines(&list("text"))), places(&json));
}

#[test]
fn listed_places_are_where_the_reference_makes_changes_whatever_the_verb() {
    let desk = TestDir::new();
    let mut runner = TestRunner::deterministic();
    let others = ["drop_records", "drop_fields", "rename_fields", "include"];
    let mut missing: BTreeSet<&str> = Verb::NAMES.iter().copied().filter(|verb| !others.contains(verb)).collect();
    let mut done = 0;
    while done < 200 || !missing.is_empty() {
        assert!(done < 1_500, "no rule of these verbs changed anything: {missing:?}");
        let mut next = || (random::rules(), random::text()).new_tree(&mut runner).expect("a value").current();
        let (rules, text) = next();
        // What is not text cannot be shown as it is.
        let text = format!("{0}{0}", String::from_utf8_lossy(&text));
        let set = RuleSet::read("random", &rules).expect("good rules");
        let (want, _) = reference::apply(&set, text.as_bytes());
        let Ok(want) = String::from_utf8(want) else { continue };
        if want != text {
            missing.retain(|verb| set.rules.iter().all(|rule| rule.verb.name() != *verb));
        }
        desk.write("set.wash.toml", rules.as_bytes());
        desk.write("log.txt", text.as_bytes());
        check(&desk, &text, &want);
        done += 1;
    }
}

#[test]
fn places_in_a_long_text_are_where_its_result_differs() {
    let desk = TestDir::new();
    let line = "12 um the lämp was lit#\t\n\n«fog» and  um,\r\nno boat\rDRAFT\nthe keeper wrote -\nit down \n";
    let text = format!("{}{}", line.repeat(9_000), "um fog ".repeat(60_000));
    let rules = "[[rule]]\nremove = { stock = 'line-number', at = 'start' }\n[[rule]]\nremove.words = 'um'\n[[rule]]\n\
                 drop_lines.pattern = '^DRAFT$'\n[[rule]]\nreplace = { chars = '«»', with = '\"' }\n[[rule]]\n\
                 collapse = { chars = ' ' }\n[[rule]]\njoin_lines = {}\n[[rule]]\ntrim.at = 'end'\n";
    desk.write("set.wash.toml", rules.as_bytes());
    desk.write("log.txt", text.as_bytes());
    let want = desk.run(&["clean", "-r", "set.wash.toml", "--stdout", "log.txt"]).status(0).out();
    check(&desk, &text, &want);
    // What is shown of a file does not change what is counted of it.
    let counted = desk.run(&["clean", "-r", "set.wash.toml", "--json", "log.txt"]).status(0).out();
    let reported = desk.run(&["clean", "-r", "set.wash.toml", "--json", "log.txt", "--report", "all.jsonl"]).status(0);
    assert_eq!(counted, reported.out());
    let all = desk.read("all.jsonl");
    let all: Vec<Value> = all.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect();
    let first = desk.run(&["check", "-r", "set.wash.toml", "--list", "first", "log.txt"]).status(1).out();
    assert_eq!(places(&from_lines(&first)), places(&from_json(&all[..1])));
}
