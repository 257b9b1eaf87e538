//! The engine against the reference, as the property tests have it, with texts that grow toward new ways through
//! the code: the first bytes of the input choose the rules, the others are the text.

#![no_main]

#[allow(dead_code, reason = "the tests use more of it")]
#[path = "../../crates/washout-core/tests/random/mod.rs"]
mod random;
#[path = "../../crates/washout-core/tests/reference/mod.rs"]
mod reference;
#[path = "../../crates/washout-core/tests/support/mod.rs"]
mod support;

use libfuzzer_sys::fuzz_target;
use proptest::strategy::{Strategy, ValueTree};
use proptest::test_runner::{Config, RngAlgorithm, TestRng, TestRunner};
use washout_core::RuleSet;

/// Bytes of the input that stand for a choice of rules: few, so that even short inputs have a text.
const CHOICE: usize = 4;

fuzz_target!(|input: &[u8]| {
    let (choice, text) = input.split_at(input.len().min(CHOICE));
    let mut seed = [0; 32];
    seed[..choice.len()].copy_from_slice(choice);
    let rng = TestRng::from_seed(RngAlgorithm::ChaCha, &seed);
    let mut runner = TestRunner::new_with_rng(Config::default(), rng);
    // Some choices are turned down too often.
    let Ok(rules) = random::rules().new_tree(&mut runner) else { return };
    let set = RuleSet::read("random", &rules.current()).expect("rules are made to be good ones");
    let text = &text[..text.len().min(400)];
    let (want, changes) = reference::apply(&set, text);
    if let Err(difference) = support::check_all_ways(&set, text, &want, &changes) {
        panic!("{}\n{difference}", rules.current());
    }
});
