//! The files rule sets name, on disk.

use std::fs::File;
use std::io::{self, Read};
use std::path::{Component, Path, PathBuf};

use washout_core::{Files, NamedFile};

use crate::open::{open_regular, reason};

/// Opens the files a rule set names, each from the folder of its set.
///
/// What a link leads to must be below that folder too: a rule set from elsewhere must not read what it likes. Rules
/// that were typed on the command line (`typed`) start in the working folder and may name any file.
#[derive(Clone, Copy, Debug)]
pub struct RuleFiles {
    /// What messages call rules that were typed.
    pub typed: Option<&'static str>,
}

impl Files for RuleFiles {
    fn open(&self, from: &str, path: &str, most: u64) -> Result<NamedFile, String> {
        let is_typed = self
            .typed
            .is_some_and(|typed| from.strip_prefix(typed).is_some_and(|rest| rest.is_empty() || rest.starts_with(',')));
        let folder = if is_typed { Path::new("") } else { Path::new(from).parent().unwrap_or(Path::new("")) };
        let full = without_dots(&folder.join(path));
        let bytes = read(&full, is_typed, most).map_err(|error| reason(&error))?;
        if !is_typed && leaves(&full, folder) {
            return Err("a link leads out of the folder of this rule set".to_owned());
        }
        Ok(NamedFile { name: full.to_string_lossy().into_owned(), bytes })
    }
}

/// A rule that was typed may name what is not a regular file, such as `/dev/stdin`. A set may not: a pipe that no one writes to would
/// be waited for without end.
fn read(path: &Path, is_typed: bool, most: u64) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    let file = if is_typed { File::open(path)? } else { open_regular(path)? };
    file.take(most.saturating_add(1)).read_to_end(&mut bytes).map(|_| bytes)
}

/// The path without `.`: two ways to write one file are one name.
fn without_dots(path: &Path) -> PathBuf {
    path.components().filter(|part| *part != Component::CurDir).collect()
}

fn leaves(file: &Path, folder: &Path) -> bool {
    let folder = if folder.as_os_str().is_empty() { Path::new(".") } else { folder };
    match (file.canonicalize(), folder.canonicalize()) {
        (Ok(file), Ok(folder)) => !file.starts_with(folder),
        _ => true,
    }
}
