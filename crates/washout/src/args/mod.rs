//! The command line.

mod clean;
mod files;
mod history;
mod look;
mod names;
mod rules;
mod table;
mod values;

pub(crate) use clean::CleanArgs;
pub(crate) use files::{CharsetArgs, CharsetsArgs, ChoiceArgs};
pub(crate) use history::{HistoryArgs, HistoryPart, PruneArgs, UndoArgs};
pub(crate) use look::{SampleArgs, SpelloutArgs, SurveyArgs, TraceArgs};
pub(crate) use names::{ClashArg, NamesArgs, OrderArg, PartArg};
pub(crate) use rules::{CheckArgs, CheckFormat, CheckList, DemoArgs, ExplainArgs, RuleArgs, StockArgs, TestArgs};
pub(crate) use table::{TableArgs, TableFormArgs};

use clap::{Parser, Subcommand};

/// Washout cleans text.
///
/// You write an ordered set of rules once, preview what they change, and apply them to a stream, to files or to folders.
/// Nothing is written unless you give --write or --into.
#[derive(Debug, Parser)]
#[command(name = "washout", version, max_term_width = 100, subcommand_required = true, arg_required_else_help = true, after_help = START)]
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
    /// Print the JSON Schema of rule sets, for editors
    #[command(after_help = "Example:\n  washout schema > washout.schema.json  then name it in the editor's settings")]
    Schema,
    Demo(DemoArgs),
}

const START: &str = "\
Start here:
  washout demo                 unpack the demo data and clean it
  washout survey FILE          list what is in a file, and rules that remove it
  washout clean -r RULES FILE  preview what rules change
  washout COMMAND --help       options and examples of a command";
