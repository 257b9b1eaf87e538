#![doc = include_str!("../README.md")]

mod choices;
pub mod class;
mod engine;
pub mod explain;
mod guard;
pub mod learn;
mod matching;
pub mod names;
pub mod observe;
mod operations;
mod pattern;
mod prefilter;
mod program;
pub mod prove;
pub mod read;
pub mod ready;
pub mod rules;
#[cfg(feature = "schema")]
pub mod schema;
pub mod spell;
pub mod stock;
pub mod survey;
pub mod table;
pub mod text;
pub mod trace;
mod words;

pub use engine::{Outcome, OutputChunks, RunError, Washer, bytes_at_once};
pub use program::{Expectation, Program};
pub use read::{Files, NamedFile, NoFiles, Problem, RuleError};
pub use rules::{RuleId, RuleName, RuleSet};
