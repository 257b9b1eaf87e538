//! `washout check`: a gate that changes nothing.

use std::collections::BTreeMap;
use std::io::{self, BufRead as _, Write};
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::observe::PlacedChange;
use washout_core::{Program, RuleName};
use washout_files::{Aim, Charsets, Chosen, Excerpt, FileReport, Follow, Followed, Recorder, Run, Skip, State, Take};

use super::hook;
use crate::args::{CheckArgs, CheckFormat, CheckList};
use crate::assigned::AssignedRules;
use crate::exit::{Exit, Trouble};
use crate::files::{chosen, start_threads_for};
use crate::interrupt;
use crate::json::{self, Escaped};
use crate::out::{plain_stdout, print_failed, print_warning};
use crate::project::Part;
use crate::record::{ChangeFormat, EachChange, copy_record, mark_hunk, write_number};
use crate::report::ChangeJson;
use crate::sarif::{self, SarifResult};
use crate::show::command_line::typed;
use crate::show::number::{counted, grouped};
use crate::show::progress::ProgressMeter;
use crate::show::summary::Summary;
use crate::show::visible::{shown, shown_cell, shown_path};
use crate::staged::StagedFiles;

/// Runs the command.
pub(crate) fn run(args: &CheckArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let adapt = |program: Program| Ok(program.with_table(args.table.settings()));
    let mut rules = AssignedRules::of(&args.rules, &args.project, given, adapt)?;
    let staged = if args.staged { Some(StagedFiles::copy()?) } else { None };
    if let Some(staged) = &staged {
        if staged.paths.is_empty() {
            return Ok(Exit::Done);
        }
        // Its paths then are what they are in the repository.
        rules.move_to(staged.folder())?;
    }
    let paths = staged.as_ref().map_or_else(|| rules.paths(&args.paths, &args.choice), |staged| staged.paths.clone());
    if paths.is_empty() && args.choice.files_from.is_none() {
        return Err(Trouble::Usage("name the files or folders to check".to_owned()));
    }
    let mut chosen = chosen(Take::Contents, &paths, &args.choice, None, "check")?;
    if args.staged {
        chosen.files.iter_mut().for_each(|file| file.with_binary = args.choice.with_binary);
    }
    let parts = match rules.parts(&args.rules, &mut chosen.files, adapt) {
        // Whatever is committed, it is nothing that rules are for.
        Err(_) if args.staged && chosen.files.is_empty() => return Ok(Exit::Done),
        parts => parts?,
    };
    start_threads_for(args.choice.jobs, chosen.files.iter().map(|file| &file.path), false);
    let charsets = Charsets { from: args.charset.encoding, to: None };
    let format = if args.json { CheckFormat::Json } else { args.format };
    if args.list == CheckList::Some && format != CheckFormat::Text {
        let message =
            "--list some is for people; a format for programs lists all places, the first of each file, or counts";
        return Err(Trouble::Usage(message.to_owned()));
    }
    let mut out = plain_stdout();
    let (run, names) = (
        CheckRun { names: rules.program.names(), parts: &parts, is_staged: args.staged, list: args.list, charsets },
        rules.program.names(),
    );
    let Checked { summary, found, changed, left_out } = match format {
        CheckFormat::Text => run.run(PlaceText::new(names), &chosen, &mut out),
        CheckFormat::Json => run.run(ChangeJson::new(names), &chosen, &mut out),
        CheckFormat::Sarif => run.run(SarifResult::new(names), &chosen, &mut out),
    }?;
    out.flush()?;
    print_left_out(&left_out)?;
    if interrupt::watch().is_requested() {
        return Ok(Exit::Interrupted);
    }
    if found > 0 {
        print_found(&summary, found, args.list)?;
        if staged.is_some() {
            hook::print_hint(&changed, &AssignedRules::typed(&args.rules))?;
        } else {
            print_advice()?;
        }
    }
    Ok(match (summary.failed, found) {
        (0, 0) => Exit::Done,
        (0, _) => Exit::Found,
        _ => Exit::SomeFailed,
    })
}

/// What was found, and what to type next, for people: on standard error.
fn print_found(summary: &Summary, found: u64, list: CheckList) -> io::Result<()> {
    let mut err = anstream::stderr();
    let files = counted(summary.changed, "file");
    match list {
        CheckList::All => writeln!(err, "washout: {} in {files} would change", counted(found, "place"))?,
        CheckList::Some => {
            let places = counted(found, "place");
            let some = if found > SOME as u64 { format!("; the first {SOME} are listed") } else { String::new() };
            writeln!(err, "washout: {places} in {files} would change{some}")?;
        }
        CheckList::First => writeln!(err, "washout: {files} would change")?,
        CheckList::Count => writeln!(err, "washout: {files} would change, with {}", counted(found, "change"))?,
    }
    Ok(())
}

