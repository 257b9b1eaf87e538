//! Running a program over a text that comes in pieces.
//!
//! Each rule is a node with its own input: what it judges must be whole lines, so it keeps back the line that is not
//! whole yet. The output of one node is the input of the next. Nothing is copied where nothing changes.
//!
//! Why each node cuts its input itself, and not one reader for all: a rule may make a line end (CR from one line,
//! LF from the next after everything between them is gone), and then the next rule must see one CRLF, as it would in
//! the whole text.

mod error;
mod node;
mod outcome;
mod washer;

pub use error::RunError;
pub use outcome::Outcome;
pub use washer::Washer;
