//! Names of a folder that changes under a run, and runs that do not come to their end.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::path::Path;

use proptest::prelude::*;
use washout_core::names::{NameWasher, Planner};
use washout_core::{Program, RuleSet};
use washout_files::{
    About, Choice, History, Meter, NameMap, NameOrder, Plans, RenameOutcome, RequestSource, RunState, Stop, Take,
    carry_out, choose, plan_undo,
};

struct TestDir {
    folder: tempfile::TempDir,
    state: tempfile::TempDir,
}

impl TestDir {
    /// Files that hold their own names.
    fn with(names: &[&str]) -> Self {
        let desk = Self { folder: tempfile::tempdir().unwrap(), state: tempfile::tempdir().unwrap() };
        names.iter().for_each(|name| fs::write(desk.folder.path().join(name), name).unwrap());
        desk
    }

    fn history(&self) -> History {
        History::open(self.state.path()).unwrap()
    }

    /// A plan by pairs of old and new names.
    fn plans(&self, pairs: &[(&str, &str)]) -> Plans {
        let folder = self.folder.path().display();
        let rows: String =
            pairs.iter().fold(String::new(), |rows, (old, new)| rows + &format!("{folder},{old},{new}\n"));
        let map = NameMap::read(
            format!("folder,old,new\n{rows}").as_bytes(),
            &[self.folder.path().into()],
            Planner::default(),
        );
        let map = map.unwrap();
        Plans::make(
            map.chosen().entries(),
            RequestSource::Map(&map),
            NameOrder::Name,
            Planner::default(),
            &Meter::default(),
        )
    }

    /// What each name holds.
    fn files(&self) -> BTreeMap<String, String> {
        let entries = fs::read_dir(self.folder.path()).unwrap().map(|entry| entry.unwrap());
        entries
            .map(|entry| (entry.file_name().into_string().unwrap(), fs::read_to_string(entry.path()).unwrap()))
            .collect()
    }

    fn names(&self, pairs: &[(&str, &str)]) {
        let want = pairs.iter().map(|(name, held)| ((*name).to_owned(), (*held).to_owned())).collect();
        assert_eq!(self.files(), want);
    }
}

fn nothing(_: &Path, _: &[u8], _: &[u8]) {}

#[test]
fn what_changed_after_the_plan_is_left_alone_and_nothing_is_overwritten() {
    type Row = (
        &'static str,
        &'static [(&'static str, &'static str)],
        fn(&Path),
        &'static [(&'static str, &'static str)],
        &'static [&'static str],
    );
    let rows: &[Row] = &[
        (
            "the new name is taken",
            &[("a", "x")],
            |folder| fs::write(folder.join("x"), "theirs").unwrap(),
            &[("a", "a"), ("b", "b"), ("c", "c"), ("x", "theirs")],
            &["the new name has been taken meanwhile"],
        ),
        (
            "the file is gone",
            &[("a", "x"), ("b", "y")],
            |folder| fs::remove_file(folder.join("a")).unwrap(),
            &[("c", "c"), ("y", "b")],
            &["it is no longer there"],
        ),
        (
            "another file has its name",
            &[("a", "x")],
            |folder| {
                fs::rename(folder.join("a"), folder.join("elsewhere")).unwrap();
                fs::write(folder.join("a"), "theirs").unwrap();
            },
            &[("a", "theirs"), ("b", "b"), ("c", "c"), ("elsewhere", "a")],
            &["something else has its name now"],
        ),
        (
            "who waits for a name that is not left stays too",
            &[("a", "b"), ("b", "x")],
            |folder| fs::write(folder.join("x"), "theirs").unwrap(),
            &[("a", "a"), ("b", "b"), ("c", "c"), ("x", "theirs")],
            &["the new name has been taken meanwhile", "the new name has been taken meanwhile"],
        ),
        (
            "a cycle that cannot be closed goes back to where it was",
            &[("a", "b"), ("b", "c"), ("c", "a")],
            |folder| {
                fs::write(folder.join("new"), "theirs").unwrap();
                fs::rename(folder.join("new"), folder.join("c")).unwrap();
            },
            &[("a", "a"), ("b", "b"), ("c", "theirs")],
            &[
                "something else has its name now",
                "the new name has been taken meanwhile",
                "the new name has been taken meanwhile",
            ],
        ),
    ];
    for (what, pairs, change, want, why) in rows {
        let desk = TestDir::with(&["a", "b", "c"]);
        let plans = desk.plans(pairs);
        // Between the plan and the renames, and where only the system can see it: within the run.
        let mut history = desk.history();
        let before = desk.files();
        change(desk.folder.path());
        let carried = carry_out(&plans, Some(&mut history), &About::default(), &Stop::new(), nothing).unwrap();
        let mut said: Vec<String> = carried.failed.iter().map(|(_, error)| error.to_string()).collect();
        said.sort();
        assert_eq!(said, *why, "{what}");
        assert_eq!(carried.renamed, (pairs.len() - why.len()) as u64, "{what}");
        desk.names(want);
        let done = history.renames(1).unwrap().iter().filter(|one| one.outcome == Some(RenameOutcome::Done)).count();
        assert_eq!(done, pairs.len() - why.len(), "{what}: the record is true");
        let undo = plan_undo(&history, 1, &[], false).unwrap();
        undo.carry_out(&mut history, &About::default(), &Stop::new(), nothing).unwrap();
        for (name, held) in desk.files() {
            assert!(
                held == "theirs" || before.get(&name) == Some(&held) || name == "elsewhere",
                "{what}: {name} {held}"
            );
        }
    }
}

