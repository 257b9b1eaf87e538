//! The keys of one table, read one by one. A key that was not read is unknown.

use std::ops::{Range, RangeInclusive};

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use super::nearest::{did_you_mean, list, nearest};
use super::problem::{Problem, Problems};
use super::slips::verb_without_braces;

/// A table that is being read.
pub(super) struct Fields<'t> {
    /// What the table is, as messages call it: "`remove`", "a rule".
    owner: String,
    table: &'t DeTable<'t>,
    place: Range<usize>,
    known: Vec<&'static str>,
}

/// A value with its place in the source.
#[derive(Clone, Debug)]
pub(super) struct Placed<T> {
    pub(super) value: T,
    pub(super) place: Range<usize>,
}

impl<'t> Fields<'t> {
    pub(super) fn of(owner: impl Into<String>, table: &'t DeTable<'t>, place: Range<usize>) -> Self {
        Self { owner: owner.into(), table, place, known: Vec::new() }
    }

    /// Where the table stands in the source.
    pub(super) fn place(&self) -> Range<usize> {
        self.place.clone()
    }

    /// The key's place and its value, if it is there. From here on the key is known.
    pub(super) fn take(&mut self, key: &'static str) -> Option<(Range<usize>, &'t Spanned<DeValue<'t>>)> {
        self.know(key);
        self.table.get_key_value(key).map(|(key, value)| (key.span(), value))
    }

    fn know(&mut self, key: &'static str) {
        if !self.known.contains(&key) {
            self.known.push(key);
        }
    }

    /// Where the key stands, if it is there.
    pub(super) fn place_of(&self, key: &str) -> Option<Range<usize>> {
        self.table.get_key_value(key).map(|(key, _)| key.span())
    }

