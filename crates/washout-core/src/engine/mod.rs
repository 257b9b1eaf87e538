//! Running a program over a text that comes in pieces.
//!
//! Rules in a row that are alike in what they must see make a segment ([`segment`]), those of them that a prefilter can
//! serve a stage ([`stage`]), and each rule is a runner with its own input ([`rule_runner`]): what it judges must be whole lines,
//! so it keeps back the line that is not whole yet. The output of one is the input of the next ([`chain`]).
//!
//! Nothing is copied where nothing changes, and lines that no rule may act on are shown to none: of a text with few other
//! lines, each goes through the rules that may act on it ([`batch`]); one with many goes through one rule after the other,
//! each of which finds the places where it may act ([`sweep`]). Segments whose rules act line by line work on several parts
//! of a text at the same time ([`parallel_segment`]). The result for a piece is given in chunks, some of which are parts of
//! the piece itself ([`output_chunks`]).
//!
//! A short text that is in memory goes through one rule after the other as a whole ([`short_text`]).
//!
//! Why each runner cuts its input itself, and not one reader for all: a rule may make a line end (CR from one line,
//! LF from the next after everything between them is gone), and then the next rule must see one CRLF, as it would in
//! the whole text.

mod batch;
mod chain;
mod error;
mod opening;
mod outcome;
mod output_chunks;
mod parallel_segment;
mod rule_runner;
mod segment;
mod short_text;
mod stage;
mod sweep;
mod washer;

pub use error::RunError;
pub use outcome::Outcome;
pub use output_chunks::OutputChunks;
pub use washer::{Washer, bytes_at_once};
