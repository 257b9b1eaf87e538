//! `check` as a gate; and what else becomes of changes: patches, asking, parts of a set.

mod support;

use std::process::Command;

use serde_json::Value;
use support::TestDir;

const RULES: &str = "[[rule]]\nlabel = 'no trailing blanks'\ntrim = { at = 'end' }\n\
                     [[rule]]\nreplace = { text = 'fog', with = 'mist' }\n\
                     [[rule]]\nlabel = 'short'\njoin_lines = {}\nonly_lines = { text = '+' }\n";

fn desk() -> TestDir {
    let desk = TestDir::with(&[
        ("tidy.wash.toml", RULES),
        ("src/a b.txt", "fog \r\ngale\n+é fog\n+\nlast"),
        ("src/clean.txt", "gale\n"),
        ("src/ünï%.txt", "fog\n"),
    ]);
    desk.write("src/odd.txt", b"\xFF fog\t\n");
    desk
}

#[test]
fn a_check_lists_places_and_changes_nothing() {
    let desk = desk();
    let before = desk.read("src/a b.txt");
    let ran = desk.run(&["check", "-r", "tidy.wash.toml", "src"]).status(1);
    assert_eq!(
        ran.out(),
        "src/a b.txt:1:1: rule 2: replace text “fog” with “mist”\n\
         src/a b.txt:1:4: rule 1: no trailing blanks\n\
         src/a b.txt:3:4: rule 2: replace text “fog” with “mist”\n\
         src/a b.txt:3:7: rule 3: short\n\
         src/odd.txt:1:3: rule 2: replace text “fog” with “mist”\n\
         src/odd.txt:1:6: rule 1: no trailing blanks\n\
         src/ünï%.txt:1:1: rule 2: replace text “fog” with “mist”\n"
    );
    ran.warns(&["washout: 7 places in 3 files would change", "clean -r tidy.wash.toml src"]);
    assert_eq!(desk.read("src/a b.txt"), before);
    desk.run(&["check", "-r", "tidy.wash.toml", "src/clean.txt"]).status(0).silent_err();
    desk.run(&["check", "-r", "tidy.wash.toml"]).status(2).warns(&["name the files or folders to check"]);
}

#[test]
fn a_check_lists_the_first_places_or_only_counts() {
    let desk = desk();
    let list = |what: &str, format: &str| {
        desk.run(&["check", "-r", "tidy.wash.toml", "src", "--list", what, "--format", format]).status(1)
    };
    let first = list("first", "text");
    assert_eq!(
        first.out(),
        "src/a b.txt:1:1: rule 2: replace text “fog” with “mist”\n\
         src/odd.txt:1:3: rule 2: replace text “fog” with “mist”\n\
         src/ünï%.txt:1:1: rule 2: replace text “fog” with “mist”\n"
    );
    first.warns(&["washout: 3 files would change", "clean -r tidy.wash.toml src\n"]);
    let counted = list("count", "text");
    assert_eq!(counted.out(), "src/a b.txt: 4 changes\nsrc/odd.txt: 2 changes\nsrc/ünï%.txt: 1 change\n");
    counted.warns(&["washout: 3 files would change, with 7 changes"]);
    let json = |what: &str| serde_json::from_slice::<Value>(&list(what, "json").out).expect("JSON");
    let found = |what: &str| json(what)["found"].as_array().expect("a list").clone();
    assert_eq!(found("first").iter().map(|place| &place["line"]).collect::<Vec<_>>(), [1, 1, 1]);
    assert_eq!(found("count").iter().map(|file| &file["changes"]).collect::<Vec<_>>(), [4, 2, 1]);
    for what in ["first", "count"] {
        let log: Value = serde_json::from_slice(&list(what, "sarif").out).expect("JSON");
        assert_eq!(log["runs"][0]["results"].as_array().map(Vec::len), Some(3), "{what}");
    }
    let clean = desk.run(&["check", "-r", "tidy.wash.toml", "src/clean.txt", "--list", "first", "--json"]).status(0);
    assert_eq!(serde_json::from_slice::<Value>(&clean.out).expect("JSON")["found"], Value::Array(Vec::new()));
}

