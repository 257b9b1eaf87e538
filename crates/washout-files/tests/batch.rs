//! Many files at once, some of which fail: the others are done, each failure is named, and nothing is left behind.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

use std::collections::BTreeMap;
use std::fs;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use proptest::collection::vec;
use proptest::prelude::*;
use washout_core::{Program, RuleSet};
use washout_files::{
    About, Aim, Charsets, Choice, ChosenFile, FileError, FileReport, History, Keeper, Label, Meter, Run, Skip, State,
    Stop, choose, plan_restore,
};

fn program(rules: &str) -> Program {
    Program::compile([&RuleSet::read("set", rules).unwrap()])
}

/// What of a run the tests set.
struct Settings<'s> {
    aim: Aim,
    charsets: Charsets,
    keeper: Option<&'s Keeper>,
    stop: Stop,
}

impl Default for Settings<'_> {
    fn default() -> Self {
        Self { aim: Aim::Write, charsets: Charsets::default(), keeper: None, stop: Stop::new() }
    }
}

fn wash(program: &Program, files: &[ChosenFile], settings: &Settings<'_>) -> Vec<FileReport> {
    let meter = Meter::default();
    let Settings { aim, charsets, keeper, stop } = settings;
    let run = Run { charsets: *charsets, keeper: *keeper, ..Run::new(program, aim, stop, &meter) };
    let mut reports = Vec::new();
    run.wash_all(files, |report| reports.push(report));
    reports
}

fn chosen(paths: &[PathBuf]) -> Vec<ChosenFile> {
    choose(&Choice { paths: paths.to_vec(), ..Choice::default() }).unwrap().files
}

/// Every entry below a folder, with what is in it.
fn contents(folder: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
    let mut found = BTreeMap::new();
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            found.extend(contents(&path));
        } else {
            found.insert(path.clone(), fs::read(&path).unwrap());
        }
    }
    found
}

#[test]
fn files_that_fail_stop_no_other_and_reports_keep_the_order_of_the_list() {
    let desk = tempfile::tempdir().unwrap();
    let paths: Vec<PathBuf> = (0..300).map(|number| desk.path().join(format!("{number:03}.txt"))).collect();
    for path in &paths {
        fs::write(path, "#lamp\n").unwrap();
    }
    let files = chosen(&paths);
    // After the list was made: gone, a folder, binary, no longer what was chosen.
    for number in [3, 70, 150] {
        fs::remove_file(&paths[number]).unwrap();
    }
    fs::remove_file(&paths[71]).unwrap();
    fs::create_dir(&paths[71]).unwrap();
    fs::write(&paths[200], "clean\n").unwrap();
    let reports = wash(&program("[[rule]]\nremove.chars = '#'\n"), &files, &Settings::default());
    assert!(reports.iter().map(|report| &report.path).eq(&paths), "in the order of the list");
    for (number, report) in reports.iter().enumerate() {
        let fits = match number {
            3 | 70 | 150 => {
                matches!(&report.state, State::Failed(FileError::Read(error)) if error.kind() == std::io::ErrorKind::NotFound)
            }
            71 => matches!(&report.state, State::Failed(_)),
            200 => matches!(&report.state, State::Unchanged(_)),
            _ => matches!(&report.state, State::Changed(washed, _) if washed.changes == [1]),
        };
        assert!(fits, "file {number}: {:?}", report.state);
    }
    for (number, path) in paths.iter().enumerate().filter(|(number, _)| ![3, 70, 71, 150, 200].contains(number)) {
        assert_eq!(fs::read(path).unwrap(), b"lamp\n", "file {number}");
    }
    assert_eq!(fs::read_dir(desk.path()).unwrap().count(), 297, "no temporary file is left");
}

