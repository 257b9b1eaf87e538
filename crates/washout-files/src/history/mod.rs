//! What was done, so that it can be restored: a database of runs below the user's state folder.
//!
//! A run is written down durably before the first file is touched, and closed when it is over. A run that was killed in
//! between stays open; its lock is free then, and its files themselves say how far it came.

mod contents;
mod error;
mod left;
mod names;
mod originals;
mod pack;
mod place;
mod private;
mod prune;
mod run;

pub(crate) use contents::ToRecord;
pub use contents::{ContentRecord, Keeper};
pub use error::HistoryError;
pub(crate) use left::LeftContents;
pub use names::{RenameOutcome, RenameRecord};
pub(crate) use names::{record, record_outcomes};
pub(crate) use originals::{ContentHash, Originals, hash_of};
pub use place::state_folder;
pub use prune::{HistoryLimits, Pruned};
pub use run::{About, RunEntry, RunKind, RunState};

use rusqlite::Connection;
use std::fs::File;
use std::path::{Path, PathBuf};

use crate::wait::look_again;
use error::reading;

/// Counts up when the tables change.
const VERSION: i64 = 5;

const TABLES: &str = "
CREATE TABLE runs (
    id      INTEGER PRIMARY KEY AUTOINCREMENT,
    kind    TEXT NOT NULL,      -- names or contents
    started INTEGER NOT NULL,   -- milliseconds since 1970
    ended   INTEGER,            -- NULL: under way, or interrupted
    place   BLOB NOT NULL,      -- the folder it ran in
    command TEXT NOT NULL,      -- what was typed, as a JSON list
    rules   TEXT NOT NULL,      -- the names of the rule sets, as a JSON list
    undoes  INTEGER REFERENCES runs(id),
    changes INTEGER,            -- how many rules made; NULL: not known
    part    INTEGER NOT NULL DEFAULT 0 -- 1: of the run it undoes, something is left
);
CREATE TABLE folders (
    id   INTEGER PRIMARY KEY,
    run  INTEGER NOT NULL REFERENCES runs(id),
    path BLOB NOT NULL          -- absolute, as it was when its names were changed
);
CREATE TABLE renames (
    run       INTEGER NOT NULL REFERENCES runs(id),
    seq       INTEGER NOT NULL, -- in the order of the run, from 0
    folder    INTEGER NOT NULL REFERENCES folders(id),
    old       BLOB NOT NULL,
    new       BLOB NOT NULL,
    via       BLOB,             -- a temporary name on the way
    is_folder INTEGER NOT NULL,
    device    INTEGER NOT NULL,
    inode     INTEGER NOT NULL,
    born      INTEGER NOT NULL, -- nanoseconds since 1970; 0: not known
    outcome   INTEGER,          -- NULL: not known; 0 not done, 1 done, 2 left at its temporary name
    PRIMARY KEY (run, seq)
) WITHOUT ROWID;
CREATE TABLE contents (
    run     INTEGER NOT NULL REFERENCES runs(id),
    seq     INTEGER NOT NULL, -- in the order of the run, from 0
    path    BLOB NOT NULL,    -- absolute, without links
    before  BLOB NOT NULL,    -- BLAKE3 of what was in it: the original is in a pack, or in a file of that name
    after   BLOB NOT NULL,    -- BLAKE3 of what it got
    len     INTEGER NOT NULL, -- in bytes, before
    outcome INTEGER,          -- NULL: not known; 0 not done, 1 done
    PRIMARY KEY (run, seq)
) WITHOUT ROWID;
";

/// Where originals are that have no file of their own.
const PACKED: &str = "
CREATE TABLE packed (
    hash BLOB PRIMARY KEY,    -- BLAKE3 of the content
    pack TEXT NOT NULL,       -- the name of the file it is in
    at   INTEGER NOT NULL,    -- where it starts there, in bytes
    size INTEGER NOT NULL     -- how many bytes it takes there, compressed
) WITHOUT ROWID;
";

