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

    /// With RUN, print the rules of the run as a rule set; for a run of a project, those it had for PATH
    #[arg(
        long,
        value_name = "PATH",
        num_args = 0..=1,
        require_equals = true,
        requires = "run",
        conflicts_with_all = ["all", "json"]
    )]
    #[expect(clippy::option_option, reason = "clap has it so where an option may have a value or not")]
    pub(crate) rules: Option<Option<PathBuf>>,

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

/// Run the rules of a past run once more
///
/// Takes the rules as they were in that run, with the options that say how they act; lists that they name are read as they are now.
/// Without a path, works on what the run worked on. Shows what would change, unless you give --write.
#[derive(Args, Debug)]
#[command(after_help = AGAIN_EXAMPLES)]
pub(crate) struct AgainArgs {
    /// Number of the run [default: the newest in this folder]; then files and folders
    #[arg(value_name = "RUN|PATH")]
    pub(crate) what: Vec<PathBuf>,

    /// Clean the files in place, or rename them
    #[arg(long)]
    pub(crate) write: bool,

    /// Write cleaned copies below DIR, in the same tree
    #[arg(long, value_name = "DIR", conflicts_with = "write")]
    pub(crate) into: Option<PathBuf>,

    /// Show every change
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

impl AgainArgs {
    /// The number of a run, if one is named, and the paths.
    pub(crate) fn run_and_paths(&self) -> (Option<i64>, &[PathBuf]) {
        let number = |path: &PathBuf| path.to_str().and_then(|text| text.parse().ok()).filter(|_| !path.exists());
        match self.what.split_first() {
            Some((first, rest)) if number(first).is_some() => (number(first), rest),
            _ => (None, &self.what),
        }
    }
}

const AGAIN_EXAMPLES: &str = "\
Examples:
  washout again                the newest run in this folder
  washout again 12             run 12, on what it worked on
  washout again 12 radio       the rules of run 12, on other files
  washout again 12 radio --write";

const UNDO_EXAMPLES: &str = "\
Examples:
  washout undo                       undo the newest run in this folder
  washout undo 12 --preview          show what undoing run 12 would do
  washout undo 12 --only scans/1936  undo a part of it

Exit status: 0 done, 2 there is no such run to undo, 3 some files could not be restored (the others were), \
130 interrupted.";

const HISTORY_EXAMPLES: &str = "\
Examples:
  washout history                         the newest twenty runs
  washout history 12                      run 12 in full
  washout history 12 --rules              its rules, as they were then
  washout history 12 --rules=radio/a.txt  of a project: its rules for this file
  washout history prune --keep-days 7     delete older runs";

const PRUNE_EXAMPLES: &str = "\
Examples:
  washout history prune --keep-days 7
  washout history prune --keep-size 500MiB";
