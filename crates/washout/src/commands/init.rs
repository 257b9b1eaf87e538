//! `washout init`

use std::collections::BTreeSet;
use std::fmt::Write as _;
use std::io::Write as _;
use std::path::{Path, PathBuf};

use washout_core::survey::draft;
use washout_core::table::{TableSettings, table_draft};
use washout_core::{Program, RuleSet};
use washout_files::{Charsets, Choice, FilesSurvey, Meter, choose, survey_all};

use crate::args::{ChoiceArgs, InitArgs};
use crate::exit::{Exit, Trouble};
use crate::interrupt;
use crate::out::{buffered_stdout, print_warning};
use crate::outputs::{self, Inputs, write_whole};
use crate::project::{FILE_NAME, is_rule_set_name};
use crate::rules::read_set;
use crate::show::command_line::program_name;
use crate::show::number::counted;
use crate::show::summary::advise;
use crate::show::visible::{shown, shown_path};

/// What drafted rule sets are called.
const DRAFT: &str = "tidy.wash.toml";
const TABLE_DRAFT: &str = "tables.wash.toml";

/// More kinds of files than these are not listed one by one.
const MOST_KINDS: usize = 12;

/// An entry of the project file.
#[derive(Default)]
struct Entry {
    comment: String,
    rules: Vec<String>,
    only: Vec<String>,
    except: Vec<String>,
}

/// Runs the command.
pub(crate) fn run(args: &InitArgs) -> Result<Exit, Trouble> {
    let (mut entries, mut drafts) = (Vec::new(), Vec::new());
    if args.rules.is_empty() {
        entries = entries_of_sets()?;
        if entries.is_empty() {
            (entries, drafts) = drafted()?;
        }
    } else {
        let sets = read_all(&args.rules)?;
        let rules = args.rules.iter().map(|path| path.to_string_lossy().into_owned()).collect();
        let comment = sets.iter().filter_map(|set| set.title.clone()).collect::<Vec<_>>().join("; ");
        entries.push(Entry { comment, rules, ..Entry::default() });
    }
    let text = project_text(&entries);
    // The project file comes last: it names the drafts.
    let texts: Vec<&String> = drafts.iter().map(|(_, text)| text).chain([&text]).collect();
    let paths: Vec<&Path> = drafts.iter().map(|(name, _)| *name).chain([FILE_NAME]).map(Path::new).collect();
    let started = outputs::start(&paths, &Inputs::of(&[], &ChoiceArgs::default()), args.overwrite)?;
    for (file, text) in started.into_iter().zip(texts) {
        write_whole(file, text)?;
    }
    let mut out = buffered_stdout();
    writeln!(out, "{FILE_NAME} is written:\n")?;
    text.lines().try_for_each(|line| writeln!(out, "  {}", shown(line)))?;
    writeln!(out)?;
    let program = program_name();
    if let Some((name, _)) = drafts.first() {
        advise("To read and mend the drafted rules:  ", &format!("{program} explain {name}"), &mut out)?;
    }
    advise("To look at what the rules change:    ", &format!("{program} clean"), &mut out)?;
    advise("To check before each commit:         ", &format!("{program} hook --install"), &mut out)?;
    out.flush()?;
    Ok(Exit::Done)
}

fn read_all(paths: &[PathBuf]) -> Result<Vec<RuleSet>, Trouble> {
    let read: Vec<_> = paths.iter().map(|path| read_set(path)).collect::<Result<_, Trouble>>()?;
    let (mut sets, mut errors) = (Vec::new(), Vec::new());
    for set in read {
        match set {
            Ok(set) => sets.push(set),
            Err(error) => errors.push(error),
        }
    }
    if errors.is_empty() { Ok(sets) } else { Err(Trouble::Rules(errors)) }
}

/// An entry for each rule set in the working folder: for the folder of the same name if there is one.
fn entries_of_sets() -> Result<Vec<Entry>, Trouble> {
    let failed = |error| Trouble::File("the working folder".to_owned(), error);
    let mut names: Vec<String> = std::fs::read_dir(".")
        .map_err(failed)?
        .filter_map(|entry| entry.ok()?.file_name().into_string().ok())
        .filter(|name| is_rule_set_name(name) && Path::new(name).is_file())
        .collect();
    names.sort();
    let sets = read_all(&names.iter().map(PathBuf::from).collect::<Vec<_>>())?;
    let mut entries = Vec::new();
    for (name, set) in names.into_iter().zip(sets) {
        if set.names.part.is_some() || set.names.blanks.is_some() {
            print_warning(&format!("{} is for names of files, not for what is in them: left out", shown(&name)))?;
            continue;
        }
        let stem = name.strip_suffix(".wash.toml").unwrap_or(&name);
        let only = if Path::new(stem).is_dir() {
            vec![format!("{}/**", escaped_glob(stem))]
        } else if Program::compile([&set]).is_for_tables() {
            // To other files it would mean nothing but errors.
            TABLE_FILES.map(str::to_owned).to_vec()
        } else {
            Vec::new()
        };
        entries.push(Entry { comment: set.title.unwrap_or_default(), rules: vec![name], only, ..Entry::default() });
    }
    except_tables(&mut entries, &TABLE_FILES.map(str::to_owned));
    Ok(entries)
}

