//! What was in files before a run changed them: compressed, once for each content, as files beside the database.
//!
//! An original is whole and durable before its file is replaced. It is known by the BLAKE3 hash of the content, so that
//! it can be checked when it is restored, and so that the same content is kept only once. A long one is a file whose name
//! is the hash; short ones are in packs.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};
use std::fs::{self, DirBuilder, DirEntry, File};
use std::io::{self, Read, Write};
use std::os::unix::ffi::OsStrExt;
use std::os::unix::fs::DirBuilderExt;
use std::path::{Path, PathBuf};

use tempfile::NamedTempFile;
use zstd::bulk::Compressor;

use super::pack::{self, Pack, PackPlace};
use crate::durable::{sync_each, sync_folder};

/// Fast, and text shrinks to a third or less.
const LEVEL: i32 = 1;

/// Longer contents get a file of their own, in bytes: a batch of files is in memory until it is settled.
const PACKED: u64 = 64 << 10;

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
    content: TakenIn,
}

/// A content, compressed.
#[derive(Debug)]
enum TakenIn {
    File(NamedTempFile),
    Bytes(Vec<u8>),
}

thread_local! {
    /// What compresses short contents: it takes more memory than they do.
    static COMPRESSOR: RefCell<Option<Compressor<'static>>> = const { RefCell::new(None) };
}

impl Originals {
    pub(super) fn below(folder: &Path) -> Self {
        Self { folder: folder.join("originals") }
    }

    fn place(&self, hash: &ContentHash) -> PathBuf {
        self.folder.join(&*blake3::Hash::from_bytes(*hash).to_hex())
    }

    /// Takes a content in; `len` is its length in bytes. It is in its place, and durable, once it is settled.
    pub(crate) fn keep(&self, mut content: impl Read, len: u64) -> io::Result<Keeping> {
        if len <= PACKED {
            let mut bytes = Vec::with_capacity(usize::try_from(len).unwrap_or(0) + 1);
            content.read_to_end(&mut bytes)?;
            let kept = Kept { hash: *blake3::hash(&bytes).as_bytes(), len: bytes.len() as u64 };
            return Ok(Keeping { kept, content: TakenIn::Bytes(compressed(&bytes)?) });
        }
        self.make_folder()?;
        let temporary = NamedTempFile::with_prefix_in(UNSETTLED, &self.folder)?;
        let mut hashing = Hashing { reader: content, hasher: blake3::Hasher::new(), len: 0 };
        let mut encoder = zstd::Encoder::new(temporary.as_file(), LEVEL)?;
        io::copy(&mut hashing, &mut encoder)?;
        encoder.finish()?.flush()?;
        let kept = Kept { hash: *hashing.hasher.finalize().as_bytes(), len: hashing.len };
        Ok(Keeping { kept, content: TakenIn::File(temporary) })
    }

    fn make_folder(&self) -> io::Result<()> {
        DirBuilder::new().recursive(true).mode(0o700).create(&self.folder)
    }

    /// Puts contents in their places, durably, except those that are `known` to be in a pack. All files are made durable
    /// before the first gets its name: what has the name of a content is that content. Gives the place of each that is in
    /// this pack now.
    pub(super) fn settle(
        &self,
        keeping: Vec<Keeping>,
        known: &HashSet<ContentHash>,
        pack: &mut Option<Pack>,
    ) -> io::Result<Vec<(ContentHash, PackPlace)>> {
        let (mut files, mut packed, mut there) = (Vec::new(), HashMap::new(), false);
        for Keeping { kept: Kept { hash, .. }, content } in keeping {
            match content {
                _ if known.contains(&hash) => {}
                TakenIn::File(file) => files.push((hash, file)),
                // Another run has put it there, maybe a moment ago.
                TakenIn::Bytes(_) if self.place(&hash).exists() => there = true,
                TakenIn::Bytes(bytes) => drop(packed.entry(hash).or_insert(bytes)),
            }
        }
        if there || !files.is_empty() {
            self.settle_files(files)?;
        }
        if packed.is_empty() {
            return Ok(Vec::new());
        }
        let pack = match pack {
            Some(pack) => pack,
            none => {
                self.make_folder()?;
                none.insert(Pack::new(&self.folder)?)
            }
        };
        let (hashes, contents): (Vec<ContentHash>, Vec<Vec<u8>>) = packed.into_iter().unzip();
        let contents: Vec<&[u8]> = contents.iter().map(Vec::as_slice).collect();
        Ok(hashes.into_iter().zip(pack.add(&contents)?).collect())
    }

