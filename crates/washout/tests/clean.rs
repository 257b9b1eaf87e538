//! `washout clean`, driven as a user would.

mod support;

use std::fs;
use std::os::unix::fs::{MetadataExt, PermissionsExt, symlink};
use std::process::Stdio;

use support::{NO_STRACE, TestDir, cannot_run};

const RADIO: &str = r#"
title = "Radio watch"
[[rule]]
label = "no time codes"
remove = { stock = "timestamp", at = "whole-line" }
[[rule]]
remove = { words = ["um", "uh"], case = "ignore", gap = "mend" }
[[rule]]
label = "no blanks at line ends"
trim = { at = "end" }
[[rule]]
replace = { text = "colour", with = "color" }
"#;

const WATCH: &str = "00:14\nMarrow Point, um, this is  \nthe relief boat.\n01:02\nCome in, umbrella, at 14:05.\n";
const CLEAN_WATCH: &str = "Marrow Point, this is\nthe relief boat.\nCome in, umbrella, at 14:05.\n";

fn desk() -> TestDir {
    TestDir::with(&[
        ("radio.wash.toml", RADIO),
        ("watch.txt", WATCH),
        ("notes/a.txt", "uh fog\n"),
        ("notes/deep/b.txt", "clear\n"),
    ])
}

#[test]
fn a_filter_gives_the_result_and_nothing_else() {
    let desk = desk();
    for args in [&["clean", "-r", "radio.wash.toml"][..], &["clean", "-r", "radio.wash.toml", "-"]] {
        let ran = desk.run_with(args, WATCH.as_bytes()).status(0).silent_err();
        assert_eq!(ran.out(), CLEAN_WATCH);
    }
    let ran = desk.run_with(&["clean", "--rule", "remove.chars = #-"], b"a#\xFF-b\r\n\rc").status(0).silent_err();
    assert_eq!(ran.out, b"a\xFFb\r\n\rc");
}

#[test]
fn a_filter_passes_on_what_is_certain_at_once() {
    use std::io::{BufRead as _, Write as _};
    let desk = desk();
    let mut command = desk.command();
    command.args(["clean", "--rule", "remove.text = um"]);
    command.stdin(std::process::Stdio::piped()).stdout(std::process::Stdio::piped());
    let mut child = command.spawn().expect("the built program");
    let mut input = child.stdin.take().expect("a pipe");
    let mut output = std::io::BufReader::new(child.stdout.take().expect("a pipe"));
    for line in ["one um\n", "two um\n"] {
        input.write_all(line.as_bytes()).expect("a line in");
        let mut washed = String::new();
        output.read_line(&mut washed).expect("a line out before the input ends");
        assert_eq!(washed, line.replace("um", ""));
    }
    drop(input);
    assert!(child.wait().expect("an end").success());
}

#[test]
fn a_preview_shows_each_change_and_writes_nothing() {
    let desk = desk();
    let before = (desk.files(), fs::metadata(desk.path("watch.txt")).expect("there").mtime_nsec());
    let ran = desk.run(&["clean", "-r", "radio.wash.toml", "watch.txt", "notes/"]).status(0).silent_err();
    let want = r"× goes   ^ comes   · blank   → tab   ↵ line end

notes/a.txt  1 of 1 line changes

     1  before  uh·fog
                ×××  rule 2
        after   fog

watch.txt  3 of 5 lines change

     1  before  00:14↵
                ××××××  rule 1
        after   (nothing left)

     2  before  Marrow Point, um,·this is··
                              ××××       ××  rules 2, 3
        after   Marrow Point, this is

     4  before  01:02↵
                ××××××  rule 1
        after   (nothing left)

 rule   what it does                         changes   files
──────────────────────────────────────────────────────────────────────
    1   no time codes                              2       1
    2   remove words “um”, “uh”                    2       2
    3   no blanks at line ends                     1       1
    4   replace text “colour” with “color”         0       0   ← none

characters  99 → 78    lines  7 → 5
2 files would change, 1 unchanged

Nothing was written. To write:
";
    assert!(ran.out().starts_with(want), "{ran}");
    ran.says(&[
        "clean -r radio.wash.toml watch.txt notes/ --into cleaned",
        "clean -r radio.wash.toml watch.txt notes/ --write",
    ]);
    assert_eq!(before, (desk.files(), fs::metadata(desk.path("watch.txt")).expect("there").mtime_nsec()));
}

#[test]
fn long_previews_say_how_much_more_there_is() {
    let desk = TestDir::new();
    for file in 0..12 {
        desk.write(&format!("{file:02}.txt"), "um x\n".repeat(1000).as_bytes());
    }
    let args = ["clean", "--rule", "remove.words = um", "."];
    let ran = desk.run(&args).status(0).says(&[
        "… and 995 more places in this file; --all",
        "… and 4 more files with changes; --all",
        "12,000",
    ]);
    assert!(ran.out().lines().count() < 300, "{ran}");
    let all = desk.run(&[&args[..], &["--all"]].concat()).status(0);
    assert_eq!(all.out().matches("before  um·x").count(), 12_000);
}

#[test]
fn long_lines_are_shown_around_their_change() {
    let desk = TestDir::new();
    desk.write("long.txt", format!("{} um {} um\n", "fog ".repeat(5000), "sea ".repeat(5000)).as_bytes());
    let ran = desk.run(&["clean", "--rule", "remove.words = um", "long.txt"]).status(0);
    let widest = ran.out().lines().filter(|line| line.contains('…')).map(|line| line.chars().count()).max();
    assert!(widest <= Some(100), "{ran}");
    ran.says(&[
        "…og fog fog fog fog fog  um·sea sea",
        "…og fog fog fog fog fog  sea sea",
        "(and 1 more change to the right)",
    ]);
}

