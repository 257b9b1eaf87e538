//! Where a file is.

use std::ffi::OsStr;
use std::fs::{File, Metadata};
use std::io;
use std::os::fd::AsFd;
use std::path::{Component, Path, PathBuf};

use rustix::fs::{CWD, Mode, openat};

use super::{FILE, Folder, THROUGH, open_beneath};
use washout_sets::open_without_waiting;

/// The path of a file, and how much of it a person named.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Location<'p> {
    path: &'p Path,
    /// How many names at its end were found below a named folder, and must not be links.
    found: usize,
}

impl<'p> Location<'p> {
    /// Of a file whose last `found` names were found below a folder that was named; 0: it was named itself.
    pub(crate) fn new(path: &'p Path, found: usize) -> Self {
        Self { path, found }
    }

    /// Of a file whose path was absolute and without links when it was written down.
    pub(crate) fn without_links(path: &'p Path) -> Self {
        Self { path, found: path.components().filter(|part| matches!(part, Component::Normal(_))).count() }
    }

    pub(crate) fn path(&self) -> &'p Path {
        self.path
    }

    /// Whether a person named the file itself, and not a folder above it.
    pub(crate) fn is_named(&self) -> bool {
        self.found == 0
    }

    /// Opens the file for reading, and a named link too.
    pub(crate) fn open(&self) -> io::Result<(File, Metadata)> {
        if self.is_named() {
            return open_without_waiting(self.path);
        }
        let (named, rest) = self.split();
        let base = openat(CWD, &named, THROUGH, Mode::empty())?;
        let file = File::from(open_beneath(base.as_fd(), &rest, FILE)?);
        let metadata = file.metadata()?;
        Ok((file, metadata))
    }

    /// Opens the folder that the file is in.
    pub(crate) fn folder(&self) -> io::Result<Folder> {
        if self.is_named() {
            return Folder::open(folder_of(self.path));
        }
        let (named, rest) = self.split();
        Folder::open_below(&named, rest.parent().unwrap_or(Path::new("")))
    }

    /// Its name in that folder.
    pub(crate) fn name(&self) -> io::Result<&'p OsStr> {
        self.path.file_name().ok_or_else(|| io::ErrorKind::InvalidFilename.into())
    }

    /// What was named, and what was found below it.
    fn split(&self) -> (PathBuf, PathBuf) {
        let all = self.path.components().count();
        let mut parts = self.path.components();
        let named: PathBuf = parts.by_ref().take(all - self.found.min(all)).collect();
        let rest = parts.collect();
        (if named.as_os_str().is_empty() { PathBuf::from(".") } else { named }, rest)
    }
}

/// The folder that a path names a file in.
pub(crate) fn folder_of(path: &Path) -> &Path {
    match path.parent() {
        Some(folder) if folder != Path::new("") => folder,
        _ => Path::new("."),
    }
}
