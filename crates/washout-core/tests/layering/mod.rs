//! Reads how modules use each other.
#![allow(unreachable_pub, reason = "tests of other crates use it too")]

use std::fs;
use std::path::{Path, PathBuf};

fn rust_files(folder: &Path, files: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).expect("a folder of the sources") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            rust_files(&path, files);
        } else if path.extension().is_some_and(|extension| extension == "rs") {
            files.push(path);
        }
    }
}

/// The names of the modules that a line of code mentions by their path from the root of the crate.
fn mentioned(line: &str) -> impl Iterator<Item = &str> {
    let after = line.split("crate::").skip(1);
    after.map(|rest| rest.split(|c: char| !(c.is_ascii_lowercase() || c == '_')).next().unwrap_or_default())
}

/// Fails if a module of the crate at `folder` uses one that stands after it in `layers`, or is in none.
pub fn check(folder: &str, layers: &[&[&str]]) {
    let sources = Path::new(folder).join("src");
    let order: Vec<&str> = layers.concat();
    let mut files = Vec::new();
    rust_files(&sources, &mut files);
    let (mut found, mut uses) = (Vec::new(), 0);
    for path in files {
        let inside = path.strip_prefix(&sources).expect("it is below");
        let module = inside.iter().next().and_then(|first| first.to_str()).expect("a name").trim_end_matches(".rs");
        if ["lib", "main"].contains(&module) {
            continue;
        }
        let place = order.iter().position(|name| *name == module);
        let Some(place) = place else {
            found.push(format!(
                "src/{module} is in no layer: add it to tests/layers.rs and to the map in CONTRIBUTING.md"
            ));
            continue;
        };
        let text = fs::read_to_string(&path).expect("a source file");
        // Unit tests may use the whole crate.
        let code = text.lines().take_while(|line| line.trim() != "#[cfg(test)]").enumerate();
        for (index, line) in code.filter(|(_, line)| !line.trim_start().starts_with("//")) {
            for name in mentioned(line).filter(|name| *name != module) {
                uses += 1;
                let below = order.iter().position(|other| *other == name).is_some_and(|other| other < place);
                if !below {
                    let line_number = index + 1;
                    found.push(format!(
                        "{}:{line_number} uses `{name}`, which stands above `{module}`",
                        inside.display()
                    ));
                }
            }
        }
    }
    assert!(uses > 50, "this test no longer sees how modules use each other: {uses} uses");
    assert!(found.is_empty(), "{}", found.join("\n"));
}
