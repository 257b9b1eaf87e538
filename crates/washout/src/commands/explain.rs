//! `washout explain`

use std::io::{self, Write};

use clap::ArgMatches;
use washout_core::{Caution, Explanation, PatternPiece, RuleId, RuleSet, cautions, explain};

use super::clean::buffered_stdout;
use crate::args::ExplainArgs;
use crate::exit::{Exit, Trouble};
use crate::rules;
use crate::show::number::counted;
use crate::show::screen::Screen;
use crate::show::style::{FILE, GONE, QUIET, STRONG};
use crate::show::visible::{shown, shown_path};
use crate::show::wrap::write_wrapped;

/// Runs the command.
pub(crate) fn run(args: &ExplainArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let sets = rules::sets(&args.rules, given)?;
    let columns = Screen::of_stdout().columns;
    let mut out = buffered_stdout();
    heading(&sets, columns, &mut out)?;
    let cautions = cautions(&sets);
    let explanations = explain(&sets);
    for (index, explanation) in explanations.iter().enumerate() {
        let about: Vec<&Caution> = cautions.iter().filter(|caution| caution.rule == Some(RuleId(index))).collect();
        rule(explanation, &about, columns, &mut out)?;
    }
    for caution in cautions.iter().filter(|caution| caution.rule.is_none()) {
        let text = format!("{}: {}", shown(&caution.about), shown(&caution.message));
        write_wrapped("caution  ", "         ", &text, columns, &mut out)?;
    }
    let rules = counted(explanations.len() as u64, "rule");
    let verdict = match cautions.len() {
        0 => format!("{rules}, nothing to be careful about"),
        many => format!("{rules}, {}", counted(many as u64, "caution")),
    };
    writeln!(out, "{STRONG}{verdict}{STRONG:#}")?;
    out.flush()?;
    Ok(Exit::Done)
}

fn heading(sets: &[RuleSet], columns: usize, out: &mut impl Write) -> io::Result<()> {
    for set in sets {
        let Some(title) = &set.title else { continue };
        writeln!(out, "{FILE}{}{FILE:#}  {STRONG}{}{STRONG:#}", shown_path(set.name.as_ref()), shown(title))?;
        if let Some(about) = &set.about {
            write_wrapped("", "", &shown(about), columns, out)?;
        }
        writeln!(out)?;
    }
    Ok(())
}

fn rule(explanation: &Explanation, cautions: &[&Caution], columns: usize, out: &mut impl Write) -> io::Result<()> {
    let number = shown(&explanation.rule.number);
    let indent = " ".repeat((number.chars().count() + 2).min(6));
    writeln!(out, "{STRONG}{number}{STRONG:#}  {STRONG}{}{STRONG:#}", shown(&explanation.rule.caption))?;
    let does = shown(&explanation.does.join(" "));
    write_wrapped(&indent, &indent, &does, columns, out)?;
    let hang = format!("{indent}         ");
    write_wrapped(&format!("{indent}sees     "), &hang, &shown(&explanation.needs), columns, out)?;
    for caution in cautions {
        let first = format!("{indent}{GONE}caution{GONE:#}  ");
        // The marks of colour have no width.
        write_wrapped(
            &format!("{indent}caution  "),
            &hang,
            &shown(&caution.message),
            columns,
            &mut Colouring(out, &first),
        )?;
    }
    pieces(&explanation.pieces, &indent, out)?;
    writeln!(out)
}

/// Puts the coloured word in place of the plain one.
struct Colouring<'o, W: Write>(&'o mut W, &'o str);

impl<W: Write> Write for Colouring<'_, W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let text = String::from_utf8_lossy(bytes);
        let plain = self.1.replace(&GONE.to_string(), "").replace(&format!("{GONE:#}"), "");
        match text.strip_prefix(&plain) {
            Some(rest) => write!(self.0, "{}{rest}", self.1)?,
            None => self.0.write_all(bytes)?,
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.0.flush()
    }
}

/// The pattern, a line for each piece: what is written, then what it means.
fn pieces(pieces: &[PatternPiece], indent: &str, out: &mut impl Write) -> io::Result<()> {
    let written = |piece: &PatternPiece| format!("{}{}", "  ".repeat(piece.depth), shown(&piece.source));
    let width = pieces.iter().map(|piece| written(piece).chars().count()).max().unwrap_or(0).min(28);
    for (index, piece) in pieces.iter().enumerate() {
        let word = if index == 0 { "pattern  " } else { "         " };
        let means = shown(&piece.means);
        writeln!(out, "{indent}{word}{:width$}  {QUIET}{means}{QUIET:#}", written(piece))?;
    }
    Ok(())
}
