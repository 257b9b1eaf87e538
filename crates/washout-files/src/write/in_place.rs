//! Cleaning a file in place.
//!
//! As long as no rule has made a change, the result is what was read and nothing is written: a file that stays as it
//! is costs one reading and keeps its times. At the first change a temporary file is started with what was passed.

use std::fs::{File, Metadata};
use std::io::{self, Read};
use std::os::unix::fs::{FileExt, MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};

use super::kept::{Stamp, is_untouched, keep_all, keep_times};
use super::staged::{Replaced, Staged};
use crate::choose::what_it_is;
use crate::error::FileError;
use crate::history::{ContentHash, hash_of};
use crate::open::open_without_waiting;
use crate::wash::Sink;

/// What becomes of a file besides its content, when it is replaced.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Replacing {
    /// It keeps the times of its last change and of its last reading.
    pub keeps_times: bool,
    /// Where it is a symbolic link, the file it leads to is replaced.
    pub follows_links: bool,
    /// Where it has several names, this one is parted from the others.
    pub breaks_links: bool,
}

/// An open file that is going to be replaced.
pub(crate) struct Source {
    path: PathBuf,
    file: File,
    metadata: Metadata,
    keeps_times: bool,
}

impl Source {
    /// Opens a file, if it is one that may be written.
    pub(crate) fn open_to_write(path: &Path, replacing: Replacing) -> Result<Self, FileError> {
        let is_link = std::fs::symlink_metadata(path).map_err(FileError::Read)?.is_symlink();
        let source = match (is_link, replacing.follows_links) {
            (false, _) => Self::open(path)?,
            (true, true) => Self::open(&path.canonicalize().map_err(FileError::Read)?)?,
            (true, false) => return Err(FileError::Link),
        };
        let source = Self { keeps_times: replacing.keeps_times, ..source };
        if source.metadata.nlink() > 1 && !replacing.breaks_links {
            return Err(FileError::HardLinks(source.metadata.nlink()));
        }
        if source.metadata.permissions().mode() & 0o222 == 0 {
            return Err(FileError::ReadOnly);
        }
        Ok(source)
    }

    /// Opens a file that stays as it is.
    pub(crate) fn open(path: &Path) -> Result<Self, FileError> {
        let (file, metadata) = open_without_waiting(path).map_err(FileError::Read)?;
        // It may have become something else since it was chosen.
        if !metadata.is_file() {
            return Err(FileError::NoFile(what_it_is(&metadata)));
        }
        Ok(Self { path: path.to_owned(), file, metadata, keeps_times: false })
    }

    /// How long it was when it was opened, in bytes.
    pub(crate) fn len(&self) -> u64 {
        self.metadata.len()
    }

    pub(crate) fn reader(&self) -> impl Read + '_ {
        &self.file
    }

    /// What is in it, from its start.
    pub(crate) fn content(&self) -> impl Read + '_ {
        FromStart { file: &self.file, at: 0 }
    }

    /// Its path, absolute and without links.
    pub(crate) fn whole_path(&self) -> Result<PathBuf, FileError> {
        self.path.canonicalize().map_err(FileError::Read)
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

    /// Makes the result ready to be put in place of the file. `None`: it is the file as it was.
    pub(crate) fn ready(self) -> Result<Option<Replacement>, FileError> {
        let source = self.source;
        let staged = match self.staged {
            Some(staged) => staged,
            None if self.same == source.len() => return Ok(None),
            // All that is behind what stays has gone: nobody had any bytes to give that say so.
            None => source.stage(self.same)?,
        };
        // One rule may undo what another did.
        if same_bytes(&source.file, staged.file()).map_err(FileError::Read)? {
            return Ok(None);
        }
        keep_all(&source.file, &source.metadata, staged.file())?;
        if source.keeps_times {
            keep_times(&source.metadata, staged.file())?;
        }
        Ok(Some(Replacement { staged }))
    }
}

/// A result that is whole, beside the file it is going to replace.
pub(crate) struct Replacement {
    staged: Staged,
}

impl Replacement {
    /// The temporary file it is in.
    pub(super) fn staged(&self) -> &Staged {
        &self.staged
    }

    /// Replaces the file, unless something else has touched it since it was opened.
    pub(super) fn replace(self, source: &Source) -> Result<Replaced, FileError> {
        if !is_untouched(&source.path, &source.metadata) {
            return Err(FileError::ChangedMeanwhile);
        }
        self.staged.replace(&source.metadata)
    }

    /// The hash of the result.
    pub(crate) fn hash(&self) -> Result<ContentHash, FileError> {
        hash_of(FromStart { file: self.staged.file(), at: 0 }).map_err(FileError::Read)
    }
}

/// Reads a file from its start, wherever it is read or written otherwise.
struct FromStart<'f> {
    file: &'f File,
    at: u64,
}

impl Read for FromStart<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.file.read_at(buffer, self.at)?;
        self.at += read as u64;
        Ok(read)
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
    use crate::write::{Waiting, put_in_place};

    fn half_cleaned(path: &Path) -> (Source, &'static [u8]) {
        std::fs::write(path, "um fog\num horn\n").unwrap();
        (Source::open_to_write(path, Replacing::default()).unwrap(), b" fog\n")
    }

    #[test]
    fn a_file_that_changed_meanwhile_is_left_alone() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log.txt");
        let (source, washed) = half_cleaned(&path);
        let mut sink = InPlaceSink::new(&source);
        sink.give(washed, true).unwrap();
        std::fs::write(&path, "written by somebody else\n").unwrap();
        let replacement = sink.ready().unwrap().unwrap();
        let waiting = Waiting::new(None, source, replacement).unwrap();
        assert!(matches!(
            put_in_place(None, vec![None, Some(waiting)])[..],
            [Ok(()), Err(FileError::ChangedMeanwhile)]
        ));
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "written by somebody else\n");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
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
