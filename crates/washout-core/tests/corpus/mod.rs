//! The cases of `tests/cases/*.toml`. The tests of the command read them too.
#![allow(dead_code, unreachable_pub, reason = "each test takes what it needs")]

use serde::Deserialize;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    case: Vec<Case>,
}

/// Rules, and what they make of a text.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Case {
    pub name: String,
    pub rules: String,
    given: String,
    gives: String,
    /// Changes of each rule, where the number matters.
    pub changes: Option<Vec<u64>>,
    /// The reference has no engine for its patterns: only the case itself says what is right.
    #[serde(default)]
    pub beyond_reference: bool,
}

impl Case {
    pub fn given(&self) -> Vec<u8> {
        bytes(&self.given)
    }

    pub fn gives(&self) -> Vec<u8> {
        bytes(&self.gives)
    }
}

/// In `given` and `gives`, `\xNN` is a byte: TOML itself holds no broken UTF-8.
fn bytes(text: &str) -> Vec<u8> {
    let mut parts = text.split("\\x");
    let mut bytes = parts.next().unwrap_or_default().as_bytes().to_vec();
    for part in parts {
        bytes.push(u8::from_str_radix(&part[..2], 16).expect("two hex digits"));
        bytes.extend_from_slice(&part.as_bytes()[2..]);
    }
    bytes
}

/// Every case, with the name of its file before its own.
pub fn cases() -> Vec<Case> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../washout-core/tests/cases");
    let entries = std::fs::read_dir(folder).expect("the folder of cases");
    let mut paths: Vec<_> = entries.map(|entry| entry.expect("an entry").path()).collect();
    paths.sort();
    let mut all = Vec::new();
    for path in paths {
        let text = std::fs::read_to_string(&path).expect("a file of cases");
        let file: File = toml::from_str(&text).unwrap_or_else(|error| panic!("{}: {error}", path.display()));
        let stem = path.file_stem().unwrap_or_default().display().to_string();
        all.extend(file.case.into_iter().map(|case| Case { name: format!("{stem} / {}", case.name), ..case }));
    }
    assert!(all.len() >= 90, "only {} cases found", all.len());
    all
}
