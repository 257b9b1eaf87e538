//! `washout explain`

use std::io::{self, Write};
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::explain::{Caution, Explanation, PatternPiece, Sample, cautions, explain};
use washout_core::ready::ReadySet;
use washout_core::{Program, RuleId, RuleSet};

use crate::args::ExplainArgs;
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::buffered_stdout;
use crate::rules;
use crate::sample::sample;
use crate::show::number::counted;
use crate::show::screen::Screen;
use crate::show::style::{FILE, GONE, STRONG};
use crate::show::visible::{shown, shown_path};
use crate::show::wrap::{wrapped, write_wrapped};

/// Columns for what is written of a pattern, before what it means.
const WIDEST_PIECE: usize = 28;

/// Runs the command.
pub(crate) fn run(args: &ExplainArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let (named, samples): (Vec<&PathBuf>, Vec<&PathBuf>) = args.paths.iter().partition(|path| names_set(path));
    let mut sets =
        if named.is_empty() || !args.rules.is_empty() { rules::sets(&args.rules, given)? } else { Vec::new() };
    for path in named {
        sets.push(rules::read_set(path)?.map_err(|error| Trouble::Rules(vec![error]))?);
    }
    let samples = samples
        .into_iter()
        .map(|path| sample(path).map_err(|error| Trouble::File(shown_path(path), error)))
        .collect::<Result<Vec<Sample>, Trouble>>()?;
    let columns = Screen::of_stdout().columns;
    let mut out = buffered_stdout();
    let program = Program::compile(&sets);
    let (cautions, cut) = (cautions(&sets, &program, &samples), program.cut());
    let explanations = explain(&sets);
    if args.json {
        json::write(&json::rules::explained(&explanations, &cautions, &cut))?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    heading(&sets, columns, &mut out)?;
    for (index, explanation) in explanations.iter().enumerate() {
        let about: Vec<&Caution> = cautions.iter().filter(|caution| caution.rule == Some(RuleId(index))).collect();
        rule(explanation, &about, columns, &mut out)?;
    }
    for caution in cautions.iter().filter(|caution| caution.rule.is_none()) {
        let text = format!("{}: {}", shown(&caution.about), shown(&caution.message));
        write_wrapped("caution  ", "         ", &text, columns, &mut out)?;
    }
    write_wrapped("", "", &shown(&cut.to_string()), columns, &mut out)?;
    let off = sets.iter().flat_map(|set| &set.rules).filter(|rule| rule.off).count();
    let off = if off > 0 { format!(", {off} more off") } else { String::new() };
    let rules = format!("{}{off}", counted(explanations.len() as u64, "rule"));
    let verdict = match cautions.len() {
        0 => format!("{rules}, nothing to be careful about"),
        many => format!("{rules}, {}", counted(many as u64, "caution")),
    };
    writeln!(out, "{STRONG}{verdict}{STRONG:#}")?;
    out.flush()?;
    Ok(Exit::Done)
}

/// Whether a path is a rule set, by its name; other paths are texts to look at.
fn names_set(path: &Path) -> bool {
    let path = path.to_string_lossy();
    path.ends_with(".wash.toml") || path.starts_with(ReadySet::PREFIX)
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
        let lines = wrapped(&format!("{indent}caution  "), &hang, &shown(&caution.message), columns);
        for line in lines {
            let coloured = format!("{indent}{GONE}caution{GONE:#}");
            writeln!(out, "{}", line.replacen(&format!("{indent}caution"), &coloured, 1))?;
        }
    }
    pieces(&explanation.pieces, &indent, columns, out)?;
    writeln!(out)
}

/// The pattern, a line for each piece: what is written, then what it means.
fn pieces(pieces: &[PatternPiece], indent: &str, columns: usize, out: &mut impl Write) -> io::Result<()> {
    let written = |piece: &PatternPiece| format!("{}{}", "  ".repeat(piece.depth), shown(&piece.source));
    let width = pieces.iter().map(|piece| written(piece).chars().count()).max().unwrap_or(0).min(WIDEST_PIECE);
    for (index, piece) in pieces.iter().enumerate() {
        let word = if index == 0 { "pattern  " } else { "         " };
        let first = format!("{indent}{word}{:width$}  ", written(piece));
        let rest = " ".repeat(indent.len() + word.len() + width + 2);
        write_wrapped(&first, &rest, &shown(&piece.means), columns, out)?;
    }
    Ok(())
}
