//! `washout history`

use std::ffi::OsStr;
use std::io::Write;
use std::os::unix::ffi::OsStrExt as _;
use std::path::{Path, PathBuf};

use bytesize::ByteSize;
use comfy_table::Cell;
use washout_files::{ContentRecord, History, HistoryLimits, RenameOutcome, RenameRecord, RunEntry, RunKind, RunState};

use crate::args::{HistoryArgs, HistoryPart, PruneArgs};
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::kept_rules::{KeptRules, RulePart};
use crate::out::{buffered_stdout, drawn_stdout};
use crate::past::{open_history, rules_of_run, summary};
use crate::project::Project;
use crate::rule_text::one_set;
use crate::show::command_line::{program_name, quoted};
use crate::show::moment::local;
use crate::show::names::{drawn, folder_shown};
use crate::show::number::{counted, grouped};
use crate::show::screen::Screen;
use crate::show::style::{FILE, QUIET, STRONG};
use crate::show::summary::advise;
use crate::show::table::{NARROW, hide_if_narrow, keep_whole, right, table, trimmed};
use crate::show::visible::{shown, shown_path};

/// Runs that are listed before the others are only counted.
const MOST_RUNS: usize = 20;
/// Names of a run that are listed before the others are only counted.
const MOST_NAMES: usize = 40;

