//! Files that a run writes besides its results: they replace no input, and nothing unasked.

mod support;

use support::TestDir;

fn desk() -> TestDir {
    TestDir::with(&[
        ("tidy.wash.toml", "[[rule]]\nremove = { words_from = 'fillers.txt' }\n"),
        ("fillers.txt", "um\n"),
        ("log/a.html", "um fog\n"),
        ("log/b.jsonl", "um horn\n"),
        ("list", "log/a.html\n"),
        ("old.html", "an old page\n"),
        ("old.jsonl", "an old list\n"),
        ("names.csv", "folder,old,new\nlog,a.html,fog.html\n"),
    ])
}

#[test]
fn no_output_replaces_an_input_even_if_asked_nor_another_file_unasked() {
    let clean = ["clean", "-r", "tidy.wash.toml", "log"];
    let names = ["names", "--rule", "replace = { chars = 'a', with = 'x' }", "log"];
    let inputs: &[(&[&str], &[&str])] = &[
        (&clean, &["--report", "log/a.html"]),
        (&clean, &["--report", "./log/../log/b.jsonl", "--table", "text"]),
        (&clean, &["--write", "--report", "log/a.html"]),
        (&clean, &["--into", "copies", "--report", "log/a.html"]),
        (&["survey", "log/a.html"], &["--report", "log/a.html"]),
        (&["survey", "log/a.html"], &["--draft", "log/a.html"]),
        (&["survey", "--files-from", "list"], &["--draft", "list"]),
        (&clean, &["--table", "text", "--report", "second-name.html"]),
        (
            &["clean", "--rule", "remove.words_from = 'word.html'", "log/b.jsonl", "--table", "text"],
            &["--report", "word.html"],
        ),
        (&names, &["--map", "log/a.html"]),
        (&names, &["--report", "log/a.html"]),
        (&["names", "--from-map", "names.csv", "log"], &["--report", "log/a.html"]),
    ];
    for (run, output) in inputs {
        for overwrite in [&[][..], &["--overwrite"]] {
            let desk = desk();
            desk.write("word.html", b"um\n");
            std::os::unix::fs::symlink("log/a.html", desk.path("second-name.html")).expect("a link");
            let before = desk.files();
            let ran = desk.run(&[run, *output, overwrite].concat()).status(2);
            ran.warns(&["is an input of this run, and an output never replaces one", "Nothing was done"]);
            assert_eq!(desk.files(), before, "{run:?} {output:?}");
            assert_eq!(
                (desk.read("log/a.html").as_str(), desk.read("log/b.jsonl").as_str()),
                ("um fog\n", "um horn\n")
            );
        }
    }
    let others: &[(&[&str], &[&str], &str)] = &[
        (&clean, &["--table", "text", "--report", "old.html"], "old.html"),
        (&clean, &["--table", "text", "--write", "--report", "old.jsonl"], "old.jsonl"),
        (&["survey", "log"], &["--table", "text", "--report", "old.html"], "old.html"),
        (&["survey", "log"], &["--table", "text", "--draft", "old.jsonl"], "old.jsonl"),
        (&names, &["--map", "old.html"], "old.html"),
        (&names, &["--write", "--report", "old.jsonl"], "old.jsonl"),
    ];
    for (run, output, path) in others {
        let desk = desk();
        let old = desk.read(path);
        let before = desk.files();
        let ran = desk.run(&[run, *output].concat()).status(2);
        ran.warns(&[&format!("{path} exists; name another file, or replace it with --overwrite"), "Nothing was done"]);
        assert_eq!((desk.read(path), desk.files()), (old.clone(), before), "{run:?}");
        assert_eq!(desk.read("log/a.html"), "um fog\n");
        desk.run(&[run, *output, &["--overwrite"]].concat()).status(0);
        assert_ne!(desk.read(path), old, "{run:?}");
    }
}

#[test]
fn what_is_printed_is_never_added_to_an_input() {
    let desk = desk();
    let bash = |line: &str| {
        let mut bash = std::process::Command::new("bash");
        bash.args(["-c", &line.replace("washout", env!("CARGO_BIN_EXE_washout"))]).current_dir(desk.path(""));
        let output = bash.env("WASHOUT_STATE", desk.state.path()).output().expect("bash");
        (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    for line in [
        "washout clean -r tidy.wash.toml --stdout log/a.html >> log/a.html",
        "washout clean -r tidy.wash.toml < log/a.html >> log/a.html",
        "washout clean -r tidy.wash.toml log/a.html --patch >> log/a.html",
        "washout check -r tidy.wash.toml log/a.html >> log/a.html",
        "washout survey log/a.html >> log/a.html",
    ] {
        let (status, said) = bash(line);
        assert!(status == Some(2) && said.contains("is an input of this run, and its output"), "{line}: {said}");
        assert_eq!(desk.read("log/a.html"), "um fog\n", "{line}");
    }
    // Found in a folder, it is not an input.
    assert_eq!(bash("washout check -r tidy.wash.toml --table text . > log/found.txt").0, Some(1));
    assert!(!desk.read("log/found.txt").contains("found.txt"));
}

#[test]
fn outputs_copies_and_new_names_do_not_meet() {
    let desk = desk();
    let text = ["clean", "-r", "tidy.wash.toml", "--table", "text"];
    let run = |args: &[&str]| desk.run(&[&text[..], args].concat());
    run(&["log", "--report", "new.html", "--report", "./new.html"]).status(2).warns(&["named for two outputs"]);
    run(&["log", "--report", "one.html", "--report", "two.html", "--report", "changes.jsonl"]).status(0);
    assert_eq!(desk.read("one.html"), desk.read("two.html"));
    assert_eq!(desk.read("changes.jsonl").lines().count(), 2);
    // The copy of log/a.html would be the report.
    std::fs::create_dir_all(desk.path("copies/log")).expect("a folder");
    let report = ["log", "--into", "copies", "--report", "copies/log/a.html"];
    run(&report).status(2).warns(&["copies/log/a.html would be a report and a copy"]);
    // The copy of a.html would be log/a.html, which is to be cleaned too.
    desk.write("a.html", b"um oil\n");
    let copies = ["a.html", "log/a.html", "--into", "log", "--overwrite"];
    run(&copies).status(2).warns(&["the copy of a.html would replace log/a.html, which is an input of this run"]);
    assert_eq!(desk.read("log/a.html"), "um fog\n");
    let names = ["names", "--rule", "replace = { text = 'a', with = 'x' }", "log", "--write", "--report", "log/x.html"];
    desk.run(&names).status(2).warns(&["log/x.html would be a report and the new name of a file"]);
    assert_eq!(desk.read("log/a.html"), "um fog\n");
}
