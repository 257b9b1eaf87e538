//! `washout undo`

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use washout_files::{
    About, CarriedOut, FileError, History, Keeper, Restoration, RunEntry, RunKind, RunState, Undo, left_behind_below,
    plan_restore, plan_undo, remove_left_behind,
};

use super::history::what;
use crate::args::UndoArgs;
use crate::exit::{Exit, Trouble};
use crate::interrupt;
use crate::json;
use crate::kept_rules::KeptRules;
use crate::out::{buffered_stdout, outcome, print_warning};
use crate::past::{about, open_history};
use crate::show::command_line::{program_name, typed};
use crate::show::moment::local;
use crate::show::names::{NamesTable, drawn};
use crate::show::number::{counted, grouped};
use crate::show::progress::ProgressMeter;
use crate::show::screen::Screen;
use crate::show::style::STRONG;
use crate::show::summary::advise;
use crate::show::visible::{shown, shown_path};

/// Files that a preview lists.
const MOST_FILES: usize = 40;

/// Runs the command.
pub(crate) fn run(args: &UndoArgs) -> Result<Exit, Trouble> {
    let mut history = open_history()?;
    let run = match args.run {
        Some(id) => history.run(id)?,
        None => match newest_here(&mut history, args.preview)? {
            Newest::Run(run) => *run,
            Newest::LeftBehind { here, files, older } => return left_behind(args, &here, &files, older.as_deref()),
        },
    };
    let id = run.id;
    let only = args.only.iter().map(|path| absolute(path)).collect::<io::Result<Vec<_>>>();
    let only = only.map_err(|error| Trouble::Usage(format!("--only: {error}")))?;
    if !args.json {
        writeln!(anstream::stdout(), "{}", described(&run))?;
    }
    let exit = match run.kind {
        RunKind::Contents => contents(args, history, id, &only)?,
        RunKind::Names => names(args, history, id, &only)?,
    };
    // It may have left temporary files in folders that it had not written down yet.
    if run.state == RunState::Interrupted && !args.preview {
        let left = left_behind_below(&run.about.place);
        remove(&run.about.place, &left)?;
        if !left.is_empty() && !args.json {
            let files = counted(left.len() as u64, "temporary file");
            writeln!(anstream::stdout(), "{files} of the run removed in {}", shown_path(&run.about.place))?;
        }
    }
    Ok(exit)
}

/// Puts the names of a run back.
fn names(args: &UndoArgs, mut history: History, id: i64, only: &[PathBuf]) -> Result<Exit, Trouble> {
    let undo = plan_undo(&history, id, only, args.force)?;
    if undo.renames() == 0 && undo.refused.is_empty() && only.is_empty() && !args.preview {
        history.settle(id)?;
    }
    let carried = if args.preview || undo.renames() == 0 {
        None
    } else {
        let progress = ProgressMeter::over_names(undo.renames());
        let done = |_: &Path, _: &[u8], _: &[u8]| progress.meter().file_done();
        Some(undo.carry_out(&mut history, &about(Vec::new(), &KeptRules::NONE), interrupt::watch(), done)?)
    };
    let mut out = buffered_stdout();
    if args.json {
        json::write(&json::names::undo(&undo, carried.as_ref()))?;
    } else {
        draw(args, &undo, carried.as_ref(), &mut out)?;
    }
    out.flush()?;
    let failed = carried.as_ref().is_some_and(|carried| !carried.failed.is_empty() || carried.unrecorded.is_some());
    Ok(match () {
        () if interrupt::watch().is_requested() => Exit::Interrupted,
        () if failed || !undo.refused.is_empty() => Exit::SomeFailed,
        () => Exit::Done,
    })
}

/// What is to be undone if no run is named.
enum Newest {
    /// This run.
    Run(Box<RunEntry>),
    /// A program was killed before it changed anything, and left these files in the working folder or below. `older` is the newest one before that.
    LeftBehind { here: PathBuf, files: Vec<PathBuf>, older: Option<Box<RunEntry>> },
}

/// The newest run that touched the working folder or something below it.
fn newest_here(history: &mut History, preview: bool) -> Result<Newest, Trouble> {
    let here = std::env::current_dir().map_err(|error| Trouble::File("the working folder".to_owned(), error))?;
    let run = newest(history, Some(&here), preview)?.map(Box::new);
    if let Some(run) = run.as_ref().filter(|run| run.state == RunState::Interrupted) {
        return Ok(Newest::Run(run.clone()));
    }
    // The run that is meant may have been killed before it was written down: an older one must not go in its place.
    let mut files = left_behind_below(&here);
    if let Some(run) = &run {
        files = history.without_old_files(run.id, files)?;
    }
    match run {
        older if !files.is_empty() => Ok(Newest::LeftBehind { here, files, older }),
        Some(run) => Ok(Newest::Run(run)),
        None => Err(nothing_here(&here, newest(history, None, preview)?.as_ref())),
    }
}

