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
    let matches = parse();
    let cli = Cli::from_arg_matches(&matches).unwrap_or_else(|error| error.exit());
    cli.color.write_global();
    let given = matches.subcommand().map(|(_, matches)| matches);
    if matches!(&cli.command, Command::Names(_) | Command::Undo(_) | Command::History(_)) {
        // It would be no more than a nuisance to fail for that.
        let _ = past::print_interrupted();
    }
    let done = match (&cli.command, given) {
        (Command::Clean(args), Some(given)) => commands::clean::run(args, given),
        (Command::Live(args), Some(given)) => live::run(args, given),
        (Command::Watch(args), Some(given)) => watching::run(args, given),
        (Command::Names(args), Some(given)) => commands::names::run(args, given),
        (Command::Spellout(args), Some(given)) => commands::spellout::run(args, given),
        (Command::Trace(args), Some(given)) => commands::trace::run(args, given),
        (Command::Explain(args), Some(given)) => commands::explain::run(args, given),
        (Command::Check(args), Some(given)) => commands::check::run(args, given),
        (Command::Survey(args), _) => commands::survey::run(args),
        (Command::Learn(args), _) => commands::learn::run(args),
        (Command::History(args), _) => commands::history::run(args),
        (Command::Again(args), _) => commands::again::run(args),
        (Command::Undo(args), _) => commands::undo::run(args),
        (Command::Test(args), _) => commands::test::run(args),
        (Command::Hook(args), _) => commands::hook::run(args),
        (Command::Init(args), _) => commands::init::run(args),
        (Command::Stock(args), _) => commands::stock::run(args),
        (Command::Schema, _) => commands::schema::run(),
        (Command::Lsp, _) => lsp::run(),
        (Command::Completions(args), _) => commands::completions::run(args),
        (Command::Man(args), _) => commands::man::run(args),
        (Command::Demo(args), _) => commands::demo::run(args),
        (
            Command::Clean(_)
            | Command::Names(_)
            | Command::Live(_)
            | Command::Watch(_)
            | Command::Check(_)
            | Command::Spellout(_)
            | Command::Trace(_)
            | Command::Explain(_),
            None,
        ) => Ok(Exit::WrongUsage),
    };
    done.unwrap_or_else(|trouble| report(&trouble)).into()
}

/// Reads the command line. What cannot be understood, or asks for help, ends the program.
///
/// A message repeats what was typed, which may be the name of a file that someone else has chosen: then it is drawn.
fn parse() -> ArgMatches {
    let is_odd = |word: OsString| word.to_string_lossy().chars().any(is_hidden);
    let is_plain = !std::env::args_os().any(is_odd);
    let mut command = if is_plain { Cli::command() } else { Cli::command().styles(Styles::plain()) };
    command.try_get_matches_from_mut(std::env::args_os()).unwrap_or_else(|error| {
        let error = answered(error, &mut command);
        if is_plain || !error.use_stderr() {
            error.exit();
        }
        let _ = writeln!(anstream::stderr().lock(), "{}", shown(&error.render().ansi().to_string()));
        std::process::exit(error.exit_code())
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
