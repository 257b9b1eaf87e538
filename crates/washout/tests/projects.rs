//! Project files, and personal rule sets.

mod support;

use support::TestDir;

/// A project with three entries, of which two are for the pages.
fn project() -> TestDir {
    TestDir::with(&[
        (
            "washout.toml",
            "[[apply]]\nrules = ['rules/tidy.wash.toml']\nonly = ['*.txt']\n\
             [[apply]]\nrules = ['rules/marks.wash.toml', 'rules/tidy.wash.toml']\nonly = ['pages/**']\n\
             [[apply]]\nrules = ['rules/hidden.wash.toml']\nonly = ['*.md']\nexcept = ['old/*']\n",
        ),
        ("rules/tidy.wash.toml", "[[rule]]\ntrim.at = 'end'\n[[rule]]\nremove.words_from = 'litter.txt'\n"),
        ("rules/hidden.wash.toml", "[[rule]]\nremove.class = 'invisible'\n"),
        ("rules/litter.txt", "um  \n"),
        ("rules/marks.wash.toml", "[[rule]]\nremove.chars = '#'\n"),
        ("pages/one.txt", "# fog um \n"),
        ("notes.txt", "# fog um \n"),
        ("a.md", "fog\u{200B} \n"),
        ("old/b.md", "fog\u{200B} \n"),
        ("ledger.csv", "a ,b#\n"),
    ])
}

#[test]
fn each_file_goes_through_the_rules_of_every_entry_that_takes_it() {
    let desk = project();
    desk.run(&["clean", "--write"]).status(0);
    let read = |path: &str| desk.read(path);
    assert_eq!(
        ["pages/one.txt", "notes.txt", "a.md", "old/b.md", "ledger.csv", "rules/litter.txt"].map(read),
        [" fog\n", "# fog\n", "fog \n", "fog\u{200B} \n", "a ,b#\n", "um  \n"],
        "no rule set and no list of one is cleaned"
    );
    desk.run(&["undo"]).status(0).says(&["3 files"]);
    assert_eq!(desk.read("pages/one.txt"), "# fog um \n", "all of it is one run");
}

#[test]
fn a_run_of_a_project_is_repeated_as_its_files_were_assigned_then() {
    let desk = project();
    desk.run(&["clean", "--write"]).status(0);
    desk.run(&["undo"]).status(0);
    desk.write("washout.toml", b"[[apply]]\nrules = ['other.wash.toml']\n");
    desk.write("rules/marks.wash.toml", b"[[rule]]\nremove.chars = 'f'\n");
    desk.write("pages/new.txt", b"# horn\n");
    // Different files had different rules: these for one of them.
    let ran = desk.run(&["history", "1", "--rules"]).status(2);
    let one_of_each = ["a.md", "notes.txt", "pages/one.txt"].map(|file| format!("history 1 --rules={file}"));
    ran.warns(&one_of_each.each_ref().map(String::as_str));
    let rules = desk.run(&["history", "1", "--rules=pages/one.txt"]).status(0).out();
    assert!(rules.contains("words_from") && rules.contains("chars = \"#\""), "as they were: {rules}");
    desk.run(&["history", "1", "--rules=ledger.csv"]).status(2).warns(&["no rules for ledger.csv"]);
    let below = |args: &[&str]| desk.command().args(args).current_dir(desk.path("old")).output().expect("the program");
    desk.write("old/c.txt", b"horn um \n");
    for (args, status) in [(["again", "1", "b.md"], Some(2)), (["again", "1", "c.txt"], Some(0))] {
        assert_eq!(below(&args).status.code(), status, "{args:?}");
    }
    assert!(below(&["again", "1", "--write"]).status.success(), "from another folder too");
    desk.run(&["again", "--write"]).status(0);
    assert_eq!(
        ["pages/one.txt", "pages/new.txt", "notes.txt", "a.md", "old/b.md", "ledger.csv"].map(|path| desk.read(path)),
        [" fog\n", " horn\n", "# fog\n", "fog \n", "fog\u{200B} \n", "a ,b#\n"]
    );
}

