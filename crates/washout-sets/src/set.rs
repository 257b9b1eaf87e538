//! Reading a rule set.

use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

use washout_core::ready::ReadySet;
use washout_core::{Files, RuleError, RuleSet};

use crate::open::reason;

/// How long the text of a rule set may be, in bytes: as long as all files that it may name.
const MOST: u64 = 32 << 20;

/// Why there is no rule set.
#[derive(Debug, thiserror::Error)]
pub enum SetError {
    /// The text of the rules cannot be read.
    #[error("the rule set cannot be read: {0}")]
    Unreadable(String),
    /// No ready set is called so.
    #[error("there is no ready set `{0}`; there are {known}", known = known())]
    NotReady(String),
    /// Not the name of a personal set.
    #[error(
        "`{MY}{0}` is no personal rule set: the name after `{MY}` is that of a file, without folders and `.wash.toml`"
    )]
    NotMine(String),
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

/// What the names of personal rule sets begin with: `my:NAME`.
pub const MY: &str = "my:";

/// The folder of personal rule sets: `washout` in `$XDG_CONFIG_HOME`, or else in `~/.config`. `None`: the environment names no
/// home.
///
/// Source: [XDG Base Directory Specification](https://specifications.freedesktop.org/basedir-spec/latest/).
pub fn my_folder() -> Option<PathBuf> {
    // The specification has it that a relative path is to be ignored.
    let from = |name| std::env::var_os(name).map(PathBuf::from).filter(|path| path.is_absolute());
    let config = from("XDG_CONFIG_HOME").or_else(|| from("HOME").map(|home| home.join(".config")))?;
    Some(config.join("washout"))
}

/// The file that is meant by a path, which may be that of a personal rule set, `my:NAME`.
///
/// # Errors
/// The name is none of a file in the folder of such sets, or there is no such folder.
pub fn resolved(path: &Path) -> Result<PathBuf, SetError> {
    let Some(name) = path.to_str().and_then(|path| path.strip_prefix(MY)) else { return Ok(path.to_owned()) };
    if name.is_empty() || name.contains('/') || name.starts_with('.') {
        return Err(SetError::NotMine(name.to_owned()));
    }
    let folder =
        my_folder().ok_or_else(|| SetError::Unreadable("neither XDG_CONFIG_HOME nor HOME is set".to_owned()))?;
    Ok(folder.join(format!("{name}.wash.toml")))
}

/// The text of the rule set in this file, of the ready set `ready:NAME`, or of the personal one `my:NAME`.
///
/// # Errors
/// It cannot be read, has over 32 MiB or is not UTF-8.
pub fn read_source(path: &Path) -> Result<String, SetError> {
    if let Some(name) = path.to_str().and_then(|path| path.strip_prefix(ReadySet::PREFIX)) {
        return Ok(ready_source(name)?.to_owned());
    }
    let mut source = Vec::new();
    let place = resolved(path)?;
    let read = File::open(&place).and_then(|file| file.take(MOST + 1).read_to_end(&mut source));
    read.map_err(|error| match (reason(&error), place == path) {
        (reason, true) => SetError::Unreadable(reason),
        // Nobody has typed where personal sets are.
        (reason, false) => SetError::Unreadable(format!("{}: {reason}", place.display())),
    })?;
    if source.len() as u64 > MOST {
        return Err(SetError::Unreadable(format!("it has over {} MiB", MOST >> 20)));
    }
    String::from_utf8(source).map_err(|error| {
        let good = String::from_utf8_lossy(&error.as_bytes()[..error.utf8_error().valid_up_to()]);
        let line = good.matches('\n').count() + 1;
        SetError::Unreadable(format!("line {line} is not UTF-8, and it has to be"))
    })
}

/// Reads the rule set in this file, the ready set `ready:NAME`, or the personal one `my:NAME`. `files` opens what it names.
///
/// # Errors
/// As [`read_source`]; its rules are wrong.
pub fn read_set(path: &Path, files: &dyn Files) -> Result<RuleSet, SetError> {
    Ok(RuleSet::read_with(&resolved(path)?.to_string_lossy(), &read_source(path)?, files)?)
}
