//! Tables of names: whatever a folder holds, its table is read as what was written.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

use std::collections::BTreeSet;
use std::ffi::OsStr;
use std::fs;
use std::os::unix::ffi::OsStrExt;
use std::path::PathBuf;

use proptest::collection::btree_set;
use proptest::prelude::*;
use washout_core::names::{NameOutcome, NameWasher, Planner};
use washout_core::{Program, RuleSet};
use washout_files::{Choice, Chosen, Meter, NameMap, NameOrder, Plans, RequestSource, Take, choose, write_map};

/// Bytes that a table has to quote, that are not UTF-8, or that it escapes; no name is `.` or `..`.
const PARTS: &[&[u8]] =
    &[b"a", b"_", b"lamp", b",", b"\"", b"\n", b"\r", b"%", b"%41", b" ", b"=", b"\xFF", "灯".as_bytes(), b".", b"-"];

fn name() -> impl Strategy<Value = Vec<u8>> {
    prop::collection::vec(prop::sample::select(PARTS), 1..6)
        .prop_map(|parts| parts.concat())
        .prop_filter("a name that a folder can hold", |name| name.iter().any(|byte| *byte != b'.'))
}

fn taken(folder: &std::path::Path) -> Chosen {
    let choice = Choice { paths: vec![folder.to_owned()], take: Take::Names, with_hidden: true, ..Choice::default() };
    choose(&choice).unwrap()
}

/// Each name with what becomes of it, as far as that is a new name.
fn renames(plans: &Plans) -> BTreeSet<(Vec<u8>, Vec<u8>)> {
    let names = plans.folders.iter().flat_map(washout_files::PlannedFolder::names);
    names
        .filter_map(|name| match name.outcome {
            NameOutcome::Becomes(new) => Some((name.name.to_vec(), new.clone())),
            _ => None,
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    #[test]
    fn a_table_of_any_names_is_read_as_the_plan_it_was_written_from(names in btree_set(name(), 1..8)) {
        let desk = tempfile::tempdir().unwrap();
        let folder: PathBuf = desk.path().canonicalize().unwrap();
        for name in &names {
            fs::write(folder.join(OsStr::from_bytes(name)), b"").unwrap();
        }
        let rules = "[[rule]]\nreplace = { chars = '_', with = '-' }\n[[rule]]\nremove.text = ','\n[names]\npart = 'whole'\n";
        let set = RuleSet::read("set", rules).unwrap();
        let program = Program::compile([&set]);
        let washer = NameWasher::new(&program, &set.names);
        let chosen = taken(&folder);
        let planner = Planner::default;
        let plans = Plans::make(chosen.entries(), RequestSource::Rules(&washer), NameOrder::Name, planner(), &Meter::default());
        let mut table = Vec::new();
        write_map(&plans, &mut table).unwrap();
        let refused = plans.folders.iter().flat_map(washout_files::PlannedFolder::names).any(|name| name.refusal().is_some());
        // A table asks for every name in it, so one that cannot be is an error there.
        let map = match NameMap::read(&table, std::slice::from_ref(&folder), planner()) {
            Ok(map) => map,
            Err(error) => {
                prop_assert!(refused, "{:?} of {}", error, table.escape_ascii());
                return Ok(());
            }
        };
        let again = Plans::make(map.chosen().entries(), RequestSource::Map(&map), NameOrder::Name, planner(), &Meter::default());
        prop_assert_eq!(renames(&plans), renames(&again), "{}", table.escape_ascii());
    }
}
