//! Each system call that changes the disk fails, and kills the program, in turn: no file is ever half done, the history
//! opens afterwards, and what was begun can be restored.
//!
//! Needs `strace`, which lets calls fail.

mod support;

use std::collections::BTreeMap;
use std::process::{Command, Stdio};
use std::sync::atomic::{AtomicUsize, Ordering};

use support::{NO_STRACE, TestDir, cannot_run};

/// Calls that change what is on the disk, or make it durable.
const CALLS: &[&str] = &[
    "write",
    "pwrite64",
    "fsync",
    "fdatasync",
    "ftruncate",
    "rename",
    "renameat",
    "renameat2",
    "link",
    "linkat",
    "unlink",
    "unlinkat",
    "mkdir",
    "fchmod",
    "fchown",
    "flock",
];

/// What a call does instead.
#[derive(Clone, Copy, Debug)]
enum Fault {
    /// It fails: no space is left.
    Fails,
    /// The program is killed before it is done.
    Kills,
}

/// The program on a desk, with the calls of this kind at fault that `when` tells: the number of one, from 1, or `1+`.
fn run_with_fault(desk: &TestDir, args: &[&str], call: &str, when: &str, fault: Fault) {
    let fault = match fault {
        Fault::Fails => "error=ENOSPC",
        Fault::Kills => "error=EIO:signal=KILL",
    };
    let mut command = Command::new("strace");
    command.args(["-f", "-qq", "-o", "/dev/null", "-e", &format!("trace={call}")]);
    command.args(["-e", &format!("inject={call}:{fault}:when={when}")]);
    command
        .arg(env!("CARGO_BIN_EXE_washout"))
        .args(args)
        .current_dir(desk.path(""))
        .env("WASHOUT_STATE", desk.state.path());
    let ended = command.stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null()).status();
    ended.expect("strace, which was there a moment ago");
}

/// Every file with what is in it.
fn files(desk: &TestDir) -> BTreeMap<String, String> {
    desk.files().into_iter().map(|file| (file.clone(), desk.read(&file))).collect()
}

/// Goes through all faults of a command. `prepare` makes a desk; `judge` looks at what a fault has left.
fn through_all_faults(
    what: &str,
    args: &[&str],
    prepare: impl Fn() -> TestDir + Sync,
    judge: impl Fn(&TestDir, &str) + Sync,
) {
    let Some(calls) = prepare().calls(args, CALLS) else {
        return cannot_run(NO_STRACE);
    };
    let points: Vec<(&str, usize, Fault)> = calls
        .iter()
        .flat_map(|(call, made)| {
            (1..=*made).flat_map(move |nth| [(*call, nth, Fault::Fails), (*call, nth, Fault::Kills)])
        })
        .collect();
    assert!(points.len() > 20, "{what} changes the disk by more than {points:?}");
    let next = AtomicUsize::new(0);
    std::thread::scope(|scope| {
        for _ in 0..2 {
            scope.spawn(|| {
                while let Some((call, nth, fault)) = points.get(next.fetch_add(1, Ordering::Relaxed)) {
                    let desk = prepare();
                    run_with_fault(&desk, args, call, &nth.to_string(), *fault);
                    let named = format!("{what}: {call} number {nth} {fault:?}");
                    desk.run(&["history", "--json"]).status(0);
                    judge(&desk, &named);
                }
            });
        }
    });
    eprintln!("{what}: {} faults survived", points.len());
}

/// A later run removes what a killed one left behind.
fn nothing_is_left_behind(desk: &TestDir, named: &str) {
    let left: Vec<String> = desk.files().into_iter().filter(|file| file.contains(".washout-")).collect();
    assert!(left.is_empty(), "{named}: {left:?} stay");
}

const LOGS: &[(&str, &str)] =
    &[("a.txt", "um fog\n"), ("b.txt", "clear\n"), ("in/c.txt", "horn um\n"), ("in/d.txt", "um um\n")];
