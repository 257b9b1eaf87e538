//! Every way to the same result: what a preview counts, what is written, copied, streamed, listed and reported agree, for random
//! rules over a random folder.

#[path = "../../washout-core/tests/random/mod.rs"]
#[allow(dead_code, reason = "only whole rules and texts are used")]
mod random;
mod support;

use std::collections::BTreeMap;

use proptest::collection::vec;
use proptest::strategy::{Strategy, ValueTree};
use proptest::test_runner::TestRunner;
use serde_json::Value;
use support::TestDir;

const CASES: usize = 24;
const RULES: &[&str] = &["--rules", "random.wash.toml"];

/// Changes of each rule, by file.
type Counts = BTreeMap<String, BTreeMap<String, u64>>;

fn json(desk: &TestDir, args: &[&str]) -> Value {
    let ran = desk.run(&[args, RULES].concat());
    serde_json::from_slice(&ran.out).unwrap_or_else(|error| panic!("{error}\n{ran}"))
}

fn list(value: &Value) -> &[Value] {
    value.as_array().unwrap_or_else(|| panic!("not a list: {value}"))
}

fn text(value: &Value) -> String {
    value.as_str().unwrap_or_else(|| panic!("not a text: {value}")).to_owned()
}

/// What a run says of each file: changes of each rule. Those without changes do not count.
fn of_run(run: &Value) -> Counts {
    let rules: Vec<String> = list(&run["rules"]).iter().map(|rule| text(&rule["rule"])).collect();
    let of_file = |file: &Value| {
        let changes = list(&file["changes"]).iter().map(|number| number.as_u64().expect("a number"));
        let of_rules = rules.iter().cloned().zip(changes).filter(|(_, changes)| *changes > 0).collect();
        (text(&file["file"]), of_rules)
    };
    let counts = list(&run["files"]).iter().filter(|file| !file["changes"].is_null()).map(of_file);
    let counts: Counts = counts.filter(|(_, rules): &(_, BTreeMap<_, _>)| !rules.is_empty()).collect();
    for rule in list(&run["rules"]) {
        let name = text(&rule["rule"]);
        let of_rule: Vec<u64> = counts.values().filter_map(|rules| rules.get(&name).copied()).collect();
        assert_eq!(rule["changes"], of_rule.iter().sum::<u64>(), "the total of rule {name}\n{run}");
        assert_eq!(rule["files"], of_rule.len(), "the files of rule {name}\n{run}");
    }
    counts
}

/// The same from a list of places.
fn of_places<'a>(places: impl IntoIterator<Item = &'a Value>) -> Counts {
    let mut counts = Counts::new();
    for place in places {
        *counts.entry(text(&place["file"])).or_default().entry(text(&place["rule"])).or_default() += 1;
    }
    counts
}

fn totals(counts: &Counts) -> BTreeMap<String, u64> {
    counts.iter().map(|(file, rules)| (file.clone(), rules.values().sum())).collect()
}

/// A folder with random texts and the rules beside it; `None`: such rules are refused, or a text fails.
fn folder(rules: &str, texts: &[Vec<u8>]) -> (TestDir, Vec<String>) {
    let desk = TestDir::new();
    desk.write("random.wash.toml", rules.as_bytes());
    let names: Vec<String> = (0..texts.len()).map(|number| format!("in/{number}.txt")).collect();
    names.iter().zip(texts).for_each(|(name, text)| desk.write(name, text));
    (desk, names)
}

fn bytes(desk: &TestDir, path: &str) -> Vec<u8> {
    std::fs::read(desk.path(path)).unwrap_or_else(|error| panic!("{path}: {error}"))
}

