//! Arguments that say which rules, and those of the commands about rules: `check`, `explain`, `stock`, `test` and `demo`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::{Args, ValueEnum};

use super::values::size;
use super::{CharsetArgs, ChoiceArgs, TableArgs};

/// Rules: sets and single ones mix, and run in the order given.
#[derive(Args, Debug)]
pub(crate) struct RuleArgs {
    /// A rule set, by custom NAME.wash.toml, or ready:NAME; may be given several times
    #[arg(short, long = "rules", value_name = "FILE", help_heading = "Rules, in the order given")]
    pub(crate) rules: Vec<PathBuf>,

    /// One rule, such as 'remove.chars = "#-"'; with more keys, '{ fields = "Keeper", trim = {} }'; may be given several times
    #[arg(long = "rule", value_name = "RULE", help_heading = "Rules, in the order given")]
    pub(crate) rule: Vec<String>,

    /// How much of one text rules may hold in memory, such as 200MiB (1GiB if not given), and how much longer they may make
    /// it (64MiB if not given, and ten times the text): what needs more fails
    #[arg(long, value_name = "SIZE", value_parser = size, help_heading = "Rules, in the order given")]
    pub(crate) max_memory: Option<ByteSize>,
}

impl RuleArgs {
    /// Whether none is given.
    pub(crate) fn is_empty(&self) -> bool {
        self.rules.is_empty() && self.rule.is_empty()
    }
}

/// Find out whether rules would change anything: a gate for commits and builds
///
/// Nothing is changed. Each place is listed as `file:line:column` with the rule. Exit status 1 if there is any.
#[derive(Args, Debug)]
#[command(after_help = CHECK_EXAMPLES)]
pub(crate) struct CheckArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Files and folders to check
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// How the places are written
    #[arg(long, value_enum, default_value_t = CheckFormat::Text)]
    pub(crate) format: CheckFormat,

    /// The same as --format json
    #[arg(long, conflicts_with = "format")]
    pub(crate) json: bool,

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

const CHECK_EXAMPLES: &str = "\
Examples:
  washout check -r ready:source-code src/                          list what would change
  washout check -r ready:source-code src/ --format sarif > w.sarif for a build

Exit status: 0 nothing would change, 1 something would, 2 the command line or a rule set is wrong,
3 some files could not be read, 130 interrupted.";

/// Tell in plain words what each rule does, what it has to see, and what to be careful about
///
/// Regular expressions are told piece by piece. Cautions are about rules that mean something, but probably not what
/// was meant: one that can never match, a replacement that a later rule takes away again, words in capitals only.
#[derive(Args, Debug)]
pub(crate) struct ExplainArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Rule sets (*.wash.toml, ready:NAME), as with -r; and texts, to see whether a second run would change them again
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// List and show what comes ready-made: patterns, classes, stop words, whole rule sets
///
/// Without a name everything is listed. With the name of a pattern, what it takes and leaves is shown, with lines it is
/// found in and near misses; of a class, its members; of a ready set (ready:NAME), its text, to be copied and edited;
/// of a word list (stopwords:en), its words.
#[derive(Args, Debug)]
pub(crate) struct StockArgs {
    /// A stock pattern, a class, ready:NAME or stopwords:LANGUAGE
    #[arg(value_name = "NAME")]
    pub(crate) name: Option<String>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// Prove the examples of rule sets
///
/// Each `[[example]]` says what the rules make of a text. Every one is run; where the result is another, the difference
/// is shown. Exit status 1 if any example fails.
#[derive(Args, Debug)]
pub(crate) struct TestArgs {
    /// Rule sets, ready:NAME, and folders in which every *.wash.toml is one
    #[arg(value_name = "PATH", required = true)]
    pub(crate) paths: Vec<PathBuf>,

    /// How much of an example rules may hold in memory, such as 200MiB (1GiB if not given), and how much longer they may make
    /// it (64MiB if not given, and ten times the text): what needs more fails
    #[arg(long, value_name = "SIZE", value_parser = size)]
    pub(crate) max_memory: Option<ByteSize>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// Unpack the demo data and clean it, rule by rule
///
/// The papers of the Marrow Point light station, all made up: a logbook, a radio watch and notices, with a rule set
/// for each.
#[derive(Args, Debug)]
pub(crate) struct DemoArgs {
    /// Unpack into DIR, which must be empty or not there yet; by default a new temporary folder
    #[arg(long, value_name = "DIR")]
    pub(crate) into: Option<PathBuf>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}
