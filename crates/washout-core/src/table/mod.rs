//! Tables: rules see cells, one at a time, and every other byte stays.
//!
//! [`Program::apply_as`](crate::Program::apply_as) cleans a table in memory, [`AnyWasher`] one that comes in pieces.
//! [`TableSurveyor`] finds what is wrong with the cells of each column.

// A table comes in pieces and is cut into blocks of whole records (`csv`, `json`). A block is read into a grid of those cells
// that rules look at (`grid`), goes through passes (`pass`), and is written again (`block`): what has not changed is copied as it
// was. Which passes there are is worked out once for a table (`plan`): rules in a row for the same columns are one pass, and each
// rule that drops records (`records`) or acts on fields (`fields`) is one. To add a kind of table: a module that cuts, reads into
// a grid and writes a cell, and its arm in `plan::TableReader`.

mod alike;
mod block;
mod cell;
mod cell_texts;
mod change_log;
mod columns;
mod csv;
mod error;
mod fields;
mod form;
mod formulas;
mod grid;
mod header;
mod held;
mod json;
mod layout;
mod pass;
mod plan;
mod records;
mod stacked;
mod survey;
mod trace;
mod washer;

pub use crate::rules::{Ragged, TableFormat, TableSettings};
pub use alike::{Alike, CellCount};
pub use cell::CellText;
pub use cell_texts::CellTexts;
pub use columns::{Cells, Column, ColumnWasher, OutField, RecordWasher, WashedCells, WashedColumn, WashedRecords};
pub use error::TableError;
pub use form::{AboutTable, AnyWasher, Form, WashError};
pub use formulas::{Formulas, is_formula};
pub use survey::{ColumnSurvey, Finding, TableSurvey, TableSurveyor, table_draft};
pub use washer::TableWasher;
