//! `--ask`: each rename is shown, and done or not.

use std::collections::HashMap;
use std::io::{self, BufRead, Write};

use washout_core::Planner;
use washout_files::Plans;

use super::{is_asked, new_name};
use crate::show::names::{draw_rename, folder_shown};
use crate::show::style::{FILE, QUIET};

const HELP: &str = "  y  rename it    n  leave it    a  rename it and all that follow
  q  stop: rename what was taken so far, and look at no more";

/// Asks about every rename, and plans anew without those that are refused: who wanted a name that is not given up after
/// all is told in the end.
/// Gives how many are refused.
pub(super) fn ask(plans: &mut Plans, planner: Planner, out: &mut impl Write) -> io::Result<u64> {
    writeln!(out, "{HELP}\n\n{QUIET}× goes   ^ comes   · blank{QUIET:#}\n")?;
    // What is said about all that is left.
    let mut rest: Option<bool> = None;
    let mut refused: HashMap<usize, Vec<usize>> = HashMap::new();
    for (index, folder) in plans.folders.iter().enumerate() {
        let mut is_named = false;
        for name in folder.names() {
            let Some(new) = new_name(name.fate) else { continue };
            if !is_named && rest.is_none() {
                writeln!(out, "{FILE}{}{FILE:#}\n", folder_shown(&folder.shown))?;
                is_named = true;
            }
            let take = match rest {
                Some(take) => take,
                None => one(name.name, new, &mut rest, out)?,
            };
            if !take {
                refused.entry(index).or_default().push(name.index);
            }
        }
    }
    let count = refused.values().map(|names| names.len() as u64).sum();
    for (index, refused) in refused {
        plans.folders[index].without(&refused, planner);
    }
    Ok(count)
}

fn one(old: &[u8], new: &[u8], rest: &mut Option<bool>, out: &mut impl Write) -> io::Result<bool> {
    draw_rename(old, new, out)?;
    loop {
        write!(out, "rename it? [y n a q, ? for help] ")?;
        out.flush()?;
        let mut answer = String::new();
        let read = io::stdin().lock().read_line(&mut answer)?;
        if !is_asked() {
            writeln!(out)?;
        }
        match if read == 0 { "q" } else { answer.trim() } {
            "y" => return Ok(true),
            "n" => return Ok(false),
            "a" => {
                *rest = Some(true);
                return Ok(true);
            }
            "q" => {
                *rest = Some(false);
                return Ok(false);
            }
            _ => writeln!(out, "{HELP}")?,
        }
    }
}
