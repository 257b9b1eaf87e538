//! What rules expect is judged on the files as they are, and only those are written.

use std::fs;

use washout_core::{Program, RuleSet};
use washout_files::{Aim, Charsets, Choice, FileError, Meter, Run, Spot, State, Stop, choose, judge};

#[test]
fn a_file_that_vanishes_is_said_and_the_others_are_done() {
    let desk = tempfile::tempdir().expect("a temporary folder");
    let paths: Vec<_> = ["a", "b", "c"].iter().map(|name| desk.path().join(name)).collect();
    paths.iter().for_each(|path| fs::write(path, "um fog\n").expect("a written file"));
    let set = RuleSet::read("set", "[[rule]]\nremove.text = 'um '\n").expect("good rules");
    let program = Program::compile([&set]);
    let chosen = choose(&Choice { paths: paths.clone(), ..Choice::default() }).expect("files that are there");
    fs::remove_file(&paths[1]).expect("it was there");
    let (stop, meter) = (Stop::new(), Meter::default());
    let run = Run::new(&program, &Aim::Write, &stop, &meter);
    let mut states = Vec::new();
    run.wash_all(&chosen.files, |report| states.push(report.state));
    let [State::Changed(..), State::Failed(FileError::Read(_)), State::Changed(..)] = &states[..] else {
        panic!("{states:?}")
    };
    assert_eq!(fs::read_to_string(&paths[2]).expect("the last"), "fog\n");
}

#[test]
fn a_file_that_changes_between_judging_and_writing_is_left_alone() {
    let desk = tempfile::tempdir().expect("a temporary folder");
    for name in ["same.txt", "other.txt"] {
        fs::write(desk.path().join(name), "#fog\n").expect("a written file");
    }
    let rules = RuleSet::read("set", "[[rule]]\nremove.chars = '#'\nexpect = 2\n").expect("good rules");
    let program = Program::compile([&rules]);
    let choice = Choice { paths: vec![desk.path().to_owned()], ..Choice::default() };
    let mut chosen = choose(&choice).expect("a folder");
    assert_eq!(judge(&program, &mut chosen.files, Charsets::default(), &Stop::new()), []);
    fs::write(desk.path().join("other.txt"), "##fog, and more\n").expect("a written file");

    let mut reports = Vec::new();
    let (stop, meter) = (Stop::new(), Meter::default());
    let run = Run::new(&program, &Aim::Write, &stop, &meter);
    run.wash_all(&chosen.files, |report| reports.push(report));
    let [other, same] = &reports[..] else { panic!("{reports:?}") };
    assert!(matches!(other.state, State::Failed(FileError::ChangedMeanwhile)), "{other:?}");
    assert!(matches!(same.state, State::Changed(..)), "{same:?}");
    let read = |name: &str| fs::read_to_string(desk.path().join(name)).expect("a file");
    assert_eq!((read("other.txt").as_str(), read("same.txt").as_str()), ("##fog, and more\n", "fog\n"));
}

#[test]
fn files_that_are_left_out_or_cannot_be_read_do_not_count() {
    let desk = tempfile::tempdir().expect("a temporary folder");
    fs::write(desk.path().join("log.txt"), "#fog\nhorn\n#boat\n").expect("a written file");
    fs::write(desk.path().join("scan.bin"), b"#\0\x01\x02\x03\0#").expect("a written file");
    let rules = RuleSet::read("set", "[[rule]]\nremove.chars = '#'\nexpect_each = '3..'\n").expect("good rules");
    let program = Program::compile([&rules]);
    let mut chosen = choose(&Choice { paths: vec![desk.path().to_owned()], ..Choice::default() }).expect("a folder");
    let unmet = judge(&program, &mut chosen.files, Charsets::default(), &Stop::new());
    let [unmet] = &unmet[..] else { panic!("{unmet:?}") };
    let log = desk.path().join("log.txt");
    assert_eq!((unmet.found, unmet.file.as_ref()), (2, Some(&log)));
    assert_eq!(unmet.places, [(log.clone(), Spot::Line(1)), (log, Spot::Line(3))]);
}
