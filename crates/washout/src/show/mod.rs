//! What people see.

pub(crate) mod command_line;
pub(crate) mod diagnostics;
pub(crate) mod difference;
pub(crate) mod hunk;
pub(crate) mod moment;
pub(crate) mod names;
pub(crate) mod number;
pub(crate) mod place;
pub(crate) mod preview;
pub(crate) mod progress;
pub(crate) mod screen;
pub(crate) mod side_text;
pub(crate) mod style;
pub(crate) mod summary;
pub(crate) mod survey;
pub(crate) mod table;
pub(crate) mod table_survey;
pub(crate) mod unmet;
pub(crate) mod visible;
pub(crate) mod wrap;
