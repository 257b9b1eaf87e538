//! What files were called, and what was in them, is no one else's business: the folder of the history and what is in it are
//! for their owner alone, also where they were there before.

use std::fs::{DirBuilder, File, Permissions};
use std::io;
use std::os::unix::fs::{DirBuilderExt, MetadataExt, OpenOptionsExt, PermissionsExt};
use std::path::Path;

use rustix::process::geteuid;

use super::HistoryError;

/// Makes a folder that no one else may use, or takes that right from others.
///
/// # Errors
/// It belongs to someone else, or cannot be made.
pub(super) fn folder(path: &Path) -> Result<(), HistoryError> {
    let failed = |cause| HistoryError::Folder { path: path.to_owned(), cause };
    DirBuilder::new().recursive(true).mode(0o700).create(path).map_err(failed)?;
    let folder = path.metadata().map_err(failed)?;
    if folder.uid() != geteuid().as_raw() {
        return Err(HistoryError::NotOwned(path.to_owned()));
    }
    if folder.mode() & 0o077 != 0 {
        std::fs::set_permissions(path, Permissions::from_mode(0o700)).map_err(failed)?;
    }
    Ok(())
}

/// Makes a file that no one else may use, or takes that right from others; gives it open for reading and writing.
pub(super) fn file(path: &Path) -> Result<File, HistoryError> {
    let open = || -> io::Result<File> {
        let file = File::options().read(true).write(true).create(true).truncate(false).mode(0o600).open(path)?;
        if file.metadata()?.mode() & 0o077 != 0 {
            file.set_permissions(Permissions::from_mode(0o600))?;
        }
        Ok(file)
    };
    open().map_err(|cause| HistoryError::Folder { path: path.to_owned(), cause })
}
