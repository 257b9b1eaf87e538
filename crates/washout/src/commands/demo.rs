//! `washout demo`

use std::fs;
use std::io::{self, Write};
use std::path::{Component, Path, PathBuf};

use washout_core::{Program, RuleSet};
use washout_files::{Aim, Charsets, Choice, Chosen, Follow, Meter, Replacing, Run, State, choose};

use super::clean::Job;
use crate::args::DemoArgs;
use crate::exit::{Exit, Trouble};
use crate::interrupt;
use crate::json;
use crate::out::buffered_stdout;
use crate::project::Part;
use crate::show::command_line::{program_name, quoted};
use crate::show::hunk::HunkDrawer;
use crate::show::preview::{Amount, legend};
use crate::show::screen::Screen;
use crate::show::style::{FILE, QUIET, STRONG};
use crate::show::summary::{Tense, advise};
use crate::show::visible::shown_path;

/// A file of the demo data, by its path below the demo folder.
struct DemoFile {
    path: &'static str,
    bytes: &'static [u8],
}

macro_rules! demo_files {
    ($($path:literal),+ $(,)?) => {
        &[$(DemoFile { path: $path, bytes: include_bytes!(concat!("../../demo/", $path)) }),+]
    };
}

const FILES: &[DemoFile] = demo_files![
    "logbook.wash.toml",
    "logbook/1936-01.txt",
    "logbook/1936-02.txt",
    "logbook/1936-03.txt",
    "notices.wash.toml",
    "notices/board-1.txt",
    "notices/board-2.txt",
    "notices/board-3.txt",
    "radio.wash.toml",
    "radio/watch-1.txt",
    "radio/watch-2.txt",
    "radio/watch-3.txt",
    "radio/watch-4.txt",
    "scans.wash.toml",
    "stores.wash.toml",
    "stores/ledger.csv",
];

/// Names of scans, a line each: an empty scan is made of every one.
const NAMES: &str = include_str!("../../demo/scans.txt");

/// The rule sets and the folders they are for, in the order they are shown.
const SHOWN: &[&str] = &["logbook", "notices", "radio", "stores"];

/// Changes of a set that are shown before its table.
const HUNKS: usize = 2;

