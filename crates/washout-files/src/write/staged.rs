//! A result on its way: a temporary file beside the place it goes to.
//!
//! Dropping it removes the temporary file and nothing else; only `replace` and `create` put it in place.

use std::fs::File;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use tempfile::{NamedTempFile, PersistError};

use crate::error::FileError;

pub(super) struct Staged {
    file: NamedTempFile,
    place: PathBuf,
}

impl Staged {
    /// An empty temporary file in the folder of `place`.
    pub(super) fn beside(place: &Path) -> Result<Self, FileError> {
        let folder = folder_of(place);
        let file = tempfile::Builder::new()
            .prefix(".washout-")
            .suffix(".part")
            .tempfile_in(folder)
            .map_err(|cause| FileError::Write { path: folder.to_owned(), cause })?;
        Ok(Self { file, place: place.to_owned() })
    }

    pub(super) fn write(&mut self, bytes: &[u8]) -> Result<(), FileError> {
        self.file.write_all(bytes).map_err(|cause| self.failed(cause))
    }

    pub(super) fn file(&self) -> &File {
        self.file.as_file()
    }

    /// Puts the file in place of the one that is there, durably: once this returns, a power cut does not undo it.
    pub(super) fn replace(self) -> Result<(), FileError> {
        self.file.as_file().sync_all().map_err(|cause| self.failed(cause))?;
        let Self { file, place } = self;
        file.persist(&place).map_err(|error| failed_at(&place, error))?;
        sync_folder(folder_of(&place)).map_err(|cause| FileError::Write { path: place, cause })
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
    fn failed(&self, cause: io::Error) -> FileError {
        FileError::Write { path: self.place.clone(), cause }
    }
}

#[cold]
fn failed_at(place: &Path, error: PersistError) -> FileError {
    FileError::Write { path: place.to_owned(), cause: error.error }
}

fn folder_of(place: &Path) -> &Path {
    match place.parent() {
        Some(folder) if folder != Path::new("") => folder,
        _ => Path::new("."),
    }
}

/// A rename is durable once its folder is.
fn sync_folder(folder: &Path) -> io::Result<()> {
    File::open(folder)?.sync_all()
}
