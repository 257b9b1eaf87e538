//! What was learnt as the text of a rule set.

use std::fmt::Write as _;

use super::distance::edits;
use super::offers::quoted;
use super::runner::Runner;
use super::seen::Seen;
use super::token::widened;
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
    let seen = |text: &str| Seen::of(text, reading.part).text;
    let mut runner = Runner::default();
    let mut texts: Vec<String> = pairs.iter().map(|pair| seen(&pair.before)).collect();
    for rule in &reading.rules {
        text.push_str("[[rule]]\n");
        let washed: Vec<String> =
            texts.iter().map(|text| runner.run(rule, text).unwrap_or_else(|| text.clone())).collect();
        let changed = texts.iter().zip(&washed).find(|(before, after)| before != after);
        if let Some(label) = label(rule, changed) {
            let _ = writeln!(text, "label = {}", quoted(&label));
        }
        let _ = write!(text, "{rule}\n\n");
        texts = washed;
    }
    for pair in pairs {
        let (given, gives) = (quoted(&seen(&pair.before)), quoted(&seen(&pair.after)));
        let _ = write!(text, "[[example]]\ngiven = {given}\ngives = {gives}\n\n");
    }
    text.truncate(text.trim_end().len());
    text.push('\n');
    text
}

/// What a rule does in a few words. A pattern says little to most people: what it does to the first pair says more.
fn label(rule: &str, changed: Option<(&String, &String)>) -> Option<String> {
    const LONGEST: usize = 72;
    let caption = RuleSet::read_one_rule("learnt", rule).ok()?.rules.into_iter().next()?.caption();
    let is_removal = rule.starts_with("remove = { pattern = ");
    let Some((before, after)) = changed.filter(|_| is_removal || rule.starts_with("replace = { pattern = ")) else {
        return Some(caption);
    };
    let (before, after): (Vec<char>, Vec<char>) = (before.chars().collect(), after.chars().collect());
    let edits = edits(&before, &after);
    let (first, last) = (edits.first()?, edits.last()?);
    let text = |characters: &[char]| crate::text::shown::visible(&characters.iter().collect::<String>());
    let label = if is_removal {
        format!("remove “{}” and the like", text(&before[first.taken.clone()]))
    } else {
        let taken = widened(&before, first.taken.start..last.taken.end);
        // What is before the first edit and after the last one is the same.
        if taken.is_empty() {
            return Some(caption);
        }
        let put = first.put.start - (first.taken.start - taken.start)..last.put.end + (taken.end - last.taken.end);
        format!("“{}” becomes “{}”, and the like", text(&before[taken]), text(after.get(put)?))
    };
    Some(if label.chars().count() > LONGEST { caption } else { label })
}
