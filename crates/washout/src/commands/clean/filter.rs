//! One text to standard output.

use std::fs::File;
use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};

use washout_core::Program;
use washout_core::table::Form;
use washout_files::{Charsets, Incoming, Threads, first_lines, wash_stream, wash_stream_judged};

use crate::args::CleanArgs;
use crate::exit::{Exit, Trouble};
use crate::files::refuse_stdout_to;
use crate::out::print_table_notes;
use crate::show::command_line::typed_with;
use crate::show::summary::stream_line;
use crate::show::unmet;
use crate::show::visible::shown_path;

/// Whether standard input is cleaned to standard output.
pub(super) fn is_filter(args: &CleanArgs, paths: &[PathBuf]) -> Result<bool, Trouble> {
    let dash = Path::new("-");
    let named = paths.iter().any(|path| path == dash);
    if (!paths.is_empty() || args.choice.files_from.is_some()) && !named {
        return Ok(false);
    }
    if paths.len() > 1 {
        return Err(Trouble::Usage("`-` is standard input, and stands alone".to_owned()));
    }
    if args.write || args.into.is_some() {
        let option = if args.write { "--write" } else { "--into" };
        return Err(Trouble::Usage(format!("{option} needs the files or folders to clean")));
    }
    if !named && io::stdin().is_terminal() {
        return Err(Trouble::Usage(format!(
            "nothing to clean: name files or folders, or pipe text in\n\
             Look at the changes:  {}\n\
             Clean a stream:       {}",
            typed_with("PATH..."),
            typed_with("< FILE > RESULT")
        )));
    }
    Ok(true)
}

/// Cleans one stream to standard output. `spool`: the result is held back until it is whole.
pub(super) fn filter(
    program: &Program,
    incoming: Incoming,
    spool: bool,
    mut input: impl io::Read + Send + 'static,
) -> Result<Exit, Trouble> {
    let mut output = io::stdout();
    let washed = if program.expectations().is_empty() && !spool {
        wash_stream(program, incoming, input, &mut output).map_err(Trouble::Stream)?
    } else {
        let judged = wash_stream_judged(program, incoming, &mut input, &mut output);
        let (washed, unmet) = judged.map_err(Trouble::Stream)?;
        if !unmet.is_empty() {
            unmet::draw(&unmet, program.names(), &mut anstream::stderr())?;
            return Ok(Exit::NotAsExpected);
        }
        washed
    };
    print_table_notes(Path::new("-"), &washed, &mut output)?;
    // Only for eyes: in a script there is nothing on standard error.
    if io::stderr().is_terminal() && !io::stdout().is_terminal() {
        writeln!(anstream::stderr(), "{}", stream_line(&washed))?;
    }
    Ok(Exit::Done)
}

/// Cleans one file to standard output, or no more of it than that many lines, or records of a table.
pub(super) fn one_to_stdout(
    program: &Program,
    paths: &[PathBuf],
    (first, charsets, threads): (Option<u64>, Charsets, Threads),
    spool: bool,
) -> Result<Exit, Trouble> {
    let [path] = paths else {
        return Err(Trouble::Usage("--stdout takes one file; --into writes copies of several".to_owned()));
    };
    refuse_stdout_to(path)?;
    let failed = |error| Trouble::File(shown_path(path), error);
    let metadata = std::fs::metadata(path).map_err(failed)?;
    if metadata.is_dir() {
        return Err(Trouble::Usage(format!("--stdout takes one file, and {} is a folder", shown_path(path))));
    }
    let file = File::open(path).map_err(failed)?;
    let form = program.form(path.extension().and_then(|extension| extension.to_str()));
    let len = metadata.is_file().then_some(metadata.len());
    let incoming = Incoming { form, most_records: first, charsets, len, threads };
    match first {
        Some(lines) if form == Form::Text => filter(program, incoming, spool, first_lines(lines, file)),
        _ => filter(program, incoming, spool, file),
    }
}
