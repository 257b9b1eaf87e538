//! What programs that use the library rely on.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod random;

use std::borrow::Cow;

use proptest::collection::vec;
use proptest::prelude::*;
use random::{rules, text};
use washout_core::explain::{cautions, explain};
use washout_core::observe::NoObserver;
use washout_core::rules::{Rule, Verb};
use washout_core::schema::schema;
use washout_core::table::{Form, TableFormat};
use washout_core::text::{SizeCounter, TextSize};
use washout_core::{Outcome, Program, RunError, Washer};

fn set(rules: &str) -> washout_core::RuleSet {
    washout_core::RuleSet::read("set", rules).unwrap_or_else(|error| panic!("{error}\n{rules}"))
}

#[test]
fn programs_are_shared_between_threads_and_errors_are_errors() {
    fn shared<T: Send + Sync + 'static>() {}
    fn error<T: std::error::Error + Send + Sync + 'static>() {}
    shared::<Program>();
    shared::<washout_core::RuleSet>();
    shared::<Outcome<'static>>();
    shared::<Washer<'static, NoObserver>>();
    error::<RunError>();
    error::<washout_core::RuleError>();
    error::<washout_core::table::WashError>();
}

#[test]
fn a_text_that_no_rule_changes_is_borrowed_and_any_other_is_not() {
    let program = Program::compile([&set("[[rule]]\nremove.chars = '#'\n[[rule]]\ntrim = {}\n")]);
    for (text, is_same) in [(&b"fog\r\n\xFF"[..], true), (b"", true), (b"#fog", false), (b"fog \n", false)] {
        let outcome = program.apply(text).unwrap();
        let borrowed = matches!(outcome.into_text(), Cow::Borrowed(same) if same == text);
        assert_eq!(borrowed, is_same, "{}", text.escape_ascii());
    }
}

#[test]
fn rules_for_a_table_are_an_error_on_a_text_and_rules_about_lines_on_a_table() {
    let of_fields = Program::compile([&set("[[rule]]\nfields = 'Keeper'\ntrim = {}\n")]);
    let error = of_fields.apply(b"Keeper\n Wren\n").unwrap_err().to_string();
    assert!(error.contains("rule 1") && error.contains("--table csv"), "{error}");
    let of_lines = Program::compile([&set("[[rule]]\ndrop_lines.text = 'fog'\n")]);
    let error = of_lines.apply_as(Form::Table(TableFormat::Csv), b"a,b\n1,2\n").unwrap_err().to_string();
    assert!(error.contains("drop_lines") && error.contains("cell_lines"), "{error}");
}

#[test]
fn parts_of_a_program_do_what_the_whole_does() {
    let whole = Program::compile([&set(
        "[[rule]]\nremove.chars = '#'\n[[rule]]\nreplace = { text = 'fog', with = 'mist' }\n[[rule]]\nrecase.to = 'upper'\n",
    )]);
    let text = b"# fog on the gallery\n";
    let mut by_parts = text.to_vec();
    for part in [0..1, 1..2, 2..3] {
        by_parts = whole.part(part).apply(&by_parts).unwrap().into_text().into_owned();
    }
    assert_eq!(whole.apply(text).unwrap().text(), by_parts);
    assert_eq!(whole.part(1..3).names()[0].number, "2", "rules keep their names");
}

/// What tables are made of, and what they cannot be made of.
const CELL_PARTS: &[&[u8]] =
    &[b",", b"\"", b"\n", b"\r\n", b"\r", b"a", b"\"a\"", b"\"a,b\"", b" ", b"\xFF", "灯".as_bytes()];

proptest! {
    /// Whatever can be read can be explained, in one line each, with nothing in it that drives a terminal.
    #[test]
    fn whatever_rules_can_be_read_can_be_explained(source in rules()) {
        let set = set(&source);
        let program = Program::compile([&set]);
        let explained = explain([&set]);
        prop_assert_eq!(explained.len(), program.names().len());
        for one in &explained {
            for sentence in one.does.iter().chain([&one.needs, &one.rule.caption]) {
                prop_assert!(!sentence.is_empty() && !sentence.chars().any(char::is_control), "{sentence:?} of {source}");
            }
            prop_assert!(one.does.iter().all(|sentence| sentence.ends_with(['.', ']'])), "{:?}", one.does);
        }
        for caution in cautions(&[set], &program, &[]) {
            prop_assert!(!caution.message.is_empty());
        }
    }

    /// The schema takes what the reader takes.
    #[test]
    fn whatever_rules_can_be_read_fit_the_schema(source in rules()) {
        let validator = jsonschema::validator_for(&schema()).unwrap();
        let value: serde_json::Value = toml::from_str(&source).unwrap();
        let errors: Vec<String> = validator.iter_errors(&value).map(|error| error.to_string()).collect();
        prop_assert!(errors.is_empty(), "{errors:?}\n{source}");
    }

    /// A rule set that is read twice is the same, and a rule that is off does nothing.
    #[test]
    fn rules_that_are_off_change_nothing(source in rules(), text in text()) {
        let mut set = set(&source);
        for rule in &mut set.rules {
            *rule = Rule { off: true, ..rule.clone() };
        }
        let program = Program::compile([&set]);
        prop_assert!(program.names().is_empty());
        let outcome = program.apply(&text).unwrap();
        let is_borrowed = matches!(outcome.into_text(), Cow::Borrowed(_));
        prop_assert!(is_borrowed);
    }

    /// Sizes are those of the whole text however it comes in.
    #[test]
    fn sizes_are_counted_the_same_in_pieces(text in text(), piece in 1..9_usize) {
        let mut counter = SizeCounter::default();
        for piece in text.chunks(piece) {
            counter.add(piece);
        }
        prop_assert_eq!(counter.size(), TextSize::of(&text));
    }

    /// A table whose cells no rule changes passes byte for byte, whatever is in it: quotes, broken bytes, records that are no
    /// good.
    #[test]
    fn a_table_that_no_rule_changes_passes_as_it_is(
        parts in vec(prop::sample::select(CELL_PARTS), 0..60),
        size in 1..7_usize,
    ) {
        let program = Program::compile([&set("[[rule]]\nreplace = { text = 'no such text', with = 'x' }\n")]);
        let settings = washout_core::table::TableSettings {
            ragged: Some(washout_core::table::Ragged::Keep),
            ..washout_core::table::TableSettings::default()
        };
        let program = program.with_table(settings);
        let table = parts.concat();
        let mut washer = program.washer_of(Form::Table(TableFormat::Csv), NoObserver).unwrap();
        let mut out = Vec::new();
        // A header that cannot be read is an error: it names the fields.
        let pushed = table.chunks(size).try_for_each(|piece| washer.push(piece, &mut out));
        if pushed.and_then(|()| washer.finish(&mut out)).is_ok() {
            prop_assert_eq!(out.escape_ascii().to_string(), table.escape_ascii().to_string());
            prop_assert!(!washer.any_change());
        }
    }
}

#[test]
fn every_verb_has_its_name_once() {
    let mut names = Verb::NAMES.to_vec();
    names.sort_unstable();
    names.dedup();
    assert_eq!(names.len(), Verb::NAMES.len());
}
