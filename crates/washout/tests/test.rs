//! `washout test`, driven as a user would.

mod support;

use support::TestDir;

const GOOD: &str = r#"
[[rule]]
label = "no fillers"
remove = { words = ["um"] }
[[rule]]
off = true
trim = { at = "end" }
[[example]]
label = "a call"
given = "um fog  \n"
gives = "fog  \n"
[[example]]
label = "trim alone, although it is off"
rule = 2
given = "um fog  \n"
gives = "um fog\n"
"#;

#[test]
fn examples_that_hold_are_said_to_hold() {
    let desk = TestDir::with(&[
        ("sets/radio.wash.toml", GOOD),
        ("sets/notes.toml", "no rule set"),
        ("sets/deep/b.wash.toml", GOOD),
    ]);
    let ran = desk.run(&["test", "sets"]).status(0).silent_err();
    let want = "\
sets/deep/b.wash.toml
  holds  a call
  holds  trim alone, although it is off  (rule 2 alone)

sets/radio.wash.toml
  holds  a call
  holds  trim alone, although it is off  (rule 2 alone)

4 examples in 2 rule sets: all hold
";
    assert_eq!(ran.out(), want);
}

#[test]
fn an_example_that_fails_shows_where() {
    let fails = "
[[rule]]
remove = { words = [\"um\"] }
[[example]]
label = \"a page\"
given = \"a\\num fog \\nb\\n\"
gives = \"a\\r\\nfog\\nb\\nc\\n\"
";
    let desk = TestDir::with(&[("bad.wash.toml", fails), ("good.wash.toml", GOOD), ("none.wash.toml", "title = 'x'")]);
    let ran = desk.run(&["test", "bad.wash.toml", "good.wash.toml", "none.wash.toml"]).status(1).silent_err();
    let want = "\
bad.wash.toml
  FAILS  a page

     1  wanted  a␍↵
                 ^
        got     a↵
     2  wanted  fog↵
        got     fog·↵
                   ×

     4  wanted  c↵
                ^^

good.wash.toml
  holds  a call
";
    assert!(ran.out().starts_with(want), "{ran}");
    ran.says(&["none.wash.toml\n  no [[example]] in it", "1 of 3 examples fails"]);
}

#[test]
fn what_cannot_be_tested_is_a_wrong_command_line() {
    let desk = TestDir::with(&[("bad.wash.toml", "[[rule]]\nremov.chars = '#'\n"), ("empty/readme.txt", "")]);
    desk.run(&["test", "bad.wash.toml"]).status(2).warns(&["did you mean `remove`?"]);
    desk.run(&["test", "empty"]).status(2).warns(&["no rule set there"]);
    desk.run(&["test"]).status(2);
}

#[test]
fn the_texts_of_an_example_may_stand_in_files_beside_the_set() {
    let desk = TestDir::with(&[
        (
            "sets/log.wash.toml",
            "[[rule]]\nremove.chars = '#'\n[[example]]\nlabel = 'a page'\ngiven_file = 'page.txt'\ngives_file = 'clean.txt'\n",
        ),
        ("sets/page.txt", "#fog\r\n"),
        ("sets/clean.txt", "fog\r\n"),
    ]);
    desk.run(&["test", "sets"]).status(0).says(&["holds  a page"]);
    desk.write("sets/clean.txt", b"horn\r\n");
    desk.run(&["test", "sets"]).status(1).says(&["FAILS  a page"]);
}

#[test]
fn rules_hold_no_more_of_an_example_than_they_may() {
    let grows = "[[rule]]\nreplace = { pattern = '^', with = 'fog fog fog fog fog fog fog fog fog fog' }\n[[example]]\ngiven = 'a'\n\
                 gives = 'fog fog fog fog fog fog fog fog fog foga'\n";
    let desk = TestDir::with(&[("grows.wash.toml", grows)]);
    desk.run(&["test", "grows.wash.toml"]).status(0).says(&["1 example in 1 rule set: all hold"]);
    desk.run(&["test", "grows.wash.toml", "--max-memory", "8B"]).status(1).says(&["--max-memory"]);
}
