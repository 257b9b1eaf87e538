//! The command line.

mod clean;
mod files;
mod history;
mod hook;
mod init;
mod learn;
mod live;
mod look;
mod names;
mod rules;
mod shell;
mod table;
mod values;
mod watch;

pub(crate) use clean::CleanArgs;
pub(crate) use files::{CharsetArgs, CharsetsArgs, ChoiceArgs};
pub(crate) use history::{AgainArgs, HistoryArgs, HistoryPart, PruneArgs, UndoArgs};
pub(crate) use hook::HookArgs;
pub(crate) use init::InitArgs;
pub(crate) use learn::LearnArgs;
pub(crate) use live::LiveArgs;
pub(crate) use look::{SampleArgs, SpelloutArgs, SurveyArgs, TraceArgs};
pub(crate) use names::{ClashArg, NamesArgs, OrderArg, PartArg};
pub(crate) use rules::{
    CheckArgs, CheckFormat, CheckList, DemoArgs, ExplainArgs, ProjectArgs, RuleArgs, StockArgs, TestArgs,
};
pub(crate) use shell::{CompletionsArgs, ManArgs};
pub(crate) use table::{TableArgs, TableFormArgs};
pub(crate) use watch::WatchArgs;

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
    Live(LiveArgs),
    Watch(WatchArgs),
    Check(CheckArgs),
    Survey(SurveyArgs),
    Learn(LearnArgs),
    Spellout(SpelloutArgs),
    Trace(TraceArgs),
    Explain(ExplainArgs),
    Test(TestArgs),
    History(HistoryArgs),
    Undo(UndoArgs),
    Again(AgainArgs),
    Init(InitArgs),
    Hook(HookArgs),
    Stock(StockArgs),
    /// Print the JSON Schema of rule sets, for editors
    #[command(after_help = "Example:\n  washout schema > washout.schema.json  then name it in the editor's settings")]
    Schema,
    /// Serve editors: what rules would change while you type, and help with rule sets
    ///
    /// A language server (LSP 3.17) on standard input and output. Editors start it; docs/editors.md says how to set them up.
    #[command(after_help = "Example:\n  washout lsp  as an editor starts it")]
    Lsp,
    Completions(CompletionsArgs),
    Man(ManArgs),
    Demo(DemoArgs),
}

const START: &str = "\
Start here:
  washout demo                 unpack the demo data and clean it
  washout survey FILE          list what is in a file, and rules that remove it
  washout clean -r RULES FILE  preview what rules change
  washout COMMAND --help       options and examples of a command";
