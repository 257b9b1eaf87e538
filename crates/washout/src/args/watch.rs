//! The arguments of `watch`.

use std::path::PathBuf;

use clap::Args;

use super::{ChoiceArgs, ProjectArgs, RuleArgs, TableArgs};

/// Clean files as they are saved, or rename them as they arrive
///
/// Runs until you press Ctrl-C. A file is taken once it has been at rest for a moment. Each batch is a run of the history, and
/// what `washout undo` restores stays as it is until it changes again.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = WATCH_EXAMPLES)]
pub(crate) struct WatchArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    #[command(flatten)]
    pub(crate) project: ProjectArgs,

    /// Files and folders to watch [default, with a project file: the working folder]
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Clean files in place
    #[arg(long, conflicts_with_all = ["into", "names"], help_heading = "Output")]
    pub(crate) write: bool,

    /// Write cleaned copies below DIR, in the same tree, and replace those that this watch has written
    #[arg(long, value_name = "DIR", conflicts_with = "names", help_heading = "Output")]
    pub(crate) into: Option<PathBuf>,

    /// Rename files
    #[arg(long, conflicts_with_all = ["project", "table", "delimiter", "no_header", "fields", "ragged", "guard_formulas"], help_heading = "Output")]
    pub(crate) names: bool,

    /// With --into: replace copies that are there already
    #[arg(long, requires = "into", help_heading = "Output")]
    pub(crate) overwrite: bool,

    /// First clean or rename what is there
    #[arg(long, help_heading = "Output")]
    pub(crate) now: bool,

    /// Look at all files every SECONDS, for file systems that do not report changes, such as those of other machines
    #[arg(long, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=3600), help_heading = "Files")]
    pub(crate) poll: Option<u64>,

    #[command(flatten)]
    pub(crate) table: TableArgs,

    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

const WATCH_EXAMPLES: &str = "\
Examples:
  washout watch -r radio.wash.toml radio --write       clean as files are saved
  washout watch -r radio.wash.toml radio --into clean  write copies
  washout watch -r scans.wash.toml scans --names       rename as files arrive
  washout watch --write  by the rules of washout.toml

Exit status: 130 ended by Ctrl-C, 2 the command line or a rule set is wrong, 3 nothing can be watched.";
