//! Reading a rule set.

use std::fs::File;
use std::io::Read;
use std::path::Path;

use washout_core::ready::ReadySet;
use washout_core::{Files, RuleError, RuleSet};

use crate::open::reason;

/// How long the text of a rule set may be, in bytes: as long as all files that it may name.
const MOST: u64 = 32 << 20;

/// Why there is no rule set.
#[derive(Debug, thiserror::Error)]
pub enum SetError {
    /// There is no text to read rules from.
    #[error("the rule set cannot be read: {0}")]
    Unreadable(String),
    /// No ready set is called so.
    #[error("there is no ready set `{0}`; there are {known}", known = known())]
    NotReady(String),
    /// What is wrong with its rules.
    #[error(transparent)]
    Rules(#[from] RuleError),
}

fn known() -> String {
    let names: Vec<String> = ReadySet::ALL.iter().map(|set| format!("{}{}", ReadySet::PREFIX, set.name)).collect();
    names.join(", ")
}

/// The text of the ready set of this name, without `ready:`.
///
/// # Errors
/// There is no such set.
pub fn ready_source(name: &str) -> Result<&'static str, SetError> {
    ReadySet::find(name).map(|set| set.source).ok_or_else(|| SetError::NotReady(name.to_owned()))
}

/// The text of the rule set in this file, or of the ready set `ready:NAME`.
///
/// # Errors
/// It cannot be read, has over 32 MiB or is not UTF-8.
pub fn read_source(path: &Path) -> Result<String, SetError> {
    if let Some(name) = path.to_str().and_then(|path| path.strip_prefix(ReadySet::PREFIX)) {
        return Ok(ready_source(name)?.to_owned());
    }
    let mut source = Vec::new();
    let read = File::open(path).and_then(|file| file.take(MOST + 1).read_to_end(&mut source));
    read.map_err(|error| SetError::Unreadable(reason(&error)))?;
    if source.len() as u64 > MOST {
        return Err(SetError::Unreadable(format!("it has over {} MiB", MOST >> 20)));
    }
    String::from_utf8(source).map_err(|error| {
        let good = String::from_utf8_lossy(&error.as_bytes()[..error.utf8_error().valid_up_to()]);
        let line = good.matches('\n').count() + 1;
        SetError::Unreadable(format!("line {line} is not UTF-8, and rule sets have to be"))
    })
}

/// Reads the rule set in this file, or the ready set `ready:NAME`. `files` opens what it names.
///
/// # Errors
/// As [`read_source`]; its rules are wrong.
pub fn read_set(path: &Path, files: &dyn Files) -> Result<RuleSet, SetError> {
    Ok(RuleSet::read_with(&path.to_string_lossy(), &read_source(path)?, files)?)
}
