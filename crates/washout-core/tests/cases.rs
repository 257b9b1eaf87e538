//! Every case of `tests/cases/*.toml`, through the reference and all ways through the engine.

mod reference;
mod support;

use serde::Deserialize;
use washout_core::RuleSet;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    case: Vec<Case>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Case {
    name: String,
    rules: String,
    given: String,
    gives: String,
    /// Changes of each rule, where the number matters.
    changes: Option<Vec<u64>>,
}

/// In `given` and `gives`, `\xNN` is a byte: TOML itself holds no broken UTF-8.
fn bytes(text: &str) -> Vec<u8> {
    let mut parts = text.split("\\x");
    let mut bytes = parts.next().unwrap_or_default().as_bytes().to_vec();
    for part in parts {
        bytes.push(u8::from_str_radix(&part[..2], 16).expect("two hex digits"));
        bytes.extend_from_slice(&part.as_bytes()[2..]);
    }
    bytes
}

fn check(case: &Case) -> Result<(), String> {
    let rules = RuleSet::read("case", &case.rules).map_err(|error| error.to_string())?;
    let (given, gives) = (bytes(&case.given), bytes(&case.gives));
    let (text, changes) = reference::apply(&rules, &given);
    if text != gives {
        return Err(format!("the reference gives {}", text.escape_ascii()));
    }
    if case.changes.as_ref().is_some_and(|wanted| *wanted != changes) {
        return Err(format!("the reference counts {changes:?}"));
    }
    support::check_all_ways(&rules, &given, &gives, &changes)
}

#[test]
fn every_case_holds_however_the_text_comes_in() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/cases");
    let mut files: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    files.sort();
    let mut failed = Vec::new();
    let mut count = 0;
    for path in files {
        let file: File = toml::from_str(&std::fs::read_to_string(&path).unwrap())
            .unwrap_or_else(|error| panic!("{}: {error}", path.display()));
        for case in &file.case {
            count += 1;
            if let Err(error) = check(case) {
                failed.push(format!("{} / {}: {error}", path.file_name().unwrap().display(), case.name));
            }
        }
    }
    assert!(failed.is_empty(), "{} of {count} cases fail:\n{}", failed.len(), failed.join("\n"));
    assert!(count >= 90, "only {count} cases found");
}
