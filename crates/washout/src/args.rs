//! The command line.

use std::num::NonZeroUsize;
use std::path::PathBuf;

use bytesize::ByteSize;
use clap::{Args, Parser, Subcommand, ValueEnum};
use washout_core::{Field, Ragged, TableFormat, TableSettings};
use washout_files::{Charsets, Label};

/// Washout cleans text.
///
/// Write an ordered set of rules once, look at what they change, then apply them to a stream, to files or to whole
/// folders. Nothing is changed unless you ask with --write or --into.
#[derive(Debug, Parser)]
#[command(name = "washout", version, max_term_width = 100, subcommand_required = true, arg_required_else_help = true)]
pub(crate) struct Cli {
    #[command(subcommand)]
    pub(crate) command: Command,

    #[command(flatten)]
    pub(crate) color: colorchoice_clap::Color,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    Clean(CleanArgs),
    Names(NamesArgs),
    Check(CheckArgs),
    Survey(SurveyArgs),
    Spellout(SpelloutArgs),
    Trace(TraceArgs),
    Explain(ExplainArgs),
    Test(TestArgs),
    History(HistoryArgs),
    Undo(UndoArgs),
    Stock(StockArgs),
    /// Print the JSON Schema of rule sets, for editors that complete keys and explain them
    Schema,
    Demo(DemoArgs),
}

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

    /// With --into: replace copies that are there already
    #[arg(long, requires = "into", help_heading = "What becomes of the result")]
    pub(crate) overwrite: bool,

    /// With --write: keep no record of what was in the files; there is no undo then
    #[arg(long, requires = "write", help_heading = "What becomes of the result")]
    pub(crate) no_history: bool,

    /// With --write: how much this run may keep for undo, if that is more than 2 GiB
    #[arg(
        long,
        value_name = "SIZE",
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

    /// How much of one text rules may hold in memory, such as 200MiB: one that needs more fails
    #[arg(long, value_name = "SIZE", help_heading = "What becomes of the result")]
    pub(crate) max_memory: Option<ByteSize>,

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
    #[arg(long, value_name = "FILE", conflicts_with_all = ["write", "from_map"], help_heading = "What becomes of the names")]
    pub(crate) map: Option<PathBuf>,

    /// Take the new names from FILE, a table that --map wrote, instead of from rules
    #[arg(long, value_name = "FILE", conflicts_with_all = ["rules", "rule", "files_from"], help_heading = "What becomes of the names")]
    pub(crate) from_map: Option<PathBuf>,

    /// Also write a report: NAME.html for people, NAME.jsonl with a line for each name; may be given several times
    #[arg(long, value_name = "FILE", help_heading = "What becomes of the names")]
    pub(crate) report: Vec<PathBuf>,

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

/// Tell of past runs
///
/// Each run that changed something, the newest first. With a number: that run in full.
#[derive(Args, Debug)]
#[command(args_conflicts_with_subcommands = true)]
pub(crate) struct HistoryArgs {
    #[command(subcommand)]
    pub(crate) part: Option<HistoryPart>,

    /// A run, by its number
    #[arg(value_name = "RUN")]
    pub(crate) run: Option<i64>,

    /// Tell of all runs, not only the newest twenty; of one run, every file
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// What else can be done with the history.
#[derive(Debug, Subcommand)]
pub(crate) enum HistoryPart {
    Prune(PruneArgs),
}

/// Forget old runs, and remove what was kept for them
///
/// Without options: runs older than 30 days, and the oldest ones until 2 GiB are left. That is done after every run by
/// itself. The newest run is never forgotten.
#[derive(Args, Debug)]
pub(crate) struct PruneArgs {
    /// Forget runs that are older than N days
    #[arg(long, value_name = "N")]
    pub(crate) keep_days: Option<u64>,

    /// Forget the oldest runs until what is kept of files takes no more than SIZE, such as 500MiB
    #[arg(long, value_name = "SIZE")]
    pub(crate) keep_size: Option<ByteSize>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

/// Put a run back: the newest, or one by its number
///
/// Every file gets its old content or name again, unless it has changed since, is no longer there, or something else has
/// its name: that is said, file by file. What undo does is a run too, and can be undone by its number.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = UNDO_EXAMPLES)]
pub(crate) struct UndoArgs {
    /// A run, by its number
    #[arg(value_name = "RUN")]
    pub(crate) run: Option<i64>,

