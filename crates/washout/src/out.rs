//! Where results and messages go.

use std::io::{self, IsTerminal, Write};
use std::path::Path;

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
        ColorChoice::Never => Box::new(WithoutColours { out: plain_stdout(), at: CodePart::Text }),
        colours => Box::new(AutoStream::new(Box::new(io::stdout()) as Box<dyn Write>, colours)),
    };
    io::BufWriter::with_capacity(64 << 10, out)
}

/// Drops the codes of colours: the only ones that are written here, as texts are drawn.
struct WithoutColours<W> {
    out: W,
    at: CodePart,
}

/// Where in a code a text goes on.
#[derive(Clone, Copy, PartialEq, Eq)]
enum CodePart {
    /// In none.
    Text,
    /// After its first byte, ESC.
    Start,
    /// After `ESC [`: up to a byte from `@` to `~` (ECMA-48, control sequences).
    Inside,
}

impl<W: Write> Write for WithoutColours<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let mut rest = bytes;
        while let Some(first) = rest.first() {
            match self.at {
                CodePart::Text => {
                    let len = memchr::memchr(b'\x1B', rest).unwrap_or(rest.len());
                    self.out.write_all(&rest[..len])?;
                    rest = &rest[len..];
                    if !rest.is_empty() {
                        (self.at, rest) = (CodePart::Start, &rest[1..]);
                    }
                }
                CodePart::Start => (self.at, rest) = (CodePart::Inside, &rest[1..]),
                CodePart::Inside => {
                    let is_end = (0x40..=0x7E).contains(first);
                    (self.at, rest) = (if is_end { CodePart::Text } else { CodePart::Inside }, &rest[1..]);
                }
            }
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
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// However a text comes in, no code is left in it, and nothing else is missing.
        #[test]
        fn colours_are_dropped_wherever_the_text_is_cut(
            parts in proptest::collection::vec(
                prop_oneof!["[a-z漢 \n]{0,100}", Just("\u{1b}[1m".to_owned()), Just("\u{1b}[0m\u{1b}[38;5;12m".to_owned())],
                0..12,
            ),
            sizes in proptest::collection::vec(prop_oneof![1..4_usize, 60..70_usize, Just(200)], 1..8),
        ) {
            let text = parts.concat();
            let mut plain = WithoutColours { out: Vec::new(), at: CodePart::Text };
            let mut rest = text.as_bytes();
            for size in sizes.iter().cycle() {
                let (piece, after) = rest.split_at(rest.len().min(*size));
                plain.write_all(piece).expect("memory");
                rest = after;
                if rest.is_empty() {
                    break;
                }
            }
            let want: String = parts.iter().filter(|part| !part.starts_with('\u{1b}')).map(String::as_str).collect();
            prop_assert_eq!(String::from_utf8_lossy(&plain.out), want);
        }
    }

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
