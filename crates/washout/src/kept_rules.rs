//! The rules of a run as the history keeps them.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use serde::{Deserialize, Serialize};
use washout_core::ready::ReadySet;

/// All rules of a run, as they were then.
#[derive(Clone, Debug, Deserialize, Serialize)]
#[serde(untagged)]
pub(crate) enum KeptRules {
    /// For all files, in the order they run.
    Given(Vec<RulePart>),
    /// A project file says which are for which files.
    Project(KeptProject),
}

/// A part of the rules of a command line.
#[derive(Clone, Debug, PartialEq, Eq, Deserialize, Serialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum RulePart {
    Set(KeptSet),
    /// One rule, as it is typed.
    Rule(String),
}

/// A rule set with its text.
#[derive(Clone, Debug, Default, PartialEq, Eq, Deserialize, Serialize)]
pub(crate) struct KeptSet {
    /// What messages call it; its lists are found from here.
    pub(crate) name: String,
    pub(crate) text: String,
    /// The numbers of its rules that were turned off for the run, as in [`washout_core::RuleName`] of the set alone.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub(crate) off: Vec<String>,
}

/// A project file with its text and its sets.
#[derive(Clone, Debug, Deserialize, Serialize)]
pub(crate) struct KeptProject {
    /// Where it was, absolute.
    pub(crate) file: PathBuf,
    pub(crate) text: String,
    /// The sets, by what the project file calls them.
    pub(crate) sets: BTreeMap<String, KeptSet>,
}

impl KeptRules {
    /// There are none.
    pub(crate) const NONE: Self = Self::Given(Vec::new());

    /// These rules in one text; `None`: there are none.
    pub(crate) fn to_text(&self) -> Option<String> {
        let are_none = matches!(self, Self::Given(parts) if parts.is_empty());
        serde_json::to_string(self).ok().filter(|_| !are_none)
    }

    /// Reads that text. `place`: the folder of the run, from which it called its sets.
    pub(crate) fn of_text(text: &str, place: &Path) -> Option<Self> {
        let mut kept: Self = serde_json::from_str(text).ok()?;
        match &mut kept {
            Self::Given(parts) => {
                let sets = parts.iter_mut().filter_map(|part| match part {
                    RulePart::Set(set) => Some(set),
                    RulePart::Rule(_) => None,
                });
                sets.for_each(|set| set.find_from(place));
            }
            Self::Project(project) => {
                let folder = project.file.parent().unwrap_or(place).to_owned();
                project.sets.values_mut().for_each(|set| set.find_from(&folder));
            }
        }
        Some(kept)
    }
}

impl KeptSet {
    /// Calls it by the way from the working folder, which may be another one than that of the run.
    fn find_from(&mut self, folder: &Path) {
        let is_here = std::env::current_dir().is_ok_and(|here| here == folder);
        if !is_here && !self.name.starts_with(ReadySet::PREFIX) {
            self.name = folder.join(&self.name).to_string_lossy().into_owned();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rules_are_read_as_they_were_kept_and_those_of_older_versions_too() {
        let older = r#"[{"set":{"name":"log.wash.toml","text":"[[rule]]\ntrim = {}\n"}},{"rule":"remove.chars = '#'"},{"set":{"name":"ready:prose","text":""}}]"#;
        let place = Path::new("/station/papers");
        let Some(KeptRules::Given(parts)) = KeptRules::of_text(older, place) else { panic!("parts") };
        let names = parts.iter().filter_map(|part| match part {
            RulePart::Set(set) => Some(set.name.as_str()),
            RulePart::Rule(_) => None,
        });
        // Lists of a set are found from where it was.
        assert_eq!(names.collect::<Vec<_>>(), ["/station/papers/log.wash.toml", "ready:prose"]);
        let set = KeptSet {
            name: "a.wash.toml".to_owned(),
            text: "[[rule]]\ntrim = {}\n".to_owned(),
            off: vec!["1".to_owned()],
        };
        let project = KeptProject {
            file: place.join("washout.toml"),
            text: "[[apply]]\nrules = ['a.wash.toml']\n".to_owned(),
            sets: BTreeMap::from([("a.wash.toml".to_owned(), set.clone())]),
        };
        let text = KeptRules::Project(project.clone()).to_text().expect("a text");
        let Some(KeptRules::Project(read)) = KeptRules::of_text(&text, Path::new("/elsewhere")) else {
            panic!("a project")
        };
        assert_eq!((&read.file, &read.text, &read.sets["a.wash.toml"].off), (&project.file, &project.text, &set.off));
        assert_eq!(read.sets["a.wash.toml"].name, "/station/papers/a.wash.toml");
        assert!(KeptRules::NONE.to_text().is_none() && KeptRules::of_text("{}", place).is_none());
    }
}
