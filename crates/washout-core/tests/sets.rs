//! Several sets in one program, and sets within sets.

use proptest::prelude::*;
use washout_core::{Files, NamedFile, Program, RuleSet};

/// Sets by name.
struct TestFiles(&'static [(&'static str, &'static str)]);

impl Files for TestFiles {
    fn open(&self, _from: &str, path: &str, _most: u64) -> Result<NamedFile, String> {
        let found = self.0.iter().find(|(name, _)| *name == path).ok_or("there is no such file")?;
        Ok(NamedFile { name: path.to_owned(), bytes: found.1.as_bytes().to_vec() })
    }
}

fn read(name: &str, source: &str, pool: &'static [(&'static str, &'static str)]) -> RuleSet {
    RuleSet::read_with(name, source, &TestFiles(pool)).unwrap_or_else(|error| panic!("{error}"))
}

fn washed(program: &Program, text: &str) -> String {
    let outcome = program.apply(text.as_bytes()).expect("little work");
    String::from_utf8_lossy(outcome.text()).into_owned()
}

#[test]
fn sets_run_in_order_and_each_protects_for_its_own_rules() {
    let one = read("notes/one.wash.toml", "protect = [{ text = '#1' }]\n[[rule]]\nremove.chars = '#'\n", &[]);
    let two =
        read("two.toml", "[[rule]]\noff = true\ntrim = {}\n[[rule]]\nreplace = { text = '#', with = 'no ' }\n", &[]);
    let program = Program::compile([&one, &two]);
    assert_eq!(washed(&program, "#1 #2"), "no 1 2", "the second set knows no protection");
    let numbers: Vec<&str> = program.names().iter().map(|name| name.number.as_str()).collect();
    assert_eq!(numbers, ["one:1", "two:2"]);
    assert_eq!(washed(&Program::compile([&two, &one]), "#1 #2"), "no 1 no 2");
}

#[test]
fn lists_may_have_a_heading_and_comments() {
    const SHELF: &[(&str, &str)] = &[
        ("fillers.txt", "Filler\n# what keepers say\num\n  # \nyou know\n"),
        (
            "spelling.csv",
            "From,To\n# a \"quoted\" remark, of three, cells\nharbour,harbor\n\n\"grey \"\"sky\"\"\",\"gray\nsky\"\n",
        ),
    ];
    let form = "heading = true, comments = '#'";
    let source = format!(
        "[[rule]]\nremove = {{ words_from = 'fillers.txt', case = 'ignore', {form} }}\n\
         [[rule]]\nreplace = {{ pairs_from = 'spelling.csv', {form} }}\n"
    );
    let set = read("house", &source, SHELF);
    let program = Program::compile([&set]);
    assert_eq!(
        washed(&program, "um From the harbour, grey \"sky\" filler # you know"),
        "From the harbor, gray\nsky filler #"
    );
    assert_eq!(set.files, ["fillers.txt", "spelling.csv"]);
    // What may be a heading is a pair, and said to be one, unless somebody says which it is.
    let cautions = |more: &str| {
        let rule = format!("[[rule]]\nreplace = {{ pairs_from = 'table.csv', comments = '#'{more} }}\n");
        let set = read("house", &rule, &[("table.csv", "# pairs\nOld name,New name\na,b\n")]);
        let program = Program::compile([&set]);
        let cautions = washout_core::explain::cautions(std::slice::from_ref(&set), &program, &[]);
        cautions.into_iter().map(|caution| caution.message).collect::<Vec<_>>()
    };
    assert_eq!(
        cautions(""),
        [
            "the first row of `table.csv` reads as a heading (Old name, New name) and is a pair: write heading = true to leave \
          it out, or heading = false if it is one"
        ]
    );
    assert!(cautions(", heading = true").is_empty() && cautions(", heading = false").is_empty());
}

#[test]
fn included_rules_stand_in_place_with_what_is_said_around_them() {
    const SHELF: &[(&str, &str)] = &[
        (
            "quotes.wash.toml",
            "protect = [{ text = '“x”' }]\n[[rule]]\nlabel = 'plain'\nreplace = { chars = '“”', with = '\"' }\n\
         [[rule]]\ninclude = 'dots.wash.toml'\n[[example]]\ngiven = 'no'\ngives = 'other'\n",
        ),
        ("dots.wash.toml", "[[rule]]\nreplace = { text = '…', with = '...' }\n"),
    ];
    let source = "protect = [{ text = '(“' }]\n[[rule]]\nremove.chars = '#'\n[[rule]]\ninclude = 'quotes.wash.toml'\n\
                  only_lines = { words = 'log' }\n[[rule]]\nremove.chars = '“'\n";
    let set = read("main", source, SHELF);
    let program = Program::compile([&set]);
    let names: Vec<String> = program.names().iter().map(|name| format!("{} {}", name.number, name.caption)).collect();
    assert_eq!(
        names,
        ["1 remove characters #", "2.1 plain", "2.2.1 replace text “…” with “...”", "3 remove characters “"]
    );
    // The line says where, both sets protect, and the included set's protection ends with it.
    assert_eq!(washed(&program, "log “a” “x” (“b”…\n“c”…\n"), "log \"a\" x” (“b\"...\nc”…\n");
    assert!(set.examples.is_empty() && set.prove(None).next().is_none(), "examples of included sets do not count");
    let off = read("main", &source.replace("only_lines", "off = true\nonly_lines"), SHELF);
    assert_eq!(Program::compile([&off]).names().len(), 2);
}

/// One set, which the other includes.
struct OneFile(String);

impl Files for OneFile {
    fn open(&self, _from: &str, path: &str, _most: u64) -> Result<NamedFile, String> {
        Ok(NamedFile { name: path.to_owned(), bytes: self.0.as_bytes().to_vec() })
    }
}

/// Lines that a rule is for: as it is written, and which those are.
fn scope() -> impl Strategy<Value = (String, fn(&str, usize) -> bool)> {
    prop_oneof![
        Just(("lines = '2..4'".to_owned(), (|_, number| (2..=4).contains(&number)) as fn(&str, usize) -> bool)),
        Just(("lines = '3..'".to_owned(), (|_, number| number >= 3) as fn(&str, usize) -> bool)),
        Just(("only_lines = { text = 'a' }".to_owned(), (|line, _| line.contains('a')) as fn(&str, usize) -> bool)),
        Just(("skip_lines = { text = 'b' }".to_owned(), (|line, _| !line.contains('b')) as fn(&str, usize) -> bool)),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    /// An included rule acts where it and the rule that includes it both may.
    #[test]
    fn scopes_within_scopes_are_both_kept(outer in scope(), inner in scope(), lines in prop::collection::vec("[ab#]{0,5}", 0..8)) {
        let included = OneFile(format!("[[rule]]\nremove.chars = '#'\n{}\n", inner.0));
        let source = format!("[[rule]]\ninclude = 'inner.wash.toml'\n{}\n", outer.0);
        let set = RuleSet::read_with("main", &source, &included).unwrap_or_else(|error| panic!("{error}"));
        let text = lines.iter().map(|line| format!("{line}\n")).collect::<Vec<_>>().concat();
        let washed_line = |(line, number): (&String, usize)| {
            let acts = outer.1(line, number) && inner.1(line, number);
            if acts { line.replace('#', "") + "\n" } else { format!("{line}\n") }
        };
        let want = lines.iter().zip(1..).map(washed_line).collect::<Vec<_>>().concat();
        prop_assert_eq!(washed(&Program::compile([&set]), &text), want);
    }
}