#[test]
fn a_check_for_the_first_place_reads_no_more_of_a_file_than_that_takes() {
    let desk = TestDir::new();
    desk.write("long.txt", format!("{}<!--\n", "um fog \n".repeat(1 << 18)).as_bytes());
    // At the end of the text is what this rule refuses.
    let rules = "[[rule]]\nremove.words = 'um'\n[[rule]]\nremove.text = 'fog'\n\
                 from_line = { text = '<!--' }\nto_line = { text = '-->' }\nunclosed = 'refuse'\n";
    desk.write("set.wash.toml", rules.as_bytes());
    desk.run(&["check", "-r", "set.wash.toml", "long.txt"]).status(3).warns(&["long.txt", "line 262145"]);
    let ran = desk.run(&["check", "-r", "set.wash.toml", "long.txt", "--list", "first"]).status(1);
    assert_eq!(ran.out(), "long.txt:1:1: rule 1: remove words “um”\n");
}

#[test]
fn sarif_holds_to_its_schema_and_its_fixes_are_the_changes() {
    let desk = desk();
    let ran = desk.run(&["check", "-r", "tidy.wash.toml", "src", "--format", "sarif"]).status(1);
    let log: Value = serde_json::from_slice(&ran.out).expect("JSON");
    // The schema of the OASIS Standard, as the crate serde-sarif 0.8.0 carries it.
    let mut schema: Value = serde_json::from_str(include_str!("data/sarif-schema-2.1.0.json")).expect("the schema");
    // It has a pattern that is not a regular expression, for a field that is not used here.
    for holder in ["run", "toolComponent"] {
        schema["definitions"][holder]["properties"]["language"].as_object_mut().expect("a field").remove("pattern");
    }
    let validator = jsonschema::validator_for(&schema).expect("a schema");
    let errors: Vec<String> =
        validator.iter_errors(&log).map(|error| format!("{error} at {}", error.instance_path())).collect();
    assert!(errors.is_empty(), "{errors:#?}");
    let results = log["runs"][0]["results"].as_array().expect("results");
    let place = |result: &Value| result["locations"][0]["physicalLocation"].clone();
    assert_eq!(results.len(), 7);
    assert_eq!(place(&results[0])["artifactLocation"]["uri"], "src/a%20b.txt");
    assert_eq!(place(&results[6])["artifactLocation"]["uri"], "src/%C3%BCn%C3%AF%25.txt");
    let region = serde_json::json!({"startLine": 3, "startColumn": 7, "endLine": 4, "endColumn": 1});
    assert_eq!(place(&results[3])["region"], region);
    let fix = &results[2]["fixes"][0]["artifactChanges"][0]["replacements"][0];
    assert_eq!(fix["insertedContent"]["text"], "mist");
    assert_eq!(log["runs"][0]["invocations"][0]["executionSuccessful"], true);
    // What was not checked is reported.
    desk.write("src/picture.txt", b"\x89PNG\r\n\x1a\n\0\0\0");
    std::os::unix::fs::symlink("clean.txt", desk.path("src/link.txt")).expect("a link");
    let ran = desk.run(&["check", "-r", "tidy.wash.toml", "src", "--format", "sarif"]).status(1);
    let ran = ran.warns(&[
        "washout: not checked: src/picture.txt (binary; --with-binary includes them)",
        "washout: not checked: src/link.txt (link, not followed)",
    ]);
    let log: Value = serde_json::from_slice(&ran.out).expect("JSON");
    let told = log["runs"][0]["invocations"][0]["toolExecutionNotifications"].as_array().expect("notifications");
    assert!(validator.is_valid(&log) && told.len() == 2, "{log}");
    // With nothing to tell it is still a whole value.
    let empty = desk.run(&["check", "-r", "tidy.wash.toml", "src/clean.txt", "--format", "sarif"]).status(0);
    let empty: Value = serde_json::from_slice(&empty.out).expect("JSON");
    assert!(validator.is_valid(&empty) && empty["runs"][0]["results"] == serde_json::json!([]), "{empty}");
}

/// A repository with the hook in it, and git at work there: whether it succeeds, and what it says.
fn repository(desk: &TestDir) -> impl Fn(&[&str]) -> (bool, String) + '_ {
    let path = format!("{}:{}", program_folder(), std::env::var("PATH").unwrap_or_default());
    let git = move |args: &[&str]| {
        let mut git = Command::new("git");
        git.current_dir(desk.path("")).env("PATH", &path).args(["-c", "user.name=k", "-c", "user.email=k@example.org"]);
        let output = git.args(args).output().expect("git");
        (output.status.success(), String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned())
    };
    assert!(git(&["init", "-q"]).0);
    desk.write("washout.toml", b"[[apply]]\nrules = ['tidy.wash.toml']\n");
    desk.run(&["hook", "--install"]).status(0).says(&[".git/hooks/pre-commit"]);
    git
}