#[test]
fn copies_keep_the_tree_and_write_over_nothing() {
    let desk = desk();
    let args = ["clean", "-r", "radio.wash.toml", "watch.txt", "notes", "--into", "cleaned"];
    desk.run(&args).status(0).silent_err().says(&["2 files changed, 1 unchanged", "The cleaned copies are in cleaned"]);
    assert_eq!(desk.read("cleaned/watch.txt"), CLEAN_WATCH);
    assert_eq!(desk.read("cleaned/notes/a.txt"), "fog\n");
    assert_eq!(desk.read("cleaned/notes/deep/b.txt"), "clear\n", "unchanged files are copied too");
    assert_eq!(desk.read("watch.txt"), WATCH);

    desk.write("cleaned/watch.txt", b"mine\n");
    desk.write("notes/new.txt", b"uh new\n");
    desk.run(&args)
        .status(3)
        .warns(&["washout: watch.txt: cleaned/watch.txt is there already, and stays; --overwrite replaces it"]);
    assert_eq!(desk.read("cleaned/watch.txt"), "mine\n");
    assert_eq!(desk.read("cleaned/notes/new.txt"), "new\n", "the others were done");

    desk.run(&[&args[..], &["--overwrite"]].concat()).status(0);
    assert_eq!(desk.read("cleaned/watch.txt"), CLEAN_WATCH);
    assert!(desk.files().iter().all(|file| !file.contains(".part")), "{:?}", desk.files());
}

#[test]
fn copies_never_go_into_themselves_or_onto_their_source() {
    let desk = desk();
    let rule = ["clean", "--rule", "remove.words = uh"];
    desk.run(&[&rule[..], &[".", "--into", "cleaned"]].concat()).status(0);
    desk.run(&[&rule[..], &[".", "--into", "cleaned", "--overwrite"]].concat()).status(0);
    assert!(!desk.path("cleaned/cleaned").exists(), "{:?}", desk.files());
    desk.run(&[&rule[..], &["notes", "--into", ".", "--overwrite"]].concat())
        .status(3)
        .warns(&["notes/a.txt: the copy would be the file itself; --write"]);
    assert_eq!(desk.read("notes/a.txt"), "uh fog\n");
    let up = format!("../{}/notes/a.txt", desk.path("").file_name().expect("a name").display());
    desk.run(&[&rule[..], &[&up, "notes/deep/../../notes/a.txt", "--into", "out"]].concat())
        .status(2)
        .warns(&["would both be copied to a.txt", "Nothing was opened"]);
    desk.run(&[&rule[..], &[&up, "--into", "out"]].concat()).status(0);
    assert_eq!(desk.read("out/a.txt"), "fog\n", "a copy never climbs out of its folder");
}

#[test]
fn writing_in_place_keeps_what_a_file_is() {
    let desk = desk();
    fs::set_permissions(desk.path("watch.txt"), fs::Permissions::from_mode(0o640)).expect("set");
    let has_attributes = xattr::set(desk.path("watch.txt"), "user.keeper", b"Hale").is_ok();
    let unchanged = || {
        let metadata = fs::metadata(desk.path("notes/deep/b.txt")).expect("there");
        (metadata.ino(), metadata.mtime_nsec(), metadata.ctime_nsec())
    };
    let before = unchanged();
    let args = ["clean", "-r", "radio.wash.toml", "watch.txt", "notes", "--write"];
    desk.run(&args).status(0).silent_err().says(&["2 files changed, 1 unchanged"]);
    assert_eq!(desk.read("watch.txt"), CLEAN_WATCH);
    assert_eq!(desk.read("notes/a.txt"), "fog\n");
    assert_eq!(fs::metadata(desk.path("watch.txt")).expect("there").mode() & 0o7777, 0o640);
    if has_attributes {
        let kept = xattr::get(desk.path("watch.txt"), "user.keeper").expect("readable");
        assert_eq!(kept.as_deref(), Some(&b"Hale"[..]));
    } else {
        println!("not tested: this file system has no extended attributes");
    }
    assert_eq!(unchanged(), before, "an unchanged file is not touched");
    assert_eq!(desk.files(), ["notes/a.txt", "notes/deep/b.txt", "radio.wash.toml", "watch.txt"]);

    let watch = fs::metadata(desk.path("watch.txt")).expect("there").ino();
    desk.run(&args).status(0).says(&["0 files changed, 3 unchanged"]);
    assert_eq!(fs::metadata(desk.path("watch.txt")).expect("there").ino(), watch, "a clean file stays the file it is");
}

#[test]
fn rules_that_undo_each_other_leave_the_file_alone() {
    let desk = desk();
    let before = fs::metadata(desk.path("notes/a.txt")).expect("there").ino();
    let rules =
        ["--rule", "replace = { text = 'fog', with = 'gof' }", "--rule", "replace = { text = 'gof', with = 'fog' }"];
    let rules = [&["clean"], &rules[..], &["notes/a.txt"]].concat();
    desk.run(&rules).status(0).says(&["0 files would change, 1 unchanged"]);
    desk.run(&[&rules[..], &["--write"]].concat()).status(0).says(&["0 files changed, 1 unchanged"]);
    assert_eq!(fs::metadata(desk.path("notes/a.txt")).expect("there").ino(), before);
}

#[test]
fn a_byte_order_mark_goes_only_if_told_to() {
    let desk = TestDir::new();
    desk.write("a.txt", "\u{FEFF}fog\n".as_bytes());
    desk.run(&["clean", "--rule", "remove.class = invisible", "a.txt", "--write"]).status(0).says(&["1 unchanged"]);
    let rule = ["clean", "--rule", "line_ends = { bom = 'drop' }", "a.txt"];
    desk.run(&rule).status(0).says(&["the byte order mark goes  rule 1", "1 file would change"]);
    desk.run(&[&rule[..], &["--write"]].concat()).status(0).says(&["1 file changed"]);
    assert_eq!(desk.read("a.txt"), "fog\n");
}

