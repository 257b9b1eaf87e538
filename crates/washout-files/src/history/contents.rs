//! Changed contents in the history.

use std::collections::{HashMap, HashSet};
use std::ffi::OsString;
use std::fs::File;
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::PathBuf;
use std::sync::{Mutex, PoisonError};

use rusqlite::{OptionalExtension, Row, params};

use super::error::reading;
use super::originals::{ContentHash, Keeping, Originals, hash_of};
use super::pack::{Pack, PackPlace};
use super::run::OpenRun;
use super::{About, History, HistoryError, RenameOutcome, RunKind};
use washout_sets::open_regular;

/// One file whose content was, or was to be, replaced.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ContentRecord {
    /// The file: absolute, without links.
    pub path: PathBuf,
    /// The BLAKE3 hash of what was in it.
    pub before: [u8; 32],
    /// The same of what it got.
    pub after: [u8; 32],
    /// How long it was, in bytes.
    pub len: u64,
    /// What happened to it; `None`: nothing was written down, as the run was interrupted.
    pub outcome: Option<RenameOutcome>,
    /// Where what was in it is kept, if not in a file of its own.
    pub(crate) packed: Option<PackPlace>,
}

/// A file that is going to be replaced.
#[derive(Debug)]
pub(crate) struct ToRecord {
    /// Absolute, without links.
    pub(crate) path: PathBuf,
    /// What is in it.
    pub(crate) keeping: Keeping,
    /// What it will get.
    pub(crate) after: ContentHash,
}

/// A run that replaces contents and is written down as it goes, batch by batch.
///
/// The run itself is written down with its first batch: one that changes nothing leaves nothing behind.
#[derive(Debug)]
pub struct Keeper {
    originals: Originals,
    about: About,
    inner: Mutex<Inner>,
    /// Shared with others who keep originals: no one prunes meanwhile.
    _keeping: Option<File>,
}

#[derive(Debug)]
struct Inner {
    history: History,
    run: Option<OpenRun>,
    /// Where short contents go.
    pack: Option<Pack>,
    count: usize,
    /// Files that were not replaced after all, by their place in the run.
    not_done: Vec<usize>,
}

impl Keeper {
    /// A run that has not begun.
    ///
    /// # Errors
    /// Another program has locked what is kept.
    pub fn new(history: History, about: About) -> Result<Self, HistoryError> {
        let originals = Originals::below(&history.folder);
        let keeping = history.hold_originals()?;
        let inner = Inner { history, run: None, pack: None, count: 0, not_done: Vec::new() };
        Ok(Self { originals, about, inner: Mutex::new(inner), _keeping: keeping })
    }

    pub(crate) fn originals(&self) -> &Originals {
        &self.originals
    }

    /// Keeps what is in a batch of files and writes it down, durably: afterwards they may be replaced. Gives the place of
    /// the first file in the run.
    pub(crate) fn record(&self, batch: Vec<ToRecord>) -> Result<usize, HistoryError> {
        let (rows, keeping): (Vec<_>, Vec<_>) =
            batch.into_iter().map(|one| ((one.path, one.keeping.kept, one.after), one.keeping)).unzip();
        let mut inner = self.inner.lock().unwrap_or_else(PoisonError::into_inner);
        let Inner { history, run, pack, count, .. } = &mut *inner;
        let failed = |cause| HistoryError::Folder { path: history.folder.clone(), cause };
        let known = history.packed(rows.iter().map(|(_, kept, _)| &kept.hash))?;
        let packed = self.originals.settle(keeping, &known, pack).map_err(failed)?;
        let first = *count;
        let write = |change: &rusqlite::Transaction<'_>, run: i64| {
            let mut add =
                change.prepare("INSERT OR REPLACE INTO packed (hash, pack, at, size) VALUES (?1, ?2, ?3, ?4)")?;
            for (hash, PackPlace { pack, at, size }) in &packed {
                add.execute(params![hash, pack, at.cast_signed(), size.cast_signed()])?;
            }
            let query = "INSERT INTO contents (run, seq, path, before, after, len) VALUES (?1, ?2, ?3, ?4, ?5, ?6)";
            let mut add = change.prepare(query)?;
            for (index, (path, kept, after)) in rows.iter().enumerate() {
                let seq = i64::try_from(first + index).unwrap_or(i64::MAX);
                let len = kept.len.cast_signed();
                add.execute(params![run, seq, path.as_os_str().as_bytes(), kept.hash, after, len])?;
            }
            Ok(())
        };
        match run {
            Some(run) => history.add(run, |change| write(change, run.id))?,
            none => *none = Some(history.begin(RunKind::Contents, &self.about, write)?),
        }
        *count += rows.len();
        Ok(first)
    }

    /// This file of the run was not replaced after all.
    pub(crate) fn not_done(&self, place: usize) {
        self.inner.lock().unwrap_or_else(PoisonError::into_inner).not_done.push(place);
    }

    /// Closes the run, in which rules made that many changes, if that is known. Gives its number, if it changed anything.
    ///
    /// `is_part`: of the run that it undoes, it left something as it was.
    ///
    /// # Errors
    /// It cannot be written down. What was done stays, and is found out again when it is undone.
    pub fn end(self, changes: Option<u64>, is_part: bool) -> Result<Option<i64>, HistoryError> {
        let Inner { mut history, run, count, not_done, .. } =
            self.inner.into_inner().unwrap_or_else(PoisonError::into_inner);
        let Some(run) = run else { return Ok(None) };
        history.end(&run, |change| {
            let changes = changes.map(u64::cast_signed);
            let query = "UPDATE runs SET changes = ?2, part = part OR ?3 WHERE id = ?1";
            change.execute(query, params![run.id, changes, is_part])?;
            change.execute("UPDATE contents SET outcome = 1 WHERE run = ?1", [run.id])?;
            let mut set = change.prepare("UPDATE contents SET outcome = 0 WHERE run = ?1 AND seq = ?2")?;
            for seq in &not_done {
                set.execute(params![run.id, i64::try_from(*seq).unwrap_or(i64::MAX)])?;
            }
            Ok(())
        })?;
        Ok((count > not_done.len()).then_some(run.id))
    }
}

