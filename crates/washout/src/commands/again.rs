//! `washout again`

use std::ffi::OsString;
use std::io::Write as _;
use std::path::Path;

use clap::parser::ValueSource;
use clap::{ArgMatches, CommandFactory as _, FromArgMatches as _};
use washout_files::{History, RunEntry, RunKind};

use super::{clean, names};
use crate::args::{AgainArgs, Cli, Command};
use crate::exit::{Exit, Trouble};
use crate::kept_rules::KeptRules;
use crate::past::{OF_RUN, open_history, rules_of_run};
use crate::show::command_line::program_name;
use crate::show::visible::shown_path;

/// Options that say how the rules of a run act; they hold for other files too.
const HOW: &[&str] = &[
    "--only-rule",
    "--up-to-rule",
    "--max-memory",
    "--table",
    "--delimiter",
    "--no-header",
    "--fields",
    "--ragged",
    "--guard-formulas",
    "--encoding",
    "--to-encoding",
    "--part",
    "--on-clash",
    "--order",
    "--portable",
    "--folders",
];
/// Those that say how files are replaced.
const HOW_TO_WRITE: &[&str] = &["--keep-times", "--follow", "--break-links"];
/// Those that say which files are meant.
const WHICH: &[&str] = &["--only", "--except", "--with-hidden", "--with-ignored", "--with-binary"];

