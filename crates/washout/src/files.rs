//! From the paths and options of a command line to a list of files.

use std::fs::Metadata;
use std::io::{self, BufRead, Read};
use std::num::NonZeroUsize;
use std::path::{Path, PathBuf};

use washout_files::{Choice, Chosen, Globs, Take, choose, is_one_piece};

use crate::args::ChoiceArgs;
use crate::exit::Trouble;

/// Chooses the files a command works on. `avoid`: a folder that is never walked. `verb`: what is done with them.
pub(crate) fn chosen(
    paths: &[PathBuf],
    args: &ChoiceArgs,
    avoid: Option<&Path>,
    verb: &str,
) -> Result<Chosen, Trouble> {
    chosen_as(Take::Contents, paths, args, avoid, verb)
}

/// Chooses what has a name.
pub(crate) fn chosen_as(
    take: Take,
    paths: &[PathBuf],
    args: &ChoiceArgs,
    avoid: Option<&Path>,
    verb: &str,
) -> Result<Chosen, Trouble> {
    let mut paths = paths.to_vec();
    if let Some(list) = &args.files_from {
        paths.extend(listed(list, args.nul)?);
    }
    let chosen = choose(&Choice {
        paths,
        globs: Globs::new(&args.only, &args.except)?,
        with_hidden: args.with_hidden,
        with_ignored: args.with_ignored,
        take,
        avoid: avoid.map(Path::to_owned),
    })?;
    refuse_nothing(&chosen, verb)?;
    set_jobs_for(args.jobs, chosen.files.iter().map(|file| &file.path))?;
    Ok(chosen)
}

/// The paths in a list, a line each or between NUL bytes.
fn listed(list: &Path, nul: bool) -> Result<Vec<PathBuf>, Trouble> {
    let reader: Box<dyn Read> = if list == Path::new("-") {
        Box::new(io::stdin())
    } else {
        let failed = |error| Trouble::Usage(format!("the list {} cannot be read: {error}", list.display()));
        Box::new(std::fs::File::open(list).map_err(failed)?)
    };
    let separator = if nul { 0 } else { b'\n' };
    let mut paths = Vec::new();
    for part in io::BufReader::new(reader).split(separator) {
        let mut part = part.map_err(|error| Trouble::Usage(format!("the list of files cannot be read: {error}")))?;
        if !nul && part.last() == Some(&b'\r') {
            part.pop();
        }
        if !part.is_empty() {
            paths.push(path_of(part));
        }
    }
    Ok(paths)
}

fn path_of(bytes: Vec<u8>) -> PathBuf {
    use std::os::unix::ffi::OsStringExt;
    std::ffi::OsString::from_vec(bytes).into()
}

/// A run over no file at all is a slip, and a table of zeros would hide it.
fn refuse_nothing(chosen: &Chosen, verb: &str) -> Result<(), Trouble> {
    if chosen.files.is_empty() && chosen.folders.is_empty() && chosen.skipped.is_empty() && chosen.failed.is_empty() {
        return Err(Trouble::Usage(format!(
            "there is no file to {verb}\nHidden files and those that ignore files name are left out; --with-hidden and \
             --with-ignored take them, and --only and --except leave out more"
        )));
    }
    Ok(())
}

/// Files, and parts of large ones, are worked on by this many threads.
pub(crate) fn set_jobs(jobs: Option<NonZeroUsize>) -> Result<(), Trouble> {
    start(rayon::ThreadPoolBuilder::new().num_threads(jobs.map_or(0, usize::from)))
}

/// The same for these files. A short one alone is no work for others: to start them would take longer.
pub(crate) fn set_jobs_for<P: AsRef<Path>>(
    jobs: Option<NonZeroUsize>,
    files: impl IntoIterator<Item = P>,
) -> Result<(), Trouble> {
    let mut files = files.into_iter();
    let only = files.next().filter(|_| files.next().is_none());
    match only.and_then(|file| std::fs::metadata(file).ok()).filter(Metadata::is_file) {
        Some(file) if is_one_piece(file.len()) => {
            start(rayon::ThreadPoolBuilder::new().num_threads(1).use_current_thread())
        }
        _ => set_jobs(jobs),
    }
}

fn start(threads: rayon::ThreadPoolBuilder) -> Result<(), Trouble> {
    threads.build_global().map_err(|error| Trouble::Usage(format!("no threads to work with: {error}")))
}
