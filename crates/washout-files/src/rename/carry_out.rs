//! A plan carried out.
//!
//! Everything is written down before the first rename. Each rename asks the system not to overwrite, so that nothing is
//! lost even if another program makes a file in between; and each looks first whether the entry is still the one that
//! was planned for. What could not be done is reported, and what waits for its name is then refused by the system too.

use std::ffi::OsStr;
use std::io;
use std::os::fd::{AsFd, BorrowedFd};
use std::os::unix::ffi::OsStrExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use rustix::fs::{RenameFlags, renameat_with};
use rustix::io::Errno;
use washout_core::names::{NameOutcome, RenameStep};

use super::planned::join_shown;
use super::{PlannedFolder, Plans, RenameError};
use crate::folder::Folder;
use crate::history::{About, History, HistoryError, RenameOutcome, RenameRecord, RunKind, record, record_outcomes};
use crate::identity::Identity;
use crate::stop::Stop;
use washout_sets::reason;

/// What happened to a plan.
#[derive(Debug, Default)]
pub struct CarriedOut {
    /// The number of the run in the history, if it is there.
    pub run: Option<i64>,
    /// Entries that have their new names.
    pub renamed: u64,
    /// Entries that have not, with the reason: their path as shown before.
    pub failed: Vec<(PathBuf, RenameError)>,
    /// Entries that were not begun, since someone asked to stop.
    pub not_begun: u64,
    /// The record of the end could not be written; what was done stays and is found out again when it is restored.
    pub unrecorded: Option<HistoryError>,
}

/// Carries all plans out, contents of folders before the folders themselves. Without a history there is no way back.
///
/// # Errors
/// The run cannot be written down. Nothing was renamed then.
pub fn carry_out(
    plans: &Plans,
    history: Option<&mut History>,
    about: &About,
    stop: &Stop,
    done: impl FnMut(&Path, &[u8], &[u8]),
) -> Result<CarriedOut, HistoryError> {
    let folders = plans.deepest_first();
    in_order(&folders, history, about, stop, done)
}

/// Carries plans out in the order given.
pub(crate) fn in_order(
    folders: &[&PlannedFolder],
    mut history: Option<&mut History>,
    about: &About,
    stop: &Stop,
    mut done: impl FnMut(&Path, &[u8], &[u8]),
) -> Result<CarriedOut, HistoryError> {
    let mut works: Vec<FolderWork<'_>> =
        folders.iter().filter(|f| !f.plan.steps.is_empty()).map(|f| FolderWork::of(f)).collect();
    let run = match history.as_deref_mut() {
        Some(history) => Some(history.begin(RunKind::Names, about, |change, run| {
            record(change, run, works.iter().flat_map(FolderWork::records))
        })?),
        None => None,
    };
    let mut carried = CarriedOut { run: run.as_ref().map(|run| run.id), ..CarriedOut::default() };
    for work in &mut works {
        work.carry_out(stop, &mut done);
    }
    let moves = || works.iter().flat_map(|work| &work.moves);
    if let (Some(history), Some(run)) = (history, run) {
        let others = moves().enumerate().filter(|(_, one)| one.outcome != RenameOutcome::Done);
        let others = others.map(|(seq, one)| (seq, one.outcome));
        carried.unrecorded = history.end(&run, |change| record_outcomes(change, run.id, others)).err();
    }
    for work in works {
        for Move { entry, outcome, error, .. } in work.moves {
            match (outcome, error) {
                (RenameOutcome::Done, _) => carried.renamed += 1,
                (_, Some(error)) => {
                    let name = &work.folder.entries[entry].0;
                    carried.failed.push((join_shown(&work.folder.shown, name), *error));
                }
                (_, None) => carried.not_begun += 1,
            }
        }
    }
    Ok(carried)
}

/// One folder at work.
struct FolderWork<'p> {
    folder: &'p PlannedFolder,
    moves: Vec<Move>,
    /// Where the move of each entry is in `moves`, for entries that have one.
    of_entry: Vec<usize>,
}

/// One entry on its way. A million of them may be: what is known of it otherwise is looked up.
struct Move {
    entry: usize,
    /// The number of the temporary name that it has on the way.
    temporary: Option<usize>,
    outcome: RenameOutcome,
    error: Option<Box<RenameError>>,
}

/// The names of an entry, and what distinguishes it.
struct MoveNames<'p> {
    old: &'p [u8],
    new: &'p [u8],
    via: Option<String>,
    identity: Identity,
}

impl<'p> FolderWork<'p> {
    fn of(folder: &'p PlannedFolder) -> Self {
        let no_move = usize::MAX;
        let mut work = Self {
            folder,
            moves: Vec::with_capacity(folder.plan.steps.len()),
            of_entry: vec![no_move; folder.entries.len()],
        };
        for step in &folder.plan.steps {
            let entry = step.entry();
            if work.of_entry[entry] != no_move {
                continue;
            }
            work.of_entry[entry] = work.moves.len();
            let temporary = if let RenameStep::Target(_, temporary) = step { Some(*temporary) } else { None };
            work.moves.push(Move { entry, temporary, outcome: RenameOutcome::NotDone, error: None });
        }
        work
    }

