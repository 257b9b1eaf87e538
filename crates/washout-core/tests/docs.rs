//! Every example of the language page holds.

use serde::Deserialize;
use washout_core::{Program, RuleSet};

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Example {
    rule: String,
    given: String,
    gives: String,
}

#[test]
fn examples_of_the_language_page_hold() {
    let page = include_str!("../../../docs/rules.md");
    let blocks = page.split("```toml example\n").skip(1).map(|block| block.split("```").next().unwrap());
    let mut count = 0;
    for block in blocks {
        count += 1;
        let example: Example = toml::from_str(block).unwrap_or_else(|error| panic!("{error}\n{block}"));
        let rule = RuleSet::read_one_rule("example", &example.rule).unwrap_or_else(|error| panic!("{error}"));
        let washed = Program::compile([&rule]).apply(example.given.as_bytes()).unwrap().into_text().into_owned();
        assert_eq!(String::from_utf8_lossy(&washed), example.gives, "{}", example.rule);
    }
    assert!(count >= 14, "only {count} examples found");
}

#[test]
fn the_language_page_names_every_verb_class_and_stock_pattern() {
    let page = include_str!("../../../docs/rules.md");
    let classes = washout_core::NAMED_CLASSES.iter().map(|class| class.name);
    let stock = washout_core::Stock::ALL.iter().map(|stock| stock.name());
    for name in classes.chain(stock).chain(washout_core::Verb::NAMES.iter().copied()) {
        assert!(page.contains(&format!("`{name}`")), "docs/rules.md says nothing of `{name}`");
    }
}
