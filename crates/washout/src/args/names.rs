//! The arguments of `names`.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::{ChoiceArgs, RuleArgs};

/// Apply rules to the names of files
///
/// Applies the same rules as `clean`, to one name at a time. Rules see the stem: not the extension, nor a leading dot.
/// Shows the new names and renames nothing, unless you give --write. No file is ever overwritten.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = NAMES_EXAMPLES)]
pub(crate) struct NamesArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Files to rename, and folders whose files to rename, at any depth
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Rename the files; `washout undo` restores the names
    #[arg(long, help_heading = "Output")]
    pub(crate) write: bool,

    /// With --write: show each rename and ask whether to do it
    #[arg(long, conflicts_with_all = ["json", "report", "map"], help_heading = "Output")]
    pub(crate) ask: bool,

    /// Write old and new names to FILE, a CSV table you can edit
    #[arg(long, value_name = "FILE", conflicts_with_all = ["write", "from_map", "report"], help_heading = "Output")]
    pub(crate) map: Option<PathBuf>,

    /// Take the new names from FILE, a table written by --map, instead of from rules
    #[arg(long, value_name = "FILE", conflicts_with_all = ["rules", "rule", "files_from"], help_heading = "Output")]
    pub(crate) from_map: Option<PathBuf>,

    /// Also write a report: a page (NAME.html) or a line for each name (NAME.jsonl); repeatable
    #[arg(long, value_name = "FILE", help_heading = "Output")]
    pub(crate) report: Vec<PathBuf>,

    /// Replace existing reports and tables (--map)
    #[arg(long, help_heading = "Output")]
    pub(crate) overwrite: bool,

    /// Show every rename, not only the first of each folder
    #[arg(long, help_heading = "Output")]
    pub(crate) all: bool,

    /// Print one JSON value instead of a table
    #[arg(long, help_heading = "Output")]
    pub(crate) json: bool,

    /// Keep no record; `washout undo` cannot restore the names
    #[arg(long, requires = "write", help_heading = "Output")]
    pub(crate) no_history: bool,

    /// Run only this rule, by number or label
    #[arg(long, value_name = "RULE", conflicts_with = "up_to_rule", help_heading = "Rules")]
    pub(crate) only_rule: Option<String>,

    /// Run no rule after this one, by number or label
    #[arg(long, value_name = "RULE", help_heading = "Rules")]
    pub(crate) up_to_rule: Option<String>,

    /// Part of the name that rules see [default: as the rule set says, or stem]
    #[arg(long, value_enum, value_name = "PART", help_heading = "Names")]
    pub(crate) part: Option<PartArg>,

    /// If several files would get one name: refuse them all, or number them, as in `log (2).txt`
    #[arg(long, value_enum, default_value_t = ClashArg::Refuse, value_name = "WAY", help_heading = "Names")]
    pub(crate) on_clash: ClashArg,

    /// Order in which the names of a folder are numbered
    #[arg(long, value_enum, default_value_t = OrderArg::Name, value_name = "ORDER", help_heading = "Names")]
    pub(crate) order: OrderArg,

    /// Refuse names that other systems do not allow
    #[arg(long, help_heading = "Names")]
    pub(crate) portable: bool,

    /// Also rename folders below the named ones, after their contents
    #[arg(long, help_heading = "Files")]
    pub(crate) folders: bool,

    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

/// A part of a name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum PartArg {
    /// All before the extension, without a leading dot
    Stem,
    /// The extension, without its dot
    Extension,
    /// All of it
    Whole,
}

/// What happens where several files would have one name.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ClashArg {
    /// None of them gets it
    Refuse,
    /// The first gets it, the others get a number after the stem
    Number,
}

/// The order of names.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum OrderArg {
    /// By name, numbers by their value: `scan 9` before `scan 10`
    Name,
    /// By the time of the last change, the oldest first
    Modified,
}

const NAMES_EXAMPLES: &str = "\
Examples:
  washout names -r scans.wash.toml scans/                  show the new names
  washout names -r scans.wash.toml scans/ --write          rename the files
  washout names --rule 'replace = { chars = \"_\", with = \" \" }' scans/
  washout names -r scans.wash.toml scans/ --map names.csv  write a table to edit
  washout names --from-map names.csv scans/ --write        rename by the table

Exit status: 0 done, 2 the command line, a rule set or a table is wrong (nothing was renamed), 3 some files could not \
be renamed (the others were), 4 an expectation of a rule is not met (nothing was renamed), 130 interrupted.";
