//! Several programs at work on the same files at the same time: readers see whole texts, each file is done once, and all of it can
//! be undone.

mod support;

use std::collections::BTreeMap;
use std::process::{Child, Stdio};
use std::sync::atomic::{AtomicBool, Ordering};

use serde_json::Value;
use support::TestDir;

const FILES: usize = 60;
const RULES: &str = "[[rule]]\nremove.chars = '#'\n";

/// Long enough that it is not written in one piece.
fn text(number: usize) -> String {
    format!("{number} # fog at Marrow Point\n").repeat(4000)
}

fn folder() -> TestDir {
    let desk = TestDir::with(&[("a.wash.toml", RULES)]);
    (0..FILES).for_each(|number| desk.write(&format!("in/{number}.txt"), text(number).as_bytes()));
    desk
}

fn start(desk: &TestDir, args: &[&str]) -> Child {
    let mut command = desk.command();
    command.args(args).stdin(Stdio::null()).stdout(Stdio::piped()).stderr(Stdio::piped());
    command.spawn().expect("the built program")
}

/// Exit status, standard output and standard error of each.
fn ends(children: Vec<Child>) -> Vec<(Option<i32>, String, String)> {
    let output = |child: Child| {
        let output = child.wait_with_output().expect("the program ended");
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        (output.status.code(), text(&output.stdout), text(&output.stderr))
    };
    children.into_iter().map(output).collect()
}

/// No file but these is left in the folder: nothing temporary, nothing doubled.
fn assert_files(desk: &TestDir, below: &str, text_of: impl Fn(usize) -> String) {
    let files: Vec<String> = desk.files().into_iter().filter(|path| path.starts_with(below)).collect();
    let mut want: Vec<String> = (0..FILES).map(|number| format!("{below}{number}.txt")).collect();
    want.sort();
    assert_eq!(files, want);
    for number in 0..FILES {
        assert!(desk.read(&format!("{below}{number}.txt")) == text_of(number), "{below}{number}.txt");
    }
}

fn runs(desk: &TestDir) -> Vec<Value> {
    let history: Value = serde_json::from_slice(&desk.run(&["history", "--json"]).status(0).out).expect("JSON");
    history["runs"].as_array().expect("runs").clone()
}

#[test]
fn runs_over_the_same_files_do_each_file_once_while_readers_see_whole_texts() {
    let desk = folder();
    let is_done = AtomicBool::new(false);
    let clean = |number: usize| text(number).replace('#', "");
    let ended = std::thread::scope(|scope| {
        let reader = scope.spawn(|| {
            let known: Vec<[String; 2]> = (0..FILES).map(|number| [text(number), clean(number)]).collect();
            let mut reads = 0_usize;
            while !is_done.load(Ordering::Relaxed) {
                let number = reads % FILES;
                assert!(known[number].contains(&desk.read(&format!("in/{number}.txt"))), "a part of {number}");
                reads += 1;
            }
            reads
        });
        let write = ["clean", "-r", "a.wash.toml", "in", "--write", "--json"];
        let ended = ends((0..4).map(|_| start(&desk, &write)).collect());
        is_done.store(true, Ordering::Relaxed);
        assert!(reader.join().expect("every text was whole") > 0);
        ended
    });
    assert_files(&desk, "in/", clean);
    let mut written: BTreeMap<String, usize> = BTreeMap::new();
    for (status, out, err) in &ended {
        // A file that another program has changed meanwhile is left alone and reported.
        assert!([Some(0), Some(3)].contains(status), "{status:?}\n{err}");
        let run: Value = serde_json::from_str(out).expect("JSON");
        let changed = run["files"].as_array().expect("files").iter().filter(|file| file["state"] == "changed");
        changed.for_each(|file| *written.entry(file["file"].to_string()).or_default() += 1);
    }
    assert_eq!(written.len(), FILES);
    assert!(written.values().all(|times| *times == 1), "{written:?}");
    let rewritten: Vec<u64> = runs(&desk).iter().map(|run| run["rewritten"].as_u64().expect("a number")).collect();
    assert_eq!(rewritten.iter().sum::<u64>(), FILES as u64);
    for _ in rewritten.iter().filter(|files| **files > 0) {
        desk.run(&["undo"]).status(0);
    }
    assert_files(&desk, "in/", text);
}

