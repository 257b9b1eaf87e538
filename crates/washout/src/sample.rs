//! A small text to look at: the start of a file, some of its lines, or what was typed.

use std::fs::File;
use std::io::{self, BufRead, BufReader, IsTerminal, Read};
use std::ops::RangeInclusive;
use std::path::{Path, PathBuf};

use washout_core::Program;
use washout_core::explain::Sample;
use washout_core::table::{CellText, Form, TableFormat};
use washout_sets::reason;

use crate::args::SampleArgs;
use crate::exit::Trouble;
use crate::out::print_warning;
use crate::show::command_line::typed_with;
use crate::show::visible::{shown, shown_path};

/// How much of a sample is looked at, in bytes.
const SAMPLE: usize = 256 << 10;

/// The start of a text, whole lines of it.
pub(crate) fn sample(path: &Path) -> io::Result<Sample> {
    start_of(File::open(path)?, path)
}

/// The same of a file that is open.
pub(crate) fn start_of(file: File, path: &Path) -> io::Result<Sample> {
    let mut text = Vec::new();
    file.take(SAMPLE as u64).read_to_end(&mut text)?;
    if text.len() == SAMPLE {
        text.truncate(text.iter().rposition(|byte| *byte == b'\n').map_or(text.len(), |end| end + 1));
    }
    Ok(Sample { name: path.to_string_lossy().into_owned(), text })
}

/// Says that not all of a text is looked at.
fn print_cut(name: &str) -> io::Result<()> {
    print_warning(&format!("only the first {} KiB of {} are looked at", SAMPLE >> 10, shown(name)))
}

/// A cell of a table that a command line names, and the rules for it.
pub(crate) struct NamedCell {
    pub(crate) sample: Sample,
    pub(crate) program: Program,
    pub(crate) path: PathBuf,
    pub(crate) format: TableFormat,
    pub(crate) record: u64,
    pub(crate) field: String,
}

/// How much of a table is looked at for a cell, in bytes.
pub(crate) const TABLE: u64 = 1 << 28;

/// The cell that `FILE:12:Keeper` names, by record and field. `None`: it names none.
pub(crate) fn cell(place: Option<&str>, program: &Program) -> Result<Option<NamedCell>, Trouble> {
    let Some(place) = place else { return Ok(None) };
    let parts = place.match_indices(':').filter_map(|(at, _)| {
        let (file, rest) = (&place[..at], &place[at + 1..]);
        let (record, field) = rest.split_once(':')?;
        Some((Path::new(file), record.parse::<u64>().ok()?, field))
    });
    let mut parts = parts.filter(|(file, _, _)| file.is_file());
    let Some((path, record, field)) = parts.next().filter(|_| !Path::new(place).exists()) else { return Ok(None) };
    let format = match program.form(path.extension().and_then(|extension| extension.to_str())) {
        Form::Table(format) => format,
        Form::Text => {
            let message =
                format!("{} is not a table; --table csv, tsv, jsonl or json says that it is one", shown_path(path));
            return Err(Trouble::Usage(message));
        }
    };
    let failed = |error| Trouble::Usage(format!("{} cannot be read: {error}", shown_path(path)));
    let mut table = Vec::new();
    File::open(path).and_then(|file| file.take(TABLE).read_to_end(&mut table)).map_err(failed)?;
    let found = program.cell(format, &table, record, field);
    let found =
        found.map_err(|error| Trouble::Usage(format!("{}: {}", shown_path(path), shown(&error.to_string()))))?;
    let Some(CellText { text, program, .. }) = found else {
        let message = format!("{} has no field `{}` in record {record}", shown_path(path), shown(field));
        return Err(Trouble::Usage(message));
    };
    let sample = Sample { name: place.to_owned(), text };
    Ok(Some(NamedCell { sample, program, path: path.to_owned(), format, record, field: field.to_owned() }))
}

/// The sample a command line names: `--text`, `FILE`, `FILE:12`, `FILE:10..20`, or standard input.
pub(crate) fn named(args: &SampleArgs) -> Result<Sample, Trouble> {
    match (&args.text, &args.place) {
        (Some(text), None) => Ok(Sample { name: "the text".to_owned(), text: text.clone().into_bytes() }),
        (_, Some(place)) if place != "-" => at_place(place),
        _ => from_stdin(),
    }
}

fn from_stdin() -> Result<Sample, Trouble> {
    if io::stdin().is_terminal() {
        return Err(Trouble::Usage(format!(
            "no text given\nName a line of a file, or type the text:\n  {}\n  {}",
            typed_with("FILE:12"),
            typed_with("--text 'some text'")
        )));
    }
    let mut text = Vec::new();
    let read = io::stdin().lock().take(SAMPLE as u64 + 1).read_to_end(&mut text);
    read.map_err(|error| Trouble::Usage(format!("standard input cannot be read: {error}")))?;
    if text.len() > SAMPLE {
        text.truncate(SAMPLE);
        print_cut("standard input")?;
    }
    Ok(Sample { name: "standard input".to_owned(), text })
}

