//! What was in files before a run changed them: compressed, once for each content, as files beside the database.
//!
//! An original is whole and durable before its file is replaced. It is named by the BLAKE3 hash of the content, so that
//! it can be checked when it is restored, and so that the same content is kept only once.

use std::collections::HashSet;
use std::fs::{self, DirBuilder, DirEntry, File};
use std::io::{self, Read, Write};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::DirBuilderExt;
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;

use crate::durable::{sync_all, sync_folder};

/// Fast, and text shrinks to a third or less.
const LEVEL: i32 = 1;

/// How the names of contents begin that are not settled yet.
const UNSETTLED: &str = ".keeping-";

/// The BLAKE3 hash of a content.
pub(crate) type ContentHash = [u8; 32];

/// The originals below one folder.
#[derive(Clone, Debug)]
pub(crate) struct Originals {
    folder: PathBuf,
}

/// A content that is kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Kept {
    pub(crate) hash: ContentHash,
    /// In bytes, before it was compressed.
    pub(crate) len: u64,
}

/// A content that is taken in and not settled yet.
#[derive(Debug)]
pub(crate) struct Keeping {
    pub(crate) kept: Kept,
    /// `None`: it is there already.
    temporary: Option<NamedTempFile>,
}

impl Originals {
    pub(super) fn below(folder: &Path) -> Self {
        Self { folder: folder.join("originals") }
    }

    fn place(&self, hash: &ContentHash) -> PathBuf {
        self.folder.join(&*blake3::Hash::from_bytes(*hash).to_hex())
    }

    /// Takes a content in. It is in its place, and durable, once it is settled.
    pub(crate) fn keep(&self, content: impl Read) -> io::Result<Keeping> {
        DirBuilder::new().recursive(true).mode(0o700).create(&self.folder)?;
        let temporary = NamedTempFile::with_prefix_in(UNSETTLED, &self.folder)?;
        let mut hashing = Hashing { reader: content, hasher: blake3::Hasher::new(), len: 0 };
        let mut encoder = zstd::Encoder::new(temporary.as_file(), LEVEL)?;
        io::copy(&mut hashing, &mut encoder)?;
        encoder.finish()?.flush()?;
        let kept = Kept { hash: *hashing.hasher.finalize().as_bytes(), len: hashing.len };
        let is_there = self.place(&kept.hash).exists();
        Ok(Keeping { kept, temporary: (!is_there).then_some(temporary) })
    }

    /// Puts contents in their places, durably. All of them are made durable before the first gets its name: what has the
    /// name of a content is that content.
    pub(crate) fn settle(&self, keeping: Vec<Keeping>) -> io::Result<()> {
        let new: Vec<&File> = keeping.iter().filter_map(|one| Some(one.temporary.as_ref()?.as_file())).collect();
        sync_all(&new, |file| file.sync_data()).into_iter().collect::<io::Result<()>>()?;
        for Keeping { kept, temporary } in keeping {
            if let Some(temporary) = temporary {
                temporary.persist(self.place(&kept.hash)).map_err(|error| error.error)?;
            }
        }
        // Also for those that were there: another run may have put them there a moment ago.
        sync_folder(&self.folder)
    }

    /// Opens an original. What is read is checked only once it has been read to its end: by [`hash_of`].
    pub(crate) fn open(&self, hash: &ContentHash) -> io::Result<impl Read + use<>> {
        zstd::Decoder::new(File::open(self.place(hash))?)
    }

    /// Removes all except these. What cannot be removed stays for the next time.
    pub(crate) fn keep_only(&self, used: &HashSet<ContentHash>) {
        let used: HashSet<PathBuf> = used.iter().map(|hash| self.place(hash)).collect();
        let files = self.files().map(|file| file.path());
        files.filter(|path| !used.contains(path)).for_each(|path| drop(fs::remove_file(path)));
    }

    /// Removes what was taken in and never settled. No one may be keeping anything.
    pub(crate) fn sweep(&self) {
        let unsettled = self.files().filter(|file| file.file_name().as_bytes().starts_with(UNSETTLED.as_bytes()));
        unsettled.for_each(|file| drop(fs::remove_file(file.path())));
    }

    /// How much all of them take, in bytes.
    pub(crate) fn size(&self) -> u64 {
        self.files().filter_map(|file| file.metadata().ok()).map(|file| file.len()).sum()
    }

    fn files(&self) -> impl Iterator<Item = DirEntry> {
        fs::read_dir(&self.folder).into_iter().flatten().flatten()
    }
}

/// The hash of a content.
pub(crate) fn hash_of(content: impl Read) -> io::Result<ContentHash> {
    let mut hasher = blake3::Hasher::new();
    hasher.update_reader(content)?;
    Ok(*hasher.finalize().as_bytes())
}

/// A reader whose bytes are hashed and counted.
struct Hashing<R> {
    reader: R,
    hasher: blake3::Hasher,
    len: u64,
}

impl<R: Read> Read for Hashing<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.reader.read(buffer)?;
        self.hasher.update(&buffer[..read]);
        self.len += read as u64;
        Ok(read)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_content_is_kept_once_and_comes_back_as_it_was() {
        let folder = tempfile::tempdir().unwrap();
        let originals = Originals::below(folder.path());
        let content = b"fog ".repeat(10_000);
        let keep = |content: &[u8]| {
            let keeping = originals.keep(content).unwrap();
            let kept = keeping.kept;
            originals.settle(vec![keeping]).unwrap();
            kept
        };
        let kept = keep(&content);
        assert_eq!((kept, kept.len), (keep(&content), 40_000));
        let mut back = Vec::new();
        originals.open(&kept.hash).unwrap().read_to_end(&mut back).unwrap();
        assert_eq!(back, content);
        assert_eq!(hash_of(&back[..]).unwrap(), kept.hash);
        assert!(originals.size() < 400, "once, and compressed");
        assert_eq!(fs::read_dir(folder.path().join("originals")).unwrap().count(), 1, "no temporary file stays");
        keep(b"");
    }
}
