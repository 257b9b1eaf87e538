//! What is kept of changes to be shown and written down: whatever is looked at, the same is found.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

#[path = "../../washout-core/tests/random/mod.rs"]
#[allow(dead_code, reason = "only whole rules and texts are used")]
mod random;

use std::fs;
use std::io::Read;
use std::path::Path;

use proptest::prelude::*;
use washout_core::observe::{Detail, Hunk, Lineage};
use washout_core::{Program, RuleId, RuleSet};
use washout_files::{Aim, Choice, FileRecorder, Follow, Followed, Meter, Recorder, Run, State, Stop, Washed, choose};

fn program(rules: &str) -> Program {
    Program::compile([&RuleSet::read("set", rules).unwrap()])
}

/// What a run says of each file: what happened to it, if it differs, and what was kept.
type Seen = Vec<(Washed, Option<Option<Followed>>)>;

/// Washes all files below a folder on that many threads.
fn wash(folder: &Path, program: &Program, aim: &Aim, follow: Follow<'_>, first: Option<u64>, threads: usize) -> Seen {
    let chosen = choose(&Choice { paths: vec![folder.to_owned()], ..Choice::default() }).unwrap();
    let (stop, meter) = (Stop::new(), Meter::default());
    let run = Run { follow, first_lines: first, ..Run::new(program, aim, &stop, &meter) };
    let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build().unwrap();
    let mut states = Vec::new();
    pool.install(|| run.wash_all(&chosen.files, |report| states.push(report.state)));
    let seen = states.into_iter().map(|state| match state {
        State::Changed(washed, followed) => (washed, Some(followed)),
        State::Unchanged(washed) => (washed, None),
        other => panic!("{other:?}"),
    });
    seen.collect()
}

/// Writes a line for each hunk: its first line, and how many lines it has before and after.
struct Lines;

impl Recorder for Lines {
    fn file<'f>(&'f self, _path: &'f Path) -> Box<dyn FileRecorder + Send + 'f> {
        Box::new(Self)
    }
}

impl FileRecorder for Lines {
    fn hunk(&mut self, hunk: &Hunk, out: &mut Vec<u8>) {
        let Hunk { first_line, lines_before, lines_after, .. } = hunk;
        out.extend(format!("{first_line} {lines_before} {lines_after}\n").into_bytes());
    }

    fn byte_order_mark(&mut self, rule: RuleId, out: &mut Vec<u8>) {
        out.extend(format!("mark {}\n", rule.0).into_bytes());
    }
}

fn read(mut record: impl Read) -> String {
    let mut text = String::new();
    record.read_to_string(&mut text).unwrap();
    text
}

const SHOWN: Follow<'_> = Follow { hunks: 3, files: usize::MAX, only: false, recorders: &[] };

proptest! {
    #![proptest_config(ProptestConfig { cases: 200, ..ProptestConfig::default() })]

    #[test]
    fn a_preview_says_of_a_file_what_writing_does_to_it(
        rules in random::rules(),
        text in random::text(),
        first in prop::option::weighted(0.2, 1..6_u64),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let (path, program) = (folder.path().join("log.txt"), program(&rules));
        fs::write(&path, &text).unwrap();
        let preview = |follow| wash(folder.path(), &program, &Aim::Preview, follow, first, 1);
        let (bare, shown) = (preview(Follow::default()), preview(SHOWN));
        let recorded = preview(Follow { recorders: &[&Lines, &Lines], ..SHOWN });
        let [(bare, bare_differs), (shown, shown_differs), (all, all_differs)] =
            [bare, shown, recorded].map(|mut seen| seen.pop().unwrap());
        prop_assert_eq!((&bare, bare_differs.is_some()), (&shown, shown_differs.is_some()));
        prop_assert_eq!((&bare, bare_differs.is_some()), (&all, all_differs.is_some()));
        if let (Some(Some(shown)), Some(Some(all))) = (shown_differs, all_differs) {
            prop_assert_eq!(shown.excerpt.totals, all.excerpt.totals);
            prop_assert_eq!(&shown.excerpt.hunks, &all.excerpt.hunks);
            let records: Vec<String> = all.records.into_iter().map(read).collect();
            prop_assert_eq!(&records[0], &records[1]);
            let hunks = records[0].lines().filter(|line| !line.starts_with("mark")).count() as u64;
            prop_assert_eq!(Some(hunks), shown.excerpt.totals.map(|totals| totals.hunks));
        }
        // The first lines alone are for looking.
        if first.is_none() {
            let (written, differs) = wash(folder.path(), &program, &Aim::Write, Follow::default(), None, 1).pop().unwrap();
            prop_assert_eq!((written.changes, differs.is_some()), (bare.changes, bare_differs.is_some()));
            prop_assert_eq!(fs::read(&path).unwrap() != text, differs.is_some());
        }
    }
}