#[test]
fn what_cannot_be_encoded_leaves_its_file_as_it_was() {
    let desk = tempfile::tempdir().unwrap();
    let texts: [(&str, &[u8]); 3] = [("a good.txt", b"caf\xE9 #\n"), ("bad.txt", b"lamp #\n"), ("other.txt", b"#\n")];
    let paths: Vec<PathBuf> = texts.iter().map(|(name, _)| desk.path().join(name)).collect();
    paths.iter().zip(texts).for_each(|(path, (_, bytes))| fs::write(path, bytes).unwrap());
    let program = program("[[rule]]\nremove.chars = '#'\n[[rule]]\nreplace = { text = 'lamp', with = '灯' }\n");
    let charsets = Charsets { from: Label::named("windows-1252"), to: None };
    let reports = wash(&program, &chosen(&paths), &Settings { charsets, ..Settings::default() });
    let states: Vec<&State> = reports.iter().map(|report| &report.state).collect();
    let [State::Changed(..), State::Failed(FileError::Unmappable('灯', _)), State::Changed(..)] = states[..] else {
        panic!("{states:?}")
    };
    let now: Vec<Vec<u8>> = paths.iter().map(|path| fs::read(path).unwrap()).collect();
    assert_eq!(now, [&b"caf\xE9 \n"[..], b"lamp #\n", b"\n"]);
}

#[test]
fn a_request_to_stop_leaves_the_files_that_are_not_begun() {
    let desk = tempfile::tempdir().unwrap();
    let paths: Vec<PathBuf> = (0..200).map(|number| desk.path().join(format!("{number:03}"))).collect();
    paths.iter().for_each(|path| fs::write(path, "#\n").unwrap());
    let settings = Settings::default();
    settings.stop.request();
    assert!(wash(&program("[[rule]]\nremove.chars = '#'\n"), &chosen(&paths), &settings).is_empty());
    assert!(contents(desk.path()).values().all(|bytes| bytes == b"#\n"));
}

#[test]
fn copies_go_where_they_belong_and_never_over_what_is_there_unasked() {
    let desk = tempfile::tempdir().unwrap();
    let folder = desk.path().join("papers");
    fs::create_dir_all(folder.join("sub")).unwrap();
    for (name, bytes) in [
        ("a.txt", &b"#a\n"[..]),
        ("sub/b.txt", b"#b\n"),
        ("clean.txt", b"c\n"),
        ("raw.bin", b"\x89PNG\r\n\x1A\n\0\0\0\rIHDR#"),
    ] {
        fs::write(folder.join(name), bytes).unwrap();
    }
    let copies = desk.path().join("copies");
    fs::create_dir_all(copies.join("papers")).unwrap();
    fs::write(copies.join("papers/a.txt"), "mine").unwrap();
    let before = contents(&folder);
    let (files, program) = (chosen(std::slice::from_ref(&folder)), program("[[rule]]\nremove.chars = '#'\n"));
    for overwrite in [false, true] {
        let aim = Aim::Into { folder: copies.clone(), overwrite };
        let reports = wash(&program, &files, &Settings { aim, ..Settings::default() });
        let failed: Vec<String> = reports
            .iter()
            .filter_map(|report| match &report.state {
                State::Failed(error) => Some(format!("{}: {error}", report.path.file_name().unwrap().display())),
                _ => None,
            })
            .collect();
        assert_eq!(contents(&folder), before, "the originals stay");
        if overwrite {
            assert!(failed.is_empty(), "{failed:?}");
            assert_eq!(fs::read(copies.join("papers/a.txt")).unwrap(), b"a\n");
        } else {
            assert!(failed.len() == 1 && failed[0].starts_with("a.txt: "), "{failed:?}");
            assert_eq!(fs::read(copies.join("papers/a.txt")).unwrap(), b"mine");
            fs::remove_file(copies.join("papers/sub/b.txt")).unwrap();
            fs::remove_file(copies.join("papers/clean.txt")).unwrap();
        }
        let skipped = reports.iter().filter(|report| matches!(report.state, State::Skipped(Skip::Binary)));
        assert_eq!(skipped.count(), 1);
    }
    let names: Vec<String> =
        contents(&copies).keys().map(|path| path.strip_prefix(&copies).unwrap().display().to_string()).collect();
    assert_eq!(names, ["papers/a.txt", "papers/clean.txt", "papers/sub/b.txt"]);
}

#[test]
fn a_file_keeps_its_mode_and_a_folder_that_cannot_be_written_fails_alone() {
    let desk = tempfile::tempdir().unwrap();
    let (open, odd) = (desk.path().join("open.txt"), desk.path().join("odd.txt"));
    for (path, mode) in [(&open, 0o644), (&odd, 0o600)] {
        fs::write(path, "#\n").unwrap();
        fs::set_permissions(path, fs::Permissions::from_mode(mode)).unwrap();
    }
    let reports =
        wash(&program("[[rule]]\nremove.chars = '#'\n"), &chosen(&[open.clone(), odd.clone()]), &Settings::default());
    assert!(reports.iter().all(|report| matches!(report.state, State::Changed(..))));
    let mode = |path: &Path| fs::metadata(path).unwrap().permissions().mode() & 0o777;
    assert_eq!((mode(&open), mode(&odd)), (0o644, 0o600));
}