    fn names(&self, one: &Move) -> MoveNames<'p> {
        let folder = self.folder;
        let old = folder.entries[one.entry].0.as_slice();
        let new = match &folder.plan.outcomes[one.entry] {
            NameOutcome::Becomes(new) => new,
            // A step is for an entry that gets another name.
            NameOutcome::Stays | NameOutcome::Refused(..) => old,
        };
        let via = one.temporary.map(|temporary| folder.plan.temporary(temporary));
        MoveNames { old, new, via, identity: folder.identity(one.entry) }
    }

    /// What the history says of each move before it is made.
    fn records(&self) -> impl Iterator<Item = RenameRecord> {
        let path: Arc<Path> = Arc::from(self.folder.path.as_path());
        self.moves.iter().map(move |one| {
            let MoveNames { old, new, via, identity } = self.names(one);
            RenameRecord {
                folder: Arc::clone(&path),
                old: old.to_vec(),
                new: new.to_vec(),
                via: via.map(String::into_bytes),
                is_folder: self.folder.entries[one.entry].1,
                identity,
                outcome: None,
            }
        })
    }

    fn open(&self) -> io::Result<Folder> {
        let folder = Folder::open_without_links(&self.folder.path)?;
        if Identity::of_open(&folder)? == self.folder.own {
            return Ok(folder);
        }
        Err(io::Error::other("another folder has taken its place"))
    }

    fn carry_out(&mut self, stop: &Stop, done: &mut impl FnMut(&Path, &[u8], &[u8])) {
        if stop.is_requested() {
            return;
        }
        let folder = match self.open() {
            Ok(folder) => folder,
            Err(error) => {
                for one in &mut self.moves {
                    one.error = Some(Box::new(RenameError::Folder(io::Error::new(error.kind(), reason(&error)))));
                }
                return;
            }
        };
        folder.sweep();
        let mut away = 0_usize;
        for step in &self.folder.plan.steps {
            // A cycle that is open is closed first: no one wants to find temporary names.
            if stop.is_requested() && away == 0 {
                break;
            }
            let index = self.of_entry[step.entry()];
            let names = self.names(&self.moves[index]);
            let one = &mut self.moves[index];
            one.step(*step, &names, &folder);
            match step {
                RenameStep::Target(..) => away += usize::from(one.error.is_none()),
                RenameStep::Source(..) => away = away.saturating_sub(1),
                RenameStep::Direct(_) => {}
            }
            if one.outcome == RenameOutcome::Done {
                done(&self.folder.shown, names.old, names.new);
            }
        }
        // Names are durable once their folder is. Where a system cannot do that there is nothing more to be done.
        let _ = folder.sync();
    }
}

impl Move {
    fn step(&mut self, step: RenameStep, names: &MoveNames<'_>, folder: &Folder) {
        if self.error.is_some() {
            return;
        }
        let folder = folder.as_fd();
        let MoveNames { old, new, via, identity } = names;
        let via = via.as_deref().unwrap_or_default();
        let done = match step {
            RenameStep::Direct(_) => rename(folder, old, new, *identity),
            RenameStep::Target(..) => rename(folder, old, via.as_bytes(), *identity),
            RenameStep::Source(..) => rename(folder, via.as_bytes(), new, *identity),
        };
        match (step, done) {
            (RenameStep::Target(..), Ok(())) => {}
            (RenameStep::Direct(_) | RenameStep::Source(..), Ok(())) => self.outcome = RenameOutcome::Done,
            (RenameStep::Direct(_) | RenameStep::Target(..), Err(error)) => self.error = Some(Box::new(error)),
            (RenameStep::Source(..), Err(error)) => {
                // Its old name was left only a moment ago.
                if rename(folder, via.as_bytes(), old, *identity).is_ok() {
                    self.error = Some(Box::new(error));
                } else {
                    self.outcome = RenameOutcome::Stuck;
                    self.error = Some(Box::new(RenameError::Stuck(via.to_owned())));
                }
            }
        }
    }
}

/// Renames an entry, if it is the one that is meant and nothing has the new name.
fn rename(folder: BorrowedFd<'_>, from: &[u8], to: &[u8], identity: Identity) -> Result<(), RenameError> {
    match Identity::at(folder, from) {
        Ok(found) if found == identity => {}
        Ok(_) => return Err(RenameError::Replaced),
        Err(error) if error.kind() == io::ErrorKind::NotFound => return Err(RenameError::Gone),
        Err(error) => return Err(RenameError::Refused(error)),
    }
    let (from, to) = (OsStr::from_bytes(from), OsStr::from_bytes(to));
    renameat_with(folder, from, folder, to, RenameFlags::NOREPLACE).map_err(|error| match error {
        Errno::EXIST | Errno::NOTEMPTY => RenameError::Taken,
        Errno::NOENT => RenameError::Gone,
        Errno::INVAL | Errno::NOSYS | Errno::NOTSUP => RenameError::NoSafeWay,
        other => RenameError::Refused(other.into()),
    })
}
