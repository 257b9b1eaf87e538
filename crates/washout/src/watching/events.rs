//! Changes that the system reports.

use std::io;
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::Duration;

use notify::event::{AccessKind, AccessMode, CreateKind, MetadataKind, ModifyKind};
use notify::{Config, Event, EventKind, PollWatcher, RecommendedWatcher, RecursiveMode, Watcher};

use super::absolute;
use crate::exit::Trouble;
use crate::out::print_warning;
use crate::show::visible::{shown, shown_path};

/// What is to be known.
pub(super) enum Seen {
    /// A file was written or got this name. `is_open`: whoever writes it may go on.
    Changed { path: PathBuf, is_open: bool },
    /// Anything may have changed: a folder came, or too much happened at once.
    Everything,
    /// Something cannot be watched.
    Trouble(String),
}

/// The folders that are watched, and what is told of them.
pub(super) struct Events {
    watcher: Box<dyn Watcher>,
    told: Receiver<notify::Result<Event>>,
    roots: Vec<Root>,
}

/// A file or folder that was named.
struct Root {
    path: PathBuf,
    /// Which one it was when it was looked at; `None`: it is not there.
    identity: Option<(u64, u64)>,
}

impl Events {
    /// Starts to watch. `poll`: looks by itself, that often.
    pub(super) fn start(roots: &[PathBuf], poll: Option<Duration>) -> Result<Self, Trouble> {
        let (sender, told) = channel();
        let failed = |error: &notify::Error| Trouble::Usage(cannot(Path::new("files"), error));
        let watcher: Box<dyn Watcher> = match poll {
            Some(interval) => {
                let config = Config::default().with_poll_interval(interval);
                Box::new(PollWatcher::new(sender, config).map_err(|error| failed(&error))?)
            }
            None => Box::new(RecommendedWatcher::new(sender, Config::default()).map_err(|error| failed(&error))?),
        };
        let roots = roots.iter().map(|path| Root { path: absolute(path), identity: None }).collect();
        let mut events = Self { watcher, told, roots };
        for index in 0..events.roots.len() {
            events
                .watch(index)
                .map_err(|error| Trouble::File(shown_path(&events.roots[index].path), io::Error::other(why(&error))))?;
        }
        Ok(events)
    }

    fn watch(&mut self, index: usize) -> notify::Result<()> {
        let root = &mut self.roots[index];
        root.identity = identity(&root.path);
        // Of a file, the folder: whoever saves it may put another one in its place.
        if root.path.is_dir() {
            self.watcher.watch(&root.path, RecursiveMode::Recursive)
        } else {
            self.watcher.watch(root.path.parent().unwrap_or(&root.path), RecursiveMode::NonRecursive)
        }
    }

    /// What was told until then, or within this time.
    pub(super) fn wait(&self, time: Duration) -> Vec<Seen> {
        let mut seen = Vec::new();
        let mut next = self.told.recv_timeout(time);
        loop {
            match next {
                Ok(Ok(event)) => self.sort(event, &mut seen),
                Ok(Err(error)) => seen.push(Seen::Trouble(cannot(Path::new("files"), &error))),
                Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => return seen,
            }
            next = self.told.try_recv().map_err(|_| RecvTimeoutError::Timeout);
        }
    }

    fn sort(&self, event: Event, seen: &mut Vec<Seen>) {
        if event.need_rescan() {
            seen.push(Seen::Everything);
            return;
        }
        let is_open = match event.kind {
            EventKind::Modify(ModifyKind::Data(_)) => cfg!(target_os = "linux"),
            EventKind::Create(CreateKind::Folder) => {
                seen.push(Seen::Everything);
                return;
            }
            EventKind::Access(AccessKind::Close(AccessMode::Write))
            | EventKind::Create(_)
            | EventKind::Modify(
                ModifyKind::Name(_) | ModifyKind::Any | ModifyKind::Metadata(MetadataKind::WriteTime),
            ) => false,
            _ => return,
        };
        for path in event.paths {
            let path = absolute(&path);
            let is_ours = self.roots.iter().any(|root| path.starts_with(&root.path));
            if !is_ours {
                continue;
            }
            if path.is_dir() {
                // What is in a folder that came was not told one by one.
                seen.push(Seen::Everything);
            } else {
                seen.push(Seen::Changed { path, is_open });
            }
        }
    }

    /// Looks whether the named files and folders are still the same. Whether any came back, with files no one told of.
    pub(super) fn look_at_roots(&mut self) -> io::Result<bool> {
        let mut is_back = false;
        for index in 0..self.roots.len() {
            let root = &self.roots[index];
            // A file is another one each time it is saved in one step.
            let now = identity(&root.path).filter(|_| root.path.is_dir() || root.identity.is_none());
            if now == root.identity || (root.identity.is_some() && root.path.is_file()) {
                continue;
            }
            let path = root.path.clone();
            if root.identity.is_some() {
                let _ = self.watcher.unwatch(&path);
                self.roots[index].identity = None;
                if now.is_none() {
                    print_warning(&format!("{} is gone; it is waited for", shown_path(&path)))?;
                }
            }
            if now.is_some() {
                match self.watch(index) {
                    Ok(()) => is_back = true,
                    Err(error) => print_warning(&cannot(&path, &error))?,
                }
            }
        }
        Ok(is_back)
    }
}

fn identity(path: &Path) -> Option<(u64, u64)> {
    std::fs::metadata(path).ok().map(|entry| (entry.dev(), entry.ino()))
}

fn cannot(path: &Path, error: &notify::Error) -> String {
    format!("{} cannot be watched: {}", shown_path(path), why(error))
}

fn why(error: &notify::Error) -> String {
    match &error.kind {
        notify::ErrorKind::MaxFilesWatch => {
            "the system watches no more folders (fs.inotify.max_user_watches); --poll 2 looks at all files every two seconds"
                .to_owned()
        }
        notify::ErrorKind::Io(error) => washout_sets::reason(error),
        notify::ErrorKind::PathNotFound => "no such file or directory".to_owned(),
        _ => shown(&error.to_string()),
    }
}
