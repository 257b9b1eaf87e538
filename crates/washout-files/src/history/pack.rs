//! Small contents, one after the other in one file: for each of them a file of its own would have to be made durable.
//!
//! A run writes to a pack of its own. What stands where in it is written down in the database, once it is durable. A place
//! that nothing written down needs any more is given back to the file system, where it takes that.

use std::fs::File;
use std::io::{self, Read, Seek, SeekFrom, Take};
use std::os::unix::fs::{FileExt, MetadataExt};
use std::path::{Path, PathBuf};

use crate::durable::sync_folder;

/// How the names of packs end.
const ENDING: &str = ".pack";

/// Where in which pack a content is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct PackPlace {
    /// The name of the pack.
    pub(crate) pack: String,
    /// Where it starts, in bytes.
    pub(crate) at: u64,
    /// How many bytes it takes, compressed.
    pub(crate) size: u64,
}

/// A pack that is written to.
#[derive(Debug)]
pub(super) struct Pack {
    file: File,
    name: String,
    /// Where the next content goes.
    end: u64,
}

impl Pack {
    /// A new one in this folder.
    pub(super) fn new(folder: &Path) -> io::Result<Self> {
        let file = tempfile::Builder::new().prefix("").suffix(ENDING).rand_bytes(16).tempfile_in(folder)?;
        let (file, path) = file.keep().map_err(|error| error.error)?;
        sync_folder(folder)?;
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        Ok(Self { file, name, end: 0 })
    }

    /// Adds contents, durably; gives where each is.
    pub(super) fn add(&mut self, contents: &[&[u8]]) -> io::Result<Vec<PackPlace>> {
        self.file.write_all_at(&contents.concat(), self.end)?;
        self.file.sync_data()?;
        let mut at = self.end;
        let places = contents.iter().map(|content| {
            let place = PackPlace { pack: self.name.clone(), at, size: content.len() as u64 };
            at += place.size;
            place
        });
        let places = places.collect();
        self.end = at;
        Ok(places)
    }
}

/// Opens a content of a pack in this folder.
pub(super) fn open(folder: &Path, place: &PackPlace) -> io::Result<Take<File>> {
    let mut file = File::open(folder.join(&place.pack))?;
    file.seek(SeekFrom::Start(place.at))?;
    Ok(file.take(place.size))
}

/// How much a file takes on the disk, in bytes: a pack may have gaps.
pub(super) fn size(path: &Path) -> u64 {
    path.metadata().map_or(0, |pack| pack.len().min(pack.blocks() * 512))
}

/// Gives what is between these places of a pack, which are in order, back to the file system. What it does not take stays.
pub(super) fn give_back_others(pack: &PathBuf, used: &[PackPlace]) {
    let Ok(file) = File::options().write(true).open(pack) else { return };
    let len = file.metadata().map_or(0, |pack| pack.len());
    let starts = std::iter::once(0).chain(used.iter().map(|place| place.at + place.size));
    let ends = used.iter().map(|place| place.at).chain([len]);
    for (start, end) in starts.zip(ends).filter(|(start, end)| start < end) {
        punch(&file, start, end - start);
    }
}

#[cfg(target_os = "linux")]
fn punch(file: &File, at: u64, len: u64) {
    use rustix::fs::{FallocateFlags, fallocate};
    let _ = fallocate(file, FallocateFlags::PUNCH_HOLE | FallocateFlags::KEEP_SIZE, at, len);
}

#[cfg(not(target_os = "linux"))]
fn punch(_: &File, _: u64, _: u64) {}
