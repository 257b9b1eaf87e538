//! What rules may take of memory and time, whatever the rules and the text.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on fails")]

use washout_core::names::{NameRequest, NameSettings, NameWasher};
use washout_core::observe::{Detail, Lineage, NoObserver};
use washout_core::table::{Form, TableFormat};
use washout_core::{Files, NamedFile, Program, RuleSet};

fn program(rules: &str) -> Program {
    Program::compile([&RuleSet::read("set", rules).unwrap()])
}

/// Washes a text in several ways; gives what each of them says is wrong.
fn errors(program: &Program, text: &[u8]) -> Vec<String> {
    let mut out = Vec::new();
    let mut wash = |mut washer: washout_core::Washer<'_, NoObserver>| {
        out.clear();
        washer
            .push(text, &mut out)
            .and_then(|()| washer.finish(&mut out))
            .map_or_else(|error| error.to_string(), |()| String::new())
    };
    let mut errors = vec![
        wash(program.washer(NoObserver)),
        wash(program.washer(NoObserver).with_sweeps()),
        wash(program.washer(NoObserver).with_threads_on(2, 1)),
    ];
    let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
    let observed = washer.push(text, &mut Vec::new()).and_then(|()| washer.finish(&mut Vec::new()));
    errors.push(observed.map_or_else(|error| error.to_string(), |()| String::new()));
    errors
}

#[test]
fn a_text_that_rules_make_longer_and_longer_is_an_error_that_names_the_rule() {
    let doubling = "[[rule]]\nreplace = { text = \"a\", with = \"aa\" }\n".repeat(40);
    let doubling_chars = "[[rule]]\nreplace = { chars = \"a\", with = \"aa\" }\n".repeat(40);
    let breaking = "[[rule]]\nreplace = { pattern = '\\n', across_lines = true, with = \"\\n\\n\" }\n".repeat(40);
    let long = format!("[[rule]]\nreplace = {{ chars = \"a\", with = \"{}\" }}\n", "fog ".repeat(250_000));
    let joined = format!("[[rule]]\njoin_lines = {{ with = \"{}\" }}\n", "fog ".repeat(250_000));
    let lines = b"a\n".repeat(2_000);
    for (rules, text) in [
        (&doubling, &b"aa"[..]),
        (&doubling, b"aa\nfog\n"),
        (&doubling_chars, b"a\n"),
        (&breaking, b"\n\n"),
        (&long, &lines),
        (&joined, &lines),
    ] {
        for error in errors(&program(rules).with_memory_limit(1 << 20), text) {
            let told = error.starts_with("rule ") && error.contains("makes this text longer than 10");
            assert!(told, "{}: {error:?}", &rules[..60]);
        }
    }
    // Up to then nothing is refused; where no limit is given there is one as well.
    let times =
        |times: usize| program(&format!("[[rule]]\nreplace = {{ text = \"a\", with = \"{}\" }}\n", "b".repeat(times)));
    let text = b"a".repeat(1_000_000);
    assert_eq!(times(60).apply(&text).unwrap().text().len(), 60_000_000);
    assert!(times(60).with_memory_limit(1 << 20).apply(&text).is_err());
    let error = times(80).apply(&text).unwrap_err().to_string();
    assert!(error.contains("longer than 73 MiB"), "ten times the text, and 64 MiB: {error}");
    assert_eq!(times(80).with_memory_limit(1 << 30).apply(&text).unwrap().text().len(), 80_000_000);
}

/// Files that are made when they are requested.
struct Made<F>(F);

impl<F: Fn(&str) -> Vec<u8>> Files for Made<F> {
    fn open(&self, _from: &str, path: &str, _most: u64) -> Result<NamedFile, String> {
        Ok(NamedFile { name: path.to_owned(), bytes: self.0(path) })
    }
}