#[test]
fn a_large_file_is_the_same_whichever_way_it_is_written() {
    let desk = TestDir::new();
    // The first change comes late, so that much of the file is passed before anything is written.
    let text = "clear sky\r\n".repeat(150_000) + &"um fog\n".repeat(50_000) + "um";
    desk.write("log.txt", text.as_bytes());
    let rule = ["clean", "--rule", "remove.words = um"];
    let filtered = desk.run_with(&rule, text.as_bytes()).status(0).out();
    assert_eq!(filtered, text.replace("um fog", "fog").replace("um", ""));
    let printed = desk.run(&[&rule[..], &["log.txt", "--stdout"]].concat()).status(0);
    assert!(printed.out() == filtered, "--stdout differs");
    desk.run(&[&rule[..], &["log.txt", "--into", "out"]].concat()).status(0);
    assert!(desk.read("out/log.txt") == filtered, "--into differs");
    desk.run(&[&rule[..], &["log.txt", "--write"]].concat()).status(0);
    assert!(desk.read("log.txt") == filtered, "--write differs");
}

#[test]
fn files_that_must_not_be_replaced_are_named_and_left_alone() {
    let desk = desk();
    for name in ["linked.txt", "twin.txt", "locked.txt"] {
        desk.write(name, b"um\n");
    }
    symlink("linked.txt", desk.path("link.txt")).expect("a link");
    fs::hard_link(desk.path("twin.txt"), desk.path("other.txt")).expect("a hard link");
    fs::set_permissions(desk.path("locked.txt"), fs::Permissions::from_mode(0o444)).expect("set");
    let rule = ["clean", "--rule", "remove.words = um", "--write"];
    let named = ["watch.txt", "link.txt", "twin.txt", "locked.txt"];
    desk.run(&[&rule[..], &named[..]].concat()).status(3).says(&["1 file changed, 3 failed (named above)"]).warns(&[
        "washout: link.txt: it is a link; name the file it leads to, or follow it with --follow; left as it was",
        "washout: twin.txt: it has 2 names (hard links)",
        "washout: locked.txt: it is read-only",
    ]);
    assert!(desk.path("link.txt").is_symlink());
    for name in ["linked.txt", "twin.txt", "other.txt", "locked.txt"] {
        assert_eq!(desk.read(name), "um\n", "{name}");
    }
}

#[test]
fn nothing_is_opened_before_rules_and_paths_are_good() {
    let desk = desk();
    desk.run(&["clean", "--rule", "remove.clas = \"x\"", "watch.txt", "--write"])
        .status(2)
        .warns(&["did you mean `class`?", "1 problem in the rules; nothing was opened"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "watch.txt", "gone.txt", "--write"])
        .status(2)
        .warns(&["gone.txt: no such file or directory", "Nothing was opened"]);
    desk.run(&["clean", "watch.txt"]).status(2).warns(&["no rules given", "-r FILE"]);
    desk.write("off.toml", b"[[rule]]\noff = true\ntrim = {}\n");
    desk.run(&["clean", "-r", "off.toml", "watch.txt"]).status(2).warns(&["there is no rule that is on"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "notes", "--only", "*.md"]).status(2).warns(&["there is no file"]);
    desk.run(&["clean", "-r", "gone.toml"]).status(2).warns(&["the rule set gone.toml cannot be read: no such file"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "--write"]).status(2).warns(&["--write needs the files"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "-", "watch.txt"]).status(2).warns(&["`-` is standard input"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "--stdout", "notes"]).status(2).warns(&["notes is a folder"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "--only", "[", "notes"]).status(2).warns(&["the glob `[`"]);
    desk.run(&["clean", "-r", "radio.wash.toml", "--write", "--into", "x", "notes"]).status(2);
    assert_eq!(desk.read("watch.txt"), WATCH);
}

#[test]
fn a_wrong_rule_set_is_drawn_with_its_lines() {
    let desk =
        TestDir::with(&[("bad.wash.toml", "[[rule]]\nremove = { class = [\"contrl\"], gaps = 1 }\n"), ("x.txt", "x")]);
    desk.write("no-utf8.toml", b"[[rule]]\nlabel = \"\xFF\"\n");
    let ran = desk.run(&["clean", "-r", "bad.wash.toml", "x.txt"]).status(2).warns(&[
        "no class `contrl`; did you mean `control`?",
        "bad.wash.toml:2:21",
        "2 │ remove = { class = [\"contrl\"], gaps = 1 }",
        "names no characters",
        "help: for the single characters c, o, n, … use `chars`",
        "`remove` has no key `gaps`; did you mean `gap`?",
        "2 problems in the rules; nothing was opened",
    ]);
    assert_eq!(ran.out(), "");
    desk.run(&["clean", "-r", "no-utf8.toml", "x.txt"]).status(2).warns(&["line 2 is not UTF-8"]);
    // A text that is no rule set has a mistake on every line.
    desk.write("prose.txt", "Fog, no wind.\n".repeat(500).as_bytes());
    let ran = desk.run(&["clean", "-r", "prose.txt", "x.txt"]).status(2);
    assert_eq!(ran.err.matches("error: ").count(), 20, "{}", ran.err);
    ran.warns(&["500 problems in the rules (the first 20 are shown); nothing was opened"]);
}

