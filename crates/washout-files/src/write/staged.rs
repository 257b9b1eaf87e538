//! A result on its way: a temporary file in the folder of the place it goes to.
//!
//! Dropping it removes the temporary file and nothing else; only `replace`, `overwrite` and `create` put it in place. The
//! folder is claimed as long as the file is there: what a killed program has left behind is told from it by that.

use std::ffi::{OsStr, OsString};
use std::fs::{File, Metadata};
use std::hash::{BuildHasher, RandomState};
use std::io::{self, Write};
use std::os::fd::BorrowedFd;
use std::path::PathBuf;
use std::sync::Arc;

use rustix::io::Errno;

use super::kept::is_same_content;
use crate::error::FileError;
use crate::folder::{Folder, temporary_name};
use washout_sets::reason;

/// A name in a folder that is written to.
#[derive(Clone, Debug)]
pub(crate) struct StagedPlace {
    pub(crate) folder: Arc<Folder>,
    pub(crate) name: OsString,
}

impl StagedPlace {
    /// Its path, as its folder was opened.
    pub(crate) fn path(&self) -> PathBuf {
        self.folder.path().join(&self.name)
    }

    #[cold]
    fn failed(&self, cause: io::Error) -> FileError {
        FileError::Write { path: self.path(), cause }
    }
}

pub(super) struct Staged {
    file: File,
    temporary: TemporaryName,
    place: StagedPlace,
}

impl Staged {
    /// An empty temporary file in the folder of `place`, with these permissions as far as the process gives them to new
    /// files.
    pub(super) fn beside(place: StagedPlace, mode: u32) -> Result<Self, FileError> {
        let failed = |cause| FileError::Write { path: place.folder.path().to_owned(), cause };
        let (file, temporary) = TemporaryName::new(&place.folder, mode).map_err(failed)?;
        Ok(Self { file, temporary, place })
    }

    pub(super) fn write(&mut self, bytes: &[u8]) -> Result<(), FileError> {
        self.file.write_all(bytes).map_err(|cause| self.failed(cause))
    }

    pub(super) fn file(&self) -> &File {
        &self.file
    }

    /// The file system it is on, as [`Folder::system`].
    pub(super) fn system(&self) -> BorrowedFd<'_> {
        self.place.folder.system()
    }

    /// Puts the file in place of the one that is there. It is durable there once the folder is synced.
    ///
    /// Where the system can, both change places in one step, and change back if what was there is not what was `opened`:
    /// nothing can come in between that is not seen. Elsewhere the one is renamed over the other.
    pub(super) fn replace(self, opened: &Metadata) -> Result<Replaced, FileError> {
        let Self { temporary, place, .. } = self;
        match place.folder.exchange(&temporary.name, &place.name) {
            Ok(()) => {
                let is_what_was_read = is_same_content(&place.folder, &temporary.name, opened);
                let replaced = Replaced { old: Some(temporary), place };
                if is_what_was_read {
                    return Ok(replaced);
                }
                replaced.take_back().and(Err(FileError::ChangedMeanwhile))
            }
            Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => {
                temporary.rename(&place.name).map_err(|cause| place.failed(cause))?;
                Ok(Replaced { old: None, place })
            }
            Err(cause) => Err(place.failed(cause.into())),
        }
    }

    /// Puts the file in its place, replacing what is there.
    pub(super) fn overwrite(self) -> Result<(), FileError> {
        let Self { temporary, place, .. } = self;
        temporary.rename(&place.name).map_err(|cause| place.failed(cause))
    }

    /// Puts the file in its place, if nothing is there. Nothing can come in between.
    pub(super) fn create(self) -> Result<(), FileError> {
        let Self { mut temporary, place, .. } = self;
        temporary.rename_to_free(&place.name).map_err(|cause| match cause.kind() {
            io::ErrorKind::AlreadyExists => FileError::CopyExists(place.path()),
            _ => place.failed(cause),
        })
    }

    #[cold]
    pub(super) fn failed(&self, cause: io::Error) -> FileError {
        self.place.failed(cause)
    }
}

/// A result that is in place of its file, and where the old file is.
pub(crate) struct Replaced {
    /// At the name that was the temporary one; it goes with this. `None`: it is gone already.
    old: Option<TemporaryName>,
    place: StagedPlace,
}

impl Replaced {
    /// The folder that has to be synced.
    pub(super) fn folder(&self) -> &Arc<Folder> {
        &self.place.folder
    }

    /// Puts the old file back, if it is still there. If that fails it stays beside its place, under a name that no later
    /// run takes for left behind, and the error says where.
    pub(super) fn take_back(self) -> Result<(), FileError> {
        let Self { old: Some(mut old), place } = self else { return Ok(()) };
        place.folder.exchange(&old.name, &place.name).map_err(|cause| {
            let mut kept = old.name.clone();
            kept.push(".kept");
            let kept = match old.rename_to_free(&kept) {
                Ok(()) => kept,
                Err(_) => old.keep(),
            };
            let kept = place.folder.path().join(kept);
            place.failed(io::Error::other(format!(
                "{}; what was in it is in {}",
                reason(&cause.into()),
                kept.display()
            )))
        })
    }

    /// Removes the old file.
    ///
    /// # Errors
    /// It stays at its temporary name, until the next run that writes there.
    pub(super) fn finish(self) -> Result<(), FileError> {
        let Self { old, place } = self;
        let stays = |(old, cause)| FileError::OldStays { old: place.folder.path().join(old), cause };
        old.map_or(Ok(()), |old| old.remove().map_err(stays))
    }
}

/// A temporary name in a folder. What has it goes when this is dropped.
struct TemporaryName {
    folder: Arc<Folder>,
    name: OsString,
}

impl TemporaryName {
    fn new(folder: &Arc<Folder>, mode: u32) -> io::Result<(File, Self)> {
        loop {
            // Each state is made from other random numbers of the system.
            let name = temporary_name(RandomState::new().hash_one(0_u8));
            match folder.create(&name, mode) {
                Err(error) if error.kind() == io::ErrorKind::AlreadyExists => {}
                file => return Ok((file?, Self { folder: Arc::clone(folder), name })),
            }
        }
    }

    /// Renames what has this name, over another if there is one.
    fn rename(mut self, to: &OsStr) -> io::Result<()> {
        self.folder.rename(&self.name, to)?;
        self.name = OsString::new();
        Ok(())
    }

    /// The same, if the other name is free.
    fn rename_to_free(&mut self, to: &OsStr) -> io::Result<()> {
        self.folder.rename_to_free(&self.name, to)?;
        self.name = OsString::new();
        Ok(())
    }

    /// Lets what has this name stay.
    fn keep(mut self) -> OsString {
        std::mem::take(&mut self.name)
    }

    fn remove(self) -> Result<(), (OsString, io::Error)> {
        let removed = self.folder.remove(&self.name);
        let name = self.keep();
        removed.map_err(|cause| (name, cause))
    }
}

impl Drop for TemporaryName {
    fn drop(&mut self) {
        if !self.name.is_empty() {
            let _ = self.folder.remove(&self.name);
        }
    }
}
