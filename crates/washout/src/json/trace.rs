//! The steps of a trace.

use serde_json::{Value, json};
use washout_core::{Program, RunError, Sample, Step, TextSize};

use super::{of_command, text};

/// One way, or two; each with a name.
pub(crate) fn value(sample: &Sample, ways: &[(&str, &Program, &[Step])], failed: Option<&RunError>) -> Value {
    let way = |(name, program, steps): &(&str, &Program, &[Step])| {
        json!({
            "name": name,
            "steps": steps.iter().map(|step| one_step(program, step)).collect::<Vec<_>>(),
            "result": text(steps.last().map_or(&sample.text, |step| &step.text)),
        })
    };
    of_command(
        "trace",
        json!({
            "sample": sample.name,
            "text": text(&sample.text),
            "ways": ways.iter().map(way).collect::<Vec<_>>(),
            "failed": failed.map(ToString::to_string),
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
