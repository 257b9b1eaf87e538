//! `washout trace`

mod subject;

use crate::traced::Traced;
use std::io::{self, Write};

use clap::ArgMatches;
use washout_core::explain::Sample;
use washout_core::text::TextSize;
use washout_core::trace::Step;
use washout_core::{Program, RuleError};

use crate::args::TraceArgs;
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::buffered_stdout;
use crate::rules::{self, name_settings};
use crate::show::difference::Difference;
use crate::show::hunk::HunkDrawer;
use crate::show::number::{counted, grouped};
use crate::show::preview::legend;
use crate::show::screen::Screen;
use crate::show::style::{FILE, QUIET, STRONG};
use crate::show::visible::shown;
use subject::Subject;

/// Rows of changes that are shown of a step.
const ROWS: usize = 18;

/// Runs the command.
pub(crate) fn run(args: &TraceArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let (program, sets) = rules::program(&args.rules, given)?;
    let against = against(args)?;
    let program = program.with_table(args.sample.table.settings());
    let subject = if args.names {
        Subject::name(&args.sample, name_settings(args.part, &sets))?
    } else {
        Subject::text(&args.sample, &program)?
    };
    let mut out = buffered_stdout();
    let exit = match against {
        None => one_way(&program, &subject, args, &mut out)?,
        Some(other) => two_ways(&program, &other.with_table(program.table().clone()), &subject, args, &mut out)?,
    };
    out.flush()?;
    Ok(exit)
}

fn against(args: &TraceArgs) -> Result<Option<Program>, Trouble> {
    if args.against.is_empty() {
        return Ok(None);
    }
    if args.from_rule.is_some() || args.up_to_rule.is_some() {
        let message = "--from-rule and --up-to-rule are for one set of rules: leave --against out".to_owned();
        return Err(Trouble::Usage(message));
    }
    let read: Vec<_> = args.against.iter().map(|path| rules::read_set(path)).collect::<Result<_, Trouble>>()?;
    let sets: Result<Vec<_>, RuleError> = read.into_iter().collect();
    Ok(Some(Program::compile(&sets.map_err(|error| Trouble::Rules(vec![error]))?)))
}

fn one_way(program: &Program, subject: &Subject, args: &TraceArgs, out: &mut impl Write) -> Result<Exit, Trouble> {
    let rule = |name: &Option<String>| name.as_ref().map(|name| rules::named_rule(program, name)).transpose();
    let (first, last) = (rule(&args.from_rule)?, rule(&args.up_to_rule)?);
    let shorter;
    let program = match last {
        Some(last) => {
            shorter = program.part(0..last.0 + 1);
            &shorter
        }
        None => program,
    };
    let first = first.map_or(0, |first| first.0);
    if first >= program.names().len() {
        return Err(Trouble::Usage("--from-rule comes after --up-to-rule".to_owned()));
    }
    let steps = subject.steps(program);
    if steps.steps.is_empty() && steps.failed.is_none() {
        return Err(Trouble::Usage(format!("no rule is for {}", shown(&subject.sample.name))));
    }
    if args.json {
        json::write(&json::trace::value(&subject.sample, &[("first", program, &steps)]))?;
    } else {
        TracePage { program, all: args.all }.draw(&subject.sample, &steps, first, out)?;
    }
    Ok(print_failed(steps.failed.as_deref(), out)?)
}

/// A rule that cannot go on.
fn print_failed(failed: Option<&str>, out: &mut impl Write) -> io::Result<Exit> {
    let Some(error) = failed else { return Ok(Exit::Done) };
    out.flush()?;
    writeln!(anstream::stderr(), "washout: {}", shown(error))?;
    Ok(Exit::SomeFailed)
}

struct TracePage<'p> {
    program: &'p Program,
    all: bool,
}

impl TracePage<'_> {
    fn draw(&self, sample: &Sample, traced: &Traced, first: usize, out: &mut impl Write) -> io::Result<()> {
        let steps = &traced.steps;
        let start = steps.first().map_or(TextSize::default(), |step| step.before);
        writeln!(out, "{FILE}{}{FILE:#}  {}", shown(&sample.name), size(start))?;
        legend(out)?;
        if first > 0 {
            let made: u64 = steps.iter().filter(|step| step.rule.0 < first).map(|step| step.changes).sum();
            let rules = counted(first as u64, "rule");
            writeln!(out, "{QUIET}{rules} before, {} by them{QUIET:#}\n", counted(made, "change"))?;
        }
        for step in steps.iter().filter(|step| step.rule.0 >= first) {
            self.step(step, out)?;
        }
        let (end, busy) = (steps.last(), steps.iter().filter(|step| step.changes > 0).count());
        if let Some(end) = end {
            let rules = counted(steps.len() as u64, "rule");
            writeln!(out, "{STRONG}{busy} of {rules} did something{STRONG:#}  {}\n", from_to(start, end.after))?;
            result(traced.result(sample), out)?;
        }
        for (field, value) in &traced.made {
            writeln!(out, "\n{QUIET}made from it: {}{QUIET:#}", shown(field))?;
            result(value, out)?;
        }
        if let Some(why) = &traced.refused {
            writeln!(out, "\n{STRONG}The name is left alone:{STRONG:#} {}", shown(&why.to_string()))?;
        }
        Ok(())
    }

    fn step(&self, step: &Step, out: &mut impl Write) -> io::Result<()> {
        let name = &self.program.names()[step.rule.0];
        let (number, caption) = (shown(&name.number), shown(&name.caption));
        if step.changes == 0 {
            return writeln!(out, "{QUIET}{number:>4}  {caption}  ← nothing{QUIET:#}\n");
        }
        let changes = counted(step.changes, "change");
        writeln!(
            out,
            "{STRONG}{number:>4}  {caption}{STRONG:#}  {changes}{QUIET}  {}{QUIET:#}\n",
            from_to(step.before, step.after)
        )?;
        let alone = &self.program.names()[step.rule.0..=step.rule.0];
        let drawer = HunkDrawer::without_rules(alone, Screen::of_stdout().columns);
        let (mut rows, mut shown) = (0, 0);
        for hunk in &step.hunks {
            if rows >= ROWS && !self.all {
                break;
            }
            rows += drawer.draw(hunk, out)?;
            shown += 1;
        }
        if shown < step.hunks.len() {
            let more = counted((step.hunks.len() - shown) as u64, "more place");
            writeln!(out, "{QUIET}        … and {more}; --all shows them{QUIET:#}\n")?;
        }
        Ok(())
    }
}