#[test]
fn the_hook_lets_clean_commits_pass_and_stops_others_with_a_hint_that_can_be_typed() {
    let desk = desk();
    let git = repository(&desk);
    let done = |args: &[&str]| assert!(git(args).0, "{args:?}: {}", git(args).1);
    done(&["add", "tidy.wash.toml", "src/clean.txt"]);
    done(&["commit", "-q", "-m", "clean"]);
    done(&["add", "src/a b.txt"]);
    let (passed, said) = git(&["commit", "-q", "-m", "dirty"]);
    assert!(!passed && said.contains("src/a b.txt:1:1: rule 2") && !said.contains("/tmp"), "{said}");
    // Each line of the hint, as it stands.
    for (what, then) in
        [("look at the changes  ", false), ("clean the files      ", false), ("stage them again     ", true)]
    {
        let line = said.lines().find_map(|line| line.trim_start().strip_prefix(what)).expect(&said);
        let path = format!("{}:{}", program_folder(), std::env::var("PATH").unwrap_or_default());
        let mut shell = Command::new("bash");
        shell.args(["-c", line]).current_dir(desk.path("")).env("PATH", path).env("WASHOUT_STATE", desk.state.path());
        assert!(shell.output().expect("bash").status.success(), "{line}");
        assert_eq!(git(&["commit", "-q", "-m", "cleaned"]).0, then, "after {line}");
    }
}

#[test]
fn the_hook_checks_what_will_be_committed_and_nothing_else() {
    let desk = TestDir::with(&[
        ("tidy.wash.toml", "[[rule]]\ntrim.at = 'end'\n"),
        ("staged-dirty.txt", "fog  \n"),
        ("staged-clean.txt", "fog\n"),
        ("not-staged.txt", "fog  \n"),
        (".gitattributes", "*.txt text eol=crlf\n"),
    ]);
    let git = repository(&desk);
    let done = |args: &[&str]| assert!(git(args).0, "{args:?}: {}", git(args).1);
    done(&["add", "tidy.wash.toml", ".gitattributes", "staged-dirty.txt"]);
    desk.write("staged-dirty.txt", b"fog\n");
    let (passed, said) = git(&["commit", "-q", "-m", "blanks are staged"]);
    assert!(!passed && said.contains("staged-dirty.txt:1:4"), "the working file is clean, the commit is not: {said}");
    done(&["add", "staged-dirty.txt", "staged-clean.txt"]);
    desk.write("staged-clean.txt", b"fog  \n");
    done(&["commit", "-q", "-m", "the working file is dirty, the commit is not"]);
    // A link is committed as a link, whatever it leads to, and a picture is not a text.
    std::os::unix::fs::symlink("not-staged.txt", desk.path("link.txt")).expect("a link");
    desk.write("scan.png", b"\x89PNG\r\n\x1A\n\0\0\0\rIHDR  \n\0\0\x02\0");
    done(&["add", "link.txt", "scan.png"]);
    done(&["commit", "-q", "-m", "a link and a picture"]);
    // Of one file, only what is named is committed; and a folder that no rules are for is not looked at.
    desk.write("washout.toml", b"[[apply]]\nrules = ['tidy.wash.toml']\nexcept = ['old/**']\n");
    desk.write("old/log.txt", b"fog  \n");
    done(&["add", "old/log.txt", "not-staged.txt", "washout.toml"]);
    done(&["commit", "-q", "-m", "only these", "--", "old/log.txt", "washout.toml"]);
    assert!(!git(&["commit", "-q", "-m", "the rest"]).0);
    // What is in the hint can be typed, whatever files are called.
    desk.write("-x.txt", b"fog  \n");
    done(&["add", "--", "-x.txt"]);
    let (_, said) = git(&["commit", "-q", "-m", "a name like an option"]);
    assert!(said.contains("washout clean ./-x.txt"), "{said}");
    desk.write("a\nb.txt", b"fog  \n");
    done(&["add", "a\nb.txt"]);
    let (_, said) = git(&["commit", "-q", "-m", "a name on two lines"]);
    assert!(said.contains("--files-from - -0"), "{said}");
    // Of very many places, no one reads the last.
    desk.write("not-staged.txt", "fog \n".repeat(700).as_bytes());
    done(&["add", "not-staged.txt"]);
    let (_, said) = git(&["commit", "-q", "-m", "many places"]);
    assert!(said.contains("not-staged.txt:1:4") && said.contains("; the first 20 are listed"), "{said}");
    let places = said.lines().filter(|line| line.contains(": rule ")).count();
    assert_eq!(places, 20, "{said}");
    // From a folder below, the hint says where its paths begin.
    let (passed, said) = git(&["-C", "old", "commit", "-q", "-m", "the rest"]);
    assert!(!passed && said.contains("at the top of the repository"), "{said}");
}

