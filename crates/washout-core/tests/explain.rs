//! Rules in plain words, and what to be careful about.

use washout_core::explain::{Caution, Sample, cautions};
use washout_core::ready::ReadySet;
use washout_core::{Program, RuleSet};

fn read(rules: &[&str]) -> RuleSet {
    let source: String = rules.iter().flat_map(|rule| ["[[rule]]\n", rule, "\n"]).collect();
    RuleSet::read("set", &source).unwrap_or_else(|error| panic!("{error}"))
}

fn cautions_of(set: &RuleSet, samples: &[Sample]) -> Vec<Caution> {
    cautions(std::slice::from_ref(set), &Program::compile([set]), samples)
}

#[test]
fn cautions_are_given_where_they_are_due_and_nowhere_else() {
    let cases: &[(&[&str], &[&str])] = &[
        // A rule that can never match.
        (
            &[
                "remove = { class = 'punctuation', except = { class = 'dash' } }",
                "replace = { chars = '“”', with = '\"' }",
            ],
            &["rule 2: it can never match: rule 1 takes all it looks for"],
        ),
        (
            &["remove = { chars = \"'\" }", "remove = { words = [\"don't\", \"can't\"] }"],
            &["rule 2: it can never match"],
        ),
        (&["remove = { chars = \"'\" }", "remove = { words = [\"don't\", 'not'] }"], &[]),
        (&["recase = { to = 'lower' }", "remove = { words = ['Um'] }"], &["rule 2: it can never match"]),
        (&["recase = { to = 'lower' }", "remove = { words = ['Um'], case = 'ignore' }"], &[]),
        (
            &["remove = { class = 'digit' }", r"remove = { pattern = '(\d+|[0-9]:)x?' }"],
            &["rule 2: it can never match"],
        ),
        (&["remove = { class = 'digit' }", r"remove = { pattern = '\d+|fog' }"], &[]),
        (&["remove = { class = 'digit' }", "remove = { stock = 'timestamp' }"], &["rule 2: it can never match"]),
        (&["remove = { chars = '[' }", "remove = { between = ['[', ']'] }"], &["rule 2: it can never match"]),
        (&["remove = { chars = '#' }\nlines = '1'", "remove = { chars = '#' }"], &[]),
        (&["remove = { chars = '#', at = 'start' }", "remove = { chars = '#' }"], &[]),
        (
            &["remove = { chars = '#' }", "replace = { text = 'no', with = '#' }", "remove = { chars = '#' }"],
            &["rule 2: what it puts there is taken away again by rule 3"],
        ),
        (&["remove = { chars = '&' }", "decode = { what = 'html-entities' }", "remove = { chars = '&' }"], &[]),
        (&["keep = { class = ['letter', 'blank'] }", "remove = { class = 'digit' }"], &["rule 2: it can never match"]),
        (
            &["remove = { words = ['um', 'uh'], case = 'ignore' }", "trim = {}", "remove = { words = 'Uh' }"],
            &["rule 3: it can never match"],
        ),
        // A replacement that a later rule destroys.
        (
            &[
                "replace = { text = '...', with = '…' }",
                "remove = { class = 'punctuation', except = { class = 'dash' } }",
            ],
            &["rule 1: what it puts there is taken away again by rule 2"],
        ),
        (&["replace = { text = 'a', with = ' ' }", "remove = { class = 'blank' }"], &[]),
        // Stop words before the letters are made small; words as text between blanks.
        (
            &["remove = { words = ['the', 'a'] }", "recase = { to = 'lower' }"],
            &["rule 1: it looks for small letters only"],
        ),
        (
            &[
                "remove = { stopwords = 'en' }",
                "recase = { to = 'lower' }",
                "remove = { class = 'punctuation', except = { class = 'dash' } }",
            ],
            &[],
        ),
        (
            &[
                "replace = { text = [' the '], with = ' ' }",
                "remove = { class = 'punctuation', except = { class = 'dash' } }",
            ],
            &["rule 1: “ the ” is found only between blanks"],
        ),
        // Patterns.
        (&["replace = { pattern = 'x*', with = '-' }"], &["rule 1: its pattern can match nothing at all"]),
        (&["replace = { pattern = '^', with = '> ' }"], &[]),
        (
            &["drop_lines = { pattern = '.*' }"],
            &["rule 1: its pattern can match nothing at all", "rule 1: its pattern takes every line whole"],
        ),
        (&[r"remove = { pattern = '\[.*\]' }"], &["rule 1: the pattern's .* takes as much as it can"]),
        (&[r"remove = { pattern = '\[.*?\]' }", r"remove = { pattern = '#.*$' }"], &[]),
        (&[r"remove = { pattern = 'a\nb' }"], &["rule 1: its pattern looks for a line end"]),
        (&[r"remove = { pattern = 'a\r\nb', across_lines = true }"], &["rule 1: its pattern looks for \\r"]),
        (&[r"remove = { pattern = 'a\r?\nb', across_lines = true }"], &[]),
        (&[r"remove = { pattern = '^== .* ==$' }", r"drop_lines = { pattern = '^Chapter .*:$' }"], &[]),
        // Marks that are gone before they are needed.
        (
            &["remove = { class = 'quote' }", "remove = { words = [\"don't\", 'not'] }"],
            &["rule 2: some of its words have apostrophes, and rule 1 takes them away before"],
        ),
        (
            &["remove = { chars = '.,' }", "recase = { to = 'sentence' }"],
            &["rule 2: it finds the ends of sentences by their full stops, and rule 1"],
        ),
        (
            &["remove = { chars = '.,' }", "break_lines = { stock = 'sentence-end' }"],
            &["rule 2: it finds the ends of sentences by their full stops, and rule 1"],
        ),
        (&["recase = { to = 'sentence' }", "remove = { chars = '.,' }"], &[]),
        (&["remove = { class = 'dash' }"], &["rule 1: it takes dashes away between letters too"]),
        (&["remove = { class = 'punctuation', except = { class = 'dash' } }", "remove = { chars = '#-' }"], &[]),
        (
            &["collapse = { class = 'blank', with = ' ' }", r#"replace = { chars = "\n", with = " " }"#],
            &["rule 1: rule 2 takes line ends away afterwards"],
        ),
        (&["collapse = { class = 'blank', with = ' ' }", "join_lines = {}"], &[]),
        // Exceptions.
        (&["remove = { class = 'digit', except = { words = ['12'] } }"], &["rule 1: its `except` can never apply"]),
        (&["remove = { words = ['um'], except = { words = ['uh'] } }"], &["rule 1: its `except` can never apply"]),
        (&[r"remove = { pattern = '\d+', except = { text = ['x1'] } }"], &["rule 1: its `except` can never apply"]),
        (
            &[
                r"remove = { pattern = '\d+', except = { text = ['12'] } }",
                "remove = { chars = '#*', except = { chars = '*' } }",
            ],
            &[],
        ),
        // What is looked for as it is written.
        (&[r"remove = { text = '\d+' }"], &["rule 1: the text “\\d+” is looked for as it is written"]),
        (&["remove = { words = 'um, uh' }"], &["rule 1: “um, uh” is one phrase with its commas"]),
        (&["remove = { chars = 'a-z#' }"], &["rule 1: “a-z” among its characters is no range"]),
        (&["remove = { chars = '#-' }", "remove = { chars = 'z-a0-A' }", "remove = { class = 'blank' }"], &[]),
        // Words.
        (&["remove = { words = ['UM', 'UH'] }"], &["rule 1: its words are listed in capitals"]),
        (&["remove = { words = ['GMT'], case = 'exact' }", "remove = { words = ['Dr.', 'A'] }"], &[]),
        (&["remove = { words = ['灯台'] }"], &["rule 1: “灯台” is in a script that puts no blanks between words"]),
        // A second run.
        (
            &["replace = { text = 'a', with = 'aa' }\n[[example]]\ngiven = 'a'\ngives = 'aa'"],
            &["set: a second run changes the result of its examples again"],
        ),
    ];
    let mut failed = Vec::new();
    for (rules, want) in cases {
        let set = read(rules);
        let said: Vec<String> =
            cautions_of(&set, &[]).iter().map(|caution| format!("{}: {}", caution.about, caution.message)).collect();
        let as_wanted = said.len() == want.len() && said.iter().zip(*want).all(|(said, want)| said.starts_with(want));
        if !as_wanted {
            failed.push(format!("{rules:#?}\n  want {want:#?}\n  said {said:#?}"));
        }
    }
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}

#[test]
fn a_sample_shows_what_a_second_run_would_change() {
    let set = read(&["remove = { chars = '#', which = 'first' }"]);
    let sample = |text: &str| Sample { name: "log.txt".to_owned(), text: text.as_bytes().to_vec() };
    let said = cautions_of(&set, &[sample("##fog"), sample("#fog")]);
    let about: Vec<(&str, bool)> =
        said.iter().map(|caution| (caution.about.as_str(), caution.rule.is_none())).collect();
    assert_eq!(about, [("log.txt", true)], "{said:?}");
}

#[test]
fn ready_sets_need_no_caution() {
    for ready in ReadySet::ALL {
        let set = RuleSet::read(ready.name, ready.source).expect("a good set");
        assert_eq!(cautions_of(&set, &[]), [], "{}", ready.name);
    }
}
