//! Contents restored.
//!
//! A file gets its old content again if it holds what the run left in it, to the byte. That is a run of its own: what is
//! in the file until then is kept as well.

use std::collections::BTreeSet;
use std::fs::File;
use std::io::{self, Read};
use std::path::PathBuf;

use rayon::prelude::*;

use crate::chunk::Sink;
use crate::error::FileError;
use crate::folder::{Folder, Folders, Location, folder_of};
use crate::history::{ContentRecord, History, HistoryError, Keeper, Originals, RenameOutcome, RunState, hash_of};
use crate::meter::Meter;
use crate::stop::Stop;
use crate::write::{InPlaceSink, OldFile, Replacing, Waiting, batches_to_replace, put_in_place};
use washout_sets::reason;
use washout_sets::refuse_irregular;

/// What putting the contents of a run back would do.
#[derive(Debug, Default)]
pub struct Restoration {
    /// Files that get their old content.
    pub files: Vec<ContentRecord>,
    /// Files that cannot.
    pub refused: Vec<(PathBuf, RestoreRefusal)>,
    /// Some files of the run were not requested.
    pub is_part: bool,
    /// Where the run wrote: it may have left temporary files there, if it was killed.
    wrote_in: BTreeSet<PathBuf>,
}

/// Why a file does not get its old content back.
#[derive(Debug, thiserror::Error)]
pub enum RestoreRefusal {
    /// It cannot be read.
    #[error("cannot be read: {}", reason(.0))]
    Read(#[source] io::Error),
    /// It holds something else than the run left in it.
    #[error("it has changed since; --force restores what was in it before the run")]
    Changed,
    /// What was in it is not there.
    #[error("what was in it is no longer kept: {}", reason(.0))]
    NotKept(#[source] io::Error),
}

/// Plans to restore the contents of a run. `only`: of files at or below these paths. `force`: also where a file has
/// changed since.
///
/// # Errors
/// The run is not there or under way, or the history cannot be read.
pub fn plan_restore(history: &History, run: i64, only: &[PathBuf], force: bool) -> Result<Restoration, HistoryError> {
    if history.run(run)?.state == RunState::UnderWay {
        return Err(HistoryError::UnderWay(run));
    }
    let mut records = history.contents(run)?;
    let all = records.len();
    records.retain(|record| only.is_empty() || only.iter().any(|only| record.path.starts_with(only)));
    let is_part = records.len() < all;
    let wrote_in = records.iter().map(|record| folder_of(&record.path).to_owned()).collect();
    let originals = history.originals();
    let judged: Vec<_> = records.par_iter().map(|record| judge(&originals, record, force)).collect();
    let mut plan = Restoration { is_part, wrote_in, ..Restoration::default() };
    for (record, judged) in records.into_iter().zip(judged) {
        match judged {
            Ok(true) => plan.files.push(record),
            Ok(false) => {}
            Err(why) => plan.refused.push((record.path, why)),
        }
    }
    Ok(plan)
}

fn open_recorded(record: &ContentRecord) -> io::Result<File> {
    let (file, metadata) = Location::without_links(&record.path).open()?;
    refuse_irregular(&metadata).map(|()| file)
}

/// Whether a file is to get its old content; not if it has it.
fn judge(originals: &Originals, record: &ContentRecord, force: bool) -> Result<bool, RestoreRefusal> {
    let hash = open_recorded(record).and_then(hash_of).map_err(RestoreRefusal::Read)?;
    if hash == record.before {
        return Ok(false);
    }
    // The file itself says best whether the run replaced it. One that was left alone may be what it will.
    if hash != record.after && record.outcome == Some(RenameOutcome::NotDone) {
        return Ok(false);
    }
    // A run that was interrupted may have left the file alone, and someone else may have changed it then.
    if hash != record.after && !force {
        return Err(RestoreRefusal::Changed);
    }
    originals.open(&record.before, record.packed.as_ref()).map(|_| true).map_err(RestoreRefusal::NotKept)
}

impl Restoration {
    /// Puts the contents back, `keeper` being the run of its own. Gives how many files have theirs, and those that could
    /// not be done; once `stop` is requested the others are not begun.
    pub fn carry_out(&self, keeper: &Keeper, stop: &Stop, meter: &Meter) -> (u64, Vec<(PathBuf, FileError)>) {
        let (mut begun, mut failed) = (0, Vec::new());
        for folder in &self.wrote_in {
            if let Ok(folder) = Folder::open_without_links(folder) {
                folder.sweep();
            }
        }
        let folders = Folders::default();
        for batch in batches_to_replace(&self.files, |record| record.len) {
            if stop.is_requested() {
                break;
            }
            begun += batch.len();
            let ready: Vec<Result<Option<Waiting>, FileError>> =
                batch.par_iter().with_max_len(1).map(|record| ready(keeper, record, &folders)).collect();
            let mut waiting = Vec::with_capacity(batch.len());
            for (record, ready) in batch.iter().zip(ready) {
                waiting.push(ready.unwrap_or_else(|error| {
                    failed.push((record.path.clone(), error));
                    None
                }));
                meter.file_done();
            }
            let put = put_in_place(Some(keeper), waiting);
            failed.extend(batch.iter().zip(put).filter_map(|(record, put)| Some((record.path.clone(), put.err()?))));
        }
        ((begun - failed.len()) as u64, failed)
    }
}

fn ready(keeper: &Keeper, record: &ContentRecord, folders: &Folders) -> Result<Option<Waiting>, FileError> {
    let old = OldFile::open(Location::without_links(&record.path), Replacing::default(), folders)?;
    let mut sink = InPlaceSink::new(&old);
    copy_original(keeper, record, &mut sink)?;
    let Some(replacement) = sink.ready()? else { return Ok(None) };
    if replacement.hash()? != record.before {
        return Err(FileError::Original(io::ErrorKind::InvalidData.into()));
    }
    Waiting::new(Some(keeper), old, replacement).map(Some)
}

fn copy_original(keeper: &Keeper, record: &ContentRecord, sink: &mut InPlaceSink<'_>) -> Result<(), FileError> {
    let lost = |error: io::Error| FileError::Original(error);
    let mut original = keeper.originals().open(&record.before, record.packed.as_ref()).map_err(lost)?;
    let mut buffer = vec![0; 64 << 10];
    // Even an empty content is one.
    sink.give(b"", true)?;
    loop {
        match original.read(&mut buffer).map_err(lost)? {
            0 => return Ok(()),
            read => sink.give(&buffer[..read], true)?,
        }
    }
}