#[test]
fn sets_and_single_rules_run_in_the_order_given() {
    let desk = TestDir::with(&[("b.wash.toml", "[[rule]]\nreplace = { text = 'b', with = 'c' }\n"), ("x.txt", "a\n")]);
    let first = ["--rule", "replace = { text = 'a', with = 'b' }"];
    let last = ["--rule", "replace = { text = 'c', with = 'd' }"];
    let set = ["-r", "b.wash.toml"];
    let ran = desk.run(&[&["clean"], &first[..], &set, &last, &["x.txt", "--stdout"]].concat()).status(0);
    assert_eq!(ran.out(), "d\n");
    let ran = desk.run(&[&["clean"], &last[..], &set, &first, &["x.txt", "--stdout"]].concat()).status(0);
    assert_eq!(ran.out(), "b\n");
    desk.run(&[&["clean"], &set[..], &first, &["x.txt"]].concat())
        .says(&["b:1   replace text “b”", "--rule:1   replace text “a”"]);
    desk.run(&[&["clean"], &first[..], &set, &last, &["x.txt"]].concat()).says(&[
        "--rule:1   replace text “a”",
        "b:1   replace text “b”",
        "--rule:2   replace text “c”",
    ]);
    desk.run(&[&["clean"], &first[..], &["--rule", "remov.text = x", "--rule", "trim.at = ends"], &["x.txt"]].concat())
        .status(2)
        .warns(&["--rule, number 2:1:1", "--rule, number 3:1:11", "2 problems in the rules"]);
}

#[test]
fn folders_are_walked_as_their_owner_would_expect() {
    let desk = TestDir::with(&[
        ("f/.gitignore", "*.bak\n"),
        ("f/a.txt", "um\n"),
        ("f/b.bak", "um\n"),
        ("f/.hidden", "um\n"),
        ("f/sub/c.log", "um\n"),
    ]);
    desk.write("f/picture", b"um\0\x01\x02\x03\0\xFF");
    symlink("a.txt", desk.path("f/link")).expect("a link");
    let rule = ["clean", "--rule", "remove.words = um", "f"];
    let files = |more: &[&str]| {
        let ran = desk.run(&[&rule[..], more].concat()).status(0);
        let named =
            |line: &str| line.contains(" of 1 line changes").then(|| line.split("  ").next().map(str::to_owned));
        (ran.out().lines().filter_map(named).flatten().collect::<Vec<_>>(), ran)
    };
    let (plain, ran) = files(&[]);
    assert_eq!(plain, ["f/a.txt", "f/sub/c.log"]);
    ran.says(&[
        "2 files would change, 1 left out (binary; --with-binary includes them), 1 left out (link, not followed)",
    ]);
    assert_eq!(files(&["--with-hidden", "--with-ignored"]).0, ["f/.hidden", "f/a.txt", "f/b.bak", "f/sub/c.log"]);
    assert_eq!(files(&["--only", "*.log", "--only", "*.md"]).0, ["f/sub/c.log"]);
    assert_eq!(files(&["--except", "sub/**", "--jobs", "1"]).0, ["f/a.txt"]);
}

#[test]
fn results_come_in_the_order_of_paths_whatever_the_number_of_threads() {
    let desk = TestDir::new();
    for file in 0..200 {
        desk.write(&format!("d/{file:03}.txt"), "um\n".repeat(1 + (file * 37) % 500).as_bytes());
    }
    ["d/050/z.txt", "d/050-a.txt"].iter().for_each(|file| desk.write(file, b"um\n"));
    let run = |jobs| desk.run(&["clean", "--rule", "remove.words = um", "--all", "--jobs", jobs, "d"]).status(0).out();
    let one = run("1");
    let mut files: Vec<String> = (0..200).map(|file| format!("d/{file:03}.txt")).collect();
    files.splice(50..50, ["d/050/z.txt", "d/050-a.txt"].map(str::to_owned));
    let positions: Vec<_> = files.iter().map(|file| one.find(file)).collect();
    assert!(positions.is_sorted() && positions.iter().all(Option::is_some));
    assert!(one.replace("--jobs 1", "") == run("4").replace("--jobs 4", ""), "threads change what is said");
}

#[test]
fn text_from_files_and_their_names_cannot_drive_the_terminal() {
    let desk = TestDir::new();
    desk.write("x\x1b[31m\nname.txt", "um \x1b]0;title\x07\u{202E} \u{9b}2J\n".as_bytes());
    desk.write(
        "bad.toml",
        "# \u{202E}\n[[rule]]\nlabel = \"\u{202E}\\u001b[31m\"\nremove.clas = \"\\u001b\"\n".as_bytes(),
    );
    for color in ["never", "always"] {
        let ran = desk.run(&["clean", "--color", color, "--rule", "remove.words = um", "."]).status(0);
        let shown = ran.out();
        assert!(!shown.contains(['\u{7}', '\u{202E}', '\u{9b}']), "{ran}");
        assert!(!shown.contains("\x1b]") && !shown.contains("\x1b[31m"), "{ran}");
        assert_eq!(shown.contains('\x1b'), color == "always", "{ran}");
        ran.says(&["x␛[31m␊name.txt", "␛]0;title␇⟨U+202E⟩"]);
    }
    let ran = desk.run(&["clean", "-r", "bad.toml", "."]).status(2);
    assert!(!ran.err.contains(['\u{202E}', '\u{1b}']), "{ran}");
    // A name that a shell puts in place of `*` may look like an option.
    let ran = desk.run(&["clean", "--rule", "remove.words = um", "--\u{202E}\x1b]0;title\x07"]).status(2);
    assert!(!ran.err.contains(['\u{202E}', '\u{1b}', '\u{7}']), "{ran}");
    ran.warns(&["unexpected argument '--⟨U+202E⟩␛]0;title␇'"]);
    // JSON is shown on terminals too.
    let ran = desk.run(&["clean", "--rule", "remove.words = um", ".", "--report", "all.jsonl", "--json"]).status(0);
    let report = desk.read("all.jsonl");
    assert!(!(ran.out() + &report).contains(['\u{202E}', '\u{9b}', '\u{1b}']), "{ran}\n{report}");
    assert!(ran.out().contains("x\\u001b[31m\\nname.txt"), "{ran}");
}