#[test]
fn texts_and_names_may_change_at_once_and_what_each_run_left_is_said() {
    let desk = folder();
    let clean = start(&desk, &["clean", "-r", "a.wash.toml", "in", "--write"]);
    let names = start(&desk, &["names", "--rule", "replace = { pattern = '^', with = 'log ' }", "in", "--write"]);
    for (status, out, err) in ends(vec![clean, names]) {
        assert!([Some(0), Some(3)].contains(&status), "{status:?}\n{out}\n{err}");
    }
    let mut seen = [false; FILES];
    for path in desk.files().into_iter().filter(|path| path.starts_with("in/")) {
        let number = path.trim_start_matches("in/").trim_start_matches("log ").trim_end_matches(".txt");
        let number: usize = number.parse().unwrap_or_else(|_| panic!("{path} is no file of ours"));
        let text_now = desk.read(&path);
        assert!([text(number), text(number).replace('#', "")].contains(&text_now), "{path}");
        assert!(!std::mem::replace(&mut seen[number], true), "{number} is there twice");
    }
    assert!(seen.iter().all(|seen| *seen), "a file is gone: {seen:?}");
    // A second run of each does what was left.
    desk.run(&["clean", "-r", "a.wash.toml", "in", "--write"]).status(0);
    desk.run(&["names", "--rule", "{ replace = { pattern = '^(\\d)', with = 'log $1' } }", "in", "--write"]).status(0);
    assert_files(&desk, "in/log ", |number| text(number).replace('#', ""));
}

#[test]
fn copies_and_reports_at_one_place_are_made_by_one_and_refused_to_the_others() {
    let desk = folder();
    let args = ["clean", "-r", "a.wash.toml", "in", "--into", "out", "--report", "report.jsonl"];
    let ended = ends((0..4).map(|_| start(&desk, &args)).collect());
    let done = ended.iter().filter(|(status, ..)| *status == Some(0)).count();
    assert!(done <= 1, "two runs took one report: {ended:?}");
    for (status, out, err) in &ended {
        assert!([Some(0), Some(2), Some(3)].contains(status), "{status:?}\n{out}\n{err}");
        assert!(
            *status == Some(0) || !err.is_empty() || out.contains("there already"),
            "{status:?} without a word\n{out}"
        );
    }
    let report = desk.read("report.jsonl");
    assert!(
        (report.is_empty() || report.ends_with('\n'))
            && report.lines().all(|line| serde_json::from_str::<Value>(line).is_ok())
    );
    assert_files(&desk, "in/", text);
    let copies = desk.files().into_iter().filter(|path| path.starts_with("out/"));
    for copy in copies {
        let number: usize = copy.trim_start_matches("out/in/").trim_end_matches(".txt").parse().expect("a copy");
        assert!(desk.read(&copy) == text(number).replace('#', ""), "{copy} is not whole");
    }
}

#[test]
fn a_run_is_undone_once_by_whoever_comes_first() {
    let desk = folder();
    desk.run(&["clean", "-r", "a.wash.toml", "in", "--write"]).status(0);
    let ended = ends((0..4).map(|_| start(&desk, &["undo", "1"])).collect());
    for (status, _, err) in &ended {
        assert!([Some(0), Some(2), Some(3)].contains(status) && !err.contains("panicked"), "{status:?}\n{err}");
    }
    assert!(ended.iter().any(|(status, ..)| *status == Some(0)), "{ended:?}");
    assert_files(&desk, "in/", text);
    let undone =
        runs(&desk).iter().filter(|run| run["undoes"] == 1).map(|run| run["rewritten"].as_u64()).collect::<Vec<_>>();
    assert_eq!(undone.iter().flatten().sum::<u64>(), FILES as u64, "{undone:?}");
}
