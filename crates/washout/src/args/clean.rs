//! The arguments of `clean`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::Args;

use super::values::{lines, size};
use super::{CharsetsArgs, ChoiceArgs, ProjectArgs, RuleArgs, TableArgs};

/// Apply rules to the contents of files
///
/// With no path, or with `-`, cleans standard input to standard output. With paths, shows the changes and writes nothing,
/// unless you give --write or --into. Without rules, takes those of the project file, washout.toml.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = CLEAN_EXAMPLES)]
pub(crate) struct CleanArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    #[command(flatten)]
    pub(crate) project: ProjectArgs,

    /// Files and folders to clean; `-` is standard input [default, with a project file and no rules: the working folder]
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Clean the files in place; `washout undo` restores them
    #[arg(long, conflicts_with_all = ["into", "stdout"], help_heading = "Output")]
    pub(crate) write: bool,

    /// Write cleaned copies below DIR, in the same tree
    #[arg(long, value_name = "DIR", conflicts_with = "stdout", help_heading = "Output")]
    pub(crate) into: Option<PathBuf>,

    /// Replace existing copies (--into) and reports (--report), but never a file that the run reads
    #[arg(long, help_heading = "Output")]
    pub(crate) overwrite: bool,

    /// With --write: keep no copy of what was in the files; `washout undo` cannot restore them
    #[arg(long, requires = "write", help_heading = "Output")]
    pub(crate) no_history: bool,

    /// With --write: keep up to SIZE of this run for `washout undo`, instead of 2GiB
    #[arg(
        long,
        value_name = "SIZE", value_parser = size,
        requires = "write",
        conflicts_with = "no_history",
        help_heading = "Output"
    )]
    pub(crate) history_limit: Option<ByteSize>,

    /// With --write: keep the modification times of files
    #[arg(long, requires = "write", help_heading = "Output")]
    pub(crate) keep_times: bool,

    /// With --write: if a named file is a symbolic link, clean the file it points to
    #[arg(long, requires = "write", help_heading = "Output")]
    pub(crate) follow: bool,

    /// With --write: also clean files with several hard links, and separate them from the others
    #[arg(long, requires = "write", help_heading = "Output")]
    pub(crate) break_links: bool,

    /// Write the result of one file to standard output
    #[arg(long, help_heading = "Output")]
    pub(crate) stdout: bool,

    /// For a stream: write the result only when it is complete; if anything fails, write nothing
    #[arg(long, conflicts_with_all = ["write", "into", "patch", "ask", "json", "report"], help_heading = "Output")]
    pub(crate) spool: bool,

    /// Print the changes as a patch (a unified diff)
    #[arg(long, conflicts_with_all = ["write", "into", "stdout", "json", "report"], help_heading = "Output")]
    pub(crate) patch: bool,

    /// With --write or --into: show each change and ask whether to apply it
    #[arg(long, conflicts_with_all = ["stdout", "patch", "json", "report", "first"], help_heading = "Output")]
    pub(crate) ask: bool,

    /// Also write a report: a page (NAME.html) or a line for each change (NAME.jsonl); repeatable
    #[arg(long, value_name = "FILE", conflicts_with = "stdout", help_heading = "Output")]
    pub(crate) report: Vec<PathBuf>,

    /// Show every change, not only the first of each file
    #[arg(long, help_heading = "Output")]
    pub(crate) all: bool,

    /// Print one JSON value instead of a preview
    #[arg(long, conflicts_with = "stdout", help_heading = "Output")]
    pub(crate) json: bool,

    /// Read only the first N lines of each file, to try rules
    #[arg(long, value_name = "N", value_parser = lines, conflicts_with_all = ["write", "into", "patch"], help_heading = "Output")]
    pub(crate) first: Option<u64>,

    /// Run only this rule, by number or label
    #[arg(long, value_name = "RULE", conflicts_with = "up_to_rule", help_heading = "Rules")]
    pub(crate) only_rule: Option<String>,

    /// Run no rule after this one, by number or label
    #[arg(long, value_name = "RULE", help_heading = "Rules")]
    pub(crate) up_to_rule: Option<String>,

    #[command(flatten)]
    pub(crate) table: TableArgs,

    #[command(flatten)]
    pub(crate) charsets: CharsetsArgs,

    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

const CLEAN_EXAMPLES: &str = "\
Examples:
  washout clean -r radio.wash.toml radio                preview the changes
  washout clean -r radio.wash.toml radio --into copies  write cleaned copies
  washout clean -r radio.wash.toml radio --write        clean them in place
  washout clean -r radio.wash.toml < radio/watch-1.txt  clean a stream
  washout clean --rule 'remove.chars = \"#-\"' logbook   try one rule
  washout clean  by the rules of washout.toml

Exit status: 0 done, 2 the command line or a rule set is wrong (nothing was opened), \
3 some files failed (the others were cleaned), 4 an expectation of a rule is not met (nothing was written), \
130 interrupted.";