#[test]
fn a_run_that_is_stopped_or_killed_says_how_far_it_came_and_can_be_put_back() {
    let names = ["a", "b", "c", "d"];
    let pairs = [("a", "b"), ("b", "a"), ("c", "x"), ("d", "y")];
    for after in 0..4 {
        for killed in [false, true] {
            let desk = TestDir::with(&names);
            let start = desk.files();
            let plans = desk.plans(&pairs);
            let stop = Stop::new();
            let mut count = 0;
            let mut history = desk.history();
            let ran = catch_unwind(AssertUnwindSafe(|| {
                carry_out(&plans, Some(&mut history), &About::default(), &stop, |_, _, _| {
                    assert!(!killed || count < after, "killed");
                    count += 1;
                    if count > after {
                        stop.request();
                    }
                })
                .unwrap()
            }));
            drop(history);
            let mut history = desk.history();
            let run = history.run(1).unwrap();
            if let Ok(carried) = ran {
                assert_eq!(run.state, RunState::Ended);
                assert_eq!(carried.renamed + carried.not_begun, 4, "{carried:?}");
                assert_eq!(run.renamed, carried.renamed);
                assert!(carried.renamed > after.min(3), "what is under way is finished");
            } else {
                assert_eq!(run.state, RunState::Interrupted);
                assert_eq!(history.to_undo(None).unwrap().next().map(|run| run.unwrap().id), Some(1));
            }
            let undo = plan_undo(&history, 1, &[], false).unwrap();
            assert!(undo.refused.is_empty(), "{undo:?}");
            undo.carry_out(&mut history, &About::default(), &Stop::new(), nothing).unwrap();
            assert_eq!(desk.files(), start, "after {after}, killed {killed}");
        }
    }
}

#[test]
fn a_history_from_a_newer_version_or_damaged_is_refused_and_left_as_it_is() {
    let desk = TestDir::with(&["a"]);
    drop(desk.history());
    let path = desk.state.path().join("history.sqlite");
    let database = rusqlite::Connection::open(&path).unwrap();
    database.pragma_update(None, "user_version", 99).unwrap();
    drop(database);
    let error = History::open(desk.state.path()).unwrap_err().to_string();
    assert!(error.contains("was written by a newer washout"), "{error}");
    fs::write(&path, "no database at all, but long enough to be looked at as one".repeat(20)).unwrap();
    let error = History::open(desk.state.path()).unwrap_err().to_string();
    assert!(error.contains("cannot be used: file is not a database"), "{error}");
}

#[test]
fn a_history_that_another_program_holds_is_waited_for_and_then_said() {
    let desk = TestDir::with(&["a"]);
    drop(desk.history());
    let database = rusqlite::Connection::open(desk.state.path().join("history.sqlite")).unwrap();
    database.execute_batch("BEGIN EXCLUSIVE").unwrap();
    let error = History::open(desk.state.path()).unwrap_err().to_string();
    assert!(error.contains("history.sqlite cannot be used: database is locked"), "{error}");
    database.execute_batch("ROLLBACK").unwrap();
    assert!(History::open(desk.state.path()).is_ok());
}

#[test]
fn a_history_of_an_older_version_goes_on() {
    let rows = [
        (1, "ALTER TABLE runs DROP COLUMN part; ALTER TABLE runs DROP COLUMN changes", "NULL", None),
        (2, "ALTER TABLE runs DROP COLUMN part", "NULL, 7", Some(7)),
        (3, "", "NULL, 7, 0", Some(7)),
    ];
    for (version, without, last, changes) in rows {
        let desk = TestDir::with(&["a"]);
        drop(desk.history());
        let path = desk.state.path().join("history.sqlite");
        let database = rusqlite::Connection::open(&path).unwrap();
        database.execute_batch("ALTER TABLE runs DROP COLUMN rule_text; DROP TABLE rule_texts").unwrap();
        database.execute_batch("DROP TABLE packed").unwrap();
        database.execute_batch(without).unwrap();
        let run = format!("INSERT INTO runs VALUES (1, 'names', 5, 6, x'2f', '[]', '[]', {last})");
        database.execute_batch(&run).unwrap();
        database.pragma_update(None, "user_version", version).unwrap();
        drop(database);
        for _ in 0..2 {
            let runs = History::open(desk.state.path()).unwrap().runs().unwrap();
            assert_eq!(runs.iter().map(|run| (run.id, run.changes)).collect::<Vec<_>>(), [(1, changes)], "{version}");
        }
    }
}

