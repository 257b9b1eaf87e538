//! `washout schema`

use std::io::Write;

use crate::exit::{Exit, Trouble};
use crate::out::buffered_stdout;

/// Runs the command.
pub(crate) fn run() -> Result<Exit, Trouble> {
    let mut out = buffered_stdout();
    writeln!(out, "{:#}", washout_core::schema::schema())?;
    out.flush()?;
    Ok(Exit::Done)
}
