//! Every case of `tests/cases/*.toml`, through the reference and all ways through the engine.

mod corpus;
mod reference;
mod support;

use corpus::{Case, cases};
use washout_core::RuleSet;
use washout_core::rules::Verb;

fn check(case: &Case) -> Result<(), String> {
    let rules = RuleSet::read("case", &case.rules).map_err(|error| error.to_string())?;
    let (given, gives) = (case.given(), case.gives());
    if case.beyond_reference {
        let changes = case.changes.as_ref().ok_or("the changes have to be given")?;
        return support::check_all_ways(&rules, &given, &gives, changes);
    }
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
    let failed: Vec<String> =
        cases().iter().filter_map(|case| check(case).err().map(|error| format!("{}: {error}", case.name))).collect();
    assert!(failed.is_empty(), "{} cases fail:\n{}", failed.len(), failed.join("\n"));
}

/// Verbs that act on tables have their cases in `records_and_fields.rs`; `include` needs files.
#[test]
fn every_verb_that_acts_on_texts_has_a_case() {
    let all: String = cases().iter().map(|case| case.rules.as_str()).collect::<Vec<_>>().concat();
    let without: Vec<&&str> = Verb::NAMES
        .iter()
        .filter(|name| !["include", "drop_records", "drop_fields", "rename_fields"].contains(name))
        .filter(|name| !all.contains(&format!("\n{name}")))
        .collect();
    assert!(without.is_empty(), "no case in tests/cases for {without:?}");
}