#[test]
fn a_folder_named_in_several_ways_is_planned_once() {
    let desk = TestDir::with(&["a_1", "a_2"]);
    let folder = desk.folder.path();
    let paths = vec![
        folder.to_owned(),
        folder.join("."),
        folder.join("a_1"),
        folder.join("../").join(folder.file_name().unwrap()),
    ];
    let chosen = choose(&Choice { paths, take: Take::Names, ..Choice::default() }).unwrap();
    let set = RuleSet::read("set", "[[rule]]\nremove = { chars = '_' }").unwrap();
    let washer = NameWasher::new(&Program::compile([&set]), &set.names);
    let plans = Plans::make(
        chosen.entries(),
        RequestSource::Rules(&washer),
        NameOrder::Name,
        Planner::default(),
        &Meter::default(),
    );
    assert_eq!((plans.folders.len(), plans.renames(), &plans.changes[..]), (1, 2, &[2][..]));
}

#[test]
fn plans_to_look_at_are_the_same_and_carry_out_nothing() {
    let desk = TestDir::with(&["a_1", "b_2", "c"]);
    let choice = Choice { paths: vec![desk.folder.path().to_owned()], take: Take::Names, ..Choice::default() };
    let chosen = choose(&choice).unwrap();
    let set = RuleSet::read("set", "[[rule]]\nremove = { chars = '_' }").unwrap();
    let washer = NameWasher::new(&Program::compile([&set]), &set.names);
    let source = RequestSource::Rules(&washer);
    let (order, planner) = (NameOrder::Name, Planner::default());
    let plans = Plans::to_look_at(chosen.entries(), source, order, planner, &Meter::default());
    let real = Plans::make(chosen.entries(), source, order, planner, &Meter::default());
    let outcomes = |plans: &Plans| format!("{:?}", plans.folders[0].names().collect::<Vec<_>>());
    assert_eq!((outcomes(&plans), &plans.changes), (outcomes(&real), &real.changes));
    let carried = carry_out(&plans, None, &About::default(), &Stop::new(), nothing).unwrap();
    assert_eq!((carried.renamed, carried.failed.len()), (0, 2));
    desk.names(&[("a_1", "a_1"), ("b_2", "b_2"), ("c", "c")]);
    assert_eq!(carry_out(&real, None, &About::default(), &Stop::new(), nothing).unwrap().renamed, 2);
}

/// The first names are those that files have.
const POOL: [&str; 12] = ["a", "b", "c", "d", "e", "f", "g", "h", "s", "t", "u", "v"];

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    /// Chains and circles of names, stopped after any rename: no file is lost, and all names come back.
    #[test]
    fn every_file_is_kept_through_chains_and_circles_of_names_and_comes_back(
        new in prop::sample::subsequence(POOL.to_vec(), 1..9).prop_shuffle(),
        stop_after in prop::option::of(0..9_u64),
    ) {
        let old = &POOL[..new.len()];
        let desk = TestDir::with(old);
        let pairs: Vec<(&str, &str)> = old.iter().copied().zip(new).filter(|(old, new)| old != new).collect();
        prop_assume!(!pairs.is_empty());
        let (before, plans) = (desk.files(), desk.plans(&pairs));
        let (mut history, stop, mut done) = (desk.history(), Stop::new(), 0);
        if stop_after == Some(0) {
            stop.request();
        }
        let carried = carry_out(&plans, Some(&mut history), &About::default(), &stop, |_, _, _| {
            done += 1;
            if Some(done) == stop_after {
                stop.request();
            }
        });
        let carried = carried.unwrap();
        prop_assert!(carried.failed.is_empty());
        prop_assert_eq!((carried.renamed, carried.renamed + carried.not_begun), (done, pairs.len() as u64));
        let after = desk.files();
        let held = |files: &BTreeMap<String, String>| files.values().cloned().collect::<BTreeSet<_>>();
        prop_assert_eq!((after.len(), held(&after)), (before.len(), held(&before)), "each file is there once");
        for (old, new) in &pairs {
            let is_done = after.get(*new).is_some_and(|held| held == old);
            prop_assert!(is_done || after.get(*old).is_some_and(|held| held == old), "{old} has one of its names");
            prop_assert!(is_done || stop_after.is_some());
        }
        let undo = plan_undo(&history, carried.run.unwrap(), &[], false).unwrap();
        prop_assert!(undo.refused.is_empty());
        undo.carry_out(&mut history, &About::default(), &Stop::new(), nothing).unwrap();
        prop_assert_eq!(desk.files(), before);
    }
}