/// Runs the command.
pub(crate) fn run(args: &DemoArgs) -> Result<Exit, Trouble> {
    let folder = unpack(args.into.as_deref())?;
    let mut out = buffered_stdout();
    if args.json {
        let files: Vec<&str> = FILES.iter().map(|file| file.path).collect();
        json::write(&json::rules::demo(&folder, &files))?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    writeln!(out, "The papers of the Marrow Point light station (made up) are in {}\n", shown_path(&folder))?;
    legend(&mut out)?;
    for name in SHOWN {
        show_set(name, &folder, &mut out)?;
    }
    next_steps(&folder, &mut out)?;
    out.flush()?;
    Ok(Exit::Done)
}

/// Writes the demo data; gives its folder.
fn unpack(into: Option<&Path>) -> Result<PathBuf, Trouble> {
    let failed = |path: &Path, error| Trouble::File(path.to_string_lossy().into_owned(), error);
    let folder = if let Some(folder) = into {
        fs::create_dir_all(folder).map_err(|error| failed(folder, error))?;
        let mut entries = fs::read_dir(folder).map_err(|error| failed(folder, error))?;
        if entries.next().is_some() {
            let message = "is not empty, and the demo writes over nothing; name a new folder";
            return Err(Trouble::Usage(format!("{} {message}", shown_path(folder))));
        }
        folder.to_owned()
    } else {
        let made = tempfile::Builder::new().prefix("washout-demo-").tempdir();
        made.map_err(|error| failed(&std::env::temp_dir(), error))?.keep()
    };
    for file in FILES {
        let path = folder.join(file.path);
        let parent = path.parent().unwrap_or(&folder);
        fs::create_dir_all(parent).map_err(|error| failed(parent, error))?;
        fs::write(&path, file.bytes).map_err(|error| failed(&path, error))?;
    }
    for name in NAMES.lines() {
        let path = folder.join("scans").join(name);
        let parent = path.parent().unwrap_or(&folder);
        fs::create_dir_all(parent).map_err(|error| failed(parent, error))?;
        fs::write(&path, "").map_err(|error| failed(&path, error))?;
    }
    Ok(folder)
}

fn show_set(name: &str, folder: &Path, out: &mut impl Write) -> Result<(), Trouble> {
    let file = format!("{name}.wash.toml");
    let source = FILES.iter().find(|known| known.path == file).map(|known| String::from_utf8_lossy(known.bytes));
    let set = RuleSet::read(&file, &source.unwrap_or_default()).map_err(|error| Trouble::Rules(vec![error]))?;
    let program = Program::compile([&set]);
    let mut chosen = choose(&Choice { paths: vec![folder.join(name)], ..Choice::default() })?;
    for file in &mut chosen.files {
        // Copies keep the tree of the demo folder, wherever that is.
        file.leading = folder.components().filter(|part| matches!(part, Component::Normal(_))).count();
    }
    let cleaned = folder.join("cleaned");
    writeln!(out, "{STRONG}{file}{STRONG:#}  {}", set.title.as_deref().unwrap_or_default())?;
    writeln!(out, "{QUIET}{}{QUIET:#}\n", set.about.as_deref().unwrap_or_default())?;
    show_hunks(&program, &chosen, out)?;
    let job = Job {
        parts: &[Part { files: 0..chosen.files.len(), is_on: vec![true], program: program.clone() }],
        aim: Aim::Into { folder: cleaned, overwrite: false },
        amount: Amount::Some,
        charsets: Charsets::default(),
        replacing: Replacing::default(),
        first_lines: None,
        json: false,
    };
    let summary = job.wash(&chosen, interrupt::watch(), out)?;
    summary.draw(program.names(), Tense::Did, Screen::of_stdout(), out)?;
    writeln!(out)?;
    Ok(())
}

/// The most telling of the first changes: those most rules had a part in.
fn show_hunks(program: &Program, chosen: &Chosen, out: &mut impl Write) -> io::Result<()> {
    let drawer = HunkDrawer::new(program.names(), Screen::of_stdout().columns);
    let first = &chosen.files[..chosen.files.len().min(1)];
    let mut drawn = Ok(());
    let meter = Meter::default();
    let follow = Follow { hunks: 40, files: 1, ..Follow::default() };
    let run = Run { follow, ..Run::new(program, &Aim::Preview, interrupt::watch(), &meter) };
    run.wash_all(first, |report| {
        let State::Changed(_, Some(followed)) = report.state else { return };
        let mut excerpt = followed.excerpt;
        excerpt.hunks.retain(|hunk| (1..=4).contains(&hunk.lines_before) && hunk.lines_after > 0);
        excerpt.hunks.sort_by_key(|hunk| (std::cmp::Reverse(hunk.rules().len()), hunk.first_line));
        excerpt.hunks.truncate(HUNKS);
        excerpt.hunks.sort_by_key(|hunk| hunk.first_line);
        drawn = draw_hunks(&drawer, &report.path, &excerpt.hunks, out);
    });
    drawn
}

fn draw_hunks(
    drawer: &HunkDrawer<'_>,
    path: &Path,
    hunks: &[washout_core::observe::Hunk],
    out: &mut impl Write,
) -> io::Result<()> {
    let name = path.file_name().map_or(path, Path::new);
    writeln!(out, "{FILE}{}{FILE:#}{QUIET}, two places{QUIET:#}", shown_path(name))?;
    hunks.iter().try_for_each(|hunk| drawer.draw(hunk, out).map(drop))
}

fn next_steps(folder: &Path, out: &mut impl Write) -> io::Result<()> {
    let word = |path: &Path| quoted(&path.to_string_lossy());
    let program = program_name();
    writeln!(out, "{STRONG}What to type next{STRONG:#}")?;
    advise(
        "  see every change     ",
        &format!("{program} clean -r {} {} --all", word(&folder.join("radio.wash.toml")), word(&folder.join("radio"))),
        out,
    )?;
    advise(
        "  try a rule of yours  ",
        &format!("{program} clean --rule 'remove.words = \"Over.\"' {}", word(&folder.join("radio"))),
        out,
    )?;
    let (rules, scans) = (word(&folder.join("scans.wash.toml")), word(&folder.join("scans")));
    advise("  names of files       ", &format!("{program} names -r {rules} {scans}"), out)?;
    let watched = word(&folder.join("radio"));
    let live = format!("{program} live -r {} {watched}", word(&folder.join("radio.wash.toml")));
    advise("  read a result        ", &format!("less {}", word(&folder.join("cleaned/radio/watch-1.txt"))), out)?;
    advise("  write rules, live    ", &live, out)
}
