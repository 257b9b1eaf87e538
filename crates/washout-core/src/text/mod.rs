//! Text as bytes: lines, characters and their counts.
//!
//! Everything here takes bytes that need not be valid UTF-8 and says what it does with those that are not.

mod at;
pub(crate) mod blanks;
pub(crate) mod chars;
pub(crate) mod copy;
pub(crate) mod csv;
pub(crate) mod edges;
pub(crate) mod edit;
pub(crate) mod haystack;
pub(crate) mod letter_runs;
pub(crate) mod lines;
pub(crate) mod matches;
pub(crate) mod pool;
pub(crate) mod shown;
mod size;
pub(crate) mod stand_ins;
pub(crate) mod tally;
pub(crate) mod walk;

pub use at::At;
pub use lines::{Line, LineEnd, Lines};
pub use size::{Counted, SizeCounter, TextSize};

/// The byte order mark that may open a UTF-8 file. It is not part of the text (Unicode 16.0, section 23.8).
pub const BOM: &[u8] = b"\xEF\xBB\xBF";

/// Where what rules see of a text begins, in bytes: after a byte order mark, if there is one.
pub fn start_of_text(bytes: &[u8]) -> usize {
    if bytes.starts_with(BOM) { BOM.len() } else { 0 }
}
