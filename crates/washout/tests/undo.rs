//! `clean --write`, and back.

mod support;

use std::fs;
use std::os::unix::fs::PermissionsExt;

use support::{TestDir, cannot_run};

const RULE: [&str; 3] = ["clean", "--rule", "remove.chars = '#'"];

fn texts(desk: &TestDir, names: &[&str]) -> Vec<String> {
    names.iter().map(|name| desk.read(name)).collect()
}

#[test]
fn a_run_over_many_files_is_put_back_and_that_too() {
    // More than one batch of files.
    let names: Vec<String> = (0..150).map(|number| format!("in/{number:03}.txt")).collect();
    let texts_before: Vec<String> = (0..150).map(|number| format!("fog # {number}\r\n\u{1F5FC} no end")).collect();
    let files: Vec<(&str, &str)> =
        names.iter().map(String::as_str).zip(texts_before.iter().map(String::as_str)).collect();
    let desk = TestDir::with(&files);
    desk.write("in/clean.txt", b"fog");
    let names: Vec<&str> = names.iter().map(String::as_str).collect();
    fs::set_permissions(desk.path("in/007.txt"), fs::Permissions::from_mode(0o640)).unwrap();
    desk.run(&[&RULE[..], &["in", "--write"]].concat()).status(0).says(&[
        "150 files changed, 1 unchanged",
        "To undo:       ",
        "undo 1",
    ]);
    let texts_after = texts(&desk, &names);
    assert!(texts_after.iter().all(|text| !text.contains('#')));
    desk.run(&["history"]).status(0).says(&["contents by --rule", "150 files", "kept of files as they were: "]);
    desk.run(&["history", "1"]).status(0).says(&["in/000.txt  20 B before", "… and 110 more", "150 files changed"]);
    desk.run(&["undo", "--preview"]).status(0).says(&["in/000.txt", "Run 1: 150 files would be restored"]);
    assert_eq!(texts(&desk, &names), texts_after, "a preview of undo");
    desk.run(&["undo", "--only", "in/003.txt"]).status(0).says(&["Run 1: 1 file restored"]);
    desk.run(&["history"]).status(0).says(&["undo of run ", "only in part\n", "undone in part\n"]);
    desk.run(&["undo"]).status(0).says(&["Run 1: 149 files restored", "To undo this:", "undo 3"]);
    desk.run(&["history"]).status(0).says(&["undone by run 3\n"]);
    assert_eq!(texts(&desk, &names), texts_before);
    assert_eq!(fs::metadata(desk.path("in/007.txt")).unwrap().permissions().mode() & 0o777, 0o640);
    desk.run(&["undo", "3"]).status(0);
    let mut want = texts_after.clone();
    want[3].clone_from(&texts_before[3]);
    assert_eq!(texts(&desk, &names), want);
    assert!(
        desk.files().iter().all(|name| name.len() == "in/000.txt".len() || name == "in/clean.txt"),
        "nothing is left behind: {:?}",
        desk.files()
    );
}

#[test]
fn what_changed_since_or_is_gone_is_left_alone_and_said() {
    let desk = TestDir::with(&[("a", "#a"), ("b", "#b"), ("c", "#c"), ("d", "#d"), ("e", "")]);
    desk.run(&[&RULE[..], &["a", "b", "c", "d", "e", "--write"]].concat())
        .status(0)
        .says(&["4 files changed, 1 unchanged"]);
    desk.write("a", b"mine");
    fs::remove_file(desk.path("b")).unwrap();
    desk.write("d", b"#d");
    let ran = desk.run(&["undo"]).status(3);
    ran.says(&["Run 1: 1 file restored, 2 left alone (named above)"])
        .warns(&["a: it has changed since; --force", "b: cannot be read: no such file or directory"]);
    assert_eq!(texts(&desk, &["a", "c", "d"]), ["mine", "#c", "#d"]);
    desk.run(&["undo", "1", "--force"]).status(3).says(&["1 file restored, 1 left alone"]);
    assert_eq!(desk.read("a"), "#a");
    // What was there before the force is not lost either.
    desk.run(&["undo", "3"]).status(0);
    assert_eq!(desk.read("a"), "mine");
}

