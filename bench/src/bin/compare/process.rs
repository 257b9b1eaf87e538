//! Ways to do the work, each a process of its own.

use std::error::Error;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use wait4::Wait4;

use washout_bench::TWELVE_PATTERNS;

use crate::plain;

/// What one process took.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Cost {
    pub(crate) time: Duration,
    /// Peak memory, in bytes.
    pub(crate) memory: u64,
}

/// The programs there are, and a folder for what they read and write.
pub(crate) struct Ways {
    washout: PathBuf,
    this: PathBuf,
    pub(crate) folder: PathBuf,
}

impl Ways {
    pub(crate) fn new(washout: PathBuf, folder: &Path) -> Result<Self, Box<dyn Error>> {
        fs::write(folder.join("plain.py"), plain::python(TWELVE_PATTERNS))?;
        fs::write(folder.join("plain-line.py"), plain::python(plain::LINE_PATTERNS))?;
        Ok(Self { washout, this: std::env::current_exe()?, folder: folder.to_owned() })
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.join(name)
    }

    /// Washout from one file to another, on that many threads.
    pub(crate) fn washout(&self, rules: &str, threads: usize, from: &Path, to: &Path) -> Result<Cost, Box<dyn Error>> {
        let mut command = self.washout_command(rules, threads);
        run(command.arg("--stdout").arg(from).stdout(File::create(to)?))
    }

    /// Washout with rules that are too much work on that file, or are not: how long it takes to its end or its error.
    pub(crate) fn washout_ends(&self, rules: &str, from: &Path, too_hard: bool) -> Result<Cost, Box<dyn Error>> {
        let mut command = self.washout_command(rules, 1);
        let start = Instant::now();
        let mut child = command.arg("--stdout").arg(from).stdout(Stdio::null()).stderr(Stdio::null()).spawn()?;
        let ended = child.wait4()?;
        let expected = if too_hard { 3 } else { 0 };
        if ended.status.code() != Some(expected) {
            return Err(format!("{command:?} ended with {}, not {expected}", ended.status).into());
        }
        Ok(Cost { time: start.elapsed(), memory: ended.rusage.maxrss })
    }

    /// The same twice at the same time, each on one thread: how long both take. The memory is that of one.
    pub(crate) fn washout_twice(&self, rules: &str, from: &Path, to: [&Path; 2]) -> Result<Cost, Box<dyn Error>> {
        let mut other = self.washout_command(rules, 1);
        let start = Instant::now();
        let mut other = other.arg("--stdout").arg(from).stdout(File::create(to[1])?).spawn()?;
        let one = self.washout(rules, 1, from, to[0])?;
        if !other.wait()?.success() {
            return Err("one of two commands failed".into());
        }
        Ok(Cost { time: start.elapsed(), ..one })
    }

    /// Washout with these words: how long it takes, however it ends; what it says is thrown away.
    pub(crate) fn washout_says(&self, words: &[&str]) -> Result<Cost, Box<dyn Error>> {
        let mut command = self.command();
        command.args(words).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::null());
        let start = Instant::now();
        let ended = command.spawn()?.wait4()?;
        if ended.status.code().is_none() {
            return Err(format!("{command:?} ended with {}", ended.status).into());
        }
        Ok(Cost { time: start.elapsed(), memory: ended.rusage.maxrss })
    }

    pub(crate) fn washout_command(&self, rules: &str, threads: usize) -> Command {
        let mut command = self.command();
        command.args(["clean", "-r", rules, "--jobs", &threads.to_string()]);
        command
    }

    /// In the folder, with a history of its own.
    fn command(&self) -> Command {
        let mut command = Command::new(&self.washout);
        command.current_dir(&self.folder).env("XDG_STATE_HOME", self.path("state"));
        command
    }

    pub(crate) fn washout_version(&self) -> Result<Cost, Box<dyn Error>> {
        run(Command::new(&self.washout).arg("--version").stdout(Stdio::null()))
    }

    /// Another way this program knows.
    pub(crate) fn plain(&self, way: &str, paths: &[&Path]) -> Result<Cost, Box<dyn Error>> {
        run(Command::new(&self.this).arg(way).args(paths).stdout(Stdio::null()))
    }

    /// Writes a text.
    pub(crate) fn text(&self, to: &Path, what: &str, bytes: usize, dirt: &str) -> Result<Cost, Box<dyn Error>> {
        run(Command::new(&self.this).arg("text").arg(to).args([what, &bytes.to_string(), dirt]))
    }

    /// One of the loops in Python.
    pub(crate) fn python(&self, script: &str, paths: &[&Path]) -> Result<Cost, Box<dyn Error>> {
        run(Command::new("python3").arg(self.path(script)).args(paths))
    }
}

/// Runs a process to its end.
pub(crate) fn run(command: &mut Command) -> Result<Cost, Box<dyn Error>> {
    fed(command, |_| Ok(()))
}

/// The same with what `feed` writes to its standard input.
pub(crate) fn fed(
    command: &mut Command,
    feed: impl FnOnce(&mut dyn Write) -> std::io::Result<()>,
) -> Result<Cost, Box<dyn Error>> {
    let start = Instant::now();
    let mut child = command.stdin(Stdio::piped()).spawn()?;
    if let Some(mut input) = child.stdin.take() {
        feed(&mut input)?;
    }
    let ended = child.wait4()?;
    if !ended.status.success() {
        return Err(format!("{command:?} failed: {}", ended.status).into());
    }
    Ok(Cost { time: start.elapsed(), memory: ended.rusage.maxrss })
}

/// The best of some rounds.
pub(crate) fn best(costs: impl IntoIterator<Item = Cost>) -> Option<Cost> {
    costs.into_iter().min_by_key(|cost| cost.time)
}

/// How many times as long one way took as the other: the middle of the rounds. The two of a round ran one right after the
/// other, so that a machine that others use too, fast now and slow then, was about as fast for both.
pub(crate) fn times_as_long(one: &[Cost], other: &[Cost]) -> f64 {
    let mut ratios: Vec<f64> =
        one.iter().zip(other).map(|(one, other)| one.time.as_secs_f64() / other.time.as_secs_f64()).collect();
    ratios.sort_by(f64::total_cmp);
    ratios.get(ratios.len() / 2).copied().unwrap_or(f64::NAN)
}
