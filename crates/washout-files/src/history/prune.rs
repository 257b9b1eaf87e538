//! Old runs forgotten, and what was kept for them removed.
//!
//! Whoever keeps originals holds a lock together with all others who do; whoever prunes needs it alone. So nothing is
//! removed that a run under way counts on but has not written down yet.

use std::collections::{HashMap, HashSet};
use std::fs::{File, TryLockError};

use rusqlite::TransactionBehavior;

use super::contents::pack_place;
use super::error::reading;
use super::originals::ContentHash;
use super::pack::PackPlace;
use super::run::now;
use super::{History, HistoryError, RunState, private};
use crate::wait::wait_for;

/// How much is remembered. What is not said has no limit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct HistoryLimits {
    /// Runs that are older than that many days are forgotten.
    pub days: Option<u64>,
    /// The oldest runs are forgotten until what is kept of files takes no more than that many bytes.
    pub bytes: Option<u64>,
}

impl Default for HistoryLimits {
    /// A month, for second thoughts; and a size that no disk of a working machine is short of.
    fn default() -> Self {
        Self { days: Some(30), bytes: Some(2 << 30) }
    }
}

/// What was forgotten.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Pruned {
    /// The runs, the oldest first.
    pub runs: Vec<i64>,
    /// How much room that gave, in bytes.
    pub bytes: u64,
}

/// In the folder of the history.
const LOCK: &str = "originals.lock";

const DAY: i64 = 24 * 60 * 60 * 1000;

impl History {
    /// Forgets old runs; never the newest, nor one that is under way.
    ///
    /// # Errors
    /// Another run is at work, or the history cannot be used.
    pub fn prune(&mut self, limits: HistoryLimits) -> Result<Pruned, HistoryError> {
        let lock = self.lock_of_originals()?;
        if lock.try_lock().is_err() {
            return Err(HistoryError::Busy);
        }
        let mut pruned = Pruned::default();
        let mut runs = self.runs()?;
        runs.retain(|run| run.state != RunState::UnderWay);
        let before = self.originals().size();
        let mut size = before;
        // The newest stands first, and stays.
        for run in runs.iter().skip(1).rev() {
            let age = now().saturating_sub(run.started) / DAY;
            let is_old = limits.days.is_some_and(|days| age.cast_unsigned() >= days);
            let too_much = limits.bytes.is_some_and(|bytes| size > bytes);
            if !is_old && !too_much {
                break;
            }
            self.forget(run.id)?;
            let _ = std::fs::remove_file(self.lock_path(run.id));
            pruned.runs.push(run.id);
            if too_much {
                self.remove_unused()?;
                size = self.originals().size();
            }
        }
        if pruned.runs.is_empty() {
            self.originals().sweep();
        } else {
            self.remove_unused()?;
        }
        pruned.bytes = before.saturating_sub(self.originals().size());
        Ok(pruned)
    }

    fn forget(&mut self, run: i64) -> Result<(), HistoryError> {
        let failed = reading(&self.path());
        let change = self.database.transaction_with_behavior(TransactionBehavior::Immediate).map_err(&failed)?;
        for table in ["contents", "renames", "folders"] {
            change.execute(&format!("DELETE FROM {table} WHERE run = ?1"), [run]).map_err(&failed)?;
        }
        // The run that undid it stays, and no longer says which.
        change.execute("UPDATE runs SET undoes = NULL WHERE undoes = ?1", [run]).map_err(&failed)?;
        change.execute("DELETE FROM runs WHERE id = ?1", [run]).map_err(&failed)?;
        let unused = "DELETE FROM rule_texts WHERE id NOT IN (SELECT rule_text FROM runs WHERE rule_text IS NOT NULL)";
        change.execute(unused, []).map_err(&failed)?;
        change.commit().map_err(failed)
    }

    /// Removes originals that no run knows any more.
    fn remove_unused(&self) -> Result<(), HistoryError> {
        let failed = reading(&self.path());
        let forget = "DELETE FROM packed WHERE hash NOT IN (SELECT before FROM contents)";
        self.database.execute(forget, []).map_err(&failed)?;
        let mut query = self.database.prepare("SELECT DISTINCT before FROM contents").map_err(&failed)?;
        let used = query.query_map([], |row| row.get::<_, ContentHash>(0)).map_err(&failed)?;
        let used: HashSet<ContentHash> = used.collect::<Result<_, _>>().map_err(&failed)?;
        let mut query =
            self.database.prepare("SELECT pack, at, size FROM packed ORDER BY pack, at").map_err(&failed)?;
        let places = query.query_map([], |row| pack_place(row.get(0)?, row, 1)).map_err(&failed)?;
        let mut packed: HashMap<String, Vec<PackPlace>> = HashMap::new();
        for place in places {
            let place = place.map_err(&failed)?;
            packed.entry(place.pack.clone()).or_default().push(place);
        }
        self.originals().keep_only(&used, &packed);
        Ok(())
    }

    /// The file whose lock is held while originals are kept that are not written down yet.
    fn lock_of_originals(&self) -> Result<File, HistoryError> {
        private::file(&self.folder.join(LOCK))
    }

    /// Keeps others from pruning until what it gives is dropped. `None`: this file system has no locks, and runs that are
    /// pruned at the same time may take an original with them.
    ///
    /// # Errors
    /// Someone holds the lock for longer than is waited.
    pub(super) fn hold_originals(&self) -> Result<Option<File>, HistoryError> {
        let lock = self.lock_of_originals()?;
        // No one keeps anything at this moment: what is there and not settled was left by a program that was killed.
        if lock.try_lock().is_ok() {
            self.originals().sweep();
            let _ = lock.unlock();
        }
        let look = || match lock.try_lock_shared() {
            Ok(()) => Some(true),
            Err(TryLockError::WouldBlock) => None,
            Err(TryLockError::Error(_)) => Some(false),
        };
        let has_locks = wait_for(look).ok_or_else(|| HistoryError::Locked(self.folder.join(LOCK)))?;
        Ok(has_locks.then_some(lock))
    }
}
