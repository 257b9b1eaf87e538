//! Many files through one program.

use std::convert::Infallible;
use std::panic::AssertUnwindSafe;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

use rayon::prelude::*;
use washout_core::{NoObserver, Program};

use crate::choose::ChosenFile;
use crate::error::FileError;
use crate::meter::Meter;
use crate::wash::{Excerpt, ExcerptObserver, Failed, Sink, Skip, Washed, read_chunk, wash};
use crate::write::{CopySink, InPlaceSink, Source};

/// What becomes of the results.
#[derive(Clone, Debug)]
pub enum Aim {
    /// Nothing is written; the first changes of each file are kept to be shown.
    Preview {
        /// How many hunks of a file are kept.
        hunks: usize,
    },
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

/// What became of one file.
#[derive(Debug)]
pub struct FileReport {
    /// Its path, as named or found.
    pub path: PathBuf,
    /// What became of it.
    pub state: State,
}

/// What became of a file.
#[derive(Debug)]
pub enum State {
    /// The result differs (and is written, where that was the aim).
    Changed(Washed, Option<Excerpt>),
    /// The result is the file as it is.
    Unchanged(Washed),
    /// It was left out.
    Skipped(Skip),
    /// It could not be done, and is as it was.
    Failed(FileError),
}

/// A request to stop between files. What is under way is finished.
#[derive(Debug, Default)]
pub struct Stop(AtomicBool);

impl Stop {
    /// A request that has not been made.
    pub const fn new() -> Self {
        Self(AtomicBool::new(false))
    }

    /// Makes the request.
    pub fn request(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether it has been made.
    pub fn is_requested(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}

/// Files that are worked on before their reports are handed over: enough to keep every thread busy, few enough that
/// the first reports come soon and that reports take little memory.
pub(crate) const BATCH: usize = 64;

/// Washes files in parallel on the current thread pool and hands the reports over in the order of the list.
///
/// Once `stop` is requested, files that have not been started are not, and have no report.
pub fn wash_all(
    program: &Program,
    files: &[ChosenFile],
    aim: &Aim,
    stop: &Stop,
    meter: &Meter,
    mut report: impl FnMut(FileReport),
) {
    for batch in files.chunks(BATCH) {
        let done: Vec<Option<FileReport>> = batch
            .par_iter()
            .with_max_len(1)
            .map(|file| (!stop.is_requested()).then(|| wash_one_caught(program, file, aim, meter)))
            .collect();
        done.into_iter().flatten().for_each(&mut report);
    }
}

/// A fault in one file must not take the others with it. What it was writing is a temporary file, which is removed.
fn wash_one_caught(program: &Program, file: &ChosenFile, aim: &Aim, meter: &Meter) -> FileReport {
    let washed = std::panic::catch_unwind(AssertUnwindSafe(|| wash_one(program, file, aim, meter)));
    meter.file_done();
    let state = washed.unwrap_or(Err(FileError::Fault)).unwrap_or_else(State::Failed);
    FileReport { path: file.path.clone(), state }
}

fn wash_one(program: &Program, file: &ChosenFile, aim: &Aim, meter: &Meter) -> Result<State, FileError> {
    match aim {
        Aim::Preview { hunks } => preview(program, &file.path, *hunks, meter),
        Aim::Into { folder, overwrite } => copy(program, file, folder, *overwrite, meter),
        Aim::Write => write(program, file, meter),
    }
}

/// The first bytes of a file, or why it is left out.
pub(crate) fn start_of(source: &Source) -> Result<Result<Vec<u8>, Skip>, FileError> {
    let mut start = Vec::new();
    read_chunk(&mut source.reader(), &mut start).map_err(FileError::Read)?;
    Ok(Skip::for_start(&start).map_or(Ok(start), Err))
}

fn failed<E: Into<FileError>>(failed: Failed<E>) -> FileError {
    match failed {
        Failed::Read(error) => FileError::Read(error),
        Failed::Rule(error) => FileError::Rule(error),
        Failed::Give(error) => error.into(),
    }
}

fn preview(program: &Program, path: &Path, hunks: usize, meter: &Meter) -> Result<State, FileError> {
    let source = Source::open(path)?;
    let start = match start_of(&source)? {
        Ok(start) => start,
        Err(skip) => return Ok(State::Skipped(skip)),
    };
    meter.add(start.len());
    let observer = ExcerptObserver::new(program.names().len(), hunks);
    let (washed, observer) =
        wash(program.washer(observer), start, &mut meter.counting(source.reader()), &mut Nowhere).map_err(failed)?;
    let excerpt = observer.finish();
    Ok(if excerpt.differs() { State::Changed(washed, Some(excerpt)) } else { State::Unchanged(washed) })
}

fn copy(
    program: &Program,
    file: &ChosenFile,
    folder: &Path,
    overwrite: bool,
    meter: &Meter,
) -> Result<State, FileError> {
    let source = Source::open(&file.path)?;
    refuse_changed(file, &source)?;
    let start = match start_of(&source)? {
        Ok(start) => start,
        Err(skip) => return Ok(State::Skipped(skip)),
    };
    meter.add(start.len());
    let mut sink = CopySink::new(&source, &folder.join(&file.below), overwrite)?;
    let (washed, NoObserver) =
        wash(program.washer(NoObserver), start, &mut meter.counting(source.reader()), &mut sink).map_err(failed)?;
    sink.commit()?;
    Ok(if washed.any_change() { State::Changed(washed, None) } else { State::Unchanged(washed) })
}

fn write(program: &Program, file: &ChosenFile, meter: &Meter) -> Result<State, FileError> {
    let source = Source::open_to_write(&file.path)?;
    refuse_changed(file, &source)?;
    let start = match start_of(&source)? {
        Ok(start) => start,
        Err(skip) => return Ok(State::Skipped(skip)),
    };
    meter.add(start.len());
    let mut sink = InPlaceSink::new(&source);
    let (washed, NoObserver) =
        wash(program.washer(NoObserver), start, &mut meter.counting(source.reader()), &mut sink).map_err(failed)?;
    Ok(if sink.commit()? { State::Changed(washed, None) } else { State::Unchanged(washed) })
}

/// A file that was judged must be the same when it is written.
fn refuse_changed(file: &ChosenFile, source: &Source) -> Result<(), FileError> {
    let same = file.stamp.is_none_or(|stamp| stamp == source.stamp());
    if same { Ok(()) } else { Err(FileError::ChangedMeanwhile) }
}

/// For results nobody wants to keep.
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
