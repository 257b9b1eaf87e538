//! `washout again`

use std::ffi::OsString;
use std::io::Write as _;
use std::path::Path;

use clap::{CommandFactory as _, FromArgMatches as _};
use washout_files::{RunEntry, RunKind};

use super::{clean, names};
use crate::args::{AgainArgs, CleanArgs, Cli, Command, LiveArgs, WatchArgs};
use crate::exit::{Exit, Trouble};
use crate::past::{open_history, rules_of_run};
use crate::rules::OF_RUN;
use crate::show::command_line::program_name;
use crate::show::visible::shown_path;

/// Runs the command.
pub(crate) fn run(args: &AgainArgs) -> Result<Exit, Trouble> {
    let (run, paths) = args.run_and_paths();
    let history = open_history()?;
    let entry = match run {
        Some(run) => history.run(run)?,
        None => newest(&history)?,
    };
    drop(history);
    rules_of_run(entry.id)?;
    let verb = if entry.kind == RunKind::Names { "names" } else { "clean" };
    let mut words: Vec<OsString> =
        vec![program_name().into(), verb.into(), "-r".into(), format!("{OF_RUN}{}", entry.id).into()];
    let options = [(args.write, "--write"), (args.all, "--all"), (args.json, "--json")];
    words.extend(
        options.iter().filter(|&(is_given, _option)| *is_given).map(|(_is_given, option)| OsString::from(option)),
    );
    if let Some(folder) = &args.into {
        words.extend([OsString::from("--into"), folder.clone().into_os_string()]);
    }
    if paths.is_empty() {
        let (options, paths) = typed_then(&entry)?;
        words.extend(options);
        go_to(&entry.about.place)?;
        words.push("--".into());
        words.extend(paths);
    } else {
        words.push("--".into());
        words.extend(paths.iter().map(|path| path.clone().into_os_string()));
    }
    let failed = |error: clap::Error| Trouble::Usage(format!("run {} cannot be run again: {error}", entry.id));
    let matches = Cli::command().try_get_matches_from(words).map_err(failed)?;
    let cli = Cli::from_arg_matches(&matches).map_err(failed)?;
    match (&cli.command, matches.subcommand()) {
        (Command::Clean(args), Some((_, given))) => clean::run(args, given),
        (Command::Names(args), Some((_, given))) => names::run(args, given),
        _ => Ok(Exit::WrongUsage),
    }
}

/// The newest run in the working folder or below it that rules made.
fn newest(history: &washout_files::History) -> Result<RunEntry, Trouble> {
    let here = std::env::current_dir().map_err(|error| Trouble::File("the working folder".to_owned(), error))?;
    let runs = history.runs()?.into_iter();
    let mut runs = runs.filter(|run| run.about.undoes.is_none() && !run.about.rules.is_empty());
    runs.find(|run| run.about.place.starts_with(&here)).ok_or_else(|| {
        Trouble::Usage(format!(
            "no run of rules in {} or below\n{} history lists all runs",
            shown_path(&here),
            program_name()
        ))
    })
}

/// What the run worked on: its options, without those that say which rules and what is written, and its paths.
fn typed_then(entry: &RunEntry) -> Result<(Vec<OsString>, Vec<OsString>), Trouble> {
    let unknown = || {
        Trouble::Usage(format!(
            "what run {} worked on is not known; name the files: {} again {} PATH",
            entry.id,
            program_name(),
            entry.id
        ))
    };
    let matches = Cli::command().try_get_matches_from(&entry.about.command).map_err(|_| unknown())?;
    let cli = Cli::from_arg_matches(&matches).map_err(|_| unknown())?;
    // What a project has no rules for is not to go through those of its other files.
    if let Command::Clean(CleanArgs { rules, .. })
    | Command::Watch(WatchArgs { rules, .. })
    | Command::Live(LiveArgs { rules, .. }) = &cli.command
        && rules.is_empty()
    {
        return Err(Trouble::Usage(format!(
            "which files run {id} worked on, a project file said\nName the files: {program} again {id} PATH\n\
             For all files of the project, with its rules as they are now: {program} clean",
            id = entry.id,
            program = program_name()
        )));
    }
    let (paths, choice) = match &cli.command {
        Command::Clean(args) => (&args.paths, &args.choice),
        Command::Names(args) => (&args.paths, &args.choice),
        Command::Watch(args) => (&args.paths, &args.choice),
        Command::Live(args) => (&args.paths, &args.choice),
        Command::Again(args) if !args.run_and_paths().1.is_empty() => {
            let paths = args.run_and_paths().1.iter();
            return Ok((Vec::new(), paths.map(|path| path.clone().into_os_string()).collect()));
        }
        _ => return Err(unknown()),
    };
    if choice.files_from.is_some() || (paths.is_empty() && entry.kind == RunKind::Names) {
        return Err(unknown());
    }
    let mut options: Vec<OsString> = Vec::new();
    for (name, globs) in [("--only", &choice.only), ("--except", &choice.except)] {
        options.extend(globs.iter().map(|glob| format!("{name}={glob}").into()));
    }
    let flags = [
        (choice.with_hidden, "--with-hidden"),
        (choice.with_ignored, "--with-ignored"),
        (choice.with_binary, "--with-binary"),
    ];
    options.extend(flags.iter().filter(|&(is_given, _flag)| *is_given).map(|(_is_given, flag)| OsString::from(flag)));
    let paths: Vec<OsString> = paths.iter().map(|path| path.clone().into_os_string()).collect();
    Ok((options, if paths.is_empty() { vec![".".into()] } else { paths }))
}

/// Works in the folder of the run.
fn go_to(place: &Path) -> Result<(), Trouble> {
    if std::env::current_dir().is_ok_and(|here| here == place) {
        return Ok(());
    }
    std::env::set_current_dir(place).map_err(|error| Trouble::File(shown_path(place), error))?;
    let said = writeln!(anstream::stderr(), "washout: in {}", shown_path(place));
    Ok(said?)
}
