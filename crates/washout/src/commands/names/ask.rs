//! `--ask`: each rename is shown, and done or not.

use std::collections::HashMap;
use std::io::{self, Write};

use washout_core::names::Planner;
use washout_files::Plans;

use super::new_name;
use crate::answer::{self, Answer};
use crate::show::names::{draw_rename, folder_shown};
use crate::show::style::{FILE, QUIET};

/// What is to become of a name, and of those that follow.
#[derive(Clone, Copy)]
enum NameVerdict {
    This { take: bool },
    Rest { take: bool },
}

const ANSWERS: &[Answer<NameVerdict>] = &[
    Answer { words: "take", does: "rename it", means: NameVerdict::This { take: true } },
    Answer { words: "leave", does: "leave it as it is", means: NameVerdict::This { take: false } },
    Answer { words: "take rest", does: "rename it and all that follow", means: NameVerdict::Rest { take: true } },
    Answer {
        words: "stop",
        does: "rename what was taken so far, and look at no more",
        means: NameVerdict::Rest { take: false },
    },
];

/// Asks about every rename, and plans again without those that are refused: who wanted a name that is not given up after
/// all is reported in the end.
/// Gives how many are refused.
pub(super) fn ask(plans: &mut Plans, planner: Planner, out: &mut impl Write) -> io::Result<u64> {
    answer::explain(ANSWERS, out)?;
    writeln!(out, "\n{QUIET}× goes   ^ comes   · blank{QUIET:#}\n")?;
    // What is said about all that is left.
    let mut rest: Option<bool> = None;
    let mut refused: HashMap<usize, Vec<usize>> = HashMap::new();
    for (index, folder) in plans.folders.iter().enumerate() {
        let mut is_named = false;
        for name in folder.names() {
            let Some(new) = new_name(name.outcome) else { continue };
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
    match answer::ask("this name", ANSWERS, out)?.unwrap_or(NameVerdict::Rest { take: false }) {
        NameVerdict::This { take } => Ok(take),
        NameVerdict::Rest { take } => {
            *rest = Some(take);
            Ok(take)
        }
    }
}
