//! What is in many files.

use std::collections::BTreeMap;
use std::io::Read;
use std::path::PathBuf;

use rayon::prelude::*;
use washout_core::Program;
use washout_core::survey::{Detectors, Litter, Survey, Surveyed, Surveyor};
use washout_core::table::{Form, TableError, TableFormat, TableSettings, TableSurvey, TableSurveyor};

use crate::charset::{Charset, Charsets};
use crate::choose::ChosenFile;
use crate::chunk::CHUNK;
use crate::encoding;
use crate::encoding::OpenedText;
use crate::error::FileError;
use crate::meter::Meter;
use crate::run::{BATCH, form_of};
use crate::skip::Skip;
use crate::stop::Stop;
use crate::wash::TextPiece;
use crate::write::SourceFile;

/// What a survey of files has found.
#[derive(Debug, Default)]
pub struct FilesSurvey {
    /// All their texts added up: text number `i` is `files[i]`.
    pub survey: Survey,
    /// The texts are the names of files, not what is in them.
    pub of_names: bool,
    /// The files that were surveyed, in order.
    pub files: Vec<PathBuf>,
    /// How many files are in which encoding.
    pub encodings: BTreeMap<Encoding, u64>,
    /// The tables among the files; they are in no other number here.
    pub tables: Vec<(PathBuf, TableSurvey)>,
    /// Files that were left out.
    pub skipped: Vec<(PathBuf, Skip)>,
    /// Files that could not be read.
    pub failed: Vec<(PathBuf, FileError)>,
}

impl FilesSurvey {
    /// The litter, in the order in which rules should take it.
    pub fn litter(&self) -> Vec<Litter> {
        let mut all = self.survey.litter();
        all.retain(|litter| !self.of_names || !litter.kind.is_among_lines());
        all
    }
}

/// The encoding of a file.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Encoding {
    /// Nothing but ASCII.
    Ascii,
    /// Valid UTF-8.
    Utf8,
    /// Valid UTF-8 that starts with a byte order mark.
    Utf8WithMark,
    /// Read as this.
    Other(Charset),
    /// No valid UTF-8; a guess at what it is, as a label of the WHATWG Encoding Standard.
    LooksLike(&'static str),
}

enum FileSurvey {
    Table(Box<TableSurvey>, Encoding),
    At(Box<Survey>, Encoding),
    Skipped(Skip),
}

/// Surveys files in parallel on the current thread pool. `every_character`: printable ASCII is counted too.
///
/// `tables`: what tables are like. Once `stop` is requested, files that have not been started are not looked at.
pub fn survey_all(
    files: &[ChosenFile],
    every_character: bool,
    tables: &TableSettings,
    charsets: Charsets,
    stop: &Stop,
    meter: &Meter,
) -> FilesSurvey {
    let detectors = Detectors::new();
    let mut all = FilesSurvey::default();
    for batch in files.chunks(BATCH) {
        let look = |file: &ChosenFile| {
            let looked = survey_file(file, &detectors, every_character, (tables, charsets), meter);
            meter.file_done();
            (file.path.clone(), looked)
        };
        let looked: Vec<_> =
            batch.par_iter().with_max_len(1).filter_map(|file| (!stop.is_requested()).then(|| look(file))).collect();
        for (path, looked) in looked {
            match looked {
                Ok(FileSurvey::At(survey, encoding)) => {
                    all.survey.add(*survey);
                    all.files.push(path);
                    *all.encodings.entry(encoding).or_default() += 1;
                }
                Ok(FileSurvey::Table(survey, encoding)) => {
                    *all.encodings.entry(encoding).or_default() += 1;
                    all.tables.push((path, *survey));
                }
                Ok(FileSurvey::Skipped(skip)) => all.skipped.push((path, skip)),
                Err(error) => all.failed.push((path, error)),
            }
        }
    }
    all
}

