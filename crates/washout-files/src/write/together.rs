//! Results put in place of their files, many at a time.
//!
//! Asking the disk to make something durable costs more than all the rest, and less for many files at once than for each
//! by itself. So all files of a batch take each step together, in an order that must stay:
//!
//! 1. what was in them is durable in the history, and written down there;
//! 2. their results are durable, at temporary names;
//! 3. each file and its result change places;
//! 4. the folders are synced; where that fails, they change back;
//! 5. the old files go.

use std::collections::HashMap;
use std::io;
use std::path::PathBuf;
use std::sync::Arc;

use rayon::prelude::*;
use rustix::process::{Resource, Rlimit, getrlimit, setrlimit};

use super::in_place::{FileReplacement, OldFile};
use super::staged::{Replaced, Staged};
use crate::durable::sync_all;
use crate::error::FileError;
use crate::folder::Folder;
use crate::history::{Keeper, ToRecord};
use washout_sets::reason;

/// Files of a batch, at most: each is open, with its folder and its result.
const MOST: usize = 512;

/// Bytes in the files of a batch, if it has more than one: so much is on the disk twice.
const MOST_BYTES: u64 = 256 << 20;

/// The batches in which files are replaced, in their order; `len` gives the length of a file in bytes.
pub(crate) fn batches_to_replace<T>(files: &[T], len: impl Fn(&T) -> u64) -> impl Iterator<Item = &[T]> {
    let most = may_be_open().clamp(1, MOST);
    let mut rest = files;
    std::iter::from_fn(move || {
        let mut bytes = 0;
        let fits = |file: &&T| {
            bytes += len(file);
            bytes <= MOST_BYTES
        };
        let count = rest.iter().take(most).take_while(fits).count().max(1).min(rest.len());
        let (batch, behind) = rest.split_at(count);
        rest = behind;
        (!batch.is_empty()).then_some(batch)
    })
}

/// How many files may be replaced at once, as far as the system lets files be open. It is asked to let more be.
fn may_be_open() -> usize {
    const FOR_EACH: u64 = 4;
    const FOR_OTHERS: u64 = 64;
    let wanted = FOR_OTHERS + FOR_EACH * MOST as u64;
    let limit = getrlimit(Resource::Nofile);
    let most = limit.maximum.unwrap_or(u64::MAX).min(wanted);
    if limit.current.is_some_and(|current| current < most) {
        // Where that is refused it stays as it is.
        let _ = setrlimit(Resource::Nofile, Rlimit { current: Some(most), ..limit });
    }
    let allowed = getrlimit(Resource::Nofile).current.unwrap_or(u64::MAX);
    usize::try_from(allowed.saturating_sub(FOR_OTHERS) / FOR_EACH).unwrap_or(MOST)
}

/// A result that may replace its file.
pub(crate) struct Waiting {
    old: OldFile,
    replacement: FileReplacement,
    /// What was in the file, if there is to be a way back.
    original: Option<ToRecord>,
}

impl Waiting {
    /// Takes in what is in the file; it is not durable yet.
    pub(crate) fn new(keeper: Option<&Keeper>, old: OldFile, replacement: FileReplacement) -> Result<Self, FileError> {
        let original = keeper.map(|keeper| -> Result<ToRecord, FileError> {
            let after = replacement.hash()?;
            let keeping = keeper.originals().keep(old.source().content(), old.source().len());
            let keeping = keeping.map_err(|error| FileError::NotKept(reason(&error)))?;
            Ok(ToRecord { path: old.whole_path()?, keeping, after })
        });
        Ok(Self { original: original.transpose()?, old, replacement })
    }
}

/// Replaces files by the results that wait for it, durably: once this returns, a power cut does not undo it.
pub(crate) fn put_in_place(keeper: Option<&Keeper>, mut batch: Vec<Option<Waiting>>) -> Vec<Result<(), FileError>> {
    let originals: Vec<ToRecord> = batch.iter_mut().flatten().filter_map(|one| one.original.take()).collect();
    if batch.iter().all(Option::is_none) {
        return batch.iter().map(|_| Ok(())).collect();
    }
    let mut next = 0;
    let places: Vec<usize> = batch
        .iter()
        .map(|waiting| {
            let own = next;
            next += usize::from(waiting.is_some());
            own
        })
        .collect();
    let recorded = match keeper {
        Some(keeper) if !originals.is_empty() => keeper.record(originals).map_err(|error| error.to_string()),
        _ => Ok(0),
    };
    let durable = match recorded {
        Ok(_) => make_durable(batch),
        Err(ref why) => {
            batch.iter().map(|one| one.as_ref().map_or(Ok(None), |_| Err(FileError::NotKept(why.clone())))).collect()
        }
    };
    let replaced = durable.into_par_iter().with_max_len(1).map(|waiting| {
        let Some(Waiting { old, replacement, .. }) = waiting? else { return Ok(None) };
        replacement.replace(&old).map(Some)
    });
    let replaced: Vec<Result<Option<Replaced>, FileError>> = replaced.collect();
    let synced = sync_folders(&replaced);
    let finished = replaced.into_par_iter().with_max_len(1).map(|replaced| match replaced? {
        Some(replaced) => finish(replaced, &synced),
        None => Ok(()),
    });
    let finished: Vec<Result<(), FileError>> = finished.collect();
    if let (Some(keeper), Ok(first)) = (keeper, &recorded) {
        let is_not_done = |finished: &Result<(), FileError>| finished.as_ref().is_err_and(|error| !error.is_replaced());
        let failed = finished.iter().zip(places).filter(|(finished, _)| is_not_done(finished));
        failed.for_each(|(_, place)| keeper.not_done(first + place));
    }
    finished
}

/// Makes the results durable, at their temporary names.
fn make_durable(batch: Vec<Option<Waiting>>) -> Vec<Result<Option<Waiting>, FileError>> {
    let staged: Vec<&Staged> = batch.iter().flatten().map(|one| one.replacement.staged()).collect();
    let mut synced = sync_all(&staged, |staged| staged.system(), |staged| staged.file().sync_all()).into_iter();
    let with_outcome = |waiting: Option<Waiting>| {
        let Some(waiting) = waiting else { return Ok(None) };
        match synced.next() {
            Some(Err(cause)) => Err(waiting.replacement.staged().failed(cause)),
            _ => Ok(Some(waiting)),
        }
    };
    batch.into_iter().map(with_outcome).collect()
}

/// Makes the folders durable, each once; gives what happened to each, by its path.
fn sync_folders(replaced: &[Result<Option<Replaced>, FileError>]) -> HashMap<PathBuf, io::Result<()>> {
    let by_path = |replaced: &Replaced| (replaced.folder().path().to_owned(), Arc::clone(replaced.folder()));
    let folders: HashMap<PathBuf, Arc<Folder>> = replaced.iter().flatten().flatten().map(by_path).collect();
    let (paths, folders): (Vec<_>, Vec<_>) = folders.into_iter().unzip();
    let synced = sync_all(&folders, |folder| folder.system(), |folder| folder.sync());
    paths.into_iter().zip(synced).collect()
}

fn finish(replaced: Replaced, synced: &HashMap<PathBuf, io::Result<()>>) -> Result<(), FileError> {
    match synced.get(replaced.folder().path()) {
        Some(Err(error)) => {
            let cause = error.raw_os_error().map_or_else(|| error.kind().into(), io::Error::from_raw_os_error);
            let path = replaced.folder().path().to_owned();
            replaced.take_back().and(Err(FileError::Write { path, cause }))
        }
        _ => replaced.finish(),
    }
}
