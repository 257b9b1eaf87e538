//! From the paths and options of a command line to a list of files.

use std::fs::Metadata;
use std::io::{self, BufRead, Read};
use std::num::NonZeroUsize;
use std::os::fd::AsFd;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

use washout_files::{Choice, Chosen, Globs, Take, Threads, choose, is_one_piece};
use washout_sets::reason;

use crate::args::ChoiceArgs;
use crate::exit::Trouble;
use crate::show::visible::shown_path;

/// Chooses the files a command works on, of which it takes this. `avoid`: a folder that is never walked. `verb`: what is
/// done with them.
pub(crate) fn chosen(
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
    let mut chosen = choose(&Choice {
        paths: paths.clone(),
        globs: Globs::new(&args.only, &args.except)?,
        with_hidden: args.with_hidden,
        with_ignored: args.with_ignored,
        with_binary: args.with_binary,
        take,
        avoid: avoid.map(Path::to_owned),
    })?;
    refuse_nothing(&chosen, verb)?;
    if take == Take::Contents {
        leave_out_stdout(&paths, &mut chosen)?;
    }
    Ok(chosen)
}

/// The file that standard output goes to, as `> FILE` and `>> FILE` of a shell make it; `None`: it is not a file.
fn stdout_file() -> Option<(u64, u64)> {
    let stdout = io::stdout().as_fd().try_clone_to_owned().ok()?;
    identity(&std::fs::File::from(stdout).metadata().ok()?)
}

fn identity(metadata: &Metadata) -> Option<(u64, u64)> {
    metadata.is_file().then(|| (metadata.dev(), metadata.ino()))
}

/// Whether standard output goes to this file: what is written would be read again.
pub(crate) fn refuse_stdout_to(input: &Path) -> Result<(), Trouble> {
    let input_file = std::fs::metadata(input).ok().as_ref().and_then(identity);
    if input_file.is_none() || input_file != stdout_file() {
        return Ok(());
    }
    let message = "is an input of this run, and its output would be added to it; let another file take the output";
    Err(Trouble::Usage(format!("{} {message}\nNothing was done.", shown_path(input))))
}

/// Leaves out the file that standard output goes to, if it was found in a folder, as in `check . > found.txt`. One that is
/// named is an error.
fn leave_out_stdout(named: &[PathBuf], chosen: &mut Chosen) -> Result<(), Trouble> {
    let Some(output) = stdout_file() else { return Ok(()) };
    named.iter().try_for_each(|path| refuse_stdout_to(path))?;
    chosen.files.retain(|file| std::fs::metadata(&file.path).ok().as_ref().and_then(identity) != Some(output));
    Ok(())
}

/// The paths in a list, a line each or between NUL bytes.
fn listed(list: &Path, nul: bool) -> Result<Vec<PathBuf>, Trouble> {
    let is_stdin = list == Path::new("-");
    let named =
        if is_stdin { "the list on standard input".to_owned() } else { format!("the list {}", shown_path(list)) };
    let failed = |error| Trouble::Usage(format!("{named} cannot be read: {}", reason(&error)));
    let reader: Box<dyn Read> =
        if is_stdin { Box::new(io::stdin()) } else { Box::new(std::fs::File::open(list).map_err(failed)?) };
    let separator = if nul { 0 } else { b'\n' };
    let mut paths = Vec::new();
    for part in io::BufReader::new(reader).split(separator) {
        let mut part = part.map_err(failed)?;
        if !nul && part.last() == Some(&b'\r') {
            part.pop();
        }
        if part.contains(&0) {
            return Err(Trouble::Usage(format!("{named} has NUL bytes; --nul reads it")));
        }
        if !part.is_empty() {
            paths.push(path_of(part));
        }
    }
    if let ([path], true) = (&paths[..], nul) {
        // A name with a line end is possible: then it is there.
        if path.as_os_str().as_encoded_bytes().contains(&b'\n') && path.symlink_metadata().is_err() {
            let message = "has lines and no NUL byte; without --nul it is read line by line";
            return Err(Trouble::Usage(format!("{named} {message}")));
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

/// This many files, if they are short, are no work for more than one thread.
const FEW: usize = 16;

/// Starts the threads that these files are worth: to start them takes longer than to wash a few short ones. `writes`: each
/// of several files has to be waited for until it is safe, which others can do meanwhile.
pub(crate) fn start_threads_for<P: AsRef<Path>>(
    jobs: Option<NonZeroUsize>,
    files: impl IntoIterator<Item = P>,
    writes: bool,
) {
    let mut files = files.into_iter();
    let few: Vec<P> = files.by_ref().take(if writes { 1 } else { FEW }).collect();
    let len_of = |file: &P| std::fs::metadata(file).ok().filter(Metadata::is_file).map(|file| file.len());
    let all: Option<u64> = if files.next().is_none() { few.iter().map(len_of).sum() } else { None };
    let threads = if all.is_some_and(is_one_piece) { Threads::one() } else { Threads::new(jobs) };
    threads.start();
}