/// The newest run of which anything is left to be restored. `below`: of those that touched something there.
fn newest(history: &mut History, below: Option<&Path>, preview: bool) -> Result<Option<RunEntry>, Trouble> {
    let mut done = Vec::new();
    let mut newest = None;
    for run in history.to_undo(below)? {
        let run = run?;
        if run.partly_undone_by.is_none() || is_left(history, &run)? {
            newest = Some(run);
            break;
        }
        done.push(run.id);
    }
    if !preview {
        done.into_iter().try_for_each(|run| history.settle(run))?;
    }
    Ok(newest)
}

/// Which run it is, in a line: its number, when and where it ran, and what for.
fn described(run: &RunEntry) -> String {
    let place = shown_path(&run.about.place);
    let rest = run.partly_undone_by.map_or_else(String::new, |by| format!("; what run {by} left of it"));
    format!("{STRONG}Run {}{STRONG:#}, {}, in {place}: {}{rest}", run.id, local(run.started), what(run))
}

fn remove(below: &Path, files: &[PathBuf]) -> Result<(), Trouble> {
    let failed = |(path, error): (PathBuf, io::Error)| Trouble::File(path.to_string_lossy().into_owned(), error);
    remove_left_behind(below, files).map_err(failed)
}

/// Removes temporary files, unless it is a preview, and says that no run was undone.
fn left_behind(args: &UndoArgs, here: &Path, left: &[PathBuf], older: Option<&RunEntry>) -> Result<Exit, Trouble> {
    if !args.preview {
        remove(here, left)?;
    }
    if args.json {
        json::write(&json::names::left_behind(left, args.preview))?;
        return Ok(Exit::Done);
    }
    let mut out = buffered_stdout();
    let files = counted(left.len() as u64, "temporary file");
    let done = if args.preview { "would be removed" } else { "removed" };
    writeln!(out, "A run was killed here before it changed a file: {files} {done}, no other file was changed.")?;
    if let Some(run) = older {
        writeln!(out, "\nThe run before it: {}", described(run))?;
        advise("To undo that one:", &format!("{} undo {}", program_name(), run.id), &mut out)?;
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// Whether anything is left of a run that was undone in parts.
fn is_left(history: &History, run: &RunEntry) -> Result<bool, Trouble> {
    Ok(match run.kind {
        RunKind::Contents => {
            let plan = plan_restore(history, run.id, &[], false)?;
            !plan.files.is_empty() || !plan.refused.is_empty()
        }
        RunKind::Names => {
            let plan = plan_undo(history, run.id, &[], false)?;
            plan.renames() > 0 || !plan.refused.is_empty()
        }
    })
}

/// Puts the contents of a run back.
fn contents(args: &UndoArgs, mut history: History, id: i64, only: &[PathBuf]) -> Result<Exit, Trouble> {
    let plan = plan_restore(&history, id, only, args.force)?;
    let mut out = buffered_stdout();
    let (mut back, mut failed, mut own) = (plan.files.len() as u64, Vec::new(), None);
    let carries_out = !args.preview && !plan.files.is_empty();
    if plan.files.is_empty() && plan.refused.is_empty() && only.is_empty() && !args.preview {
        history.settle(id)?;
    }
    if carries_out {
        let about = About {
            undoes: Some(id),
            part: plan.is_part || !plan.refused.is_empty(),
            ..about(Vec::new(), &KeptRules::NONE)
        };
        let keeper = Keeper::new(history, about)?;
        let progress = ProgressMeter::over_names(plan.files.len() as u64);
        (back, failed) = plan.carry_out(&keeper, interrupt::watch(), progress.meter());
        drop(progress);
        // What failed, and what was not begun, is left of the run.
        own = keeper.end(None, back < plan.files.len() as u64)?;
    }
    if args.json {
        json::write(&json::names::restore(id, &plan, carries_out.then_some((own, &failed[..]))))?;
    } else {
        draw_contents(args, (id, own), &plan, (back, &failed), &mut out)?;
    }
    out.flush()?;
    Ok(match () {
        () if interrupt::watch().is_requested() => Exit::Interrupted,
        () if !failed.is_empty() || !plan.refused.is_empty() => Exit::SomeFailed,
        () => Exit::Done,
    })
}

fn draw_contents(
    args: &UndoArgs,
    (id, own): (i64, Option<i64>),
    plan: &Restoration,
    (back, failed): (u64, &[(PathBuf, FileError)]),
    out: &mut impl Write,
) -> io::Result<()> {
    if args.preview || args.all {
        let most = if args.all { plan.files.len() } else { MOST_FILES };
        plan.files.iter().take(most).try_for_each(|record| writeln!(out, "  {}", shown_path(&record.path)))?;
        if plan.files.len() > most {
            writeln!(out, "  … and {}; --all lists them", counted((plan.files.len() - most) as u64, "more file"))?;
        }
        writeln!(out)?;
    }
    out.flush()?;
    for (path, why) in &plan.refused {
        print_warning(&format!("{}: {}", shown_path(path), shown(&why.to_string())))?;
    }
    for (path, error) in failed {
        print_warning(&format!("{}: {}{}", shown_path(path), shown(&error.to_string()), outcome(error)))?;
    }
    let not_begun = plan.files.len() as u64 - back - failed.len() as u64;
    let files = counted(back, "file");
    let back = if args.preview { format!("{files} would be restored") } else { format!("{files} restored") };
    let left = plan.refused.len() + failed.len();
    let left = if left > 0 { format!(", {} left alone (named above)", grouped(left as u64)) } else { String::new() };
    let stopped =
        if not_begun > 0 { format!(", {} not begun, as you asked to stop", grouped(not_begun)) } else { String::new() };
    writeln!(out, "{STRONG}Run {id}: {back}{left}{stopped}{STRONG:#}")?;
    match own {
        Some(run) => advise("To undo this:", &format!("{} undo {run}", program_name()), out),
        None => Ok(()),
    }
}

fn nothing_here(here: &Path, elsewhere: Option<&RunEntry>) -> Trouble {
    let program = program_name();
    Trouble::Usage(match elsewhere {
        Some(run) => format!(
            "there is no run to undo that changed anything in {} or below\nThe newest elsewhere: {}\n\
             To undo that one:  {program} undo {}",
            shown_path(here),
            described(run),
            run.id
        ),
        None => format!(
            "there is no run to undo\n{program} history lists all runs; one that has been undone already can be named"
        ),
    })
}

/// The history knows folders without links and whole; the last part may be gone by now.
fn absolute(path: &Path) -> io::Result<PathBuf> {
    let path = std::path::absolute(path)?;
    let folder = path.parent().and_then(|folder| folder.canonicalize().ok());
    Ok(match (folder, path.file_name()) {
        (Some(folder), Some(name)) => folder.join(name),
        _ => path,
    })
}

fn draw(args: &UndoArgs, undo: &Undo, carried: Option<&CarriedOut>, out: &mut impl Write) -> io::Result<()> {
    if args.preview || args.all {
        let mut table = NamesTable::new(Screen::of_stdout(), args.all);
        undo.folders.iter().try_for_each(|folder| table.folder(folder, out))?;
        table.close(out)?;
    }
    out.flush()?;
    for (path, old, why) in &undo.refused {
        print_warning(&format!("{} (was `{}`): {}", shown_path(path), drawn(old), shown(&why.to_string())))?;
    }
    let failed = carried.map_or(&[][..], |carried| &carried.failed);
    for (path, error) in failed {
        print_warning(&format!("{}: {}", shown_path(path), shown(&error.to_string())))?;
    }
    if let Some(error) = carried.and_then(|carried| carried.unrecorded.as_ref()) {
        print_warning(&format!(
            "the names were restored, but the history does not say so: {}",
            shown(&error.to_string())
        ))?;
    }
    let back = match carried {
        Some(carried) => format!("{} restored", counted(carried.renamed, "name")),
        None if args.preview => format!("{} would be restored", counted(undo.renames(), "name")),
        None => format!("{} restored", counted(0, "name")),
    };
    let left = undo.refused.len() + failed.len();
    let left = if left > 0 { format!(", {} left alone (named above)", grouped(left as u64)) } else { String::new() };
    writeln!(out, "{STRONG}Run {}: {back}{left}{STRONG:#}", undo.run)?;
    match carried.and_then(|carried| carried.run) {
        Some(run) => advise("To undo this:", &format!("{} undo {run}", program_name()), out),
        None if args.preview && undo.renames() > 0 => {
            let command = typed(None, &[("--preview", false), ("--all", false)]);
            advise("To undo:       ", &command.unwrap_or_else(|| format!("{} undo {}", program_name(), undo.run)), out)
        }
        None => Ok(()),
    }
}
