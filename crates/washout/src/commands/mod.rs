//! The commands, a module for each.

pub(crate) mod clean;
pub(crate) mod demo;
pub(crate) mod test;
