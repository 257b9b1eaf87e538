//! Links that take the place of folders while a run is at work are not followed.

use std::fs;
use std::os::unix::fs::symlink;
use std::path::Path;

use washout_core::names::Planner;
use washout_core::{Program, RuleSet};
use washout_files::{
    About, Aim, Choice, Chosen, Meter, NameMap, NameOrder, Plans, Replacing, RequestSource, Run, State, Stop, Take,
    carry_out, choose,
};

/// A folder to be named with a folder below it, and one beside it with a file of the same name.
fn desk() -> tempfile::TempDir {
    let desk = tempfile::tempdir().expect("a temporary folder");
    for folder in ["named/watch", "outside"] {
        fs::create_dir_all(desk.path().join(folder)).expect("a folder");
        fs::write(desk.path().join(folder).join("log.txt"), "um fog\n").expect("a file");
    }
    desk
}

fn choose_all(desk: &Path, take: Take) -> Chosen {
    choose(&Choice { paths: vec![desk.join("named")], take, ..Choice::default() }).expect("a folder")
}

/// A link to the folder outside takes the place of the one that was found.
fn swap(desk: &Path) {
    fs::rename(desk.join("named/watch"), desk.join("aside")).expect("a folder that moves");
    symlink("../outside", desk.join("named/watch")).expect("a link");
}

#[test]
fn a_folder_that_became_a_link_is_neither_read_nor_written_through() {
    let rules = RuleSet::read("set", "[[rule]]\nremove.text = 'um '\n").expect("good rules");
    let program = Program::compile([&rules]);
    for write in [false, true] {
        let desk = desk();
        let chosen = choose_all(desk.path(), Take::Contents);
        swap(desk.path());
        let aim = if write { &Aim::Write } else { &Aim::Preview };
        let replacing = Replacing { follows_links: true, ..Replacing::default() };
        let (stop, meter) = (Stop::new(), Meter::default());
        let run = Run { replacing, ..Run::new(&program, aim, &stop, &meter) };
        let mut states = Vec::new();
        run.wash_all(&chosen.files, |report| states.push(report.state));
        let [State::Failed(error)] = &states[..] else { panic!("{states:?}") };
        assert!(error.to_string().contains("a link has taken its place, or that of a folder above it"), "{error}");
        assert!(chosen.files[0].open().is_err());
        assert_eq!(fs::read_to_string(desk.path().join("outside/log.txt")).expect("a file"), "um fog\n");
        assert_eq!(fs::read_dir(desk.path().join("outside")).expect("a folder").count(), 1, "nothing was left there");
    }
}

#[test]
fn names_behind_a_folder_that_became_a_link_stay() {
    let desk = desk();
    let list = format!("folder,old,new\n{},log.txt,fog.txt\n", desk.path().join("named/watch").display());
    let map = NameMap::read(list.as_bytes(), &[desk.path().join("named")], Planner::default()).expect("a good map");
    let source = RequestSource::Map(&map);
    let plan = |chosen: &Chosen| {
        Plans::make(chosen.entries(), source, NameOrder::default(), Planner::default(), &Meter::default())
    };
    let chosen = choose_all(desk.path(), Take::Names);
    let planned = plan(&chosen);
    assert_eq!(planned.renames(), 1);
    swap(desk.path());
    // What was planned before is not carried out, and nothing is planned any more.
    let carried = carry_out(&planned, None, &About::default(), &Stop::new(), |_, _, _| {}).expect("no history");
    assert_eq!((carried.renamed, carried.failed.len()), (0, 1));
    let late = plan(&chosen);
    assert_eq!((late.renames(), late.failed.len()), (0, 1));
    assert!(desk.path().join("outside/log.txt").exists());
}
