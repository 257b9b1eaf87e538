//! The commands, a module for each.

pub(crate) mod again;
pub(crate) mod check;
pub(crate) mod clean;
pub(crate) mod completions;
pub(crate) mod demo;
pub(crate) mod explain;
pub(crate) mod history;
pub(crate) mod hook;
pub(crate) mod init;
pub(crate) mod learn;
pub(crate) mod man;
pub(crate) mod names;
pub(crate) mod schema;
pub(crate) mod spellout;
pub(crate) mod stock;
pub(crate) mod survey;
pub(crate) mod test;
pub(crate) mod trace;
pub(crate) mod undo;
