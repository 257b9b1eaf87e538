//! What a file is like at one moment.

use std::fs::Metadata;
use std::os::unix::fs::MetadataExt;

use rustix::fs::Stat;

/// What a file is like at one moment: another file, or the same one changed, has another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Stamp {
    file: (u64, u64),
    len: u64,
    modified: (i64, i64),
    changed: (i64, i64),
}

impl Stamp {
    /// That of the file at this path; `None`: there is none.
    pub fn of_path(path: &std::path::Path) -> Option<Self> {
        std::fs::metadata(path).ok().map(|file| Self::of(&file))
    }

    pub(crate) fn of(file: &Metadata) -> Self {
        Self {
            file: (file.dev(), file.ino()),
            len: file.len(),
            modified: (file.mtime(), file.mtime_nsec()),
            changed: (file.ctime(), file.ctime_nsec()),
        }
    }

    #[expect(
        clippy::unnecessary_cast,
        clippy::cast_possible_wrap,
        clippy::cast_sign_loss,
        reason = "types differ between systems"
    )]
    pub(crate) fn of_entry(entry: &Stat) -> Self {
        Self {
            file: (entry.st_dev as u64, entry.st_ino as u64),
            len: entry.st_size as u64,
            modified: (entry.st_mtime as i64, entry.st_mtime_nsec as i64),
            changed: (entry.st_ctime as i64, entry.st_ctime_nsec as i64),
        }
    }

    /// Whether all except the owner, the permissions and the like are the same.
    pub(crate) fn is_same_content(&self, other: &Self) -> bool {
        Self { changed: (0, 0), ..*self } == Self { changed: (0, 0), ..*other }
    }
}