    /// Which of `keys` are there, each with its place.
    pub(super) fn present(&mut self, keys: &[&'static str]) -> Vec<(&'static str, Range<usize>)> {
        keys.iter().for_each(|key| self.know(key));
        keys.iter().filter_map(|key| Some((*key, self.place_of(key)?))).collect()
    }

    /// Whether a key is there that is none of these but was probably meant to be one.
    pub(super) fn has_slip_of(&self, keys: &[&'static str]) -> bool {
        let known = |key: &str| keys.contains(&key) || self.known.contains(&key);
        self.table.keys().any(|key| !known(key.get_ref()) && nearest(key.get_ref(), keys.iter().copied()).is_some())
    }

    pub(super) fn string_at(&mut self, key: &'static str, problems: &mut Problems) -> Option<Placed<String>> {
        let (_, value) = self.take(key)?;
        let DeValue::String(text) = value.get_ref() else {
            problems.push(wrong_type(key, value, "a string", "put it in quotes"));
            return None;
        };
        Some(Placed { value: text.to_string(), place: value.span() })
    }

    pub(super) fn string(&mut self, key: &'static str, problems: &mut Problems) -> Option<String> {
        self.string_at(key, problems).map(|text| text.value)
    }

    pub(super) fn required_string(&mut self, key: &'static str, what: &str, problems: &mut Problems) -> Option<String> {
        if self.place_of(key).is_none() {
            let message = format!("{} needs `{key}`, {what}", self.owner);
            problems.add(self.place(), message, format!("no `{key}` here"));
        }
        self.string(key, problems)
    }

    /// A list of strings; a single string is a list of one.
    pub(super) fn strings(&mut self, key: &'static str, problems: &mut Problems) -> Option<Vec<Placed<String>>> {
        let (_, value) = self.take(key)?;
        let items = match value.get_ref() {
            DeValue::Array(items) => items.iter().collect(),
            _ => vec![value],
        };
        if items.is_empty() {
            problems.add(value.span(), format!("`{key}` is empty"), "nothing to look for");
        }
        let mut strings = Vec::with_capacity(items.len());
        for item in items {
            match item.get_ref() {
                DeValue::String(text) => strings.push(Placed { value: text.to_string(), place: item.span() }),
                _ => problems.push(wrong_type(key, item, "a string or a list of strings", "put it in quotes")),
            }
        }
        Some(strings)
    }

    pub(super) fn boolean(&mut self, key: &'static str, problems: &mut Problems) -> Option<bool> {
        let (_, value) = self.take(key)?;
        if let DeValue::Boolean(boolean) = value.get_ref() {
            return Some(*boolean);
        }
        problems.push(wrong_type(key, value, "true or false", "write true or false, without quotes"));
        None
    }

    /// A whole number within these bounds.
    pub(super) fn number(
        &mut self,
        key: &'static str,
        bounds: RangeInclusive<usize>,
        problems: &mut Problems,
    ) -> Option<usize> {
        let (_, value) = self.take(key)?;
        let DeValue::Integer(number) = value.get_ref() else {
            problems.push(wrong_type(key, value, "a whole number", "write it without quotes"));
            return None;
        };
        let number = usize::from_str_radix(number.as_str(), number.radix()).ok();
        let within = number.filter(|number| bounds.contains(number));
        if within.is_none() {
            let message = format!("`{key}` has to be from {} to {}", bounds.start(), bounds.end());
            problems.add(value.span(), message, "out of bounds");
        }
        within
    }

    /// One of a few named values.
    pub(super) fn choice<T: Copy>(
        &mut self,
        key: &'static str,
        choices: &[(&'static str, T)],
        problems: &mut Problems,
    ) -> Option<T> {
        let written = self.string_at(key, problems)?;
        let chosen = choices.iter().find(|(name, _)| *name == written.value);
        if chosen.is_none() {
            let names = || choices.iter().map(|(name, _)| *name);
            let meant = did_you_mean(&written.value, names());
            let message = format!("`{key}` cannot be `{}`{meant}", written.value);
            problems.add_helped(
                written.place,
                message,
                "not one of its values",
                format!("`{key}` is one of {}", list(names())),
            );
        }
        chosen.map(|(_, value)| *value)
    }

    /// A table below `key`, ready to be read.
    pub(super) fn table(&mut self, key: &'static str, example: &str, problems: &mut Problems) -> Option<Fields<'t>> {
        let (key_span, value) = self.take(key)?;
        if let DeValue::Table(table) = value.get_ref() {
            Some(Fields::of(format!("`{key}`"), table, key_span))
        } else {
            let word = if let DeValue::String(word) = value.get_ref() { &**word } else { "" };
            let help = verb_without_braces(key, word).unwrap_or_else(|| format!("write {example}"));
            problems.push(wrong_type(key, value, "a table", &help));
            None
        }
    }

    /// Reports every key that was not read. `explain` may know more about a key than that it is unknown.
    pub(super) fn refuse_rest(self, problems: &mut Problems, explain: impl Fn(&str) -> Option<(String, String)>) {
        for (key, _) in self.table {
            let name: &str = key.get_ref();
            if self.known.contains(&name) {
                continue;
            }
            if let Some((message, help)) = explain(name) {
                problems.add_helped(key.span(), message, "not here", help);
                continue;
            }
            let meant = did_you_mean(name, self.known.iter().copied());
            let message = format!("{} has no key `{name}`{meant}", self.owner);
            let help = match &self.known[..] {
                [] => format!("{} takes no keys: write {{}}", self.owner),
                known => format!("{} takes {}", self.owner, list(known.iter().copied())),
            };
            problems.add_helped(key.span(), message, "unknown key", help);
        }
    }
}

#[cold]
fn wrong_type(key: &str, value: &Spanned<DeValue<'_>>, wanted: &str, help: &str) -> Problem {
    let found = match value.get_ref() {
        DeValue::String(_) => "a string",
        DeValue::Integer(_) => "a whole number",
        DeValue::Float(_) => "a decimal number",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date or time",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    };
    Problem {
        message: format!("`{key}` has to be {wanted}, not {found}"),
        place: value.span(),
        label: format!("this is {found}"),
        help: Some(help.to_owned()),
    }
}
