//! `washout survey`

use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};

use washout_core::survey::{Detectors, Survey, Surveyor, draft};
use washout_core::table::{TableSettings, table_draft};
use washout_files::{Charsets, Chosen, FilesSurvey, Take, survey_all, survey_stream};

use crate::args::SurveyArgs;
use crate::exit::{Exit, Trouble};
use crate::files::{chosen, start_threads_for};
use crate::interrupt;
use crate::json;
use crate::out::{buffered_stdout, print_left};
use crate::outputs::{self, Inputs, write_whole};
use crate::report;
use crate::show::command_line::typed_with;
use crate::show::progress::ProgressMeter;
use crate::show::screen::Screen;
use crate::show::survey::SurveyPage;
use crate::show::visible::shown_path;

/// Runs the command.
pub(crate) fn run(args: &SurveyArgs) -> Result<Exit, Trouble> {
    if let Some(path) = &args.report
        && !matches!(report::ReportKind::of(path)?, report::ReportKind::Html)
    {
        return Err(Trouble::Usage("a report of a survey is a page: NAME.html".to_owned()));
    }
    let chosen = chosen_files(args)?;
    let files = chosen.as_ref().map_or(&[][..], |chosen| &chosen.files);
    let named: Vec<&Path> = args.draft.iter().chain(&args.report).map(PathBuf::as_path).collect();
    let mut started = outputs::start(&named, &Inputs::of(files, &args.choice), args.overwrite)?.into_iter();
    let draft_file = args.draft.as_ref().and_then(|_| started.next());
    let report_file = started.next();
    let found = found(args, chosen)?;
    let mut out = buffered_stdout();
    for (path, error) in &found.failed {
        print_left(path, error, &mut out)?;
    }
    let drafted = draft_file.map(|file| write_whole(file, &draft_of(&found)?)).transpose()?;
    let reported = report_file.map(|file| write_whole(file, &report::survey::survey_page(&found, args.all_chars)));
    let reported = reported.transpose()?;
    if args.json {
        json::write(&json::survey::value(&found, args.all_chars))?;
    } else {
        let page = SurveyPage {
            found: &found,
            every_character: args.all_chars,
            shows_all: args.all,
            columns: Screen::of_stdout().columns,
        };
        page.draw(&mut out)?;
        if let Some(path) = &reported {
            writeln!(out, "\nThe report is in {}", shown_path(path))?;
        }
        next_steps(args, drafted.as_deref(), &found, &mut out)?;
    }
    out.flush()?;
    Ok(match (interrupt::watch().is_requested(), found.failed.is_empty()) {
        (true, _) => Exit::Interrupted,
        (false, true) => Exit::Done,
        (false, false) => Exit::SomeFailed,
    })
}

/// The files to survey; `None`: standard input.
fn chosen_files(args: &SurveyArgs) -> Result<Option<Chosen>, Trouble> {
    let dash = Path::new("-");
    let no_path = args.paths.is_empty() && args.choice.files_from.is_none();
    if no_path && io::stdin().is_terminal() {
        return Err(Trouble::Usage(format!(
            "nothing to survey: name files or folders, or pipe text in\nFor example:  {}",
            typed_with("PATH...")
        )));
    }
    if no_path || args.paths == [dash] {
        return Ok(None);
    }
    let take = if args.names { Take::Names } else { Take::Contents };
    chosen(take, &args.paths, &args.choice, None, "survey").map(Some)
}

fn found(args: &SurveyArgs, chosen: Option<Chosen>) -> Result<FilesSurvey, Trouble> {
    let Some(Chosen { files, skipped, failed, .. }) = chosen else {
        let failed = |error| Trouble::Usage(format!("standard input: {error}"));
        return survey_stream(&mut io::stdin().lock(), args.all_chars, &table_settings(args)).map_err(failed);
    };
    start_threads_for(args.choice.jobs, files.iter().map(|file| &file.path), false);
    let mut found = if args.names {
        let paths = files.iter().map(|file| file.path.clone()).collect();
        names(paths, args.all_chars)
    } else {
        let progress = ProgressMeter::over(&files);
        let charsets = Charsets { from: args.charset.encoding, to: None };
        survey_all(&files, args.all_chars, &table_settings(args), charsets, interrupt::watch(), progress.meter())
    };
    found.skipped.extend(skipped);
    found.failed.extend(failed);
    Ok(found)
}

fn table_settings(args: &SurveyArgs) -> TableSettings {
    TableSettings { survey_keeps: args.max_memory.map(|size| size.as_u64()), ..args.table.settings() }
}

/// Surveys the names of files: each is a text of one line.
fn names(paths: Vec<PathBuf>, every_character: bool) -> FilesSurvey {
    let detectors = Detectors::new();
    let mut survey = Survey::default();
    for path in &paths {
        let mut surveyor = Surveyor::new(&detectors, every_character);
        surveyor.push(path.file_name().unwrap_or_default().as_encoded_bytes());
        survey.add(surveyor.finish());
        survey.see_name(path.file_name().unwrap_or_default().as_encoded_bytes(), path.is_dir());
    }
    FilesSurvey { survey, files: paths, of_names: true, ..FilesSurvey::default() }
}

/// The text of a rule set that takes what was found.
fn draft_of(found: &FilesSurvey) -> Result<String, Trouble> {
    if found.tables.is_empty() {
        let names: Vec<String> = found.files.iter().map(|path| shown_path(path)).collect();
        Ok(draft(&found.litter(), &names))
    } else {
        if !found.files.is_empty() {
            let message = "a draft is for texts or for tables, and here are both\nTo leave one kind out: --only '*.csv', \
                           or --except '*.csv'";
            return Err(Trouble::Usage(message.to_owned()));
        }
        let names: Vec<String> = found.tables.iter().map(|(path, _)| shown_path(path)).collect();
        Ok(table_draft(&found.tables.iter().map(|(_, table)| table).collect::<Vec<_>>(), &names))
    }
}

/// Whether there is anything in tables that a rule would take.
fn has_findings(found: &FilesSurvey) -> bool {
    found.tables.iter().flat_map(|(_, table)| &table.columns).any(|column| !column.findings().is_empty())
}

fn next_steps(
    args: &SurveyArgs,
    drafted: Option<&Path>,
    found: &FilesSurvey,
    out: &mut impl Write,
) -> Result<(), Trouble> {
    use crate::show::command_line::{program_name, quoted};
    use crate::show::summary::advise;
    if let Some(path) = drafted {
        let paths: Vec<String> = args.paths.iter().map(|path| quoted(&path.to_string_lossy())).collect();
        writeln!(out, "\nThe rules are in {}. To look at what they change:", shown_path(path))?;
        let verb = if args.names { "names" } else { "clean" };
        let command = format!("{} {verb} -r {} {}", program_name(), quoted(&path.to_string_lossy()), paths.join(" "));
        advise(" ", &command, out)?;
    } else if !found.litter().is_empty() || has_findings(found) {
        writeln!(out, "\nTo write these rules as a rule set, with a comment each:")?;
        advise(" ", &typed_with("--draft draft.wash.toml"), out)?;
    }
    Ok(())
}
