//! Files that have changed and are waited for until they are whole.

use std::collections::{HashMap, HashSet};
use std::path::PathBuf;
use std::time::{Duration, Instant};

use washout_files::Stamp;

/// How long a file has to stay as it is, and how long if whoever writes it has not closed it.
const REST: Duration = Duration::from_millis(250);
const REST_OPEN: Duration = Duration::from_secs(2);

/// Files by their path.
#[derive(Debug, Default)]
pub(super) struct AtRest(HashMap<PathBuf, Waiting>);

#[derive(Debug)]
struct Waiting {
    stamp: Option<Stamp>,
    since: Instant,
    /// Something was written, and the file was not closed since.
    is_open: bool,
}

impl AtRest {
    /// A file has changed just now.
    pub(super) fn changed(&mut self, file: PathBuf, is_open: bool) {
        let stamp = Stamp::of_path(&file);
        self.0.insert(file, Waiting { stamp, since: Instant::now(), is_open });
    }

    /// Takes those that have been at rest long enough. Those that are gone are forgotten.
    pub(super) fn take_ready(&mut self) -> HashSet<PathBuf> {
        let mut ready = HashSet::new();
        self.0.retain(|file, waiting| {
            let rest = if waiting.is_open { REST_OPEN } else { REST };
            if waiting.since.elapsed() < rest {
                return true;
            }
            let stamp = Stamp::of_path(file);
            if stamp != waiting.stamp {
                (waiting.stamp, waiting.since) = (stamp, Instant::now());
                return true;
            }
            if std::fs::symlink_metadata(file).is_ok() {
                ready.insert(file.clone());
            }
            false
        });
        ready
    }
}
