//! Plans of names, carried out on a folder in memory.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

mod folder;

use std::collections::BTreeMap;

use folder::Folder;
use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use washout_core::names::{NameOutcome, NameRequest, NameSettings, NameWasher, OnClash, Planner};
use washout_core::{Program, RuleSet};

fn name() -> impl Strategy<Value = String> {
    // Few names, so that they meet: two letters in either case, and a name that temporary ones could have.
    prop_oneof![
        8 => vec(select(vec!['a', 'A', 'b', 'B']), 1..3).prop_map(|letters| letters.into_iter().collect()),
        1 => Just(".washout-0".to_owned()),
        1 => Just("a (2)".to_owned()),
        1 => Just(String::new()),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2000, ..ProptestConfig::default() })]
    #[test]
    fn no_file_is_lost_and_the_way_back_is_exact(
        names in vec(name().prop_filter("a name", |name| !name.is_empty()), 1..12),
        wanted in vec(proptest::option::weighted(0.8, name()), 12),
        folds in any::<bool>(),
        numbers in any::<bool>(),
    ) {
        let mut names = names;
        names.sort_by_key(|name| if folds { name.to_lowercase() } else { name.clone() });
        names.dedup_by_key(|name| if folds { name.to_lowercase() } else { name.clone() });
        let start = Folder::of(&names, folds);
        let on_clash = if numbers { OnClash::Number } else { OnClash::Refuse };
        let request = |wanted: &Option<String>| wanted.clone().map_or(NameRequest::Stay, |name| NameRequest::Become(name.into_bytes()));
        let entries: Vec<_> = names.iter().zip(&wanted).map(|(name, wanted)| (name, false, request(wanted))).collect();
        let plan = Planner { on_clash, folds, ..Planner::default() }.plan(&entries);

        let mut folder = start.clone();
        folder.carry_out(&names, &plan);
        let now = folder.names();
        prop_assert_eq!(now.len(), names.len());
        for (file, outcome) in plan.outcomes.iter().enumerate() {
            let want = match outcome {
                NameOutcome::Becomes(new) => String::from_utf8(new.clone()).unwrap(),
                NameOutcome::Stays | NameOutcome::Refused(..) => names[file].clone(),
            };
            prop_assert_eq!(&now[file], &want);
            // Nobody is refused for nothing, and what nobody else wants or has is given.
            if let (NameOutcome::Refused(Some(_), why), Some(other)) = (outcome, fate_other(outcome)) {
                let named = names.iter().chain(&now).chain(wanted.iter().flatten());
                prop_assert!(named.into_iter().any(|name| *name == other), "{:?} refused for {why}", wanted);
            }
        }
        for alike in alike(&now) {
            prop_assert!(alike.iter().all(|file| names[*file].to_lowercase() == names[alike[0]].to_lowercase()),
                "{now:?} brings names together that were not alike in {names:?}");
        }

        let back: Vec<_> = now.iter().zip(&names).map(|(now, name)| (now, false, NameRequest::Become(name.clone().into_bytes()))).collect();
        let undo = Planner { folds, restores: true, ..Planner::default() }.plan(&back);
        folder.carry_out(&now, &undo);
        prop_assert_eq!(folder, start);
    }
}

fn fate_other(outcome: &NameOutcome) -> Option<String> {
    match outcome {
        NameOutcome::Refused(_, why) => why.other().map(|other| String::from_utf8(other.to_vec()).unwrap()),
        NameOutcome::Stays | NameOutcome::Becomes(_) => None,
    }
}

/// Files whose names differ in letter case only.
fn alike(names: &[String]) -> Vec<Vec<usize>> {
    let mut groups: BTreeMap<String, Vec<usize>> = BTreeMap::new();
    names.iter().enumerate().for_each(|(file, name)| groups.entry(name.to_lowercase()).or_default().push(file));
    groups.into_values().filter(|group| group.len() > 1).collect()
}

