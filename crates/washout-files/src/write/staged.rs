//! A result on its way: a temporary file beside the place it goes to.
//!
//! Dropping it removes the temporary file and nothing else; only `replace` and `create` put it in place. Its name holds
//! the number of the process, so that what a killed one has left behind is known as such, and removed by the next run
//! that writes in that folder.

use std::fs::{File, Metadata, Permissions};
use std::io::{self, Write};
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};

use ignore::WalkBuilder;
use rustix::fs::{CWD, RenameFlags, renameat_with};
use rustix::io::Errno;
use rustix::process::{Pid, test_kill_process};
use tempfile::{NamedTempFile, PersistError, TempPath};

use super::kept::is_same_content;
use crate::error::{FileError, reason};

const PREFIX: &str = ".washout-";
const SUFFIX: &str = ".part";

pub(super) struct Staged {
    file: NamedTempFile,
    place: PathBuf,
}

impl Staged {
    /// An empty temporary file in the folder of `place`, for its owner alone.
    pub(super) fn beside(place: &Path) -> Result<Self, FileError> {
        Self::beside_with(place, Permissions::from_mode(0o600))
    }

    /// The same with these permissions, as far as the process gives them to new files.
    pub(super) fn beside_with(place: &Path, permissions: Permissions) -> Result<Self, FileError> {
        let folder = folder_of(place);
        let file = tempfile::Builder::new()
            .prefix(&format!("{PREFIX}{}-", std::process::id()))
            .suffix(SUFFIX)
            .permissions(permissions)
            .tempfile_in(folder)
            .map_err(|cause| FileError::Write { path: folder.to_owned(), cause })?;
        Ok(Self { file, place: place.to_owned() })
    }

    pub(super) fn write(&mut self, bytes: &[u8]) -> Result<(), FileError> {
        self.file.write_all(bytes).map_err(|cause| self.failed(cause))
    }

    pub(super) fn place(&self) -> &Path {
        &self.place
    }

    pub(super) fn file(&self) -> &File {
        self.file.as_file()
    }

    /// Puts the file in place of the one that is there. It is durable there once the folder is synced.
    ///
    /// Where the system can, both change places in one step, and change back if what was there is not what was `opened`:
    /// nothing can come in between that is not seen. Elsewhere the one is renamed over the other.
    pub(super) fn replace(self, opened: &Metadata) -> Result<Replaced, FileError> {
        let Self { file, place } = self;
        match exchange(file.path(), &place) {
            Ok(()) => {
                let old = file.into_temp_path();
                let is_what_was_read = is_same_content(&old, opened);
                let replaced = Replaced { old: Some(old), place };
                if is_what_was_read {
                    return Ok(replaced);
                }
                replaced.take_back().and(Err(FileError::ChangedMeanwhile))
            }
            Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => {
                file.persist(&place).map_err(|error| failed_at(&place, error))?;
                Ok(Replaced { old: None, place })
            }
            Err(cause) => Err(FileError::Write { path: place, cause: cause.into() }),
        }
    }

    /// Puts the file in its place, replacing what is there.
    pub(super) fn overwrite(self) -> Result<(), FileError> {
        let Self { file, place } = self;
        file.persist(&place).map(drop).map_err(|error| failed_at(&place, error))
    }

    /// Puts the file in its place, if nothing is there. Nothing can come in between.
    pub(super) fn create(self) -> Result<(), FileError> {
        let Self { file, place } = self;
        file.persist_noclobber(&place).map(drop).map_err(|error| match error.error.kind() {
            io::ErrorKind::AlreadyExists => FileError::CopyExists(place),
            _ => failed_at(&place, error),
        })
    }

    #[cold]
    pub(super) fn failed(&self, cause: io::Error) -> FileError {
        FileError::Write { path: self.place.clone(), cause }
    }
}

/// A result that is in place of its file, and where the old file is.
pub(crate) struct Replaced {
    /// At the name that was the temporary one; it goes with this. `None`: it is gone already.
    old: Option<TempPath>,
    place: PathBuf,
}

