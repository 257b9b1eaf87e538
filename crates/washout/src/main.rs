//! The `washout` command.

mod answer;
mod args;
mod assigned;
mod commands;
mod exit;
mod files;
mod git;
mod interrupt;
mod json;
mod kept_rules;
mod live;
mod lsp;
mod names_result;
mod other_words;
mod out;
mod outputs;
mod past;
mod project;
mod read_files;
mod record;
mod report;
mod rule_text;
mod rules;
mod sample;
mod sarif;
mod show;
mod spelled;
mod staged;
mod traced;
mod watching;

use std::ffi::OsString;
use std::io::Write as _;
use std::process::ExitCode;

use clap::builder::Styles;
use clap::{ArgMatches, CommandFactory, FromArgMatches};

use args::{Cli, Command};
use exit::{Exit, Trouble};
use other_words::answered;
use show::visible::{is_hidden, shown};

fn main() -> ExitCode {
    let matches = match parse() {
        Ok(matches) => matches,
        Err(exit) => return exit,
    };
    let cli = Cli::from_arg_matches(&matches).unwrap_or_else(|error| error.exit());
    cli.color.write_global();
    let given = matches.subcommand().map_or(&matches, |(_, given)| given);
    if matches!(&cli.command, Command::Names(_) | Command::Undo(_) | Command::History(_)) {
        // It would be no more than a nuisance to fail for that.
        let _ = past::print_interrupted();
    }
    let done = match &cli.command {
        Command::Clean(args) => commands::clean::run(args, given),
        Command::Live(args) => live::run(args, given),
        Command::Watch(args) => watching::run(args, given),
        Command::Names(args) => commands::names::run(args, given),
        Command::Spellout(args) => commands::spellout::run(args, given),
        Command::Trace(args) => commands::trace::run(args, given),
        Command::Explain(args) => commands::explain::run(args, given),
        Command::Check(args) => commands::check::run(args, given),
        Command::Survey(args) => commands::survey::run(args),
        Command::Learn(args) => commands::learn::run(args),
        Command::History(args) => commands::history::run(args),
        Command::Again(args) => commands::again::run(args),
        Command::Undo(args) => commands::undo::run(args),
        Command::Test(args) => commands::test::run(args),
        Command::Hook(args) => commands::hook::run(args),
        Command::Init(args) => commands::init::run(args),
        Command::Stock(args) => commands::stock::run(args),
        Command::Schema => commands::schema::run(),
        Command::Lsp => lsp::run(),
        Command::Completions(args) => commands::completions::run(args),
        Command::Man(args) => commands::man::run(args),
        Command::Demo(args) => commands::demo::run(args),
    };
    done.unwrap_or_else(|trouble| report(&trouble)).into()
}

/// Reads the command line. What cannot be understood, or asks for help, ends the program.
///
/// A message repeats what was typed, which may be the name of a file that someone else has chosen: then it is drawn.
fn parse() -> Result<ArgMatches, ExitCode> {
    let is_odd = |word: OsString| word.to_string_lossy().chars().any(is_hidden);
    let is_plain = !std::env::args_os().any(is_odd);
    let mut command = if is_plain { Cli::command() } else { Cli::command().styles(Styles::plain()) };
    command.try_get_matches_from_mut(std::env::args_os()).map_err(|error| {
        let error = answered(error, &mut command);
        let printed = if is_plain || !error.use_stderr() {
            error.print()
        } else {
            writeln!(anstream::stderr().lock(), "{}", shown(&error.render().ansi().to_string()))
        };
        match printed {
            Err(cause) if !error.use_stderr() => report(&Trouble::Output(cause)).into(),
            _ if error.use_stderr() => Exit::WrongUsage.into(),
            _ => Exit::Done.into(),
        }
    })
}

/// Says what went wrong and gives the exit status for it.
fn report(trouble: &Trouble) -> Exit {
    let exit = match trouble.exit() {
        // A wait that was cut short.
        Exit::SomeFailed if interrupt::is_requested() => Exit::Interrupted,
        exit => exit,
    };
    if let Some(message) = trouble.message() {
        // Nothing is left to be done if even this cannot be written.
        let _ = writeln!(anstream::stderr().lock(), "{message}");
    }
    exit
}
