//! `washout test`

use std::io::{self, Write};
use std::path::PathBuf;

use washout_core::RuleSet;
use washout_core::prove::Proof;
use washout_core::ready::ReadySet;
use washout_files::{Choice, Globs, choose};

use crate::args::TestArgs;
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::buffered_stdout;
use crate::rules::read_set;
use crate::show::difference::Difference;
use crate::show::number::counted;
use crate::show::screen::Screen;
use crate::show::style::{FILE, GONE, QUIET, STRONG};
use crate::show::visible::{shown, shown_path};

/// Runs the command.
pub(crate) fn run(args: &TestArgs) -> Result<Exit, Trouble> {
    let sets = read_sets(&args.paths)?;
    let most = args.max_memory.map(|size| size.as_u64());
    let mut out = buffered_stdout();
    if args.json {
        json::write(&json::rules::proofs(&sets, most))?;
        out.flush()?;
        let all_hold = sets.iter().all(|set| set.prove(most).all(|proof| proof.holds()));
        return Ok(if all_hold { Exit::Done } else { Exit::Found });
    }
    let mut tally = ExampleCounts::default();
    for set in &sets {
        prove(set, most, &mut tally, &mut out)?;
    }
    let verdict = match tally.failed {
        0 if tally.examples == 0 => format!("no example in {}", counted(sets.len() as u64, "rule set")),
        0 => format!("{} in {}: all hold", counted(tally.examples, "example"), counted(sets.len() as u64, "rule set")),
        failed => {
            let verb = if failed == 1 { "fails" } else { "fail" };
            format!("{failed} of {} {verb}", counted(tally.examples, "example"))
        }
    };
    writeln!(out, "{STRONG}{verdict}{STRONG:#}")?;
    out.flush()?;
    Ok(if tally.failed > 0 { Exit::Found } else { Exit::Done })
}

#[derive(Default)]
struct ExampleCounts {
    examples: u64,
    failed: u64,
}

/// The rule sets of these paths; all errors of all of them at once.
fn read_sets(paths: &[PathBuf]) -> Result<Vec<RuleSet>, Trouble> {
    let globs = Globs::new(&["*.wash.toml".to_owned()], &[])?;
    let is_ready = |path: &&PathBuf| path.to_string_lossy().starts_with(ReadySet::PREFIX);
    let named = paths.iter().filter(|path| !is_ready(path)).cloned().collect();
    let chosen = choose(&Choice { paths: named, globs, ..Choice::default() })?;
    let ready: Vec<&PathBuf> = paths.iter().filter(is_ready).collect();
    if chosen.files.is_empty() && ready.is_empty() {
        return Err(Trouble::Usage("no rule set there: below folders, a rule set is a file NAME.wash.toml".to_owned()));
    }
    let (mut sets, mut errors) = (Vec::new(), Vec::new());
    for path in ready.into_iter().chain(chosen.files.iter().map(|file| &file.path)) {
        match read_set(path)? {
            Ok(set) => sets.push(set),
            Err(error) => errors.push(error),
        }
    }
    if errors.is_empty() { Ok(sets) } else { Err(Trouble::Rules(errors)) }
}

fn prove(set: &RuleSet, most: Option<u64>, tally: &mut ExampleCounts, out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "{FILE}{}{FILE:#}", shown_path(set.name.as_ref()))?;
    if set.examples.is_empty() {
        writeln!(out, "{QUIET}  no [[example]] in it{QUIET:#}")?;
    }
    for (index, proof) in set.prove(most).enumerate() {
        tally.examples += 1;
        tally.failed += u64::from(!proof.holds());
        show(index + 1, &proof, out)?;
    }
    writeln!(out)
}

fn show(number: usize, proof: &Proof<'_>, out: &mut impl Write) -> io::Result<()> {
    let label = proof.example.label.as_ref().map_or_else(|| format!("example {number}"), |label| shown(label));
    let about = proof.example.rule.map_or_else(String::new, |rule| format!("  (rule {rule} alone)"));
    if proof.holds() {
        return writeln!(out, "  holds  {label}{QUIET}{about}{QUIET:#}");
    }
    writeln!(out, "  {GONE}FAILS{GONE:#}  {label}{QUIET}{about}{QUIET:#}\n")?;
    match &proof.got {
        Ok(got) => Difference::between(&proof.example.gives, got).draw(Screen::of_stdout().columns, out),
        Err(error) => writeln!(out, "         {}\n", shown(&error.to_string())),
    }
}