#[test]
fn a_hook_that_is_somebodys_own_stays() {
    let desk = TestDir::with(&[("tidy.wash.toml", "[[rule]]\ntrim.at = 'end'\n")]);
    desk.run(&["hook", "--install"]).status(2).warns(&["not a git repository"]);
    let git = repository(&desk);
    desk.run(&["hook", "--install"]).status(0);
    desk.write(".git/hooks/pre-commit", b"#!/bin/sh\nexit 0\n");
    desk.run(&["hook", "--install"]).status(2).warns(&["has another hook", "washout check --staged"]);
    assert_eq!(desk.read(".git/hooks/pre-commit"), "#!/bin/sh\nexit 0\n");
    let elsewhere = tempfile::tempdir().expect("a folder");
    assert!(git(&["config", "core.hooksPath", &elsewhere.path().to_string_lossy()]).0);
    desk.run(&["hook", "--install"]).status(2).warns(&["core.hooksPath"]);
    assert!(!elsewhere.path().join("pre-commit").exists());
}

fn program_folder() -> String {
    let program = std::path::Path::new(env!("CARGO_BIN_EXE_washout"));
    program.parent().expect("a folder").to_string_lossy().into_owned()
}

#[test]
fn a_patch_makes_the_files_what_the_rules_make_them() {
    let desk = desk();
    let long: String =
        (0..40).map(|line| if line % 13 == 5 { "fog\n".to_owned() } else { format!("{line}\n") }).collect();
    desk.write("src/long.txt", long.as_bytes());
    desk.write("src/cr.txt", b"a \rfog\rb\n\n\nfog");
    desk.write("src/mark.txt", b"\xEF\xBB\xBFa\nfog\n");
    desk.write("src/blank ", b"fog\n");
    let rules = ["-r", "tidy.wash.toml", "--rule", "line_ends = { bom = 'drop', final = 'one' }"];
    desk.run(&[&["clean"], &rules[..], &["src", "--into", "want"]].concat()).status(0);
    let patch = desk.run(&[&["clean"], &rules[..], &["src", "--patch"]].concat()).status(0);
    let patch = patch.says(&["+++ \"b/src/blank \"\n"]); // in quotation marks, since some programs drop the blank else
    desk.write("tidy.patch", &patch.out);
    let mut git = Command::new("git");
    git.args(["apply", "-p1", "--whitespace=nowarn", "tidy.patch"]).current_dir(desk.path(""));
    let output = git.output().expect("git");
    assert!(output.status.success(), "{}\n{}", String::from_utf8_lossy(&output.stderr), patch.out());
    for name in ["a b.txt", "clean.txt", "ünï%.txt", "odd.txt", "long.txt", "cr.txt", "mark.txt"] {
        let read = |folder: &str| std::fs::read(desk.path(&format!("{folder}/{name}"))).expect("a file");
        assert_eq!(String::from_utf8_lossy(&read("src")), String::from_utf8_lossy(&read("want/src")), "{name}");
    }
    assert!(desk.run(&[&["clean"], &rules[..], &["src", "--patch"]].concat()).status(0).out.is_empty());
}