#[test]
fn an_interrupt_ends_the_run_between_files() {
    let desk = TestDir::new();
    let text = "um fog over the landing, um, and no boat\n".repeat(8_000);
    for file in 0..150 {
        desk.write(&format!("d/{file:03}.txt"), text.as_bytes());
    }
    let mut command = desk.command();
    command.args(["clean", "--rule", "remove.words = um", "--write", "--jobs", "1", "d"]);
    let child = command.stdout(std::process::Stdio::piped()).spawn().expect("the built program");
    let started = || desk.files().iter().any(|file| file.contains(".part"));
    while !started() {
        std::thread::yield_now();
    }
    let interrupt = std::process::Command::new("kill").args(["-INT", &child.id().to_string()]).status();
    assert!(interrupt.expect("kill").success());
    let output = child.wait_with_output().expect("an end");
    let said = String::from_utf8_lossy(&output.stdout);
    assert_eq!(output.status.code(), Some(130), "{said}");
    assert!(said.contains("not started; what was finished stays"), "{said}");
    assert!(!started(), "a temporary file is left");
    let clean = desk.run_with(&["clean", "--rule", "remove.words = um"], text.as_bytes()).out();
    let whole = |file: &String| [&text, &clean].contains(&&desk.read(file));
    assert!(desk.files().iter().all(whole), "a file is neither the old one nor the new one");
}

#[test]
fn a_reader_that_has_enough_is_no_error() {
    let desk = TestDir::new();
    desk.write("big.txt", "um fog\n".repeat(200_000).as_bytes());
    for more in ["--all big.txt", "--stdout big.txt", "< big.txt"] {
        let line = format!(
            "{} clean --rule 'remove.words = um' {more} | head -1; echo ${{PIPESTATUS[0]}}",
            env!("CARGO_BIN_EXE_washout")
        );
        let output =
            std::process::Command::new("bash").arg("-c").arg(&line).current_dir(desk.path("")).output().expect("bash");
        assert_eq!(String::from_utf8_lossy(&output.stderr), "", "{more}");
        assert!(String::from_utf8_lossy(&output.stdout).ends_with("\n0\n"), "{more}: {output:?}");
    }
}

#[test]
fn a_rule_set_reads_its_lists_and_sets_from_beside_it_and_nowhere_else() {
    let desk = TestDir::with(&[
        (
            "sets/main.wash.toml",
            "[[rule]]\ninclude = 'house/quotes.wash.toml'\nonly_lines = { chars = '“' }\n[[rule]]\nremove.words_from = 'words.txt'\n",
        ),
        ("sets/house/quotes.wash.toml", "[[rule]]\nlabel = 'plain quotes'\nreplace.pairs_from = 'pairs.csv'\n"),
        ("sets/house/pairs.csv", "“,\"\"\"\"\n”,\"\"\"\"\n"),
        ("sets/words.txt", "\u{FEFF}um\r\n\r\nyou know\r\n"),
        ("secret.txt", "word\n"),
        ("watch.txt", "um “Fog” you know\n”Clear”\n"),
    ]);
    let ran = desk.run(&["clean", "-r", "sets/main.wash.toml", "watch.txt"]).status(0);
    ran.says(&["1.1", "plain quotes", "the words of words.txt"]);
    desk.run(&["clean", "-r", "sets/main.wash.toml", "watch.txt", "--write"]).status(0);
    assert_eq!(desk.read("watch.txt"), "\"Fog\"\n”Clear”\n");
    std::os::unix::fs::symlink(desk.path("secret.txt"), desk.path("sets/link.txt")).expect("a link");
    desk.write("sets/main.wash.toml", b"[[rule]]\nremove.words_from = 'link.txt'\n");
    let ran = desk.run(&["clean", "-r", "sets/main.wash.toml", "watch.txt"]).status(2);
    ran.warns(&["a link leads out of the folder of this rule set"]);
    desk.run(&["clean", "--rule", "remove.words_from = \"secret.txt\"", "watch.txt"]).status(0);
    desk.write("sets/main.wash.toml", b"[[rule]]\ninclude = './main.wash.toml'\n");
    let ran = desk.run(&["clean", "-r", "sets/main.wash.toml", "watch.txt"]).status(2);
    ran.warns(&["rule sets include each other in a circle", "sets/main.wash.toml → sets/main.wash.toml"]);
}

#[test]
fn a_pattern_that_takes_too_much_work_ends_its_file_and_no_other() {
    let line = format!("fog\n{}c\n", "a".repeat(80));
    let desk = TestDir::with(&[("bad.txt", line.as_str()), ("good.txt", "x\n")]);
    let rule = r"remove.pattern = '^(a|aa)+\1(?!c)c'";
    let ran =
        desk.run(&["clean", "--rule", rule, "--rule", "remove.text = 'x'", "--write", "bad.txt", "good.txt"]).status(3);
    ran.warns(&["bad.txt: rule 1 (remove pattern", "takes too much work at line 2"]);
    assert_eq!((desk.read("bad.txt"), desk.read("good.txt")), (line.clone(), "\n".to_owned()));
    desk.run_with(&["clean", "--rule", rule], line.as_bytes()).status(3).warns(&["at line 2"]);
    // What a stream has given cannot be called back; held back until it is whole, nothing is given.
    let long = "clear\n".repeat(400_000) + &line;
    let out =
        |more: &[&str]| desk.run_with(&[&["clean", "--rule", rule], more].concat(), long.as_bytes()).status(3).out;
    assert_eq!((out(&[]).is_empty(), out(&["--spool"]).is_empty()), (false, true));
    let ran = desk.run_with(&["clean", "--rule", "remove.text = 'x'", "--spool"], b"xa\n").status(0);
    assert_eq!(ran.out(), "a\n");
}

