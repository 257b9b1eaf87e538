//! Rules from pairs of texts.

use std::time::{Duration, Instant};

use pyo3::prelude::*;
use washout_core::learn::{LearnError, Lesson, Pair, learn as learn_rules};

use crate::errors::cannot_learn;

/// A reading of the pairs: its rules, its set, and where it differs from the first (a line, what the first makes of it, what this
/// one makes of it).
type Reading = (Vec<String>, String, Option<(String, String, String)>);

/// Finds rules that make every pair: the readings, the likeliest first.
#[pyfunction]
#[pyo3(name = "_learn")]
pub fn learn(
    py: Python<'_>,
    pairs: Vec<(String, String)>,
    others: Vec<String>,
    names: bool,
    literal: bool,
    seconds: f64,
) -> PyResult<Vec<Reading>> {
    let pairs: Vec<Pair> = pairs.into_iter().map(|(before, after)| Pair::new(before, after)).collect();
    let learnt = py.detach(|| {
        let mut lesson = Lesson::new(&pairs);
        (lesson.others, lesson.names, lesson.literal) = (&others, names, literal);
        // A time that cannot be counted is one without an end.
        let end = Duration::try_from_secs_f64(seconds).ok().and_then(|time| Instant::now().checked_add(time));
        learn_rules(&lesson, &|| end.is_none_or(|end| Instant::now() < end))
    });
    let learnt = learnt.map_err(|error| {
        let numbers = match &error {
            LearnError::Contradiction(one, other) => vec![*one, *other],
            LearnError::Unexplained(pair) => vec![*pair],
            _ => Vec::new(),
        };
        cannot_learn(py, &error, numbers)
    })?;
    let readings = learnt.readings.iter().map(|reading| {
        let differs = reading.differs.as_ref();
        let differs = differs.map(|differs| (differs.line.clone(), differs.first.clone(), differs.this.clone()));
        (reading.rules.clone(), reading.rule_set(&learnt.examples), differs)
    });
    Ok(readings.collect())
}