impl Replaced {
    /// The folder that has to be synced.
    pub(super) fn folder(&self) -> &Path {
        folder_of(&self.place)
    }

    /// Puts the old file back, if it is still there. If that fails it stays beside its place, under a name that no later
    /// run takes for left behind, and the error says where.
    pub(super) fn take_back(self) -> Result<(), FileError> {
        let Self { old: Some(old), place } = self else { return Ok(()) };
        exchange(&old, &place).map_err(|cause| {
            let kept = old.with_extension("kept");
            let moved = std::fs::rename(&old, &kept).map(|()| kept).or_else(|_| old.keep());
            let kept = moved.unwrap_or_else(|error| error.path.to_path_buf());
            let cause = io::Error::other(format!("{}; what was in it is in {}", reason(&cause.into()), kept.display()));
            FileError::Write { path: place, cause }
        })
    }

    /// Removes the old file.
    pub(super) fn finish(self) -> Result<(), FileError> {
        let Self { old, place } = self;
        old.map_or(Ok(()), TempPath::close).map_err(|cause| FileError::Write { path: place, cause })
    }
}

fn exchange(one: &Path, other: &Path) -> Result<(), Errno> {
    renameat_with(CWD, one, CWD, other, RenameFlags::EXCHANGE)
}

/// Removes temporary files that killed programs have left in this folder; gives how many.
pub(crate) fn sweep(folder: &Path) -> usize {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    let left_behind = entries.filter(|entry| entry.file_name().to_str().is_some_and(is_left_behind));
    left_behind.filter(|entry| std::fs::remove_file(entry.path()).is_ok()).count()
}

/// The temporary files that killed programs have left in this folder and below it. Links are not followed, and other file
/// systems are not entered.
pub fn left_behind_below(folder: &Path) -> Vec<PathBuf> {
    let walk = WalkBuilder::new(folder).standard_filters(false).same_file_system(true).build().flatten();
    let found = walk.filter(|entry| {
        entry.file_type().is_some_and(|kind| kind.is_file()) && entry.file_name().to_str().is_some_and(is_left_behind)
    });
    found.map(ignore::DirEntry::into_path).collect()
}

/// Whether a name is that of a temporary file whose program is gone.
fn is_left_behind(name: &str) -> bool {
    let number = || name.strip_prefix(PREFIX)?.strip_suffix(SUFFIX)?.split_once('-')?.0.parse().ok();
    let Some(process) = number().and_then(Pid::from_raw) else { return false };
    test_kill_process(process) == Err(Errno::SRCH)
}

#[cold]
fn failed_at(place: &Path, error: PersistError) -> FileError {
    FileError::Write { path: place.to_owned(), cause: error.error }
}

pub(crate) fn folder_of(place: &Path) -> &Path {
    match place.parent() {
        Some(folder) if folder != Path::new("") => folder,
        _ => Path::new("."),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_old_file_that_cannot_go_back_stays_beside_its_place_and_is_named() {
        let folder = tempfile::tempdir().unwrap();
        let place = folder.path().join("log.txt");
        std::fs::write(&place, "old").unwrap();
        let opened = place.metadata().unwrap();
        let mut staged = Staged::beside(&place).unwrap();
        staged.write(b"new").unwrap();
        let replaced = staged.replace(&opened).unwrap();
        std::fs::remove_file(&place).unwrap();
        let error = replaced.take_back().unwrap_err().to_string();
        let kept: Vec<PathBuf> = std::fs::read_dir(folder.path()).unwrap().map(|entry| entry.unwrap().path()).collect();
        assert_eq!(kept.iter().map(|path| std::fs::read(path).unwrap()).collect::<Vec<_>>(), [b"old"]);
        assert!(error.contains(&format!("what was in it is in {}", kept[0].display())), "{error}");
        assert_eq!(sweep(folder.path()), 0, "nobody takes it for left behind");
    }
}
