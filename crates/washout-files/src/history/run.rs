//! Runs: one for each command that changed files.

use std::collections::HashMap;
use std::ffi::OsString;
use std::fs::File;
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::{Path, PathBuf};
use std::time::{SystemTime, UNIX_EPOCH};

use rusqlite::types::Type;
use rusqlite::{Row, Transaction, TransactionBehavior, params};

use super::error::reading;
use super::{History, HistoryError, private};

/// What is known of a run before it begins.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct About {
    /// The folder it runs in.
    pub place: PathBuf,
    /// What was typed, word by word.
    pub command: Vec<String>,
    /// The names of the rule sets.
    pub rules: Vec<String>,
    /// The rules themselves, as text; `None`: they are not kept. A run that is read has none here: see
    /// [`History::rule_text`].
    pub rule_text: Option<String>,
    /// The run it undoes.
    pub undoes: Option<i64>,
    /// Of that run, only a part: not all of it was requested, or something of it was left as it was.
    pub part: bool,
}

/// A run as the history describes it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RunEntry {
    /// Its number, from 1, never given twice.
    pub id: i64,
    /// What it changed.
    pub kind: RunKind,
    /// What was known before it began.
    pub about: About,
    /// When it began, in milliseconds since 1970 (UTC).
    pub started: i64,
    /// When it was over; `None` where nothing says so.
    pub ended: Option<i64>,
    /// How it stands.
    pub state: RunState,
    /// Entries that got another name, as far as that is written down.
    pub renamed: u64,
    /// Files that got another content, as far as that is written down.
    pub rewritten: u64,
    /// How many changes rules made in them, if that is written down.
    pub changes: Option<u64>,
    /// How much is kept of them as they were, in bytes before it was compressed.
    pub kept: u64,
    /// The run that undid it, if one did and was not undone itself.
    pub undone_by: Option<i64>,
    /// The newest such run that was to undo only a part of it, if none undid all.
    pub partly_undone_by: Option<i64>,
}

/// What a run changes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RunKind {
    /// Names of files.
    Names,
    /// What is in files.
    Contents,
}

impl RunKind {
    /// A word for it: `names` or `contents`.
    pub fn word(self) -> &'static str {
        match self {
            Self::Names => "names",
            Self::Contents => "contents",
        }
    }
}

/// How a run stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RunState {
    /// It came to its end.
    Ended,
    /// Its program is at work.
    UnderWay,
    /// Its program is gone, and did not come to the end.
    Interrupted,
}

/// A run that is written down and under way. The lock says so to others, and goes when the program does.
#[derive(Debug)]
pub(crate) struct OpenRun {
    pub(crate) id: i64,
    _lock: Option<File>,
}

pub(super) fn now() -> i64 {
    let since = SystemTime::now().duration_since(UNIX_EPOCH).unwrap_or_default();
    i64::try_from(since.as_millis()).unwrap_or(i64::MAX)
}

