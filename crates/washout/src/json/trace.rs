//! The steps of a trace.

use serde_json::{Value, json};
use washout_core::Program;
use washout_core::explain::Sample;
use washout_core::text::TextSize;
use washout_core::trace::Step;

use super::{of_command, text};
use crate::traced::Traced;

/// One way, or two; each with a name.
pub(crate) fn value(sample: &Sample, ways: &[(&str, &Program, &Traced)]) -> Value {
    let way = |(name, program, steps): &(&str, &Program, &Traced)| {
        let made = steps.made.iter().map(|(field, value)| json!({"field": field, "text": text(value)}));
        json!({
            "name": name,
            "steps": steps.steps.iter().map(|step| one_step(program, step)).collect::<Vec<_>>(),
            "result": text(steps.result(sample)),
            "made": made.collect::<Vec<_>>(),
            "left_alone": steps.refused.as_ref().map(ToString::to_string),
        })
    };
    let failed = ways.iter().find_map(|(_, _, steps)| steps.failed.as_deref());
    of_command(
        "trace",
        json!({
            "sample": sample.name,
            "text": text(&sample.text),
            "ways": ways.iter().map(way).collect::<Vec<_>>(),
            "failed": failed,
        }),
    )
}

fn one_step(program: &Program, step: &Step) -> Value {
    let name = &program.names()[step.rule.0];
    json!({
        "rule": name.number,
        "label": name.caption,
        "changes": step.changes,
        "before": sizes(step.before),
        "after": sizes(step.after),
        "text": text(&step.text),
    })
}

/// The size of a text.
pub(crate) fn sizes(size: TextSize) -> Value {
    json!({"bytes": size.bytes, "characters": size.chars, "lines": size.lines})
}
