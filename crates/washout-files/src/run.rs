//! Many files through one program.

use crate::stop::Stop;
use std::convert::Infallible;
use std::panic::AssertUnwindSafe;
use std::path::{Path, PathBuf};

use rayon::prelude::*;
use washout_core::Program;
use washout_core::observe::NoObserver;
use washout_core::table::{Form, TableError};

use crate::charset::Charsets;
use crate::choose::ChosenFile;
use crate::chunk::{CHUNK, Sink};
use crate::encoding;
use crate::encoding::{EncodingSink, OpenedText};
use crate::error::FileError;
use crate::first_lines::LineLimit;
use crate::folder::Folders;
use crate::history::Keeper;
use crate::meter::Meter;
use crate::skip::Skip;
use crate::wash::{Follow, FollowObserver, Followed, WashFailure, Washed, wash};
use crate::write::{
    ComparedSink, CopySink, InPlaceSink, OldFile, Replacing, SourceFile, Waiting, batches_to_replace, put_in_place,
};

/// What happens to the results.
#[derive(Clone, Debug)]
pub enum Aim {
    /// Nothing is written.
    Preview,
    /// Copies below this folder.
    Into {
        /// The folder.
        folder: PathBuf,
        /// Whether copies that are there already are replaced.
        overwrite: bool,
    },
    /// The files themselves.
    Write,
}

impl Aim {
    /// Whether nothing is to be done with a result that is the file as it is.
    fn is_for_changes_only(&self) -> bool {
        !matches!(self, Self::Into { .. })
    }
}

/// What happened to one file.
#[derive(Debug)]
pub struct FileReport {
    /// Its path, as named or found.
    pub path: PathBuf,
    /// What happened to it.
    pub state: State,
}

/// What happened to a file.
#[derive(Debug)]
pub enum State {
    /// The result differs (and is written, where that was the aim), and what is kept of its changes.
    Changed(Washed, Option<Followed>),
    /// The result is the file as it is.
    Unchanged(Washed),
    /// It was left out.
    Skipped(Skip),
    /// It could not be done, and is as it was.
    Failed(FileError),
}

/// Files that are worked on before their reports are handed over: enough to keep every thread busy, few enough that
/// the first reports come soon and that reports take little memory.
pub(crate) const BATCH: usize = 64;

/// The same where each file is done with by itself: threads meet less often.
const LARGE_BATCH: usize = 512;

/// One run over many files.
#[derive(Clone, Copy)]
pub struct Run<'r> {
    /// The rules.
    pub program: &'r Program,
    /// What happens to the results.
    pub aim: &'r Aim,
    /// What is kept of the changes.
    pub follow: Follow<'r>,
    /// Only that many lines of each file, from its start; what follows them is not read.
    pub first_lines: Option<u64>,
    /// A request to stop.
    pub stop: &'r Stop,
    /// Counts what has been done.
    pub meter: &'r Meter,
    /// How files are encoded.
    pub charsets: Charsets,
    /// What happens to files besides their contents.
    pub replacing: Replacing,
    /// Keeps what was in files before they are replaced; `None`: there is no way back.
    pub keeper: Option<&'r Keeper>,
}

impl<'r> Run<'r> {
    /// A run of these rules in which nothing is followed or kept, and all else is as it is by default.
    pub fn new(program: &'r Program, aim: &'r Aim, stop: &'r Stop, meter: &'r Meter) -> Self {
        Self {
            program,
            aim,
            follow: Follow::default(),
            first_lines: None,
            stop,
            meter,
            charsets: Charsets::default(),
            replacing: Replacing::default(),
            keeper: None,
        }
    }

