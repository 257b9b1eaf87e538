//! Random rules over random texts: every way through the engine gives what the reference gives.

mod random;
mod reference;
mod support;

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use random::{at, case, rules, text};
use washout_core::observe::NoObserver;
use washout_core::rules::Verb;
use washout_core::{Program, RuleSet};

proptest! {
    #![proptest_config(ProptestConfig { cases: 3000, ..ProptestConfig::default() })]

    #[test]
    fn the_engine_gives_what_the_reference_gives(rules in rules(), text in text()) {
        let set = RuleSet::read("random", &rules).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let (want, changes) = reference::apply(&set, &text);
        support::check_all_ways(&set, &text, &want, &changes).map_err(TestCaseError::fail)?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn texts_long_enough_for_vectors_become_what_the_reference_gives(rules in rules(), text in text(), times in 2..10_usize) {
        let set = RuleSet::read("random", &rules).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let text = text.repeat(times);
        let (want, changes) = reference::apply(&set, &text);
        let program = Program::compile([&set]);
        for washer in [program.washer(NoObserver), program.washer(NoObserver).with_sweeps()] {
            let (mut washer, mut washed) = (washer, Vec::new());
            text.chunks(400).for_each(|piece| washer.push(piece, &mut washed).unwrap());
            washer.finish(&mut washed).unwrap();
            prop_assert!(washed == want && washer.changes() == changes, "{}\n{}", text.escape_ascii(), washed.escape_ascii());
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, ..ProptestConfig::default() })]

    #[test]
    fn rules_that_are_off_do_nothing_and_the_others_keep_their_ids(
        rules in rules(), text in text(), off in any::<u8>(), piece in 1..40_usize,
    ) {
        let set = RuleSet::read("random", &rules).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let is_off = |rule: usize| off >> (rule % 8) & 1 == 1;
        let mut without = set.clone();
        without.rules.iter_mut().enumerate().for_each(|(index, rule)| rule.off = is_off(index));
        let (want, want_changes) = reference::apply(&without, &text);
        let program = Program::compile([&set]).with_rules_off(|rule| is_off(rule.0));
        let outcome = program.apply(&text).expect("no pattern takes long");
        prop_assert_eq!(outcome.text().escape_ascii().to_string(), want.escape_ascii().to_string());
        let (on, off): (Vec<usize>, Vec<usize>) = (0..set.rules.len()).partition(|rule| !is_off(*rule));
        let changes = |rules: &[usize]| rules.iter().map(|rule| outcome.changes()[*rule]).collect::<Vec<_>>();
        prop_assert_eq!(changes(&on), want_changes);
        prop_assert!(changes(&off).iter().all(|changes| *changes == 0));
        let (mut washer, mut washed) = (program.washer(NoObserver).with_sweeps(), Vec::new());
        text.chunks(piece).for_each(|piece| washer.push(piece, &mut washed).expect("no pattern takes long"));
        washer.finish(&mut washed).expect("no pattern takes long");
        prop_assert_eq!(washed.escape_ascii().to_string(), want.escape_ascii().to_string());
    }
}

/// What entries of lists and the texts they are looked for in are made of: letters with kin in other cases, what may
/// join words or part them, and blanks.
const LETTERS: &[&str] = &[
    "a", "b", "s", "S", "ſ", "k", "K", "\u{212A}", "é", "É", "e\u{301}", "1", "'", "’", "-", "\u{2010}", ".", "#", " ",
    " ", "\t", "_", "ß", "ẞ",
];

fn entry() -> impl Strategy<Value = String> {
    vec(select(LETTERS), 1..5)
        .prop_map(|letters| letters.concat())
        .prop_filter("an entry of more than blanks", |entry| {
            entry.trim_matches([' ', '\t']) == entry && !entry.is_empty()
        })
}

fn quoted(text: &str) -> String {
    format!("\"{}\"", text.replace('\\', "\\\\").replace('"', "\\\"").replace('\t', "\\t"))
}

