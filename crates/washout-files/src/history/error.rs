//! What can go wrong with the history.

use std::io;
use std::path::{Path, PathBuf};

use washout_sets::reason;

/// Why the history cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum HistoryError {
    /// There is no folder to keep it in.
    #[error(
        "there is no folder for the history: neither WASHOUT_STATE nor XDG_STATE_HOME nor HOME is set; --no-history does without"
    )]
    NoPlace,
    /// The folder cannot be made or used.
    #[error("the history in {} cannot be used: {}; name another folder with WASHOUT_STATE, or use --no-history", path.display(), reason(cause))]
    Folder {
        /// The folder.
        path: PathBuf,
        /// What the system said.
        #[source]
        cause: io::Error,
    },
    /// The folder is not the user's.
    #[error("the history in {} belongs to another user; name a folder of yours with WASHOUT_STATE, or use --no-history", .0.display())]
    NotOwned(PathBuf),
    /// A program holds a lock for too long.
    #[error("another program has locked {}; try again once it has ended", .0.display())]
    Locked(PathBuf),
    /// The database cannot be read or written.
    #[error("the history {} cannot be used: {cause}", path.display())]
    Database {
        /// The file.
        path: PathBuf,
        /// What the database said.
        #[source]
        cause: rusqlite::Error,
    },
    /// A newer version of the program has written it.
    #[error("the history {} was written by a newer washout; use that one, or name another folder with WASHOUT_STATE", .0.display())]
    Newer(PathBuf),
    /// There is no such run.
    #[error("there is no run {0} in the history; `history` lists them")]
    NoRun(i64),
    /// Another run was putting this one back, and did not come to the end.
    #[error("run {by} was putting run {run} back and was interrupted; `undo {by}` puts that right first")]
    HalfPutBack {
        /// The run.
        run: i64,
        /// The one that was interrupted.
        by: i64,
    },
    /// Another program is at work with what is kept.
    #[error("another run is at work; what is kept can be pruned once it is over")]
    Busy,
    /// The run is under way.
    #[error("run {0} is under way; it can be undone once it is over")]
    UnderWay(i64),
}

/// Puts the path beside what the database says.
pub(super) fn reading(path: &Path) -> impl Fn(rusqlite::Error) -> HistoryError + use<> {
    let path = path.to_owned();
    move |cause| HistoryError::Database { path: path.clone(), cause }
}
