//! A text spelled out.

use serde_json::{Value, json};
use washout_core::explain::Sample;
use washout_core::{RuleId, RuleName};

use super::{of_command, text};
use crate::spelled::{Spelled, classes, code, differences, made_same_by, name, spelled};

pub(crate) fn value(sample: &Sample, takers: Option<&[Option<RuleId>]>, names: &[RuleName]) -> Value {
    let all = spelled(&sample.text);
    let characters: Vec<Value> = all
        .iter()
        .map(|spelled| {
            let mut character = one(spelled);
            let taker = takers.and_then(|takers| takers[spelled.at]).map(|rule| names[rule.0].number.clone());
            character["rule"] = json!(taker);
            character
        })
        .collect();
    of_command(
        "spellout",
        json!({
            "sample": sample.name,
            "text": text(&sample.text),
            "bytes": sample.text.len(),
            "characters": all.len(),
            "clusters": all.iter().filter(|spelled| !spelled.joins).count(),
            "spelled": characters,
        }),
    )
}

pub(crate) fn difference(first: &Sample, other: &Sample) -> Value {
    let stretches = differences(&first.text, &other.text);
    let side = |spelled: &[Spelled]| spelled.iter().map(one).collect::<Vec<_>>();
    of_command(
        "spellout",
        json!({
            "sample": first.name,
            "text": text(&first.text),
            "against": text(&other.text),
            "differences": stretches.iter().map(|stretch| {
                json!({"text": side(&stretch.one), "against": side(&stretch.other)})
            }).collect::<Vec<_>>(),
            "made_same_by": made_same_by(&first.text, &other.text),
        }),
    )
}

fn one(spelled: &Spelled) -> Value {
    json!({
        "line": spelled.line,
        "column": spelled.column,
        "byte": spelled.at,
        "code": code(spelled.character),
        "name": name(spelled.character),
        "classes": classes(spelled.character),
        "bytes": spelled.bytes,
        "joins_previous": spelled.joins,
    })
}