    /// Only files at or below PATH, by their old or new names; may be given several times
    #[arg(long, value_name = "PATH")]
    pub(crate) only: Vec<PathBuf>,

    /// Only show what would be put back
    #[arg(long)]
    pub(crate) preview: bool,

    /// Also put back files that have changed since, and names that something else has now
    #[arg(long)]
    pub(crate) force: bool,

    /// Show every file
    #[arg(long)]
    pub(crate) all: bool,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,
}

const UNDO_EXAMPLES: &str = "\
Examples:
  washout undo                         put the newest run back
  washout undo 12 --preview            look at what putting run 12 back would do
  washout undo 12 --only scans/1936    a part of it

Exit status: 0 done, 2 there is nothing of that kind to put back, 3 some files could not be put back (the others were),
130 interrupted.";

/// Rules: sets and single ones mix, and run in the order given.
#[derive(Args, Debug)]
pub(crate) struct RuleArgs {
    /// A rule set, by custom NAME.wash.toml, or ready:NAME; may be given several times
    #[arg(short, long = "rules", value_name = "FILE", help_heading = "Rules, in the order given")]
    pub(crate) rules: Vec<PathBuf>,

    /// One rule, such as 'remove.chars = "#-"'; with more keys, '{ fields = "Keeper", trim = {} }'; may be given several times
    #[arg(long = "rule", value_name = "RULE", help_heading = "Rules, in the order given")]
    pub(crate) rule: Vec<String>,
}

impl RuleArgs {
    /// Whether none is given.
    pub(crate) fn is_empty(&self) -> bool {
        self.rules.is_empty() && self.rule.is_empty()
    }
}

/// Which files.
#[derive(Args, Debug)]
#[command(next_help_heading = "Which files")]
pub(crate) struct ChoiceArgs {
    /// Below folders, only files whose name (or, with a `/`, path) matches GLOB; may be given several times
    #[arg(long, value_name = "GLOB")]
    pub(crate) only: Vec<String>,

    /// Below folders, no files that match GLOB; may be given several times
    #[arg(long, value_name = "GLOB")]
    pub(crate) except: Vec<String>,

    /// Below folders, also files and folders whose name starts with a dot
    #[arg(long)]
    pub(crate) with_hidden: bool,

    /// Below folders, also files that .gitignore or .ignore leave out
    #[arg(long)]
    pub(crate) with_ignored: bool,

    /// Also the paths in this list, a line each; `-` is standard input
    #[arg(long, value_name = "LIST")]
    pub(crate) files_from: Option<PathBuf>,

    /// With --files-from: paths end at NUL bytes, not at line ends
    #[arg(short = '0', long, requires = "files_from")]
    pub(crate) nul: bool,

    /// How many threads work, on files and on parts of large ones; by default one for each processor
    #[arg(long, value_name = "N")]
    pub(crate) jobs: Option<NonZeroUsize>,
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

/// Tell what is in files: every unusual character, the line ends, and litter with the rule that takes it
///
/// Unusual characters come with code point, Unicode name, class, count and first place. Litter is line numbers, time
/// codes, lines that come again on every page, brackets, stray blanks, broken words and the like: each with its count,
/// two examples and a rule.
#[derive(Args, Debug)]
#[command(after_help = SURVEY_EXAMPLES)]
pub(crate) struct SurveyArgs {
    /// Files and folders; `-` is standard input
    #[arg(value_name = "PATH")]
    pub(crate) paths: Vec<PathBuf>,

    /// List every character, not only unusual ones
    #[arg(long)]
    pub(crate) all_chars: bool,

    /// Look at the names of the files, not at what is in them
    #[arg(long)]
    pub(crate) names: bool,

    /// Write the rules as a rule set, with a comment each
    #[arg(long, value_name = "FILE")]
    pub(crate) draft: Option<PathBuf>,

    /// Also write a report: a page, NAME.html
    #[arg(long, value_name = "FILE")]
    pub(crate) report: Option<PathBuf>,

    /// Print one JSON value, for programs
    #[arg(long)]
    pub(crate) json: bool,

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
    /// of a file (`FILE`); `-` is standard input
    #[arg(value_name = "FILE:LINES")]
    pub(crate) place: Option<String>,

    /// The text itself
    #[arg(long, value_name = "TEXT", conflicts_with = "place")]
    pub(crate) text: Option<String>,

