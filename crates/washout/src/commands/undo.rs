//! `washout undo`

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use washout_files::{Carried, Undo, plan_undo};

use crate::args::UndoArgs;
use crate::commands::names::{about, open_history};
use crate::exit::{Exit, Trouble};
use crate::interrupt;
use crate::json;
use crate::out::{buffered_stdout, complain};
use crate::show::command_line::{program_name, typed};
use crate::show::names::{NamesTable, drawn};
use crate::show::number::{counted, grouped};
use crate::show::progress::Progress;
use crate::show::screen::Screen;
use crate::show::style::STRONG;
use crate::show::summary::advise;
use crate::show::visible::{shown, shown_path};

/// Runs the command.
pub(crate) fn run(args: &UndoArgs) -> Result<Exit, Trouble> {
    let mut history = open_history()?;
    let id = match args.run {
        Some(id) => id,
        None => history.newest_to_undo()?.ok_or_else(nothing)?.id,
    };
    let only = args.only.iter().map(|path| absolute(path)).collect::<io::Result<Vec<_>>>();
    let only = only.map_err(|error| Trouble::Usage(format!("--only: {error}")))?;
    let undo = plan_undo(&history, id, &only, args.force)?;
    let carried = if args.preview || undo.renames() == 0 {
        None
    } else {
        let progress = Progress::over_names(undo.renames());
        let done = |_: &Path, _: &[u8], _: &[u8]| progress.meter().file_done();
        Some(undo.carry_out(&mut history, &about(Vec::new()), interrupt::watch(), done)?)
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

fn nothing() -> Trouble {
    Trouble::Usage(format!(
        "there is no run to put back\n{} history lists all runs; one that has been put back already can be named",
        program_name()
    ))
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

fn draw(args: &UndoArgs, undo: &Undo, carried: Option<&Carried>, out: &mut impl Write) -> io::Result<()> {
    if args.preview || args.all {
        let mut table = NamesTable::new(Screen::of_stdout(), args.all);
        undo.folders.iter().try_for_each(|folder| table.folder(folder, out))?;
        table.close(out)?;
    }
    out.flush()?;
    for (path, old, why) in &undo.refused {
        complain(&format!("{} (was `{}`): {}", shown_path(path), drawn(old), shown(&why.to_string())))?;
    }
    let failed = carried.map_or(&[][..], |carried| &carried.failed);
    for (path, error) in failed {
        complain(&format!("{}: {}", shown_path(path), shown(&error.to_string())))?;
    }
    if let Some(error) = carried.and_then(|carried| carried.unrecorded.as_ref()) {
        complain(&format!("the names were put back, but the history does not say so: {}", shown(&error.to_string())))?;
    }
    let back = match carried {
        Some(carried) => format!("{} put back", counted(carried.renamed, "name")),
        None => format!("{} would be put back", counted(undo.renames(), "name")),
    };
    let left = undo.refused.len() + failed.len();
    let left = if left > 0 { format!(", {} left alone (named above)", grouped(left as u64)) } else { String::new() };
    writeln!(out, "{STRONG}Run {}: {back}{left}{STRONG:#}", undo.run)?;
    match carried.and_then(|carried| carried.run) {
        Some(run) => advise("To take this back:", &format!("{} undo {run}", program_name()), out),
        None if args.preview && undo.renames() > 0 => {
            let command = typed(None, &[("--preview", false), ("--all", false)]);
            advise(
                "To put them back:",
                &command.unwrap_or_else(|| format!("{} undo {}", program_name(), undo.run)),
                out,
            )
        }
        None => Ok(()),
    }
}
