//! The engine against the reference, as the property tests have it, with rules and texts that grow toward new ways
//! through the code: the input is what random choices are made with, and then the text itself.

#![no_main]

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

/// Bytes that choices of rules are made with.
const CHOICES: usize = 512;

fuzz_target!(|input: &[u8]| {
    let (choices, text) = input.split_at(input.len().min(CHOICES));
    let mut seed = choices.to_vec();
    seed.resize(CHOICES, 0);
    let rng = TestRng::from_seed(RngAlgorithm::PassThrough, &seed);
    let mut runner = TestRunner::new_with_rng(Config::default(), rng);
    // Choices run out, or are turned down.
    let Ok(rules) = random::rules().new_tree(&mut runner) else { return };
    let set = RuleSet::read("random", &rules.current()).expect("rules are made to be good ones");
    let text = &text[..text.len().min(400)];
    let (want, changes) = reference::apply(&set, text);
    if let Err(difference) = support::check_all_ways(&set, text, &want, &changes) {
        panic!("{}\n{difference}", rules.current());
    }
});
