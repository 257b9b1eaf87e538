//! Paths that are not UTF-8, or hold what a terminal or a list would take for something else.

mod support;

use std::collections::BTreeMap;
use std::ffi::{OsStr, OsString};
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::PathBuf;

use serde_json::Value;
use support::TestDir;

/// Names that are hard to write down, each of which a folder can hold.
const NAMES: &[&[u8]] = &[
    b"plain.txt",
    b"caf\xE9.txt",
    b"two\nlines.txt",
    b"tab\there.txt",
    b"-r.txt",
    b" leading blank.txt",
    b"esc\x1B[31m.txt",
    b"quote\"'$HOME`.txt",
    b"\xFF\xFE.txt",
    "灯台.txt".as_bytes(),
];

fn desk() -> TestDir {
    let desk = TestDir::new();
    desk.write("remove.wash.toml", b"[[rule]]\nremove.chars = '#'\n");
    for name in NAMES {
        std::fs::create_dir_all(desk.path("in")).expect("a folder");
        std::fs::write(path_of(&desk, name), b"#fog\n").expect("a written file");
    }
    desk
}

fn path_of(desk: &TestDir, name: &[u8]) -> PathBuf {
    desk.path("in").join(OsStr::from_bytes(name))
}

fn contents(desk: &TestDir) -> BTreeMap<OsString, Vec<u8>> {
    let entries = std::fs::read_dir(desk.path("in")).expect("the folder").map(|entry| entry.expect("an entry"));
    entries.map(|entry| (entry.file_name(), std::fs::read(entry.path()).expect("a file"))).collect()
}

fn all_hold(desk: &TestDir, want: &[u8]) {
    let now = contents(desk);
    assert_eq!(now.len(), NAMES.len(), "{now:?}");
    now.iter().for_each(|(name, bytes)| assert_eq!(bytes, want, "{}", name.display()));
}

/// Nothing that a program prints may hold a control character that drives the terminal, whatever files are called.
#[track_caller]
fn tame(text: &str) {
    let wild = text.chars().find(|c| c.is_control() && !matches!(c, '\n' | '\t'));
    assert!(wild.is_none(), "{wild:?} in {text:?}");
}

#[test]
fn files_of_any_name_are_cleaned_listed_and_restored() {
    let desk = desk();
    let seen = desk.run(&["clean", "-r", "remove.wash.toml", "in"]).status(0);
    tame(&seen.out());
    all_hold(&desk, b"#fog\n");
    desk.run(&["clean", "-r", "remove.wash.toml", "in", "--write"]).status(0).silent_err();
    all_hold(&desk, b"fog\n");
    tame(&desk.run(&["history", "1"]).status(0).out());
    let undone = desk.run(&["undo"]).status(0).says(&[&format!("{} files", NAMES.len())]);
    tame(&undone.out());
    all_hold(&desk, b"#fog\n");
    let checked = desk.run(&["check", "-r", "remove.wash.toml", "in"]).status(1);
    tame(&checked.out());
    assert_eq!(checked.out().lines().count(), NAMES.len(), "a line for each place: {checked}");
}

#[test]
fn lists_of_paths_end_at_line_ends_or_at_nul_bytes() {
    let desk = desk();
    let list = |end: &[u8]| -> Vec<u8> { NAMES.iter().flat_map(|name| [b"in/", *name, end].concat()).collect() };
    let args = ["clean", "-r", "remove.wash.toml", "--files-from", "-", "--write"];
    // A list of lines cannot name a file with a line end in its name.
    let ran = desk.run_with(&args, &list(b"\n"));
    assert_eq!(ran.status, 2, "{ran}");
    tame(&ran.err);
    all_hold(&desk, b"#fog\n");
    let with_nul: Vec<&str> = args.into_iter().chain(["-0"]).collect();
    let ran = desk.run_with(&with_nul, &list(b"\0"));
    assert_eq!((ran.status, ran.err.as_str()), (0, ""), "{ran}");
    all_hold(&desk, b"fog\n");
}

#[test]
fn json_names_every_file_so_that_a_program_can_find_it() {
    let desk = desk();
    let ran = desk.run(&["clean", "-r", "remove.wash.toml", "in", "--json"]).status(0);
    let value: Value = serde_json::from_slice(&ran.out).expect("one JSON value");
    let files = value["files"].as_array().expect("a list of files");
    assert_eq!(files.len(), NAMES.len());
    let shown: Vec<&str> = files.iter().map(|file| file["file"].as_str().expect("a path")).collect();
    for name in NAMES.iter().filter_map(|name| std::str::from_utf8(name).ok()) {
        assert!(shown.contains(&format!("in/{name}").as_str()), "{name:?} in {shown:?}");
    }
    tame(&ran.out());
}

#[test]
fn names_of_any_bytes_are_planned_changed_and_restored() {
    let desk = desk();
    let before = contents(&desk);
    let rule = "replace = { class = 'broken', with = 'e' }";
    let seen = desk.run(&["names", "--rule", rule, "in"]).status(0).says(&["2 names would change"]);
    tame(&seen.out());
    desk.run(&["names", "--rule", rule, "in", "--write"]).status(0).silent_err();
    let now = contents(&desk);
    for name in [&b"cafe.txt"[..], b"ee.txt"] {
        assert!(now.contains_key(&OsString::from_vec(name.to_vec())), "{now:?}");
    }
    desk.run(&["undo"]).status(0).says(&["2 names restored"]);
    assert_eq!(contents(&desk), before);
}

#[test]
fn a_table_of_names_holds_any_bytes_and_gives_the_same_names_again() {
    let desk = desk();
    let rule = "replace = { chars = ' ', with = '_' }";
    desk.run(&["names", "--rule", rule, "in", "--map", "names.csv"]).status(0);
    assert!(desk.read("names.csv").contains("%FF%FE.txt"), "bytes that are not UTF-8 are percent-encoded");
    desk.run(&["names", "--from-map", "names.csv", "in", "--write"]).status(0).silent_err();
    let now = contents(&desk);
    assert!(now.contains_key(OsStr::new("_leading_blank.txt")) && now.len() == NAMES.len(), "{now:?}");
}

#[test]
fn copies_have_the_names_of_their_files() {
    let desk = desk();
    desk.run(&["clean", "-r", "remove.wash.toml", "in", "--into", "copies"]).status(0);
    let copies = std::fs::read_dir(desk.path("copies/in")).expect("the copies").map(|entry| entry.expect("an entry"));
    let mut names: Vec<Vec<u8>> = copies.map(|entry| entry.file_name().into_vec()).collect();
    names.sort();
    let mut want: Vec<Vec<u8>> = NAMES.iter().map(|name| name.to_vec()).collect();
    want.sort();
    assert_eq!(names, want);
}
