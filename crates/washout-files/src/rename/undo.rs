//! Names restored.
//!
//! A run is undone by a plan like any other: every entry it renamed wants its old name again. So nothing is
//! overwritten here either, and what stands in the way is reported by name.

use std::collections::HashMap;
use std::ffi::OsStr;
use std::os::unix::ffi::OsStrExt;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use rayon::prelude::*;
use washout_core::names::Refusal;

use super::carry_out::in_order;
use super::planned::Listing;
use super::{CarriedOut, PlannedFolder};
use crate::folder::Folder;
use crate::history::{About, History, HistoryError, LeftContents, RenameOutcome, RenameRecord, RunEntry, RunState};
use crate::identity::Identity;
use crate::stop::Stop;
use washout_sets::reason;

/// What undoing a run would do.
#[derive(Debug)]
pub struct Undo {
    /// The run.
    pub run: i64,
    /// Some of its entries were not requested.
    pub is_part: bool,
    /// In the order in which they are restored: folders before what is in them.
    pub folders: Vec<PlannedFolder>,
    /// Entries that cannot have their old names back: the path they had after the run, the old name, and why.
    pub refused: Vec<(PathBuf, Vec<u8>, UndoRefusal)>,
}

/// Why an entry does not get its old name back.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum UndoRefusal {
    /// Nothing has the name it got.
    #[error("it is no longer there")]
    Gone,
    /// Something else has the name it got.
    #[error("something else has its name now; --force restores it all the same")]
    Replaced,
    /// The old name cannot be had.
    #[error("{0}")]
    Planned(Refusal),
    /// Its folder cannot be read.
    #[error("its folder cannot be read: {0}")]
    Folder(String),
}

/// Plans to put the names of a run back. `only`: of entries at or below this path alone, by their old or new paths.
/// `force`: also where something else has the name now.
///
/// # Errors
/// The run is not there or under way, or the history cannot be read.
pub fn plan_undo(history: &History, run: i64, only: &[PathBuf], force: bool) -> Result<Undo, HistoryError> {
    if history.run(run)?.state == RunState::UnderWay {
        return Err(HistoryError::UnderWay(run));
    }
    let half_back = |entry: &RunEntry| entry.about.undoes == Some(run) && entry.state == RunState::Interrupted;
    if let Some(entry) = history.runs()?.iter().find(|entry| half_back(entry) && entry.undone_by.is_none()) {
        return Err(HistoryError::HalfPutBack { run, by: entry.id });
    }
    let mut records = history.renames(run)?;
    let moved = moved_folders(&records);
    // Read once, and only if a file is another now.
    let mut left = None;
    let mut undo = Undo { run, is_part: false, folders: Vec::new(), refused: Vec::new() };
    let wanted = |record: &RenameRecord| {
        let paths = [&record.old, &record.new].map(|name| record.folder.join(OsStr::from_bytes(name)));
        only.is_empty() || only.iter().any(|only| paths.iter().any(|path| path.starts_with(only)))
    };
    // The last folder first. The records of one are given back before the next.
    while let Some(path) = records.last().map(|record| Arc::clone(&record.folder)) {
        let others = records.iter().rposition(|record| record.folder != path).map_or(0, |last| last + 1);
        let mut chosen = if others == 0 { std::mem::take(&mut records) } else { records.split_off(others) };
        let now = located(&path, &moved);
        let all = chosen.len();
        chosen.retain(wanted);
        undo.is_part |= chosen.len() < all;
        if chosen.is_empty() {
            continue;
        }
        match Folder::open_without_links(&now) {
            Ok(folder) => undo.folder((history, &mut left), &path, (&now, &folder), chosen, force)?,
            Err(error) => {
                for record in chosen.iter().filter(|record| record.outcome != Some(RenameOutcome::NotDone)) {
                    undo.refuse(&now, record, UndoRefusal::Folder(reason(&error)));
                }
            }
        }
    }
    Ok(undo)
}

impl Undo {
    fn refuse(&mut self, folder: &Path, record: &RenameRecord, why: UndoRefusal) {
        self.refused.push((folder.join(OsStr::from_bytes(&record.new)), record.old.clone(), why));
    }

