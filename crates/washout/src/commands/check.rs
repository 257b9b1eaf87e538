//! `washout check`: a gate that changes nothing.

use std::collections::BTreeMap;
use std::io::{self, BufRead, BufReader, Write};
use std::path::PathBuf;

use clap::ArgMatches;
use washout_core::observe::PlacedChange;
use washout_core::{Program, RuleName};
use washout_files::{Aim, Charsets, Chosen, Follow, Recorder, Replacing, Run, Skip, State, Take};

use crate::args::{CheckArgs, CheckFormat};
use crate::exit::{Exit, Trouble};
use crate::files::{chosen, start_threads_for};
use crate::interrupt;
use crate::json;
use crate::out::{plain_stdout, print_failed, print_warning};
use crate::report::change_line;
use crate::rules;
use crate::sarif;
use crate::show::command_line::typed;
use crate::show::number::{counted, grouped};
use crate::show::progress::ProgressMeter;
use crate::show::summary::Summary;
use crate::show::visible::{shown, shown_cell, shown_path};

/// Runs the command.
pub(crate) fn run(args: &CheckArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let (program, _) = rules::program(&args.rules, given)?;
    let program = program.with_table(args.table.settings());
    if args.paths.is_empty() && args.choice.files_from.is_none() {
        return Err(Trouble::Usage("name the files or folders to check".to_owned()));
    }
    let chosen = chosen(Take::Contents, &args.paths, &args.choice, None, "check")?;
    start_threads_for(args.choice.jobs, chosen.files.iter().map(|file| &file.path), false);
    let charsets = Charsets { from: args.charset.encoding, to: None };
    let format = if args.json { CheckFormat::Json } else { args.format };
    let mut out = plain_stdout();
    let Checked { summary, found, left_out } =
        CheckRun { program: &program, format, charsets }.run(&chosen, &mut out)?;
    out.flush()?;
    print_left_out(&left_out)?;
    if interrupt::watch().is_requested() {
        return Ok(Exit::Interrupted);
    }
    if found > 0 {
        print_found(&summary, found)?;
    }
    Ok(match (summary.failed, found) {
        (0, 0) => Exit::Done,
        (0, _) => Exit::Found,
        _ => Exit::SomeFailed,
    })
}

/// What was found, and what to type next, for people: on standard error.
fn print_found(summary: &Summary, found: u64) -> io::Result<()> {
    let mut err = anstream::stderr();
    let files = counted(summary.changed, "file");
    writeln!(err, "washout: {} in {files} would change", counted(found, "place"))?;
    if let Some(command) = typed(Some(("check", "clean")), &[("--format", true), ("--json", false)]) {
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
    /// How many places would change.
    found: u64,
    /// What was found in folders and not looked at.
    left_out: Vec<(PathBuf, Skip)>,
}

struct CheckRun<'p> {
    program: &'p Program,
    format: CheckFormat,
    charsets: Charsets,
}

impl CheckRun<'_> {
    /// Checks all files and writes what is found.
    fn run(&self, chosen: &Chosen, out: &mut impl Write) -> Result<Checked, Trouble> {
        let names = self.program.names();
        let mut summary = Summary::new(names.len());
        chosen.skipped.iter().for_each(|(_, skip)| summary.skip(*skip));
        for (path, error) in &chosen.failed {
            summary.failed += 1;
            print_failed(path, error, out)?;
        }
        let recorder: Box<Recorder<'_>> = match self.format {
            CheckFormat::Text => text_recorder(names),
            CheckFormat::Json => Box::new(move |file, change, out| change_line(names, file, change, out)),
            CheckFormat::Sarif => sarif::recorder(names),
        };
        match self.format {
            CheckFormat::Text => {}
            CheckFormat::Json => write!(out, "{}", json::OPENING_OF_CHECK)?,
            CheckFormat::Sarif => write!(out, "{}", sarif::opening(names))?,
        }
        let (mut found, mut left_out) = (0, chosen.skipped.clone());
        let mut written = Ok(());
        let progress = ProgressMeter::over(&chosen.files);
        let run = Run {
            program: self.program,
            aim: &Aim::Preview,
            follow: Follow { hunks: 0, record: Some(&*recorder) },
            first_lines: None,
            stop: interrupt::watch(),
            meter: progress.meter(),
            charsets: self.charsets,
            replacing: Replacing::default(),
            keeper: None,
        };
        run.wash_all(&chosen.files, |report| {
            summary.add(&report);
            if written.is_ok() {
                written = progress.aside(|| match report.state {
                    State::Failed(error) => print_failed(&report.path, &error, out),
                    State::Changed(_, Some(followed)) => match followed.record {
                        Some(record) => copy_lines(record, self.format, &mut found, out),
                        None => Ok(()),
                    },
                    State::Skipped(why) => {
                        left_out.push((report.path, why));
                        Ok(())
                    }
                    State::Changed(_, None) | State::Unchanged(_) => Ok(()),
                });
            }
        });
        drop(progress);
        written?;
        match self.format {
            CheckFormat::Text => {}
            CheckFormat::Json => json::close_check(&summary, &left_out, out)?,
            CheckFormat::Sarif => write!(out, "{}", sarif::closing(summary.failed == 0, &left_out))?,
        }
        Ok(Checked { summary, found, left_out })
    }
}

/// Copies records, a line each; between values of a list stand commas.
fn copy_lines(record: impl io::Read, format: CheckFormat, found: &mut u64, out: &mut impl Write) -> io::Result<()> {
    for line in BufReader::new(record).split(b'\n') {
        let line = line?;
        match format {
            CheckFormat::Text => {}
            CheckFormat::Json | CheckFormat::Sarif if *found == 0 => out.write_all(b"\n")?,
            CheckFormat::Json | CheckFormat::Sarif => out.write_all(b",\n")?,
        }
        out.write_all(&line)?;
        if format == CheckFormat::Text {
            out.write_all(b"\n")?;
        }
        *found += 1;
    }
    Ok(())
}

/// `file:line:column: rule 3: what it does`; in a table `file:record:field`.
fn text_recorder(names: &[RuleName]) -> Box<Recorder<'_>> {
    let summary: Vec<String> =
        names.iter().map(|name| format!("rule {}: {}", shown(&name.number), shown(&name.caption))).collect();
    Box::new(move |file, change, out| {
        let PlacedChange { line, column, rule, .. } = change;
        let place = match &change.cell {
            None => format!("{line}:{column}"),
            Some(place) => shown_cell(place, ":"),
        };
        out.extend(format!("{}:{place}: {}\n", shown_path(file), summary[rule.0]).into_bytes());
    })
}
