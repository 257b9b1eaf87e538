//! What rules expect, judged before anything is written.

use std::collections::HashMap;
use std::io::{self, Read, Seek, Write};
use std::path::PathBuf;

use rayon::prelude::*;
use washout_core::observe::{CellPlace, Change, Detail, Hunk, Lineage, NoObserver, Observer};
use washout_core::rules::Count;
use washout_core::{Expectation, Program, RuleId};

use crate::charset::Charsets;
use crate::choose::ChosenFile;
use crate::chunk::{Sink, first_chunk};
use crate::encoding;
use crate::encoding::{EncodingWriter, OpenedText};
use crate::run::{Nowhere, form_of};
use crate::stop::Stop;
use crate::wash::{Incoming, StreamError, WashFailure, Washed, is_one_piece, wash};
use crate::write::SourceFile;

/// A rule that made more or fewer changes than it is to make, or acted on more or fewer sections.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unmet {
    /// The rule.
    pub rule: RuleId,
    /// How many it is to make.
    pub wanted: Count,
    /// Whether that is about the sections it acts on, not about its changes.
    pub sections: bool,
    /// How many it makes.
    pub found: u64,
    /// In which file, if each is judged by itself.
    pub file: Option<PathBuf>,
    /// The first places where it makes one.
    pub places: Vec<(PathBuf, Spot)>,
}

/// Where in a file a rule makes a change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Spot {
    /// A line of the text before, from 1.
    Line(u64),
    /// A cell of the table.
    Cell(CellPlace),
    /// The name of the file.
    Name,
}

/// Places that are reported a rule.
pub(crate) const PLACES: usize = 3;

/// Works all files out, writes nothing, and says which expectations are not met. What the files are like now is
/// remembered in the list: a file that changes before it is written is left alone then.
///
/// Files that cannot be read or are left out do not count.
pub fn judge(program: &Program, files: &mut [ChosenFile], charsets: Charsets, stop: &Stop) -> Vec<Unmet> {
    let judged: Vec<Option<Washed>> = files
        .par_iter_mut()
        .with_max_len(1)
        .map(|file| {
            let source = SourceFile::open(file.location()).ok().filter(|_| !stop.is_requested())?;
            file.stamp = Some(source.stamp());
            wash_nowhere(program, file, &source, charsets)
        })
        .collect();
    let mut unmet = Vec::new();
    for expected in program.expectations() {
        let Expectation { rule, count: wanted, each, sections, .. } = *expected;
        if !each {
            let found = judged.iter().flatten().map(|washed| counted(expected, washed)).sum();
            if !wanted.holds(found) {
                let places = places_in(program, rule, files.iter(), charsets);
                unmet.push(Unmet { rule, wanted, sections, found, file: None, places });
            }
            continue;
        }
        for (file, washed) in files.iter().zip(&judged) {
            let Some(found) = washed.as_ref().map(|washed| counted(expected, washed)) else { continue };
            if !wanted.holds(found) {
                let places = places_in(program, rule, [file], charsets);
                unmet.push(Unmet { rule, wanted, sections, found, file: Some(file.path.clone()), places });
            }
        }
    }
    unmet
}

/// How many there are in a text of what is expected.
fn counted(expected: &Expectation, washed: &Washed) -> u64 {
    let counts = if expected.sections { &washed.sections } else { &washed.changes };
    counts.get(expected.rule.0).copied().unwrap_or(0)
}

fn wash_nowhere(program: &Program, file: &ChosenFile, source: &SourceFile, charsets: Charsets) -> Option<Washed> {
    let opened = encoding::open(charsets, file.with_binary, source.len(), source.reader());
    let OpenedText { start, mut rest, .. } = opened.ok()?.ok()?;
    let washer = program.washer_of(form_of(program, &file.path), NoObserver).ok()?;
    wash(washer, start, &mut rest, &mut Nowhere).ok().map(|(washed, _)| washed)
}

/// The first places where a rule makes a change.
fn places_in<'f>(
    program: &Program,
    rule: RuleId,
    files: impl IntoIterator<Item = &'f ChosenFile>,
    charsets: Charsets,
) -> Vec<(PathBuf, Spot)> {
    let mut places = Vec::new();
    for file in files {
        let ChosenFile { path, with_binary, .. } = file;
        let found = SourceFile::open(file.location()).ok().and_then(|source| {
            let opened = encoding::open(charsets, *with_binary, source.len(), source.reader()).ok()?.ok()?;
            let OpenedText { start, mut rest, .. } = opened;
            let observer = Places::new(program);
            let washer = program.washer_of(form_of(program, path), observer).ok()?;
            let (_, observer) = wash(washer, start, &mut rest, &mut Nowhere).ok()?;
            Some(observer.finish())
        });
        let lines = found.and_then(|mut found| found.remove(&rule)).unwrap_or_default();
        places.extend(lines.into_iter().map(|spot| (path.to_owned(), spot)));
        if places.len() >= PLACES {
            break;
        }
    }
    places.truncate(PLACES);
    places
}

