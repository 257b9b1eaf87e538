//! Rule sets on disk: reading a set, with the lists and the other sets that it names.
//!
//! [`read_set`] reads a set by its path, or one that comes with the program by its name. [`RuleFiles`] opens what a set names.
//! [`looks_binary`] tells files that rules are not for.

mod binary;
mod files;
mod open;
mod set;

pub use binary::looks_binary;
pub use files::RuleFiles;
pub use open::{open_regular, open_without_waiting, reason, refuse_irregular, what_it_is};
pub use set::{MY, SetError, my_folder, read_set, read_source, ready_source, resolved};
