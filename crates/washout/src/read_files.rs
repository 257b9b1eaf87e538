//! Files that rules were read from, and whether they have been saved since.

use std::collections::BTreeMap;
use std::path::PathBuf;

use washout_core::RuleSet;
use washout_files::Stamp;

/// Files as they were before they were read.
#[derive(Debug, Default)]
pub(crate) struct ReadFiles(BTreeMap<PathBuf, Option<Stamp>>);

impl ReadFiles {
    /// These files as they are now. It comes before they are read: what is saved while they are read is seen then.
    pub(crate) fn now(files: impl IntoIterator<Item = PathBuf>) -> Self {
        let mut now = Self::default();
        now.add(files);
        now
    }

    /// Adds files that turned up while others were read.
    pub(crate) fn add(&mut self, files: impl IntoIterator<Item = PathBuf>) {
        for file in files {
            self.0.entry(file).or_insert_with_key(|file| Stamp::of_path(file));
        }
    }

    /// The same files as they are now.
    pub(crate) fn again(&self) -> Self {
        Self::now(self.0.keys().cloned())
    }

    /// Whether none of them has been saved since, or has come or gone.
    pub(crate) fn are_current(&self) -> bool {
        self.0.iter().all(|(file, stamp)| Stamp::of_path(file) == *stamp)
    }
}

/// The files of these sets: their own, and those they name.
pub(crate) fn files_of(sets: &[RuleSet]) -> impl Iterator<Item = PathBuf> + '_ {
    sets.iter().flat_map(|set| std::iter::once(&set.name).chain(&set.files)).map(PathBuf::from)
}