#[test]
fn patches_of_texts_and_tables_apply_and_hold_nothing_of_a_file_that_fails() {
    let desk = TestDir::with(&[
        (
            "tidy.wash.toml",
            "[[rule]]\nremove.words = 'um'\n[[rule]]\ndrop_lines = { text = 'DROP' }\n\
          [[rule]]\nreplace = { text = 'SPLIT', with = \"two\\nlines\" }\n[[rule]]\nreplace = { chars = '|', with = \"\\r\" }\n",
        ),
        (
            "stores.wash.toml",
            "[[rule]]\nfields = 'b'\nreplace = { text = 'um', with = 'ahem' }\n\
          [[rule]]\nfields = 'b'\nreplace = { text = ';', with = \"\\n\" }\n",
        ),
    ]);
    // Changes close together, far apart, at both edges, and of lines that end in CR.
    let line = |at: usize| match at % 41 {
        0 => format!("um {at}\r\n"),
        1 => "DROP\n".to_owned(),
        7 => "SPLIT here\n".to_owned(),
        11 => "a\rum b\rc|d\n".to_owned(),
        _ => format!("line {at}\n"),
    };
    let text: String = (0..20_000).map(line).collect::<String>() + "um the end";
    desk.write("in/text.txt", text.as_bytes());
    desk.write("in/dirty.txt", "um\n".repeat(40_000).as_bytes());
    desk.write("in/drop.txt", b"DROP\nDROP\n");
    let record = |at: usize| match at % 53 {
        5 => format!("{at},\"um, {at}\"\n"),
        6 => format!("{at},x;y\n"),
        _ => format!("{at},fog\n"),
    };
    desk.write("t/table.csv", ("a,b\n".to_owned() + &(0..20_000).map(record).collect::<String>()).as_bytes());
    for (rules, folder) in [("tidy.wash.toml", "in"), ("stores.wash.toml", "t")] {
        desk.run(&["clean", "-r", rules, folder, "--into", "want"]).status(0);
        let patch = desk.run(&["clean", "-r", rules, folder, "--patch"]).status(0);
        desk.write("tidy.patch", &patch.out);
        let mut git = Command::new("git");
        git.args(["apply", "-p1", "--whitespace=nowarn", "tidy.patch"]).current_dir(desk.path(""));
        let output = git.output().expect("git");
        assert!(output.status.success(), "{folder}: {}", String::from_utf8_lossy(&output.stderr));
        let name = |path: &String| path.strip_prefix(&format!("{folder}/")).map(str::to_owned);
        for name in desk.files().iter().filter_map(name) {
            assert!(desk.read(&format!("{folder}/{name}")) == desk.read(&format!("want/{folder}/{name}")), "{name}");
        }
    }
    // The first lines of a file whose rules fail later are not patch of it.
    desk.write("in/fails.txt", ("um\n".repeat(200_000) + &"z".repeat(80_000)).as_bytes());
    let rule =
        ["clean", "--rule", "remove.words = um", "--rule", "remove.pattern = (?=.*a)z", "--patch", "in/fails.txt"];
    let ran = desk.run(&rule).status(3);
    assert!(ran.out.is_empty(), "{} bytes of a patch", ran.out.len());
}

#[test]
fn looking_takes_little_memory_whatever_changes() {
    let desk = TestDir::with(&[("tidy.wash.toml", RULES)]);
    desk.write_parts("long.txt", (0..60).map(|_| "fog over the lamp, fog \nno boat\n".repeat(1 << 14)));
    for words in [
        &["clean", "long.txt"][..],
        &["clean", "long.txt", "--all"],
        &["clean", "long.txt", "--json", "--report", "all.jsonl"],
        &["check", "long.txt"],
        &["check", "long.txt", "--format", "sarif"],
    ] {
        let words = [words, &["-r", "tidy.wash.toml"]].concat();
        let peak = desk.peak_memory(&words);
        assert!(peak < 64 << 20, "{words:?} took {} MiB", peak >> 20);
    }
    // What is not shown is counted all the same.
    let ran = desk.run(&["clean", "-r", "tidy.wash.toml", "long.txt"]).status(0);
    ran.says(&["2,949,120 changes in 1,966,080 lines", "… and many more places in this file; --all shows them"]);
}

#[test]
fn a_patch_takes_little_memory_whatever_the_size_of_the_file() {
    let desk = TestDir::with(&[("tidy.wash.toml", "[[rule]]\nremove.words = 'um'\n")]);
    desk.write_parts("long.txt", (0..20).map(|_| "um fog over the landing\n".repeat(100_000)));
    let peak = desk.peak_memory(&["clean", "-r", "tidy.wash.toml", "long.txt", "--patch"]);
    assert!(peak < 64 << 20, "{} MiB for 48 MB", peak >> 20);
}