#[test]
fn of_a_long_file_what_is_shown_is_followed_and_all_is_counted() {
    let folder = tempfile::tempdir().unwrap();
    let rules = "[[rule]]\nremove.words = 'um'\n[[rule]]\ndrop_lines.pattern = '^DRAFT$'\n[[rule]]\ntrim.at = 'end'\n";
    let lines = "um the lamp \nDRAFT\nno boat\nfog, um\r\n";
    fs::write(folder.path().join("long.txt"), lines.repeat(60_000)).unwrap();
    let program = program(rules);
    let preview = |follow, threads| wash(folder.path(), &program, &Aim::Preview, follow, None, threads).pop().unwrap();
    let (all, followed) = preview(Follow { recorders: &[&Lines], ..SHOWN }, 1);
    let followed = followed.unwrap().unwrap();
    let record = read(followed.records.into_iter().next().unwrap());
    assert_eq!(record.lines().count(), 180_000, "three lines of four");
    // Most of a long file is followed and written on other threads: what they write is what one thread finds.
    let (mut washer, mut out) = (program.washer(Lineage::new(3, Detail::Parts)), Vec::new());
    washer.push(lines.repeat(60_000).as_bytes(), &mut out).unwrap();
    washer.finish(&mut out).unwrap();
    let mut found = Vec::new();
    washer.into_observer().finish().iter().for_each(|hunk| Lines.hunk(hunk, &mut found));
    assert!(record.as_bytes() == found, "the same hunks in the same order");
    assert_eq!(followed.excerpt.totals.map(|totals| (totals.hunks, totals.changed_lines)), Some((180_000, 180_000)));
    for threads in [1, 2, 3] {
        let (shown, kept) = preview(SHOWN, threads);
        let kept = kept.unwrap().unwrap().excerpt;
        assert_eq!((&shown, &kept.hunks), (&all, &followed.excerpt.hunks), "{threads} threads");
        assert_eq!(kept.totals, None, "most of it was not followed");
        assert!(kept.differs() && kept.more_hunks().is_none());
        let (bare, kept) = preview(Follow::default(), threads);
        assert!(bare == all && kept.unwrap().is_none());
    }
    let first = Follow { hunks: 1, only: true, ..SHOWN };
    let (part, kept) = preview(first, 2);
    assert_eq!(kept.unwrap().unwrap().excerpt.hunks[..], followed.excerpt.hunks[..1]);
    assert!(part.before.bytes < all.before.bytes, "the rest was not read");
}

#[test]
fn hunks_are_kept_of_as_many_files_as_are_wanted() {
    let folder = tempfile::tempdir().unwrap();
    (0..1_200).for_each(|number| fs::write(folder.path().join(format!("{number:04}.txt")), "um fog\n").unwrap());
    let program = program("[[rule]]\nremove.words = 'um'\n");
    let seen = wash(folder.path(), &program, &Aim::Preview, Follow { files: 8, ..SHOWN }, None, 2);
    let kept: Vec<bool> = seen.into_iter().map(|(_, followed)| followed.unwrap().is_some()).collect();
    assert_eq!(kept.len(), 1_200);
    assert!(kept[..8].iter().all(|kept| *kept), "at least those");
    assert!(kept[1_100..].iter().all(|kept| !kept), "and not all others");
}
