//! Regular expressions: read, bounded, and made ready for the place they are looked for at.

mod ahead;
pub(crate) mod budget;
mod compiled;
mod counted;
mod expression;
mod free;
mod line;
mod looking;
mod parse;
mod reach;
mod row;
mod run;
mod size;

pub(crate) use budget::SharedBudget;
pub(crate) use compiled::{CompiledPattern, PatternScratch, TooMuchWork};
pub(crate) use free::FreePattern;
pub(crate) use line::LinePattern;
pub use parse::{Pattern, PatternError, PatternUse};
