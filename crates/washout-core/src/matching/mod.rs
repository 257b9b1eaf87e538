//! Finding what a rule looks for in a block of whole lines.
//!
//! A block is searched as a whole, never line by line where that can be helped: the searches are made so that no
//! match can reach over a line end unless the rule names line ends.

mod between;
mod budget;
mod chars;
mod edges;
mod except;
mod finder;
mod list;
mod matches;
mod pattern;
mod positions;
mod shelf;
mod walker;

pub(crate) use budget::SharedBudget;
pub(crate) use edges::Edges;
pub(crate) use finder::{Finder, FinderScratch, chosen};
pub(crate) use matches::{Matches, Span, holds_line};
pub(crate) use pattern::{CompiledPattern, FreePattern, LinePattern};
pub(crate) use shelf::{Lent, Shelf};
pub(crate) use walker::Walk;
