//! Runs that are forgotten take nothing with them that another run needs, whatever is kept and however large it is.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use washout_core::{Program, RuleSet};
use washout_files::{About, Aim, Choice, History, HistoryLimits, Keeper, Meter, Run, Stop, choose, plan_restore};

/// Something that happens to a folder of files and its history.
#[derive(Clone, Debug)]
enum Deed {
    /// Files get new contents, each of this size and made from this seed; equal seeds make equal contents.
    Fill(Vec<(usize, u8)>),
    /// A run over all of them.
    Clean,
    /// The oldest runs are forgotten until no more than this is kept, in bytes.
    Prune(u64),
    /// All runs but the newest are forgotten.
    ForgetOld,
}

/// Around the sizes at which contents are kept in another way: together in one file, or each in its own.
const SIZES: [usize; 7] = [1, 100, 4096, (64 << 10) - 1, 64 << 10, (64 << 10) + 1, 200 << 10];

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        3 => vec((select(&SIZES[..]), 0..4_u8), 4).prop_map(Deed::Fill),
        4 => Just(Deed::Clean),
        2 => select(&[0, 500, 70 << 10, 300 << 10, 1 << 30][..]).prop_map(Deed::Prune),
        1 => Just(Deed::ForgetOld),
    ]
}

/// Text that does not shrink to nothing when it is kept, with something to clean in it.
fn filled(size: usize, seed: u8) -> Vec<u8> {
    let mut state = u64::from(seed) + 1;
    let letter = |_| {
        state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        b'a' + u8::try_from(state >> 59).unwrap() % 26
    };
    let mut text: Vec<u8> = (0..size).map(letter).collect();
    text[size / 2] = b'#';
    text
}

fn clean(history: History, folder: &Path) -> Option<i64> {
    let program = Program::compile([&RuleSet::read("set", "[[rule]]\nremove.chars = '#'\n").unwrap()]);
    let files = choose(&Choice { paths: vec![folder.to_owned()], ..Choice::default() }).unwrap().files;
    let keeper = Keeper::new(history, About::default()).unwrap();
    let (stop, meter) = (Stop::new(), Meter::default());
    let run = Run { keeper: Some(&keeper), ..Run::new(&program, &Aim::Write, &stop, &meter) };
    run.wash_all(&files, |_| {});
    keeper.end(None, false).unwrap()
}

/// What is in the folder with the originals, in bytes.
fn room(state: &Path) -> u64 {
    let entries = fs::read_dir(state.join("originals")).into_iter().flatten().flatten();
    entries.map(|entry| if entry.path().is_dir() { 0 } else { entry.metadata().unwrap().len() }).sum()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 30, ..ProptestConfig::default() })]

    #[test]
    fn what_is_forgotten_takes_nothing_with_it_that_a_later_run_needs(deeds in vec(deed(), 1..14)) {
        let (desk, state) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let folder = desk.path().canonicalize().unwrap();
        let paths: Vec<PathBuf> = (0..4).map(|number| folder.join(format!("{number}.txt"))).collect();
        paths.iter().for_each(|path| fs::write(path, "fog").unwrap());
        // Of each run that is remembered, what the files had before.
        let mut runs: BTreeMap<i64, BTreeMap<PathBuf, Vec<u8>>> = BTreeMap::new();
        for deed in deeds {
            let mut history = History::open(state.path()).unwrap();
            match &deed {
                Deed::Fill(contents) => {
                    for (path, (size, seed)) in paths.iter().zip(contents) {
                        fs::write(path, filled(*size, *seed)).unwrap();
                    }
                }
                Deed::Clean => {
                    let before = paths.iter().map(|path| (path.clone(), fs::read(path).unwrap()));
                    let before: BTreeMap<_, _> = before.filter(|(_, text)| text.contains(&b'#')).collect();
                    let run = clean(history, &folder);
                    prop_assert_eq!(run.is_some(), !before.is_empty());
                    runs.extend(run.map(|run| (run, before)));
                    continue;
                }
                Deed::Prune(bytes) => {
                    let pruned = history.prune(HistoryLimits { days: None, bytes: Some(*bytes) }).unwrap();
                    let newest = runs.keys().last().copied();
                    let oldest: Vec<i64> = runs.keys().copied().take(pruned.runs.len()).collect();
                    prop_assert_eq!(&pruned.runs, &oldest, "the oldest go first");
                    prop_assert!(!newest.is_some_and(|newest| pruned.runs.contains(&newest)), "the newest stays");
                    runs.retain(|run, _| !pruned.runs.contains(run));
                    prop_assert!(history.originals_size() <= *bytes || runs.len() <= 1, "{deed:?} leaves too much");
                }
                Deed::ForgetOld => {
                    history.prune(HistoryLimits { days: Some(0), bytes: None }).unwrap();
                    while runs.len() > 1 {
                        runs.pop_first();
                    }
                }
            }
            let remembered: Vec<i64> = history.runs().unwrap().iter().map(|run| run.id).rev().collect();
            prop_assert_eq!(&remembered, &runs.keys().copied().collect::<Vec<_>>());
            if runs.is_empty() {
                prop_assert_eq!(room(state.path()), 0, "nothing is kept for nobody");
            }
        }
        // The newest first: each finds the files as it left them.
        for (run, before) in runs.iter().rev() {
            for (path, text) in before {
                fs::write(path, text.iter().copied().filter(|byte| *byte != b'#').collect::<Vec<u8>>()).unwrap();
            }
            let history = History::open(state.path()).unwrap();
            let plan = plan_restore(&history, *run, &[], false).unwrap();
            prop_assert_eq!((plan.files.len(), plan.refused.len()), (before.len(), 0));
            let keeper = Keeper::new(history, About { undoes: Some(*run), ..About::default() }).unwrap();
            let (done, failed) = plan.carry_out(&keeper, &Stop::new(), &Meter::default());
            prop_assert_eq!((done, failed.len()), (before.len() as u64, 0));
            keeper.end(None, false).unwrap();
            for (path, text) in before {
                prop_assert!(fs::read(path).unwrap() == *text, "run {run}: {} is not as it was", path.display());
            }
        }
    }
}