#[test]
fn previews_results_lists_and_reports_agree() {
    let mut runner = TestRunner::deterministic();
    let cases = (random::rules(), vec(random::text(), 2..5));
    let mut with_changes = 0;
    for _ in 0..CASES {
        let (rules, texts) = cases.new_tree(&mut runner).expect("a case").current();
        let (desk, names) = folder(&rules, &texts);
        let preview = json(&desk, &["clean", "in", "--json"]);
        let counts = of_run(&preview);
        with_changes += usize::from(!counts.is_empty());
        let about =
            format!("{rules}\n{:?}", texts.iter().map(|text| text.escape_ascii().to_string()).collect::<Vec<_>>());

        // One by one, as a stream, in copies.
        desk.run(&[&["clean", "in", "--into", "out"], RULES].concat()).status(0);
        let single = json(&desk, &["clean", "in", "--json", "--jobs", "1"]);
        assert_eq!(single, preview, "{about}");
        let mut results = Vec::new();
        for (name, text) in names.iter().zip(&texts) {
            let printed = desk.run(&[&["clean", name, "--stdout", "--with-binary"], RULES].concat()).status(0).out;
            let streamed = desk.run_with(&[&["clean"], RULES].concat(), text).status(0).out;
            assert_eq!(printed.escape_ascii().to_string(), streamed.escape_ascii().to_string(), "{name}\n{about}");
            let copy = bytes(&desk, &format!("out/{name}"));
            assert_eq!(copy.escape_ascii().to_string(), printed.escape_ascii().to_string(), "{name}\n{about}");
            results.push(printed);
        }

        // Places.
        let check = json(&desk, &["check", "in", "--json", "--list", "all"]);
        let places = of_places(list(&check["found"]));
        // A place may be several changes, or a part of one; but there is none in a file without changes.
        assert!(places.keys().all(|file| counts.contains_key(file)), "{places:?} of {counts:?}\n{about}");
        let counted = json(&desk, &["check", "in", "--json", "--list", "count"]);
        let by_file = list(&counted["found"]).iter();
        let by_file = by_file.map(|file| (text(&file["file"]), file["changes"].as_u64().expect("a number")));
        assert_eq!(by_file.collect::<BTreeMap<_, _>>(), totals(&counts), "{about}");
        let sarif = json(&desk, &["check", "in", "--format", "sarif", "--list", "all"]);
        let listed = list(&sarif["runs"][0]["results"]).len() as u64;
        assert_eq!(listed, totals(&places).values().sum::<u64>(), "{about}");

        // Written, with a report, and undone.
        let write = ["clean", "in", "--write", "--json", "--report", "report.jsonl", "--report", "report.html"];
        let written = json(&desk, &write);
        assert_eq!(of_run(&written), counts, "{about}");
        for part in ["before", "after"] {
            assert_eq!(written[part], preview[part], "{part}: {about}");
        }
        let report = String::from_utf8(bytes(&desk, "report.jsonl")).expect("UTF-8");
        let report: Vec<Value> = report.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect();
        assert_eq!(of_places(&report), places, "{about}");
        for (name, result) in names.iter().zip(&results) {
            assert_eq!(bytes(&desk, name).escape_ascii().to_string(), result.escape_ascii().to_string(), "{about}");
        }
        if !counts.is_empty() {
            let history = json_of(&desk, &["history", "--json"]);
            assert_eq!(history["runs"][0]["changes"], totals(&counts).values().sum::<u64>(), "{history}");
            let changed = names.iter().zip(&texts).zip(&results).filter(|((_, text), result)| text != result).count();
            assert_eq!(history["runs"][0]["rewritten"], changed, "{history}\n{about}");
            desk.run(&["undo"]).status(0);
        }
        for (name, text) in names.iter().zip(&texts) {
            assert_eq!(bytes(&desk, name).escape_ascii().to_string(), text.escape_ascii().to_string(), "{about}");
        }
    }
    assert!(with_changes > CASES / 2, "most cases have something to change: {with_changes}");
}

fn json_of(desk: &TestDir, args: &[&str]) -> Value {
    serde_json::from_slice(&desk.run(args).status(0).out).expect("JSON")
}
