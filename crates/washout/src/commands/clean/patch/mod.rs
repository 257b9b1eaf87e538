//! `--patch`: a unified diff that patch programs apply.
//!
//! Texts are read in pieces, and what a patch says of one file is held back until the file is done: a rule that fails
//! halfway leaves no part of a patch. Memory does not grow with the file, only with its longest line.

mod lines;
mod table;
mod text;
mod unified;

use std::io::{Read, Write};
use std::path::Path;

use washout_core::Program;
use washout_core::table::Form;
use washout_files::{Chosen, ChosenFile, FileError, Stop, read_through};

use crate::exit::{Exit, Trouble};
use crate::out::print_failed;
use crate::project::Part;
use unified::FilePatch;

/// How much of a text is read at once, in bytes.
const PIECE: usize = 256 << 10;

/// Writes the difference of every file.
pub(super) fn run(parts: &[Part], chosen: &Chosen, stop: &Stop, out: &mut impl Write) -> Result<Exit, Trouble> {
    let mut failed = !chosen.failed.is_empty();
    for (path, error) in &chosen.failed {
        print_failed(path, error, out)?;
    }
    let programs = parts.iter().flat_map(|part| part.files.clone().map(|_| &part.program));
    for (file, program) in chosen.files.iter().zip(programs) {
        if stop.is_requested() {
            out.flush()?;
            return Ok(Exit::Interrupted);
        }
        match patch_of(program, file) {
            Ok(patch) => patch.write(&file.path, out)?,
            Err(error) => {
                failed = true;
                print_failed(&file.path, &error, out)?;
            }
        }
    }
    out.flush()?;
    Ok(if failed { Exit::SomeFailed } else { Exit::Done })
}

/// The difference of one file; empty if it is left out.
fn patch_of(program: &Program, file: &ChosenFile) -> Result<FilePatch, FileError> {
    let extension = file.path.extension().and_then(|extension| extension.to_str());
    let form = program.form(extension);
    let is_text = form == Form::Text && !program.is_for_tables();
    let mut patch = FilePatch::default();
    read_through(file, |reader| {
        if is_text {
            text::compare(program, file, reader, &mut patch)
        } else {
            table::compare(program, form, reader, &mut patch)
        }
    })?;
    patch.finish().map_err(FileError::Record)?;
    Ok(patch)
}

/// Reads the next piece; empty at the end of the text.
fn next_piece(reader: &mut dyn Read, piece: &mut Vec<u8>) -> Result<(), FileError> {
    piece.clear();
    reader.take(PIECE as u64).read_to_end(piece).map(drop).map_err(FileError::Read)
}

/// The name of one side: a path below `a/` or `b/`, in quotation marks where a patch program would misread it.
fn write_name(side: &str, path: &Path, out: &mut impl Write) -> std::io::Result<()> {
    let bytes = path.as_os_str().as_encoded_bytes();
    let relative = bytes.strip_prefix(b"./").unwrap_or(bytes).strip_prefix(b"/").unwrap_or(bytes);
    let is_odd = |byte: &u8| byte.is_ascii_control() || matches!(byte, b'"' | b'\\');
    // Some patch programs take a blank at the end for none of the name's, also before a tab.
    if !relative.iter().any(is_odd) && !relative.ends_with(b" ") {
        write!(out, "{side}/")?;
        out.write_all(relative)?;
        // A tab ends a name with blanks in it.
        out.write_all(if relative.contains(&b' ') { b"\t\n" } else { b"\n" })?;
        return Ok(());
    }
    write!(out, "\"{side}/")?;
    for byte in relative {
        match byte {
            b'"' | b'\\' => out.write_all(&[b'\\', *byte])?,
            byte if byte.is_ascii_control() => write!(out, "\\{byte:03o}")?,
            byte => out.write_all(&[*byte])?,
        }
    }
    out.write_all(b"\"\n")
}
