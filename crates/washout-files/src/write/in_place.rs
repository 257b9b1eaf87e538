//! Cleaning a file in place.
//!
//! As long as no rule has made a change, the result is what was read and nothing is written: a file that stays as it
//! is costs one reading and keeps its times. At the first change a temporary file is started with what was passed.

use std::fs::{File, Metadata};
use std::io::{self, Read};
use std::os::unix::fs::{FileExt, MetadataExt, PermissionsExt};
use std::path::PathBuf;
use std::time::{Duration, SystemTime, UNIX_EPOCH};

use super::kept::{is_same_content, is_untouched, keep_all, keep_times};
use crate::stamp::Stamp;
use rustix::io::Errno;

use super::staged::{Replaced, Staged, StagedPlace};
use crate::chunk::Sink;
use crate::error::FileError;
use crate::folder::{Folders, Location, folder_of};
use crate::history::{ContentHash, hash_of};
use washout_sets::what_it_is;

/// What happens to a file besides its content, when it is replaced.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Replacing {
    /// It keeps the times of its last change and of its last reading.
    pub keeps_times: bool,
    /// Where it is a symbolic link, the file it leads to is replaced.
    pub follows_links: bool,
    /// Where it has several names, this one is separated from the others.
    pub breaks_links: bool,
}

/// An open file that is read.
pub(crate) struct SourceFile {
    file: File,
    metadata: Metadata,
}

impl SourceFile {
    /// Opens a file that stays as it is.
    pub(crate) fn open(location: Location<'_>) -> Result<Self, FileError> {
        Self::of(location.open().map_err(FileError::Read)?)
    }

    /// It may have become something else since it was chosen.
    fn of((file, metadata): (File, Metadata)) -> Result<Self, FileError> {
        if metadata.is_file() { Ok(Self { file, metadata }) } else { Err(FileError::NoFile(what_it_is(&metadata))) }
    }

    /// Waits until whatever changes the file from now on gives it other times.
    ///
    /// What was changed a moment ago and is changed again has the same times both times, where these are coarse.
    fn settled(mut self) -> Result<Self, FileError> {
        let changed = Duration::new(self.metadata.ctime().try_into().unwrap_or(0), nanoseconds(&self.metadata));
        let now = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
        if let Some(wait) = until_settled(changed, now) {
            std::thread::sleep(wait);
            self.metadata = self.file.metadata().map_err(FileError::Read)?;
        }
        Ok(self)
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

    pub(crate) fn stamp(&self) -> Stamp {
        Stamp::of(&self.metadata)
    }

    pub(super) fn file(&self) -> &File {
        &self.file
    }

    pub(super) fn metadata(&self) -> &Metadata {
        &self.metadata
    }
}

fn nanoseconds(file: &Metadata) -> u32 {
    u32::try_from(file.ctime_nsec()).unwrap_or(0)
}

/// How long to wait until a change has another time than this one, if it may have the same. Both are since 1970.
fn until_settled(changed: Duration, now: Duration) -> Option<Duration> {
    // File systems that keep seconds, or even seconds; others keep what the clock of the system showed at its last tick.
    let step = if changed.subsec_nanos() == 0 { Duration::from_secs(2) } else { Duration::from_millis(10) };
    // A time from the future is another machine's.
    let since = now.checked_sub(changed)?;
    step.checked_sub(since).filter(|wait| !wait.is_zero())
}

/// An open file that is going to be replaced.
pub(crate) struct OldFile {
    source: SourceFile,
    place: StagedPlace,
    keeps_times: bool,
}

impl OldFile {
    /// Opens a file, if it is one that may be written. `folders` keeps its folder open.
    pub(crate) fn open(location: Location<'_>, replacing: Replacing, folders: &Folders) -> Result<Self, FileError> {
        let read = FileError::Read;
        let is_link = location.is_named() && location.path().is_symlink();
        let place = match (is_link, replacing.follows_links) {
            (false, _) => Self::place(location, folders),
            (true, true) => Self::place(Location::new(&location.path().canonicalize().map_err(read)?, 0), folders),
            (true, false) => return Err(FileError::Link),
        };
        let StagedPlace { folder, name } = place.map_err(read)?;
        let source = SourceFile::of(folder.file(&name).map_err(|error| match Errno::from_io_error(&error) {
            Some(Errno::LOOP | Errno::MLINK) => FileError::Link,
            _ => read(error),
        })?)?;
        let source = source.settled()?;
        if source.metadata.nlink() > 1 && !replacing.breaks_links {
            return Err(FileError::HardLinks(source.metadata.nlink()));
        }
        if source.metadata.permissions().mode() & 0o222 == 0 {
            return Err(FileError::ReadOnly);
        }
        Ok(Self { source, place: StagedPlace { folder, name }, keeps_times: replacing.keeps_times })
    }