/// Runs the command.
pub(crate) fn run(args: &HistoryArgs) -> Result<Exit, Trouble> {
    let mut history = open_history()?;
    let mut out = buffered_stdout();
    if let Some(HistoryPart::Prune(args)) = &args.part {
        prune(args, &mut history, &mut out)?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    if let (Some(id), Some(file)) = (args.run, &args.rules) {
        let text = one_set(&parts_of_run(&history, id, file.as_deref())?).map_err(|why| Trouble::Usage(shown(&why)))?;
        // It may go into a file: byte for byte there, and drawn on a terminal.
        let mut out = drawn_stdout();
        out.write_all(text.as_bytes())?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    if let Some(id) = args.run {
        let run = OneRun { entry: history.run(id)?, renames: history.renames(id)?, contents: history.contents(id)? };
        if args.json {
            json::names::write_one_run(&run.entry, &run.renames, &run.contents)?;
        } else {
            one(&run, args.all, &mut out)?;
        }
    } else {
        let runs = history.runs()?;
        if args.json {
            json::write(&json::names::history(&runs))?;
        } else {
            list(&runs, args.all, history.originals_size(), &mut out)?;
        }
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// The rules of a run: all of them, or those that a project had for this file.
fn parts_of_run(history: &History, run: i64, file: Option<&Path>) -> Result<Vec<RulePart>, Trouble> {
    let project = match rules_of_run(run)? {
        KeptRules::Given(parts) => return Ok(parts),
        KeptRules::Project(kept) => Project::of_kept(&kept)?,
    };
    if let Some(file) = file {
        let parts = project.parts_for_file(file);
        return if parts.is_empty() {
            Err(Trouble::Usage(format!("run {run} had no rules for {}", shown_path(file))))
        } else {
            Ok(parts)
        };
    }
    let names = history.renames(run)?.into_iter().map(|rename| rename.folder.join(OsStr::from_bytes(&rename.old)));
    let files = history.contents(run)?.into_iter().map(|content| content.path).chain(names);
    let mut different: Vec<(PathBuf, Vec<RulePart>)> = Vec::new();
    for file in files {
        let parts = project.parts_for_file(&file);
        if !different.iter().any(|(_, known)| *known == parts) {
            different.push((file, parts));
        }
    }
    if different.len() == 1 {
        return Ok(different.remove(0).1);
    }
    let command =
        |(file, _): &(PathBuf, _)| format!("\n  {} history {run} --rules={}", program_name(), quoted(&nearby(file)));
    let commands: String = different.iter().map(command).collect();
    Err(Trouble::Usage(format!("run {run} had different rules for different files. For one of each:{commands}")))
}

fn prune(args: &PruneArgs, history: &mut History, out: &mut impl Write) -> Result<(), Trouble> {
    let limits = match (args.keep_days, args.keep_size) {
        (None, None) => HistoryLimits::default(),
        (days, size) => HistoryLimits { days, bytes: size.map(|size| size.as_u64()) },
    };
    let pruned = history.prune(limits)?;
    if args.json {
        json::write(&json::names::pruned(&pruned, history.originals_size()))?;
    } else if pruned.runs.is_empty() {
        writeln!(out, "Nothing to forget: no run but the newest is beyond these limits.")?;
    } else {
        writeln!(out, "{}{}", summary(&pruned)[..1].to_uppercase(), &summary(&pruned)[1..])?;
    }
    Ok(())
}

fn list(runs: &[RunEntry], all: bool, kept: u64, out: &mut impl Write) -> Result<(), Trouble> {
    if runs.is_empty() {
        writeln!(out, "No run has changed anything yet.")?;
        return Ok(());
    }
    let most = if all { runs.len() } else { MOST_RUNS };
    // Where all of them ran in the working folder, that need not be said of each.
    let folders: Vec<String> = runs.iter().take(most).map(|run| nearby(&run.about.place)).collect();
    let shows_folders = folders.iter().any(|folder| folder != ".");
    let folder = |name: &str| shows_folders.then(|| Cell::new(name));
    let columns = Screen::of_stdout().columns;
    let mut table = table(columns);
    let header = [right("run"), Cell::new("when"), Cell::new("what")].into_iter().chain(folder("in"));
    table.set_header(header.chain([right("changed"), right("changes"), right("kept"), Cell::new("")]));
    for (entry, place) in runs.iter().zip(&folders) {
        let run = [right(entry.id.to_string()), Cell::new(local(entry.started)), Cell::new(what_in_short(entry))];
        table.add_row(run.into_iter().chain(folder(place)).chain([
            right(changed(entry)),
            right(entry.changes.map_or_else(String::new, grouped)),
            right(if entry.kept > 0 { ByteSize(entry.kept).display().iec().to_string() } else { String::new() }),
            // What to do about it is said below, and of the run in full.
            Cell::new(standing(entry).split(';').next().unwrap_or_default()),
        ]));
    }
    let changed = if shows_folders { 4 } else { 3 };
    keep_whole(&mut table, &[0, changed, changed + 1, changed + 2]);
    hide_if_narrow(&mut table, columns, NARROW, if shows_folders { &[3, 5, 6] } else { &[4, 5] });
    writeln!(out, "{}\n", trimmed(&table))?;
    if runs.len() > most {
        writeln!(out, "… and {}; --all lists them\n", counted((runs.len() - most) as u64, "older run"))?;
    }
    if kept > 0 {
        writeln!(out, "kept of files as they were: {} after compression\n", ByteSize(kept).display().iec())?;
    }
    advise("To show one run: ", &format!("{} history RUN", program_name()), out)?;
    advise("To undo a run:   ", &format!("{} undo RUN", program_name()), out)?;
    Ok(())
}

/// A folder as it is called from the working folder, if it is that or below it.
fn nearby(folder: &Path) -> String {
    let here = std::env::current_dir().unwrap_or_default();
    match folder.strip_prefix(&here) {
        Ok(below) if below.as_os_str().is_empty() => ".".to_owned(),
        Ok(below) => shown_path(below),
        Err(_) => shown_path(folder),
    }
}

/// What a run was for, in a few words.
pub(super) fn what(entry: &RunEntry) -> String {
    match entry.about.undoes {
        Some(run) => format!("undo of run {run}"),
        None if entry.about.rules.is_empty() => "names from a table".to_owned(),
        None => format!("{} by {}", entry.kind.word(), shown(&entry.about.rules.join(", "))),
    }
}

/// The same for a narrow column: the first rule set without its folder and ending, and how many others.
fn what_in_short(entry: &RunEntry) -> String {
    let Some((first, others)) = entry.about.rules.split_first() else { return what(entry) };
    let name = Path::new(first).file_name().map_or_else(|| first.into(), |name| name.to_string_lossy());
    let name = shown(name.strip_suffix(".wash.toml").unwrap_or(&name));
    let more = if others.is_empty() { String::new() } else { format!(" and {} more", others.len()) };
    format!("{} by {name}{more}", entry.kind.word())
}

/// `12 names`, `3 files`.
fn changed(entry: &RunEntry) -> String {
    match entry.kind {
        RunKind::Names => counted(entry.renamed, "name"),
        RunKind::Contents => counted(entry.rewritten, "file"),
    }
}

fn standing(entry: &RunEntry) -> String {
    match (entry.state, entry.undone_by, entry.partly_undone_by) {
        (_, Some(run), _) => format!("undone by run {run}"),
        (RunState::Interrupted, None, _) => format!("interrupted; undo {} restores it", entry.id),
        (_, None, Some(_)) => format!("undone in part; undo {} undoes the rest", entry.id),
        (RunState::Ended, None, None) if entry.about.part => "only in part".to_owned(),
        (RunState::Ended, None, None) => String::new(),
        (RunState::UnderWay, None, None) => "under way".to_owned(),
    }
}

/// A run in full.
struct OneRun {
    entry: RunEntry,
    renames: Vec<RenameRecord>,
    contents: Vec<ContentRecord>,
}

/// What happened to a file, where that has to be said.
fn outcome(outcome: Option<RenameOutcome>) -> &'static str {
    match outcome {
        Some(RenameOutcome::Done) => "",
        Some(RenameOutcome::NotDone) => "  (not done)",
        Some(RenameOutcome::Stuck) => "  (at a temporary name)",
        None => "  (not known: the run was interrupted)",
    }
}

fn one(OneRun { entry, renames, contents }: &OneRun, all: bool, out: &mut impl Write) -> Result<(), Trouble> {
    let words: Vec<String> = entry.about.command.iter().map(|word| quoted(word)).collect();
    writeln!(out, "{STRONG}Run {}{STRONG:#}  {}  {}", entry.id, local(entry.started), what(entry))?;
    writeln!(out, "{QUIET}in{QUIET:#}     {}", shown_path(&entry.about.place))?;
    writeln!(out, "{QUIET}typed{QUIET:#}  {}", shown(&words.join(" ")).replace('\n', "␊"))?;
    let standing = standing(entry);
    if !standing.is_empty() {
        writeln!(out, "{QUIET}now{QUIET:#}    {standing}")?;
    }
    writeln!(out)?;
    let most = if all { usize::MAX } else { MOST_NAMES };
    for folder in renames[..most.min(renames.len())].chunk_by(|one, next| one.folder == next.folder) {
        writeln!(out, "{FILE}{}{FILE:#}", folder_shown(&folder[0].folder))?;
        for record in folder {
            let outcome = outcome(record.outcome);
            writeln!(out, "  {} → {}{QUIET}{outcome}{QUIET:#}", drawn(&record.old), drawn(&record.new))?;
        }
    }
    for record in contents.iter().take(most) {
        let (bytes, outcome) = (ByteSize(record.len).display().iec(), outcome(record.outcome));
        writeln!(out, "{}{QUIET}  {bytes} before{outcome}{QUIET:#}", shown_path(&record.path))?;
    }
    let more = renames.len().max(contents.len()).saturating_sub(most);
    if more > 0 {
        writeln!(out, "… and {} more; --all lists them", grouped(more as u64))?;
    }
    writeln!(out, "\n{} changed", changed(entry))?;
    if entry.undone_by.is_none() && entry.state != RunState::UnderWay {
        advise("To undo it:", &format!("{} undo {}", program_name(), entry.id), out)?;
    }
    Ok(())
}