/// What to type to look at what was found.
fn print_advice() -> io::Result<()> {
    let mut err = anstream::stderr();
    let others = [("--format", true), ("--json", false), ("--list", true)];
    if let Some(command) = typed(Some(("check", "clean")), &others) {
        writeln!(err, "To look at the changes:  {command}")?;
    }
    Ok(())
}

/// A gate that says nothing of what it did not look at would seem to have passed it.
fn print_left_out(left_out: &[(PathBuf, Skip)]) -> io::Result<()> {
    let mut by_reason: BTreeMap<String, Vec<String>> = BTreeMap::new();
    for (path, why) in left_out {
        by_reason.entry(why.to_string()).or_default().push(shown_path(path));
    }
    for (why, paths) in by_reason {
        let named = paths.iter().take(NAMED).map(String::as_str).collect::<Vec<_>>().join(", ");
        let more = paths.len().saturating_sub(NAMED);
        let more = if more > 0 { format!(" and {} more", grouped(more as u64)) } else { String::new() };
        print_warning(&format!("not checked: {named}{more} ({why})"))?;
    }
    Ok(())
}

/// The most files that are named for each reason.
const NAMED: usize = 3;

/// What a check came to.
struct Checked {
    summary: Summary,
    /// How many places or changes are listed.
    found: u64,
    /// Files that would change.
    changed: Vec<PathBuf>,
    /// What was found in folders and not looked at.
    left_out: Vec<(PathBuf, Skip)>,
}

struct CheckRun<'p> {
    names: &'p [RuleName],
    /// The files, by the rules for them.
    parts: &'p [Part],
    /// Whether the names of files that would change are wanted.
    is_staged: bool,
    list: CheckList,
    charsets: Charsets,
}

impl CheckRun<'_> {
    /// Checks all files and writes what is found: places in this format.
    fn run<F: CheckedFormat>(&self, format: F, chosen: &Chosen, out: &mut impl Write) -> Result<Checked, Trouble> {
        let names = self.names;
        let mut summary = Summary::new(names.len());
        chosen.skipped.iter().for_each(|(_, skip)| summary.skip(*skip));
        for (path, error) in &chosen.failed {
            summary.failed += 1;
            print_failed(path, error, out)?;
        }
        write!(out, "{}", format.opening(names))?;
        let places = if F::IS_LIST { EachChange::list(format) } else { EachChange::lines(format) };
        let all: [&dyn Recorder; 1] = [&places];
        let follow = match self.list {
            CheckList::All | CheckList::Some => Follow { recorders: &all, ..Follow::default() },
            CheckList::First => Follow { hunks: 1, files: usize::MAX, only: true, recorders: &[] },
            CheckList::Count => Follow::default(),
        };
        let most = (self.list == CheckList::Some).then_some(SOME);
        let mut listed = Listed { out, is_list: F::IS_LIST, found: 0, most };
        let mut left_out = chosen.skipped.clone();
        let mut written = Ok(());
        let progress = ProgressMeter::over(&chosen.files);
        let new = |program| Run::new(program, &Aim::Preview, interrupt::watch(), progress.meter());
        let run = |program| Run { follow, charsets: self.charsets, ..new(program) };
        let mut changed = Vec::new();
        let mut take = |report: FileReport| {
            summary.add(&report);
            if self.is_staged && matches!(report.state, State::Changed(..)) {
                changed.push(report.path.clone());
            }
            if written.is_ok() {
                written = progress.aside(|| match report.state {
                    State::Failed(error) => print_failed(&report.path, &error, listed.out),
                    State::Changed(_, Some(Followed { excerpt, records })) => match records.into_iter().next() {
                        Some(record) => listed.record(record),
                        None => listed.first(&places, &report.path, &excerpt),
                    },
                    State::Changed(washed, None) => {
                        let changes = washed.changes.iter().sum();
                        listed.value(changes, places.format().changes(&report.path, changes).as_bytes())
                    }
                    State::Skipped(why) => {
                        left_out.push((report.path, why));
                        Ok(())
                    }
                    State::Unchanged(_) => Ok(()),
                });
            }
        };
        for part in self.parts {
            run(&part.program).wash_all(&chosen.files[part.files.clone()], &mut take);
        }
        drop(progress);
        written?;
        let is_of_places = matches!(self.list, CheckList::All | CheckList::Some);
        let found = if is_of_places { places.count() } else { listed.found };
        write!(out, "{}", places.format().closing(&summary, &left_out))?;
        Ok(Checked { summary, found, changed, left_out })
    }
}

