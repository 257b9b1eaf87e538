//! `washout clean`

mod ask;
mod filter;
mod job;
mod patch;

use std::io::{self, IsTerminal, Write};
use std::path::Path;

use bytesize::ByteSize;
use clap::ArgMatches;
use washout_core::Program;
use washout_core::explain::{cautions, cautions_of_some};
use washout_core::table::Form;
use washout_files::{
    Aim, Charsets, Chosen, ChosenFile, HistoryLimits, Incoming, Keeper, Replacing, Stop, Take, Threads, Unmet, judge,
};

pub(crate) use job::Job;

use crate::args::CleanArgs;
use crate::assigned::AssignedRules;
use crate::exit::{Exit, Trouble};
use crate::files::{chosen, refuse_stdout_to, start_threads_for};
use crate::interrupt;
use crate::out::{buffered_stdout, drawn_stdout, print_cautions_to_stderr, print_warning};
use crate::outputs::Inputs;
use crate::past::{about, open_history, print_interrupted, prune_by_default};
use crate::project::{self, Part};
use crate::report::{ReportFiles, Reports};
use crate::rules;
use crate::sample::start_of;
use crate::show::command_line::program_name;
use crate::show::preview::Amount;
use crate::show::summary::advise;
use crate::show::unmet;
use crate::show::visible::{shown, shown_path};

