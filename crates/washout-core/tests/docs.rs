//! The language page is complete, and everything it shows is true.

use serde::Deserialize;
use serde_json::Value;
use washout_core::class::NAMED_CLASSES;
use washout_core::names::{NameRequest, NameWasher};
use washout_core::ready::ReadySet;
use washout_core::rules::Verb;
use washout_core::schema::schema;
use washout_core::stock::Stock;
use washout_core::{Files, NamedFile, Program, RuleSet};

const PAGE: &str = include_str!("../../../docs/rules.md");

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Example {
    /// One rule, as on a command line,
    rule: Option<String>,
    /// or a set.
    rules: Option<String>,
    /// Each line is the name of a file.
    names: Option<bool>,
    /// It is a table.
    table: Option<bool>,
    given: String,
    gives: String,
}

/// The files the page speaks of.
struct TestFiles;

impl Files for TestFiles {
    fn open(&self, _from: &str, path: &str, _most: u64) -> Result<NamedFile, String> {
        let bytes: &[u8] = match path {
            "spelling.csv" => b"harbour,harbor\ngrey,gray\n",
            "names.csv" => b"from,to\n# the station\nMarrow Pt,Marrow Point\n",
            "fillers.txt" => b"you know\nI mean\n",
            "house.wash.toml" => b"[[rule]]\nreplace = { class = 'double-quote', with = '\"' }\n",
            _ => return Err("there is no such file".to_owned()),
        };
        Ok(NamedFile { name: path.to_owned(), bytes: bytes.to_vec() })
    }
}

fn blocks() -> Vec<&'static str> {
    PAGE.split("```toml example\n").skip(1).filter_map(|block| block.split("```").next()).collect()
}

#[test]
fn examples_of_the_language_page_hold() {
    let mut failed = Vec::new();
    for block in blocks() {
        let example: Example = toml::from_str(block).unwrap_or_else(|error| panic!("{error}\n{block}"));
        let set = match (&example.rule, &example.rules) {
            (Some(rule), None) => RuleSet::read_one_rule_with("example", rule, &TestFiles),
            (None, Some(rules)) => RuleSet::read_with("example", rules, &TestFiles),
            _ => panic!("one of `rule` and `rules`:\n{block}"),
        };
        let set = set.unwrap_or_else(|error| panic!("{error}"));
        let program = Program::compile([&set]);
        let washed = if example.names == Some(true) {
            names(&program, &set, &example.given)
        } else if example.table == Some(true) {
            program.apply_as(program.form(None), example.given.as_bytes()).expect("a good table")
        } else {
            program.apply(example.given.as_bytes()).expect("little work").into_text().into_owned()
        };
        if washed != example.gives.as_bytes() {
            failed.push(format!("{block}gives {:?}\n", String::from_utf8_lossy(&washed)));
        }
    }
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}

/// Each line through the rules as a name.
fn names(program: &Program, set: &RuleSet, given: &str) -> Vec<u8> {
    let mut washer = NameWasher::new(program, &set.names);
    let new = |name: &str| match washer.wash(name.as_bytes(), false).request {
        NameRequest::Become(new) => new,
        other => panic!("{name}: {other:?}"),
    };
    given.lines().map(new).flat_map(|name| [name, b"\n".to_vec()].concat()).collect()
}

/// Every key a rule set can have.
fn keys(schema: &Value) -> Vec<String> {
    let tables = schema["$defs"].as_object().expect("tables").values().chain([schema]);
    let mut keys: Vec<String> = tables
        .filter_map(|table| table["properties"].as_object())
        .flat_map(|properties| properties.keys().cloned())
        .collect();
    keys.sort();
    keys.dedup();
    keys
}

#[test]
fn every_verb_and_key_is_named_and_shown_by_an_example() {
    let examples: String = blocks().concat();
    // These are about a set as a whole, or about examples themselves.
    let about_sets = ["title", "about", "rule", "example", "given", "gives", "given_file", "gives_file"];
    let mut missing = Vec::new();
    for key in keys(&schema()).iter().map(String::as_str).chain(Verb::NAMES.iter().copied()) {
        let named = PAGE.contains(&format!("`{key}`"))
            || PAGE.contains(&format!("`[[{key}]]`"))
            || PAGE.contains(&format!("`[{key}]`"))
            || PAGE.contains(&format!("`{key} = "));
        let used = [format!("{key} = "), format!("{key}."), format!(".{key} "), format!("[{key}]")]
            .iter()
            .any(|use_| examples.contains(use_));
        if !named || !(used || about_sets.contains(&key)) {
            missing.push(format!("{key}: named {named}, shown {used}"));
        }
    }
    assert!(missing.is_empty(), "docs/rules.md lacks\n{}", missing.join("\n"));
}

/// The cells of the row of a table that opens with this name.
fn row(name: &str) -> Vec<String> {
    let opening = format!("| `{name}` | ");
    let line = PAGE.lines().find(|line| line.starts_with(&opening)).unwrap_or_else(|| panic!("no row for {name}"));
    let line = line.replace("\\|", "\u{0}");
    let cells = line.trim_matches('|').split(" | ");
    cells.map(|cell| cell.replace('\u{0}', "|").trim_matches([' ', '|']).to_owned()).collect()
}

#[test]
fn the_rows_of_classes_say_what_is_true() {
    for class in NAMED_CLASSES {
        let cells = row(class.name);
        let set = class.set();
        assert_eq!(cells[1], class.members, "{}", class.name);
        let counted = match set.len() {
            0 => "—".to_owned(),
            count => cells[2].replace(',', "").parse::<usize>().map_or_else(
                |_| String::new(),
                |said| {
                    if said == count { cells[2].clone() } else { format!("not {said}, {count}") }
                },
            ),
        };
        assert_eq!(cells[2], counted, "{}", class.name);
        let shown = cells[3].trim_matches('`');
        let is_member = match shown.strip_prefix("U+") {
            Some(code) => {
                set.contains(u32::from_str_radix(code, 16).ok().and_then(char::from_u32).expect("a character"))
            }
            None => (shown == "LF" && set.has_line_ends()) || (shown == "byte FF" && set.has_broken()),
        };
        assert!(is_member, "{} is not in {}", cells[3], class.name);
    }
}

#[test]
fn the_rows_of_stock_patterns_say_what_is_true() {
    for stock in Stock::ALL {
        let cells = row(stock.name());
        assert_eq!((cells[1].as_str(), cells[2].as_str()), (stock.takes(), stock.leaves()), "{}", stock.name());
        // The escape character is drawn.
        let shown = |line: &str| format!("`{}`", line.replace('\u{1B}', "␛"));
        let (found, missed) = (shown(&stock.matching_lines()[0]), shown(&stock.near_misses()[0]));
        assert_eq!((&cells[3], &cells[4]), (&found, &missed), "{}", stock.name());
    }
    for ready in ReadySet::ALL {
        let set = RuleSet::read(ready.name, ready.source).expect("a good set");
        assert_eq!(Some(row(&format!("ready:{}", ready.name))[1].clone()), set.about, "{}", ready.name);
    }
}
