//! The JSON Schema of rule sets, made from a table of their keys.
//!
//! The table is never read into a rule set: reading goes over the spanned TOML tree, so that every problem points at its own
//! words. A test holds the two together, key by key.

use std::collections::BTreeMap;

use serde::Deserialize;
use serde_json::{Map, Value, json};

use crate::rules::{
    At, BreakPlace, Case, EmptyFields, EmptyLines, Encoded, FinalLineEnd, Gap, HyphenAtLineEnd, LetterCase, Marks,
    NormalForm, NumberPlace, Paragraphs, RepeatScope, TrimAt, TrimClass, Unclosed, Unmatched, Verb,
};
use crate::stock::Stock;

const KEYS: &str = include_str!("rule_set.toml");

#[derive(Deserialize)]
struct Keys {
    kinds: BTreeMap<String, KeyKind>,
    tables: BTreeMap<String, Table>,
}

#[derive(Deserialize)]
#[serde(untagged)]
enum KeyKind {
    Choices(Vec<String>),
    Other { takes: String, about: String },
}

#[derive(Deserialize)]
struct Table {
    about: String,
    /// It has the keys of a target besides its own.
    #[serde(default)]
    searches: bool,
    /// What each key takes, what it means, and whether it is required.
    #[serde(default)]
    keys: BTreeMap<String, Vec<String>>,
}

/// The JSON Schema of rule sets (draft 2020-12), for editors that complete keys and explain them.
///
/// # Panics
/// Never: a test makes it.
///
/// ```
/// assert_eq!(washout_core::schema::schema()["title"], "Washout rule set");
/// ```
pub fn schema() -> Value {
    let Keys { kinds, tables } = toml::from_str(KEYS).expect("OK because a test reads it");
    let target = &tables["Target"].keys;
    let mut defs = Map::new();
    macro_rules! choices {
        ($($name:ident: $choices:ty),+) => {
            $(
                let words: Vec<&str> = <$choices>::NAMED.iter().map(|(word, _)| *word).collect();
                defs.insert(stringify!($name).to_owned(), json!({ "type": "string", "enum": words }));
            )+
        };
    }
    choices!(At: At, Case: Case, Marks: Marks, Unclosed: Unclosed, Gap: Gap, Unmatched: Unmatched, TrimAt: TrimAt, BlankClass: TrimClass, LetterCase: LetterCase, Form: NormalForm, Encoded: Encoded, EmptyLines: EmptyLines, RepeatScope: RepeatScope, Paragraphs: Paragraphs, Hyphens: HyphenAtLineEnd, BreakPlace: BreakPlace, FinalLineEnd: FinalLineEnd, NumberPlace: NumberPlace, EmptyFields: EmptyFields);
    for (name, kind) in kinds {
        let schema = match kind {
            KeyKind::Choices(choices) => json!({ "type": "string", "enum": choices }),
            KeyKind::Other { takes, about } => described(of(&takes), &about),
        };
        defs.insert(name, schema);
    }
    let stock = Stock::ALL.iter().map(|stock| json!({ "const": stock.name(), "description": stock.takes() }));
    defs.insert("Stock".to_owned(), json!({ "oneOf": stock.collect::<Vec<_>>() }));
    defs.extend(tables.iter().map(|(name, table)| (name.clone(), of_table(table, target))));
    // A rule has one verb.
    let one_verb: Vec<Value> = Verb::NAMES.iter().map(|verb| json!({ "required": [verb] })).collect();
    defs["Rule"]["oneOf"] = json!(one_verb);
    let mut schema = defs.remove("RuleSet").expect("OK because a test makes it");
    schema["$schema"] = json!("https://json-schema.org/draft/2020-12/schema");
    schema["title"] = json!("Washout rule set");
    schema["$defs"] = Value::Object(defs);
    schema
}

fn of_table(table: &Table, target: &BTreeMap<String, Vec<String>>) -> Value {
    let inherited = target.iter().filter(|_| table.searches);
    let keys: BTreeMap<&String, &Vec<String>> = inherited.chain(&table.keys).collect();
    let properties = keys.iter().map(|(key, row)| ((*key).clone(), described(of(&row[0]), &row[1])));
    let required: Vec<_> = keys.iter().filter(|(_, row)| row.len() > 2).map(|(key, _)| key).collect();
    let properties = Value::Object(properties.collect());
    let schema = json!({
        "type": "object",
        "additionalProperties": false,
        "properties": properties,
        "required": required,
    });
    described(schema, &table.about)
}

fn described(mut schema: Value, about: &str) -> Value {
    if !about.is_empty() {
        schema["description"] = json!(about);
    }
    schema
}

/// The schema of what a key takes.
fn of(takes: &str) -> Value {
    let alternatives: Vec<&str> = takes.split(" | ").collect();
    if alternatives.len() > 1 {
        return json!({ "anyOf": alternatives.into_iter().map(of).collect::<Vec<_>>() });
    }
    if let Some(one) = takes.strip_suffix('+') {
        return json!({ "anyOf": [of(one), { "type": "array", "items": of(one) }] });
    }
    if let Some(item) = takes.strip_prefix('[').and_then(|rest| rest.strip_suffix(']')) {
        return json!({ "type": "array", "items": of(item) });
    }
    if let Some(value) = takes.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')) {
        return json!({ "type": "object", "additionalProperties": of(value) });
    }
    if let Some((least, most)) = takes.strip_prefix("integer ").and_then(|range| range.split_once("..")) {
        let bounds = [("minimum", least), ("maximum", most)];
        let bounds =
            bounds.into_iter().filter_map(|(name, bound)| Some((name.to_owned(), json!(bound.parse::<u64>().ok()?))));
        return Value::Object([("type".to_owned(), json!("integer"))].into_iter().chain(bounds).collect());
    }
    match takes {
        "string" | "boolean" => json!({ "type": takes }),
        "pair" => json!({ "type": "array", "items": { "type": "string" }, "minItems": 2, "maxItems": 2 }),
        name => json!({ "$ref": format!("#/$defs/{name}") }),
    }
}
