//! Where results and messages go.

use std::io::{self, IsTerminal, Write};
use std::path::Path;

use anstream::adapter::StripBytes;
use anstream::{AutoStream, ColorChoice};
use washout_core::explain::Caution;
use washout_core::table::AboutTable;
use washout_files::{FileError, Washed};

use crate::show::number::{counted, grouped};
use crate::show::visible::{drawn, shown, shown_cell, shown_path};

/// Standard output with a buffer; colours are dropped after it where they are not wanted.
pub(crate) fn buffered_stdout() -> impl Write {
    let out: Box<dyn Write> = match AutoStream::choice(&io::stdout()) {
        // Where colours are dropped, what is left comes in small parts: it has a buffer of its own.
        ColorChoice::Never => {
            Box::new(WithoutColours { out: plain_stdout(), codes: StripBytes::new(), since_code: usize::MAX })
        }
        colours => Box::new(AutoStream::new(Box::new(io::stdout()) as Box<dyn Write>, colours)),
    };
    io::BufWriter::with_capacity(64 << 10, out)
}

/// Drops colours, and writes what comes without any as it is.
struct WithoutColours<W> {
    out: W,
    codes: StripBytes,
    /// Bytes since the last code began: one that is open goes on in what comes next.
    since_code: usize,
}

/// No code is longer than this, in bytes.
const LONGEST_CODE: usize = 64;

impl<W: Write> Write for WithoutColours<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let last = memchr::memrchr(b'\x1B', bytes);
        let is_plain = last.is_none() && self.since_code >= LONGEST_CODE;
        self.since_code = last.map_or_else(|| self.since_code.saturating_add(bytes.len()), |last| bytes.len() - last);
        if is_plain {
            self.out.write_all(bytes)?;
        } else {
            self.codes.strip_next(bytes).try_for_each(|part| self.out.write_all(part))?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }
}

/// Standard output with a buffer, byte for byte: for what is not a text on a terminal.
pub(crate) fn plain_stdout() -> impl Write {
    io::BufWriter::with_capacity(64 << 10, io::stdout())
}

/// The same for text from files. On a terminal each line is drawn, so that nothing in it drives the terminal.
pub(crate) fn drawn_stdout() -> Box<dyn Write> {
    if io::stdout().is_terminal() {
        Box::new(Drawn { out: plain_stdout(), line: Vec::new() })
    } else {
        Box::new(plain_stdout())
    }
}

/// Lines on their way to a terminal. A line is drawn once it has ended.
struct Drawn<W> {
    out: W,
    line: Vec<u8>,
}

impl<W: Write> Write for Drawn<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        for part in bytes.split_inclusive(|byte| *byte == b'\n') {
            self.line.extend_from_slice(part);
            if let Some(line) = self.line.strip_suffix(b"\n") {
                writeln!(self.out, "{}", drawn(line))?;
                self.line.clear();
            }
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        write!(self.out, "{}", drawn(&self.line))?;
        self.line.clear();
        self.out.flush()
    }
}

/// A file that could not be done, on standard error; what was shown before it comes first.
pub(crate) fn print_failed(path: &Path, error: &FileError, out: &mut impl Write) -> io::Result<()> {
    // Where a copy is refused, no one fears for the file itself.
    let outcome = if matches!(error, FileError::CopyExists(_)) { "" } else { outcome(error) };
    print_outcome(path, error, outcome, out)
}

/// What happened to a file that could not be done: it follows the reason in messages.
pub(crate) fn outcome(error: &FileError) -> &'static str {
    if error.is_replaced() { "" } else { "; left as it was" }
}

/// A file that could not be read, on standard error; what was shown before it comes first.
pub(crate) fn print_left(path: &Path, error: &FileError, out: &mut impl Write) -> io::Result<()> {
    print_outcome(path, error, "", out)
}

/// A sentence on standard error.
pub(crate) fn print_warning(message: &str) -> io::Result<()> {
    writeln!(anstream::stderr(), "washout: {message}")
}

/// What is to be said of a table that was washed, on standard error.
pub(crate) fn print_table_notes(path: &Path, washed: &Washed, out: &mut impl Write) -> io::Result<()> {
    let Some(AboutTable { near_fields, replaced_fields, fields_without_text, formulas, .. }) = &washed.table else {
        return Ok(());
    };
    if near_fields.is_empty() && replaced_fields.is_empty() && fields_without_text.is_empty() && formulas.count == 0 {
        return Ok(());
    }
    out.flush()?;
    let mut err = anstream::stderr();
    let path = shown_path(path);
    for (named, there) in near_fields {
        writeln!(err, "washout: caution, {path}: `{}` is taken for its field `{}`", shown(named), shown(there))?;
    }
    for field in replaced_fields {
        let field = shown(field);
        writeln!(
            err,
            "washout: caution, {path}: `{field}` is there already; the result of a rule takes the place of what is in it"
        )?;
    }
    for field in fields_without_text {
        let field = shown(field);
        writeln!(
            err,
            "washout: caution, {path}: `{field}` holds no text; numbers, true, null and objects are left alone"
        )?;
    }
    if formulas.count > 0 {
        let cells = counted(formulas.count, "cell");
        writeln!(err, "washout: caution, {path}: a spreadsheet would take {cells} for a formula:")?;
        for (place, value) in &formulas.places {
            let value = String::from_utf8_lossy(value);
            writeln!(err, "  {path}:{}: {}", shown_cell(place, ":"), shown(&value))?;
        }
        let more = formulas.count - formulas.places.len() as u64;
        if more > 0 {
            writeln!(err, "  … and {} more", grouped(more))?;
        }
    }
    Ok(())
}

fn print_outcome(path: &Path, error: &FileError, outcome: &str, out: &mut impl Write) -> io::Result<()> {
    out.flush()?;
    writeln!(anstream::stderr(), "washout: {}: {}{}", shown_path(path), shown(&error.to_string()), outcome)
}

/// What to be careful about, a line each.
pub(crate) fn print_cautions_to_stderr(cautions: &[Caution]) -> io::Result<()> {
    let mut err = anstream::stderr();
    cautions.iter().try_for_each(|caution| {
        writeln!(err, "washout: caution, {}: {}", shown(&caution.about), shown(&caution.message))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_for_a_terminal_are_drawn_however_they_are_cut() {
        let text = "-\u{1b}[2J\tfog\n+\u{202E}lamp";
        for size in 1..text.len() {
            let mut drawn = Drawn { out: Vec::new(), line: Vec::new() };
            text.as_bytes().chunks(size).for_each(|part| drawn.write_all(part).expect("memory"));
            drawn.flush().expect("memory");
            assert_eq!(String::from_utf8_lossy(&drawn.out), "-␛[2J→fog\n+⟨U+202E⟩lamp", "{size}");
        }
    }
}
