//! Why a planned rename was not done.

use std::io;

use washout_sets::reason;

/// Why an entry did not get its new name.
#[derive(Debug, thiserror::Error)]
pub enum RenameError {
    /// It is gone.
    #[error("it is no longer there")]
    Gone,
    /// Something else has its name.
    #[error("something else has its name now")]
    Replaced,
    /// The new name was taken after the plan was made.
    #[error("the new name has been taken meanwhile")]
    Taken,
    /// The file system cannot rename without the risk of overwriting.
    #[error("this file system cannot rename without the risk of overwriting another file")]
    NoSafeWay,
    /// Its folder cannot be opened.
    #[error("its folder cannot be opened: {}", reason(.0))]
    Folder(#[source] io::Error),
    /// The system refuses.
    #[error("the system refuses: {}", reason(.0))]
    Refused(#[source] io::Error),
    /// It was on its way over a temporary name, and could go neither on nor back.
    #[error("it is called `{0}` now, since both its names were taken meanwhile")]
    Stuck(String),
}