#[test]
fn a_project_is_found_from_below_and_ends_where_its_repository_does() {
    let desk = project();
    let below = |args: &[&str]| {
        let output = desk.command().args(args).current_dir(desk.path("pages")).output().expect("the built program");
        (output.status.code(), String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned())
    };
    let (status, said) = below(&["check", "--list", "count"]);
    assert_eq!(status, Some(1), "{said}");
    assert!(said.contains("one.txt: 3 changes") && !said.contains("notes"), "the working folder and below: {said}");
    let (status, said) = below(&["check", "../notes.txt"]);
    assert!(status == Some(1) && said.contains("../notes.txt:1:6: rule tidy:2"), "{said}");
    let (status, said) = below(&["check", "../ledger.csv"]);
    assert!(status == Some(2) && said.contains("no rules of"), "{said}");
    let (status, said) = below(&["check", "--no-project"]);
    assert!(status == Some(2) && said.contains("no rules given"), "{said}");
    let (status, said) = below(&["clean", "-"]);
    assert!(status == Some(2) && said.contains("a stream is none"), "{said}");
    desk.write("pages/.git", b"gitdir: elsewhere\n");
    let (status, said) = below(&["check"]);
    assert!(status == Some(2) && said.contains("no washout.toml here"), "{said}");
    let (status, _) = below(&["check", "--project", "../washout.toml", "--list", "first"]);
    assert_eq!(status, Some(1));
}

#[test]
fn formats_and_reports_name_the_rules_of_a_project_as_one_list() {
    let desk = project();
    let json = desk.run(&["check", "--json"]).status(1);
    let found: serde_json::Value = serde_json::from_slice(&json.out).expect("JSON");
    let marks = found["found"].as_array().expect("a list").iter().filter(|change| change["rule"] == "marks:1");
    let files: Vec<&str> = marks.filter_map(|change| change["file"].as_str()).collect();
    assert_eq!(files, ["pages/one.txt"], "{found}");
    let preview = desk.run(&["clean"]).status(0).out();
    assert_eq!(preview.matches("marks:1").count(), 2, "the hunk and the table name it: {preview}");
    let patch = desk.run(&["clean", "--patch"]).status(0).out();
    assert!(patch.contains("-# fog um \n+ fog\n") && patch.contains("-# fog um \n+# fog\n"), "{patch}");
}

#[test]
fn a_project_file_with_a_mistake_is_refused_and_shown() {
    for (text, wants) in [
        ("[[aply]]\nrules = ['a']\n", &["unknown field `aply`", "washout.toml:1:3"][..]),
        ("[[apply]]\nrules = 'tidy.wash.toml'\n", &["washout.toml:2:9", "rules = [\"FILE\"]"]),
        ("[[apply]]\nrules = []\n", &["number 1 names no rules"]),
        ("apply = []\n", &["applies no rules"]),
        ("[[apply]]\nrules = ['gone.wash.toml']\n", &["gone.wash.toml cannot be read: no such file"]),
        ("[[apply]]\nrules = ['ready:prose']\nonly = ['[']\n", &["["]),
    ] {
        let desk = TestDir::with(&[("washout.toml", text), ("a.txt", "fog \n")]);
        desk.run(&["clean", "--write"]).status(2).warns(wants);
        assert_eq!(desk.read("a.txt"), "fog \n");
    }
}

#[test]
fn a_project_file_that_is_no_file_is_not_waited_for() {
    let desk = TestDir::with(&[("a.txt", "fog \n")]);
    assert!(std::process::Command::new("mkfifo").arg(desk.path("washout.toml")).status().expect("mkfifo").success());
    desk.run(&["check"]).status(2).warns(&["no washout.toml here"]);
    desk.run(&["check", "--project", "washout.toml"]).status(2).warns(&["it is a pipe"]);
}

