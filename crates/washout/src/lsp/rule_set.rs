//! Rule sets: what is wrong with them and how to mend it, what can stand where, and what it means.

use std::fmt::Write as _;
use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::LazyLock;

use serde_json::Value;
use toml::de::{DeTable, DeValue};
use washout_core::class::{NAMED_CLASSES, NamedClass};
use washout_core::explain::explain;
use washout_core::ready::ReadySet;
use washout_core::stock::Stock;
use washout_core::{RuleError, RuleSet};

use super::document::Document;
use super::types::{CompletionItem, CompletionKind, Severity};
use crate::rules::FILES;

/// What the schema calls values that name a field.
const FIELD_TYPES: [&str; 2] = ["/FieldRef\"", "/NewFieldRef\""];

static SCHEMA: LazyLock<Value> = LazyLock::new(washout_core::schema::schema);

/// Something wrong with a rule set.
pub(super) struct Finding {
    pub(super) place: Range<usize>,
    pub(super) message: String,
    /// What to put there instead, if that is known.
    pub(super) mend: Option<String>,
    pub(super) severity: Severity,
}

/// Everything that is wrong: mistakes, and examples that do not hold.
pub(super) fn findings(path: &Path, document: &Document) -> Vec<Finding> {
    match read(path, document) {
        Err(error) => mistakes(&error, document),
        Ok(set) => {
            let places = example_places(&document.text);
            let failed = set.prove(None).zip(places).filter(|(proof, _)| !proof.holds());
            let finding = |(proof, place): (washout_core::prove::Proof<'_>, Range<usize>)| {
                let got = match &proof.got {
                    Ok(got) => format!("the rules make of it {:?}", String::from_utf8_lossy(got)),
                    Err(error) => error.to_string(),
                };
                let message = format!("this example does not hold: {got}");
                Finding { place, message, mend: None, severity: Severity::WARNING }
            };
            failed.map(finding).collect()
        }
    }
}

fn read(path: &Path, document: &Document) -> Result<RuleSet, RuleError> {
    RuleSet::read_with(&path.to_string_lossy(), &document.text, &FILES)
}

fn mistakes(error: &RuleError, document: &Document) -> Vec<Finding> {
    let own = error.problems().iter().map(|problem| {
        let help = problem.help.as_ref().map_or_else(String::new, |help| format!("\n{help}"));
        let label = if problem.label.is_empty() { String::new() } else { format!(" ({})", problem.label) };
        Finding {
            place: first_line(problem.place.clone(), &document.text),
            message: format!("{}{label}{help}", problem.message),
            mend: mend(&problem.message, document.text.get(problem.place.clone()).unwrap_or_default()),
            severity: Severity::ERROR,
        }
    });
    let included = error.included().iter().filter_map(|error| {
        let message = error.problems().first().map(|problem| format!("{}: {}", error.name(), problem.message));
        let name = Path::new(error.name()).file_name().unwrap_or_default().to_string_lossy().into_owned();
        let place = document.text.find(&name).map_or(0..0, |at| at..at + name.len());
        message.map(|message| Finding { place, message, mend: None, severity: Severity::ERROR })
    });
    own.chain(included).collect()
}

/// A problem of a whole rule stands at its first line.
fn first_line(place: Range<usize>, text: &str) -> Range<usize> {
    let place = place.start.min(text.len())..place.end.min(text.len());
    let len = text.get(place.clone()).and_then(|text| text.find('\n')).filter(|len| *len > 0);
    place.start..len.map_or(place.end, |len| place.start + len)
}

/// The word that a message proposes, as it would stand there.
fn mend(message: &str, there: &str) -> Option<String> {
    let word = message.split_once("did you mean `")?.1.split('`').next()?;
    let quote = there.chars().next().filter(|first| matches!(first, '"' | '\''));
    Some(quote.map_or_else(|| word.to_owned(), |quote| format!("{quote}{word}{quote}")))
}

// ---- where things stand

/// The tables of `[[key]]`, each with its place.
fn tables<'t>(root: &'t DeTable<'_>, key: &str) -> Vec<(&'t DeTable<'t>, Range<usize>)> {
    let Some((_, value)) = root.get_key_value(key) else { return Vec::new() };
    let DeValue::Array(items) = value.get_ref() else { return Vec::new() };
    let table = |item: &'t toml::Spanned<DeValue<'_>>| match item.get_ref() {
        DeValue::Table(table) => Some((table, item.span())),
        _ => None,
    };
    items.iter().filter_map(table).collect()
}

fn example_places(text: &str) -> Vec<Range<usize>> {
    let (root, _) = DeTable::parse_recoverable(text);
    tables(root.get_ref(), "example").into_iter().map(|(_, place)| first_line(place, text)).collect()
}