const CLEAN: &[&str] = &["clean", "--rule", "remove.text = um", "--jobs", "1", "--write", "."];

fn is_old_or_new(desk: &TestDir, named: &str) {
    for (path, old) in LOGS {
        let now = desk.read(path);
        assert!(now == *old || now == old.replace("um", ""), "{named}: {path} holds {now:?}");
    }
}

fn start() -> BTreeMap<String, String> {
    LOGS.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect()
}

#[test]
fn cleaning_in_place_survives_every_fault() {
    through_all_faults(
        "clean --write",
        CLEAN,
        || TestDir::with(LOGS),
        |desk, named| {
            is_old_or_new(desk, named);
            // It may be that nothing was begun.
            desk.run(&["undo"]);
            desk.run(CLEAN).status(0);
            desk.run(&["undo"]).status(0);
            nothing_is_left_behind(desk, named);
            assert_eq!(files(desk), start(), "{named}: undo gives back the start");
        },
    );
}

#[test]
fn old_files_that_cannot_be_removed_are_no_sign_of_a_killed_run() {
    let desk = TestDir::with(LOGS);
    if desk.calls(CLEAN, CALLS).is_none() {
        return cannot_run(NO_STRACE);
    }
    let desk = TestDir::with(LOGS);
    run_with_fault(&desk, CLEAN, "unlinkat", "1+", Fault::Fails);
    assert!(desk.files().iter().any(|file| file.contains(".washout-")), "{:?}", desk.files());
    desk.run(&["undo"]).status(0).says(&["Run 1: 3 files restored"]);
    nothing_is_left_behind(&desk, "undo");
    assert_eq!(files(&desk), start());
}

#[test]
fn putting_contents_back_survives_every_fault() {
    let prepare = || {
        let desk = TestDir::with(LOGS);
        desk.run(CLEAN).status(0);
        desk
    };
    through_all_faults("undo of contents", &["undo", "1"], prepare, |desk, named| {
        is_old_or_new(desk, named);
        desk.run(&["undo", "1"]);
        desk.run(CLEAN).status(0);
        desk.run(&["undo"]).status(0);
        nothing_is_left_behind(desk, named);
        assert_eq!(files(desk), start(), "{named}: undo gives back the start");
    });
}

const SCANS: &[(&str, &str)] =
    &[("s/1.txt", "one"), ("s/2.txt", "two"), ("s/3 draft.txt", "three"), ("t/4 draft.txt", "four")];
const RENAME: &[&str] = &[
    "names",
    "--rule",
    "replace.pairs = [['1', '2'], ['2', '1']]",
    "--rule",
    "remove.text = ' draft'",
    "--write",
    "s",
    "t",
];

/// No file is lost, whatever it is called.
fn all_are_there(desk: &TestDir, named: &str) {
    let mut texts: Vec<String> = files(desk).into_values().collect();
    texts.sort();
    assert_eq!(texts, ["four", "one", "three", "two"], "{named}");
}

fn scans() -> BTreeMap<String, String> {
    SCANS.iter().map(|(path, text)| ((*path).to_owned(), (*text).to_owned())).collect()
}

#[test]
fn renaming_survives_every_fault() {
    through_all_faults(
        "names --write",
        RENAME,
        || TestDir::with(SCANS),
        |desk, named| {
            all_are_there(desk, named);
            // It may be that nothing was begun.
            desk.run(&["undo"]);
            assert_eq!(files(desk), scans(), "{named}: undo gives back the start");
        },
    );
}

#[test]
fn putting_names_back_survives_every_fault() {
    let prepare = || {
        let desk = TestDir::with(SCANS);
        desk.run(RENAME).status(0);
        desk
    };
    through_all_faults("undo of names", &["undo", "1"], prepare, |desk, named| {
        all_are_there(desk, named);
        // Where it was begun at all, it is put right first; then what it was to restore is.
        desk.run(&["undo", "2"]);
        desk.run(&["undo", "1"]);
        assert_eq!(files(desk), scans(), "{named}: undo gives back the start");
    });
}
