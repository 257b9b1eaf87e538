//! Rules that were learnt, and why none were.

use serde_json::{Value, json};
use washout_core::learn::{Doubt, LearnError, Learnt, OnLine, Pair, Reading};

use super::of_command;

/// `learn`
pub(crate) fn learnt(learnt: &Learnt, others: &[String]) -> Value {
    let reading = |reading: &Reading| {
        json!({
            "rules": reading.rules,
            "differs": reading.differs.as_ref().map(|differs| {
                json!({"line": differs.line, "first": differs.first, "this": differs.this})
            }),
        })
    };
    let others = learnt.on(others);
    let other = |result: &OnLine| json!({"line": result.line, "becomes": result.becomes, "doubt": result.doubt.map(Doubt::name)});
    of_command(
        "learn",
        json!({
            "set": learnt.readings[0].rule_set(&learnt.examples),
            "readings": learnt.readings.iter().map(reading).collect::<Vec<_>>(),
            "others": others.iter().map(other).collect::<Vec<_>>(),
        }),
    )
}

/// The same where there are no rules.
pub(crate) fn refused(error: &LearnError, pairs: &[Pair]) -> Value {
    let numbers = match error {
        LearnError::Contradiction(one, other) => vec![*one, *other],
        LearnError::Unexplained(pair) => vec![*pair],
        _ => Vec::new(),
    };
    let pair =
        |number: usize| json!({"pair": number + 1, "before": pairs[number].before, "after": pairs[number].after});
    of_command(
        "learn",
        json!({
            "set": null,
            "why": error.to_string(),
            "pairs": numbers.into_iter().map(pair).collect::<Vec<_>>(),
        }),
    )
}