    /// Washes files in parallel on the current thread pool and hands the reports over in the order of the list.
    ///
    /// Once `stop` is requested, files that have not been started are not, and have no report.
    pub fn wash_all(&self, files: &[ChosenFile], mut report: impl FnMut(FileReport)) {
        let folders = Folders::default();
        let mut batches: Box<dyn Iterator<Item = &[ChosenFile]>> = match self.aim {
            Aim::Write => {
                Box::new(batches_to_replace(files, |file| std::fs::metadata(&file.path).map_or(0, |file| file.len())))
            }
            Aim::Preview | Aim::Into { .. } => Box::new(files.chunks(LARGE_BATCH)),
        };
        let mut ready: Vec<FileReport> = Vec::new();
        let (mut run, mut kept) = (*self, 0);
        loop {
            let batch = batches.next();
            let mut done = Vec::new();
            if kept >= self.follow.files {
                run.follow.hunks = 0;
            }
            // The results of the last batch are reported while the next is worked on.
            rayon::in_place_scope(|scope| {
                if let Some(batch) = batch {
                    let (done, folders) = (&mut done, &folders);
                    scope.spawn(move |_| *done = run.wash_batch(batch, folders));
                }
                ready.drain(..).for_each(&mut report);
            });
            if batch.is_none() {
                return;
            }
            ready = done;
            kept += ready.iter().filter(|report| matches!(report.state, State::Changed(_, Some(_)))).count();
        }
    }

    fn wash_batch(&self, batch: &[ChosenFile], folders: &Folders) -> Vec<FileReport> {
        let done: Vec<Option<DoneFile>> = batch
            .par_iter()
            .with_max_len(1)
            .map(|file| (!self.stop.is_requested()).then(|| FileJob { run: *self, file, folders }.wash_caught()))
            .collect();
        self.replace(done.into_iter().flatten().collect())
    }

    /// Replaces the files of a batch whose results wait for that.
    fn replace(&self, done: Vec<DoneFile>) -> Vec<FileReport> {
        if done.iter().all(|done| done.waiting.is_none()) {
            return done.into_iter().map(|done| done.report).collect();
        }
        let apart = |done: DoneFile| (done.report, done.waiting.map(|waiting| *waiting));
        let (mut reports, waiting): (Vec<FileReport>, Vec<Option<Waiting>>) = done.into_iter().map(apart).unzip();
        for (report, put) in reports.iter_mut().zip(put_in_place(self.keeper, waiting)) {
            if let Err(error) = put {
                report.state = State::Failed(error);
            }
        }
        reports
    }
}

/// A file that is done, except for being replaced.
struct DoneFile {
    report: FileReport,
    waiting: Option<Box<Waiting>>,
}

/// The work on one file.
struct FileJob<'j> {
    run: Run<'j>,
    file: &'j ChosenFile,
    folders: &'j Folders,
}

