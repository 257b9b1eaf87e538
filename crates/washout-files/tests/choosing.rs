//! Which files are chosen, against a plain walk through everything that is there.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

use proptest::collection::{btree_map, vec};
use proptest::prelude::*;
use proptest::sample::select;
use washout_files::{Choice, Globs, Take, choose};

/// What is in a folder.
#[derive(Clone, Debug)]
enum Entry {
    File,
    Folder(BTreeMap<&'static str, Entry>),
}

const NAMES: &[&str] = &["a.txt", "b.md", ".hidden", "log", "radio", "c.txt", ".git"];

fn folder() -> impl Strategy<Value = BTreeMap<&'static str, Entry>> {
    let leaf = btree_map(select(NAMES), Just(Entry::File), 0..4);
    leaf.prop_recursive(3, 24, 4, |inner| {
        btree_map(select(NAMES), prop_oneof![Just(Entry::File), inner.prop_map(Entry::Folder)], 0..5)
    })
}

fn make(at: &Path, entries: &BTreeMap<&str, Entry>) {
    fs::create_dir_all(at).expect("a folder");
    for (name, entry) in entries {
        match entry {
            Entry::File => fs::write(at.join(name), "fog\n").expect("a file"),
            Entry::Folder(entries) => make(&at.join(name), entries),
        }
    }
}

/// What a glob of the test means: by the name alone, or, with a `/`, by the path below the folder that was named.
fn is_match(glob: &str, below: &str) -> bool {
    let name = below.rsplit('/').next().unwrap_or(below);
    match glob {
        "*.txt" => ["a.txt", "c.txt"].contains(&name),
        "log" => name == "log",
        "radio/**" => below.starts_with("radio/"),
        "*/a.txt" => below.matches('/').count() == 1 && name == "a.txt",
        _ => unreachable!("{glob}"),
    }
}

const GLOBS: &[&str] = &["*.txt", "log", "radio/**", "*/a.txt"];

/// Files below a folder, by their paths from there. `ignored`: this name is in an ignore file at the top.
fn walked(
    entries: &BTreeMap<&str, Entry>,
    before: &str,
    (with_hidden, ignored): (bool, Option<&str>),
    take: &dyn Fn(&str) -> bool,
    found: &mut BTreeSet<String>,
) {
    for (name, entry) in entries {
        let below = format!("{before}{name}");
        if (name.starts_with('.') && !with_hidden) || ignored == Some(*name) {
            continue;
        }
        match entry {
            Entry::File if take(&below) => drop(found.insert(below)),
            Entry::File => {}
            Entry::Folder(entries) => walked(entries, &format!("{below}/"), (with_hidden, ignored), take, found),
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 150, ..ProptestConfig::default() })]

    #[test]
    fn files_are_those_of_a_plain_walk(
        tree in folder(),
        only in vec(select(GLOBS), 0..2),
        except in vec(select(GLOBS), 0..2),
        with_hidden: bool,
        ignored in prop::option::of(select(&["a.txt", "radio"][..])),
        with_ignored: bool,
    ) {
        let desk = tempfile::tempdir().expect("a folder");
        let top = desk.path().join("papers");
        make(&top, &tree);
        // One that names a file stands above the folder: ignore files of a folder that is walked may be files to be cleaned.
        if let Some(name) = ignored {
            fs::write(desk.path().join(".ignore"), format!("{name}\n")).expect("a file");
        }
        let owned = |globs: &[&str]| globs.iter().map(|glob| (*glob).to_owned()).collect::<Vec<_>>();
        let globs = Globs::new(&owned(&only), &owned(&except)).expect("globs");
        let choice = Choice { paths: vec![top.clone()], globs, with_hidden, with_ignored, ..Choice::default() };
        let take = |below: &str| {
            (only.is_empty() || only.iter().any(|glob| is_match(glob, below))) && !except.iter().any(|glob| is_match(glob, below))
        };
        let mut want = BTreeSet::new();
        walked(&tree, "", (with_hidden, ignored.filter(|_| !with_ignored)), &take, &mut want);
        let chosen = choose(&choice).expect("a folder");
        let found: Vec<PathBuf> = chosen.files.iter().map(|file| file.path.clone()).collect();
        let below = |path: &PathBuf| path.strip_prefix(&top).expect("below").to_string_lossy().into_owned();
        prop_assert_eq!(found.iter().map(below).collect::<BTreeSet<_>>(), want.clone());
        prop_assert!(found.windows(2).all(|pair| pair[0] != pair[1]) && found.len() == want.len(), "each once");
        // The same, named twice over, is chosen once; and folders have names too.
        let twice = Choice { paths: vec![top.join("."), top.clone()], take: Take::NamesAndFolders, ..choice };
        let again = choose(&twice).expect("a folder");
        let files: BTreeSet<PathBuf> =
            again.files.iter().map(|file| file.path.canonicalize().expect("a file")).collect();
        let top = top.canonicalize().expect("a folder");
        let names: BTreeSet<String> =
            files.iter().map(|path| path.strip_prefix(&top).expect("below").to_string_lossy().into_owned()).collect();
        prop_assert_eq!(names, want);
        prop_assert!(again.folders.iter().all(|folder| folder.path.is_dir()));
    }
}
