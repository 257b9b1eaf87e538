//! What a file keeps besides its contents: permissions, owner, extended attributes.

use std::fs::{File, FileTimes, Metadata};
use std::io;
use std::os::unix::fs::MetadataExt;
use std::path::Path;

use rustix::fs::{Gid, Uid, fchown};
use xattr::FileExt;

use crate::error::FileError;

/// Gives `new` the owner, the attributes and the permissions of `old`.
///
/// In this order: changing the owner clears set-id bits, and attributes hold access lists that permissions refine.
pub(super) fn keep_all(old: &File, metadata: &Metadata, new: &File) -> Result<(), FileError> {
    keep_owner(metadata, new).map_err(|cause| FileError::CannotKeep { what: "owner", cause })?;
    keep_attributes(old, new).map_err(|cause| FileError::CannotKeep { what: "extended attributes", cause })?;
    keep_permissions(metadata, new)
}

/// Gives `new` the permissions of `old`.
pub(super) fn keep_permissions(metadata: &Metadata, new: &File) -> Result<(), FileError> {
    new.set_permissions(metadata.permissions()).map_err(|cause| FileError::CannotKeep { what: "permissions", cause })
}

fn keep_owner(old: &Metadata, new: &File) -> io::Result<()> {
    let now = new.metadata()?;
    let uid = (now.uid() != old.uid()).then(|| Uid::from_raw(old.uid()));
    let gid = (now.gid() != old.gid()).then(|| Gid::from_raw(old.gid()));
    if uid.is_some() || gid.is_some() {
        fchown(new, uid, gid)?;
    }
    Ok(())
}

fn keep_attributes(old: &File, new: &File) -> io::Result<()> {
    let names = match old.list_xattr() {
        Err(error) if error.kind() == io::ErrorKind::Unsupported => return Ok(()),
        names => names?,
    };
    for name in names {
        let value = old.get_xattr(&name)?;
        // Some attributes the system sets itself, and lets nobody else set.
        if new.get_xattr(&name).ok().flatten() != value
            && let Some(value) = value
        {
            new.set_xattr(&name, &value)?;
        }
    }
    Ok(())
}

/// What a file is like at one moment: another file, or the same one changed, has another.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Stamp {
    file: (u64, u64),
    len: u64,
    modified: (i64, i64),
    changed: (i64, i64),
}

impl Stamp {
    pub(super) fn of(file: &Metadata) -> Self {
        Self {
            file: (file.dev(), file.ino()),
            len: file.len(),
            modified: (file.mtime(), file.mtime_nsec()),
            changed: (file.ctime(), file.ctime_nsec()),
        }
    }
}

/// Whether the file at `path` is the one that was opened, with what was in it then. It may have got another name.
pub(super) fn is_same_content(path: &Path, opened: &Metadata) -> bool {
    let anyone = |stamp: Stamp| Stamp { changed: (0, 0), ..stamp };
    std::fs::symlink_metadata(path).is_ok_and(|now| anyone(Stamp::of(&now)) == anyone(Stamp::of(opened)))
}

/// Gives `new` the times of `old`.
pub(super) fn keep_times(metadata: &Metadata, new: &File) -> Result<(), FileError> {
    let failed = |cause| FileError::CannotKeep { what: "times", cause };
    let mut times = FileTimes::new().set_modified(metadata.modified().map_err(failed)?);
    if let Ok(accessed) = metadata.accessed() {
        times = times.set_accessed(accessed);
    }
    new.set_times(times).map_err(failed)
}

/// Whether the file at `path` is still the one that was opened, untouched.
pub(super) fn is_untouched(path: &Path, opened: &Metadata) -> bool {
    std::fs::symlink_metadata(path).is_ok_and(|now| Stamp::of(&now) == Stamp::of(opened))
}
