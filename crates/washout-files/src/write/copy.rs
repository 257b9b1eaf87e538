//! Cleaned copies in another folder.

use std::os::unix::fs::MetadataExt;
use std::path::Path;

use super::in_place::Source;
use super::kept::keep_permissions;
use super::staged::Staged;
use crate::error::FileError;
use crate::wash::Sink;

/// Takes the result for a copy.
pub(crate) struct CopySink<'s> {
    source: &'s Source,
    staged: Staged,
    overwrite: bool,
}

impl<'s> CopySink<'s> {
    /// Starts a copy at `place`; the folders above it are made.
    pub(crate) fn new(source: &'s Source, place: &Path, overwrite: bool) -> Result<Self, FileError> {
        if let Ok(there) = std::fs::metadata(place) {
            let file = |metadata: &std::fs::Metadata| (metadata.dev(), metadata.ino());
            if file(&there) == file(source.metadata()) {
                return Err(FileError::CopyIsSource);
            }
            if !overwrite {
                return Err(FileError::CopyExists(place.to_owned()));
            }
        }
        if let Some(folder) = place.parent() {
            std::fs::create_dir_all(folder).map_err(|cause| FileError::Write { path: folder.to_owned(), cause })?;
        }
        Ok(Self { source, staged: Staged::beside(place)?, overwrite })
    }

    /// Puts the copy in its place.
    pub(crate) fn commit(self) -> Result<(), FileError> {
        keep_permissions(self.source.metadata(), self.staged.file())?;
        if self.overwrite { self.staged.overwrite() } else { self.staged.create() }
    }
}

impl Sink for CopySink<'_> {
    type Error = FileError;

    fn give(&mut self, bytes: &[u8], _changed: bool) -> Result<(), FileError> {
        self.staged.write(bytes)
    }
}
