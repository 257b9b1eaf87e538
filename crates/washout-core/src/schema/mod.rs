//! The shape of a rule set as types, from which the JSON Schema for editors is made.
//!
//! These types are never read into: reading goes over the spanned TOML tree, so that every problem points at its own
//! words. A test holds the two together, key by key.

mod rule;
mod target;
mod verbs;

use rule::{ExampleTable, NamesTable, RuleTable, TableTable};
use schemars::JsonSchema;
use serde_json::{Value, json};
use target::{OneOrMany, TargetTable};

use crate::model::Verb;

/// A rule set: rules that clean text, in the order they run. Each sees the whole result of the one before.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "RuleSet")]
#[expect(dead_code, reason = "only its shape is asked for")]
struct SetFile {
    /// What the set is, in a few words.
    title: Option<String>,
    /// What it does, in a sentence or two.
    about: Option<String>,
    /// What all rules of the set leave alone: a match that shares a byte with one of these stays.
    protect: Option<OneOrMany<TargetTable>>,
    /// What rules see of the names of files, for `washout names`.
    names: Option<NamesTable>,
    /// What tables are like, and what rules see of them.
    table: Option<TableTable>,
    /// The rules. Each is a table with one verb.
    rule: Option<Vec<RuleTable>>,
    /// What the rules make of a text; `washout test` proves it.
    example: Option<Vec<ExampleTable>>,
}

/// The JSON Schema of rule sets (draft 2020-12), for editors that complete keys and explain them.
pub fn schema() -> Value {
    let mut schema = schemars::schema_for!(SetFile).to_value();
    schema["title"] = json!("Washout rule set");
    // A rule has one verb.
    let one_verb: Vec<Value> = Verb::NAMES.iter().map(|verb| json!({ "required": [verb] })).collect();
    schema["$defs"]["Rule"]["oneOf"] = json!(one_verb);
    schema
}