/// Lines of a result that are shown.
const RESULT_LINES: usize = 20;

/// The text in the end.
fn result(text: &[u8], out: &mut impl Write) -> io::Result<()> {
    if text.is_empty() {
        return writeln!(out, "{QUIET}  (nothing is left){QUIET:#}");
    }
    let text = String::from_utf8_lossy(text).replace("\r\n", "\n").replace('\r', "\n");
    let lines: Vec<&str> = text.lines().collect();
    for line in lines.iter().take(RESULT_LINES) {
        writeln!(out, "  {}", shown(line))?;
    }
    if lines.len() > RESULT_LINES {
        let more = counted((lines.len() - RESULT_LINES) as u64, "more line");
        writeln!(out, "{QUIET}  … and {more}{QUIET:#}")?;
    }
    Ok(())
}

fn size(size: TextSize) -> String {
    format!("{}, {}", counted(size.chars, "character"), counted(size.lines, "line"))
}

fn from_to(before: TextSize, after: TextSize) -> String {
    let chars = format!("{} → {}", grouped(before.chars), counted(after.chars, "character"));
    if before.lines == after.lines {
        return chars;
    }
    format!("{chars}, {} → {}", grouped(before.lines), counted(after.lines, "line"))
}

/// Both ways in a table, then the results, and where they differ.
fn two_ways(
    one: &Program,
    other: &Program,
    subject: &Subject,
    args: &TraceArgs,
    out: &mut impl Write,
) -> Result<Exit, Trouble> {
    let (first, second) = (subject.steps(one), subject.steps(other));
    let failed = first.failed.as_deref().or(second.failed.as_deref());
    if args.json {
        json::write(&json::trace::value(&subject.sample, &[("first", one, &first), ("against", other, &second)]))?;
        return Ok(print_failed(failed, out)?);
    }
    let (sample, first, second) = (&subject.sample, &first.steps[..], &second.steps[..]);
    let before = first.first().or(second.first()).map_or(TextSize::default(), |step| step.before);
    writeln!(out, "{FILE}{}{FILE:#}  {}\n", shown(&sample.name), size(before))?;
    ways_table(one, first, other, second, out)?;
    let text = |steps: &[Step]| steps.last().map_or_else(|| sample.text.clone(), |step| step.text.clone());
    let (one_text, other_text) = (text(first), text(second));
    if one_text == other_text {
        writeln!(out, "\n{STRONG}Both give the same text{STRONG:#}\n")?;
        result(&one_text, out)?;
    } else {
        writeln!(out, "\n{STRONG}Where the results differ{STRONG:#}  {QUIET}one: -r, two: --against{QUIET:#}\n")?;
        Difference::between(&one_text, &other_text).draw_as(("one", "two"), Screen::of_stdout().columns, out)?;
    }
    Ok(print_failed(failed, out)?)
}

fn ways_table(one: &Program, first: &[Step], other: &Program, second: &[Step], out: &mut impl Write) -> io::Result<()> {
    use crate::show::table::{keep_whole, right, table, trimmed};
    use comfy_table::Cell;
    let mut table = table(Screen::of_stdout().columns.min(140));
    table.set_header([
        Cell::new("one"),
        right("changes"),
        right("length"),
        Cell::new("  two"),
        right("changes"),
        right("length"),
    ]);
    let cells = |program: &Program, steps: &[Step], index: usize, indent: &str| match steps.get(index) {
        Some(step) => {
            let name = &program.names()[step.rule.0];
            [
                Cell::new(format!("{indent}{}  {}", shown(&name.number), shown(&name.caption))),
                right(grouped(step.changes)),
                right(grouped(step.after.chars)),
            ]
        }
        None => [Cell::new(""), Cell::new(""), Cell::new("")],
    };
    for index in 0..first.len().max(second.len()) {
        let left = cells(one, first, index, "");
        table.add_row(left.into_iter().chain(cells(other, second, index, "  ")));
    }
    keep_whole(&mut table, &[1, 2, 4, 5]);
    writeln!(out, "{}", trimmed(&table))
}