    fn settle_files(&self, files: Vec<(ContentHash, NamedTempFile)>) -> io::Result<()> {
        let new: Vec<&File> = files.iter().map(|(_, file)| file.as_file()).collect();
        sync_each(&new, |file| file.sync_data()).into_iter().collect::<io::Result<()>>()?;
        for (hash, file) in files {
            file.persist(self.place(&hash)).map_err(|error| error.error)?;
        }
        sync_folder(&self.folder)
    }

    /// How long a pack is, in bytes; 0 if it is gone.
    pub(super) fn pack_len(&self, pack: &str) -> u64 {
        self.folder.join(pack).metadata().map_or(0, |pack| pack.len())
    }

    /// Opens an original, which is in a pack or has a file of its own. What is read is checked only once it has been read to
    /// its end: by [`hash_of`].
    pub(crate) fn open(&self, hash: &ContentHash, packed: Option<&PackPlace>) -> io::Result<impl Read + use<>> {
        let compressed: Box<dyn Read + Send> = match packed {
            Some(place) => Box::new(pack::open(&self.folder, place)?),
            None => Box::new(File::open(self.place(hash))?),
        };
        zstd::Decoder::new(compressed)
    }

    /// Removes all files except those of these contents and these packs, and in packs all except what is in these places,
    /// which are in order. What cannot be removed stays for the next time.
    pub(crate) fn keep_only(&self, used: &HashSet<ContentHash>, packed: &HashMap<String, Vec<PackPlace>>) {
        let used: HashSet<PathBuf> = used.iter().map(|hash| self.place(hash)).collect();
        for path in self.files().map(|file| file.path()) {
            let places = path.file_name().and_then(|name| packed.get(name.to_str()?));
            match places {
                Some(places) => pack::give_back_others(&path, places),
                None if used.contains(&path) => {}
                None => drop(fs::remove_file(path)),
            }
        }
    }
    /// Removes what was taken in and never settled. No one may be keeping anything.
    pub(crate) fn sweep(&self) {
        let unsettled = self.files().filter(|file| file.file_name().as_bytes().starts_with(UNSETTLED.as_bytes()));
        unsettled.for_each(|file| drop(fs::remove_file(file.path())));
    }

    /// How much all of them take, in bytes.
    pub(crate) fn size(&self) -> u64 {
        self.files().map(|file| pack::size(&file.path())).sum()
    }

    fn files(&self) -> impl Iterator<Item = DirEntry> {
        fs::read_dir(&self.folder).into_iter().flatten().flatten()
    }
}

/// A short content, compressed.
fn compressed(content: &[u8]) -> io::Result<Vec<u8>> {
    COMPRESSOR.with_borrow_mut(|compressor| {
        let compressor = match compressor {
            Some(compressor) => compressor,
            none => none.insert(Compressor::new(LEVEL)?),
        };
        compressor.compress(content)
    })
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
        let (mut known, mut pack) = (HashMap::new(), None);
        let mut keep = |content: &[u8]| {
            let keeping = originals.keep(content, content.len() as u64).unwrap();
            let kept = keeping.kept;
            let hashes = known.keys().copied().collect();
            known.extend(originals.settle(vec![keeping], &hashes, &mut pack).unwrap());
            let mut back = Vec::new();
            originals.open(&kept.hash, known.get(&kept.hash)).unwrap().read_to_end(&mut back).unwrap();
            assert_eq!(back, content);
            assert_eq!((hash_of(&back[..]).unwrap(), kept.len), (kept.hash, content.len() as u64));
        };
        let (long, short) = (b"fog ".repeat(50_000), b"fog ".repeat(10_000));
        for content in [&long, &short, &b""[..], &long, &short, b"", b"horn"] {
            keep(content);
        }
        assert_eq!(fs::read_dir(folder.path().join("originals")).unwrap().count(), 2, "a file and a pack");
        assert!(originals.size() < 400, "once, and compressed");
        assert_eq!(known.len(), 3, "short ones are in the pack");
    }
}
