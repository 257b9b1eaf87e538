//! From TOML to the checked model.
//!
//! The spanned TOML tree is read by hand, one function per verb, so that every problem points at its own words and
//! all problems of a set are found at once. To add a key: ask for it in the function of its verb or target (asking
//! is what makes a key known), and describe it in `docs/rules.md`.

mod budget;
mod cells;
mod characters;
mod fields;
mod files;
mod include;
mod lists;
mod names;
mod nearest;
mod one_line;
mod pairs;
mod patterns;
mod problem;
mod records;
mod rule;
mod scope;
mod search;
mod slips;
mod stop_words;
mod table;
mod verbs;

pub use files::{Files, NamedFile, NoFiles};
pub use nearest::nearest;
pub use one_line::rule_lines;
pub(crate) use pairs::reads_as_heading;
pub use problem::{Problem, RuleError};
pub use stop_words::{stop_word_lists, stop_words};

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::rules::{Example, Rule, RuleSet};
use fields::Fields;
use problem::{Problems, SetInProgress};

impl RuleSet {
    /// Reads a rule set from the text of a TOML file. `name` is what messages call it.
    ///
    /// # Errors
    /// Everything that is wrong with it, in the order it stands in the text.
    pub fn read(name: &str, source: &str) -> Result<Self, RuleError> {
        Self::read_with(name, source, &NoFiles)
    }

    /// As [`read`](Self::read), for a rule set that may name files: lists, tables, other sets.
    ///
    /// # Errors
    /// Everything that is wrong with it and with the sets it includes.
    pub fn read_with(name: &str, source: &str, files: &dyn Files) -> Result<Self, RuleError> {
        read_set(&SetInProgress::of(name, files, true), source)
    }

    /// Reads one rule as it is given on a command line: `remove.chars = "#-"`, or with several keys
    /// `{ fields = "Keeper", remove.chars = "#-" }`.
    ///
    /// If the right side is not TOML, it is taken as raw text, so that a shell's quotation marks are enough:
    /// `remove.pattern = \d+$`.
    ///
    /// # Errors
    /// Everything that is wrong with it.
    pub fn read_one_rule(name: &str, source: &str) -> Result<Self, RuleError> {
        Self::read_one_rule_with(name, source, &NoFiles)
    }

    /// As [`read_one_rule`](Self::read_one_rule), for a rule that may name files, wherever they are.
    ///
    /// # Errors
    /// Everything that is wrong with it.
    pub fn read_one_rule_with(name: &str, source: &str, files: &dyn Files) -> Result<Self, RuleError> {
        let mended = one_line::as_toml(source);
        let source = mended.as_deref().unwrap_or(source);
        let mut problems = Problems::of(&SetInProgress::of(name, files, false));
        let (root, syntax_errors) = one_line::parse(source);
        if !syntax_errors.is_empty() {
            slips::explain_syntax(source, &syntax_errors).into_iter().for_each(|problem| problems.push(problem));
            return problems.none_or(Self::default(), source);
        }
        if let Some((key, _)) = root.get_key_value("rule") {
            problems.add(key.span(), "one rule is asked for here, without `[[rule]]`", "leave this out");
            return problems.none_or(Self::default(), source);
        }
        let rule = rule::rule(1, &root, 0..source.len(), &mut problems);
        let files = problems.take_opened();
        let set = Self { name: name.to_owned(), rules: rule.into_iter().collect(), files, ..Self::default() };
        problems.none_or(set, source)
    }
}

fn read_set(reading: &SetInProgress<'_>, source: &str) -> Result<RuleSet, RuleError> {
    let mut problems = Problems::of(reading);
    let (root, syntax_errors) = DeTable::parse_recoverable(source);
    if syntax_errors.is_empty() {
        let set = set(&reading.name, root.get_ref(), &mut problems);
        problems.none_or(set, source)
    } else {
        // What the parser made up to go on would only breed follow-up errors.
        slips::explain_syntax(source, &syntax_errors).into_iter().for_each(|problem| problems.push(problem));
        problems.none_or(RuleSet::default(), source)
    }
}