/// What is written of the files, one after the other.
struct Listed<'o, W> {
    out: &'o mut W,
    /// Whether commas stand between the values: each value comes with one before it.
    is_list: bool,
    found: u64,
    /// How many more lines of places are written, if not all are.
    most: Option<usize>,
}

/// Places that are listed where some are wanted.
const SOME: usize = 20;

impl<W: Write> Listed<'_, W> {
    /// The places of a file.
    fn record(&mut self, mut record: impl io::Read) -> io::Result<()> {
        if self.is_list && self.found == 0 {
            // There is none before the first.
            record.read_exact(&mut [0])?;
        }
        self.found += 1;
        let Some(most) = &mut self.most else { return copy_record(record, self.out) };
        for line in io::BufReader::new(record).split(b'\n').take(*most) {
            *most -= 1;
            self.out.write_all(&line?)?;
            self.out.write_all(b"\n")?;
        }
        Ok(())
    }

    /// The first place of a file.
    fn first<F: ChangeFormat>(&mut self, places: &EachChange<F>, path: &Path, excerpt: &Excerpt) -> io::Result<()> {
        let mark = excerpt.byte_order_mark.map(mark_hunk);
        let Some(hunk) = mark.as_ref().or(excerpt.hunks.first()) else { return Ok(()) };
        let mut line = Vec::new();
        places.first(path, hunk, &mut line);
        self.value(1, &line)
    }

    /// A line that counts as this number of places or changes.
    fn value(&mut self, changes: u64, line: &[u8]) -> io::Result<()> {
        let skipped = usize::from(self.is_list && self.found == 0);
        self.found += changes;
        self.out.write_all(&line[skipped..])
    }
}

/// A format in which a check writes what it finds.
trait CheckedFormat: ChangeFormat {
    /// Whether a comma and a line end come before each value.
    const IS_LIST: bool;

    /// What comes before everything.
    fn opening(&self, names: &[RuleName]) -> String {
        let _ = names;
        String::new()
    }

    /// What stands for a file with this number of changes.
    fn changes(&self, path: &Path, changes: u64) -> String;

    /// What comes after everything.
    fn closing(&self, summary: &Summary, left_out: &[(PathBuf, Skip)]) -> String {
        let _ = (summary, left_out);
        String::new()
    }
}

/// `file:line:column: rule 3: what it does`; in a table `file:record:field`.
struct PlaceText {
    /// The text for each rule.
    rules: Vec<String>,
}

impl PlaceText {
    fn new(names: &[RuleName]) -> Self {
        let text = |name: &RuleName| format!(": rule {}: {}", shown(&name.number), shown(&name.caption));
        Self { rules: names.iter().map(text).collect() }
    }
}

impl ChangeFormat for PlaceText {
    /// Its name.
    type File = String;

    fn file(&self, path: &Path) -> String {
        shown_path(path)
    }

    fn change(&self, file: &String, change: &PlacedChange<'_>, out: &mut Vec<u8>) {
        let PlacedChange { line, column, rule, .. } = change;
        out.extend_from_slice(file.as_bytes());
        out.push(b':');
        if let Some(place) = change.cell {
            out.extend_from_slice(shown_cell(place, ":").as_bytes());
        } else {
            write_number(*line, out);
            out.push(b':');
            write_number(*column, out);
        }
        out.extend_from_slice(self.rules[rule.0].as_bytes());
    }
}

impl CheckedFormat for PlaceText {
    const IS_LIST: bool = false;

    fn changes(&self, path: &Path, changes: u64) -> String {
        format!("{}: {}\n", shown_path(path), counted(changes, "change"))
    }
}

impl CheckedFormat for ChangeJson {
    const IS_LIST: bool = true;

    fn opening(&self, _names: &[RuleName]) -> String {
        json::OPENING_OF_CHECK.to_owned()
    }

    fn changes(&self, path: &Path, changes: u64) -> String {
        format!(",\n{}", Escaped(&serde_json::json!({"file": json::path(path), "changes": changes})))
    }

    fn closing(&self, summary: &Summary, left_out: &[(PathBuf, Skip)]) -> String {
        json::closing_of_check(summary, left_out)
    }
}

impl CheckedFormat for SarifResult {
    const IS_LIST: bool = true;

    fn opening(&self, names: &[RuleName]) -> String {
        sarif::opening(names)
    }

    fn changes(&self, path: &Path, changes: u64) -> String {
        format!(",\n{}", sarif::changes(path, changes))
    }

    fn closing(&self, summary: &Summary, left_out: &[(PathBuf, Skip)]) -> String {
        sarif::closing(summary.failed == 0, left_out)
    }
}