/// Tables have rules of their own where an entry takes all of them: an entry for every file is then one for every other.
fn except_tables(entries: &mut [Entry], tables: &[String]) {
    if entries.iter().any(|entry| entry.only == tables) {
        entries.iter_mut().filter(|entry| entry.only.is_empty()).for_each(|entry| entry.except = tables.to_vec());
    }
}

/// What tables are mostly called.
const TABLE_FILES: [&str; 3] = ["*.csv", "*.tsv", "*.jsonl"];

/// The name and the text of a drafted rule set.
type Draft = (&'static str, String);

/// Rules drafted from a survey of the working folder, and entries for them.
fn drafted() -> Result<(Vec<Entry>, Vec<Draft>), Trouble> {
    let chosen = choose(&Choice { paths: vec![PathBuf::from(".")], ..Choice::default() })?;
    let (stop, meter) = (interrupt::watch(), Meter::default());
    let found = survey_all(&chosen.files, false, &TableSettings::default(), Charsets::default(), stop, &meter);
    if found.files.is_empty() && found.tables.is_empty() {
        return Err(Trouble::Usage(format!(
            "there is no text in this folder to draft rules from\nTo name the rules: {} init -r FILE",
            program_name()
        )));
    }
    let FilesSurvey { files, tables, .. } = &found;
    let name = |path: &PathBuf| shown_path(path);
    let (mut entries, mut drafts) = (Vec::new(), Vec::new());
    if !files.is_empty() {
        let text = draft(&found.litter(), &files.iter().map(name).collect::<Vec<_>>());
        drafts.push((DRAFT, text));
        let comment = format!("drafted from {}", counted(files.len() as u64, "text"));
        entries.push(Entry { comment, rules: vec![DRAFT.to_owned()], only: kinds(files.iter()), ..Entry::default() });
    }
    if !tables.is_empty() {
        let surveys: Vec<_> = tables.iter().map(|(_, table)| table).collect();
        let text = table_draft(&surveys, &tables.iter().map(|(path, _)| name(path)).collect::<Vec<_>>());
        drafts.push((TABLE_DRAFT, text));
        let comment = format!("drafted from {}", counted(tables.len() as u64, "table"));
        entries.push(Entry {
            comment,
            rules: vec![TABLE_DRAFT.to_owned()],
            only: kinds(tables.iter().map(|(path, _)| path)),
            ..Entry::default()
        });
        except_tables(&mut entries, &kinds(tables.iter().map(|(path, _)| path)));
    }
    Ok((entries, drafts))
}

/// Globs for files of the same kinds: by extension, or by name where there is none.
fn kinds<'p>(paths: impl Iterator<Item = &'p PathBuf>) -> Vec<String> {
    let kind = |path: &PathBuf| match path.extension() {
        Some(extension) => format!("*.{}", escaped_glob(&extension.to_string_lossy())),
        None => escaped_glob(&path.file_name().unwrap_or_default().to_string_lossy()),
    };
    let kinds: BTreeSet<String> = paths.map(kind).collect();
    if kinds.len() > MOST_KINDS { Vec::new() } else { kinds.into_iter().collect() }
}

/// A name that means itself in a glob.
fn escaped_glob(name: &str) -> String {
    name.chars().fold(String::new(), |mut glob, character| {
        let is_special = matches!(character, '*' | '?' | '[' | ']' | '{' | '}' | '!' | '\\');
        let _ = if is_special { write!(glob, "[{character}]") } else { write!(glob, "{character}") };
        glob
    })
}

fn project_text(entries: &[Entry]) -> String {
    let mut text =
        "# Which rules are for which files: a file goes through the rules of each entry that takes it, in order.\n"
            .to_owned();
    let list = |words: &[String]| toml::Value::from(words.to_vec()).to_string();
    for Entry { comment, rules, only, except } in entries {
        text += "\n[[apply]]";
        let comment: String = comment.chars().filter(|character| !character.is_control()).collect();
        if !comment.is_empty() {
            let _ = write!(text, "  # {comment}");
        }
        let _ = write!(text, "\nrules = {}\n", list(rules));
        let _ = match (&only[..], &except[..]) {
            ([], []) => writeln!(text, "# only = [\"*.txt\"]   without this, every file"),
            ([], except) => writeln!(text, "except = {}", list(except)),
            (only, _) => writeln!(text, "only  = {}", list(only)),
        };
    }
    text
}
