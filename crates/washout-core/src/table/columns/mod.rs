//! Columns that are in memory: cells in, cells out.
//!
//! A column or a table that another program holds in memory, in the layout of [Apache Arrow] or any other, is not written as
//! a text to be cleaned. [`ColumnWasher`] takes the cells of one column, [`RecordWasher`] those of all columns of a table.
//!
//! [Apache Arrow]: https://arrow.apache.org/docs/format/Columnar.html

mod cells;
mod column_washer;
mod record_washer;

pub use cells::{Cells, WashedCells};
pub use column_washer::{ColumnWasher, WashedColumn};
pub use record_washer::{Column, OutField, RecordWasher, WashedRecords};
