//! Arguments that say which rules, and those of the commands about rules: `check`, `explain`, `stock`, `test` and `demo`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::{Args, ValueEnum};

use super::values::size;
use super::{CharsetArgs, ChoiceArgs, TableArgs};

/// Rules: sets and single ones mix, and run in the order given.
#[derive(Args, Clone, Debug)]
pub(crate) struct RuleArgs {
    /// Rule set: a file, usually named NAME.wash.toml, or ready:NAME, my:NAME from your configuration folder, or
    /// run:N for the rules of a past run; repeatable, in the order given
    #[arg(short, long = "rules", value_name = "FILE", help_heading = "Rules")]
    pub(crate) rules: Vec<PathBuf>,

    /// One rule, such as 'remove.chars = "#-"' or '{ fields = "Keeper", trim = {} }'; repeatable, in the order given
    #[arg(long = "rule", value_name = "RULE", help_heading = "Rules")]
    pub(crate) rule: Vec<String>,

    /// Also write these rules as one rule set: a new file, or my:NAME
    #[arg(long, value_name = "FILE", help_heading = "Rules")]
    pub(crate) save_rules: Option<PathBuf>,

    /// Most memory that rules may use for one text, and most bytes by which they may make it longer, such as 200MiB [default:
    /// 1GiB, and 64MiB besides ten times the text]
    #[arg(long, value_name = "SIZE", value_parser = size, help_heading = "Rules")]
    pub(crate) max_memory: Option<ByteSize>,
}

/// The project file, which says which rules are for which files.
#[derive(Args, Debug, Default)]
pub(crate) struct ProjectArgs {
    /// Without -r and --rule: take the rules from this project file [default: washout.toml here or in a folder above, up to
    /// the top of the repository]
    #[arg(long, value_name = "FILE", conflicts_with_all = ["rules", "rule"], help_heading = "Rules")]
    pub(crate) project: Option<PathBuf>,

    /// Do not look for a project file
    #[arg(long, conflicts_with = "project", help_heading = "Rules")]
    pub(crate) no_project: bool,
}

impl RuleArgs {
    /// Whether none is given.
    pub(crate) fn is_empty(&self) -> bool {
        self.rules.is_empty() && self.rule.is_empty()
    }
}

/// List the places that rules would change, for commits and builds
///
/// Changes nothing. Lists each place as `file:line:column` with its rule. The exit status is 1 if there is any. Without
/// rules, takes those of the project file, washout.toml.
#[derive(Args, Debug)]
#[command(after_help = CHECK_EXAMPLES)]
pub(crate) struct CheckArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    #[command(flatten)]
    pub(crate) project: ProjectArgs,

    /// Files and folders to check [default, with a project file: the working folder]
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Check what is staged for the next commit of git, as it is in the index, instead of files
    #[arg(long, conflicts_with_all = ["paths", "files_from"])]
    pub(crate) staged: bool,

    /// Output format
    #[arg(long, value_enum, default_value_t = CheckFormat::Text)]
    pub(crate) format: CheckFormat,

    /// The same as --format json
    #[arg(long, conflicts_with = "format")]
    pub(crate) json: bool,

    /// What to list
    #[arg(long, value_name = "WHAT", value_enum, default_value_t = CheckList::All)]
    pub(crate) list: CheckList,

    #[command(flatten)]
    pub(crate) table: TableArgs,

    #[command(flatten)]
    pub(crate) charset: CharsetArgs,

    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

/// How places are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    /// A line for each place: `file:line:column: rule`
    Text,
    /// One JSON value
    Json,
    /// SARIF 2.1.0, for programs that show findings in code
    Sarif,
}

/// Which places are listed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckList {
    /// Every place
    All,
    /// The first 20 places; the others are counted
    Some,
    /// The first place of each file; the rest of a file is not read
    First,
    /// For each file how many changes there are, and no places
    Count,
}

const CHECK_EXAMPLES: &str = "\
Examples:
  washout check -r notices.wash.toml notices  list the places
  washout check -r notices.wash.toml notices --list first
  washout check -r notices.wash.toml notices --format sarif > notices.sarif
  washout check           by the rules of washout.toml
  washout check --staged  what will be committed

Exit status: 0 nothing would change, 1 something would change, 2 the command line or a rule set is wrong, \
3 some files could not be read, 130 interrupted.";

/// Explain each rule in plain words, and warn of likely mistakes
///
/// Describes regular expressions piece by piece. Warns of rules that probably do not do what was meant: a rule that can never
/// match, a replacement that a later rule removes, words in capitals only.
#[derive(Args, Debug)]
#[command(after_help = EXPLAIN_EXAMPLES)]
pub(crate) struct ExplainArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Rule sets (*.wash.toml, ready:NAME), as with -r; and texts, to test whether a second run changes them again
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

/// List ready-made patterns, character classes, word lists and rule sets
///
/// Without a name, lists everything. With a name, shows what a pattern takes and leaves, with lines that match and lines that
/// do not; the members of a class; the text of a rule set (ready:NAME), to copy and edit; the words of a list
/// (stopwords:en).
#[derive(Args, Debug)]
#[command(after_help = STOCK_EXAMPLES)]
pub(crate) struct StockArgs {
    /// Name of a pattern or class, ready:NAME or stopwords:LANGUAGE
    #[arg(value_name = "NAME")]
    pub(crate) name: Option<String>,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

/// Run the examples in rule sets
///
/// Each `[[example]]` says what the rules make of a text. Shows the difference where the result is another. The exit status is
/// 1 if any example fails.
#[derive(Args, Debug)]
#[command(after_help = TEST_EXAMPLES)]
pub(crate) struct TestArgs {
    /// Rule sets, ready:NAME, and folders whose *.wash.toml files are rule sets
    #[arg(value_name = "PATH", required = true)]
    pub(crate) paths: Vec<PathBuf>,

    /// Most memory that rules may use for one example, and most bytes by which they may make it longer, such as 200MiB
    /// [default: 1GiB, and 64MiB besides ten times the text]
    #[arg(long, value_name = "SIZE", value_parser = size)]
    pub(crate) max_memory: Option<ByteSize>,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

/// Unpack the demo data and clean it
///
/// The demo data is the papers of the Marrow Point light station, all made up: a logbook, a radio watch, notices, scans and
/// a ledger, with a rule set for each.
#[derive(Args, Debug)]
#[command(after_help = DEMO_EXAMPLES)]
pub(crate) struct DemoArgs {
    /// Unpack into DIR, which must be empty or not exist [default: a new temporary folder]
    #[arg(long, value_name = "DIR")]
    pub(crate) into: Option<PathBuf>,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

const EXPLAIN_EXAMPLES: &str = "\
Examples:
  washout explain radio.wash.toml         explain each rule
  washout explain radio.wash.toml radio/  also test a second run on texts
  washout explain --rule 'remove.pattern = \"\\\\d+\"'";

const STOCK_EXAMPLES: &str = "\
Examples:
  washout stock                list everything
  washout stock timestamp      show what a pattern takes and leaves
  washout stock ready:prose    show a rule set";

const TEST_EXAMPLES: &str = "\
Examples:
  washout test radio.wash.toml    run the examples of one rule set
  washout test .                  run those of every rule set in a folder

Exit status: 0 all examples hold, 1 one fails, 2 the command line or a rule set is wrong.";

const DEMO_EXAMPLES: &str = "\
Examples:
  washout demo                  unpack into a temporary folder
  washout demo --into papers    unpack into the folder papers";