#[test]
fn what_rules_expect_is_judged_before_anything_is_written() {
    let desk = TestDir::with(&[
        ("a.txt", "fog\n12:30 horn\n"),
        ("b.txt", "clear\n\n14:05 boat\n15:10 boat\n"),
        ("c.txt", "calm\n"),
        ("three.wash.toml", "[[rule]]\nlabel = 'times'\nremove.stock = 'timestamp'\nexpect = 3\n"),
        ("two.wash.toml", "[[rule]]\nlabel = 'times'\nremove.stock = 'timestamp'\nexpect = '..2'\n"),
        ("each.wash.toml", "[[rule]]\nlabel = 'times'\nremove.stock = 'timestamp'\nexpect_each = '1..'\n"),
    ]);
    for aim in [&["--write"][..], &["--into", "out"], &[]] {
        let ran = desk.run(&[&["clean", "-r", "two.wash.toml", "a.txt", "b.txt"], aim].concat()).status(4);
        ran.warns(&[
            "rule 1 (times) expects at most 2 changes, and makes 3",
            "a.txt:2\n  b.txt:3\n  b.txt:4\n",
            "Nothing was written.",
        ]);
    }
    let ran = desk.run(&["clean", "-r", "each.wash.toml", "--write", "a.txt", "c.txt"]).status(4);
    ran.warns(&["expects 1 change or more in each file, and makes none in c.txt"]);
    assert_eq!(desk.read("a.txt"), "fog\n12:30 horn\n");
    assert!(!desk.path("out").exists(), "nothing is written, not even a folder");
    let ran = desk.run_with(&["clean", "-r", "three.wash.toml"], b"14:05 fog\n").status(4);
    assert_eq!((ran.out(), ran.err.contains("expects 3 changes, and makes 1\n  -:1")), (String::new(), true), "{ran}");
    desk.run(&["clean", "-r", "three.wash.toml", "--write", "a.txt", "b.txt"]).status(0);
    assert_eq!(desk.read("b.txt"), "clear\n\nboat\nboat\n");
    let ran = desk.run_with(&["clean", "-r", "three.wash.toml"], b"1:05 a\n1:06 b\n1:07 c\n").status(0);
    assert_eq!(ran.out(), "a\nb\nc\n");
}

#[test]
fn counts_are_those_of_the_result_and_stay_whole_on_a_narrow_screen() {
    let desk = TestDir::with(&[("a.txt", "um\nfog\n\n")]);
    let none = ["clean", "--rule", "line_ends = { final = 'none' }", "a.txt"];
    desk.run(&none).status(0).says(&["characters  8 → 6    lines  3 → 2"]);
    desk.write("many.txt", "um, fog and horn\n".repeat(12_345).as_bytes());
    for args in [
        &["clean", "--rule", "remove.words = ['um', 'fog and horn']", "many.txt"][..],
        &["survey", "--all-chars", "many.txt"],
    ] {
        let out = desk.command().args(args).env("COLUMNS", "40").output().expect("the built program").stdout;
        let said = String::from_utf8_lossy(&out);
        assert!(said.contains("12,345"), "{said}");
        let table: Vec<&str> = said.lines().skip_while(|line| !line.contains("──")).take(4).collect();
        assert!(table.len() == 4 && table.iter().all(|line| line.chars().count() <= 40), "{said}");
    }
    // Changes that are not kept to be shown are not counted out.
    desk.write("line.txt", "um fog ".repeat(100_000).as_bytes());
    let ran = desk.run(&["clean", "--rule", "remove.words = um", "line.txt"]).status(0);
    ran.says(&["(and at least ", "more changes to the right)", "100,000"]);
}

#[test]
fn other_words_and_values_that_mean_nothing_are_answered_with_ours() {
    let desk = TestDir::with(&[("a.txt", "um\nfog\n"), ("n.jsonl", "{\"age\": 5, \"who\": \"um\"}\n")]);
    let rule = ["clean", "--rule", "remove.text = um"];
    for (args, ours) in [
        (&["strip", "a.txt"][..], "no command `strip` here: `washout clean "),
        (&["rename", "a.txt"], "`washout names -r RULES"),
        (
            &[rule[0], rule[1], rule[2], "--dry-run", "a.txt"],
            "no option `--dry-run` here: without --write or --into nothing",
        ),
        (&[rule[0], rule[1], rule[2], "-i", "a.txt"], "--write changes the files in place"),
        (&[rule[0], rule[1], rule[2], "--output=x", "a.txt"], "--into DIR"),
        (&[rule[0], rule[1], rule[2], "--max-memory", "lots", "a.txt"], "such as 200MiB"),
        (&["undo", "nope"], "`washout history` lists"),
        (&["spellout", "a.txt:5..1"], "a.txt:5..1 ends before it begins: write a.txt:1..5"),
        (&[rule[0], rule[1], "remove.chars = “#”", "a.txt"], "typographic quotation marks are no quotes here"),
    ] {
        desk.run(args).status(2).warns(&[ours]);
    }
    let field = ["clean", "--rule", "{ fields = ['age', 'who'], remove.text = 'um' }", "n.jsonl"];
    let ran = desk.run(&field).status(0).says(&["1 cell in 1 record changes"]);
    ran.warns(&["n.jsonl: `age` holds no text; numbers, true, null and objects are left alone"]);
    let mut run = desk.command();
    run.args(rule).args(["--write", "a.txt"]).env("WASHOUT_STATE", "/proc/none");
    let said = run.output().expect("the built program").stderr;
    assert!(String::from_utf8_lossy(&said).contains("or use --no-history"), "{}", String::from_utf8_lossy(&said));
}