#[test]
fn changes_are_taken_and_left_as_answered() {
    let taken = |answers: &[u8]| {
        let desk = TestDir::with(&[
            ("tidy.wash.toml", "[[rule]]\nremove.chars = '#'\n[[rule]]\nremove.chars = '*'\n"),
            ("1.txt", "#a*\n#b*#\nsame\r\n#c*"),
            ("2.txt", "#d\n"),
        ]);
        let ran = desk.run_with(&["clean", "-r", "tidy.wash.toml", "1.txt", "2.txt", "--write", "--ask"], answers);
        ran.status(0);
        (desk.read("1.txt"), desk.read("2.txt"))
    };
    let want = |one: &str, two: &str| (one.to_owned(), two.to_owned());
    assert_eq!(taken(b"take\nleave\nt\nT\ntake\nt\nt\nt\n"), want("a*\nb\nsame\r\nc", "d\n"));
    assert_eq!(taken(b"take rule\nl r\n"), want("a*\nb*\nsame\r\nc*", "d\n"), "all of one rule, none of the other");
    assert_eq!(taken(b"take file\nleave f\n"), want("a\nb\nsame\r\nc", "#d\n"), "the rest of a file");
    assert_eq!(taken(b"t\n?\ny\nst\n"), want("a*\n#b*#\nsame\r\n#c*", "#d\n"));
    assert_eq!(taken(b""), want("#a*\n#b*#\nsame\r\n#c*", "#d\n"), "no answer is none");
    desk().run(&["clean", "-r", "tidy.wash.toml", "src", "--ask"]).status(2).warns(&["--ask needs --write"]);
}

#[test]
fn copies_have_the_changes_that_were_taken() {
    let utf16 = |text: &str| text.encode_utf16().flat_map(u16::to_le_bytes).collect::<Vec<u8>>();
    let desk = TestDir::with(&[("in/1.txt", "#a\n#b\n"), ("in/2.txt", "same\n"), ("in/4.txt", "#e\n")]);
    desk.write("in/3.txt", &utf16("\u{FEFF}#c\n#d\u{e9}\n"));
    desk.write("in/5.txt", b"\x00\x01\x02#\x00\x00");
    desk.write("out/in/4.txt", b"old\n");
    let args = ["clean", "--rule", "remove.chars = '#'", "in", "--into", "out", "--ask"];
    let ran = desk.run_with(&args, b"take\nleave\nleave\ntake\ntake\n").status(3);
    ran.warns(&["out/in/4.txt is there already"]);
    assert_eq!([desk.read("out/in/1.txt"), desk.read("out/in/2.txt")], ["a\n#b\n", "same\n"]);
    assert_eq!(
        std::fs::read(desk.path("out/in/3.txt")).expect("a copy"),
        utf16("\u{FEFF}#c\nd\u{e9}\n"),
        "in its own encoding"
    );
    assert_eq!([desk.read("in/1.txt"), desk.read("out/in/4.txt")], ["#a\n#b\n", "old\n"]);
    assert!(!desk.path("out/in/5.txt").exists(), "it looks binary");
}

#[test]
fn parts_of_a_set_and_of_a_file_are_tried() {
    let desk = desk();
    let clean = |args: &[&str]| desk.run(&[&["clean", "-r", "tidy.wash.toml", "src/a b.txt"], args].concat());
    clean(&["--only-rule", "2", "--stdout"]).status(0).says(&["mist \r\ngale\n+é mist\n+\nlast"]);
    clean(&["--up-to-rule", "no trailing blanks", "--stdout"]).status(0).says(&["fog\r\ngale\n+é fog\n+\nlast"]);
    let first = clean(&["--first", "2"]).status(0);
    assert!(!first.out().contains("--first"), "what is proposed must run: {first}");
    first.says(&["lines  2 → 2", "b.txt' --write"]);
    assert_eq!(clean(&["--first", "1", "--stdout"]).status(0).out(), "mist\r\n");
    clean(&["--only-rule", "9"]).status(2).warns(&["there is no rule `9`", "Rules that are on: 1 to 3"]);
    clean(&["--first", "1", "--write"]).status(2);
    let listed =
        desk.run_with(&["check", "-r", "tidy.wash.toml", "--files-from", "-", "-0"], b"src/a b.txt\0src/odd.txt\0");
    listed.status(1).warns(&["6 places in 2 files"]);
}
