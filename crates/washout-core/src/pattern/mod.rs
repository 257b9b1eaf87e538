//! Regular expressions: read, bounded, and made ready for the place they are looked for at.

mod backtracking;
pub(crate) mod budget;
mod compiled;
mod cost;
mod counted;
mod expression;
mod further_look;
mod line;
mod line_filter;
mod parse;
mod row;
mod run;
mod size;
mod whole_text;

pub(crate) use budget::SharedBudget;
pub(crate) use compiled::{CompiledPattern, PatternScratch, TooMuchWork};
pub(crate) use line::LinePattern;
pub use parse::{Pattern, PatternError, PatternUse};
pub(crate) use whole_text::WholeTextPattern;