#[test]
fn sections_are_expected_and_those_without_an_end_are_left_or_refused() {
    let block = "BEGIN\nQk FB\nEND\nfog at dawn\n";
    let desk = TestDir::with(&[
        ("a.txt", &*block.repeat(2)),
        ("b.txt", block),
        ("open.txt", &*format!("{block}BEGIN\nQk FB\nfog\n")),
    ]);
    let rule =
        |more: &str| format!("{{ remove.class = 'blank', from_line.text = 'BEGIN', to_line.text = 'END', {more} }}");
    let three = rule("expect_sections = 3");
    desk.run(&["clean", "--rule", &three, "a.txt", "b.txt"]).status(0).says(&["2 files"]);
    let ran = desk.run(&["clean", "--rule", &three, "--write", "a.txt", "open.txt", "b.txt"]).status(4);
    ran.warns(&["expects 3 sections, and finds 4\n  a.txt:2\n"]);
    assert_eq!(desk.read("b.txt"), block);

    desk.write("last.txt", format!("{block}BEGIN\nEND").as_bytes());
    desk.run(&["clean", "--rule", &rule("expect_sections = 2"), "last.txt"]).status(0);

    let refuse = rule("unclosed = 'refuse'");
    let ran = desk.run(&["clean", "--rule", &refuse, "--write", "open.txt", "b.txt"]).status(3);
    ran.warns(&["open.txt: rule 1 ", "the one that opens at line 5 does not close", "left as it was"]);
    assert_eq!(desk.read("b.txt"), "BEGIN\nQkFB\nEND\nfog at dawn\n");

    // A section of many blocks is held until it is known whether it closes.
    let long = format!("{block}BEGIN\n{}", "fog at dawn, horn\n".repeat(200_000));
    let clean = rule("unclosed = 'leave'");
    let ran = desk.run_with(&["clean", "--rule", &clean], long.as_bytes()).status(0);
    assert_eq!(ran.out().len(), long.len() - 1, "only the block that closes");
    let closed = format!("{long}END\nfog at dusk\n");
    let ran = desk.run_with(&["clean", "--rule", &clean], closed.as_bytes()).status(0);
    assert!(ran.out().ends_with("fogatdawn,horn\nEND\nfog at dusk\n"));
    assert_eq!(ran.out().len(), closed.len() - 1 - 3 * 200_000);
}

/// Long enough for several threads and turns: lines of all kinds, some without anything to clean.
fn long_watch() -> (Vec<u8>, Vec<u8>) {
    let lines: [(&[u8], &[u8]); 7] = [
        (b"00:14\r\n", b""),
        (b"the lamp was lit at dusk, wind south-west\n", b"the lamp was lit at dusk, wind south-west\n"),
        (b"um, fog \xFF  \r\n", b"fog \xFF\r\n"),
        (b"\tcolour of the glass\rumbrella  \n", b"\tcolor of the glass\rumbrella\n"),
        (b"  \n", b"\n"),
        (b"uh\n", b"\n"),
        ("гудок в туман, um, дальше\u{2028}\n".as_bytes(), "гудок в туман, дальше\u{2028}\n".as_bytes()),
    ];
    let (mut given, mut wanted) = (Vec::new(), Vec::new());
    let mut seed = 7_usize;
    while given.len() < 6 << 20 {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        let (line, clean) = if (seed >> 40).is_multiple_of(32) { lines[(seed >> 33) % 7] } else { lines[1] };
        given.extend_from_slice(line);
        wanted.extend_from_slice(clean);
    }
    given.extend_from_slice(b"the last line, um");
    wanted.extend_from_slice(b"the last line,");
    (given, wanted)
}

#[test]
fn a_long_text_comes_out_the_same_on_any_number_of_threads() {
    let desk = desk();
    let (given, wanted) = long_watch();
    for jobs in ["1", "2", "3", "4"] {
        let ran = desk.run_with(&["clean", "-r", "radio.wash.toml", "--jobs", jobs], &given).status(0);
        assert!(ran.out == wanted, "as a stream on {jobs} threads");
        desk.write("long.txt", &given);
        desk.run(&["clean", "-r", "radio.wash.toml", "--jobs", jobs, "--write", "long.txt"]).status(0);
        assert!(fs::read(desk.path("long.txt")).unwrap() == wanted, "as a file on {jobs} threads");
    }
}

