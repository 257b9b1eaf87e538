//! Sets of characters: named classes, code points, ranges and general categories.

mod named;
mod parse;
mod set;
mod table;

pub(crate) use named::unicode_class;
pub use named::{NAMED_CLASSES, NamedClass, UNICODE_VERSION};
pub(crate) use parse::{ClassError, class_item, class_names};
pub use set::CharSet;
pub(crate) use table::CharTable;
