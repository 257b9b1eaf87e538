//! The arguments of `history` and `undo`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::{Args, Subcommand};

use super::values::{run, size};

/// List past runs
///
/// Lists the runs that changed something, the newest first. With a number, shows that run in full.
#[derive(Args, Debug)]
#[command(args_conflicts_with_subcommands = true, after_help = HISTORY_EXAMPLES)]
pub(crate) struct HistoryArgs {
    #[command(subcommand)]
    pub(crate) part: Option<HistoryPart>,

    /// Number of the run
    #[arg(value_name = "RUN", value_parser = run)]
    pub(crate) run: Option<i64>,

    /// List all runs, not only the newest twenty; with RUN, list every file
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

/// What else can be done with the history.
#[derive(Debug, Subcommand)]
pub(crate) enum HistoryPart {
    Prune(PruneArgs),
}

/// Delete old runs and what was kept for them
///
/// Without options, deletes runs older than 30 days, and then the oldest until 2 GiB are left. This also happens after every
/// run. The newest run is never deleted.
#[derive(Args, Debug)]
#[command(after_help = PRUNE_EXAMPLES)]
pub(crate) struct PruneArgs {
    /// Delete runs that are older than N days
    #[arg(long, value_name = "N")]
    pub(crate) keep_days: Option<u64>,

    /// Delete the oldest runs until the kept files take at most SIZE, such as 500MiB
    #[arg(long, value_name = "SIZE", value_parser = size)]
    pub(crate) keep_size: Option<ByteSize>,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

/// Undo a run: the newest in this folder, or the one with this number
///
/// Without a number, undoes the newest run that changed something in the working folder or below it.
///
/// Restores the old content or name of every file. A file that has changed since, that is gone, or whose old name is taken is
/// left alone and listed. An undo is a run too and can be undone by its number.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = UNDO_EXAMPLES)]
pub(crate) struct UndoArgs {
    /// Number of the run
    #[arg(value_name = "RUN", value_parser = run)]
    pub(crate) run: Option<i64>,

    /// Restore only files at or below PATH, by old or new name; repeatable
    #[arg(long, value_name = "PATH")]
    pub(crate) only: Vec<PathBuf>,

    /// Show what would be restored, and change nothing
    #[arg(long)]
    pub(crate) preview: bool,

    /// Also restore files that have changed since, and names that are taken now
    #[arg(long)]
    pub(crate) force: bool,

    /// Show every file
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

const UNDO_EXAMPLES: &str = "\
Examples:
  washout undo                       undo the newest run in this folder
  washout undo 12 --preview          show what undoing run 12 would do
  washout undo 12 --only scans/1936  undo a part of it

Exit status: 0 done, 2 there is no such run to undo, 3 some files could not be restored (the others were), \
130 interrupted.";

const HISTORY_EXAMPLES: &str = "\
Examples:
  washout history                      the newest twenty runs
  washout history 12                   run 12 in full
  washout history prune --keep-days 7  delete older runs";

const PRUNE_EXAMPLES: &str = "\
Examples:
  washout history prune --keep-days 7
  washout history prune --keep-size 500MiB";