    #[command(flatten)]
    pub(crate) table: TableFormArgs,
}

/// How texts are encoded.
#[derive(Args, Debug)]
#[command(next_help_heading = "Encodings")]
pub(crate) struct CharsetArgs {
    /// What files are in, such as windows-1252 or gb18030; by default UTF-8, or UTF-16 where a byte order mark says so
    #[arg(long, value_name = "LABEL", value_parser = charset)]
    pub(crate) encoding: Option<Label>,
}

/// What files and results are in.
#[derive(Args, Debug)]
#[command(next_help_heading = "Encodings")]
pub(crate) struct CharsetsArgs {
    #[command(flatten)]
    pub(crate) from: CharsetArgs,

    /// What results are in; by default what the file was in
    #[arg(long, value_name = "LABEL", value_parser = charset)]
    pub(crate) to_encoding: Option<Label>,
}

fn charset(label: &str) -> Result<Label, String> {
    Label::named(label).ok_or_else(|| {
        "it is no label of the WHATWG Encoding Standard, such as windows-1252, iso-8859-2, shift_jis, gb18030 or utf-16le"
            .to_owned()
    })
}

impl CharsetsArgs {
    pub(crate) fn charsets(&self) -> Charsets {
        Charsets { from: self.from.encoding, to: self.to_encoding }
    }
}

/// How tables are written.
#[derive(Args, Debug)]
#[command(next_help_heading = "Tables")]
pub(crate) struct TableFormArgs {
    /// Take files for tables of this kind; by default their extension says so
    #[arg(long, value_enum, value_name = "KIND")]
    pub(crate) table: Option<TableKind>,

    /// What stands between fields, such as `;` or `\t`
    #[arg(long, value_name = "CHAR", value_parser = delimiter)]
    pub(crate) delimiter: Option<u8>,

    /// The first record is one like the others; fields go by their number
    #[arg(long)]
    pub(crate) no_header: bool,
}

/// Kinds of tables.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum TableKind {
    /// Comma-separated values
    Csv,
    /// Tab-separated values
    Tsv,
    /// JSON Lines: an object on each line
    Jsonl,
    /// No table, whatever the extension says
    Text,
}

/// What of tables rules see.
#[derive(Args, Debug)]
#[command(next_help_heading = "Tables")]
pub(crate) struct TableArgs {
    #[command(flatten)]
    pub(crate) form: TableFormArgs,

    /// Only these fields, by name or number; may be given several times
    #[arg(long, value_name = "FIELD", value_delimiter = ',')]
    pub(crate) fields: Vec<String>,

    /// What becomes of records with too few or too many fields, and of broken ones
    #[arg(long, value_enum, value_name = "WAY", default_value_t = RaggedArg::Refuse)]
    pub(crate) ragged: RaggedArg,

    /// Warn of cells that a spreadsheet would take for a formula: those that begin with = + - @
    #[arg(long)]
    pub(crate) guard_formulas: bool,
}

/// What becomes of records that are no good.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum RaggedArg {
    /// The file is left as it is, and the record is named
    Refuse,
    /// They pass through as they are
    Keep,
}

fn delimiter(written: &str) -> Result<u8, String> {
    TableSettings::delimiter_of(written)
        .ok_or_else(|| "it is one ASCII character, and no quotation mark, letter or digit".to_owned())
}

impl TableFormArgs {
    pub(crate) fn settings(&self) -> TableSettings {
        let format = self.table.map(|kind| match kind {
            TableKind::Csv => TableFormat::Csv,
            TableKind::Tsv => TableFormat::Tsv,
            TableKind::Jsonl => TableFormat::JsonLines,
            TableKind::Text => TableFormat::Text,
        });
        let header = self.no_header.then_some(false);
        TableSettings { format, header, delimiter: self.delimiter, ..TableSettings::default() }
    }
}

impl TableArgs {
    pub(crate) fn settings(&self) -> TableSettings {
        let only = self.fields.iter().map(|field| Field::Name(field.clone()));
        TableSettings {
            only: (!self.fields.is_empty()).then(|| only.collect()),
            ragged: (self.ragged == RaggedArg::Keep).then_some(Ragged::Keep),
            guards_formulas: self.guard_formulas,
            ..self.form.settings()
        }
    }
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
  washout trace -r radio.wash.toml --against mine.wash.toml radio/watch-1.txt:1..12";

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