impl History {
    /// Writes a run down, with what `records` writes in the same durable step.
    pub(crate) fn begin(
        &mut self,
        kind: RunKind,
        about: &About,
        records: impl FnOnce(&Transaction<'_>, i64) -> rusqlite::Result<()>,
    ) -> Result<OpenRun, HistoryError> {
        let (failed, folder) = (reading(&self.path()), self.folder.clone());
        let list = |words: &[String]| serde_json::Value::from(words.to_vec()).to_string();
        let change = self.database.transaction_with_behavior(TransactionBehavior::Immediate).map_err(&failed)?;
        if let Some(text) = &about.rule_text {
            change.execute("INSERT OR IGNORE INTO rule_texts (text) VALUES (?1)", [text]).map_err(&failed)?;
        }
        change
            .execute(
                "INSERT INTO runs (kind, started, place, command, rules, undoes, part, rule_text) \
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, (SELECT id FROM rule_texts WHERE text = ?8))",
                params![
                    kind.word(),
                    now(),
                    about.place.as_os_str().as_bytes(),
                    list(&about.command),
                    list(&about.rules),
                    about.undoes,
                    about.part,
                    about.rule_text
                ],
            )
            .map_err(&failed)?;
        let id = change.last_insert_rowid();
        let path = folder.join(format!("run-{id}.lock"));
        let lock = private::file(&path)?;
        // Where a file system has no locks, a run that is under way looks like one that was interrupted, no worse.
        let held = lock.try_lock().is_ok();
        records(&change, id).map_err(&failed)?;
        change.commit().map_err(&failed)?;
        Ok(OpenRun { id, _lock: held.then_some(lock) })
    }

    /// Writes down more of a run that is under way.
    pub(crate) fn add(
        &mut self,
        _run: &OpenRun,
        records: impl FnOnce(&Transaction<'_>) -> rusqlite::Result<()>,
    ) -> Result<(), HistoryError> {
        let failed = reading(&self.path());
        let change = self.database.transaction_with_behavior(TransactionBehavior::Immediate).map_err(&failed)?;
        records(&change).map_err(&failed)?;
        change.commit().map_err(failed)
    }

    /// Closes a run, with what `outcomes` writes in the same durable step.
    pub(crate) fn end(
        &mut self,
        run: &OpenRun,
        outcomes: impl FnOnce(&Transaction<'_>) -> rusqlite::Result<()>,
    ) -> Result<(), HistoryError> {
        let failed = reading(&self.path());
        let change = self.database.transaction_with_behavior(TransactionBehavior::Immediate).map_err(&failed)?;
        outcomes(&change).map_err(&failed)?;
        change.execute("UPDATE runs SET ended = ?1 WHERE id = ?2", params![now(), run.id]).map_err(&failed)?;
        change.commit().map_err(&failed)?;
        // A lock that stays does no harm: no one holds it.
        let _ = std::fs::remove_file(self.lock_path(run.id));
        Ok(())
    }

    /// Writes down that nothing of a run is left to be restored: it was interrupted before it did anything, or it was put
    /// back in parts.
    ///
    /// # Errors
    /// The database cannot be written.
    pub fn settle(&mut self, run: i64) -> Result<(), HistoryError> {
        let failed = reading(&self.path());
        self.database.execute("UPDATE runs SET part = 0 WHERE undoes = ?1", [run]).map_err(&failed)?;
        if self.run(run)?.state != RunState::Interrupted {
            return Ok(());
        }
        self.database.execute("UPDATE runs SET ended = ?1 WHERE id = ?2", params![now(), run]).map_err(failed)?;
        let _ = std::fs::remove_file(self.lock_path(run));
        Ok(())
    }

    /// All runs, the newest first.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn runs(&self) -> Result<Vec<RunEntry>, HistoryError> {
        let failed = reading(&self.path());
        let mut query = self.database.prepare(ENTRIES).map_err(&failed)?;
        let rows = query.query_map([], |row| self.entry(row)).map_err(&failed)?;
        let mut runs: Vec<RunEntry> = rows.collect::<Result<_, _>>().map_err(failed)?;
        // A run that undoes another is newer than it, so it is known by then whether that holds still.
        let mut restore: [HashMap<i64, i64>; 2] = Default::default();
        for run in &mut runs {
            let [wholly, partly] = &mut restore;
            run.undone_by = wholly.get(&run.id).copied();
            run.partly_undone_by = partly.get(&run.id).copied().filter(|_| run.undone_by.is_none());
            if let (Some(undone), None, true) = (run.about.undoes, run.undone_by, run.renamed + run.rewritten > 0) {
                let kind = if run.about.part { partly } else { wholly };
                kind.entry(undone).or_insert(run.id);
            }
        }
        Ok(runs)
    }

    /// One run.
    ///
    /// # Errors
    /// There is none of this number, or the database cannot be read.
    pub fn run(&self, id: i64) -> Result<RunEntry, HistoryError> {
        self.runs()?.into_iter().find(|run| run.id == id).ok_or(HistoryError::NoRun(id))
    }

    /// The rules of a run, as they were then; `None`: they were not kept.
    ///
    /// # Errors
    /// There is no such run, or the database cannot be read.
    pub fn rule_text(&self, run: i64) -> Result<Option<String>, HistoryError> {
        self.run(run)?;
        let failed = reading(&self.path());
        let query = "SELECT text FROM runs LEFT JOIN rule_texts ON rule_texts.id = runs.rule_text WHERE runs.id = ?1";
        self.database.query_row(query, [run], |row| row.get(0)).map_err(failed)
    }

    /// Runs that are over, changed something, undo none and were not undone themselves, the newest first; those that were
    /// interrupted while they undid another count too. `below`: only runs that touched something at or below this folder, which is
    /// absolute and without links.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn to_undo(
        &self,
        below: Option<&Path>,
    ) -> Result<impl Iterator<Item = Result<RunEntry, HistoryError>>, HistoryError> {
        let undoable = |run: &RunEntry| {
            let interrupted = run.state == RunState::Interrupted;
            let changed = run.renamed + run.rewritten > 0 || interrupted;
            // Putting back that was interrupted has to be put right before anything else.
            let puts_back = run.about.undoes.is_some() && !interrupted;
            run.state != RunState::UnderWay && !puts_back && run.undone_by.is_none() && changed
        };
        let touched = move |run: RunEntry| match below.map_or(Ok(true), |folder| self.touched(run.id, folder)) {
            Ok(touched) => touched.then_some(Ok(run)),
            Err(error) => Some(Err(error)),
        };
        Ok(self.runs()?.into_iter().filter(undoable).filter_map(touched))
    }

    /// Whether a run changed a file at or below a folder, or its name.
    fn touched(&self, run: i64, folder: &Path) -> Result<bool, HistoryError> {
        let failed = reading(&self.path());
        let folder = folder.as_os_str().as_bytes();
        let below = [folder.strip_suffix(b"/").unwrap_or(folder), b"/"].concat();
        let query = "SELECT EXISTS (SELECT 1 FROM contents WHERE run = ?1 AND substr(path, 1, ?4) = ?3) \
                     OR EXISTS (SELECT 1 FROM folders WHERE run = ?1 AND (path = ?2 OR substr(path, 1, ?4) = ?3))";
        let len = i64::try_from(below.len()).unwrap_or(i64::MAX);
        self.database.query_row(query, params![run, folder, below, len], |row| row.get(0)).map_err(failed)
    }

    fn entry(&self, row: &Row<'_>) -> rusqlite::Result<RunEntry> {
        let id: i64 = row.get(0)?;
        let list = |column: usize| -> rusqlite::Result<Vec<String>> {
            let text: String = row.get(column)?;
            let bad = |error: serde_json::Error| {
                rusqlite::Error::FromSqlConversionFailure(column, Type::Text, Box::new(error))
            };
            serde_json::from_str(&text).map_err(bad)
        };
        let ended: Option<i64> = row.get(2)?;
        let state = match ended {
            Some(_) => RunState::Ended,
            None if self.is_at_work(id) => RunState::UnderWay,
            None => RunState::Interrupted,
        };
        let kind: String = row.get(9)?;
        let about = About {
            place: PathBuf::from(OsString::from_vec(row.get(3)?)),
            command: list(4)?,
            rules: list(5)?,
            rule_text: None,
            undoes: row.get(6)?,
            part: row.get(12)?,
        };
        Ok(RunEntry {
            id,
            kind: if kind == RunKind::Contents.word() { RunKind::Contents } else { RunKind::Names },
            about,
            started: row.get(1)?,
            ended,
            state,
            renamed: row.get::<_, i64>(7)?.cast_unsigned(),
            rewritten: row.get::<_, i64>(8)?.cast_unsigned(),
            changes: row.get::<_, Option<i64>>(10)?.map(i64::cast_unsigned),
            kept: row.get::<_, Option<i64>>(11)?.unwrap_or(0).cast_unsigned(),
            undone_by: None,
            partly_undone_by: None,
        })
    }
}

const ENTRIES: &str = "
SELECT id, started, ended, place, command, rules, undoes,
    (SELECT COUNT(*) FROM renames WHERE renames.run = runs.id AND outcome > 0),
    (SELECT COUNT(*) FROM contents WHERE contents.run = runs.id AND outcome > 0),
    kind, changes,
    (SELECT SUM(len) FROM contents WHERE contents.run = runs.id),
    part
FROM runs ORDER BY id DESC";