/// Old name, wanted name, and what becomes of it: a name, or the word for why not.
type Row = (&'static str, &'static str, &'static str);

#[test]
fn what_becomes_of_names_that_meet() {
    let refuse = Planner::default();
    let number = Planner { on_clash: OnClash::Number, ..refuse };
    let cases: &[(&str, Planner, &[Row])] = &[
        ("a swap", refuse, &[("a", "b", "b"), ("b", "a", "a")]),
        ("a chain", refuse, &[("a", "b", "b"), ("b", "c", "c")]),
        ("taken by one that stays", refuse, &[("a", "b", "taken"), ("b", "b", "b")]),
        ("two want one name", refuse, &[("a", "c", "wanted-twice"), ("b", "c", "wanted-twice")]),
        (
            "who goes back is in the way of others",
            refuse,
            &[("a", "x", "taken"), ("b", "a", "taken"), ("c", "b", "taken"), ("x", "x", "x")],
        ),
        ("differing in case only", refuse, &[("a", "LAMP", "alike"), ("lamp", "lamp", "lamp")]),
        ("its own case", refuse, &[("Lamp", "lamp", "lamp")]),
        ("told apart before", refuse, &[("A", "A1", "A1"), ("a", "a1", "a1")]),
        ("another Unicode form", refuse, &[("x", "e\u{301}", "alike"), ("é", "é", "é")]),
        (
            "numbered in order",
            number,
            &[("a", "c.txt", "c.txt"), ("b", "c.txt", "c (2).txt"), ("d", "c.txt", "c (3).txt")],
        ),
        (
            "numbered after one that stays",
            number,
            &[("a", "c.tar.gz", "c (2).tar.gz"), ("c.tar.gz", "c.tar.gz", "c.tar.gz")],
        ),
        ("numbers that are taken", number, &[("a", "c", "c (3)"), ("c", "c", "c"), ("c (2)", "c (2)", "c (2)")]),
        ("its own number", number, &[("c", "c", "c"), ("c (2)", "c", "c (2)")]),
    ];
    for (what, planner, rows) in cases {
        let entries: Vec<_> =
            rows.iter().map(|(old, new, _)| (*old, false, NameRequest::Become(new.as_bytes().to_vec()))).collect();
        let plan = planner.plan(&entries);
        for ((old, _, want), outcome) in rows.iter().zip(&plan.outcomes) {
            let got = match outcome {
                NameOutcome::Stays => (*old).to_owned(),
                NameOutcome::Becomes(new) => String::from_utf8(new.clone()).unwrap(),
                NameOutcome::Refused(_, why) => why.key().to_owned(),
            };
            assert_eq!(got, *want, "{what}: {old}");
        }
    }
}

#[test]
fn rules_see_their_part_of_a_name_and_underscores_as_blanks() {
    for (set, rows) in [
        (
            "[[rule]]\nremove = { between = ['[', ']'] }\n[[rule]]\nremove = { stock = 'picture-size' }\n[[rule]]\ntrim = {}",
            &[
                ("lamp_room_[draft]_(scan 12).TIFF", "lamp_room_(scan 12).TIFF"),
                ("tides_1920x1080_.png", "tides.png"),
                ("[draft].TIFF", "nothing-left"),
                (".[old]profile", ".profile"),
            ][..],
        ),
        (
            "[[rule]]\nreplace = { chars = '_', with = ' ' }\n[[rule]]\ncollapse = { class = 'blank', with = ' ' }",
            &[("lamp__room _2.txt", "lamp room 2.txt"), ("caf\u{e9}_a.txt", "caf\u{e9} a.txt")],
        ),
        ("[[rule]]\nremove = { words = ['lamp room'] }", &[("the lamp__room_key.txt", "the key.txt")]),
        ("[names]\nblanks = ' '\n[[rule]]\ntrim = {}", &[("_a_ .txt", "_a_.txt")]),
        (
            "[names]\npart = 'extension'\n[[rule]]\nrecase = { to = 'lower' }",
            &[("A.TIFF", "A.tiff"), ("README", "README")],
        ),
        ("[names]\npart = 'extension'\n[[rule]]\nremove = { words = 'bak' }", &[("log.bak", "log")]),
        ("[names]\npart = 'whole'\n[[rule]]\nremove = { pattern = '^x' }", &[("x.hidden", ".hidden")]),
        ("[[rule]]\nremove = { pattern = '^x' }", &[("x.b.txt", "hidden")]),
        (
            "[[rule]]\nnumber = { start = 10, step = 5, width = 3 }",
            &[("b.txt", "010 b.txt"), ("a.txt", "015 a.txt"), ("c", "020 c")],
        ),
        ("[[rule]]\npad = { width = 3, which = 'last' }", &[("1936 scan 7.tif", "1936 scan 007.tif")]),
        (
            r"[[rule]]
replace = { pattern = '^(?<title>.*) (?<day>\d\d)\.(?<month>\d\d)\.(?<year>\d{4})$', with = '${year}-${month}-${day} $title' }",
            &[("relief boat 05.09.1936.txt", "1936-09-05 relief boat.txt")],
        ),
    ] {
        let set = RuleSet::read("set", set).unwrap();
        let mut washer = NameWasher::new(&Program::compile([&set]), &set.names);
        for (name, want) in rows {
            let got = match washer.wash(name.as_bytes(), false).request {
                NameRequest::Stay => (*name).to_owned(),
                NameRequest::Become(new) => String::from_utf8(new).unwrap(),
                NameRequest::Refused(_, why) => why.key().to_owned(),
            };
            assert_eq!(got, *want, "{name}");
        }
        washer.begin_folder();
        if washer.counts() {
            assert_eq!(
                washer.wash(b"z", false).request,
                NameRequest::Become(b"010 z".to_vec()),
                "a folder begins again"
            );
        }
    }
    let broken = RuleSet::read("set", "[[rule]]\nremove = { chars = '#' }").unwrap();
    let washed = NameWasher::new(&Program::compile([&broken]), &NameSettings::default()).wash(b"#caf\xE9#.txt", false);
    assert_eq!(washed.request, NameRequest::Become(b"caf\xE9.txt".to_vec()), "bytes that are not UTF-8 stay");
    assert_eq!(washed.changes, [2]);
}

#[test]
fn a_name_of_which_nothing_is_left_takes_no_number_and_brings_none_back() {
    let rules = "[[rule]]\nremove.text = 'gone'\n[[rule]]\nnumber = { chars = '#' }\n";
    let program = Program::compile([&RuleSet::read("set", rules).expect("good rules")]);
    let mut washer = NameWasher::new(&program, &NameSettings::default());
    let become_1 = NameRequest::Become(b"a1".to_vec());
    assert_eq!(washer.wash(b"a#", false).request, become_1);
    washer.begin_folder();
    assert!(matches!(washer.wash(b"gone", false).request, NameRequest::Refused(..)));
    assert_eq!(washer.wash(b"a#", false).request, become_1);
}
