//! `washout completions`

use std::io::Write as _;

use clap::CommandFactory as _;

use crate::args::{Cli, CompletionsArgs};
use crate::exit::{Exit, Trouble};
use crate::out::plain_stdout;

/// Runs the command.
pub(crate) fn run(args: &CompletionsArgs) -> Result<Exit, Trouble> {
    let mut script = Vec::new();
    clap_complete::generate(args.shell, &mut Cli::command(), "washout", &mut script);
    let mut out = plain_stdout();
    out.write_all(&script)?;
    out.flush()?;
    Ok(Exit::Done)
}