/// Where in a pack a content is: two columns from this one on.
pub(super) fn pack_place(pack: String, row: &Row<'_>, from: usize) -> rusqlite::Result<PackPlace> {
    let number = |column: usize| row.get::<_, i64>(column).map(i64::cast_unsigned);
    Ok(PackPlace { pack, at: number(from)?, size: number(from + 1)? })
}

impl History {
    /// What a run replaced, or was to replace, in the order it was done.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn contents(&self, run: i64) -> Result<Vec<ContentRecord>, HistoryError> {
        let failed = reading(&self.path());
        let query = "SELECT path, before, after, len, outcome, pack, at, size \
                     FROM contents LEFT JOIN packed ON hash = before WHERE run = ?1 ORDER BY seq";
        let mut query = self.database.prepare(query).map_err(&failed)?;
        let rows = query.query_map([run], |row| {
            Ok(ContentRecord {
                path: PathBuf::from(OsString::from_vec(row.get(0)?)),
                before: row.get(1)?,
                after: row.get(2)?,
                len: row.get::<_, i64>(3)?.cast_unsigned(),
                outcome: row.get::<_, Option<i64>>(4)?.map(RenameOutcome::of),
                packed: row.get::<_, Option<String>>(5)?.map(|pack| pack_place(pack, row, 6)).transpose()?,
            })
        });
        rows.map_err(&failed)?.collect::<Result<_, _>>().map_err(failed)
    }

    /// Of temporary files, those that hold no text as it was before this run: others than its own old files, which it
    /// could not remove.
    ///
    /// # Errors
    /// The database cannot be read. A file that cannot be read is none of the run's.
    pub fn without_old_files(&self, run: i64, mut files: Vec<PathBuf>) -> Result<Vec<PathBuf>, HistoryError> {
        if !files.is_empty() {
            let old: HashSet<ContentHash> = self.contents(run)?.into_iter().map(|record| record.before).collect();
            files.retain(|file| !open_regular(file).and_then(hash_of).is_ok_and(|hash| old.contains(&hash)));
        }
        Ok(files)
    }

    /// Which of these contents are in a pack that is still there.
    fn packed<'h>(&self, hashes: impl Iterator<Item = &'h ContentHash>) -> Result<HashSet<ContentHash>, HistoryError> {
        let failed = reading(&self.path());
        let originals = self.originals();
        let mut lengths: HashMap<String, u64> = HashMap::new();
        // In one transaction: what is read stays in memory from query to query.
        let reading = self.database.unchecked_transaction().map_err(&failed)?;
        let mut query = reading.prepare("SELECT pack, at, size FROM packed WHERE hash = ?1").map_err(&failed)?;
        let mut known = HashSet::new();
        for hash in hashes {
            let place = query.query_row([hash], |row| pack_place(row.get(0)?, row, 1)).optional().map_err(&failed)?;
            let Some(PackPlace { pack, at, size }) = place else { continue };
            if at + size <= *lengths.entry(pack).or_insert_with_key(|pack| originals.pack_len(pack)) {
                known.insert(*hash);
            }
        }
        Ok(known)
    }

    pub(crate) fn originals(&self) -> Originals {
        Originals::below(&self.folder)
    }

    /// How much the originals take, in bytes.
    pub fn originals_size(&self) -> u64 {
        self.originals().size()
    }
}
