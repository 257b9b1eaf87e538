//! The history of the user who runs the program.

use washout_files::{About, History, state_folder};

use crate::exit::Trouble;

/// Opens it.
pub(crate) fn open_history() -> Result<History, Trouble> {
    Ok(History::open(&state_folder(std::env::var_os("WASHOUT_STATE"))?)?)
}

/// What it tells of this run.
pub(crate) fn about(rules: Vec<String>) -> About {
    let command = std::env::args_os().map(|word| word.to_string_lossy().into_owned()).collect();
    About { place: std::env::current_dir().unwrap_or_default(), command, rules, undoes: None }
}
