//! The arguments of `live`.

use std::path::PathBuf;

use clap::Args;

use super::values::lines;
use super::{ChoiceArgs, PartArg, ProjectArgs, RuleArgs, TableArgs};

/// Show a file before and after rules, side by side, while you write the rules
///
/// A full-screen view that follows the rule set and the file as they are saved. A rule can be typed in it and acts with every
/// key. Press ? for the keys. Nothing but writing, which asks first, changes a file.
#[derive(Args, Debug)]
#[command(after_help = LIVE_EXAMPLES)]
pub(crate) struct LiveArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    #[command(flatten)]
    pub(crate) project: ProjectArgs,

    /// Files and folders; `FILE:120` shows the part around line 120 [default: the working folder]
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Show the names of the files instead of their contents
    #[arg(long, conflicts_with_all = ["first", "table", "delimiter", "no_header", "fields", "ragged", "guard_formulas"])]
    pub(crate) names: bool,

    /// With --names: the part of the name that rules see; stem, if neither this nor a rule set says
    #[arg(long, value_enum, requires = "names")]
    pub(crate) part: Option<PartArg>,

    /// Show only the first N lines of each file, or records of a table [default: as many as 1 MiB holds]
    #[arg(long, value_name = "N", value_parser = lines)]
    pub(crate) first: Option<u64>,

    #[command(flatten)]
    pub(crate) table: TableArgs,

    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

const LIVE_EXAMPLES: &str = "\
Examples:
  washout live -r radio.wash.toml radio        the files of a folder
  washout live notices/board-1.txt             try rules on a file
  washout live -r stores.wash.toml stores      records of a table
  washout live -r scans.wash.toml --names scans
  washout live -r radio.wash.toml radio/watch-1.txt:300

Exit status: 0 done, 2 the command line is wrong, or this is no terminal.";