#[test]
fn a_rule_set_that_takes_too_much_is_refused() {
    let problem = |source: &str, files: &dyn Files| {
        let error = RuleSet::read_with("set", source, files).unwrap_err();
        let mut all = vec![&error];
        while let Some(included) = all.last().and_then(|error| error.included().last()) {
            all.push(included);
        }
        all.iter().map(ToString::to_string).collect::<String>()
    };
    let includes = |times: usize| {
        Made(move |path: &str| {
            let next = path.trim_end_matches(".toml").parse::<u64>().unwrap() + 1;
            format!("[[rule]]\ninclude = '{next}.toml'\n").repeat(times).into_bytes()
        })
    };
    let first = "[[rule]]\ninclude = '1.toml'\n";
    assert!(problem(first, &includes(1)).contains("more than 32 rule sets include each other in a row"));
    assert!(problem(first, &includes(2)).contains("more than 10000 rules"));

    let list = Made(|_: &str| b"fog\n".repeat(3 << 20));
    let lists = |count: usize| "[[rule]]\nremove.words_from = 'list.txt'\n".repeat(count);
    assert!(RuleSet::read_with("set", &lists(2), &list).is_ok());
    assert!(
        problem(&lists(3), &list)
            .contains("`list.txt` cannot be read: the files that a rule set names may have 32 MiB")
    );

    // Most patterns take far less than can be told without compiling them, and that does not count.
    let patterns = |count: usize, pattern: &str| {
        let rule =
            |set: String, number: usize| set + "[[rule]]\nremove.pattern = '" + pattern + &number.to_string() + "'\n";
        (0..count).fold(String::new(), rule)
    };
    assert!(RuleSet::read("set", &patterns(200, r"\w\d{2}")).is_ok());
    let large = problem(&patterns(40, r"\w{200}"), &washout_core::NoFiles);
    assert!(large.contains("compiled they would take over 256 MiB"), "{large}");
}

#[test]
fn many_short_texts_have_one_budget() {
    // About a million steps back for each text.
    let rules = program("[[rule]]\nremove.pattern = '^(a|aa)+\\1(?!c)c'\n");
    let hard = format!("{}c", "a".repeat(24));
    assert!(rules.apply(hard.as_bytes()).is_ok());
    // In the second table each cell is a text of its own.
    for cell in [hard.clone(), format!("\"{hard}\n\"")] {
        let wash = |cells: usize| {
            rules.apply_as(
                Form::Table(TableFormat::Csv),
                format!("note\n{}", format!("{cell}\n").repeat(cells)).as_bytes(),
            )
        };
        assert!(wash(2).is_ok());
        let error = wash(400).map(|_| ()).expect_err("more work than all cells may take").to_string();
        assert!(error.contains("takes too much work"), "{error}");
    }
    let column = rules.column_washer().expect("a rule for cells").into_owned();
    let cells = vec![Some(hard.as_bytes()); 400];
    assert!(column.wash(&cells[..], 0..400).is_err());
    assert!(column.wash(&cells[..], 0..1).is_err(), "what was granted is spent");
    column.start_again();
    assert!(column.wash(&cells[..], 0..1).is_ok());
    let mut names = NameWasher::new(&rules, &NameSettings::default());
    let refused =
        (0..400).filter(|_| matches!(names.clone().wash(hard.as_bytes(), false).request, NameRequest::Refused(..)));
    assert!((100..399).contains(&refused.count()), "those that come after the budget is spent");
    assert_eq!(names.wash(b"fog", false).request, NameRequest::Stay, "what takes no work is done all the same");
}

#[test]
fn cells_do_not_become_many_times_as_long_together() {
    let long = "b".repeat(1_000);
    let rules =
        program(&format!("[[rule]]\nreplace = {{ text = \"a\", with = \"{long}\" }}\n")).with_memory_limit(1 << 20);
    let wash = |cell: &str, cells: usize| {
        rules.apply_as(Form::Table(TableFormat::Csv), format!("note\n{}", format!("{cell}\n").repeat(cells)).as_bytes())
    };
    for cell in ["a", "\"a\n\""] {
        assert!(wash(cell, 900).is_ok());
        let error = wash(cell, 100_000).unwrap_err().to_string();
        assert!(error.contains("makes this text longer than"), "{error}");
    }
}
