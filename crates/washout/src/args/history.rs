//! The arguments of `history` and `undo`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::{Args, Subcommand};

use super::values::{run, size};

/// Tell of past runs
///
/// Each run that changed something, the newest first. With a number: that run in full.
#[derive(Args, Debug)]
#[command(args_conflicts_with_subcommands = true)]
pub(crate) struct HistoryArgs {
    #[command(subcommand)]
    pub(crate) part: Option<HistoryPart>,

    /// A run, by its number
    #[arg(value_name = "RUN", value_parser = run)]
    pub(crate) run: Option<i64>,

    /// Tell of all runs, not only the newest twenty; of one run, every file
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// What else can be done with the history.
#[derive(Debug, Subcommand)]
pub(crate) enum HistoryPart {
    Prune(PruneArgs),
}

/// Forget old runs, and remove what was kept for them
///
/// Without options: runs older than 30 days, and the oldest ones until 2 GiB are left. That is done after every run by
/// itself. The newest run is never forgotten.
#[derive(Args, Debug)]
pub(crate) struct PruneArgs {
    /// Forget runs that are older than N days
    #[arg(long, value_name = "N")]
    pub(crate) keep_days: Option<u64>,

    /// Forget the oldest runs until what is kept of files takes no more than SIZE, such as 500MiB
    #[arg(long, value_name = "SIZE", value_parser = size)]
    pub(crate) keep_size: Option<ByteSize>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// Undo a run: the newest in this folder, or one by its number
///
/// Without a number it is the newest run that changed something in the working folder or below it.
///
/// Every file gets its old content or name again, unless it has changed since, is no longer there, or something else has
/// its name: that is said, file by file. What undo does is a run too, and can be undone by its number.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = UNDO_EXAMPLES)]
pub(crate) struct UndoArgs {
    /// A run, by its number
    #[arg(value_name = "RUN", value_parser = run)]
    pub(crate) run: Option<i64>,

    /// Only files at or below PATH, by their old or new names; may be given several times
    #[arg(long, value_name = "PATH")]
    pub(crate) only: Vec<PathBuf>,

    /// Only show what would be put back
    #[arg(long)]
    pub(crate) preview: bool,

    /// Also put back files that have changed since, and names that something else has now
    #[arg(long)]
    pub(crate) force: bool,

    /// Show every file
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

const UNDO_EXAMPLES: &str = "\
Examples:
  washout undo                         put back the newest run that changed something here or below
  washout undo 12 --preview            look at what putting run 12 back would do
  washout undo 12 --only scans/1936    a part of it

Exit status: 0 done, 2 there is nothing of that kind to put back, 3 some files could not be put back (the others were),
130 interrupted.";
