//! A run over files: previews, results, the summary.

use std::io::{self, Write};

use washout_core::RuleName;
use washout_files::{
    Aim, Charsets, Chosen, FileReport, Follow, Followed, Keeper, Recorder, Replacing, Run, State, Stop,
};

use super::{judge_parts, way_back};
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::{print_failed, print_table_notes};
use crate::project::Part;
use crate::record::EachChange;
use crate::report::{ChangeJson, Reports};
use crate::show::command_line::typed;
use crate::show::number::counted;
use crate::show::preview::{Amount, DrawnHunks, MOST_FILES, Preview};
use crate::show::progress::ProgressMeter;
use crate::show::screen::Screen;
use crate::show::summary::{Summary, Tense, advise};
use crate::show::unmet;
use crate::show::visible::shown_path;

/// A program, what happens to its results, and how much of them is shown.
pub(crate) struct Job<'p> {
    /// The files, by the rules for them. All programs have the same names of rules.
    pub(crate) parts: &'p [Part],
    pub(crate) aim: Aim,
    pub(crate) amount: Amount,
    pub(crate) first_lines: Option<u64>,
    pub(crate) charsets: Charsets,
    pub(crate) replacing: Replacing,
    /// One value for programs instead of what people read.
    pub(crate) json: bool,
}

