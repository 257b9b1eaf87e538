//! Where results and messages go.

use std::io::{self, Write};
use std::path::Path;

use washout_files::FileError;

use crate::show::visible::{shown, shown_path};

/// Standard output with a buffer; colours are dropped behind it where they are not wanted.
pub(crate) fn buffered_stdout() -> impl Write {
    io::BufWriter::with_capacity(64 << 10, anstream::stdout())
}

/// Standard output with a buffer, byte for byte: for what is no text on a terminal.
pub(crate) fn plain_stdout() -> impl Write {
    io::BufWriter::with_capacity(64 << 10, io::stdout())
}

/// A file that could not be done, on standard error; what was shown before it comes first.
pub(crate) fn say_failed(path: &Path, error: &FileError, out: &mut impl Write) -> io::Result<()> {
    // Where a copy is refused, nobody fears for the file itself.
    let fate = if matches!(error, FileError::CopyExists(_)) { "" } else { "; left as it was" };
    say(path, error, fate, out)
}

/// A file that could not be read, on standard error; what was shown before it comes first.
pub(crate) fn say_left(path: &Path, error: &FileError, out: &mut impl Write) -> io::Result<()> {
    say(path, error, "", out)
}

fn say(path: &Path, error: &FileError, fate: &str, out: &mut impl Write) -> io::Result<()> {
    out.flush()?;
    writeln!(anstream::stderr(), "washout: {}: {}{}", shown_path(path), shown(&error.to_string()), fate)
}