/// Whether each example holds, where it stands.
pub(super) fn proofs(path: &Path, document: &Document) -> Vec<(Range<usize>, bool)> {
    let Ok(set) = read(path, document) else { return Vec::new() };
    set.prove(None).zip(example_places(&document.text)).map(|(proof, place)| (place, proof.holds())).collect()
}

/// What the rule at this place does, or what the name under it stands for.
pub(super) fn hover(path: &Path, document: &Document, at: usize) -> Option<String> {
    let word = word_at(&document.text, at);
    if let Some(stock) = Stock::find(word) {
        return Some(format!("**{}**\n\ntakes {}\n\nleaves {}", stock.name(), stock.takes(), stock.leaves()));
    }
    if let Some(class) = NamedClass::find(word).filter(|_| is_in_string(&document.text, at)) {
        return Some(format!("**{}**: {}", class.name, class.members));
    }
    let set = read(path, document).ok()?;
    let (root, _) = DeTable::parse_recoverable(&document.text);
    let rules = tables(root.get_ref(), "rule");
    // A rule goes on until the next table of the set.
    let starts: Vec<usize> = rules.iter().map(|(_, place)| place.start).collect();
    let number = starts.partition_point(|start| *start <= at);
    let rule = set.rules.iter().find(|rule| rule.number == number)?;
    let end = tables(root.get_ref(), "example")
        .iter()
        .map(|(_, place)| place.start)
        .find(|start| *start > starts[number - 1]);
    if end.is_some_and(|end| at >= end && starts.get(number).is_none_or(|next| *next > end)) {
        return None;
    }
    let mut said = format!("**rule {number}**: {}", rule.caption());
    if rule.off {
        said += "\n\nIt is off.";
    }
    let prefix = format!("{number}.");
    let explanations = explain([&set]);
    for explanation in
        explanations.iter().filter(|one| one.rule.number == number.to_string() || one.rule.number.starts_with(&prefix))
    {
        let _ = write!(said, "\n\n{}\n\nIt sees: {}.", explanation.does.join(" "), explanation.needs);
        for piece in &explanation.pieces {
            let _ = write!(said, "\n- `{}` {}", piece.source, piece.means);
        }
    }
    Some(said)
}

/// The word around a place: letters, digits, hyphens and underscores.
fn word_at(text: &str, at: usize) -> &str {
    let is_word = |character: char| character.is_alphanumeric() || matches!(character, '-' | '_');
    let start = text[..at]
        .char_indices()
        .rev()
        .take_while(|(_, character)| is_word(*character))
        .last()
        .map_or(at, |(start, _)| start);
    let len = text[at..].find(|character| !is_word(character)).unwrap_or(text.len() - at);
    &text[start..at + len]
}

fn is_in_string(text: &str, at: usize) -> bool {
    string_at(text, at).is_some()
}

/// The content of the string of one line around a place, and where it is.
fn string_at(text: &str, at: usize) -> Option<Range<usize>> {
    let start = text[..at].rfind('\n').map_or(0, |end| end + 1);
    let line = &text[start..text[at..].find('\n').map_or(text.len(), |end| at + end)];
    let mut open: Option<(char, usize)> = None;
    for (index, character) in line.char_indices() {
        match open {
            Some((quote, from)) if character == quote => {
                if (start + from..=start + index).contains(&at) {
                    return Some(start + from..start + index);
                }
                open = None;
            }
            None if matches!(character, '"' | '\'') => open = Some((character, index + 1)),
            None if character == '#' => return None,
            _ => {}
        }
    }
    // One that is being typed has no end yet.
    open.map(|(_, from)| start + from..start + line.len()).filter(|place| place.start <= at)
}

/// The file that the string under a place names.
pub(super) fn named_file(path: &Path, document: &Document, at: usize) -> Option<PathBuf> {
    let name = &document.text[string_at(&document.text, at)?];
    let file = path.parent()?.join(name);
    (!name.is_empty() && file.is_file()).then_some(file)
}

/// Where the label under a place stands: in its rule, and in examples that name it.
pub(super) fn label_places(document: &Document, at: usize) -> Option<(String, Vec<Range<usize>>)> {
    let (root, _) = DeTable::parse_recoverable(&document.text);
    let mut all = Vec::new();
    for (table, key) in [("rule", "label"), ("example", "rule")] {
        for (table, _) in tables(root.get_ref(), table) {
            if let Some((_, value)) = table.get_key_value(key)
                && let DeValue::String(label) = value.get_ref()
            {
                all.push((label.to_string(), value.span()));
            }
        }
    }
    let label = all.iter().find(|(_, place)| place.contains(&at) || place.end == at)?.0.clone();
    Some((label.clone(), all.into_iter().filter(|(other, _)| *other == label).map(|(_, place)| place).collect()))
}

// ---- completion

