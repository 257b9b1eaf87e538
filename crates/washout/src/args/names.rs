//! The arguments of `names`.

use std::path::PathBuf;

use clap::{Args, ValueEnum};

use super::{ChoiceArgs, RuleArgs};

/// Apply rules to the names of files
///
/// The same rules as for contents, one name at a time. Rules see the stem: not the extension, and not a leading dot.
/// The new names are shown, and nothing is renamed, unless --write says so. No file is ever overwritten.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = NAMES_EXAMPLES)]
pub(crate) struct NamesArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Files, and folders whose files are to be renamed, at any depth
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Rename the files; `washout undo` puts the names back
    #[arg(long, help_heading = "What becomes of the names")]
    pub(crate) write: bool,

    /// With --write: show each rename, and ask whether to do it
    #[arg(long, conflicts_with_all = ["json", "report", "map"], help_heading = "What becomes of the names")]
    pub(crate) ask: bool,

    /// Write old and new names to FILE, a CSV table to look at or to edit
    #[arg(long, value_name = "FILE", conflicts_with_all = ["write", "from_map", "report"], help_heading = "What becomes of the names")]
    pub(crate) map: Option<PathBuf>,

    /// Take the new names from FILE, a table that --map wrote, instead of from rules
    #[arg(long, value_name = "FILE", conflicts_with_all = ["rules", "rule", "files_from"], help_heading = "What becomes of the names")]
    pub(crate) from_map: Option<PathBuf>,

    /// Also write a report: NAME.html for people, NAME.jsonl with a line for each name; may be given several times
    #[arg(long, value_name = "FILE", help_heading = "What becomes of the names")]
    pub(crate) report: Vec<PathBuf>,

    /// Replace reports and tables (--map) that exist
    #[arg(long, help_heading = "What becomes of the names")]
    pub(crate) overwrite: bool,

    /// Show every rename, not only the first of each folder
    #[arg(long, help_heading = "What becomes of the names")]
    pub(crate) all: bool,

    /// Print one JSON value for programs, instead of a table
    #[arg(long, help_heading = "What becomes of the names")]
    pub(crate) json: bool,

    /// Keep no record: there is no undo then
    #[arg(long, requires = "write", help_heading = "What becomes of the names")]
    pub(crate) no_history: bool,

    /// Only this rule, by number or label
    #[arg(long, value_name = "RULE", conflicts_with = "up_to_rule", help_heading = "Rules, in the order given")]
    pub(crate) only_rule: Option<String>,

    /// No rule after this one, by number or label
    #[arg(long, value_name = "RULE", help_heading = "Rules, in the order given")]
    pub(crate) up_to_rule: Option<String>,

    /// The part of a name that rules see; stem, if neither this nor a rule set says
    #[arg(long, value_enum, value_name = "PART", help_heading = "What names are like")]
    pub(crate) part: Option<PartArg>,

    /// Where several files would have one name: refuse them all, or number them, as in `log (2).txt`
    #[arg(long, value_enum, default_value_t = ClashArg::Refuse, value_name = "WAY", help_heading = "What names are like")]
    pub(crate) on_clash: ClashArg,

    /// The order in which the names of a folder are numbered
    #[arg(long, value_enum, default_value_t = OrderArg::Name, value_name = "ORDER", help_heading = "What names are like")]
    pub(crate) order: OrderArg,

    /// Refuse names that other systems do not allow
    #[arg(long, help_heading = "What names are like")]
    pub(crate) portable: bool,

    /// Also rename the folders below the named ones, after what is in them
    #[arg(long, help_heading = "Which files")]
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
    /// The first gets it, the others get a number behind the stem
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
  washout names -r scans.wash.toml scans/                    look at the new names
  washout names -r scans.wash.toml scans/ --write            rename
  washout names --rule 'replace = { chars = \"_\", with = \" \" }' scans/
  washout names -r scans.wash.toml scans/ --map names.csv    a table, to edit before
  washout names --from-map names.csv scans/ --write          rename as the table says

Exit status: 0 done, 2 the command line, a rule set or a table is wrong (nothing was renamed), 3 some files could not
be renamed (the others were), 4 a rule does not make the changes it expects (nothing was renamed), 130 interrupted.";