    /// `path`: the folder as it was called then; `now`: as it is called now, and open.
    fn folder(
        &mut self,
        left: (&History, &mut Option<LeftContents>),
        path: &Path,
        (now, open): (&Path, &Folder),
        records: Vec<RenameRecord>,
        force: bool,
    ) -> Result<(), HistoryError> {
        let mut found: Vec<_> =
            records.par_iter().with_min_len(256).map(|record| whereabouts(now, record, force)).collect();
        rewritten(left, now, &records, &mut found)?;
        let mut wanted = HashMap::with_capacity(records.len());
        for (record, found) in records.into_iter().zip(found) {
            match found {
                Ok(Whereabouts::Old) => {}
                Ok(Whereabouts::New) => {
                    wanted.insert(record.new, record.old);
                }
                Ok(Whereabouts::Via) => {
                    wanted.insert(record.via.unwrap_or_default(), record.old);
                }
                Err(why) => self.refuse(now, &record, why),
            }
        }
        if wanted.is_empty() {
            return Ok(());
        }
        // What is in it is listed once the records are given back: there may be a million of both.
        let listing = match Listing::of(open) {
            Ok(listing) => listing,
            Err(error) => {
                let why = UndoRefusal::Folder(reason(&error));
                let refused =
                    wanted.into_iter().map(|(name, old)| (now.join(OsStr::from_bytes(&name)), old, why.clone()));
                self.refused.extend(refused);
                return Ok(());
            }
        };
        let planned = PlannedFolder::restoring(path.to_owned(), now.to_owned(), listing, wanted);
        for name in planned.names() {
            if let washout_core::names::NameOutcome::Refused(old, why) = name.outcome {
                let path = now.join(OsStr::from_bytes(name.name));
                self.refused.push((path, old.clone().unwrap_or_default(), UndoRefusal::Planned((**why).clone())));
            }
        }
        self.folders.push(planned);
        Ok(())
    }

    /// Entries that get their old names back.
    pub fn renames(&self) -> u64 {
        self.folders.iter().map(PlannedFolder::renames).sum()
    }

    /// Puts the names back, as a run of its own.
    ///
    /// # Errors
    /// The run cannot be written down. Nothing was renamed then.
    pub fn carry_out(
        &self,
        history: &mut History,
        about: &About,
        stop: &Stop,
        done: impl FnMut(&Path, &[u8], &[u8]),
    ) -> Result<CarriedOut, HistoryError> {
        let about = About { undoes: Some(self.run), part: self.is_part || !self.refused.is_empty(), ..about.clone() };
        in_order(&self.folders.iter().collect::<Vec<_>>(), Some(history), &about, stop, done)
    }
}

/// Which of its names an entry has now.
#[derive(PartialEq, Eq)]
enum Whereabouts {
    Old,
    New,
    Via,
}

/// Which of its names an entry has now. `now`: where its folder is.
fn whereabouts(now: &Path, record: &RenameRecord, force: bool) -> Result<Whereabouts, UndoRefusal> {
    let identity = |name: &[u8]| Identity::of(&now.join(OsStr::from_bytes(name))).ok();
    let is_it = |name: &[u8]| identity(name) == Some(record.identity);
    match record.outcome {
        Some(RenameOutcome::NotDone) => Ok(Whereabouts::Old),
        // Whoever was interrupted did not get to write down how far it came: the files know.
        // And where a part was restored before, they have their names.
        None | Some(RenameOutcome::Done) if is_it(&record.old) => Ok(Whereabouts::Old),
        _ if is_it(&record.new) => Ok(Whereabouts::New),
        _ if record.via.as_deref().is_some_and(is_it) => Ok(Whereabouts::Via),
        None | Some(RenameOutcome::Stuck) => Err(UndoRefusal::Gone),
        Some(RenameOutcome::Done) => match identity(&record.new) {
            Some(_) if force => Ok(Whereabouts::New),
            Some(_) => Err(UndoRefusal::Replaced),
            None => Err(UndoRefusal::Gone),
        },
    }
}

/// A file that a later run has cleaned is another file to the system, and the same to whoever renamed it.
fn rewritten(
    (history, left): (&History, &mut Option<LeftContents>),
    now: &Path,
    records: &[RenameRecord],
    found: &mut [Result<Whereabouts, UndoRefusal>],
) -> Result<(), HistoryError> {
    let replaced = |index: &usize| found[*index] == Err(UndoRefusal::Replaced) && !records[*index].is_folder;
    let replaced: Vec<usize> = (0..found.len()).filter(replaced).collect();
    if replaced.is_empty() {
        return Ok(());
    }
    let left = match left {
        Some(left) => left,
        None => left.insert(history.left_contents(|_| true)?),
    };
    for index in replaced {
        if left.is_in(&now.join(OsStr::from_bytes(&records[index].new))) {
            found[index] = Ok(Whereabouts::New);
        }
    }
    Ok(())
}

/// Folders that the run renamed: their path before, and their name after.
fn moved_folders(records: &[RenameRecord]) -> HashMap<PathBuf, Vec<u8>> {
    let mut moved = HashMap::new();
    for record in records.iter().filter(|record| record.is_folder && record.outcome != Some(RenameOutcome::NotDone)) {
        moved.insert(record.folder.join(OsStr::from_bytes(&record.old)), record.new.clone());
    }
    moved
}

/// Where a folder is now that folders above it may have been renamed after it.
fn located(path: &Path, moved: &HashMap<PathBuf, Vec<u8>>) -> PathBuf {
    let (mut recorded, mut now) = (PathBuf::new(), PathBuf::new());
    for part in path.components() {
        recorded.push(part);
        let renamed = moved.get(&recorded).map(|name| now.join(OsStr::from_bytes(name)));
        match (part, renamed) {
            // A run that was interrupted may not have come so far.
            (Component::Normal(_), Some(renamed)) if renamed.exists() => now = renamed,
            _ => now.push(part),
        }
    }
    now
}
