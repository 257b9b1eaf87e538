//! The arguments of the commands that look at texts: `survey`, `spellout` and `trace`.

use std::path::PathBuf;

use bytesize::ByteSize;
use clap::Args;

use super::values::size;
use super::{CharsetArgs, ChoiceArgs, PartArg, RuleArgs, TableFormArgs};

/// List unusual characters and litter in files, each with the rule that removes it
///
/// Unusual characters are listed with code point, Unicode name, class, count and first place. Litter is line numbers, time
/// codes, repeated page headings, brackets, stray blanks, broken words and similar: each is listed with its count, two
/// places and a rule.
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

    /// Show every list in full
    #[arg(long)]
    pub(crate) all: bool,

    /// Survey the names of the files instead of their contents
    #[arg(long)]
    pub(crate) names: bool,

    /// Write the rules to FILE, a rule set with a comment for each
    #[arg(long, value_name = "FILE")]
    pub(crate) draft: Option<PathBuf>,

    /// Also write a report: a page (NAME.html)
    #[arg(long, value_name = "FILE")]
    pub(crate) report: Option<PathBuf>,

    /// Replace an existing draft or report, but never a file that is surveyed
    #[arg(long)]
    pub(crate) overwrite: bool,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,

    /// Memory for finding cells of tables that look equal, such as 200MiB [default: 32MiB]; columns that need more are not
    /// searched
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
  washout survey logbook/                          list what is in the files
  washout survey logbook/ --draft draft.wash.toml  write the rules to a file
  washout clean -r draft.wash.toml logbook/        preview what they change

Exit status: 0 done, 2 the command line is wrong, 3 some files could not be read, 130 interrupted.";

/// A small text to look at.
#[derive(Args, Debug)]
#[command(next_help_heading = "Text")]
pub(crate) struct SampleArgs {
    /// Lines of a file (`FILE:12`, `FILE:10..20`), a cell of a table by record and field (`FILE:12:Keeper`), or the start
    /// of a file (`FILE`); `-` is standard input. For tables, `trace` takes records instead of lines
    #[arg(value_name = "FILE:LINES")]
    pub(crate) place: Option<String>,

    /// Use this text
    #[arg(long, value_name = "TEXT", conflicts_with = "place")]
    pub(crate) text: Option<String>,

    #[command(flatten)]
    pub(crate) table: TableFormArgs,
}

/// Show a text character by character
///
/// Shows each character with its place, code point, name, class and bytes, and the length of the text in characters, bytes
/// and as people see it. With rules, shows which rule changes which character. With --against, shows where two texts differ.
#[derive(Args, Debug)]
#[command(after_help = SPELLOUT_EXAMPLES)]
pub(crate) struct SpelloutArgs {
    #[command(flatten)]
    pub(crate) sample: SampleArgs,

    /// Compare with this text, or with `FILE:LINES`
    #[arg(long, value_name = "TEXT")]
    pub(crate) against: Option<String>,

    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Show every character, not only the first 1,000
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

const SPELLOUT_EXAMPLES: &str = "\
Examples:
  washout spellout radio/watch-1.txt:2                     show line 2
  washout spellout radio/watch-1.txt:2 -r radio.wash.toml  what rules change
  washout spellout --text 'Marrow' --against 'Mаrrow'      compare two texts";

/// Show a small text after each rule
///
/// For each rule, shows what changed, the number of changes, and the length before and after, or that nothing changed.
#[derive(Args, Debug)]
#[command(after_help = TRACE_EXAMPLES)]
pub(crate) struct TraceArgs {
    #[command(flatten)]
    pub(crate) rules: RuleArgs,

    /// Compare with what this rule set makes of the text; repeatable
    #[arg(long, value_name = "FILE", help_heading = "Rules")]
    pub(crate) against: Vec<PathBuf>,

    /// Show the steps from this rule on, by number or label; the rules before it still run
    #[arg(long, value_name = "RULE", help_heading = "Rules")]
    pub(crate) from_rule: Option<String>,

    /// Stop after this rule, by number or label
    #[arg(long, value_name = "RULE", help_heading = "Rules")]
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

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

const TRACE_EXAMPLES: &str = "\
Examples:
  washout trace -r radio.wash.toml radio/watch-1.txt:1..12
  washout trace --rule 'remove.words = \"um\"' --text 'The lamp, um, failed.'
  washout trace -r radio.wash.toml --against notices.wash.toml radio/watch-1.txt
  washout trace -r stores.wash.toml stores/ledger.csv:3         record 3
  washout trace -r stores.wash.toml stores/ledger.csv:3:Keeper  a cell of it
  washout trace -r scans.wash.toml --names scans/plan_[2].tiff  a name";
