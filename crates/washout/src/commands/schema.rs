//! `washout schema`

use std::io::Write;

use super::clean::buffered_stdout;
use crate::exit::{Exit, Trouble};

/// Runs the command.
pub(crate) fn run() -> Result<Exit, Trouble> {
    let mut out = buffered_stdout();
    writeln!(out, "{:#}", washout_core::schema())?;
    out.flush()?;
    Ok(Exit::Done)
}
