//! Every case of the core's corpus, through the built program as a filter.

mod support;

use serde::Deserialize;
use support::Desk;

#[derive(Deserialize)]
struct File {
    case: Vec<Case>,
}

#[derive(Deserialize)]
struct Case {
    name: String,
    rules: String,
    given: String,
    gives: String,
}

/// In `given` and `gives`, `\xNN` is a byte.
fn bytes(text: &str) -> Vec<u8> {
    let mut parts = text.split("\\x");
    let mut bytes = parts.next().unwrap_or_default().as_bytes().to_vec();
    for part in parts {
        bytes.push(u8::from_str_radix(&part[..2], 16).expect("two hex digits"));
        bytes.extend_from_slice(&part.as_bytes()[2..]);
    }
    bytes
}

#[test]
fn the_program_gives_what_the_cases_say() {
    let desk = Desk::new();
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../washout-core/tests/cases");
    let mut count = 0;
    for entry in std::fs::read_dir(folder).expect("the cases") {
        let path = entry.expect("an entry").path();
        let file: File = toml::from_str(&std::fs::read_to_string(&path).expect("a file")).expect("cases");
        for case in file.case {
            count += 1;
            desk.write("case.wash.toml", case.rules.as_bytes());
            let ran = desk.run_with(&["clean", "-r", "case.wash.toml"], &bytes(&case.given)).status(0).silent_err();
            assert_eq!(ran.out, bytes(&case.gives), "{}\n{ran}", case.name);
        }
    }
    assert!(count >= 90, "only {count} cases found");
}
