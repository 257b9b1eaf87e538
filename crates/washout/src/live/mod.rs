//! The full-screen view of `live`: a text before and after rules, which follows what is saved and typed.
//!
//! [`app`] holds what is shown and what keys do; [`work`] sends the sample through the rules on a thread of its own, and
//! drops what has become stale; [`draw`] puts it on the screen. Nothing here writes a file but `write.rs`, which is asked for.

mod app;
mod backend;
mod draw;
mod earlier_rules;
mod following;
mod guard;
mod input_line;
mod keys;
mod lineage_beside;
mod moving;
mod rows;
mod rule_source;
mod saving;
mod subject;
mod terminal;
mod typing;
mod work;
mod write;

pub(crate) use app::run;
