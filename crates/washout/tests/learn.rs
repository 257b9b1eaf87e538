//! `washout learn`, driven as a user would.

mod support;

use serde_json::Value;
use support::TestDir;

#[test]
fn what_is_learnt_is_a_rule_set_that_is_proved_and_runs() {
    let desk = TestDir::with(&[("log.txt", "00:14 Marrow Point\nno time\n00:20 Horn lit\n")]);
    let ran = desk.run(&["learn", "--pair", "00:14 Marrow Point", "Marrow Point"]).status(0);
    let want = "\
[[rule]]
label = \"remove timestamps\"
remove = { stock = \"timestamp\" }

[[example]]
given = \"00:14 Marrow Point\"
gives = \"Marrow Point\"
";
    assert_eq!(ran.out(), want);
    assert!(ran.err.contains("1 rule makes the pair."), "{}", ran.err);

    // The same saved, with the command that looks at what it changes.
    let args =
        ["learn", "--pair", "00:14 Marrow Point", "Marrow Point", "--for", "log.txt", "--save", "mine.wash.toml"];
    let ran = desk.run(&args).status(0).silent_err();
    assert_eq!(desk.read("mine.wash.toml"), want);
    for line in ["mine.wash.toml is written.", "Of 3 different lines, 2 change.", "clean -r mine.wash.toml log.txt"] {
        assert!(ran.out().contains(line), "{}", ran.out());
    }
    desk.run(&["test", "mine.wash.toml"]).status(0);
    let clean = desk.run(&["clean", "-r", "mine.wash.toml", "--stdout", "log.txt"]).status(0);
    assert_eq!(clean.out(), "Marrow Point\nno time\nHorn lit\n");

    // It is not replaced unasked.
    let ran = desk.run(&args).status(2);
    assert!(ran.err.contains("mine.wash.toml"), "{}", ran.err);
    desk.run(&[&args[..], &["--overwrite"]].concat()).status(0);
    // Nor are the files that it is learnt from and shown on, even with --overwrite.
    let onto = ["learn", "--pair", "a", "b", "--for", "log.txt", "--save", "log.txt", "--overwrite"];
    desk.run(&onto).status(2);
    assert!(desk.read("log.txt").starts_with("00:14"));
}

#[test]
fn pairs_come_from_tables_maps_of_names_and_two_texts() {
    let desk = TestDir::with(&[
        ("pairs.csv", "before,after\n\"Ferrow, Tom\",Tom Ferrow\n\"Vane, Ilse\",Ilse Vane\n"),
        ("pairs.tsv", "a_b\ta b\n"),
        ("three.csv", "a,b,c\n"),
        ("before.txt", "1 fog\n2 horn\n"),
        ("after.txt", "fog\nhorn\n"),
        ("whole.txt", "fog\n\nhorn\n\n\nboat\n"),
        ("dropped.txt", "fog\nhorn\nboat\n"),
        ("scans/lamp_room.TIFF", ""),
        ("scans/oil.tiff", ""),
    ]);
    let rules = |args: &[&str]| {
        let ran = desk.run(&[&["learn"], args].concat()).status(0);
        ran.out().lines().filter(|line| line.contains(" = {")).collect::<Vec<_>>().join("\n")
    };
    assert_eq!(rules(&["pairs.csv"]), r#"replace = { pattern = "^(.+), (.+)$", with = "$2 $1" }"#);
    assert_eq!(rules(&["pairs.tsv"]), r#"replace = { chars = "_", with = " " }"#);
    assert_eq!(rules(&["before.txt", "after.txt"]), r#"remove = { stock = "line-number", at = "start" }"#);
    assert_eq!(rules(&["whole.txt", "dropped.txt"]), r#"drop_lines = { empty = "all" }"#);

    // A map of names that was edited by hand: the rules do it again with `names`.
    desk.write("none.wash.toml", b"");
    desk.run(&["names", "--rule", "trim = {}", "scans", "--map", "map.csv"]).status(0);
    let map = desk.read("map.csv").replace("lamp_room.TIFF,lamp_room.TIFF", "lamp_room.TIFF,lamp_room.tiff");
    desk.write("map.csv", map.as_bytes());
    desk.run(&["learn", "--names", "map.csv", "--save", "names.wash.toml"]).status(0);
    desk.run(&["test", "names.wash.toml"]).status(0);
    desk.run(&["names", "-r", "names.wash.toml", "scans", "--write"]).status(0);
    assert!(desk.path("scans/lamp_room.tiff").exists());

    let ran = desk.run(&["learn", "three.csv"]).status(2);
    assert!(ran.err.contains("three.csv: line 1 has 3 columns, not two"), "{}", ran.err);
    desk.run(&["learn", "--names", "--pair", "a/b", "c"]).status(2);
    let ran = desk.run(&["learn"]).status(2);
    assert!(ran.err.contains("there is no pair to learn from"), "{}", ran.err);
    desk.run(&["learn", "gone.csv"]).status(2);
}

#[test]
fn where_no_rules_are_found_nothing_is_saved_and_the_pair_is_named() {
    let desk = TestDir::new();
    let pairs = ["--pair", "lamp", "Lampe", "--pair", "fog", "Nebel"];
    let ran = desk.run(&[&["learn"], &pairs[..], &["--save", "a.wash.toml"]].concat()).status(1);
    assert!(ran.err.contains("“fog” → “Nebel”") && ran.err.contains("--literal"), "{}", ran.err);
    assert!(!desk.path("a.wash.toml").exists());
    let ran = desk.run(&["learn", "--pair", "a", "b", "--pair", "a", "c"]).status(1);
    assert!(ran.err.contains("pairs 1 and 2 are the same before, and not the same after"), "{}", ran.err);

    desk.run(&[&["learn", "--literal"], &pairs[..], &["--save", "a.wash.toml"]].concat()).status(0);
    desk.run(&["test", "a.wash.toml"]).status(0);

    let json = |args: &[&str], status: i32| -> Value {
        let ran = desk.run(&[&["learn", "--json"], args].concat()).status(status).silent_err();
        serde_json::from_str(&ran.out()).expect("one JSON value")
    };
    let value = json(&pairs, 1);
    assert_eq!((&value["set"], &value["pairs"][0]["before"]), (&Value::Null, &Value::from("fog")));
    let value = json(&["--pair", "scan 7", "scan 007"], 0);
    assert_eq!(value["readings"][0]["rules"][0], "pad = { width = 3 }");
    let differs = &value["readings"][1]["differs"];
    assert!(differs["line"].is_string() && differs["first"] != differs["this"], "{differs}");
}

#[test]
fn an_answer_to_what_is_meant_is_one_more_pair() {
    let desk = TestDir::new();
    let args = ["learn", "--pair", "scan 7 of 9", "scan 007 of 9", "--ask", "--save", "a.wash.toml", "--overwrite"];
    let ran = desk.run_with(&args, b"7\n=scan 005 of 9\n\n").status(0);
    assert!(ran.err.contains("What should become of “") && ran.err.contains("There is no such number."), "{}", ran.err);
    let set = desk.read("a.wash.toml");
    assert_eq!(set.matches("[[example]]").count(), 2, "{set}");
    desk.run(&["test", "a.wash.toml"]).status(0);
    // Where the input is over, the likeliest reading is meant.
    desk.run_with(&args, b"").status(0);
    assert_eq!(desk.read("a.wash.toml").matches("[[example]]").count(), 1);
}
