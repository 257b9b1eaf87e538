//! The native part of the Python package `washout`: rules, and columns and tables in Arrow memory.

mod cells;
mod column;
mod errors;
mod learn;
mod rules;
mod survey;
mod table;
mod threads;
mod utf16;

use pyo3::prelude::*;

/// The native part of the package. Import `washout` instead.
#[pymodule]
mod _washout {
    #[pymodule_export]
    use crate::learn::learn;
    #[pymodule_export]
    use crate::rules::{Rules, load, looks_binary, restore, rules};
    #[pymodule_export]
    use crate::survey::{survey_table, survey_text};
}
