//! Files that are worked on as they are saved.
//!
//! [`events`] is told of changes by the system; [`at_rest`] holds a file back until it is whole; [`batch`] works on those that
//! are. Whether a file is only what a run left behind says the history, by the content of the file: so neither the writes of this
//! program wake it, nor those of another one on the same folder, nor what was restored.

mod at_rest;
mod batch;
mod events;

use std::collections::{HashMap, HashSet};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use clap::ArgMatches;
use washout_files::Stamp;

use crate::args::WatchArgs;
use crate::exit::{Exit, Trouble};
use crate::interrupt;
use crate::out::print_warning;
use at_rest::AtRest;
use batch::Batches;
use events::{Events, Seen};

/// How long is waited for news, for a folder that is gone, and between two looks at all files.
const TICK: Duration = Duration::from_millis(50);
const ROOTS: Duration = Duration::from_secs(1);
const WALK: Duration = Duration::from_millis(300);

/// Runs the command.
pub(crate) fn run(args: &WatchArgs, given: &ArgMatches) -> Result<Exit, Trouble> {
    let mut batches = Batches::new(args, given)?;
    let stop = interrupt::watch();
    let mut events = Events::start(&batches.roots, args.poll.map(Duration::from_secs))?;
    // What is there before anything is saved.
    let mut known: HashMap<PathBuf, Option<Stamp>> = stamps(&batches.files()?);
    let mut pending = AtRest::default();
    batches.greet(known.len())?;
    if args.now {
        known.keys().for_each(|file| pending.changed(file.clone(), false));
    }
    let (mut walk_wanted, mut walked, mut looked) = (false, Instant::now(), Instant::now());
    while !stop.is_requested() {
        for seen in events.wait(TICK) {
            match seen {
                Seen::Changed { path, is_open } => pending.changed(path, is_open),
                Seen::Everything => walk_wanted = true,
                Seen::Trouble(why) => print_warning(&why)?,
            }
        }
        if looked.elapsed() >= ROOTS {
            looked = Instant::now();
            walk_wanted |= events.look_at_roots()?;
        }
        if walk_wanted && walked.elapsed() >= WALK {
            (walk_wanted, walked) = (false, Instant::now());
            let now = stamps(&batches.files()?);
            let is_new = |(file, stamp): &(&PathBuf, &Option<Stamp>)| known.get(*file) != Some(*stamp);
            now.iter().filter(is_new).for_each(|(file, _)| pending.changed(file.clone(), false));
            known = now;
        }
        let ready: HashSet<PathBuf> = pending.take_ready();
        if ready.is_empty() {
            continue;
        }
        for later in batches.work(&ready, stop)? {
            pending.changed(later, false);
        }
        known.extend(ready.into_iter().map(|file| {
            let stamp = Stamp::of_path(&file);
            (file, stamp)
        }));
    }
    Ok(Exit::Interrupted)
}

fn stamps(files: &[PathBuf]) -> HashMap<PathBuf, Option<Stamp>> {
    files.iter().map(|file| (file.clone(), Stamp::of_path(file))).collect()
}

/// A path as the system reports it.
fn absolute(path: &Path) -> PathBuf {
    std::path::absolute(path).unwrap_or_else(|_| path.to_owned())
}
