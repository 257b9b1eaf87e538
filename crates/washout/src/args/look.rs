//! The arguments of the commands that look at texts: `survey`, `spellout` and `trace`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::Args;

use super::values::size;
use super::{CharsetArgs, ChoiceArgs, PartArg, RuleArgs, TableFormArgs};

/// Tell what is in files: every unusual character, the line ends, and litter with the rule that takes it
///
/// Unusual characters come with code point, Unicode name, class, count and first place. Litter is line numbers, time
/// codes, lines that come again on every page, brackets, stray blanks, broken words and the like: each with its count,
/// two examples and a rule.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = SURVEY_EXAMPLES)]
pub(crate) struct SurveyArgs {
    /// Files and folders; `-` is standard input
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// List every character, not only unusual ones
    #[arg(long)]
    pub(crate) all_chars: bool,

    /// Show all of each list, not only the first ones
    #[arg(long)]
    pub(crate) all: bool,

    /// Look at the names of the files, not at what is in them
    #[arg(long)]
    pub(crate) names: bool,

    /// Write the rules as a rule set, with a comment each
    #[arg(long, value_name = "FILE")]
    pub(crate) draft: Option<PathBuf>,

    /// Also write a report: a page, NAME.html
    #[arg(long, value_name = "FILE")]
    pub(crate) report: Option<PathBuf>,

    /// Replace a draft or a report that exists; never a file that is surveyed
    #[arg(long)]
    pub(crate) overwrite: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,

    /// How much of the cells of tables is kept to find those that look equal, such as 200MiB (32MiB if not given); of the
    /// columns that would need more they are not looked for
    #[arg(long, value_name = "SIZE", value_parser = size)]
    pub(crate) max_memory: Option<ByteSize>,

    #[command(flatten)]
    pub(crate) table: TableFormArgs,

    #[command(flatten)]
    pub(crate) charset: CharsetArgs,

    #[command(flatten)]
    pub(crate) choice: ChoiceArgs,
}

const SURVEY_EXAMPLES: &str = "\
Examples:
  washout survey logbook/                          look around
  washout survey logbook/ --draft draft.wash.toml  write a rule set of what was found
  washout clean -r draft.wash.toml logbook/        look at what it changes

Exit status: 0 done, 2 the command line is wrong, 3 some files could not be read, 130 interrupted.";

/// A small text to look at.
#[derive(Args, Debug)]
#[command(next_help_heading = "The text")]
pub(crate) struct SampleArgs {
    /// Lines of a file (`FILE:12`, `FILE:10..20`), a cell of a table by record and field (`FILE:12:Keeper`), or the start
    /// of a file (`FILE`); `-` is standard input. `trace` takes records of a table in place of lines
    #[arg(value_name = "FILE:LINES")]
    pub(crate) place: Option<String>,

    /// The text itself
    #[arg(long, value_name = "TEXT", conflicts_with = "place")]
    pub(crate) text: Option<String>,

    #[command(flatten)]
    pub(crate) table: TableFormArgs,
}

/// Spell a text out, character by character
///
/// Each character with its place, code point, name, class and bytes; and how long the text is in characters, in bytes
/// and as people see it. With rules: which rule takes which character. With --against: where two texts differ that may
/// look the same.
#[derive(Args, Debug)]
#[command(after_help = SPELLOUT_EXAMPLES)]
pub(crate) struct SpelloutArgs {
    #[command(flatten)]
    pub(crate) sample: SampleArgs,

    /// Another text, or `FILE:LINES`, to be compared with it
    #[arg(long, value_name = "TEXT")]
    pub(crate) against: Option<String>,

    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Show every character, not only the first 1,000
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

const SPELLOUT_EXAMPLES: &str = "\
Examples:
  washout spellout radio/watch-1.txt:2                         a line of a file
  washout spellout radio/watch-1.txt:2 -r radio.wash.toml      which rule takes which character
  washout spellout --text 'Marrow' --against radio/names.txt:3 two that look the same";

/// Send a small text through the rules and show it after each
///
/// After each rule: what changed, the number of changes, and the length before and after. Rules that did nothing are
/// shown as such.
#[derive(Args, Debug)]
#[command(after_help = TRACE_EXAMPLES)]
pub(crate) struct TraceArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Another rule set, to see which of two ways does the better job; may be given several times
    #[arg(long, value_name = "FILE", help_heading = "Rules, in the order given")]
    pub(crate) against: Vec<PathBuf>,

    /// Show the steps from this rule on, by number or label; the rules before it still run
    #[arg(long, value_name = "RULE", help_heading = "Rules, in the order given")]
    pub(crate) from_rule: Option<String>,

    /// Stop after this rule, by number or label
    #[arg(long, value_name = "RULE", help_heading = "Rules, in the order given")]
    pub(crate) up_to_rule: Option<String>,

    #[command(flatten)]
    pub(crate) sample: SampleArgs,

    /// Trace the name of the file, as `washout names` would change it
    #[arg(long, conflicts_with_all = ["table", "delimiter", "no_header"])]
    pub(crate) names: bool,

    /// With --names: the part of the name that rules see; stem, if neither this nor a rule set says
    #[arg(long, value_enum, requires = "names")]
    pub(crate) part: Option<PartArg>,

    /// Show every change of a step, not only the first ones
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

const TRACE_EXAMPLES: &str = "\
Examples:
  washout trace -r radio.wash.toml radio/watch-1.txt:1..12
  washout trace --rule 'remove.words = \"um\"' --text 'The lamp, um, failed.'
  washout trace -r radio.wash.toml --against mine.wash.toml radio/watch-1.txt:1..12
  washout trace -r stores.wash.toml stores/ledger.csv:3          a record of a table
  washout trace -r stores.wash.toml stores/ledger.csv:3:Keeper   a cell of it
  washout trace -r scans.wash.toml --names scans/plan_[2].tiff   a name";
