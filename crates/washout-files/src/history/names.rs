//! Renames in the history.

use std::ffi::OsStr;
use std::os::unix::ffi::OsStrExt;
use std::path::Path;
use std::sync::Arc;

use rusqlite::{Row, Transaction, params};

use super::error::reading;
use super::{History, HistoryError};
use crate::identity::Identity;

/// One entry that got, or was to get, another name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RenameRecord {
    /// The folder it is in: absolute, as it was called when the name was changed.
    pub folder: Arc<Path>,
    /// Its name before.
    pub old: Vec<u8>,
    /// Its name after.
    pub new: Vec<u8>,
    /// A temporary name it had on the way, if there was one.
    pub via: Option<Vec<u8>>,
    /// Whether it is a folder.
    pub is_folder: bool,
    /// What distinguishes it from every other.
    pub identity: Identity,
    /// What happened to it; `None`: nothing was written down, as the run was interrupted.
    pub outcome: Option<RenameOutcome>,
}

/// What happened to a rename.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RenameOutcome {
    /// The entry has its old name.
    NotDone,
    /// It has its new name.
    Done,
    /// It has its temporary name, since neither of the others was to be had.
    Stuck,
}

impl RenameOutcome {
    fn code(self) -> i64 {
        match self {
            Self::NotDone => 0,
            Self::Done => 1,
            Self::Stuck => 2,
        }
    }

    pub(super) fn of(code: i64) -> Self {
        match code {
            1 => Self::Done,
            2 => Self::Stuck,
            _ => Self::NotDone,
        }
    }
}

/// Writes down what a run is going to rename, in order.
pub(crate) fn record(
    change: &Transaction<'_>,
    run: i64,
    records: impl Iterator<Item = RenameRecord>,
) -> rusqlite::Result<()> {
    let mut add_folder = change.prepare("INSERT INTO folders (run, path) VALUES (?1, ?2)")?;
    let mut add = change.prepare(
        "INSERT INTO renames (run, seq, folder, old, new, via, is_folder, device, inode, born)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)",
    )?;
    let mut last: Option<(Arc<Path>, i64)> = None;
    for (seq, record) in records.enumerate() {
        let folder = match &last {
            Some((path, id)) if *path == record.folder => *id,
            _ => {
                add_folder.execute(params![run, record.folder.as_os_str().as_bytes()])?;
                change.last_insert_rowid()
            }
        };
        last = Some((Arc::clone(&record.folder), folder));
        add.execute(params![
            run,
            i64::try_from(seq).unwrap_or(i64::MAX),
            folder,
            record.old,
            record.new,
            record.via,
            record.is_folder,
            record.identity.device.cast_signed(),
            record.identity.inode.cast_signed(),
            record.identity.born,
        ])?;
    }
    Ok(())
}

/// Writes down what happened to them: `others` by their place in the order, all that are not among these were done.
pub(crate) fn record_outcomes(
    change: &Transaction<'_>,
    run: i64,
    others: impl Iterator<Item = (usize, RenameOutcome)>,
) -> rusqlite::Result<()> {
    change.execute("UPDATE renames SET outcome = 1 WHERE run = ?1", [run])?;
    let mut set = change.prepare("UPDATE renames SET outcome = ?1 WHERE run = ?2 AND seq = ?3")?;
    let mut is_part = false;
    for (seq, outcome) in others {
        set.execute(params![outcome.code(), run, i64::try_from(seq).unwrap_or(i64::MAX)])?;
        is_part = true;
    }
    // Of the run that it undoes, something is left then.
    change.execute("UPDATE runs SET part = 1 WHERE id = ?1 AND undoes IS NOT NULL AND ?2", params![run, is_part])?;
    Ok(())
}

impl History {
    /// What a run renamed, or was to rename, in the order it was done.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn renames(&self, run: i64) -> Result<Vec<RenameRecord>, HistoryError> {
        let failed = reading(&self.path());
        let query = "SELECT path, old, new, via, is_folder, device, inode, born, outcome
             FROM renames JOIN folders ON folders.id = renames.folder WHERE renames.run = ?1 ORDER BY seq";
        let mut query = self.database.prepare(query).map_err(&failed)?;
        let mut last = None;
        let rows = query.query_map([run], |row| read(row, &mut last)).map_err(&failed)?;
        rows.collect::<Result<_, _>>().map_err(failed)
    }
}

/// `last`: the folder of the row before, which most often is that of this one.
fn read(row: &Row<'_>, last: &mut Option<Arc<Path>>) -> rusqlite::Result<RenameRecord> {
    let path = row.get_ref(0)?.as_blob()?;
    let folder = match last {
        Some(last) if last.as_os_str().as_bytes() == path => Arc::clone(last),
        last => Arc::clone(last.insert(Path::new(OsStr::from_bytes(path)).into())),
    };
    let (device, inode): (i64, i64) = (row.get(5)?, row.get(6)?);
    Ok(RenameRecord {
        folder,
        old: row.get(1)?,
        new: row.get(2)?,
        via: row.get(3)?,
        is_folder: row.get(4)?,
        identity: Identity { device: device.cast_unsigned(), inode: inode.cast_unsigned(), born: row.get(7)? },
        outcome: row.get::<_, Option<i64>>(8)?.map(RenameOutcome::of),
    })
}
