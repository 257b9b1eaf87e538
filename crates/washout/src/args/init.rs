//! The arguments of `init`.

use std::path::PathBuf;

use clap::Args;

/// Write a project file, which says which rules are for which files
///
/// Writes washout.toml in the working folder: with the rule sets you name, or those that are in the folder, or else with
/// rules drafted from a survey of its files. With a project file, `check`, `clean` and `watch` need no rules and no paths.
#[derive(Args, Debug)]
#[command(after_help = INIT_EXAMPLES)]
pub(crate) struct InitArgs {
    /// Rule set for the files of this folder: a file below it, ready:NAME or my:NAME; repeatable
    #[arg(short, long = "rules", value_name = "FILE")]
    pub(crate) rules: Vec<PathBuf>,

    /// Replace an existing project file or draft
    #[arg(long)]
    pub(crate) overwrite: bool,
}

const INIT_EXAMPLES: &str = "\
Examples:
  washout init                       with the rule sets here, or drafts
  washout init -r ready:source-code  with a rule set that you name";