#[test]
fn a_run_put_back_in_parts_is_put_back_once_nothing_of_it_is_left() {
    let desk = TestDir::with(&[("a", "#+a"), ("b", "#+b"), ("c", "#c")]);
    desk.run(&[&RULE[..], &["a", "b", "c", "--write"]].concat()).status(0);
    desk.run(&["clean", "--rule", "remove.chars = '+'", "a", "b", "--write"]).status(0);
    for file in ["a", "b"] {
        desk.run(&["undo", "2", "--only", file]).status(0).says(&["Run 2: 1 file restored"]);
    }
    desk.run(&["undo", "2", "--only", "a"]).status(0).says(&["Run 2: 0 files restored"]);
    assert_eq!(texts(&desk, &["a", "b", "c"]), ["+a", "+b", "c"]);
    desk.run(&["undo"]).status(0).says(&["Run 1: 3 files restored"]);
    assert_eq!(texts(&desk, &["a", "b", "c"]), ["#+a", "#+b", "#c"]);
    desk.run(&["history"]).status(0).says(&["undone by run 4\n", "undone by run 5\n"]);
}

#[test]
fn without_a_place_for_what_was_there_nothing_is_written() {
    let desk = TestDir::with(&[("a", "#a"), ("state", "no folder")]);
    let args = [&RULE[..], &["a", "--write"]].concat();
    let run = |desk: &TestDir, args: &[&str]| {
        let output = desk.command().env("WASHOUT_STATE", desk.path("state")).args(args).output().unwrap();
        (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    let (status, err) = run(&desk, &args);
    assert_eq!((status, desk.read("a").as_str()), (Some(3), "#a"), "{err}");
    assert!(err.contains("the history in") && err.contains("cannot be used"), "{err}");
    // Its folder is there, but what was in files cannot be put into it.
    fs::remove_file(desk.path("state")).unwrap();
    desk.write("state/originals", b"no folder");
    let (status, err) = run(&desk, &args);
    assert_eq!((status, desk.read("a").as_str()), (Some(3), "#a"), "{err}");
    assert!(err.contains("a: what is in it cannot be kept for undo") && err.contains("--no-history"), "{err}");
    let (status, err) = run(&desk, &[&args[..], &["--no-history"]].concat());
    assert_eq!((status, desk.read("a").as_str()), (Some(0), "a"), "{err}");
}

#[test]
fn an_original_that_was_damaged_or_lost_is_not_put_back() {
    for damaged in [false, true] {
        let desk = TestDir::with(&[("a", "#a")]);
        desk.run(&[&RULE[..], &["a", "--write"]].concat()).status(0);
        let original = fs::read_dir(desk.state.path().join("originals")).unwrap().next().unwrap().unwrap().path();
        if damaged {
            let other = zstd::encode_all(&b"another text"[..], 1).unwrap();
            fs::write(original, other).unwrap();
        } else {
            fs::remove_file(original).unwrap();
        }
        let why = if damaged { "cannot be read from the history: " } else { "is no longer kept: no such file" };
        desk.run(&["undo"]).status(3).warns(&[why]);
        assert_eq!(desk.read("a"), "a");
        if !damaged {
            // What is lost is kept anew.
            desk.write("a", b"#a");
            desk.run(&[&RULE[..], &["a", "--write"]].concat()).status(0);
            desk.run(&["undo"]).status(0);
            assert_eq!(desk.read("a"), "#a");
        }
    }
}

#[test]
fn changes_taken_one_by_one_are_put_back_too() {
    let desk = TestDir::with(&[("a", "#a\n#b\n"), ("b", "#c\n")]);
    let ran = desk.run_with(&[&RULE[..], &["a", "b", "--write", "--ask"]].concat(), b"t\nl\nt\n").status(0);
    ran.says(&["2 changes taken, 1 change left", "undo 1"]);
    assert_eq!(texts(&desk, &["a", "b"]), ["a\n#b\n", "c\n"]);
    desk.run(&["undo"]).status(0).says(&["2 files restored"]);
    assert_eq!(texts(&desk, &["a", "b"]), ["#a\n#b\n", "#c\n"]);
    desk.run(&[&RULE[..], &["a", "--write", "--ask"]].concat()).status(0).says(&["0 changes taken"]);
    desk.run(&["history", "3"]).status(2).warns(&["there is no run 3"]);
}

#[test]
fn a_run_that_was_killed_is_told_of_once_with_what_to_do() {
    let desk = TestDir::new();
    let text = "um fog over the landing, um, and no boat\n".repeat(8_000);
    (0..200).for_each(|file| desk.write(&format!("d/{file:03}.txt"), text.as_bytes()));
    let clean = ["clean", "--rule", "remove.words = um", "--write", "--jobs", "1", "d"];
    let mut child = desk.command().args(clean).stdout(std::process::Stdio::null()).spawn().expect("the built program");
    let is_begun = || std::fs::read(desk.path("d/000.txt")).is_ok_and(|now| now != text.as_bytes());
    while !is_begun() {
        std::thread::yield_now();
    }
    child.kill().and_then(|()| child.wait()).expect("an end");
    let told = desk.run(&["clean", "--rule", "remove.chars = '#'", "d"]).status(0);
    told.warns(&["run 1, begun ", "did not finish", "to undo it:", "undo 1", "to finish it:", "--write"]);
    desk.run(&["history"]).status(0).silent_err().says(&["interrupted"]);
    desk.run(&["history", "1"]).status(0).says(&["interrupted; undo 1 restores it"]);
    // It may have begun files in folders that it had not written down. No process has the highest number there is.
    desk.write("d/later/.washout-0123456789abcdef.part", b"half a res");
    desk.run(&["undo"]).status(0).says(&["of the run removed in "]);
    let left: Vec<String> = desk.files().into_iter().filter(|file| desk.read(file) != text).collect();
    assert!(left.is_empty(), "{left:?}");
}

#[test]
fn old_runs_are_forgotten_but_never_the_newest() {
    let desk = TestDir::with(&[("a.txt", "1234\n")]);
    for digit in ["1", "2", "3"] {
        desk.run(&["clean", "--rule", &format!("remove.chars = '{digit}'"), "--write", "a.txt"]).status(0);
    }
    desk.run(&["history", "prune"]).status(0).says(&["Nothing to forget"]);
    desk.run(&["history", "prune", "--keep-days", "0"]).status(0).says(&["Forgotten: 2 runs, from 1 to 2;"]);
    desk.run(&["undo", "1"]).status(2).warns(&["there is no run 1"]);
    desk.run(&["undo"]).status(0);
    assert_eq!(desk.read("a.txt"), "34\n");
    desk.run(&["history", "prune", "--keep-size", "0", "--json"]).status(0).says(&["    3\n"]);
    let originals = desk.state.path().join("originals");
    assert_eq!(std::fs::read_dir(originals).expect("a folder").count(), 1, "what was in the file before undo");
    desk.run(&["clean", "--rule", "remove.chars = '3'", "--write", "--history-limit", "2", "a.txt"])
        .status(2)
        .warns(&["these files hold 3 B", "2 B at most", "--no-history"]);
}

#[test]
fn what_older_versions_kept_is_put_back_and_packs_shrink_with_the_runs_they_hold() {
    let desk = TestDir::new();
    let text = |file: usize, last: &str| {
        format!("{}#{file}{last}\n", (0..4_000).map(|at| ((at * 7919 + file * 31) % 9).to_string()).collect::<String>())
    };
    let write = |files: std::ops::Range<usize>| {
        files.for_each(|file| desk.write(&format!("d/{file:02}.txt"), text(file, "").as_bytes()));
    };
    write(0..40);
    desk.run(&[&RULE[..], &["d", "--write"]].concat()).status(0);
    // Up to version 3 each original was a file of its own, named by its hash.
    let originals = desk.state.path().join("originals");
    let pack = fs::read_dir(&originals).unwrap().next().unwrap().unwrap().path();
    let packed = fs::read(&pack).unwrap();
    let database = rusqlite::Connection::open(desk.state.path().join("history.sqlite")).unwrap();
    let mut query = database.prepare("SELECT lower(hex(hash)), at, size FROM packed").unwrap();
    let mut rows = query.query([]).unwrap();
    while let Some(row) = rows.next().unwrap() {
        let [at, size] = [1, 2].map(|column| usize::try_from(row.get::<_, i64>(column).unwrap()).unwrap());
        fs::write(originals.join(row.get::<_, String>(0).unwrap()), &packed[at..at + size]).unwrap();
    }
    drop(rows);
    drop(query);
    database
        .execute_batch(
            "ALTER TABLE runs DROP COLUMN rule_text; DROP TABLE rule_texts; DROP TABLE packed; PRAGMA user_version = 3",
        )
        .unwrap();
    drop(database);
    fs::remove_file(pack).unwrap();
    desk.run(&["undo"]).status(0).says(&["40 files restored"]);
    assert!((0..40).all(|file| desk.read(&format!("d/{file:02}.txt")) == text(file, "")));
    // The run that cleans them again needs what is kept already, and half of what is new.
    desk.run(&[&RULE[..], &["d", "--write"]].concat()).status(0);
    write(40..80);
    desk.run(&[&RULE[..], &["d", "--write"]].concat()).status(0);
    (40..60).for_each(|file| desk.write(&format!("d/{file:02}.txt"), text(file, "").as_bytes()));
    desk.run(&[&RULE[..], &["d", "--write"]].concat()).status(0);
    desk.run(&["history", "prune", "--keep-days", "0"]).status(0).says(&["Forgotten: 4 runs"]);
    desk.run(&["undo"]).status(0).says(&["20 files restored"]);
    assert!((40..60).all(|file| desk.read(&format!("d/{file:02}.txt")) == text(file, "")));
    let kept = fs::read_dir(&originals)
        .unwrap()
        .map(|file| std::os::unix::fs::MetadataExt::blocks(&file.unwrap().metadata().unwrap()) * 512);
    let kept: u64 = kept.sum();
    assert!(kept < 60 * 2_000, "what 20 files were and are takes {kept} bytes");
}

#[test]
fn links_are_followed_and_broken_and_times_kept_where_that_is_asked_for() {
    use std::os::unix::fs::MetadataExt;
    let desk = TestDir::with(&[("a.txt", "um a\n"), ("b.txt", "um b\n"), ("c.txt", "um c\n")]);
    std::os::unix::fs::symlink("a.txt", desk.path("soft.txt")).expect("a link");
    std::fs::hard_link(desk.path("b.txt"), desk.path("hard.txt")).expect("a link");
    let clean = |args: &[&str]| desk.run(&[&["clean", "--rule", "remove.text = 'um '", "--write"], args].concat());
    clean(&["soft.txt"]).status(3).warns(&["it is a link", "--follow"]);
    clean(&["b.txt"]).status(3).warns(&["it has 2 names", "--break-links"]);
    clean(&["soft.txt", "--follow"]).status(0);
    assert!(desk.path("soft.txt").is_symlink());
    clean(&["b.txt", "--break-links"]).status(0);
    assert_eq!(
        (desk.read("a.txt"), desk.read("b.txt"), desk.read("hard.txt")),
        ("a\n".into(), "b\n".into(), "um b\n".into())
    );
    desk.run(&["undo"]).status(0);
    std::fs::remove_file(desk.path("hard.txt")).expect("a file");
    std::fs::hard_link(desk.path("b.txt"), desk.path("hard.txt")).expect("a link");
    clean(&["b.txt", "hard.txt", "--break-links"]).status(0).says(&["2 files changed"]);
    assert_eq!((desk.read("b.txt"), desk.read("hard.txt")), ("b\n".into(), "b\n".into()), "both names of one file");
    let times = std::fs::FileTimes::new().set_modified(std::time::UNIX_EPOCH);
    std::fs::File::options()
        .write(true)
        .open(desk.path("c.txt"))
        .and_then(|file| file.set_times(times))
        .expect("a time");
    clean(&["c.txt", "--keep-times"]).status(0);
    assert_eq!((desk.read("c.txt").as_str(), desk.path("c.txt").metadata().expect("a file").mtime()), ("c\n", 0));
    let made = std::process::Command::new("mkfifo").arg(desk.path("pipe")).status().expect("mkfifo");
    assert!(made.success());
    let _socket = std::os::unix::net::UnixListener::bind(desk.path("socket")).expect("a socket");
    clean(&["pipe", "/dev/zero", "socket", "c.txt"])
        .status(3)
        .warns(&["pipe: it is a pipe", "/dev/zero: it is a device", "socket: it is a socket"])
        .says(&["1 unchanged, 3 failed"]);
    let long = "x".repeat(300);
    clean(&[&long, "c.txt"]).status(2).warns(&["file name too long", "Nothing was opened"]);
}

#[test]
fn what_may_not_be_read_or_written_is_said_and_the_rest_is_done() {
    let desk = TestDir::with(&[("free/a.txt", "um a\n"), ("free/secret.txt", "um s\n"), ("shut/b.txt", "um b\n")]);
    let mode = |path: &str, mode| fs::set_permissions(desk.path(path), fs::Permissions::from_mode(mode)).unwrap();
    mode("free/secret.txt", 0o000);
    mode("shut", 0o555);
    let ran = desk.run_bound(&["clean", "--rule", "remove.text = 'um '", "--write", "free", "shut"]);
    mode("free/secret.txt", 0o644);
    mode("shut", 0o755);
    ran.status(3).says(&["1 file changed, 2 failed"]).warns(&[
        "free/secret.txt: cannot be read: permission denied; left as it was",
        "shut/b.txt: the result cannot be written to shut: permission denied; left as it was",
    ]);
    assert_eq!(texts(&desk, &["free/a.txt", "free/secret.txt", "shut/b.txt"]), ["a\n", "um s\n", "um b\n"]);
}

#[test]
fn an_undo_that_left_something_is_gone_on_with_before_an_older_run_is_undone() {
    let desk = TestDir::with(&[("a.txt", "ah um fog\n"), ("b.txt", "ah um horn\n")]);
    let clean =
        |word: &str| desk.run(&["clean", "--rule", &format!("remove.words = '{word}'"), "--write", "."]).status(0);
    clean("ah");
    clean("um");
    let mode = |mode| fs::set_permissions(desk.path("b.txt"), fs::Permissions::from_mode(mode)).expect("permissions");
    mode(0o444);
    desk.run(&["undo"]).status(3).says(&["Run 2: 1 file restored, 1 left alone"]);
    mode(0o644);
    desk.run(&["undo"]).status(0).says(&["Run 2, ", "; what run 3 left of it", "Run 2: 1 file restored"]);
    assert_eq!((desk.read("a.txt").as_str(), desk.read("b.txt").as_str()), ("um fog\n", "um horn\n"));
    desk.run(&["undo"]).status(0).says(&["Run 1: 2 files restored"]);
    assert_eq!((desk.read("a.txt").as_str(), desk.read("b.txt").as_str()), ("ah um fog\n", "ah um horn\n"));
    // Files that changed since are left too.
    clean("fog");
    clean("horn");
    desk.write("b.txt", b"edited\n");
    desk.run(&["undo"]).status(3);
    desk.run(&["undo"]).status(3).says(&["Run 7, "]);
    assert_eq!(desk.read("a.txt"), "ah um\n", "the older run stands");
}

#[test]
fn a_pipe_in_place_of_a_file_is_not_waited_for() {
    let desk = TestDir::with(&[("a.txt", "um fog\n"), ("set.wash.toml", "[[rule]]\nremove.words_from = 'list.txt'\n")]);
    let in_time = |args: &str| {
        let line = format!("timeout 20 {} {args}", env!("CARGO_BIN_EXE_washout"));
        let mut bash = std::process::Command::new("bash");
        bash.args(["-c", &line]).current_dir(desk.path("")).env("WASHOUT_STATE", desk.state.path());
        let output = bash.output().expect("bash");
        (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    assert_eq!(in_time("clean --rule 'remove.words = um' --write a.txt").0, Some(0));
    fs::remove_file(desk.path("a.txt")).expect("a file");
    for folder in ["named", "found/below"] {
        fs::create_dir_all(desk.path(folder)).expect("a folder");
    }
    for pipe in ["a.txt", "list.txt", "named/.gitignore", "found/below/.ignore"] {
        let made = std::process::Command::new("mkfifo").arg(desk.path(pipe)).status();
        assert!(made.expect("mkfifo").success());
    }
    for command in ["undo --preview", "undo", "clean -r set.wash.toml set.wash.toml"] {
        let (status, said) = in_time(command);
        assert!(matches!(status, Some(2 | 3)), "{command}: {status:?} {said}");
        assert!(said.contains("it is a pipe, not a file"), "{command}: {said}");
    }
    for command in ["check --rule trim={} named", "survey found"] {
        let (status, said) = in_time(command);
        assert!(status == Some(3) && said.contains("ignore is not a regular file"), "{command}: {status:?} {said}");
    }
}

#[test]
fn names_that_could_not_be_put_back_are_gone_on_with_too() {
    let desk = TestDir::with(&[("d/a_1", ""), ("d/b_2", "")]);
    let names = |from: &str, to: &str| {
        let rule = format!("replace = {{ text = '{from}', with = '{to}' }}");
        desk.run(&["names", "--rule", &rule, "--write", "d"]).status(0);
    };
    names("_", "-");
    names("-", "+");
    desk.write("d/b-2", b"taken");
    desk.run(&["undo"]).status(3).says(&["Run 2: 1 name restored, 1 left alone"]);
    fs::remove_file(desk.path("d/b-2")).expect("a file");
    desk.run(&["undo"]).status(0).says(&["Run 2: 1 name restored"]);
    assert_eq!(desk.files(), ["d/a-1", "d/b-2"]);
    desk.run(&["undo"]).status(0).says(&["Run 1: 2 names restored"]);
    assert_eq!(desk.files(), ["d/a_1", "d/b_2"]);
}

#[test]
fn without_a_number_the_newest_run_of_the_working_folder_goes() {
    let desk = TestDir::with(&[("one/a.txt", "um fog\n"), ("two/b.txt", "um horn\n"), ("names/c_d", "")]);
    let run_in = |folder: &str, args: &[&str]| {
        let mut command = desk.command();
        let output = command.args(args).current_dir(desk.path(folder)).output().expect("the built program");
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        (output.status.code(), text(&output.stdout), text(&output.stderr))
    };
    let clean = ["clean", "--rule", "remove.words = 'um'", "--write", "."];
    assert_eq!(run_in("one", &clean).0, Some(0));
    assert_eq!(run_in("two", &clean).0, Some(0));
    assert_eq!(run_in("names", &["names", "--rule", "remove.chars = '_'", "--write", "."]).0, Some(0));
    // A refused run in a folder without runs must not take one of another folder with it.
    std::fs::create_dir(desk.path("empty")).expect("a folder");
    let (status, out, said) = run_in("empty", &["undo"]);
    assert_eq!((status, out.as_str()), (Some(2), ""));
    for part in ["there is no run to undo that changed anything in", "/empty or below", "Run 3", "undo 3"] {
        assert!(said.contains(part), "no {part:?} in {said}");
    }
    let (status, out, _) = run_in("one", &["undo"]);
    assert_eq!(status, Some(0), "{out}");
    assert!(
        out.starts_with("Run 1, 20") && out.contains("/one: contents by --rule") && out.contains("1 file restored")
    );
    assert_eq!((desk.read("one/a.txt").as_str(), desk.read("two/b.txt").as_str()), ("um fog\n", "horn\n"));
    desk.run(&["history"]).status(0).says(&["  two  ", "  names  "]);
    // From above, the newest of all: the names.
    desk.run(&["undo"]).status(0).says(&["Run 3, 20", "1 name restored"]);
    assert_eq!(run_in("two", &["undo"]).0, Some(0));
    assert_eq!(desk.read("two/b.txt"), "um horn\n");
}

#[test]
fn after_a_kill_before_anything_was_written_down_undo_removes_what_is_left_and_nothing_more() {
    let desk = TestDir::with(&[("d/a.txt", "um fog\n")]);
    desk.run(&["clean", "--rule", "remove.words = 'um'", "--write", "d"]).status(0);
    desk.write("d/sub/.washout-0123456789abcdef.part", b"half a res");
    desk.write("d/.washout-notes.part", b"not a temporary file");
    let left = ["d/.washout-notes.part", "d/a.txt", "d/sub/.washout-0123456789abcdef.part"];
    desk.run(&["undo", "--preview"]).status(0).says(&["1 temporary file would be removed"]);
    assert_eq!(desk.files(), left);
    desk.run(&["undo"]).status(0).says(&["1 temporary file removed", "The run before it: Run 1, ", "undo 1"]);
    assert_eq!(desk.files(), left[..2]);
    assert_eq!(desk.read("d/a.txt"), "fog\n", "the older run stands");
    desk.run(&["undo"]).status(0).says(&["1 file restored"]);
    assert_eq!(desk.read("d/a.txt"), "um fog\n");
}

/// A small file system in memory that fills up. `None`: none can be mounted here, and the test is skipped.
fn small_disk(desk: &TestDir, name: &str, size: &str) -> Option<Mounted> {
    let place = desk.path(name);
    std::fs::create_dir(&place).expect("a folder");
    let mounted = std::process::Command::new("mount")
        .args(["-t", "tmpfs", "-o", &format!("size={size}"), "washout-test"])
        .arg(&place)
        .output();
    if mounted.is_ok_and(|output| output.status.success()) {
        return Some(Mounted(place));
    }
    cannot_run("no file system can be mounted, which takes root");
    None
}

struct Mounted(std::path::PathBuf);

impl Drop for Mounted {
    fn drop(&mut self) {
        let _ = std::process::Command::new("umount").arg(&self.0).status();
    }
}

#[test]
fn a_full_disk_leaves_every_file_as_it_was_or_done() {
    let desk = TestDir::new();
    let Some(_disk) = small_disk(&desk, "small", "600k") else { return };
    let text = "um fog over the landing, um, and no boat\n".repeat(2_000);
    (0..7).for_each(|file| desk.write(&format!("small/{file}.txt"), text.as_bytes()));
    let clean = ["clean", "--rule", "replace = { text = 'um', with = 'ahem' }", "--write", "--jobs", "1", "small"];
    desk.run(&clean).status(3).warns(&["no space left on device", "left as it was"]);
    let new = text.replace("um", "ahem");
    let whole = |file: &String| [&text, &new].contains(&&desk.read(file));
    assert!(desk.files().iter().all(whole), "{:?}", desk.files());
    desk.run(&["undo"]);
    assert!(desk.files().iter().all(|file| desk.read(file) == text), "the start");
}

#[test]
fn a_full_disk_below_the_history_changes_nothing() {
    let desk = TestDir::new();
    let Some(disk) = small_disk(&desk, "small", "100k") else { return };
    let text: String = "0123456789abcdef".chars().cycle().take(400_000).collect();
    let noise: String = text.char_indices().map(|(at, _)| char::from(b'!' + (at * at % 89).to_le_bytes()[0])).collect();
    desk.write("a.txt", format!("um {noise}").as_bytes());
    let before = desk.read("a.txt");
    let run = |args: &[&str]| {
        let output = desk.command().args(args).env("WASHOUT_STATE", &disk.0).output().expect("the built program");
        (output.status.code(), String::from_utf8_lossy(&output.stderr).into_owned())
    };
    std::fs::write(disk.0.join("filler"), vec![0; 80_000]).expect("room for that");
    let (status, said) = run(&["clean", "--rule", "remove.text = 'um '", "--write", "a.txt"]);
    assert_ne!(status, Some(0), "{said}");
    assert!(said.contains("a.txt") || said.contains("the history"), "{said}");
    assert_eq!(desk.read("a.txt"), before);
}

#[test]
fn two_runs_at_once_leave_every_file_whole_and_both_can_be_put_back() {
    let desk = TestDir::new();
    let text = "um fog ah horn\n".repeat(500);
    (0..150).for_each(|file| desk.write(&format!("d/{file:03}.txt"), text.as_bytes()));
    let run = |word: &str| {
        let mut command = desk.command();
        command.args(["clean", "--rule", &format!("remove.words = {word}"), "--write", "d"]);
        command.stdout(std::process::Stdio::null()).stderr(std::process::Stdio::null());
        command.spawn().expect("the built program")
    };
    for mut run in [run("um"), run("ah")] {
        let status = run.wait().expect("an end").code();
        assert!(matches!(status, Some(0 | 3)), "{status:?}: what the other had changed is left alone, and named");
    }
    let states = ["um fog ah horn\n", "fog ah horn\n", "um fog horn\n", "fog horn\n"].map(|line| line.repeat(500));
    let whole = |file: &String| states.contains(&desk.read(file));
    assert!(desk.files().iter().all(whole), "{:?}", desk.files());
    // Files that both changed go back step by step, the newer first, so it may take a second look at one of the two.
    for run in ["2", "1", "2", "1"] {
        desk.run(&["undo", run]);
    }
    let left: Vec<String> = desk.files().into_iter().filter(|file| desk.read(file) != text).collect();
    assert!(left.is_empty(), "not as they were: {left:?}");
}
