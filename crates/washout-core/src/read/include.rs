//! `include`: the rules of another set, in place.

use super::budget::DEEPEST;
use super::fields::Fields;
use super::files::{open, text};
use super::nearest::{did_you_mean, list};
use super::problem::Problems;
use super::read_set;
use crate::ready::ReadySet;
use crate::rules::Include;

pub(super) fn include(rule: &mut Fields<'_>, problems: &mut Problems) -> Option<Include> {
    let path = rule.string_at("include", problems)?;
    if problems.depth() > DEEPEST {
        let message = format!("more than {DEEPEST} rule sets include each other in a row");
        problems.add_helped(path.place, message, "one too many", "include the sets below in one of those above");
        return None;
    }
    let (name, source) = if let Some(ready) = path.value.strip_prefix(ReadySet::PREFIX) {
        let Some(set) = ReadySet::find(ready) else {
            let names = || ReadySet::ALL.iter().map(|set| set.name);
            let message = format!("no ready set `{ready}`{}", did_you_mean(ready, names()));
            problems.add_helped(path.place, message, "unknown", format!("there are {}", list(names())));
            return None;
        };
        (path.value.clone(), set.source.to_owned())
    } else {
        let file = open(&path, problems)?;
        (file.name.clone(), text(&path, file, problems)?)
    };
    let Some(reading) = problems.reading_of(&name) else {
        let circle = problems.circle(&name);
        let help = "take one of these includes out";
        problems.add_helped(path.place, format!("rule sets include each other in a circle: {circle}"), "here", help);
        return None;
    };
    match read_set(&reading, &source) {
        Ok(set) => {
            problems.add_opened(&set.files);
            Some(Include { path: path.value, set })
        }
        Err(error) => {
            let message = format!("the rule set `{}` cannot be used", path.value);
            problems.add_helped(path.place, message, "included here", "what is wrong with it is said below");
            problems.push_included(error);
            None
        }
    }
}