/// Follows a text and keeps the first lines each rule that expects something has a part in.
#[derive(Debug)]
struct Places {
    lineage: Lineage,
    lines: HashMap<RuleId, Vec<Spot>>,
}

impl Places {
    fn new(program: &Program) -> Self {
        let rules = program.expectations().iter().map(|expectation| (expectation.rule, Vec::new()));
        Self { lineage: Lineage::new(program.names().len(), Detail::Around { context: 0 }), lines: rules.collect() }
    }

    fn keep(&mut self, hunks: &[Hunk]) {
        for hunk in hunks {
            for rule in hunk.rules() {
                if let Some(lines) = self.lines.get_mut(&rule).filter(|lines| lines.len() < PLACES) {
                    lines.push(hunk.cell.clone().map_or(Spot::Line(hunk.first_line), Spot::Cell));
                }
            }
        }
    }

    fn finish(mut self) -> HashMap<RuleId, Vec<Spot>> {
        let last = std::mem::replace(&mut self.lineage, Lineage::new(0, Detail::Around { context: 0 })).finish();
        self.keep(&last);
        self.lines
    }
}

impl Observer for Places {
    fn input(&mut self, piece: &[u8]) {
        let hunks = self.lineage.take_hunks();
        self.keep(&hunks);
        self.lineage.input(piece);
    }

    fn cell(&mut self, hunk: Hunk) {
        self.keep(&[hunk]);
    }

    fn change(&mut self, change: &Change<'_>) {
        self.lineage.change(change);
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.lineage.judged(rule, bytes);
    }
}

/// What is kept in memory of a result that is held back, in bytes; more goes to a temporary file.
const SPOOLED: usize = 8 << 20;

/// Washes a stream into another whose rules expect something: the result is held back until it is judged. If an
/// expectation is not met, nothing is written.
///
/// # Errors
/// The first error of reading, of a rule or of writing, and which of them it is.
pub fn wash_stream_judged(
    program: &Program,
    Incoming { form, most_records, charsets, threads, .. }: Incoming,
    input: &mut (impl Read + Send),
    output: &mut impl Write,
) -> Result<(Washed, Vec<Unmet>), StreamError> {
    let (mut input, ways) = encoding::stream(charsets, input).map_err(StreamError::Read)?;
    let start = first_chunk(&mut input, u64::MAX).map_err(StreamError::Read)?;
    if !is_one_piece(start.len() as u64) {
        threads.start();
    }
    let mut spool = Spool(tempfile::SpooledTempFile::new(SPOOLED));
    let washer = program.washer_of(form, Places::new(program)).map_err(|error| StreamError::Rule(error.into()))?;
    let washed = wash(washer.with_most_records(most_records), start, &mut input, &mut spool);
    let (washed, places) = washed.map_err(|failed| match failed {
        WashFailure::Read(error) => StreamError::Read(error),
        WashFailure::Rule(error) => StreamError::Rule(error),
        WashFailure::Give(error) => StreamError::Write(error),
    })?;
    let places = places.finish();
    let failing = program.expectations().iter().filter(|expected| !expected.count.holds(counted(expected, &washed)));
    let unmet: Vec<Unmet> = failing
        .map(|expected| Unmet {
            rule: expected.rule,
            wanted: expected.count,
            sections: expected.sections,
            found: counted(expected, &washed),
            file: None,
            places: places[&expected.rule].iter().map(|spot| (PathBuf::from("-"), spot.clone())).collect(),
        })
        .collect();
    if unmet.is_empty() {
        spool.0.rewind().map_err(StreamError::Write)?;
        let mut output = EncodingWriter::new(output, ways);
        io::copy(&mut spool.0, &mut output).map_err(StreamError::Write)?;
        output.finish().map_err(StreamError::Write)?;
    }
    Ok((washed, unmet))
}

struct Spool(tempfile::SpooledTempFile);

impl Sink for Spool {
    type Error = io::Error;

    fn give(&mut self, bytes: &[u8], _changed: bool) -> io::Result<()> {
        self.0.write_all(bytes)
    }
}