/// What can stand at a place: each with its kind, and what it means. `fields`: those of the tables that the set is for.
pub(super) fn completions(document: &Document, at: usize, fields: impl FnOnce() -> Vec<String>) -> Vec<CompletionItem> {
    let text = &document.text[..at];
    let line = &text[text.rfind('\n').map_or(0, |end| end + 1)..];
    let table = text
        .lines()
        .rev()
        .skip(usize::from(!text.ends_with('\n')))
        .find_map(|line| line.trim().strip_prefix('['))
        .map_or("", |rest| rest.trim_matches(['[', ']', ' ']));
    let top = match table {
        "rule" => "Rule",
        "example" => "Example",
        "names" => "Names",
        "table" => "Table",
        _ => "",
    };
    let root = if top.is_empty() { &*SCHEMA } else { &SCHEMA["$defs"][top] };
    if string_at(&document.text, at).is_some() {
        let before = line[..line.rfind(['"', '\'']).unwrap_or(line.len())].trim_end_matches(['[', ' ', ',', '"', '\'']);
        let key = before.trim_end().strip_suffix('=').map(str::trim_end);
        // A list goes on after its first word.
        let key = key.or_else(|| line.rsplit_once('=').map(|(before, _)| before.trim_end()));
        let key = key.and_then(|before| before.rsplit([' ', '{', ',', '.']).next()).unwrap_or_default();
        return values(root, verb_of(line), key, fields);
    }
    let keys = match verb_of(line) {
        Some(verb) => resolved(&root["properties"][verb]),
        None => root,
    };
    keys_of(keys)
}

/// The verb whose keys are written here: `remove = {` or `remove.`.
fn verb_of(line: &str) -> Option<&str> {
    if let Some((before, inside)) = line.rsplit_once('{')
        && !inside.contains('}')
    {
        return before
            .trim_end()
            .strip_suffix('=')
            .map(str::trim)
            .and_then(|key| key.rsplit([' ', '.', ',', '{']).next());
    }
    let word = line.trim_start();
    word.split_once('.')
        .map(|(verb, _)| verb)
        .filter(|verb| verb.chars().all(|letter| letter.is_ascii_lowercase() || letter == '_'))
}

/// The table that a key takes.
fn resolved(schema: &Value) -> &Value {
    let name = |schema: &Value| schema["$ref"].as_str().and_then(|name| name.rsplit('/').next()).map(str::to_owned);
    if let Some(name) = name(schema) {
        return resolved(&SCHEMA["$defs"][&name]);
    }
    let choices = schema["anyOf"].as_array().or_else(|| schema["oneOf"].as_array());
    let table =
        choices.and_then(|choices| choices.iter().map(resolved).find(|choice| choice["properties"].is_object()));
    table.unwrap_or(schema)
}

fn keys_of(table: &Value) -> Vec<CompletionItem> {
    let Some(keys) = table["properties"].as_object() else { return Vec::new() };
    let item = |(key, about): (&String, &Value)| CompletionItem {
        label: key.clone(),
        kind: CompletionKind::FIELD,
        detail: about["description"].as_str().or_else(|| resolved(about)["description"].as_str()).map(str::to_owned),
    };
    keys.iter().map(item).collect()
}

/// What a key takes, where it takes one of several words.
fn values(root: &Value, verb: Option<&str>, key: &str, fields: impl FnOnce() -> Vec<String>) -> Vec<CompletionItem> {
    let item = |label: &str, detail: &str| CompletionItem {
        label: label.to_owned(),
        kind: CompletionKind::VALUE,
        detail: Some(detail.to_owned()).filter(|detail| !detail.is_empty()),
    };
    match key {
        "class" => return NAMED_CLASSES.iter().map(|class| item(class.name, class.members)).collect(),
        "stock" => return Stock::ALL.iter().map(|stock| item(stock.name(), stock.takes())).collect(),
        "include" => {
            let ready = ReadySet::ALL.iter();
            return ready.map(|set| item(&format!("{}{}", ReadySet::PREFIX, set.name), "a ready set")).collect();
        }
        _ => {}
    }
    let table = verb.map_or(root, |verb| resolved(&root["properties"][verb]));
    let about = &table["properties"][key];
    if FIELD_TYPES.iter().any(|name| about.to_string().contains(name)) {
        return fields().iter().map(|field| item(field, "a field")).collect();
    }
    words_of(about).iter().map(|word| item(word, "")).collect()
}

fn words_of(schema: &Value) -> Vec<String> {
    let own = schema["enum"].as_array().into_iter().flatten().filter_map(|word| word.as_str().map(str::to_owned));
    let referred = schema["$ref"].as_str().and_then(|name| name.rsplit('/').next());
    let referred = referred.map_or_else(Vec::new, |name| words_of(&SCHEMA["$defs"][name]));
    let choices =
        ["anyOf", "oneOf"].iter().flat_map(|key| schema[*key].as_array().into_iter().flatten().flat_map(words_of));
    own.chain(referred).chain(choices).collect()
}
