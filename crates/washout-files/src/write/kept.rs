//! What a file keeps besides its contents: permissions, owner, extended attributes.

use crate::stamp::Stamp;
use std::ffi::OsStr;
use std::fs::{File, FileTimes, Metadata, Permissions};
use std::io;
use std::os::unix::fs::{MetadataExt, PermissionsExt};

use rustix::fs::{Gid, Uid, fchown};
use xattr::FileExt;

use crate::error::FileError;
use crate::folder::{ACCESS_LIST, Folder};

/// Gives `new` the owner, the attributes and the permissions of `old`.
///
/// In this order: changing the owner clears set-id bits, and attributes hold access lists that permissions refine.
pub(super) fn keep_all(old: &File, metadata: &Metadata, new: &File) -> Result<(), FileError> {
    keep_owner(metadata, new).map_err(|cause| FileError::CannotKeep { what: "owner", cause })?;
    keep_attributes(old, new).map_err(|cause| FileError::CannotKeep { what: "extended attributes", cause })?;
    keep_permissions(metadata, new)
}

fn keep_permissions(metadata: &Metadata, new: &File) -> Result<(), FileError> {
    new.set_permissions(metadata.permissions()).map_err(|cause| FileError::CannotKeep { what: "permissions", cause })
}

/// Lets those read and write `new`, a copy, who may do so with `old`, and no one else. It has no set-id bits: they would
/// give someone the rights of whoever makes the copy.
pub(super) fn keep_access(old: &File, metadata: &Metadata, new: &File) -> Result<(), FileError> {
    let failed = |cause| FileError::CannotKeep { what: "permissions", cause };
    let mut mode = metadata.permissions().mode() & 0o777;
    match old.get_xattr(ACCESS_LIST).ok().flatten() {
        None => remove_access_list(new).map_err(failed)?,
        // With a list, what looks like the rights of the group is the most that anyone in the list has.
        Some(list) if new.set_xattr(ACCESS_LIST, &list).is_err() => mode &= 0o707,
        Some(_) => {}
    }
    new.set_permissions(Permissions::from_mode(mode)).map_err(failed)
}

fn remove_access_list(file: &File) -> io::Result<()> {
    match file.get_xattr(ACCESS_LIST) {
        Ok(Some(_)) => file.remove_xattr(ACCESS_LIST),
        // There is none, or the file system has no such lists.
        Ok(None) | Err(_) => Ok(()),
    }
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
        // Some attributes the system sets itself, and lets no one else set.
        if new.get_xattr(&name).ok().flatten() != value
            && let Some(value) = value
        {
            new.set_xattr(&name, &value)?;
        }
    }
    if old.get_xattr(ACCESS_LIST).ok().flatten().is_none() {
        remove_access_list(new)?;
    }
    Ok(())
}

/// Whether an entry is the file that was opened, with what was in it then. It may have got another name.
pub(super) fn is_same_content(folder: &Folder, name: &OsStr, opened: &Metadata) -> bool {
    folder.about(name).is_ok_and(|now| Stamp::of_entry(&now).is_same_content(&Stamp::of(opened)))
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

/// Whether an entry is still the file that was opened, untouched.
pub(super) fn is_untouched(folder: &Folder, name: &OsStr, opened: &Metadata) -> bool {
    folder.about(name).is_ok_and(|now| Stamp::of_entry(&now) == Stamp::of(opened))
}
