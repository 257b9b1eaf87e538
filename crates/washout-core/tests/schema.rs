//! The JSON Schema fits every rule set there is, and knows the keys the reader knows, no more and no fewer.

mod corpus;

use std::collections::BTreeSet;

use serde_json::Value;
use washout_core::RuleSet;
use washout_core::ready::ReadySet;
use washout_core::rules::Verb;
use washout_core::schema::schema;

fn check(name: &str, source: &str, validator: &jsonschema::Validator, failed: &mut Vec<String>) {
    let set: Value = toml::from_str(source).unwrap_or_else(|error| panic!("{name}: {error}"));
    failed.extend(validator.iter_errors(&set).map(|error| format!("{name}: {} at {}", error, error.instance_path())));
}

#[test]
fn every_rule_set_of_the_repository_fits_the_schema() {
    let validator = jsonschema::validator_for(&schema()).expect("a good schema");
    let mut failed = Vec::new();
    ReadySet::ALL.iter().for_each(|set| check(set.name, set.source, &validator, &mut failed));
    corpus::cases().iter().for_each(|case| check(&case.name, &case.rules, &validator, &mut failed));
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    let mut demo = 0;
    for entry in std::fs::read_dir(folder).expect("the demo") {
        let path = entry.expect("an entry").path();
        if path.to_string_lossy().ends_with(".wash.toml") {
            let source = std::fs::read_to_string(&path).expect("a rule set");
            check(&path.to_string_lossy(), &source, &validator, &mut failed);
            demo += 1;
        }
    }
    let page = include_str!("../../../docs/rules.md");
    for block in page.split("```toml example\n").skip(1).filter_map(|block| block.split("```").next()) {
        let example: Value = toml::from_str(block).expect("an example");
        let set = match example["rules"].as_str() {
            Some(rules) => rules.to_owned(),
            None => format!("[[rule]]\n{}", example["rule"].as_str().expect("a rule")),
        };
        check("docs/rules.md", &set, &validator, &mut failed);
    }
    assert!(demo >= 3, "only {demo} sets of the demo");
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}

#[test]
fn what_the_reader_refuses_the_schema_refuses() {
    let validator = jsonschema::validator_for(&schema()).expect("a good schema");
    for source in [
        "[[rule]]\nremov = { chars = '#' }",
        "[[rule]]\nremove = { chars = '#' }\ntrim = {}",
        "[[rule]]\nlabel = 'nothing'",
        "[[rule]]\nremove = { chars = '#', gaps = 'close' }",
        "[[rule]]\nremove = { stock = 'timestamps' }",
        "[[rule]]\ntrim = { at = 'ends' }",
        "[[rule]]\ntabs = { width = 0 }",
        "[[rule]]\nnormalize = {}",
        "titel = 'x'",
    ] {
        assert!(RuleSet::read("set", source).is_err(), "{source}");
        let set: Value = toml::from_str(source).expect("TOML");
        assert!(!validator.is_valid(&set), "{source}");
    }
}

/// The keys a table takes, as the reader says when it is given one it does not know.
fn keys_of_reader(source: &str) -> BTreeSet<String> {
    let error = RuleSet::read("set", source).expect_err("an unknown key").to_string();
    let list = error.split(" takes ").nth(1).unwrap_or_else(|| panic!("no list of keys in {error}"));
    let list = list.split(')').next().unwrap_or_default();
    list.split('`').skip(1).step_by(2).map(str::to_owned).collect()
}

fn keys_of_schema(table: &Value) -> BTreeSet<String> {
    table["properties"].as_object().expect("properties").keys().cloned().collect()
}

/// Keys that go with one kind of target: the reader asks for them only beside it.
const WITH_ONE_TARGET: &[&str] = &[
    "marks",
    "across_lines",
    "rising",
    "number",
    "pairs",
    "pairs_from",
    "heading",
    "comments",
    "whole_words",
    "follow_case",
];

#[test]
fn the_schema_knows_the_keys_the_reader_knows() {
    let schema = schema();
    let tables = &schema["$defs"];
    let always = |keys: BTreeSet<String>| -> BTreeSet<String> {
        keys.into_iter().filter(|key| !WITH_ONE_TARGET.contains(&key.as_str())).collect()
    };
    // These take no keys.
    let without = ["include", "plain_letters", "drop_fields", "rename_fields"];
    for verb in Verb::NAMES.iter().filter(|verb| !without.contains(verb)) {
        // A target, so that the reader gets as far as it can.
        let target = if tables[verb]["properties"].get("chars").is_some() { "chars = 'x', " } else { "" };
        let read = keys_of_reader(&format!("[[rule]]\n{verb} = {{ {target}nosuchkey = 1 }}"));
        assert_eq!(always(keys_of_schema(&tables[verb])), always(read), "{verb}");
    }
    for key in WITH_ONE_TARGET {
        let known = |table: &str| tables[table]["properties"].get(*key).is_some();
        assert!(known("replace"), "{key}");
    }
    assert_eq!(keys_of_schema(&tables["Rule"]), keys_of_reader("[[rule]]\ntrim = {}\nnosuchkey = 1"));
    assert_eq!(keys_of_schema(&schema), keys_of_reader("nosuchkey = 1"));
    assert_eq!(
        keys_of_schema(&tables["Except"]),
        keys_of_reader("[[rule]]\nremove = { class = 'digit', except = { nosuchkey = 1 } }")
    );
    assert_eq!(
        keys_of_schema(&tables["Example"]),
        keys_of_reader("[[example]]\ngiven = ''\ngives = ''\nnosuchkey = 1")
    );
    assert_eq!(
        keys_of_schema(&tables["NewField"]),
        keys_of_reader("[[rule]]\ntrim = {}\nto_field = { field = 'a', nosuchkey = 1 }")
    );
    let target = keys_of_schema(&tables["Target"]);
    let read = keys_of_reader("[[rule]]\ntrim = {}\nonly_lines = { chars = 'x', nosuchkey = 1 }");
    assert!(read.is_subset(&target), "{read:?}");
}