impl FileJob<'_> {
    /// A fault in one file must not take the others with it. What it was writing is a temporary file, which is removed.
    fn wash_caught(&self) -> DoneFile {
        let washed = std::panic::catch_unwind(AssertUnwindSafe(|| self.wash()));
        self.run.meter.file_done();
        let failed = |error| (State::Failed(error), None);
        let (state, waiting) = washed.unwrap_or(Err(FileError::Fault)).unwrap_or_else(failed);
        DoneFile { report: FileReport { path: self.file.path.clone(), state }, waiting }
    }

    fn wash(&self) -> Result<(State, Option<Box<Waiting>>), FileError> {
        let location = self.file.location();
        match self.run.aim {
            Aim::Preview => {
                let source = SourceFile::open(location)?;
                let compared = || Ok(ComparedSink::new(&source));
                self.through(&source, compared, |sink| Ok(Some(sink.differs()))).map(|state| (state, None))
            }
            Aim::Into { folder, overwrite } => {
                let source = SourceFile::open(location)?;
                self.refuse_changed(&source)?;
                let copy =
                    || CopySink::new(&source, &self.file.path, folder, &self.file.below(), *overwrite, self.folders);
                self.through(&source, copy, |sink| sink.commit().map(|()| None)).map(|state| (state, None))
            }
            Aim::Write => {
                let old = OldFile::open(location, self.run.replacing, self.folders)?;
                self.refuse_changed(old.source())?;
                let mut ready = None;
                let sink = || Ok(InPlaceSink::new(&old));
                let state = self.through(old.source(), sink, |sink| {
                    ready = sink.ready()?;
                    Ok(Some(ready.is_some()))
                })?;
                let Some(replacement) = ready else { return Ok((state, None)) };
                Ok((state, Some(Box::new(Waiting::new(self.run.keeper, old, replacement)?))))
            }
        }
    }

    /// Reads, washes, and commits the result if nothing has failed. `commit` says whether the result differs, if it
    /// knows.
    fn through<S: Sink>(
        &self,
        source: &SourceFile,
        sink: impl FnOnce() -> Result<S, FileError>,
        commit: impl FnOnce(S) -> Result<Option<bool>, FileError>,
    ) -> Result<State, FileError>
    where
        FileError: From<S::Error>,
    {
        let Run { program, aim, follow, first_lines, meter, .. } = self.run;
        let reader = meter.counting(source.reader());
        let opened = encoding::open(self.run.charsets, self.file.with_binary, source.len(), reader);
        let OpenedText { mut start, rest, ways, looks_like, looks_binary } = match opened.map_err(FileError::Read)? {
            Ok(opened) => opened,
            Err(skip) => return Ok(State::Skipped(skip)),
        };
        let form = form_of(program, &self.file.path);
        // Of a table, the first records: a record may have several lines.
        let (lines, records) = if form == Form::Text { (first_lines, None) } else { (None, first_lines) };
        let mut limit = LineLimit::new(lines);
        start.truncate(limit.take(&start));
        let unsuited = |error: TableError| FileError::Rule(error.into());
        if form == Form::Text
            && aim.is_for_changes_only()
            && start.len() < CHUNK
            && !ways.differ()
            && program.surely_leaves(&start)
        {
            return Ok(State::Unchanged(Washed { looks_like, looks_binary, ..Washed::unchanged(program, &start) }));
        }
        let differs_anyway = ways.differ() && !start.is_empty();
        let mut sink = EncodingSink::new(sink()?, ways);
        let input = &mut limit.limiting(rest);
        if !follow.wants_any() {
            let washer = program.washer_of(form, NoObserver).map_err(unsuited)?.with_most_records(records);
            let washed = wash(washer, start, input, &mut sink);
            let (washed, NoObserver) = washed.map_err(failed)?;
            let washed = Washed { looks_like, looks_binary, ..washed };
            let differs = differs(&washed, commit(sink.finish()?)?, washed.any_change() || differs_anyway);
            return Ok(if differs { State::Changed(washed, None) } else { State::Unchanged(washed) });
        }
        let (washed, followed) = std::thread::scope(|scope| {
            let observer = FollowObserver::new(&self.file.path, program.names().len(), follow, scope);
            let washer = program.washer_of(form, observer).map_err(unsuited)?.with_most_records(records);
            let (washed, observer) = wash(washer, start, input, &mut sink).map_err(failed)?;
            Ok::<_, FileError>((washed, observer.finish().map_err(FileError::Record)?))
        })?;
        let washed = Washed { looks_like, looks_binary, ..washed };
        let differs = differs(&washed, commit(sink.finish()?)?, followed.excerpt.differs() || differs_anyway);
        Ok(if differs { State::Changed(washed, Some(followed)) } else { State::Unchanged(washed) })
    }

    /// A file that was judged must be the same when it is written.
    fn refuse_changed(&self, source: &SourceFile) -> Result<(), FileError> {
        let same = self.file.stamp.is_none_or(|stamp| stamp == source.stamp());
        if same { Ok(()) } else { Err(FileError::ChangedMeanwhile) }
    }
}

/// Whether a result differs: as its sink has found, which may not see that one of both is longer, or else as it seems.
fn differs(washed: &Washed, found: Option<bool>, seems: bool) -> bool {
    found.map_or(seems, |found| found || washed.before.bytes != washed.after.bytes)
}

/// What rules take the file at this path for.
pub(crate) fn form_of(program: &Program, path: &Path) -> Form {
    program.form(path.extension().and_then(|extension| extension.to_str()))
}

fn failed<E: Into<FileError>>(failed: WashFailure<E>) -> FileError {
    match failed {
        WashFailure::Read(error) => FileError::Read(error),
        WashFailure::Rule(error) => FileError::Rule(error),
        WashFailure::Give(error) => error.into(),
    }
}

/// For results no one wants to keep.
pub(crate) struct Nowhere;

impl Sink for Nowhere {
    type Error = Infallible;

    fn give(&mut self, _bytes: &[u8], _changed: bool) -> Result<(), Infallible> {
        Ok(())
    }
}

impl From<Infallible> for FileError {
    fn from(never: Infallible) -> Self {
        match never {}
    }
}
