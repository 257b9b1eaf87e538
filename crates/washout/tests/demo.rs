//! `washout demo`, and the demo data itself.

mod support;

use support::TestDir;
use washout_core::{Program, RuleSet};

#[test]
fn the_demo_unpacks_cleans_and_says_what_to_type_next() {
    let desk = TestDir::new();
    let ran = desk.run(&["demo", "--into", "papers"]).status(0).silent_err().says(&[
        "Marrow Point light station",
        "logbook.wash.toml  Logbook",
        "no line numbers, at either edge",
        "4 files changed",
        "What to type next",
        "clean -r papers/radio.wash.toml papers/radio --all",
    ]);
    assert!(!ran.out().contains("← none"), "a shipped rule that does nothing: {ran}");
    let watch = desk.read("papers/cleaned/radio/watch-1.txt");
    assert!(watch.contains("I make it 02:15. What do you make it? Over.\n"), "{watch}");
    desk.run(&["clean", "-r", "papers/radio.wash.toml", "papers/radio", "--all"]).status(0);
    desk.run(&["demo", "--into", "papers"]).status(2).warns(&["papers is not empty"]);
}

#[test]
fn the_demo_is_large_enough_to_mean_something_and_its_examples_hold() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo");
    let mut lines = 0;
    for name in ["logbook", "notices", "radio"] {
        let path = format!("{folder}/{name}.wash.toml");
        let set = RuleSet::read(&path, &std::fs::read_to_string(&path).expect("a rule set")).expect("good rules");
        let program = Program::compile([&set]);
        assert!(!set.examples.is_empty(), "{name} has no example");
        for example in &set.examples {
            let washed = program.apply(&example.given).expect("plain rules");
            assert_eq!(washed.text(), example.gives, "{name}");
        }
        for entry in std::fs::read_dir(format!("{folder}/{name}")).expect("a folder") {
            let text = std::fs::read_to_string(entry.expect("an entry").path()).expect("a file");
            lines += text.lines().count();
            let once = program.apply(text.as_bytes()).expect("plain rules");
            let (once, twice) =
                (once.text(), program.apply(once.text()).expect("plain rules").into_text().into_owned());
            assert_eq!(
                String::from_utf8_lossy(&twice),
                String::from_utf8_lossy(once),
                "{name}: a second run changes more"
            );
        }
    }
    assert!(lines > 3000, "only {lines} lines");
}
