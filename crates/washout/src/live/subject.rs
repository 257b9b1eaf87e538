//! What is shown: a part of a text, records of a table, or names.

use std::io::{BufRead, BufReader, Cursor, Read};
use std::path::PathBuf;
use std::sync::Arc;

use washout_core::Program;
use washout_core::names::NameSettings;
use washout_core::table::{Form, TableFormat};
use washout_core::text::{Lines, start_of_text};
use washout_files::{Charsets, Chosen, ChosenFile, FileError, read_decoded};

use crate::show::number::grouped;
use crate::show::visible::shown;

/// How much of a file is shown, in bytes.
const MOST: usize = 1 << 20;
/// Lines that are shown before the one that is asked for.
const LINES_BEFORE: u64 = 200;
/// Records of a table that is longer than is shown, and bytes in which they are looked for.
const RECORDS: u64 = 1_000;
const MOST_OF_TABLE: u64 = 16 << 20;

/// What is sent through the rules.
pub(super) enum Subject {
    Text(TextSample),
    Table(TableSample),
    Names(NameSample),
}

/// Lines of a text.
#[derive(Default)]
pub(super) struct TextSample {
    pub(super) bytes: Vec<u8>,
    /// Where its lines start, in bytes.
    pub(super) starts: Vec<usize>,
    /// The number of its first line in the file, from 1.
    pub(super) first_line: u64,
    /// Whether more of the file comes after it.
    pub(super) is_cut: bool,
}

/// The first records of a table, as a table.
pub(super) struct TableSample {
    pub(super) bytes: Vec<u8>,
    pub(super) format: TableFormat,
    pub(super) is_cut: bool,
}

/// Files whose names are shown.
pub(super) struct NameSample {
    pub(super) chosen: Chosen,
    pub(super) settings: NameSettings,
}

/// Which part of a file is wanted.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Window {
    /// The line, from 1, around which it is to be.
    pub(super) line: Option<u64>,
    /// That many lines or records at most.
    pub(super) first: Option<u64>,
}

impl Subject {
    /// The part of a file that is wanted. `program`: says whether it is a table.
    pub(super) fn read(file: &ChosenFile, program: &Program, window: Window) -> Result<Arc<Self>, String> {
        let extension = file.path.extension().and_then(|extension| extension.to_str());
        let mut subject = Err(String::new());
        let left_out = read_decoded(file, Charsets::default(), |reader| {
            subject = match program.form(extension) {
                Form::Table(format) if format != TableFormat::Text => table(program, format, reader, window)?,
                _ => Ok(Self::Text(TextSample::read(BufReader::new(reader), window)?)),
            };
            Ok(())
        });
        match left_out.map_err(|error| shown(&error.to_string()))? {
            Some(skip) => Err(format!("left out: {skip}")),
            None => subject.map(Arc::new),
        }
    }

    /// Which part of the file this is, in words; empty if it is all of it.
    pub(super) fn part(&self) -> String {
        match self {
            Self::Text(text) if text.is_cut || text.first_line > 1 => {
                let last = text.first_line + text.starts.len() as u64 - 1;
                format!("only lines {} to {}", grouped(text.first_line), grouped(last))
            }
            Self::Table(table) if table.is_cut => "only the first records".to_owned(),
            Self::Text(_) | Self::Table(_) | Self::Names(_) => String::new(),
        }
    }
}

impl TextSample {
    fn read(mut reader: impl BufRead, window: Window) -> Result<Self, FileError> {
        let mut start = Vec::new();
        (&mut reader).take(MOST as u64 + 1).read_to_end(&mut start).map_err(FileError::Read)?;
        // What can be shown whole begins at its start.
        let line = window.line.filter(|_| start.len() > MOST);
        let first_line = line.map_or(1, |line| line.saturating_sub(LINES_BEFORE).max(1));
        let mut reader = BufReader::new(Cursor::new(start).chain(reader));
        let mut line = 1;
        let mut skipped = Vec::new();
        while line < first_line {
            skipped.clear();
            if (&mut reader).take(MOST as u64).read_until(b'\n', &mut skipped).map_err(FileError::Read)? == 0 {
                break;
            }
            line += u64::from(skipped.ends_with(b"\n"));
        }
        let mut bytes = Vec::new();
        (&mut reader).take(MOST as u64 + 1).read_to_end(&mut bytes).map_err(FileError::Read)?;
        let mut is_cut = bytes.len() > MOST;
        if is_cut {
            bytes.truncate(MOST);
            // Whole lines, unless there is only a part of one.
            if let Some(end) = memchr::memrchr(b'\n', &bytes) {
                bytes.truncate(end + 1);
            }
        }
        let mut starts: Vec<usize> = Lines::of(&bytes).map(|line| line.start).collect();
        if let Some(most) = window.first.and_then(|first| usize::try_from(first).ok())
            && let Some(end) = starts.get(most).copied()
        {
            bytes.truncate(end);
            starts.truncate(most);
            is_cut = true;
        }
        Ok(Self { bytes, starts, first_line: line, is_cut })
    }
}

fn table(
    program: &Program,
    format: TableFormat,
    reader: &mut dyn Read,
    window: Window,
) -> Result<Result<Subject, String>, FileError> {
    let mut bytes = Vec::new();
    reader.take(MOST_OF_TABLE).read_to_end(&mut bytes).map_err(FileError::Read)?;
    let wanted = window.first.or((bytes.len() > MOST).then_some(RECORDS));
    let Some(wanted) = wanted else { return Ok(Ok(Subject::Table(TableSample { bytes, format, is_cut: false }))) };
    Ok(match program.records(format, &bytes, &(1..=wanted)) {
        Ok((records, _)) => {
            let mark = start_of_text(&bytes);
            let is_cut = records.len() + mark < bytes.len();
            Ok(Subject::Table(TableSample { bytes: records, format, is_cut }))
        }
        Err(error) => Err(shown(&error.to_string())),
    })
}

/// `FILE:120`: the file, and the line that is meant.
pub(super) fn at_line(path: &std::path::Path) -> (PathBuf, Option<u64>) {
    let split = path.to_str().filter(|_| !path.exists()).and_then(|text| text.rsplit_once(':'));
    match split.and_then(|(file, line)| Some((file, line.parse().ok().filter(|line| *line > 0)?))) {
        Some((file, line)) => (PathBuf::from(file), Some(line)),
        None => (path.to_owned(), None),
    }
}