fn set(name: &str, root: &DeTable<'_>, problems: &mut Problems) -> RuleSet {
    let mut fields = Fields::of("a rule set", root, 0..0);
    let (title, about) = (fields.string("title", problems), fields.string("about", problems));
    let protect = scope::searches("protect", &mut fields, problems);
    let names = names::names(&mut fields, problems);
    let table = table::table(&mut fields, problems);
    let rules = rules(&mut fields, problems);
    let examples = examples(&rules, &mut fields, problems);
    let files = problems.take_opened();
    let set = RuleSet { name: name.to_owned(), title, about, protect, rules, names, table, examples, files };
    fields.refuse_rest(problems, slips::explain_top_key);
    set
}

fn rules(fields: &mut Fields<'_>, problems: &mut Problems) -> Vec<Rule> {
    let tables = tables("rule", fields, problems);
    let numbered = tables.iter().enumerate();
    numbered.filter_map(|(index, (table, place))| rule::rule(index + 1, table, place.clone(), problems)).collect()
}

fn examples(rules: &[Rule], fields: &mut Fields<'_>, problems: &mut Problems) -> Vec<Example> {
    let tables = tables("example", fields, problems);
    tables.into_iter().filter_map(|(table, place)| example(rules, table, place, problems)).collect()
}

fn example(
    rules: &[Rule],
    table: &DeTable<'_>,
    place: std::ops::Range<usize>,
    problems: &mut Problems,
) -> Option<Example> {
    let mut fields = Fields::of("an example", table, place);
    let label = fields.string("label", problems);
    let rule = example_rule(rules, &mut fields, problems);
    let given = example_text("given", "given_file", "the text before", &mut fields, problems);
    let gives = example_text("gives", "gives_file", "the text after", &mut fields, problems);
    fields.refuse_rest(problems, |_| None);
    Some(Example { label, given: given?, gives: gives?, rule })
}

/// A text of an example: written in it, or in a file.
fn example_text(
    key: &'static str,
    file_key: &'static str,
    what: &str,
    fields: &mut Fields<'_>,
    problems: &mut Problems,
) -> Option<Vec<u8>> {
    let Some(path) = fields.string_at(file_key, problems) else {
        return fields.required_string(key, what, problems).map(String::into_bytes);
    };
    if let Some(place) = fields.place_of(key) {
        fields.present(&[key]);
        problems.add_helped(place, format!("`{key}` and `{file_key}` are one text twice"), "given twice", "keep one");
    }
    files::open(&path, problems).map(|file| file.bytes)
}

/// `rule = 3` or `rule = "its label"`: the number of that rule.
fn example_rule(rules: &[Rule], fields: &mut Fields<'_>, problems: &mut Problems) -> Option<usize> {
    let (_, value) = fields.take("rule")?;
    let (named, found) = if let DeValue::Integer(number) = value.get_ref() {
        let number = usize::from_str_radix(number.as_str(), number.radix()).unwrap_or(usize::MAX);
        (format!("number {number}"), rules.iter().find(|rule| rule.number == number))
    } else {
        let label = fields.string_at("rule", problems)?.value;
        (format!("labelled “{label}”"), rules.iter().find(|rule| rule.label.as_ref() == Some(&label)))
    };
    if found.is_none() {
        let help = "`rule` is the number of a rule of this set, from 1, or its label";
        problems.add_helped(value.span(), format!("there is no rule {named}"), "no such rule", help);
    }
    found.map(|rule| rule.number)
}

/// The tables of `[[key]]`, each with its place in the source.
fn tables<'t>(
    key: &'static str,
    fields: &mut Fields<'t>,
    problems: &mut Problems,
) -> Vec<(&'t DeTable<'t>, std::ops::Range<usize>)> {
    let Some((key_span, value)) = fields.take(key) else { return Vec::new() };
    if let DeValue::Array(items) = value.get_ref() {
        items.iter().filter_map(|item| table(key, item, problems)).collect()
    } else {
        problems.add_helped(
            key_span,
            format!("`{key}` has to be written in double brackets"),
            "only one pair here",
            format!("write [[{key}]], once for each {key}"),
        );
        Vec::new()
    }
}

fn table<'t>(
    key: &str,
    item: &'t Spanned<DeValue<'t>>,
    problems: &mut Problems,
) -> Option<(&'t DeTable<'t>, std::ops::Range<usize>)> {
    if let DeValue::Table(table) = item.get_ref() {
        return Some((table, item.span()));
    }
    problems.add_helped(
        item.span(),
        format!("a {key} is a table"),
        "not a table",
        format!("write [[{key}]] on a line of its own, and its keys below"),
    );
    None
}