/// `FILE`, `FILE:12` or `FILE:10..20`.
pub(crate) fn at_place(place: &str) -> Result<Sample, Trouble> {
    let failed = |error| Trouble::Usage(format!("{} cannot be read: {}", shown(place), reason(&error)));
    let split = place.rsplit_once(':').and_then(|(file, lines)| Some((file, line_range(lines)?)));
    match split {
        // A file whose name ends like a place is still a file.
        Some((file, lines)) if !Path::new(place).exists() => {
            let failed =
                |error| Trouble::Usage(format!("{} cannot be read: {}", shown_path(Path::new(file)), reason(&error)));
            let (text, is_cut) = lines_of(Path::new(file), &lines).map_err(failed)?;
            if is_cut {
                print_cut(place)?;
            }
            if text.is_empty() {
                let message = format!("{} has no line {}", shown_path(Path::new(file)), lines.start());
                return Err(Trouble::Usage(message));
            }
            Ok(Sample { name: place.to_owned(), text })
        }
        _ => {
            if let Some((file, first, last)) = swapped(place).filter(|_| !Path::new(place).exists()) {
                let message = format!(
                    "{}:{first}..{last} ends before it begins: write {}:{last}..{first}",
                    shown(file),
                    shown(file)
                );
                return Err(Trouble::Usage(message));
            }
            let sample = sample(Path::new(place)).map_err(failed)?;
            if std::fs::metadata(place).is_ok_and(|file| file.len() > sample.text.len() as u64) {
                print_cut(place)?;
            }
            Ok(sample)
        }
    }
}

/// `FILE:20..10`: its parts.
fn swapped(place: &str) -> Option<(&str, u64, u64)> {
    let (file, lines) = place.rsplit_once(':')?;
    let (first, last) = lines.split_once("..")?;
    let (first, last) = (first.parse().ok()?, last.parse().ok()?);
    (first > last).then_some((file, first, last))
}

/// `12` or `10..20`, from 1, both ends included.
pub(crate) fn line_range(lines: &str) -> Option<RangeInclusive<u64>> {
    let number = |text: &str| text.parse::<u64>().ok().filter(|number| *number > 0);
    match lines.split_once("..") {
        Some((first, last)) => {
            let (first, last) = (number(first)?, number(last)?);
            (first <= last).then_some(first..=last)
        }
        None => number(lines).map(|line| line..=line),
    }
}

/// Some lines of a file with their line ends (LF, CRLF or a lone CR), up to [`SAMPLE`] bytes, and whether that is not all of
/// them. The file is read only so far.
fn lines_of(path: &Path, wanted: &RangeInclusive<u64>) -> io::Result<(Vec<u8>, bool)> {
    let mut reader = BufReader::new(File::open(path)?);
    let (mut text, mut number, mut after_cr) = (Vec::new(), 1, false);
    loop {
        let buffer = reader.fill_buf()?;
        if buffer.is_empty() {
            return Ok((text, false));
        }
        let mut rest = buffer;
        while !rest.is_empty() {
            // The LF of a CRLF belongs to the line before.
            if std::mem::take(&mut after_cr) {
                if rest[0] == b'\n' {
                    if wanted.contains(&number) {
                        text.push(b'\n');
                    }
                    rest = &rest[1..];
                }
                number += 1;
                continue;
            }
            if number > *wanted.end() {
                return Ok((text, false));
            }
            let end = rest.iter().position(|byte| matches!(byte, b'\n' | b'\r'));
            let (line, behind) = rest.split_at(end.map_or(rest.len(), |end| end + 1));
            if wanted.contains(&number) {
                text.extend_from_slice(&line[..line.len().min(SAMPLE - text.len())]);
                if text.len() == SAMPLE {
                    return Ok((text, true));
                }
            }
            after_cr = line.last() == Some(&b'\r');
            number += u64::from(line.last() == Some(&b'\n'));
            rest = behind;
        }
        let read = buffer.len();
        reader.consume(read);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_found_whatever_ends_them_and_long_ones_are_cut() {
        let file = tempfile::NamedTempFile::new().expect("a file");
        let line = "fog ".repeat(5_000);
        let text = format!("one\r\n{line}\r\rtwo\n\r\nlast");
        std::fs::write(file.path(), &text).expect("a written file");
        let lines =
            ["one\r\n".to_owned(), format!("{line}\r"), "\r".into(), "two\n".into(), "\r\n".into(), "last".into()];
        for (first, last) in (0..6).flat_map(|first| (first..6).map(move |last| (first, last))) {
            let range = first as u64 + 1..=last as u64 + 1;
            let want = (lines[first..=last].concat().into_bytes(), false);
            assert_eq!(lines_of(file.path(), &range).expect("a file"), want, "{range:?}");
        }
        assert!(lines_of(file.path(), &(7..=9)).expect("a file").0.is_empty());
        std::fs::write(file.path(), "fog ".repeat(SAMPLE)).expect("a written file");
        let (text, is_cut) = lines_of(file.path(), &(1..=1)).expect("a file");
        assert_eq!((text.len(), is_cut), (SAMPLE, true));
    }
}
