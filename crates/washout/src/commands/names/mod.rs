//! `washout names`

mod ask;

use crate::names_result::RenameSummary;
use std::borrow::Borrow;
use std::io::{self, Write};
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::explain::cautions;
use washout_core::names::{NameOutcome, NameWasher, OnClash, Planner};
use washout_core::{Program, RuleName, RuleSet};
use washout_files::{
    CarriedOut, Chosen, ChosenFile, Meter, NameMap, NameOrder, OutputFile, PlannedFolder, Plans, RequestSource, Take,
    Threads, carry_out, write_map,
};
use washout_sets::reason;

use crate::args::{ClashArg, NamesArgs, OrderArg};
use crate::exit::{Exit, Trouble};
use crate::files::{self, start_threads_for};
use crate::interrupt;
use crate::json;
use crate::kept_rules::KeptRules;
use crate::out::{buffered_stdout, print_cautions_to_stderr, print_left};
use crate::outputs::{self, Inputs};
use crate::past::{about, open_history};
use crate::report::{self, ReportFiles};
use crate::rules::{self, name_settings};
use crate::show::command_line::{program_name, quoted, typed, typed_with};
use crate::show::names::NamesTable;
use crate::show::progress::ProgressMeter;
use crate::show::screen::Screen;
use crate::show::summary::advise;
use crate::show::unmet;
use crate::show::visible::{shown, shown_path};