/// Runs the command.
pub(crate) fn run(args: &AgainArgs) -> Result<Exit, Trouble> {
    let (run, paths) = args.run_and_paths();
    let history = open_history()?;
    let entry = match run {
        Some(run) => history.run(run)?,
        None => newest(&history)?,
    };
    let is_project = matches!(rules_of_run(entry.id)?, KeptRules::Project(_));
    let worked = Worked::on(&history, &entry)?;
    drop(history);
    let (verb, rules) = (verb(&entry), if is_project { "--project" } else { "-r" });
    let mut words: Vec<OsString> =
        vec![program_name().into(), verb.into(), rules.into(), format!("{OF_RUN}{}", entry.id).into()];
    let options = [(args.write, "--write"), (args.all, "--all"), (args.json, "--json")];
    words.extend(
        options.iter().filter(|&(is_given, _option)| *is_given).map(|(_is_given, option)| OsString::from(option)),
    );
    if let Some(folder) = &args.into {
        words.extend([OsString::from("--into"), folder.clone().into_os_string()]);
    }
    words.extend(worked.how);
    if args.write {
        words.extend(worked.how_to_write);
    }
    if paths.is_empty() {
        let Some(paths) = worked.paths else { return Err(unknown_files(&entry)) };
        go_to(&entry.about.place)?;
        words.extend(worked.which);
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

/// The command that repeats a run.
fn verb(entry: &RunEntry) -> &'static str {
    if entry.kind == RunKind::Names { "names" } else { "clean" }
}

/// The newest run in the working folder or below it that rules made.
fn newest(history: &History) -> Result<RunEntry, Trouble> {
    let here = std::env::current_dir().map_err(|error| Trouble::File("the working folder".to_owned(), error))?;
    let found = newest_before(history, &here, i64::MAX)?;
    found.ok_or_else(|| {
        Trouble::Usage(format!(
            "no run of rules in {} or below\n{} history lists all runs",
            shown_path(&here),
            program_name()
        ))
    })
}

/// The newest such run with a smaller number than this.
fn newest_before(history: &History, here: &Path, number: i64) -> Result<Option<RunEntry>, Trouble> {
    let is_meant = |run: &RunEntry| {
        run.id < number
            && run.about.undoes.is_none()
            && !run.about.rules.is_empty()
            && run.about.place.starts_with(here)
    };
    Ok(history.runs()?.into_iter().find(is_meant))
}

fn unknown_files(entry: &RunEntry) -> Trouble {
    let program = program_name();
    Trouble::Usage(format!(
        "which files run {id} worked on is not known; name them: {program} again {id} PATH",
        id = entry.id
    ))
}

/// What a run worked on, and how, as words of a command line.
#[derive(Default)]
struct Worked {
    how: Vec<OsString>,
    how_to_write: Vec<OsString>,
    which: Vec<OsString>,
    /// `None`: they are not known.
    paths: Option<Vec<OsString>>,
}

impl Worked {
    fn on(history: &History, entry: &RunEntry) -> Result<Self, Trouble> {
        // A command of another version may have other options.
        let Ok(matches) = Cli::command().try_get_matches_from(&entry.about.command) else { return Ok(Self::default()) };
        let Some((name, given)) = matches.subcommand() else { return Ok(Self::default()) };
        if name == "again" {
            return Self::on_again(history, entry, given);
        }
        let options = |known: &[&str]| options(name, given, verb(entry), known);
        let values = |name| given.try_get_raw(name).ok().flatten().into_iter().flatten();
        let typed: Vec<OsString> = values("paths").map(OsString::from).collect();
        let is_listed = values("files_from").next().is_some();
        let is_of_project = values("rules").chain(values("rule")).next().is_none();
        let has_kept_project = is_of_project && matches!(rules_of_run(entry.id)?, KeptRules::Project(_));
        let paths = if entry.kind == RunKind::Names {
            (!is_listed && !typed.is_empty()).then_some(typed)
        } else if is_listed || name == "live" || (is_of_project && !has_kept_project) {
            // The command line does not say which they were: those that were changed are meant.
            let files = history.contents(entry.id)?.into_iter();
            let near = |path: &Path| path.strip_prefix(&entry.about.place).unwrap_or(path).as_os_str().to_owned();
            Some(files.map(|file| near(&file.path)).collect()).filter(|paths: &Vec<_>| !paths.is_empty())
        } else if typed.is_empty() {
            Some(vec![".".into()])
        } else {
            Some(typed)
        };
        Ok(Self { how: options(HOW), how_to_write: options(HOW_TO_WRITE), which: options(WHICH), paths })
    }

    /// A run that repeated another one worked as that did, on files of its own if any were named.
    fn on_again(history: &History, entry: &RunEntry, given: &ArgMatches) -> Result<Self, Trouble> {
        let Ok(args) = <AgainArgs as clap::FromArgMatches>::from_arg_matches(given) else { return Ok(Self::default()) };
        let (run, paths) = args.run_and_paths();
        let repeated = match run {
            Some(run) => history.runs()?.into_iter().find(|other| other.id == run && other.id < entry.id),
            None => newest_before(history, &entry.about.place, entry.id)?,
        };
        let mut worked = repeated.map_or_else(|| Ok(Self::default()), |run| Self::on(history, &run))?;
        if !paths.is_empty() {
            worked.which = Vec::new();
            worked.paths = Some(paths.iter().map(|path| path.clone().into_os_string()).collect());
        }
        Ok(worked)
    }
}

/// The options that were given to a command, as far as they are known to the command that repeats it.
fn options(name: &str, given: &ArgMatches, verb: &str, known: &[&str]) -> Vec<OsString> {
    let cli = Cli::command();
    let options_of = |name: &str| cli.find_subcommand(name).into_iter().flat_map(clap::Command::get_arguments);
    let mut words = Vec::new();
    for option in options_of(name) {
        let long = format!("--{}", option.get_long().unwrap_or_default());
        let is_meant = known.contains(&long.as_str())
            && given.value_source(option.get_id().as_str()) == Some(ValueSource::CommandLine)
            && options_of(verb).any(|other| other.get_long() == option.get_long());
        if !is_meant {
            continue;
        }
        if option.get_action().takes_values() {
            let values = given.get_raw(option.get_id().as_str()).into_iter().flatten();
            words.extend(values.map(|value| {
                let mut word = OsString::from(format!("{long}="));
                word.push(value);
                word
            }));
        } else {
            words.push(long.into());
        }
    }
    words
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

#[cfg(test)]
mod tests {
    use super::*;

    /// What is said anew each time, or is of no use to whoever repeats a run.
    const NOT_REPEATED: &[&str] = &[
        "--rules",
        "--rule",
        "--save-rules",
        "--project",
        "--no-project",
        "--write",
        "--into",
        "--overwrite",
        "--no-history",
        "--history-limit",
        "--stdout",
        "--spool",
        "--patch",
        "--ask",
        "--report",
        "--all",
        "--json",
        "--first",
        "--map",
        "--from-map",
        "--files-from",
        "--nul",
        "--jobs",
        "--color",
    ];

    /// An option that is new is either repeated or left out on purpose.
    #[test]
    fn it_is_known_of_every_option_whether_it_is_repeated() {
        let known: Vec<&str> = [HOW, HOW_TO_WRITE, WHICH, NOT_REPEATED].concat();
        let cli = Cli::command();
        let mut there = Vec::new();
        for name in ["clean", "names"] {
            let command = cli.find_subcommand(name).expect("a command");
            there.extend(command.get_arguments().filter_map(|option| Some(format!("--{}", option.get_long()?))));
        }
        let unknown: Vec<_> = there.iter().filter(|option| !known.contains(&option.as_str())).collect();
        assert!(unknown.is_empty(), "add them to one of the lists: {unknown:?}");
        let gone: Vec<_> = known.iter().filter(|option| !there.iter().any(|other| other == *option)).collect();
        assert!(gone.iter().all(|option| **option == "--color"), "no command has them: {gone:?}");
    }
}
