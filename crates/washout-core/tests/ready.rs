//! Every ready set reads well, proves its examples, and has nothing left to do on what it gave.

use washout_core::ready::ReadySet;
use washout_core::{Program, RuleSet};

#[test]
fn every_ready_set_holds_and_is_done_after_one_run() {
    let mut failed = Vec::new();
    for ready in ReadySet::ALL {
        let set = RuleSet::read(ready.name, ready.source).unwrap_or_else(|error| panic!("{error}"));
        assert!(set.title.is_some() && set.about.is_some() && !set.examples.is_empty(), "{} is bare", ready.name);
        let program = Program::compile([&set]);
        for proof in set.prove(None) {
            let got = proof.got.clone().expect("no pattern that looks around");
            if !proof.holds() {
                failed.push(format!("{}: {:?}", ready.name, String::from_utf8_lossy(&got)));
            }
            let again = program.apply(&got).expect("no pattern that looks around").into_text().into_owned();
            if again != got {
                failed.push(format!("{} again: {:?}", ready.name, String::from_utf8_lossy(&again)));
            }
        }
    }
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}
