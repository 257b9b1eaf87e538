//! Changing many files with a way back, compared with copying them; and many names, compared with bare renames. On the disk:
//! what is measured is what it takes to make things durable.

use std::error::Error;
use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::Instant;

use washout_bench::{Dirt, TWELVE_RULES, log};

use crate::goals::{Goal, table};
use crate::process::{Cost, Ways, run};
use crate::workload::megabytes;

const FILES: usize = 20_000;
const NAMES: usize = 1_000_000;
/// Files in a folder.
const IN_FOLDER: usize = 100;

const RULES: &str = "twelve.wash.toml";

/// Contents with a way back, and names.
pub(crate) fn keeping(ways: &Ways, goals: &mut Vec<Goal>) -> Result<(), Box<dyn Error>> {
    contents(ways, goals)?;
    names(ways, goals)
}

fn contents(ways: &Ways, goals: &mut Vec<Goal>) -> Result<(), Box<dyn Error>> {
    fs::write(ways.path(RULES), TWELVE_RULES)?;
    let text = log(700, Dirt::All);
    for number in 0..FILES {
        let folder = ways.path("files").join((number / IN_FOLDER).to_string());
        if number % IN_FOLDER == 0 {
            fs::create_dir_all(&folder)?;
        }
        // No two are alike: the same content is kept once.
        fs::write(
            folder.join(format!("watch-{number}.txt")),
            [&text[..], number.to_string().as_bytes(), b"\n"].concat(),
        )?;
    }
    run(&mut Command::new("sync"))?;
    let copy = |to: &str| -> Result<Cost, Box<dyn Error>> {
        run(Command::new("sh").args(["-c", &format!("cp -r files {to} && sync")]).current_dir(&ways.folder))
    };
    let copied = copy("copied")?;
    copy("bare")?;
    let removed = run(Command::new("rm").args(["-r", "copied"]).current_dir(&ways.folder))?;
    let write = |words: &[&str]| -> Result<Cost, Box<dyn Error>> {
        run(ways.washout_command(RULES, 2).arg("--write").args(words).stdout(Stdio::null()).stderr(Stdio::null()))
    };
    let bare = write(&["--no-history", "bare"])?;
    let kept = write(&["files"])?;
    let undone = ways.washout_says(&["undo"])?;
    let mut shown = table(&["20,000 files of 700 bytes, all changed", "seconds", "peak"]);
    let rows = [
        ("cp -r and sync", copied),
        ("rm -r, which frees as many files", removed),
        ("clean --write --no-history", bare),
        ("clean --write", kept),
        ("undo", undone),
    ];
    for (what, cost) in rows {
        shown.add_row([what.to_owned(), seconds(cost), megabytes(cost.memory)]);
    }
    println!("{shown}\n");
    goals.push(Goal::at_most("clean --write of 20,000 files against cp -r and sync", 4.0, longer(kept, copied)));
    goals.push(Goal::at_most("the same against --no-history", 1.3, longer(kept, bare)));
    goals.push(Goal::at_most("undo of that against cp -r and sync", 4.0, longer(undone, copied)));
    Ok(())
}

fn names(ways: &Ways, goals: &mut Vec<Goal>) -> Result<(), Box<dyn Error>> {
    let folder = ways.path("names");
    fs::create_dir(&folder)?;
    for number in 0..NAMES {
        fs::File::create(folder.join(name(number, " (draft)")))?;
    }
    let bare = bare_renames(&folder)?;
    let rule = "remove.text = ' (draft)'";
    let preview = ways.washout_says(&["names", "--jobs", "2", "--rule", rule, "names"])?;
    let write = ways.washout_says(&["names", "--jobs", "2", "--rule", rule, "--write", "names"])?;
    let undo = ways.washout_says(&["undo"])?;
    let mut shown = table(&["1,000,000 names", "seconds", "peak"]);
    shown.add_row(["bare renames".to_owned(), format!("{bare:.2}"), String::new()]);
    for (what, cost) in [("preview", preview), ("names --write", write), ("undo", undo)] {
        shown.add_row([what.to_owned(), seconds(cost), megabytes(cost.memory)]);
    }
    println!("{shown}");
    goals.push(Goal::at_most("preview of 1,000,000 names, seconds", 5.0, preview.time.as_secs_f64()));
    goals.push(Goal::at_most("names --write against the bare renames", 3.0, write.time.as_secs_f64() / bare));
    goals.push(Goal::at_most("undo of that against the bare renames", 3.0, undo.time.as_secs_f64() / bare));
    #[expect(clippy::cast_precision_loss, reason = "a figure to show")]
    let mib = [preview, write, undo].map(|cost| cost.memory).into_iter().max().unwrap_or(0) as f64 / f64::from(1 << 20);
    goals.push(Goal::at_most("1,000,000 names: peak memory, MiB", 400.0, mib));
    Ok(())
}

fn name(number: usize, behind: &str) -> String {
    format!("scan-{number:07}{behind}.txt")
}

/// Renames there and back again; gives the seconds of one way.
fn bare_renames(folder: &Path) -> Result<f64, Box<dyn Error>> {
    let start = Instant::now();
    for (from, to) in [(" (draft)", ""), ("", " (draft)")] {
        for number in 0..NAMES {
            fs::rename(folder.join(name(number, from)), folder.join(name(number, to)))?;
        }
    }
    Ok(start.elapsed().as_secs_f64() / 2.0)
}

fn seconds(cost: Cost) -> String {
    format!("{:.2}", cost.time.as_secs_f64())
}

fn longer(one: Cost, other: Cost) -> f64 {
    one.time.as_secs_f64() / other.time.as_secs_f64()
}
