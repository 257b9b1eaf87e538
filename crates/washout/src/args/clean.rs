//! The arguments of `clean`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::Args;

use super::values::size;
use super::{CharsetsArgs, ChoiceArgs, RuleArgs, TableArgs};

/// Apply rules to the contents of files
///
/// With no path, or with `-`, standard input is cleaned to standard output. With paths, the changes are shown and
/// nothing is written, unless --write or --into says so.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = CLEAN_EXAMPLES)]
pub(crate) struct CleanArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Files and folders to clean; `-` is standard input
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Clean the files in place; `washout undo` puts them back
    #[arg(long, conflicts_with_all = ["into", "stdout"], help_heading = "What becomes of the result")]
    pub(crate) write: bool,

    /// Write cleaned copies below DIR, in the same tree
    #[arg(long, value_name = "DIR", conflicts_with = "stdout", help_heading = "What becomes of the result")]
    pub(crate) into: Option<PathBuf>,

    /// Replace copies (--into) and reports (--report) that exist; never a file that the run reads
    #[arg(long, help_heading = "What becomes of the result")]
    pub(crate) overwrite: bool,

    /// With --write: keep no record of what was in the files; there is no undo then
    #[arg(long, requires = "write", help_heading = "What becomes of the result")]
    pub(crate) no_history: bool,

    /// With --write: how much this run may keep for undo, if that is more than 2 GiB
    #[arg(
        long,
        value_name = "SIZE", value_parser = size,
        requires = "write",
        conflicts_with = "no_history",
        help_heading = "What becomes of the result"
    )]
    pub(crate) history_limit: Option<ByteSize>,

    /// With --write: files keep the time of their last change
    #[arg(long, requires = "write", help_heading = "What becomes of the result")]
    pub(crate) keep_times: bool,

    /// With --write: where a named file is a link, clean the file it leads to
    #[arg(long, requires = "write", help_heading = "What becomes of the result")]
    pub(crate) follow: bool,

    /// With --write: clean files that have several names (hard links) too, and part them from the others
    #[arg(long, requires = "write", help_heading = "What becomes of the result")]
    pub(crate) break_links: bool,

    /// Write the result of one file to standard output
    #[arg(long, help_heading = "What becomes of the result")]
    pub(crate) stdout: bool,

    /// On a stream: hold the result back until it is whole; if anything fails, nothing is written
    #[arg(long, conflicts_with_all = ["write", "into", "patch", "ask", "json", "report"], help_heading = "What becomes of the result")]
    pub(crate) spool: bool,

    /// Print the changes as a patch (a unified diff)
    #[arg(long, conflicts_with_all = ["write", "into", "stdout", "json", "report"], help_heading = "What becomes of the result")]
    pub(crate) patch: bool,

    /// With --write or --into: show each change, and ask whether to take it
    #[arg(long, conflicts_with_all = ["stdout", "patch", "json", "report", "first"], help_heading = "What becomes of the result")]
    pub(crate) ask: bool,

    /// Also write a report: NAME.html for people, NAME.jsonl with a line for each change; may be given several times
    #[arg(long, value_name = "FILE", conflicts_with = "stdout", help_heading = "What becomes of the result")]
    pub(crate) report: Vec<PathBuf>,

    /// Show every change, not only the first of each file
    #[arg(long, help_heading = "What becomes of the result")]
    pub(crate) all: bool,

    /// Print one JSON value for programs, instead of a preview
    #[arg(long, conflicts_with = "stdout", help_heading = "What becomes of the result")]
    pub(crate) json: bool,

    /// Only the first N lines of each file, to try rules on large ones
    #[arg(long, value_name = "N", conflicts_with_all = ["write", "into", "patch"], help_heading = "What becomes of the result")]
    pub(crate) first: Option<u64>,

    /// Only this rule, by number or label
    #[arg(long, value_name = "RULE", conflicts_with = "up_to_rule", help_heading = "Rules, in the order given")]
    pub(crate) only_rule: Option<String>,

    /// No rule after this one, by number or label
    #[arg(long, value_name = "RULE", help_heading = "Rules, in the order given")]
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
  washout clean -r radio.wash.toml watch.txt notes/                 look at the changes
  washout clean -r radio.wash.toml watch.txt notes/ --into cleaned  write cleaned copies
  washout clean -r radio.wash.toml < watch.txt > out.txt            clean a stream
  washout clean --rule 'remove.chars = \"#-\"' watch.txt              try one rule

Exit status: 0 done, 2 the command line or a rule set is wrong (nothing was opened),
3 some files could not be done (the others were), 4 a rule does not make the changes it expects (nothing was written),
130 interrupted.";
