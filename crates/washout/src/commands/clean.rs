//! `washout clean`

use std::fs::File;
use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::{Caution, Program, cautions};
use washout_files::{
    Aim, Chosen, FileError, FileReport, State, Stop, judge, wash_all, wash_stream, wash_stream_judged,
};

use crate::args::CleanArgs;
use crate::exit::{Exit, Trouble};
use crate::files::chosen;
use crate::interrupt;
use crate::rules;
use crate::sample::sample;
use crate::show::command_line::typed_with;
use crate::show::number::counted;
use crate::show::preview::{Amount, Preview};
use crate::show::progress::Progress;
use crate::show::screen::Screen;
use crate::show::summary::{Summary, Tense, advise, stream_line};
use crate::show::unmet;
use crate::show::visible::{shown, shown_path};

/// Runs the command.
pub(crate) fn run(args: &CleanArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let (program, sets) = rules::program(&args.rules, given)?;
    let filters = is_filter(args)?;
    // In a script that filters there is nothing on standard error unless something is wrong.
    if (filters || args.stdout) && io::stderr().is_terminal() {
        say_cautions(&cautions(&sets, &program, &[]))?;
    }
    if filters {
        return filter(&program, &mut io::stdin().lock());
    }
    if args.stdout {
        return one_to_stdout(&program, &args.paths);
    }
    let mut chosen = chosen(&args.paths, &args.choice, args.into.as_deref(), "clean")?;
    // A preview also tries a second run over the start of the first file.
    let previews = !args.write && args.into.is_none();
    let first = chosen
        .files
        .first()
        .filter(|_| previews)
        .and_then(|file| sample(&file.path).ok())
        .filter(|sample| !sample.text.contains(&0));
    say_cautions(&cautions(&sets, &program, first.as_slice()))?;
    let amount = if args.all { Amount::All } else { Amount::Some };
    let job = Job { program: &program, aim: aim(args, amount), amount };
    job.run(&mut chosen, interrupt::watch(), &mut buffered_stdout())
}

/// What to be careful about, a line each.
fn say_cautions(cautions: &[Caution]) -> io::Result<()> {
    let mut err = anstream::stderr();
    cautions.iter().try_for_each(|caution| {
        writeln!(err, "washout: caution, {}: {}", shown(&caution.about), shown(&caution.message))
    })
}

/// Standard output with a buffer; colours are dropped behind it where they are not wanted.
pub(crate) fn buffered_stdout() -> impl Write {
    io::BufWriter::with_capacity(64 << 10, anstream::stdout())
}

fn aim(args: &CleanArgs, amount: Amount) -> Aim {
    match &args.into {
        Some(folder) => Aim::Into { folder: folder.clone(), overwrite: args.overwrite },
        None if args.write => Aim::Write,
        None => Aim::Preview { hunks: amount.hunks() },
    }
}

/// Whether standard input is cleaned to standard output.
fn is_filter(args: &CleanArgs) -> Result<bool, Trouble> {
    let dash = Path::new("-");
    let named = args.paths.iter().any(|path| path == dash);
    if (!args.paths.is_empty() || args.choice.files_from.is_some()) && !named {
        return Ok(false);
    }
    if args.paths.len() > 1 {
        return Err(Trouble::Usage("`-` is standard input, and stands alone".to_owned()));
    }
    if args.write || args.into.is_some() {
        let option = if args.write { "--write" } else { "--into" };
        return Err(Trouble::Usage(format!("{option} needs the files or folders to clean")));
    }
    if !named && io::stdin().is_terminal() {
        return Err(Trouble::Usage(format!(
            "nothing to clean: name files or folders, or pipe text in\n\
             Look at the changes:  {}\n\
             Clean a stream:       {}",
            typed_with("PATH..."),
            typed_with("< FILE > RESULT")
        )));
    }
    Ok(true)
}

