//! Finding what a rule looks for in a block of whole lines.
//!
//! A block is searched as a whole, never line by line where that can be helped: the searches are made so that no
//! match can reach over a line end unless the rule names line ends.

mod between;
mod chars;
mod except;
mod finder;
mod list;
mod positions;
mod walker;

pub(crate) use finder::{Finder, FinderScratch, chosen};