/// What somebody does with three files.
#[derive(Clone, Copy, Debug)]
enum Deed {
    /// Cleans them: takes one letter out of each file that has it.
    Clean(usize),
    /// Undoes the run that is this many runs before the newest.
    Undo(usize),
    /// Writes something else into a file.
    Edit(usize),
}

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![3 => (0..3_usize).prop_map(Deed::Clean), 3 => (0..4_usize).prop_map(Deed::Undo), 1 => (0..3_usize).prop_map(Deed::Edit)]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// A run holds what each of its files had before and after. Undoing it gives a file its old content where it still has the
    /// new one, and leaves it alone elsewhere; the undoing is a run like any other.
    #[test]
    fn histories_restore_what_a_plain_list_of_old_contents_restores(deeds in vec(deed(), 1..10)) {
        let (desk, state) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let paths: Vec<PathBuf> = ["a.txt", "b.txt", "c.txt"].iter().map(|name| desk.path().canonicalize().unwrap().join(name)).collect();
        let mut now: Vec<String> = vec!["xyz fog\n".into(), "xx lamp\n".into(), "plain\n".into()];
        paths.iter().zip(&now).for_each(|(path, text)| fs::write(path, text).unwrap());
        // By run: of each file it changed, what was there before and after.
        let mut runs: Vec<BTreeMap<usize, (String, String)>> = Vec::new();
        for (number, deed) in deeds.into_iter().enumerate() {
            let history = History::open(state.path()).unwrap();
            match deed {
                Deed::Edit(file) => {
                    now[file] = format!("edit {number} xyz\n");
                    fs::write(&paths[file], &now[file]).unwrap();
                }
                Deed::Clean(letter) => {
                    let letter = ["x", "y", "z"][letter];
                    let keeper = Keeper::new(history, About::default()).unwrap();
                    let settings = Settings { keeper: Some(&keeper), ..Settings::default() };
                    wash(&program(&format!("[[rule]]\nremove.text = '{letter}'\n")), &chosen(&paths), &settings);
                    let run = keeper.end(None, false).unwrap();
                    let mut changed = BTreeMap::new();
                    for (file, text) in now.iter_mut().enumerate().filter(|(_, text)| text.contains(letter)) {
                        let new = text.replace(letter, "");
                        changed.insert(file, (std::mem::replace(text, new.clone()), new));
                    }
                    prop_assert_eq!(run.is_some(), !changed.is_empty());
                    runs.extend(run.map(|_| changed));
                }
                Deed::Undo(back) => {
                    let Some(index) = runs.len().checked_sub(back + 1) else { continue };
                    let id = i64::try_from(index).unwrap() + 1;
                    let plan = plan_restore(&history, id, &[], false).unwrap();
                    let (mut changed, mut refused) = (BTreeMap::new(), 0);
                    for (file, (before, after)) in &runs[index] {
                        if now[*file] == *after {
                            changed.insert(*file, (after.clone(), before.clone()));
                            now[*file].clone_from(before);
                        } else if now[*file] != *before {
                            refused += 1;
                        }
                    }
                    prop_assert_eq!((plan.files.len(), plan.refused.len()), (changed.len(), refused));
                    let about = About { undoes: Some(id), ..About::default() };
                    let keeper = Keeper::new(history, about).unwrap();
                    let (done, failed) = plan.carry_out(&keeper, &Stop::new(), &Meter::default());
                    prop_assert!(failed.is_empty() && done == changed.len() as u64, "{:?}", failed);
                    let run = keeper.end(None, refused > 0).unwrap();
                    prop_assert_eq!(run.is_some(), !changed.is_empty());
                    runs.extend(run.map(|_| changed));
                }
            }
            for (path, text) in paths.iter().zip(&now) {
                prop_assert_eq!(&fs::read_to_string(path).unwrap(), text);
            }
            let kept = History::open(state.path()).unwrap().runs().unwrap();
            prop_assert_eq!(kept.len(), runs.len());
        }
    }
}
