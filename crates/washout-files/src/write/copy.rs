//! Cleaned copies in another folder.

use std::os::unix::fs::MetadataExt;
use std::path::Path;

use super::in_place::SourceFile;
use super::kept::keep_access;
use super::staged::{Staged, StagedPlace};
use crate::chunk::Sink;
use crate::error::FileError;
use crate::folder::{Folder, Folders, folder_of};

/// Takes the result for a copy.
pub(crate) struct CopySink<'s> {
    source: &'s SourceFile,
    staged: Staged,
    overwrite: bool,
}

impl<'s> CopySink<'s> {
    /// Starts a copy of a file, `below` a folder; the folders between are made, each for those who may use the folder of the
    /// original that it stands for.
    pub(crate) fn new(
        source: &'s SourceFile,
        original: &Path,
        into: &Path,
        below: &Path,
        overwrite: bool,
        folders: &Folders,
    ) -> Result<Self, FileError> {
        let place = into.join(below);
        if let Ok(there) = std::fs::metadata(&place) {
            let file = |metadata: &std::fs::Metadata| (metadata.dev(), metadata.ino());
            if file(&there) == file(source.metadata()) {
                return Err(FileError::CopyIsSource);
            }
            if !overwrite {
                return Err(FileError::CopyExists(place));
            }
        }
        let failed = |cause| FileError::Write { path: folder_of(&place).to_owned(), cause };
        let rest = below.parent().unwrap_or(Path::new(""));
        let mode = |copy: &Path| mode_of_original(original, below, copy);
        let folder = folders.to_write(folder_of(&place), || Folder::make_below(into, rest, mode)).map_err(failed)?;
        let name = below.file_name().unwrap_or_default().to_owned();
        Ok(Self { source, staged: Staged::beside(StagedPlace { folder, name }, 0o600)?, overwrite })
    }

    /// Puts the copy in its place.
    pub(crate) fn commit(self) -> Result<(), FileError> {
        keep_access(self.source.file(), self.source.metadata(), self.staged.file())?;
        if self.overwrite { self.staged.overwrite() } else { self.staged.create() }
    }
}

/// The permissions of the folder that a folder of copies stands for; those of any new folder where that is not known.
///
/// `copy` is a folder on the way to `below`, the copy of the file `original`.
fn mode_of_original(original: &Path, below: &Path, copy: &Path) -> u32 {
    let steps_up = below.components().count() - copy.components().count();
    let folder = original.ancestors().nth(steps_up).and_then(|folder| folder.metadata().ok());
    // Whoever makes the copies must be able to.
    folder.map_or(0o777, |folder| (folder.mode() & 0o777) | 0o300)
}

impl Sink for CopySink<'_> {
    type Error = FileError;

    fn give(&mut self, bytes: &[u8], _changed: bool) -> Result<(), FileError> {
        self.staged.write(bytes)
    }
}