fn filter(program: &Program, input: &mut impl io::Read) -> Result<Exit, Trouble> {
    let mut output = io::stdout().lock();
    let washed = if program.expectations().is_empty() {
        wash_stream(program, input, &mut output).map_err(Trouble::Stream)?
    } else {
        let (washed, unmet) = wash_stream_judged(program, input, &mut output).map_err(Trouble::Stream)?;
        if !unmet.is_empty() {
            unmet::draw(&unmet, program.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
        washed
    };
    // Only for eyes: in a script there is nothing on standard error.
    if io::stderr().is_terminal() && !io::stdout().is_terminal() {
        writeln!(anstream::stderr(), "{}", stream_line(&washed))?;
    }
    Ok(Exit::Done)
}

fn one_to_stdout(program: &Program, paths: &[PathBuf]) -> Result<Exit, Trouble> {
    let [path] = paths else {
        return Err(Trouble::Usage("--stdout takes one file; --into writes copies of several".to_owned()));
    };
    let failed = |error| Trouble::File(shown_path(path), error);
    if std::fs::metadata(path).map_err(failed)?.is_dir() {
        return Err(Trouble::Usage(format!("--stdout takes one file, and {} is a folder", shown_path(path))));
    }
    filter(program, &mut File::open(path).map_err(failed)?)
}

/// A program, what becomes of its results, and how much of them is shown.
pub(crate) struct Job<'p> {
    pub(crate) program: &'p Program,
    pub(crate) aim: Aim,
    pub(crate) amount: Amount,
}

impl Job<'_> {
    fn run(&self, chosen: &mut Chosen, stop: &Stop, out: &mut impl Write) -> Result<Exit, Trouble> {
        let judged = !self.program.expectations().is_empty();
        let unmet = if judged { judge(self.program, &mut chosen.files, stop) } else { Vec::new() };
        let previews = matches!(self.aim, Aim::Preview { .. });
        if !unmet.is_empty() && !previews && !stop.is_requested() {
            unmet::draw(&unmet, self.program.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
        let summary = self.wash(chosen, stop, out)?;
        let tense = if matches!(self.aim, Aim::Preview { .. }) { Tense::Would } else { Tense::Did };
        summary.draw(self.program.names(), tense, Screen::of_stdout(), out)?;
        if stop.is_requested() {
            let left = (chosen.files.len() as u64).saturating_sub(summary.seen());
            writeln!(out, "Interrupted: {} not started; what was finished stays", counted(left, "file"))?;
            out.flush()?;
            return Ok(Exit::Interrupted);
        }
        if !unmet.is_empty() {
            out.flush()?;
            unmet::draw(&unmet, self.program.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
        self.advise(&summary, out)?;
        out.flush()?;
        Ok(if summary.failed > 0 { Exit::SomeFailed } else { Exit::Done })
    }

    /// Washes all files; shows previews on `out` and failures on standard error as they come.
    pub(crate) fn wash(&self, chosen: &Chosen, stop: &Stop, out: &mut impl Write) -> Result<Summary, Trouble> {
        let names = self.program.names();
        let mut summary = Summary::new(names.len());
        let mut preview = Preview::new(names, Screen::of_stdout(), self.amount);
        chosen.skipped.iter().for_each(|(_, skip)| summary.skip(*skip));
        for (path, error) in &chosen.failed {
            summary.failed += 1;
            say_failed(path, error, out)?;
        }
        let mut written = Ok(());
        let progress = Progress::over(&chosen.files);
        wash_all(self.program, &chosen.files, &self.aim, stop, progress.meter(), |report| {
            summary.add(&report);
            if written.is_ok() {
                written = progress.aside(|| Self::show(&report, &mut preview, out));
            }
        });
        drop(progress);
        written?;
        if preview.hidden_files > 0 {
            let more = counted(preview.hidden_files, "more file");
            writeln!(out, "… and {more} with changes; --all shows them\n")?;
        }
        Ok(summary)
    }

    fn show(report: &FileReport, preview: &mut Preview<'_>, out: &mut impl Write) -> io::Result<()> {
        match &report.state {
            State::Changed(washed, Some(excerpt)) => preview.file(&report.path, washed, excerpt, out),
            State::Failed(error) => say_failed(&report.path, error, out),
            State::Changed(_, None) | State::Unchanged(_) | State::Skipped(_) => Ok(()),
        }
    }

    fn advise(&self, summary: &Summary, out: &mut impl Write) -> io::Result<()> {
        match &self.aim {
            Aim::Preview { .. } if summary.changed > 0 => {
                writeln!(out, "\nNothing was written. To write:")?;
                advise("  cleaned copies    ", &typed_with("--into cleaned"), out)?;
                advise("  the files in place", &typed_with("--write"), out)
            }
            Aim::Preview { .. } if summary.unchanged > 0 => {
                writeln!(out, "\nNothing to clean: no rule changes anything here.")
            }
            Aim::Into { folder, .. } if summary.changed + summary.unchanged > 0 => {
                writeln!(out, "The cleaned copies are in {}", shown_path(folder))
            }
            Aim::Preview { .. } | Aim::Into { .. } | Aim::Write => Ok(()),
        }
    }
}

/// A file that could not be done, on standard error; what was shown before it comes first.
fn say_failed(path: &Path, error: &FileError, out: &mut impl Write) -> io::Result<()> {
    // Where a copy is refused, nobody fears for the file itself.
    let fate = if matches!(error, FileError::CopyExists(_)) { "" } else { "; left as it was" };
    say(path, error, fate, out)
}

/// A file that could not be read, on standard error; what was shown before it comes first.
pub(crate) fn say_left(path: &Path, error: &FileError, out: &mut impl Write) -> io::Result<()> {
    say(path, error, "", out)
}

fn say(path: &Path, error: &FileError, fate: &str, out: &mut impl Write) -> io::Result<()> {
    out.flush()?;
    writeln!(anstream::stderr(), "washout: {}: {}{}", shown_path(path), shown(&error.to_string()), fate)
}
