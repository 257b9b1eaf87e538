//! What can go wrong with files, in words for the person who named them.

use std::io;
use std::path::PathBuf;

use washout_core::table::WashError;
use washout_sets::reason;

use crate::charset::Charset;

/// Why the named paths make no list of files. Nothing was opened.
#[derive(Debug, thiserror::Error)]
pub enum ChooseError {
    /// A named path is not there or cannot be reached.
    #[error("{}: {}", path.display(), reason(cause))]
    NotThere {
        /// The path as named.
        path: PathBuf,
        /// What the system said.
        #[source]
        cause: io::Error,
    },
    /// A glob that means nothing.
    #[error("the glob `{glob}` cannot be read: {cause}")]
    BadGlob {
        /// The glob as given.
        glob: String,
        /// What is wrong with it.
        cause: String,
    },
    /// Two files would be copied to one place.
    #[error(
        "{} and {} would both be copied to {}; name the folder above them, or run twice",
        first.display(),
        second.display(),
        place.display()
    )]
    SamePlace {
        /// The one.
        first: PathBuf,
        /// The other.
        second: PathBuf,
        /// Where both would go, below the folder of copies.
        place: PathBuf,
    },
}

/// Why one file could not be done. It is as it was, unless [`is_replaced`](FileError::is_replaced).
#[derive(Debug, thiserror::Error)]
pub enum FileError {
    /// It cannot be opened or read.
    #[error("cannot be read: {}", reason(.0))]
    Read(#[source] io::Error),
    /// A rule cannot go on, or a table is no good.
    #[error("{0}")]
    Rule(#[source] WashError),
    /// The result has a character that its encoding has not.
    #[error("its result has “{0}” (U+{code:04X}), which {1} has not; --to-encoding utf-8 writes UTF-8", code = u32::from(*.0))]
    Unmappable(char, Charset),
    /// The result is not a text that could be encoded.
    #[error("its result has bytes that are not UTF-8, and cannot be written as {0}")]
    NoText(Charset),
    /// A patch is for texts in UTF-8.
    #[error("it is {0}, and a patch can only be made of UTF-8")]
    NoPatch(Charset),
    /// A patch holds its lines whole.
    #[error("it has a line of more than 64 MiB, and a patch cannot be made of that")]
    LongLine,
    /// The result cannot be written.
    #[error("the result cannot be written to {}: {}", path.display(), reason(cause))]
    Write {
        /// The file or folder that refused.
        path: PathBuf,
        /// What the system said.
        #[source]
        cause: io::Error,
    },
    /// A copy is there already.
    #[error("{} is there already, and stays; --overwrite replaces it", .0.display())]
    CopyExists(PathBuf),
    /// The copy would be the file itself.
    #[error("the copy would be the file itself; --write cleans files in place")]
    CopyIsSource,
    /// Owner, permissions or attributes cannot be kept.
    #[error("its {what} cannot be kept: {}", reason(cause))]
    CannotKeep {
        /// What would be lost.
        what: &'static str,
        /// What the system said.
        #[source]
        cause: io::Error,
    },
    /// Something else wrote to it in the meantime.
    #[error("it changed while it was being cleaned; run again to clean what it is now")]
    ChangedMeanwhile,
    /// It is not a regular file.
    #[error("it is {0}, and no file with a text in it")]
    NoFile(&'static str),
    /// It is a symbolic link.
    #[error("it is a link; name the file it leads to, or follow it with --follow")]
    Link,
    /// It has several names.
    #[error("it has {0} names (hard links), and writing would part this one from the others; --break-links does")]
    HardLinks(u64),
    /// No one may write to it.
    #[error("it is read-only")]
    ReadOnly,
    /// What was in it cannot be kept for a way back.
    #[error("what is in it cannot be kept for undo ({0}); --no-history does without")]
    NotKept(String),
    /// What was in it before cannot be read from where it is kept.
    #[error("what was in it before cannot be read from the history: {}", reason(.0))]
    Original(#[source] io::Error),
    /// It was replaced, but the old file cannot be removed.
    #[error("it is cleaned, but what was in it stays in {}, which cannot be removed: {}", old.display(), reason(cause))]
    OldStays {
        /// Where the old file is.
        old: PathBuf,
        /// What the system said.
        #[source]
        cause: io::Error,
    },
    /// Its changes cannot be kept until they are reported.
    #[error("its changes do not fit into a temporary file: {}", reason(.0))]
    Record(#[source] io::Error),
    /// A folder could not be walked.
    #[error("{0}")]
    Walk(String),
    /// A fault of the program itself.
    #[error("washout stopped at a fault of its own here; please report it")]
    Fault,
}

impl FileError {
    /// Whether the file has its new content all the same.
    pub fn is_replaced(&self) -> bool {
        matches!(self, Self::OldStays { .. })
    }
}