/// Runs the command.
pub(crate) fn run(args: &NamesArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    if args.ask && !args.write {
        return Err(Trouble::Usage("--ask needs --write: it asks which names are to be changed".to_owned()));
    }
    let parts = if args.rules.is_empty() { Vec::new() } else { rules::parts(&args.rules, given)? };
    let kept = KeptRules::Given(parts);
    let Planned { mut plans, program, sets, outputs } =
        if let Some(map) = &args.from_map { from_map(args, map)? } else { from_rules(args, given)? };
    let Outputs { reports, map } = outputs;
    let mut out = buffered_stdout();
    for (path, error) in &plans.failed {
        print_left(path, error, &mut out)?;
    }
    if let Some(program) = &program {
        let unmet = plans.unmet(program);
        if !unmet.is_empty() {
            unmet::draw(&unmet, program.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
    }
    refuse_report_as_name(&plans, &reports)?;
    let mut left_by_hand = 0;
    if args.ask {
        left_by_hand = ask::ask(&mut plans, planner(args), &mut out)?;
    }
    let carried = if args.write { Some(write(args, &plans, &sets, &kept)?) } else { None };
    let names = program.as_ref().map_or(&[][..], |program| program.names());
    let summary = RenameSummary::of(&plans, carried.as_ref(), left_by_hand);
    let reported = report::names::write(reports, &plans, names, &summary)?;
    let table = map.map(|map| write_table(map, &plans)).transpose()?;
    match &table {
        _ if args.json => json::write(&json::names::value(&plans, names, &summary))?,
        Some(table) => draw_table_advice(args, table, &mut out)?,
        None => draw(args, &plans, names, &summary, &reported, &mut out)?,
    }
    out.flush()?;
    Ok(summary.exit(interrupt::watch().is_requested()))
}

/// What is to be done, the program it comes from, if there is one, and what else is written.
struct Planned {
    plans: Plans,
    program: Option<Program>,
    sets: Vec<RuleSet>,
    outputs: Outputs,
}

/// The files a run writes.
struct Outputs {
    reports: ReportFiles,
    map: Option<OutputFile>,
}

impl Outputs {
    fn start(args: &NamesArgs, inputs: &Inputs<'_>) -> Result<Self, Trouble> {
        let reports = ReportFiles::start(&args.report, inputs, args.overwrite)?;
        let map: Vec<&Path> = args.map.iter().map(PathBuf::as_path).collect();
        let map = outputs::start(&map, inputs, args.overwrite)?.pop();
        Ok(Self { reports, map })
    }
}

fn from_rules(args: &NamesArgs, given: &ArgMatches) -> Result<Planned, Trouble> {
    let (program, sets) = rules::program(&args.rules, given)?;
    let program = rules::part(program, args.only_rule.as_deref(), args.up_to_rule.as_deref())?;
    if let Some(rule) = program.rule_for_tables() {
        let (number, caption) = (shown(&rule.number), shown(&rule.caption));
        return Err(Trouble::Usage(format!("rule {number} ({caption}) is for fields of tables, and names have none")));
    }
    let chosen = chosen(args)?;
    let outputs = Outputs::start(args, &Inputs::of(&chosen.files, &args.choice).with_rules(&args.rules, &sets))?;
    if !args.json {
        print_cautions_to_stderr(&cautions(&sets, &program, &[]))?;
    }
    let washer = NameWasher::new(&program, &name_settings(args.part, &sets));
    let progress = ProgressMeter::over_names((chosen.files.len() + chosen.folders.len()) as u64);
    let entries = chosen.files.into_iter().chain(chosen.folders);
    let plans = plans(args, entries, RequestSource::Rules(&washer), progress.meter());
    drop(progress);
    Ok(Planned { plans, program: Some(program), sets, outputs })
}

fn from_map(args: &NamesArgs, map: &Path) -> Result<Planned, Trouble> {
    Threads::new(args.choice.jobs).start();
    let unreadable =
        |error: io::Error| Trouble::Usage(format!("the table {} cannot be read: {}", shown_path(map), reason(&error)));
    let text = std::fs::read(map).map_err(unreadable)?;
    let here = [PathBuf::from(".")];
    let below = if args.paths.is_empty() { &here[..] } else { &args.paths };
    let table = map;
    let map = NameMap::read(&text, below, planner(args)).map_err(|error| {
        let lines = shown(&error.to_string()).replace('\n', "\n  ");
        Trouble::Usage(format!("the table {} cannot be carried out:\n  {lines}\nNothing was renamed.", shown_path(map)))
    })?;
    let outputs = Outputs::start(args, &Inputs::of(&map.chosen().files, &args.choice).with(table))?;
    let plans = plans(args, map.chosen().entries(), RequestSource::Map(&map), &Meter::default());
    Ok(Planned { plans, program: None, sets: Vec::new(), outputs })
}

/// Plans to carry out, or only to look at.
fn plans<E: Borrow<ChosenFile>>(
    args: &NamesArgs,
    entries: impl IntoIterator<Item = E>,
    source: RequestSource<'_>,
    meter: &Meter,
) -> Plans {
    let make = if args.write { Plans::make } else { Plans::to_look_at };
    make(entries, source, order(args), planner(args), meter)
}

/// A file that is renamed never gets the name of a report of the same run.
fn refuse_report_as_name(plans: &Plans, reports: &ReportFiles) -> Result<(), Trouble> {
    let is_new_name = |report: &&OutputFile| {
        let here = plans.folders.iter().filter(|folder| report.place().parent() == Some(&folder.path));
        let mut new = here.flat_map(PlannedFolder::names).filter_map(|name| new_name(name.outcome));
        new.any(|new| report.place().file_name().is_some_and(|name| name.as_encoded_bytes() == new))
    };
    match reports.iter().find(is_new_name) {
        Some(report) => Err(Trouble::Usage(format!(
            "{} would be a report and the new name of a file; name another file for the report\nNothing was renamed.",
            shown_path(report.path())
        ))),
        None => Ok(()),
    }
}

fn chosen(args: &NamesArgs) -> Result<Chosen, Trouble> {
    let no_path = args.paths.is_empty() && args.choice.files_from.is_none();
    if no_path {
        return Err(Trouble::Usage(format!(
            "whose names are to be changed? Name files or folders\nFor example:  {}",
            typed_with("PATH...")
        )));
    }
    let take = if args.folders { Take::NamesAndFolders } else { Take::Names };
    let chosen = files::chosen(take, &args.paths, &args.choice, None, "rename")?;
    start_threads_for(args.choice.jobs, chosen.files.iter().map(|file| &file.path), false);
    Ok(chosen)
}

fn planner(args: &NamesArgs) -> Planner {
    let on_clash = match args.on_clash {
        ClashArg::Refuse => OnClash::Refuse,
        ClashArg::Number => OnClash::Number,
    };
    Planner { on_clash, portable: args.portable, ..Planner::default() }
}

fn order(args: &NamesArgs) -> NameOrder {
    match args.order {
        OrderArg::Name => NameOrder::Name,
        OrderArg::Modified => NameOrder::Modified,
    }
}

fn write(args: &NamesArgs, plans: &Plans, sets: &[RuleSet], kept: &KeptRules) -> Result<CarriedOut, Trouble> {
    let stop = interrupt::watch();
    let any = plans.renames() > 0;
    let mut history = if args.no_history || !any { None } else { Some(open_history()?) };
    let rules = sets.iter().map(|set| set.name.clone()).collect();
    let progress = ProgressMeter::over_names(plans.renames());
    Ok(carry_out(plans, history.as_mut(), &about(rules, kept), stop, |_, _, _| progress.meter().file_done())?)
}

fn write_table(mut file: OutputFile, plans: &Plans) -> Result<PathBuf, Trouble> {
    let written = write_map(plans, io::BufWriter::new(&mut file));
    written.map_err(|error| Trouble::File(shown_path(file.path()), error))?;
    Ok(file.finish()?)
}

/// What to do with the table of names that was written.
fn draw_table_advice(args: &NamesArgs, table: &Path, out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "Old and new names are in {}. Edit the column `new`, then:", shown_path(table))?;
    let paths = args.paths.iter().map(PathBuf::as_path).map(Path::to_string_lossy);
    let words = std::iter::once(table.to_string_lossy()).chain(paths).map(|word| quoted(&word));
    let command = format!("{} names --from-map {}", program_name(), words.collect::<Vec<_>>().join(" "));
    advise("  look at them", &command, out)?;
    advise("  rename      ", &format!("{command} --write"), out)
}

fn draw(
    args: &NamesArgs,
    plans: &Plans,
    names: &[RuleName],
    summary: &RenameSummary<'_>,
    reported: &[PathBuf],
    out: &mut impl Write,
) -> io::Result<()> {
    let screen = Screen::of_stdout();
    if !args.ask {
        let mut table = NamesTable::new(screen, args.all);
        plans.folders.iter().try_for_each(|folder| table.folder(folder, out))?;
        table.close(out)?;
    }
    summary.draw_failures(out)?;
    if !names.is_empty() {
        let counts = plans.changes.iter().copied().zip(plans.touched.iter().copied());
        crate::show::summary::draw_rules(names, counts, "names", screen, out)?;
    }
    summary.draw_counts(out)?;
    for path in reported {
        writeln!(out, "The report is in {}", shown_path(path))?;
    }
    match summary.carried {
        None if summary.renames > 0 => {
            writeln!(out, "\nNothing was renamed. To rename:")?;
            let write = typed(None, &[("--all", false), ("--report", true)]);
            let write =
                write.map_or_else(|| "the same again with --write".to_owned(), |typed| format!("{typed} --write"));
            advise(" ", &write, out)
        }
        Some(CarriedOut { run: Some(run), renamed, .. }) if *renamed > 0 => {
            advise("To undo:       ", &format!("{} undo {run}", program_name()), out)
        }
        None | Some(_) => Ok(()),
    }
}

/// The new name of an entry, if it gets one.
pub(crate) fn new_name(outcome: &NameOutcome) -> Option<&[u8]> {
    match outcome {
        NameOutcome::Becomes(new) => Some(new),
        NameOutcome::Stays | NameOutcome::Refused(..) => None,
    }
}
