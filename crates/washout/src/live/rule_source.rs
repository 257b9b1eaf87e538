//! Where the rules of the view come from: sets that are read again when they are saved, and rules that were typed.

use std::fs;
use std::io::{self, Write as _};
use std::path::{Path, PathBuf};

use clap::ArgMatches;
use washout_core::read::rule_lines;
use washout_core::rules::Rule;
use washout_core::{RuleError, RuleSet};
use washout_sets::RuleFiles;

use crate::args::{ProjectArgs, RuleArgs};
use crate::exit::Trouble;
use crate::kept_rules::RulePart;
use crate::project::Project;
use crate::read_files::files_of;
use crate::rules;

/// What the rules typed in the view are called where there is no set that they could be in.
const TYPED: &str = "typed";

/// The rules of the command line or of the project, and those that were added in the view.
pub(super) struct RuleSource<'a> {
    pub(super) args: RuleArgs,
    /// `None`: it is about names, and the rules of a project are for what is in files.
    pub(super) project: Option<&'a ProjectArgs>,
    pub(super) given: &'a ArgMatches,
    /// Rules that were typed and are in no file.
    pub(super) added: Vec<String>,
}

/// Rules that were read.
#[derive(Clone, Default)]
pub(super) struct ReadRules {
    pub(super) sets: Vec<RuleSet>,
    /// The files they come from, which are read again when they change.
    pub(super) files: Vec<PathBuf>,
}

impl RuleSource<'_> {
    /// Reads the rules for this file, or for any if there is none.
    pub(super) fn read(&self, file: Option<&Path>) -> Result<ReadRules, Trouble> {
        let mut read = ReadRules::default();
        if !self.args.is_empty() {
            read.files.extend(self.args.rules.iter().filter_map(|path| washout_sets::resolved(path).ok()));
            read.sets = rules::sets(&self.args, self.given)?;
        } else if let Some(args) = self.project
            && let Some(project) = Project::of(args)?
        {
            read.files.push(project.file.clone());
            read.sets = match file {
                Some(file) => project.sets_for_file(file).into_iter().cloned().collect(),
                None => project.sets,
            };
        }
        read.files.extend(files_of(&read.sets));
        read.files.retain(|file| file.is_file());
        for rule in &self.added {
            // It was read before it was added.
            if let Ok(rule) = one_rule(rule) {
                add(&mut read.sets, rule);
            }
        }
        Ok(read)
    }

    /// The texts of rules that were read, in their order. Those that were typed in the view are part of the last set, as the view has
    /// them.
    pub(super) fn parts(&self, read: &ReadRules) -> Result<Vec<RulePart>, Trouble> {
        let mut parts = if self.args.is_empty() {
            let sets = read.sets.iter().filter_map(|set| rules::set_part(Path::new(&set.name)));
            sets.map(RulePart::Set).collect()
        } else {
            rules::parts(&self.args, self.given)?
        };
        for rule in &self.added {
            match parts.last_mut() {
                Some(RulePart::Set(last)) => last.text += &appended(&last.text, rule),
                _ => parts.push(RulePart::Rule(rule.clone())),
            }
        }
        Ok(parts)
    }

    /// The files of which a change means new rules, as far as that is known without reading them.
    pub(super) fn named_files(&self) -> Vec<PathBuf> {
        self.args.rules.iter().filter_map(|path| washout_sets::resolved(path).ok()).collect()
    }
}

/// Reads a rule as it is typed.
pub(super) fn one_rule(text: &str) -> Result<RuleSet, RuleError> {
    RuleSet::read_one_rule_with(TYPED, text, &RuleFiles { typed: Some(TYPED) })
}

/// Adds a rule behind all others: to the last set, as if it stood at its end.
pub(super) fn add(sets: &mut Vec<RuleSet>, one: RuleSet) {
    match sets.last_mut() {
        Some(last) => {
            let number = last.rules.iter().map(|rule| rule.number).max().unwrap_or(0);
            last.rules.extend(one.rules.into_iter().map(|rule| Rule { number: number + 1, ..rule }));
        }
        None => sets.push(one),
    }
}

/// The file a rule that is typed is appended to: that of the last set, if it has one of its own.
pub(super) fn file_to_append(read: &ReadRules) -> Option<PathBuf> {
    let last = Path::new(&read.sets.last()?.name);
    last.is_file().then(|| last.to_owned())
}

/// What is to be appended to the text of a rule set for one more rule.
fn appended(set: &str, rule: &str) -> String {
    let ends_line = set.is_empty() || set.ends_with('\n');
    format!("{}\n[[rule]]\n{}", if ends_line { "" } else { "\n" }, rule_lines(rule))
}

/// Appends a rule to a rule set file in one write.
pub(super) fn append(file: &Path, rule: &str) -> io::Result<()> {
    let text = appended(&fs::read_to_string(file)?, rule);
    let mut file = fs::OpenOptions::new().append(true).open(file)?;
    file.write_all(text.as_bytes())?;
    file.sync_data()
}