    fn place(location: Location<'_>, folders: &Folders) -> io::Result<StagedPlace> {
        let name = location.name()?.to_owned();
        let folder = folders.to_write(folder_of(location.path()), || location.folder())?;
        Ok(StagedPlace { folder, name })
    }

    pub(crate) fn source(&self) -> &SourceFile {
        &self.source
    }

    /// Its path, absolute and without links.
    pub(crate) fn whole_path(&self) -> Result<PathBuf, FileError> {
        Ok(self.place.folder.whole_path().map_err(FileError::Read)?.join(&self.place.name))
    }

    /// Starts a temporary file with the first `same` bytes of this one.
    fn stage(&self, same: u64) -> Result<Staged, FileError> {
        let mut staged = Staged::beside(self.place.clone(), 0o600)?;
        let mut passed = 0;
        let mut buffer = vec![0; usize::try_from(same).unwrap_or(usize::MAX).min(256 << 10)];
        while passed < same {
            let wanted = buffer.len().min(usize::try_from(same - passed).unwrap_or(usize::MAX));
            match self.source.file.read_at(&mut buffer[..wanted], passed) {
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
}

/// Takes the result and writes it only once it differs.
pub(crate) struct InPlaceSink<'s> {
    old: &'s OldFile,
    /// How much of the result is the same as the start of the file, and not written.
    same: u64,
    staged: Option<Staged>,
}

impl<'s> InPlaceSink<'s> {
    pub(crate) fn new(old: &'s OldFile) -> Self {
        Self { old, same: 0, staged: None }
    }

    /// Makes the result ready to be put in place of the file. `None`: it is the file as it was.
    pub(crate) fn ready(self) -> Result<Option<FileReplacement>, FileError> {
        let source = &self.old.source;
        let staged = match self.staged {
            Some(staged) => staged,
            None if self.same == source.len() => return Ok(None),
            // All that is after what stays has gone: no one had any bytes to give that say so.
            None => self.old.stage(self.same)?,
        };
        // One rule may undo what another did.
        if same_bytes(&source.file, staged.file()).map_err(FileError::Read)? {
            return Ok(None);
        }
        keep_all(&source.file, &source.metadata, staged.file())?;
        if self.old.keeps_times {
            keep_times(&source.metadata, staged.file())?;
        }
        Ok(Some(FileReplacement { staged }))
    }
}

/// A result that is whole, beside the file it is going to replace.
pub(crate) struct FileReplacement {
    staged: Staged,
}

impl FileReplacement {
    /// The temporary file it is in.
    pub(super) fn staged(&self) -> &Staged {
        &self.staged
    }

    /// Replaces the file, unless something else has touched it since it was opened.
    pub(super) fn replace(self, old: &OldFile) -> Result<Replaced, FileError> {
        let OldFile { source, place, .. } = old;
        // Where another name of the file was separated from it a moment ago, its status has changed and its content has not.
        let is_same = if source.metadata.nlink() > 1 { is_same_content } else { is_untouched };
        if !is_same(&place.folder, &place.name, &source.metadata) {
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
            none => none.insert(self.old.stage(self.same)?),
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
    use std::path::Path;

    use super::*;
    use crate::write::{Waiting, put_in_place};

    #[test]
    fn a_change_of_a_moment_ago_is_waited_for_until_the_next_is_told_from_it() {
        let (second, tick) = (Duration::from_secs(1), Duration::from_millis(1));
        let at = 1_000_000 * second;
        assert_eq!(until_settled(at, at + second / 2), Some(3 * second / 2), "times in seconds");
        assert_eq!(until_settled(at + tick, at + 4 * tick), Some(7 * tick), "times in ticks of the clock");
        for (changed, now) in [(at, at + 2 * second), (at + tick, at + second), (at + 60 * second, at)] {
            assert_eq!(until_settled(changed, now), None);
        }
    }

    fn half_cleaned(path: &Path) -> (OldFile, &'static [u8]) {
        std::fs::write(path, "um fog\num horn\n").unwrap();
        let old = OldFile::open(Location::new(path, 0), Replacing::default(), &Folders::default());
        (old.unwrap(), b" fog\n")
    }

    #[test]
    fn a_file_that_changed_meanwhile_is_left_alone() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log.txt");
        let (old, washed) = half_cleaned(&path);
        let mut sink = InPlaceSink::new(&old);
        sink.give(washed, true).unwrap();
        std::fs::write(&path, "written by somebody else\n").unwrap();
        let replacement = sink.ready().unwrap().unwrap();
        let waiting = Waiting::new(None, old, replacement).unwrap();
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
        let (old, washed) = half_cleaned(&path);
        let mut sink = InPlaceSink::new(&old);
        sink.give(washed, true).unwrap();
        drop(sink);
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "um fog\num horn\n");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
    }
}
