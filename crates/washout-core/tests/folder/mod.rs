//! A folder in memory, for property tests and fuzzing: plans of names are carried out on it.

#![allow(clippy::unwrap_used, unreachable_pub, reason = "shared by tests, which have failed if they cannot go on")]

use std::collections::BTreeMap;

use washout_core::names::{FolderPlan, NameOutcome, RenameStep};

/// A folder of a system that ignores letter case, or of one that does not. A file is a number.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Folder {
    folds: bool,
    /// What the system compares, with the name as written and the file.
    files: BTreeMap<String, (String, usize)>,
}

impl Folder {
    pub fn of(names: &[String], folds: bool) -> Self {
        let mut folder = Self { folds, files: BTreeMap::new() };
        for (file, name) in names.iter().enumerate() {
            let free = folder.files.insert(folder.seen(name), (name.clone(), file)).is_none();
            assert!(free, "two files of one name at the start");
        }
        folder
    }

    fn seen(&self, name: &str) -> String {
        if self.folds { name.to_lowercase() } else { name.to_owned() }
    }

    /// A rename that never overwrites.
    fn rename(&mut self, from: &str, to: &str) {
        assert!(!self.files.contains_key(&self.seen(to)), "{from} → {to}: is there already, in {self:?}");
        let (name, file) = self.files.remove(&self.seen(from)).unwrap_or_else(|| panic!("{from} is not there"));
        assert_eq!(name, from);
        self.files.insert(self.seen(to), (to.to_owned(), file));
    }

    pub fn carry_out(&mut self, names: &[String], plan: &FolderPlan) {
        for step in &plan.steps {
            let old = &names[step.entry()];
            let new = || match &plan.outcomes[step.entry()] {
                NameOutcome::Becomes(new) => String::from_utf8(new.clone()).unwrap(),
                other => panic!("a step for {other:?}"),
            };
            match *step {
                RenameStep::Direct(_) => self.rename(old, &new()),
                RenameStep::Target(_, temporary) => self.rename(old, &plan.temporary(temporary)),
                RenameStep::Source(_, temporary) => self.rename(&plan.temporary(temporary), &new()),
            }
        }
    }

    /// The name of each file.
    pub fn names(&self) -> Vec<String> {
        let mut names: Vec<(usize, String)> = self.files.values().map(|(name, file)| (*file, name.clone())).collect();
        names.sort();
        names.into_iter().map(|(_, name)| name).collect()
    }
}