impl Job<'_> {
    pub(super) fn run(
        &self,
        chosen: &mut Chosen,
        mut reports: Reports,
        keeper: Option<Keeper>,
        stop: &Stop,
        out: &mut impl Write,
    ) -> Result<Exit, Trouble> {
        let unmet = judge_parts(self.parts, &mut chosen.files, self.charsets, stop);
        if !unmet.is_empty() && !self.previews() && !stop.is_requested() {
            unmet::draw(&unmet, self.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
        let mut files = self.json.then(|| json::clean::FilesJson::new(chosen));
        let summary = (files.as_mut(), keeper.as_ref());
        let summary = self.wash_told(chosen, &mut reports, summary, stop, out)?;
        let reported = reports.finish(self.names(), &summary, self.previews())?;
        if let Some(files) = files {
            let run = way_back(keeper, summary.changes(), &mut io::sink())?;
            json::write(&files.value(self.names(), &summary, self.previews(), run))?;
        } else {
            let tense = if self.previews() { Tense::Would } else { Tense::Did };
            summary.draw(self.names(), tense, Screen::of_stdout(), out)?;
            for path in &reported {
                writeln!(out, "The report is in {}", shown_path(path))?;
            }
            way_back(keeper, summary.changes(), out)?;
        }
        summary.print_cautions()?;
        let exit = self.verdict(chosen, &summary, stop, out)?;
        if exit != Exit::Interrupted && !unmet.is_empty() {
            out.flush()?;
            unmet::draw(&unmet, self.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
        if exit != Exit::Interrupted && !self.json {
            self.advise(&summary, out)?;
        }
        out.flush()?;
        Ok(exit)
    }

    fn verdict(&self, chosen: &Chosen, summary: &Summary, stop: &Stop, out: &mut impl Write) -> io::Result<Exit> {
        if stop.is_requested() {
            let left = (chosen.files.len() as u64).saturating_sub(summary.seen());
            out.flush()?;
            let message = format!("Interrupted: {} not started; what was finished stays", counted(left, "file"));
            if self.json {
                writeln!(anstream::stderr(), "washout: {message}")?;
            } else {
                writeln!(out, "{message}")?;
            }
            return Ok(Exit::Interrupted);
        }
        Ok(if summary.failed > 0 { Exit::SomeFailed } else { Exit::Done })
    }

    fn names(&self) -> &[RuleName] {
        self.parts.first().map_or(&[], |part| part.program.names())
    }

    fn previews(&self) -> bool {
        matches!(self.aim, Aim::Preview)
    }

    /// Washes all files; shows previews on `out` and failures on standard error as they come.
    pub(crate) fn wash(&self, chosen: &Chosen, stop: &Stop, out: &mut impl Write) -> Result<Summary, Trouble> {
        self.wash_told(chosen, &mut Reports::default(), (None, None), stop, out)
    }

    fn wash_told(
        &self,
        chosen: &Chosen,
        reports: &mut Reports,
        (mut files, keeper): (Option<&mut json::clean::FilesJson>, Option<&Keeper>),
        stop: &Stop,
        out: &mut impl Write,
    ) -> Result<Summary, Trouble> {
        let names = self.names();
        let mut summary = Summary::new(names.len());
        let mut preview = Preview::new(names, Screen::of_stdout(), self.amount);
        chosen.skipped.iter().for_each(|(_, skip)| summary.skip(*skip));
        for (path, error) in &chosen.failed {
            summary.failed += 1;
            print_failed(path, error, out)?;
        }
        let mut written = Ok(());
        let progress = ProgressMeter::over(&chosen.files);
        let shows = self.previews() && !self.json;
        let drawn = (shows && self.amount == Amount::All).then(|| DrawnHunks::new(names, Screen::of_stdout()));
        let lines = reports.want_lines().then(|| EachChange::lines(ChangeJson::new(names)));
        let of_hunks = drawn.as_ref().map(|drawn| drawn as &dyn Recorder);
        let of_changes = lines.as_ref().map(|lines| lines as &dyn Recorder);
        let recorders: Vec<&dyn Recorder> = of_hunks.into_iter().chain(of_changes).collect();
        let shown = if shows { self.amount.hunks() } else { 0 };
        let follow = Follow {
            hunks: shown.max(reports.hunks()),
            files: if reports.hunks() > 0 { usize::MAX } else { MOST_FILES },
            only: false,
            recorders: &recorders,
        };
        let run = |program| Run {
            follow,
            first_lines: self.first_lines,
            charsets: self.charsets,
            replacing: self.replacing,
            keeper,
            ..Run::new(program, &self.aim, stop, progress.meter())
        };
        let mut take = |report: FileReport| {
            summary.add(&report);
            if written.is_ok() {
                written = progress.aside(|| {
                    if let Some(files) = files.as_deref_mut() {
                        files.add(&report);
                    }
                    match report.state {
                        State::Failed(error) => print_failed(&report.path, &error, out),
                        State::Skipped(_) => Ok(()),
                        State::Unchanged(washed) => print_table_notes(&report.path, &washed, out),
                        State::Changed(washed, followed) => {
                            print_table_notes(&report.path, &washed, out)?;
                            let Some(Followed { excerpt, records }) = followed else {
                                preview.hidden_files += u64::from(shows);
                                return Ok(());
                            };
                            let mut records = records.into_iter();
                            let drawn = drawn.as_ref().and_then(|_| records.next());
                            if shows {
                                preview.file(&report.path, &washed, &excerpt, drawn, out)?;
                            }
                            reports.add(&report.path, &washed, &excerpt, records.next())
                        }
                    }
                });
            }
        };
        for part in self.parts {
            run(&part.program).wash_all(&chosen.files[part.files.clone()], &mut take);
        }
        drop(progress);
        written?;
        if preview.hidden_files > 0 {
            let more = counted(preview.hidden_files, "more file");
            writeln!(out, "… and {more} with changes; --all shows them\n")?;
        }
        Ok(summary)
    }

    fn advise(&self, summary: &Summary, out: &mut impl Write) -> io::Result<()> {
        match &self.aim {
            Aim::Preview if summary.changed > 0 => {
                writeln!(out, "\nNothing was written. To write:")?;
                // What only looks is left out: it cannot stand beside what writes.
                let write = |how: &str| match typed(None, &[("--first", true), ("--all", false)]) {
                    Some(typed) => format!("{typed} {how}"),
                    None => format!("the same again with {how}"),
                };
                advise("  cleaned copies    ", &write("--into cleaned"), out)?;
                advise("  the files in place", &write("--write"), out)
            }
            Aim::Preview if summary.unchanged > 0 => {
                writeln!(out, "\nNothing to clean: no rule changes anything here.")
            }
            Aim::Into { folder, .. } if summary.changed + summary.unchanged > 0 => {
                writeln!(out, "The cleaned copies are in {}", shown_path(folder))
            }
            Aim::Preview | Aim::Into { .. } | Aim::Write => Ok(()),
        }
    }
}
