//! `explain`, `stock` and `schema`: what the tool says about rules and what comes with it.

mod support;

use support::TestDir;

#[test]
fn rules_are_explained_with_their_patterns_and_cautions() {
    let desk = TestDir::with(&[(
        "log.wash.toml",
        "title = 'The log'\n[[rule]]\nlabel = 'no signs'\nremove = { class = 'punctuation' }\n\
         [[rule]]\nremove = { pattern = '(?<day>\\d+)\\.' }\n",
    )]);
    let ran = desk.run(&["explain", "-r", "log.wash.toml", "--rule", "trim = {}"]).status(0).silent_err();
    ran.says(&[
        "The log",
        "log:1  no signs\n      Removes characters of the class punctuation (punctuation (P)).\n      sees     line by line",
        "caution  it can never match: rule log:1 takes all it looks for",
        "pattern  (?<day>\\d+)  group 1, called day:",
        "                 \\d+        a digit, once or more",
        "--rule:1  trim",
        "Parts of a text, cut between lines, can be cleaned apart from each other.",
        "3 rules, 2 cautions",
    ]);
    let cut = |rule: &str, says: &str| drop(desk.run(&["explain", "--rule", rule]).status(0).says(&[says]));
    cut("drop_repeats = {}", "A text has to be cleaned as a whole, since rule 1 (drop repeated neighbours) has to see");
    cut("drop_records = { empty = 'all' }", "Parts of a table, cut between records, can be cleaned apart");
    cut("drop_records = { repeated = 'file' }", "A table has to be cleaned as a whole, since rule 1");
    desk.run(&["explain", "log.wash.toml"]).status(0).says(&["The log", "2 rules, 2 cautions"]);
    desk.write("watch.txt", b"##fog\n");
    let first = ["--rule", "remove = { chars = '#', which = 'first' }"];
    let ran = desk.run(&[&["explain"], &first[..], &["watch.txt"]].concat()).status(0);
    ran.says(&["caution  watch.txt: a second run changes the result again"]);
    let again = "washout: caution, watch.txt: a second run changes the result again";
    desk.run(&[&["clean"], &first[..], &["watch.txt"]].concat()).status(0).warns(&[again]);
    desk.run(&["explain", "log.wash.toml", "none.txt"]).status(3).warns(&["none.txt"]);
    desk.run(&["explain"]).status(2).warns(&["no rules given"]);
    desk.run(&["explain", "-r", "ready:nothing"]).status(2).warns(&["there is no ready set `nothing`", "ready:prose"]);
}

#[test]
fn a_run_says_what_to_be_careful_about_in_a_line_and_a_filter_in_a_script_does_not() {
    let desk = TestDir::with(&[("watch.txt", "um\n")]);
    let rule = ["--rule", "remove.words = [\"UM\"]"];
    let ran = desk.run(&[&["clean"], &rule[..], &["watch.txt"]].concat()).status(0);
    assert_eq!(ran.err.lines().count(), 1, "{ran}");
    ran.warns(&["washout: caution, rule 1: its words are listed in capitals"]);
    desk.run_with(&[&["clean"], &rule[..]].concat(), b"um\n").status(0).silent_err();
}

#[test]
fn what_is_in_stock_is_listed_and_shown() {
    let desk = TestDir::new();
    desk.run(&["stock"]).status(0).says(&["timestamp", "invisible", "en en-long eo es es-long", "scanned-page"]);
    desk.run(&["stock", "timestamp"]).status(0).says(&["at «12:30» sharp", "Not found in these\n  oil and water 1:2"]);
    desk.run(&["stock", "bidi"]).status(0).says(&["count    12 characters, Unicode 16.0.0", "U+202A..U+202E"]);
    desk.run(&["stock", "stopwords:de"]).status(0).says(&["und\n"]);
    desk.run(&["stock", "nothing"]).status(2).warns(&["there is nothing called `nothing` in stock"]);
    desk.run(&["stock", "timestmp"]).status(2).warns(&["did you mean `timestamp`?"]);
    let ready = desk.run(&["stock", "ready:prose"]).status(0);
    desk.write("mine.wash.toml", &ready.out);
    desk.run(&["test", "mine.wash.toml", "ready:prose"]).status(0).says(&["2 examples in 2 rule sets: all hold"]);
    let ran = desk.run_with(&["clean", "-r", "ready:prose"], b"fog  , horn\n\n\n").status(0);
    assert_eq!(ran.out(), "fog, horn\n");
}

#[test]
fn the_schema_is_json() {
    let ran = TestDir::new().run(&["schema"]).status(0).silent_err();
    let schema: serde_json::Value = serde_json::from_slice(&ran.out).expect("JSON");
    assert_eq!(schema["title"], "Washout rule set");
    assert!(schema["$defs"]["remove"]["properties"]["gap"]["description"].is_string(), "keys are explained");
}