/// The rules of runs: those of many runs are the same.
const RULE_TEXTS: &str = "
CREATE TABLE rule_texts (
    id   INTEGER PRIMARY KEY,
    text TEXT NOT NULL UNIQUE -- as the program that wrote it has it
);
ALTER TABLE runs ADD COLUMN rule_text INTEGER REFERENCES rule_texts(id); -- NULL: not kept
";

/// What each version has over the one before, from the second on.
const ADDED: [&str; 4] = [
    "ALTER TABLE runs ADD COLUMN changes INTEGER",
    "ALTER TABLE runs ADD COLUMN part INTEGER NOT NULL DEFAULT 0",
    PACKED,
    RULE_TEXTS,
];

/// The history of one user.
#[derive(Debug)]
pub struct History {
    folder: PathBuf,
    database: Connection,
}

impl History {
    /// Opens the history below this folder, and begins one if there is none.
    ///
    /// # Errors
    /// The folder or the database cannot be used, or was written by a newer version.
    pub fn open(folder: &Path) -> Result<Self, HistoryError> {
        let path = folder.join("history.sqlite");
        private::folder(folder)?;
        private::file(&path)?;
        let failed = reading(&path);
        let mut database = Connection::open(&path).map_err(&failed)?;
        database.busy_handler(Some(look_again)).map_err(&failed)?;
        let version: i64 = database.query_row("PRAGMA user_version", [], |row| row.get(0)).map_err(&failed)?;
        if version > VERSION {
            return Err(HistoryError::Newer(path));
        }
        database.pragma_update(None, "synchronous", "FULL").map_err(&failed)?;
        database.pragma_update(None, "foreign_keys", true).map_err(&failed)?;
        let mut history = Self { folder: folder.to_owned(), database };
        if version < VERSION {
            history.bring_up_to_date().map_err(&failed)?;
        }
        Ok(history)
    }

    fn bring_up_to_date(&mut self) -> rusqlite::Result<()> {
        let change = self.database.transaction_with_behavior(rusqlite::TransactionBehavior::Immediate)?;
        // Another run may have come first.
        let version: i64 = change.query_row("PRAGMA user_version", [], |row| row.get(0))?;
        let steps = match usize::try_from(version) {
            Ok(0) => &[TABLES, PACKED, RULE_TEXTS][..],
            Ok(version) => ADDED.get(version - 1..).unwrap_or_default(),
            Err(_) => &[],
        };
        steps.iter().try_for_each(|step| change.execute_batch(step))?;
        if !steps.is_empty() {
            change.pragma_update(None, "user_version", VERSION)?;
        }
        change.commit()
    }

    /// Where the history is.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    fn path(&self) -> PathBuf {
        self.folder.join("history.sqlite")
    }

    /// Runs that did not finish and have not been reported. Each is reported once.
    ///
    /// Costs a look into the folder, and no more where there are none.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn newly_interrupted(folder: &Path) -> Result<Vec<RunEntry>, HistoryError> {
        let locks = std::fs::read_dir(folder).into_iter().flatten().flatten();
        let number = |name: &str| name.strip_prefix("run-")?.strip_suffix(".lock")?.parse::<i64>().ok();
        let runs: Vec<i64> = locks.filter_map(|entry| number(entry.file_name().to_str()?)).collect();
        if runs.is_empty() {
            return Ok(Vec::new());
        }
        let history = Self::open(folder)?;
        let mut found = history.runs()?;
        // A program may have been killed before its run was written down: then there is nothing to report.
        for run in runs.iter().filter(|run| !history.is_at_work(**run)) {
            let _ = std::fs::remove_file(history.lock_path(*run));
        }
        found.retain(|run| runs.contains(&run.id) && run.state == RunState::Interrupted);
        Ok(found)
    }

    fn lock_path(&self, run: i64) -> PathBuf {
        self.folder.join(format!("run-{run}.lock"))
    }

    /// Whether the program that began a run is at work on it still.
    fn is_at_work(&self, run: i64) -> bool {
        let Ok(lock) = File::open(self.lock_path(run)) else { return false };
        matches!(lock.try_lock_shared(), Err(std::fs::TryLockError::WouldBlock))
    }
}
