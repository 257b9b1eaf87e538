//! `washout history`

use std::io::Write;
use std::os::unix::ffi::OsStrExt;

use comfy_table::Cell;
use washout_files::{Outcome, RenameRecord, RunEntry, RunState};

use crate::args::HistoryArgs;
use crate::commands::names::open_history;
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::buffered_stdout;
use crate::show::command_line::{program_name, quoted};
use crate::show::moment::local;
use crate::show::names::{drawn, folder_shown};
use crate::show::number::{counted, grouped};
use crate::show::screen::Screen;
use crate::show::style::{FILE, QUIET, STRONG};
use crate::show::summary::advise;
use crate::show::table::{right, table, trimmed};
use crate::show::visible::{shown, shown_path};

/// Runs that are listed before the others are only counted.
const MOST_RUNS: usize = 20;
/// Names of a run that are listed before the others are only counted.
const MOST_NAMES: usize = 40;

/// Runs the command.
pub(crate) fn run(args: &HistoryArgs) -> Result<Exit, Trouble> {
    let history = open_history()?;
    let mut out = buffered_stdout();
    if let Some(id) = args.run {
        let (entry, renames) = (history.run(id)?, history.renames(id)?);
        if args.json {
            json::write(&json::names::one_run(&entry, &renames))?;
        } else {
            one(&entry, &renames, args.all, &mut out)?;
        }
    } else {
        let runs = history.runs()?;
        if args.json {
            json::write(&json::names::history(&runs))?;
        } else {
            list(&runs, args.all, &mut out)?;
        }
    }
    out.flush()?;
    Ok(Exit::Done)
}

fn list(runs: &[RunEntry], all: bool, out: &mut impl Write) -> Result<(), Trouble> {
    if runs.is_empty() {
        writeln!(out, "No run has changed anything yet.")?;
        return Ok(());
    }
    let mut table = table(Screen::of_stdout().columns);
    table.set_header([right("run"), Cell::new("when"), Cell::new("what"), right("names"), Cell::new("")]);
    let most = if all { runs.len() } else { MOST_RUNS };
    for entry in runs.iter().take(most) {
        table.add_row([
            right(entry.id.to_string()),
            Cell::new(local(entry.started)),
            Cell::new(what(entry)),
            right(grouped(entry.renamed)),
            Cell::new(standing(entry)),
        ]);
    }
    writeln!(out, "{}\n", trimmed(&table))?;
    if runs.len() > most {
        writeln!(out, "… and {}; --all lists them\n", counted((runs.len() - most) as u64, "older run"))?;
    }
    advise("One run in full:    ", &format!("{} history RUN", program_name()), out)?;
    advise("To put a run back:  ", &format!("{} undo RUN", program_name()), out)?;
    Ok(())
}

/// What a run was for, in a few words.
fn what(entry: &RunEntry) -> String {
    match entry.about.undoes {
        Some(run) => format!("put run {run} back"),
        None if entry.about.rules.is_empty() => "names from a table".to_owned(),
        None => format!("names by {}", shown(&entry.about.rules.join(", "))),
    }
}

fn standing(entry: &RunEntry) -> String {
    match (entry.state, entry.undone_by) {
        (_, Some(run)) => format!("put back by run {run}"),
        (RunState::Ended, None) => String::new(),
        (RunState::UnderWay, None) => "under way".to_owned(),
        (RunState::Interrupted, None) => format!("interrupted; undo {} puts it back", entry.id),
    }
}

fn one(entry: &RunEntry, renames: &[RenameRecord], all: bool, out: &mut impl Write) -> Result<(), Trouble> {
    let words: Vec<String> = entry.about.command.iter().map(|word| quoted(word)).collect();
    writeln!(out, "{STRONG}Run {}{STRONG:#}  {}  {}", entry.id, local(entry.started), what(entry))?;
    writeln!(out, "{QUIET}in{QUIET:#}     {}", shown_path(&entry.about.place))?;
    writeln!(out, "{QUIET}typed{QUIET:#}  {}", shown(&words.join(" ")).replace('\n', "␊"))?;
    let standing = standing(entry);
    if !standing.is_empty() {
        writeln!(out, "{QUIET}now{QUIET:#}    {standing}")?;
    }
    writeln!(out)?;
    let most = if all { renames.len() } else { MOST_NAMES };
    for folder in renames[..most.min(renames.len())].chunk_by(|one, next| one.folder == next.folder) {
        writeln!(out, "{FILE}{}{FILE:#}", folder_shown(&folder[0].folder))?;
        for record in folder {
            let outcome = match record.outcome {
                Some(Outcome::Done) => "",
                Some(Outcome::NotDone) => "  (not done)",
                Some(Outcome::Stuck) => "  (at a temporary name)",
                None => "  (not known: the run was interrupted)",
            };
            writeln!(out, "  {} → {}{QUIET}{outcome}{QUIET:#}", drawn(&record.old), drawn(&record.new))?;
        }
    }
    if renames.len() > most {
        writeln!(out, "… and {}; --all lists them", counted((renames.len() - most) as u64, "more name"))?;
    }
    debug_assert!(renames.iter().all(|record| record.folder.as_os_str().as_bytes().starts_with(b"/")));
    writeln!(out, "\n{}", counted(entry.renamed, "name") + " changed")?;
    if entry.undone_by.is_none() && entry.state != RunState::UnderWay {
        advise("To put it back:", &format!("{} undo {}", program_name(), entry.id), out)?;
    }
    Ok(())
}
