//! Where the history is kept.

use std::ffi::OsString;
use std::path::PathBuf;

use etcetera::BaseStrategy;

use super::HistoryError;

/// The folder of the history: `WASHOUT_STATE`, or `washout` below the user's state folder (XDG Base Directory
/// Specification 0.8).
///
/// # Errors
/// The user has no home.
pub fn state_folder(washout_state: Option<OsString>) -> Result<PathBuf, HistoryError> {
    if let Some(folder) = washout_state.filter(|folder| !folder.is_empty()) {
        // A run may change its folder later; the history stays.
        return std::path::absolute(&folder)
            .map_err(|cause| HistoryError::Folder { path: PathBuf::from(&folder), cause });
    }
    let base = etcetera::base_strategy::Xdg::new().map_err(|_| HistoryError::NoPlace)?;
    base.state_dir().map(|folder| folder.join("washout")).ok_or(HistoryError::NoPlace)
}
