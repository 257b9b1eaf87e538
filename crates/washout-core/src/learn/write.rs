//! What was learnt as the text of a rule set.

use std::fmt::Write as _;

use super::offers::quoted;
use super::seen::Seen;
use super::{Pair, Reading};
use crate::rules::{NamePart, RuleSet};

/// The rule set of a reading, with the pairs as its examples: those of names are about the part that the rules see.
pub(super) fn rule_set(reading: &Reading, pairs: &[Pair]) -> String {
    let mut text = String::new();
    if let Some(part) = reading.part {
        let name = match part {
            NamePart::Stem => "stem",
            NamePart::Extension => "extension",
            NamePart::Whole => "whole",
        };
        // The pairs show what becomes of an underscore: it is no blank unless they say so.
        let _ = write!(text, "[names]\npart = \"{name}\"\nblanks = \" \"\n\n");
    }
    for rule in &reading.rules {
        text.push_str("[[rule]]\n");
        if let Some(rule) = RuleSet::read_one_rule("learnt", rule).ok().and_then(|set| set.rules.into_iter().next()) {
            let _ = writeln!(text, "label = {}", quoted(&rule.caption()));
        }
        let _ = write!(text, "{rule}\n\n");
    }
    for pair in pairs {
        let seen = |text: &str| quoted(&Seen::of(text, reading.part).text);
        let _ = write!(text, "[[example]]\ngiven = {}\ngives = {}\n\n", seen(&pair.before), seen(&pair.after));
    }
    text.truncate(text.trim_end().len());
    text.push('\n');
    text
}