fn survey_file(
    file: &ChosenFile,
    detectors: &Detectors,
    every: bool,
    (tables, charsets): (&TableSettings, Charsets),
    meter: &Meter,
) -> Result<FileSurvey, FileError> {
    let ChosenFile { path, with_binary, .. } = file;
    let source = SourceFile::open(file.location())?;
    let opened = encoding::open(charsets, *with_binary, source.len(), meter.counting(source.reader()));
    let opened = opened.map_err(FileError::Read)?;
    let OpenedText { start, rest: mut reader, ways, .. } = match opened {
        Ok(opened) => opened,
        Err(skip) => return Ok(FileSurvey::Skipped(skip)),
    };
    let mut chunk = TextPiece::from(start);
    if let Form::Table(format) = form_of(&Program::default().with_table(tables.clone()), path) {
        let survey = survey_table(tables, format, &mut chunk, &mut reader)?;
        let mut characters = survey.columns.iter().flat_map(|column| column.characters.keys());
        let encoding = match characters.clone().next() {
            _ if ways.from.is_some() => ways.from.map_or(Encoding::Utf8, Encoding::Other),
            _ if characters.any(|character| matches!(character, Surveyed::Broken(_))) => guess(file)?,
            Some(_) => Encoding::Utf8,
            None => Encoding::Ascii,
        };
        return Ok(FileSurvey::Table(Box::new(survey), encoding));
    }
    let survey = survey_rest(detectors, every, &mut chunk, &mut reader)?;
    if let Some(charset) = ways.from {
        return Ok(FileSurvey::At(Box::new(survey), Encoding::Other(charset)));
    }
    let encoding = match (survey.has_broken_bytes(), survey.lines.texts_with_bom > 0) {
        (true, _) => guess(file)?,
        (false, true) => Encoding::Utf8WithMark,
        (false, false) if survey.size.bytes == survey.size.chars => Encoding::Ascii,
        (false, false) => Encoding::Utf8,
    };
    Ok(FileSurvey::At(Box::new(survey), encoding))
}

fn survey_rest(
    detectors: &Detectors,
    every: bool,
    chunk: &mut TextPiece,
    reader: &mut impl Read,
) -> Result<Survey, FileError> {
    let mut surveyor = Surveyor::new(detectors, every);
    while !chunk.is_empty() {
        surveyor.push(chunk.bytes());
        chunk.read(reader, CHUNK).map_err(FileError::Read)?;
    }
    Ok(surveyor.finish())
}

fn survey_table(
    settings: &TableSettings,
    format: TableFormat,
    chunk: &mut TextPiece,
    reader: &mut impl Read,
) -> Result<TableSurvey, FileError> {
    let mut surveyor = TableSurveyor::new(settings, format);
    let failed = |error: TableError| FileError::Rule(error.into());
    while !chunk.is_empty() {
        surveyor.push(chunk.bytes()).map_err(failed)?;
        chunk.read(reader, CHUNK).map_err(FileError::Read)?;
    }
    surveyor.finish().map_err(failed)
}

/// Surveys one stream, as one text, or as a table if `tables` says that it is one.
///
/// # Errors
/// The first error of reading; a table that cannot be read.
pub fn survey_stream(
    input: &mut impl Read,
    every_character: bool,
    tables: &TableSettings,
) -> Result<FilesSurvey, FileError> {
    let mut chunk = TextPiece::default();
    chunk.read(input, CHUNK).map_err(FileError::Read)?;
    if let Form::Table(format) = Program::default().with_table(tables.clone()).form(None) {
        let survey = survey_table(tables, format, &mut chunk, input)?;
        return Ok(FilesSurvey { tables: vec![(PathBuf::from("-"), survey)], ..FilesSurvey::default() });
    }
    let mut survey = Survey::default();
    survey.add(survey_rest(&Detectors::new(), every_character, &mut chunk, input)?);
    Ok(FilesSurvey { survey, files: vec![PathBuf::from("-")], ..FilesSurvey::default() })
}

/// How much of a file is looked at to guess its encoding, in bytes.
const GUESSED_FROM: u64 = 1 << 20;

fn guess(file: &ChosenFile) -> Result<Encoding, FileError> {
    let mut start = Vec::new();
    let source = SourceFile::open(file.location())?;
    source.reader().take(GUESSED_FROM).read_to_end(&mut start).map_err(FileError::Read)?;
    let mut detector = chardetng::EncodingDetector::new();
    detector.feed(&start, (start.len() as u64) < GUESSED_FROM);
    Ok(Encoding::LooksLike(detector.guess(None, false).name()))
}
