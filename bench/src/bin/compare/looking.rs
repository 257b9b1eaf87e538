//! Looking at what rules would do, compared with doing it and throwing the result away.

use std::error::Error;
use std::fs;
use std::path::Path;
use std::process::Stdio;

use washout_bench::{Dirt, TWELVE_RULES};

use crate::goals::{Goal, table};
use crate::process::{Cost, Ways, best, times_as_long};
use crate::workload::{megabytes, name_of, rate};

const ROUNDS: usize = 5;
/// In bytes.
const TEXT: usize = 50_000_000;
/// What any of them may hold, in MiB.
const MOST_MEMORY: f64 = 64.0;

/// What is run, and how many times as long as the bare run it may take.
type Row = (&'static str, &'static [&'static str], f64);

const DIRTY: &[Row] = &[
    ("preview", &["clean", "-r", RULES, "TEXT"], 1.3),
    ("clean --json", &["clean", "-r", RULES, "--json", "TEXT"], 1.3),
    ("clean --report page.html", &["clean", "-r", RULES, "--report", "page.html", "--overwrite", "TEXT"], 3.0),
    ("clean --report all.jsonl", &["clean", "-r", RULES, "--report", "all.jsonl", "--overwrite", "TEXT"], 3.0),
    ("check", &["check", "-r", RULES, "TEXT"], 3.0),
    ("check --json", &["check", "-r", RULES, "--json", "TEXT"], 3.0),
    ("check --list count", &["check", "-r", RULES, "--list", "count", "TEXT"], 1.3),
    ("check --list first", &["check", "-r", RULES, "--list", "first", "TEXT"], 0.3),
    ("clean --patch", &["clean", "-r", RULES, "--patch", "TEXT"], 3.0),
    ("clean --all", &["clean", "-r", RULES, "--all", "TEXT"], 5.0),
];

const TENTH: &[Row] =
    &[("check", &["check", "-r", RULES, "TEXT"], 2.0), ("preview", &["clean", "-r", RULES, "TEXT"], 1.3)];

/// Rules that do much for each line: what they are called, the rule, how many threads, and how many MB/s are wanted.
const HEAVY: &[(&str, &str, usize, f64)] = &[
    ("recase to capitals, one thread", "recase = { to = 'upper' }", 1, 400.0),
    (
        "a look-around pattern that few lines can match, two threads",
        r"remove.pattern = '(?<!\d)05\.11\.1936(?! \w)'",
        2,
        100.0,
    ),
];

const RULES: &str = "twelve.wash.toml";

/// Previews, lists, reports and patches, beside the bare run; surveys beside counting bytes.
pub(crate) fn looking(ways: &Ways, goals: &mut Vec<Goal>) -> Result<(), Box<dyn Error>> {
    fs::write(ways.path(RULES), TWELVE_RULES)?;
    let mut shown = table(&["looking at 50 MB, two threads", "seconds", "times as long as the bare run", "peak"]);
    for (dirt, rows) in [(Dirt::All, DIRTY), (Dirt::Tenth, TENTH)] {
        ways.text(&ways.path("TEXT"), "ascii", TEXT, name_of(dirt))?;
        for (what, words, aim) in rows {
            let (looks, bare) = rounds(ways, words, |ways| {
                let mut bare = ways.washout_command(RULES, 2);
                crate::process::run(bare.args(["--stdout", "TEXT"]).stdout(Stdio::null()))
            })?;
            judge(&format!("{what}, {}", name_of(dirt)), (&looks, &bare), *aim, (goals, &mut shown));
        }
    }
    println!("{shown}\n");
    let mut shown = table(&["surveys of 50 MB, two threads", "seconds", "times as long as counting bytes", "peak"]);
    for (dirt, aim) in [(Dirt::None, 3.0), (Dirt::All, 8.0)] {
        ways.text(&ways.path("TEXT"), "ascii", TEXT, name_of(dirt))?;
        let count = |ways: &Ways| ways.plain("count", &[&ways.path("TEXT")]);
        let (surveys, counts) = rounds(ways, &["survey", "--jobs", "2", "TEXT"], count)?;
        judge(&format!("survey, {}", name_of(dirt)), (&surveys, &counts), aim, (goals, &mut shown));
    }
    println!("{shown}\n");
    heavy(ways, goals)
}

/// Single rules on a text of which 1 % of the lines are dirty.
fn heavy(ways: &Ways, goals: &mut Vec<Goal>) -> Result<(), Box<dyn Error>> {
    ways.text(&ways.path("TEXT"), "ascii", TEXT, name_of(Dirt::Little))?;
    let mut shown = table(&["one rule, 50 MB", "MB/s", "peak"]);
    for (what, rule, threads, aim) in HEAVY {
        fs::write(ways.path("heavy.wash.toml"), format!("[[rule]]\n{rule}\n"))?;
        let mut costs = Vec::new();
        for _ in 0..ROUNDS {
            let mut command = ways.washout_command("heavy.wash.toml", *threads);
            costs.push(crate::process::run(command.args(["--stdout", "TEXT"]).stdout(Stdio::null()))?);
        }
        let Some(cost) = best(costs) else { continue };
        let rate = rate(TEXT, cost);
        goals.push(Goal::at_least(&format!("{what}, MB/s"), *aim, rate));
        shown.add_row([(*what).to_owned(), format!("{rate:.0}"), megabytes(cost.memory)]);
    }
    println!("{shown}");
    Ok(())
}

/// A command and what it is compared with, one right after the other.
fn rounds(
    ways: &Ways,
    words: &[&str],
    other: impl Fn(&Ways) -> Result<Cost, Box<dyn Error>>,
) -> Result<(Vec<Cost>, Vec<Cost>), Box<dyn Error>> {
    let (mut ones, mut others) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        ones.push(ways.washout_says(words)?);
        others.push(other(ways)?);
        let _ = fs::remove_file(ways.path("all.jsonl"));
    }
    Ok((ones, others))
}

fn judge(
    what: &str,
    (ones, others): (&[Cost], &[Cost]),
    aim: f64,
    (goals, shown): (&mut Vec<Goal>, &mut comfy_table::Table),
) {
    let longer = times_as_long(ones, others);
    goals.push(Goal::at_most(what, aim, longer));
    let Some(cost) = best(ones.iter().copied()) else { return };
    #[expect(clippy::cast_precision_loss, reason = "a figure to show")]
    let mib = cost.memory as f64 / f64::from(1 << 20);
    if mib > MOST_MEMORY {
        goals.push(Goal::at_most(&format!("{what}: peak memory, MiB"), MOST_MEMORY, mib));
    }
    let seconds = format!("{:.2}", cost.time.as_secs_f64());
    shown.add_row([what.to_owned(), seconds, format!("{longer:.2}"), megabytes(cost.memory)]);
}

/// Counts the bytes of a file by their value.
pub(crate) fn count(path: &Path) -> std::io::Result<()> {
    let mut counts = [0_u64; 256];
    let mut file = fs::File::open(path)?;
    let mut buffer = vec![0; 256 << 10];
    loop {
        let read = std::io::Read::read(&mut file, &mut buffer)?;
        if read == 0 {
            println!("{}", counts.iter().filter(|count| **count > 0).count());
            return Ok(());
        }
        buffer[..read].iter().for_each(|byte| counts[usize::from(*byte)] += 1);
    }
}
