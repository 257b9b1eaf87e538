//! Cleaning a file in place.
//!
//! As long as no rule has made a change, the result is what was read and nothing is written: a file that stays as it
//! is costs one reading and keeps its times. At the first change a temporary file is started with what was passed.

use std::fs::{File, Metadata};
use std::io::{self, Read};
use std::os::unix::fs::{FileExt, MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};

use super::kept::{Stamp, is_untouched, keep_all};
use super::staged::Staged;
use crate::error::FileError;
use crate::wash::Sink;

/// An open file that is going to be replaced.
pub(crate) struct Source {
    path: PathBuf,
    file: File,
    metadata: Metadata,
}

impl Source {
    /// Opens a file, if it is one that may be written.
    pub(crate) fn open_to_write(path: &Path) -> Result<Self, FileError> {
        if std::fs::symlink_metadata(path).map_err(FileError::Read)?.is_symlink() {
            return Err(FileError::Link);
        }
        let source = Self::open(path)?;
        if source.metadata.nlink() > 1 {
            return Err(FileError::HardLinks(source.metadata.nlink()));
        }
        if source.metadata.permissions().mode() & 0o222 == 0 {
            return Err(FileError::ReadOnly);
        }
        Ok(source)
    }

    /// Opens a file that stays as it is.
    pub(crate) fn open(path: &Path) -> Result<Self, FileError> {
        let file = File::open(path).map_err(FileError::Read)?;
        let metadata = file.metadata().map_err(FileError::Read)?;
        Ok(Self { path: path.to_owned(), file, metadata })
    }

    /// How long it was when it was opened, in bytes.
    pub(crate) fn len(&self) -> u64 {
        self.metadata.len()
    }

    pub(crate) fn reader(&self) -> impl Read + '_ {
        &self.file
    }

    /// Starts a temporary file with the first `same` bytes of this one.
    fn stage(&self, same: u64) -> Result<Staged, FileError> {
        let mut staged = Staged::beside(&self.path)?;
        let mut passed = 0;
        let mut buffer = vec![0; 256 << 10];
        while passed < same {
            let wanted = buffer.len().min(usize::try_from(same - passed).unwrap_or(usize::MAX));
            match self.file.read_at(&mut buffer[..wanted], passed) {
                Ok(0) => return Err(FileError::ChangedMeanwhile), // it became shorter
                Ok(read) => {
                    staged.write(&buffer[..read])?;
                    passed += read as u64;
                }
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(FileError::Read(error)),
            }
        }
        Ok(staged)
    }

    pub(crate) fn stamp(&self) -> Stamp {
        Stamp::of(&self.metadata)
    }

    pub(super) fn metadata(&self) -> &Metadata {
        &self.metadata
    }
}

/// Takes the result and writes it only once it differs.
pub(crate) struct InPlaceSink<'s> {
    source: &'s Source,
    /// How much of the result is the same as the start of the file, and not written.
    same: u64,
    staged: Option<Staged>,
}

impl<'s> InPlaceSink<'s> {
    pub(crate) fn new(source: &'s Source) -> Self {
        Self { source, same: 0, staged: None }
    }

    /// Puts the result in place of the file. `false`: the result is the file as it was, which was not touched.
    pub(crate) fn commit(self) -> Result<bool, FileError> {
        let Some(staged) = self.staged else { return Ok(false) };
        let source = self.source;
        // One rule may undo what another did.
        if same_bytes(&source.file, staged.file()).map_err(FileError::Read)? {
            return Ok(false);
        }
        keep_all(&source.file, &source.metadata, staged.file())?;
        if !is_untouched(&source.path, &source.metadata) {
            return Err(FileError::ChangedMeanwhile);
        }
        staged.replace()?;
        Ok(true)
    }
}

impl Sink for InPlaceSink<'_> {
    type Error = FileError;

    fn give(&mut self, bytes: &[u8], changed: bool) -> Result<(), FileError> {
        if !changed {
            self.same += bytes.len() as u64;
            return Ok(());
        }
        let staged = match &mut self.staged {
            Some(staged) => staged,
            none => none.insert(self.source.stage(self.same)?),
        };
        staged.write(bytes)
    }
}

/// Compares two files from their starts. Files of different length differ at once, others at their first difference.
fn same_bytes(one: &File, other: &File) -> io::Result<bool> {
    if one.metadata()?.len() != other.metadata()?.len() {
        return Ok(false);
    }
    let (mut first, mut second) = (vec![0; 64 << 10], vec![0; 64 << 10]);
    let mut at = 0;
    loop {
        let read = one.read_at(&mut first, at)?;
        if read == 0 {
            return Ok(true);
        }
        other.read_exact_at(&mut second[..read], at)?;
        if first[..read] != second[..read] {
            return Ok(false);
        }
        at += read as u64;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn half_cleaned(path: &Path) -> (Source, &'static [u8]) {
        std::fs::write(path, "um fog\num horn\n").unwrap();
        (Source::open_to_write(path).unwrap(), b" fog\n")
    }

    #[test]
    fn a_file_that_changed_meanwhile_is_left_alone() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log.txt");
        let (source, washed) = half_cleaned(&path);
        let mut sink = InPlaceSink::new(&source);
        sink.give(washed, true).unwrap();
        std::fs::write(&path, "written by somebody else\n").unwrap();
        assert!(matches!(sink.commit(), Err(FileError::ChangedMeanwhile)));
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "written by somebody else\n");
    }

    #[test]
    fn work_that_is_given_up_leaves_nothing_behind() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log.txt");
        let (source, washed) = half_cleaned(&path);
        let mut sink = InPlaceSink::new(&source);
        sink.give(washed, true).unwrap();
        drop(sink);
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "um fog\num horn\n");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
    }
}
