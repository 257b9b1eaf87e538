//! Patterns, and what refers to their groups.

use std::ops::Range;

use toml::de::DeValue;

use super::budget::MOST_COMPILED;
use super::fields::{Fields, Placed};
use super::nearest::list;
use super::problem::Problems;
use crate::pattern::{Pattern, PatternUse};
use crate::rules::{Case, Template, TemplateError};
use crate::text::At;

pub(super) fn pattern(fields: &mut Fields<'_>, case: Case, at: At, problems: &mut Problems) -> Option<Pattern> {
    let written = fields.string_at("pattern", problems)?;
    if written.value.is_empty() {
        problems.add(written.place, "the pattern is empty", "matches nothing but the empty text");
        return None;
    }
    let across_lines = fields.boolean("across_lines", problems).unwrap_or(false);
    let usage = PatternUse { ignore_case: case == Case::Ignore, at, across_lines };
    let error = match Pattern::parse(&written.value, usage) {
        Ok(pattern) if problems.budget().add_pattern(pattern.compiled()) => return Some(pattern),
        Ok(_) => {
            let message = format!(
                "the patterns of this set are too large: compiled they would take over {} MiB",
                MOST_COMPILED >> 20
            );
            let help = "make their repeat counts smaller, or use ASCII classes such as [0-9] and [A-Za-z]";
            problems.add_helped(written.place, message, "one too many", help);
            return None;
        }
        Err(error) => error,
    };
    let Some(spot) = error.place.filter(|_| !error.too_large) else {
        if !error.too_large {
            let message = format!("the pattern cannot be used: {}", error.message);
            problems.add_helped(written.place, message, "here", PATTERN_HELP);
            return None;
        }
        let help = "make its repeat counts smaller, or use ASCII classes such as [0-9] and [A-Za-z]";
        problems.add_helped(written.place, error.message, "too large", help);
        return None;
    };
    problems.add_helped(
        within_string(&written, spot.start, spot.end),
        format!("the pattern cannot be read: {}", error.message),
        "here",
        PATTERN_HELP,
    );
    None
}

const PATTERN_HELP: &str =
    "patterns are in the syntax of the Rust regex crate; for plain characters use `text` or `chars`";

pub(super) fn template(with: &Placed<String>, pattern: &Pattern, problems: &mut Problems) -> Option<Template> {
    let error = match Template::parse(&with.value, pattern.groups()) {
        Ok(template) => return Some(template),
        Err(error) => error,
    };
    match error {
        TemplateError::Unclosed { at } => problems.add_helped(
            within_string(with, at, at + 2),
            "`${` is not closed",
            "no `}` follows",
            "write ${name}, or $$ for a dollar sign",
        ),
        TemplateError::NoGroup { at, name, meant } => {
            let groups = || format!("{}; write $$ for a dollar sign", groups_help(pattern));
            let help = meant.map_or_else(groups, |meant| format!("write {meant}"));
            problems.add_helped(
                within_string(with, at, at + 1 + name.len()),
                format!("the pattern has no group `{name}`"),
                "refers to no group",
                help,
            );
        }
    }
    None
}

/// Which groups a pattern has.
pub(super) fn groups_help(pattern: &Pattern) -> String {
    let groups = pattern.groups().iter().enumerate().skip(1);
    let names: Vec<String> = groups.map(|(index, name)| name.clone().unwrap_or_else(|| index.to_string())).collect();
    match &names[..] {
        [] => "put the part you mean in parentheses".to_owned(),
        _ => format!("its groups are {}", list(names.iter().map(String::as_str))),
    }
}

/// The place of a stretch of a string's value in the source: exact where the string is written without escapes.
fn within_string(string: &Placed<String>, start: usize, end: usize) -> Range<usize> {
    let written = string.place.len();
    let quotes = match written.checked_sub(string.value.len()) {
        Some(2) => 1,
        Some(6) => 3,
        _ => return string.place.clone(),
    };
    let first = string.place.start + quotes;
    first + start..(first + end).max(first + start + 1)
}

/// A group of a pattern, as a rule names it.
#[derive(Clone, Debug)]
pub(super) enum GroupRef {
    Number(usize),
    Name(String),
}

impl std::fmt::Display for GroupRef {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Number(number) => write!(formatter, "{number}"),
            Self::Name(name) => formatter.write_str(name),
        }
    }
}

/// `group`: a number or a name.
pub(super) fn group(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Placed<GroupRef>> {
    let (_, value) = fields.take("group")?;
    if let DeValue::Integer(number) = value.get_ref() {
        let number = usize::from_str_radix(number.as_str(), number.radix()).unwrap_or(usize::MAX);
        return Some(Placed { value: GroupRef::Number(number), place: value.span() });
    }
    fields.string_at("group", problems).map(|name| Placed { value: GroupRef::Name(name.value), place: name.place })
}