#[test]
fn init_takes_the_sets_that_are_there_or_drafts_rules_and_overwrites_nothing() {
    let desk = TestDir::new();
    desk.run(&["demo", "--into", "papers"]).status(0);
    let within = |folder: &str, args: &[&str]| {
        let output = desk.command().args(args).current_dir(desk.path(folder)).output().expect("the built program");
        (output.status.code(), String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned())
    };
    let (status, said) = within("papers", &["init"]);
    assert!(status == Some(0) && said.contains("scans.wash.toml is for names"), "{said}");
    assert!(desk.read("papers/washout.toml").contains("rules = [\"radio.wash.toml\"]\nonly  = [\"radio/**\"]"));
    assert_eq!(within("papers", &["check", "--list", "first"]).0, Some(1));
    let before = desk.read("papers/washout.toml");
    assert_eq!(within("papers", &["init"]).0, Some(2));
    assert_eq!(desk.read("papers/washout.toml"), before);
    // A set for tables is for tables, wherever they are, and other sets are then for all other files.
    desk.write("one/lines.wash.toml", b"[[rule]]\ndrop_lines.text = 'um'\n");
    desk.write("one/stores.wash.toml", desk.read("papers/stores.wash.toml").as_bytes());
    desk.write("one/a.txt", b"um\n");
    assert_eq!(within("one", &["init"]).0, Some(0));
    for choice in ["only ", "except"] {
        let project = desk.read("one/washout.toml");
        assert!(project.contains(&format!("{choice} = [\"*.csv\", \"*.tsv\", \"*.jsonl\"]")), "{project}");
    }
    // Where there is no set, one is drafted that runs as it is.
    desk.write("new/b[1].log", b"  1  Fog\t\n  2  Horn\n");
    desk.write("new/ledger.csv", b"a,b\n x ,y\n");
    let (status, said) = within("new", &["init"]);
    assert_eq!(status, Some(0), "{said}");
    let (status, said) = within("new", &["clean", "--write"]);
    assert!(status == Some(0) && said.contains("2 files changed"), "{said}");
    assert_eq!(within("new", &["check"]).0, Some(0));
    std::fs::create_dir(desk.path("empty")).expect("a folder");
    assert_eq!(within("empty", &["init"]).0, Some(2));
}

#[test]
fn personal_sets_are_found_by_name_with_the_files_beside_them() {
    let desk = TestDir::with(&[("a.txt", "um fog\n")]);
    desk.write("config/washout/log.wash.toml", b"[[rule]]\nremove.words_from = 'words.txt'\n");
    desk.write("config/washout/words.txt", b"um\n");
    let with = |args: &[&str]| {
        let output = desk.command().args(args).env("XDG_CONFIG_HOME", desk.path("config")).output();
        let output = output.expect("the built program");
        (output.status.code(), String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned())
    };
    let cleaned = with(&["clean", "-r", "my:log", "a.txt", "--stdout"]);
    assert_eq!(cleaned, (Some(0), "fog\n".to_owned()));
    let (status, said) = with(&["clean", "-r", "my:gone", "a.txt"]);
    assert!(status == Some(2) && said.contains("no such file"), "{said}");
    let (status, said) = with(&["clean", "-r", "my:../a", "a.txt"]);
    assert!(status == Some(2) && said.contains("without folders"), "{said}");
}

#[test]
fn rules_of_a_run_are_kept_printed_and_run_again() {
    let desk = TestDir::with(&[
        ("log.wash.toml", "# marks\n[[rule]]\nremove.chars = '#'\n"),
        ("in/a.txt", "# fog 1\n"),
        ("in/b.md", "# fog 2\n"),
        ("other/c.txt", "# fog 3\n"),
        ("scans/a_b.txt", ""),
    ]);
    desk.run(&["clean", "-r", "log.wash.toml", "--rule", "remove.pattern = \\d", "in", "--only", "*.txt", "--write"])
        .status(0);
    desk.run(&["undo"]).status(0);
    desk.write("log.wash.toml", b"[[rule]]\nremove.chars = 'x'\n");
    let rules = desk.run(&["history", "1", "--rules"]).status(0).out();
    assert_eq!(
        rules, "# marks\n[[rule]]\nremove.chars = '#'\n\n[[rule]]\nremove.pattern = '\\d'\n",
        "as they were then"
    );
    // On what it worked on, first to look.
    desk.run(&["again", "1"]).status(0).says(&["1 file would change"]);
    assert_eq!(desk.read("in/a.txt"), "# fog 1\n");
    desk.run(&["again", "1", "--write"]).status(0);
    assert_eq!((desk.read("in/a.txt"), desk.read("in/b.md")), (" fog \n".to_owned(), "# fog 2\n".to_owned()));
    // On other files; and that once more.
    desk.run(&["again", "1", "other", "--write"]).status(0);
    assert_eq!(desk.read("other/c.txt"), " fog \n");
    desk.write("other/c.txt", b"# new 4\n");
    desk.run(&["again", "--write"]).status(0);
    assert_eq!(desk.read("other/c.txt"), " new \n");
    desk.run(&["again", "2"]).status(2).warns(&["it undid run 1"]);
    desk.run(&["again", "99"]).status(2);
    desk.run(&["names", "--rule", "replace = { chars = '_', with = ' ' }", "scans", "--write"]).status(0);
    desk.run(&["undo"]).status(0);
    desk.run(&["again", "6", "--write"]).status(0);
    assert!(desk.path("scans/a b.txt").exists());
}