/// A rule with a list of these entries.
fn list_rule() -> impl Strategy<Value = String> {
    let entries = prop::collection::btree_set(entry(), 1..8);
    (entries, at(), case(), 0..5_usize, any::<bool>()).prop_map(|(entries, at, case, kind, joins)| {
        let list = entries.iter().map(|entry| quoted(entry)).collect::<Vec<_>>().join(", ");
        // Without case, two entries may be one, which must not become two things.
        let pairs = entries.iter().map(|entry| format!("[{}, \"<>\"]", quoted(entry))).collect::<Vec<_>>().join(", ");
        let hyphen = if joins { ", hyphen = 'joins'" } else { "" };
        match kind {
            0 => format!("remove = {{ words = [{list}]{hyphen}{at}{case} }}"),
            1 => format!("replace = {{ words = [{list}]{hyphen}{at}{case}, with = '<>' }}"),
            2 => format!("remove = {{ text = [{list}]{at}{case} }}"),
            3 => format!("replace = {{ pairs = [{pairs}]{at}{case} }}"),
            _ => format!("replace = {{ pairs = [{pairs}]{hyphen}{at}{case}, whole_words = true }}"),
        }
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1500, ..ProptestConfig::default() })]

    #[test]
    fn lists_of_anything_are_found_as_the_reference_finds_them(rule in list_rule(), text in vec(select(LETTERS), 0..30)) {
        let source = format!("[[rule]]\n{rule}\n");
        let set = RuleSet::read("random", &source).map_err(|error| TestCaseError::fail(error.to_string()))?;
        let text = text.concat();
        let (want, changes) = reference::apply(&set, text.as_bytes());
        support::check_all_ways(&set, text.as_bytes(), &want, &changes).map_err(TestCaseError::fail)?;
    }
}

/// A verb that no random rule set has is never held against the reference.
#[test]
fn random_rule_sets_have_every_verb_that_acts_on_texts() {
    use proptest::strategy::{Strategy, ValueTree};
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let made: String =
        (0..2000).map(|_| rules().new_tree(&mut runner).expect("a rule set").current()).collect::<Vec<_>>().concat();
    let missing: Vec<&&str> = Verb::NAMES
        .iter()
        .filter(|name| !["include", "drop_records", "drop_fields", "rename_fields"].contains(name))
        .filter(|name| !made.contains(&format!("{name} = {{")))
        .collect();
    assert!(missing.is_empty(), "tests/random/mod.rs makes no rule of {missing:?}");
}

/// Long texts are searched with vectors, and in parts.
#[test]
fn a_long_text_becomes_what_its_lines_become() {
    let rules = "[[rule]]\nremove.class = 'invisible'\n[[rule]]\nreplace = { class = 'odd-space', with = ' ' }\n\
                 [[rule]]\nremove = { words = ['um'], case = 'ignore' }\n[[rule]]\nremove = { text = ['(draft)', '[sic]'] }\n\
                 [[rule]]\nreplace = { pattern = '(\\d{2})\\.(\\d{2})', with = '$2-$1' }\n[[rule]]\ntabs = { to = 'spaces', width = 4 }\n\
                 [[rule]]\nreplace = { pattern = ' {2,}', with = ' ' }\n[[rule]]\ndrop_lines.pattern = '^page \\d+$'\n\
                 [[rule]]\ntrim.at = 'end'\n";
    let lines = "lamp\u{A0} lit\nfog \u{200B}on the gallery  \n\n(draft) Um the keeper um [sic] came\r\n  oil,\twicks\t\nclear sky\n\
                 page 1\n05.11 at the gallery\n";
    let set = RuleSet::read("long", rules).unwrap();
    let (want, _) = reference::apply(&set, lines.as_bytes());
    let times = (1 << 20) / lines.len();
    let (text, program) = (lines.repeat(times), Program::compile([&set]));
    for threads in [1, 3] {
        let mut washer = program.washer(NoObserver).with_threads(threads);
        let mut washed = Vec::new();
        text.as_bytes().chunks(700_001).for_each(|piece| washer.push(piece, &mut washed).unwrap());
        washer.finish(&mut washed).unwrap();
        assert!(washed == want.repeat(times), "on {threads} threads");
    }
}
