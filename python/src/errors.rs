//! Errors as Python's exceptions. Their classes are in `washout/errors.py`.

use pyo3::exceptions::PyValueError;
use pyo3::prelude::*;
use pyo3::types::PyDict;
use washout_core::RuleError;
use washout_sets::SetError;

fn raised(py: Python<'_>, class: &str, message: &str, more: Option<Bound<'_, PyAny>>) -> PyErr {
    let make = || {
        let class = py.import("washout.errors")?.getattr(class)?;
        match more {
            Some(more) => class.call1((message, more)),
            None => class.call1((message,)),
        }
    };
    make().map_or_else(|_| PyValueError::new_err(message.to_owned()), PyErr::from_value)
}

/// A rule set that cannot be read.
pub(crate) fn of_set(py: Python<'_>, path: &str, error: &SetError) -> PyErr {
    match error {
        SetError::Rules(error) => of_rules(py, error),
        SetError::Unreadable(reason) => {
            raised(py, "RuleError", &format!("the rule set {path} cannot be read: {reason}"), None)
        }
        SetError::NotReady(_) | SetError::NotMine(_) => raised(py, "RuleError", &error.to_string(), None),
    }
}

/// Rules that cannot mean anything: the exception has each problem with its place.
pub(crate) fn of_rules(py: Python<'_>, error: &RuleError) -> PyErr {
    let mut problems = Vec::new();
    let mut collect = vec![error];
    while let Some(error) = collect.pop() {
        collect.extend(error.included());
        for problem in error.problems() {
            let (line, column) = error.line_and_column(problem.place.start);
            let dict = PyDict::new(py);
            let set = || {
                dict.set_item("file", error.name())?;
                dict.set_item("line", line)?;
                dict.set_item("column", column)?;
                dict.set_item("message", &problem.message)?;
                dict.set_item("help", &problem.help)
            };
            match set() {
                Ok(()) => problems.push(dict),
                Err(error) => return error,
            }
        }
    }
    match problems.into_pyobject(py) {
        Ok(list) => raised(py, "RuleError", &error.to_string(), Some(list.into_any())),
        Err(error) => error,
    }
}

/// What rules cannot do to a text, a column or a table.
pub(crate) fn cannot_clean(py: Python<'_>, message: impl std::fmt::Display) -> PyErr {
    raised(py, "CleanError", &message.to_string(), None)
}

/// Pairs that no rules make: the exception has their numbers, from 0.
pub(crate) fn cannot_learn(py: Python<'_>, error: &washout_core::learn::LearnError, numbers: Vec<usize>) -> PyErr {
    match numbers.into_pyobject(py) {
        Ok(numbers) => raised(py, "LearnError", &error.to_string(), Some(numbers)),
        Err(error) => error,
    }
}