#[test]
fn rules_that_hold_more_than_they_may_say_so_and_others_hold_little_of_one_long_line() {
    let desk = TestDir::new();
    let line = "lamp um relief, um fog# ".repeat(1 << 20);
    desk.write("line.txt", line.as_bytes());
    let near = ["remove.chars = '#'", "replace = { text = 'relief', with = 'boat' }", "remove.words = ['um']"];
    for rule in near {
        let args = ["clean", "--rule", rule, "--max-memory", "2MiB", "--stdout", "line.txt"];
        let ran = desk.run(&args).status(0);
        assert!(ran.out.len() < line.len() && ran.out.len() > line.len() / 2, "{rule}");
    }
    let check = ["check", "--rule", "drop_lines.text = 'gull'", "--max-memory", "2MiB", "line.txt"];
    desk.run(&check).status(3).warns(&["line.txt: rules hold", "and may hold 2048 KiB"]);
    let spelled = desk.run(&["spellout", "line.txt:1"]).status(0);
    let spelled = spelled.warns(&["only the first 256 KiB of line.txt:1 are looked at"]);
    spelled.says(&["… and 261,144 more characters; --all shows them"]);
    for (rule, why) in [
        ("drop_lines.text = 'gull'", "since it has to see a line whole"),
        ("remove = { pattern = 'fog\\nlamp', across_lines = true }", "since it has to see the whole text at once"),
    ] {
        let ran = desk.run(&["clean", "--rule", rule, "--max-memory", "2MiB", "--write", "line.txt"]).status(3);
        ran.warns(&["line.txt: rules hold ", "of this text in memory, and may hold 2048 KiB: rule 1", why]);
    }
    assert_eq!(desk.read("line.txt"), line, "a file whose rules fail stays as it is");
    let lines: Vec<String> = (0..100_000).map(|line| format!("watch {line}\n")).collect();
    let lines = lines.concat();
    let rule = ["clean", "--rule", "drop_repeats.scope = 'file'", "--max-memory"];
    desk.run_with(&[&rule[..], &["1MiB"]].concat(), lines.as_bytes()).status(3).warns(&["it remembers every line"]);
    desk.run_with(&[&rule[..], &["16MiB"]].concat(), lines.as_bytes()).status(0);
}

#[test]
fn a_file_of_which_nothing_stays_or_whose_end_goes_is_written_so() {
    let desk = TestDir::with(&[("all", "##")]);
    let stays = "fog\n".repeat(300_000);
    // Longer than any part that is worked on at once.
    let goes = "# note\n".repeat(700_000);
    desk.write("end", format!("{stays}{goes}").as_bytes());
    let args = ["clean", "--rule", "drop_lines = { chars = '#' }", "all", "end", "--write"];
    desk.run(&args).status(0).says(&["2 files changed"]);
    assert_eq!(desk.read("all"), "");
    assert!(desk.read("end") == stays, "{} bytes are left, not {}", desk.read("end").len(), stays.len());
    desk.run(&["undo"]).status(0).says(&["2 files restored"]);
    assert_eq!((desk.read("all").as_str(), desk.read("end").len()), ("##", stays.len() + goes.len()));
}

#[test]
fn a_named_file_is_worked_on_whatever_is_in_it_and_folders_leave_out_what_looks_binary() {
    let desk = TestDir::with(&[]);
    let picture = [b"\x89PNG\r\n\x1A\n\0\0\0\rIHDR\0\0", &[0, 7, 2, 9].repeat(50)[..]].concat();
    desk.write("log/watch.txt", b"Lamp lit\0 at dusk,\x07 fog from the east\n");
    desk.write("log/scan.png", &picture);
    let rule = ["--rule", "remove.class = 'control'"];
    let clean = |args: &[&str]| desk.run(&[&["clean"], &rule[..], args].concat());
    clean(&["log"]).status(0).silent_err().says(&["1 file would change", "1 left out (binary; --with-binary"]);
    clean(&["log", "--with-binary"]).status(0).says(&["2 files would change"]).warns(&["log/scan.png looks binary"]);
    clean(&["log/scan.png"]).status(0).says(&["1 file would change"]).warns(&["rules may break what is not text"]);
    for command in ["check", "survey"] {
        let rules = if command == "check" { &rule[..] } else { &[] };
        let ran = desk.run(&[&[command, "log/watch.txt"], rules].concat());
        assert!(ran.out().contains(if command == "check" { "watch.txt:1:9" } else { "U+0000" }), "{ran}");
    }
    assert!(clean(&["log/watch.txt", "--patch"]).status(0).out().contains("+Lamp lit at dusk, fog"));
    // Named in a list, and found in a folder as well.
    clean(&["log", "log/scan.png"]).status(0).says(&["2 files would change"]);
    desk.write("list", b"log/scan.png\nlog/watch.txt\n");
    clean(&["--files-from", "list", "--write"]).status(0).says(&["2 files changed"]);
    assert_eq!(desk.read("log/watch.txt"), "Lamp lit at dusk, fog from the east\n");
}

#[test]
fn a_file_that_is_not_there_is_said_in_plain_words() {
    let ran = TestDir::new().run(&["clean", "--rule", "trim = {}", "--stdout", "gone.txt"]);
    assert_eq!((ran.status, ran.err.as_str()), (3, "washout: gone.txt: no such file or directory\n"));
}

#[test]
fn short_texts_start_no_threads() {
    let desk = TestDir::with(&[("watch.txt", "fog   \n"), ("gale.txt", "gale\n")]);
    desk.write("long.txt", &b"fog   \n".repeat(100_000));
    desk.write("page.txt", &b"fog   \n".repeat(20_000));
    let rule = ["--rule", "trim = {}"];
    let input = |file| Stdio::from(fs::File::open(desk.path(file)).expect("a file of this desk"));
    for (command, from, starts) in [
        (&["clean", "--stdout", "watch.txt"][..], None, false),
        (&["clean", "page.txt"], None, false),
        (&["clean", "watch.txt", "gale.txt"], None, false),
        (&["clean"], Some("watch.txt"), false),
        (&["clean"], Some("page.txt"), false),
        (&["clean", "--spool"], Some("page.txt"), false),
        (&["check", "gale.txt"], None, false),
        (&["clean", "--stdout", "long.txt"], None, true),
        (&["clean", "long.txt", "gale.txt"], None, true),
        (&["clean"], Some("long.txt"), true),
        (&["clean", "--spool"], Some("long.txt"), true),
    ] {
        let args = [command, &rule, &["--jobs", "2"]].concat();
        let Some(calls) = desk.calls_with(&args, from.map_or_else(Stdio::null, input), &["clone", "clone3"]) else {
            return cannot_run(NO_STRACE);
        };
        assert_eq!(!calls.is_empty(), starts, "{args:?}, {from:?}");
    }
}
