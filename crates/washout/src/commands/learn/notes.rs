//! Notes about rules that were learnt: what they leave open, and what they make of other lines.

use std::io::{self, Write};
use std::path::Path;

use washout_core::learn::{Difference, Doubt, LearnError, Learnt, Pair, Reading};

use super::input::OtherLines;
use crate::args::LearnArgs;
use crate::show::command_line::{program_name, quoted as quoted_argument};
use crate::show::number::counted;
use crate::show::screen::Screen;
use crate::show::style::{GONE, NEW, QUIET, STRONG};
use crate::show::summary::advise;
use crate::show::visible::{drawn, drawn_within, shown_path};

/// The most lines that are shown of those that change.
const MOST_SHOWN: usize = 8;

pub(super) fn saved(path: &Path, out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "{STRONG}{} is written.{STRONG:#}", shown_path(path))
}

pub(super) fn found(learnt: &Learnt, pairs: &[Pair], out: &mut impl Write) -> io::Result<()> {
    let rules = counted(learnt.readings[0].rules.len() as u64, "rule");
    let verb = if learnt.readings[0].rules.len() == 1 { "makes" } else { "make" };
    let pairs = match pairs.len() {
        1 => "the pair".to_owned(),
        count => format!("all {}", counted(count as u64, "pair")),
    };
    writeln!(out, "{STRONG}{rules} {verb} {pairs}.{STRONG:#}")
}

/// The readings that differ, each with what it makes of a line.
pub(super) fn open(args: &LearnArgs, learnt: &Learnt, out: &mut impl Write) -> io::Result<()> {
    let Some(Difference { line, .. }) = learnt.readings.get(1).and_then(|reading| reading.differs.as_ref()) else {
        return Ok(());
    };
    writeln!(out, "\nThe pairs can be read in other ways, which differ on other lines:")?;
    let columns = Screen::of_stdout().columns.saturating_sub(24).max(20);
    for reading in &learnt.readings[1..] {
        let Some(differs) = &reading.differs else { continue };
        for rule in &reading.rules {
            writeln!(out, "  {}", drawn(rule.as_bytes()))?;
        }
        writeln!(out, "      of          {}", quoted(&differs.line, columns))?;
        writeln!(out, "      makes       {NEW}{}{NEW:#}", quoted(&differs.this, columns))?;
        writeln!(out, "      instead of  {}", quoted(&differs.first, columns))?;
    }
    if !args.ask {
        writeln!(out, "To say which is meant, let --ask ask you, or add what such a line should become:")?;
        writeln!(out, "  --pair {} '…'", quoted_argument(line))?;
    }
    Ok(())
}

fn quoted(text: &str, columns: usize) -> String {
    format!("“{}”", drawn_within(text.as_bytes(), columns))
}

/// What the rules make of other lines: doubtful ones first.
pub(super) fn others(args: &LearnArgs, learnt: &Learnt, others: &OtherLines, out: &mut impl Write) -> io::Result<()> {
    if args.others.is_empty() {
        return Ok(());
    }
    let mut results = learnt.on(&others.lines);
    let changed = results.iter().filter(|result| result.line != result.becomes).count();
    results.retain(|result| result.line != result.becomes || result.doubt.is_some());
    results.sort_by_key(|result| result.doubt.is_none());
    let what = if args.names { "different name" } else { "different line" };
    let cut = if others.is_cut { " that were looked at (there are more, or longer ones)" } else { "" };
    let all = counted(others.lines.len() as u64, what);
    writeln!(out, "\n{STRONG}Of {all}{cut}, {changed} change.{STRONG:#}")?;
    let columns = Screen::of_stdout().columns.saturating_sub(8).max(20);
    for result in results.iter().take(MOST_SHOWN) {
        let doubt = result.doubt.map_or("", doubt_words);
        let columns = columns.saturating_sub(doubt.len()).max(20);
        let (before, after) = (
            from_difference(&result.line, &result.becomes, columns),
            from_difference(&result.becomes, &result.line, columns),
        );
        writeln!(out, "  {GONE}{before}{GONE:#}{QUIET}{doubt}{QUIET:#}")?;
        if result.line == result.becomes {
            writeln!(out, "    stays")?;
        } else {
            writeln!(out, "    {NEW}{after}{NEW:#}")?;
        }
    }
    if results.len() > MOST_SHOWN {
        writeln!(out, "{QUIET}  and {} more{QUIET:#}", results.len() - MOST_SHOWN)?;
    }
    Ok(())
}

/// A text that differs from another, in at most `columns` columns: where it is too long for them, without most of what is before the
/// first difference.
fn from_difference(text: &str, other: &str, columns: usize) -> String {
    const KEPT: usize = 12;
    let same = text.chars().zip(other.chars()).take_while(|(one, other)| one == other).count();
    if text.chars().count() <= columns || same <= KEPT {
        return quoted(text, columns);
    }
    let rest: String = text.chars().skip(same - KEPT).collect();
    format!("“…{}”", drawn_within(rest.as_bytes(), columns - 1))
}

fn doubt_words(doubt: Doubt) -> &'static str {
    match doubt {
        Doubt::Emptied => "  nothing is left",
        Doubt::Open => "  another reading differs",
        Doubt::LosesDigits => "  digits go",
        _ => "",
    }
}

/// What to do with a set that is saved.
pub(super) fn next(args: &LearnArgs, path: &Path, out: &mut impl Write) -> io::Result<()> {
    let (program, set) = (program_name(), quoted_argument(&path.to_string_lossy()));
    writeln!(out)?;
    advise("To prove it with its examples:  ", &format!("{program} test {set}"), out)?;
    let command = if args.names { "names" } else { "clean" };
    let on = args.others.first().map_or("PATH...".to_owned(), |path| quoted_argument(&path.to_string_lossy()));
    advise("To look at what it changes:     ", &format!("{program} {command} -r {set} {on}"), out)
}

/// Why there are no rules, and what to do.
pub(super) fn refusal(error: &LearnError, pairs: &[Pair]) -> String {
    let drawn_pair = |number: usize| {
        let pair = &pairs[number];
        format!("  “{}” → “{}”", drawn_within(pair.before.as_bytes(), 60), drawn_within(pair.after.as_bytes(), 60))
    };
    match error {
        LearnError::Contradiction(one, other) => {
            format!("{error}:\n{}\n{}\nTake one of them out.", drawn_pair(*one), drawn_pair(*other))
        }
        LearnError::Unexplained(pair) => format!(
            "{error}:\n{}\nWhat it should become is not made of its own words, or not as in the other pairs. More pairs of the same kind \
             may help; pairs of different kinds are better learnt one kind at a time. --literal makes a table of the pairs.",
            drawn_pair(*pair)
        ),
        LearnError::Ended => format!("{error}: --seconds allows more"),
        _ => error.to_string(),
    }
}

/// The rules of a reading on one line each, for a question.
pub(super) fn rules_of(reading: &Reading) -> String {
    reading.rules.iter().map(|rule| drawn(rule.as_bytes())).collect::<Vec<_>>().join("; ")
}