#[test]
fn a_run_that_cannot_be_repeated_says_why() {
    let desk = TestDir::with(&[("a#.txt", "# fog\n"), ("list", "a#.txt\n"), ("empty/x", "")]);
    desk.run(&["again"]).status(2).warns(&["no run of rules in", "history lists all runs"]);
    let rule = ["--rule", "remove.chars = '#'"];
    desk.run(&[&["clean"], &rule[..], &["--files-from", "list", "--write"]].concat()).status(0);
    desk.run(&["undo"]).status(0);
    // What a list named is what was changed.
    desk.run(&["again", "--into", "out"]).status(0);
    assert_eq!(desk.read("out/a#.txt"), " fog\n");
    desk.run(&[&["names"], &rule[..], &["--files-from", "list", "--write"]].concat()).status(0);
    desk.run(&["again"]).status(2).warns(&["which files run 3 worked on is not known", "again 3 PATH"]);
    desk.run(&["undo"]).status(0);
    desk.run(&["again", "3", "a#.txt", "--write"]).status(0);
    assert!(desk.path("a.txt").exists());
    // A run that repeated it did so on files of its own.
    desk.run(&["undo"]).status(0);
    desk.run(&["again", "5", "--write"]).status(0);
    assert!(desk.path("a.txt").exists());
    desk.run(&["clean", "--rule", "remove.chars = 'f'", "--project", "run:1", "a.txt"]).status(2);
    desk.run(&["clean", "--project", "run:1", "a.txt"]).status(2).warns(&["not those of a project file", "-r run:1"]);
}

#[test]
fn a_run_is_repeated_with_the_options_that_say_how_its_rules_act() {
    let desk =
        TestDir::with(&[("a.txt", "Keeper;Notes\n# Hale;# fog um\n"), ("other/b.txt", "Keeper;Notes\n#;# um\n")]);
    let rules = ["--rule", "remove.chars = \"#\"", "--rule", "remove.words = um"];
    let how = ["--table", "csv", "--delimiter", ";", "--fields", "Notes", "--only-rule", "2", "--write"];
    desk.run(&[&["clean"], &rules[..], &how[..], &["a.txt"]].concat()).status(0);
    desk.run(&["undo"]).status(0);
    desk.run(&["again", "1", "--write"]).status(0);
    desk.run(&["again", "3", "other/b.txt", "--write"]).status(0);
    assert_eq!(
        [desk.read("a.txt"), desk.read("other/b.txt")],
        ["Keeper;Notes\n# Hale;# fog\n", "Keeper;Notes\n#;#\n"],
        "one rule, in one field"
    );
}

#[test]
fn rules_of_a_command_line_are_saved_as_one_set() {
    let desk = TestDir::with(&[
        ("one.wash.toml", "# one\n[[rule]]\nremove.chars = '#'\n"),
        ("lists.wash.toml", "[[rule]]\nremove.words_from = 'words.txt'\n"),
        ("words.txt", "um\n"),
        ("a.txt", "# um 1\n"),
    ]);
    let with = |args: &[&str]| {
        let output = desk.command().args(args).env("XDG_CONFIG_HOME", desk.path("config")).output();
        let output = output.expect("the built program");
        (output.status.code(), String::from_utf8_lossy(&[output.stdout, output.stderr].concat()).into_owned())
    };
    let rules = ["clean", "a.txt", "-r", "one.wash.toml", "--rule", "{ remove = { words = 'um' } }"];
    let (status, said) = with(&[&rules[..], &["--save-rules", "my:both"]].concat());
    assert!(status == Some(0) && said.contains("both.wash.toml"), "{said}");
    assert_eq!(with(&["clean", "a.txt", "-r", "my:both", "--stdout"]), with(&[&rules[..], &["--stdout"]].concat()));
    let (status, said) = with(&[&rules[..], &["--save-rules", "my:both"]].concat());
    assert!(status == Some(0) && said.contains("both.wash.toml"), "the same rules are there: {said}");
    let (status, said) = with(&[&rules[..4], &["--save-rules", "my:both"]].concat());
    assert!(status == Some(2) && said.contains("exists"), "{said}");
    let (status, said) = with(&["clean", "a.txt", "-r", "lists.wash.toml", "--save-rules", "my:lists"]);
    assert!(status == Some(2) && said.contains("words.txt"), "a list would not be found from there: {said}");
    assert_eq!(with(&["clean", "a.txt", "-r", "lists.wash.toml", "--save-rules", "copy.wash.toml"]).0, Some(0));
    assert_eq!(desk.read("copy.wash.toml"), desk.read("lists.wash.toml"));
}