/// Runs the command.
pub(crate) fn run(args: &CleanArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let adapt = |program| {
        let program = rules::part(program, args.only_rule.as_deref(), args.up_to_rule.as_deref())?;
        Ok(program.with_table(args.table.settings()))
    };
    let rules = AssignedRules::of(&args.rules, &args.project, given, adapt)?;
    let (program, sets) = (&rules.program, rules.sets());
    let charsets = args.charsets.charsets();
    let paths = rules.paths(&args.paths, &args.choice);
    let filters = filter::is_filter(args, &paths)?;
    if let (Some(project), true) = (rules.project(), filters || args.stdout) {
        return Err(project::refuse_stream(project));
    }
    // In a script that filters there is nothing on standard error unless something is wrong.
    if (filters || args.stdout) && io::stderr().is_terminal() {
        print_cautions_to_stderr(&cautions(sets, program, &[]))?;
    }
    let threads = Threads::new(args.choice.jobs);
    if filters {
        refuse_stdout_to(Path::new("/dev/stdin"))?;
        let incoming = Incoming { form: program.form(None), most_records: args.first, charsets, len: None, threads };
        return filter::filter(program, incoming, args.spool, io::stdin());
    }
    if args.stdout {
        return filter::one_to_stdout(program, &paths, (args.first, charsets, threads), args.spool);
    }
    print_interrupted()?;
    let mut chosen = chosen(Take::Contents, &paths, &args.choice, args.into.as_deref(), "clean")?;
    let parts = rules.parts(&args.rules, &mut chosen.files, adapt)?;
    let writes = args.write || args.into.is_some();
    start_threads_for(args.choice.jobs, chosen.files.iter().map(|file| &file.path), writes);
    if !args.json && !args.patch {
        // A preview also tries a second run over the start of the first file.
        let previews = !args.write && args.into.is_none();
        for part in &parts {
            let first = chosen.files[part.files.clone()].first().filter(|_| previews);
            let first = first.and_then(|file| start_of(file.open().ok()?, &file.path).ok());
            let first = first.filter(|sample| !sample.text.contains(&0));
            print_cautions_to_stderr(&cautions_of_some(sets, &part.is_on, &part.program, first.as_slice()))?;
        }
    }
    if let Some(folder) = args.into.as_ref().filter(|folder| folder.exists() && !folder.is_dir()) {
        let message = "is a file, and --into names a folder for the copies";
        return Err(Trouble::Usage(format!("{} {message}\nNothing was done.", shown_path(folder))));
    }
    let inputs = Inputs::of(&chosen.files, &args.choice).with_rules(&args.rules, sets);
    let reports = ReportFiles::start(&args.report, &inputs, args.overwrite)?;
    if let Some(folder) = &args.into {
        refuse_lost_copies(args, &chosen, folder, &reports)?;
    }
    refuse_more_than_is_kept(args, &chosen)?;
    let mut out = buffered_stdout();
    // Who waits for an answer is not between files: there an interrupt ends the program, as it does without a handler.
    let never = Stop::new();
    let stop = if args.ask { &never } else { interrupt::watch() };
    if (args.patch || args.ask) && !program.expectations().is_empty() {
        let unmet = judge_parts(&parts, &mut chosen.files, charsets, stop);
        if !unmet.is_empty() {
            unmet::draw(&unmet, program.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
    }
    if args.patch {
        return patch::run(&parts, &chosen, stop, &mut drawn_stdout());
    }
    if args.ask {
        parts.iter().try_for_each(|part| refuse_tables(&part.program, &chosen.files[part.files.clone()]))?;
        let keeper = keeper(args, &rules)?;
        return ask::run(&parts, &aim(args), (charsets, replacing(args)), &chosen, keeper, &mut out);
    }
    let amount = if args.all { Amount::All } else { Amount::Some };
    let (aim, first_lines) = (aim(args), args.first);
    let job = Job { parts: &parts, aim, amount, first_lines, charsets, replacing: replacing(args), json: args.json };
    job.run(&mut chosen, Reports::new(reports), keeper(args, &rules)?, stop, &mut out)
}

/// A copy never replaces a file that the run reads, nor a report of the same run.
fn refuse_lost_copies(args: &CleanArgs, chosen: &Chosen, folder: &Path, reports: &ReportFiles) -> Result<(), Trouble> {
    if args.overwrite
        && let Some((copied, lost)) = chosen.copy_over_input(folder)
    {
        return Err(Trouble::Usage(format!(
            "the copy of {} would replace {}, which is an input of this run; name another folder with --into\n\
             Nothing was done.",
            shown_path(copied),
            shown_path(lost)
        )));
    }
    let Ok(folder) = folder.canonicalize() else { return Ok(()) }; // it is new: nothing is in it
    let is_copy = |place: &Path| chosen.files.iter().any(|file| folder.join(file.below()) == place);
    match reports.iter().find(|report| report.place().starts_with(&folder) && is_copy(report.place())) {
        Some(report) => Err(Trouble::Usage(format!(
            "{} would be a report and a copy; name another file for the report\nNothing was done.",
            shown_path(report.path())
        ))),
        None => Ok(()),
    }
}

/// A run that alone could be more than the history holds is not begun unasked.
fn refuse_more_than_is_kept(args: &CleanArgs, chosen: &Chosen) -> Result<(), Trouble> {
    let limit = args.history_limit.map(|size| size.as_u64()).or(HistoryLimits::default().bytes).unwrap_or(u64::MAX);
    if !args.write || args.no_history {
        return Ok(());
    }
    let sizes = chosen.files.iter().filter_map(|file| Some(std::fs::metadata(&file.path).ok()?.len()));
    let total: u64 = sizes.sum();
    if total <= limit {
        return Ok(());
    }
    let (total, limit) = (ByteSize(total).display().iec(), ByteSize(limit).display().iec());
    Err(Trouble::Usage(format!(
        "these files hold {total}, and what is kept of files for undo is to take {limit} at most\n\
         To keep more this time: --history-limit SIZE. To do without a way back: --no-history"
    )))
}

/// What rules expect, of the files of each part.
fn judge_parts(parts: &[Part], files: &mut [ChosenFile], charsets: Charsets, stop: &Stop) -> Vec<Unmet> {
    let expecting = parts.iter().filter(|part| !part.program.expectations().is_empty());
    expecting.flat_map(|part| judge(&part.program, &mut files[part.files.clone()], charsets, stop)).collect()
}

/// Cells are not asked about one by one.
fn refuse_tables(program: &Program, files: &[ChosenFile]) -> Result<(), Trouble> {
    let extension = |path: &Path| path.extension().and_then(|extension| extension.to_str()).map(str::to_owned);
    let is_table = |path: &Path| program.form(extension(path).as_deref()) != Form::Text;
    match files.iter().find(|file| is_table(&file.path)) {
        Some(file) => Err(Trouble::Usage(format!(
            "--ask is about the lines of texts, and {} is a table\nTo choose the fields, use --fields; to choose rules, \
             --only-rule",
            shown_path(&file.path)
        ))),
        None => Ok(()),
    }
}

/// Closes the record of a run of that many changes, and says how to undo it.
fn way_back(keeper: Option<Keeper>, changes: u64, out: &mut impl Write) -> io::Result<Option<i64>> {
    let Some(keeper) = keeper else { return Ok(None) };
    match keeper.end(Some(changes), false) {
        Ok(Some(run)) => {
            prune_by_default()?;
            advise("To undo:       ", &format!("{} undo {run}", program_name()), out)?;
            Ok(Some(run))
        }
        Ok(None) => Ok(None),
        Err(error) => {
            out.flush()?;
            print_warning(&format!(
                "the files were written, but the history does not say so: {}",
                shown(&error.to_string())
            ))?;
            Ok(None)
        }
    }
}

/// Keeps what is in files before they are replaced, if any are to be.
fn keeper(args: &CleanArgs, rules: &AssignedRules) -> Result<Option<Keeper>, Trouble> {
    if !args.write || args.no_history {
        return Ok(None);
    }
    let names = rules.sets().iter().map(|set| set.name.clone()).collect();
    Ok(Some(Keeper::new(open_history()?, about(names, &rules.kept()))?))
}

fn replacing(args: &CleanArgs) -> Replacing {
    Replacing { keeps_times: args.keep_times, follows_links: args.follow, breaks_links: args.break_links }
}

fn aim(args: &CleanArgs) -> Aim {
    match &args.into {
        Some(folder) => Aim::Into { folder: folder.clone(), overwrite: args.overwrite },
        None if args.write => Aim::Write,
        None => Aim::Preview,
    }
}
