//! All rules of a program at work on the cells of one table.

use std::collections::HashMap;
use std::sync::Arc;

use rayon::prelude::*;

use super::block::{OneBlock, WashedBlock};
use super::csv::{Csv, LONGEST_RECORD};
use super::error::{Broken, TableError};
use super::formulas::{Formulas, is_formula};
use super::grid::{Extent, Grid};
use super::header::Header;
use super::held::Held;
use super::json::FoundFields;
use super::pass::PassScratch;
use super::plan::{Plan, TableReader};
use crate::engine::OutputChunks;
use crate::observe::{CellPlace, Change, Hunk, Lineage, NoObserver, Observer};
use crate::program::Program;
use crate::rules::{RuleId, TableFormat};
use crate::text::BOM;
use crate::text::lines::line_ends;
use crate::text::matches::Span;

/// How much of a table is worked on at once, in bytes.
const BLOCK: usize = 128 << 10;

/// Washes the cells of one table that comes in pieces cut anywhere. What is not a cell that rules change comes out as it
/// came in.
///
/// Give it the pieces with [`push`](Self::push) and close with [`finish`](Self::finish). What is appended to `out` is
/// certain. The result does not depend on how the table is cut.
#[derive(Debug)]
pub struct TableWasher<'p, O> {
    program: &'p Program,
    format: TableFormat,
    plan: Option<Plan>,
    /// What has been received and is not a whole record yet.
    held: Held,
    started: bool,
    records: u64,
    /// A record has been written.
    any_kept: bool,
    lines: u64,
    changes: Vec<u64>,
    any_change: bool,
    found: FoundFields,
    formulas: Formulas,
    observer: O,
    threads: usize,
    block: usize,
    work: Box<(Grid, PassScratch)>,
    /// What is given for a piece to those who want a copy, kept for its memory.
    given: OutputChunks,
    most_records: Option<u64>,
    /// How much of the table has been washed, in bytes from its start.
    taken: u64,
}

impl<'p, O: Observer> TableWasher<'p, O> {
    pub(crate) fn new(program: &'p Program, format: TableFormat, observer: O) -> Self {
        Self {
            program,
            format,
            plan: None,
            held: Held::default(),
            started: false,
            records: 0,
            any_kept: false,
            lines: 0,
            changes: vec![0; program.names().len()],
            any_change: false,
            found: FoundFields::default(),
            formulas: Formulas::default(),
            observer,
            threads: 1,
            block: BLOCK,
            work: Box::default(),
            given: OutputChunks::default(),
            most_records: None,
            taken: 0,
        }
    }

    /// Lets that many threads of the current thread pool work on the table at the same time; results do not depend on it.
    /// With an observer that is active, one thread does it all.
    #[must_use]
    pub fn with_threads(mut self, threads: usize) -> Self {
        self.threads = threads.max(1);
        self
    }

    /// Sets how much is worked on at once, in bytes; results do not depend on it. 0 counts as 1.
    #[must_use]
    pub fn with_block_size(mut self, bytes: usize) -> Self {
        self.block = bytes.max(1);
        self
    }

    /// Takes no more than that many records, and passes over what is after them.
    #[must_use]
    pub fn with_most_records(mut self, records: Option<u64>) -> Self {
        self.most_records = records;
        self
    }

    /// How much of the table has been washed, in bytes from its start: with [`with_most_records`](Self::with_most_records)
    /// what comes after is not part of it.
    pub fn taken(&self) -> u64 {
        self.taken
    }

    /// Whether what comes now is passed over.
    pub fn is_done(&self) -> bool {
        self.most_records.is_some_and(|most| self.records >= most)
    }

    /// How many changes each rule has made so far, in the order of [`Program::names`]. Of a rule whose result goes to
    /// another field, each cell there that it makes another.
    pub fn changes(&self) -> &[u64] {
        &self.changes
    }

    /// Whether the result so far differs from what came in.
    pub fn any_change(&self) -> bool {
        self.any_change
    }

    /// How many records there were so far, without the header.
    pub fn records(&self) -> u64 {
        self.records
    }

    /// Fields that were found only by looking past letter case and blanks: as named, and as the table has them.
    pub fn near_fields(&self) -> &[(String, String)] {
        self.plan.as_ref().map_or(&[], |plan| &plan.near)
    }

    /// Fields that rules name and that hold no text at all: numbers, `true`, `null` or objects, which are left alone.
    pub fn fields_without_text(&self) -> Vec<String> {
        let Some(Plan { reader: TableReader::Json(_), layout, .. }) = &self.plan else { return Vec::new() };
        let has = |flags: &[bool], column: usize| flags.get(column).copied().unwrap_or(false);
        let is_for_text = |column: &usize| layout.seen[*column] && !layout.whole[*column];
        let named = (1..layout.originals).filter(is_for_text);
        let empty = named.filter(|column| has(&self.found.columns, *column) && !has(&self.found.texts, *column));
        empty.map(|column| layout.names[column].to_string()).collect()
    }

    /// Fields that a rule puts its result in and that the table comes with: what was in them is replaced.
    pub fn replaced_fields(&self) -> Vec<String> {
        let Some(plan) = &self.plan else { return Vec::new() };
        let TableReader::Json(json) = &plan.reader else { return plan.replaced.clone() };
        let is_there = |column: &usize| self.found.columns.get(*column).copied().unwrap_or(false);
        let made = json.makes.iter().map(|(_, made)| *made).filter(is_there);
        made.map(|column| plan.layout.names[column].to_string()).collect()
    }

    /// Cells that a spreadsheet would take for a formula, if they are looked for.
    pub fn formulas(&self) -> &Formulas {
        &self.formulas
    }

    /// The observer, to ask what it has seen so far.
    pub fn observer(&mut self) -> &mut O {
        &mut self.observer
    }

    pub(crate) fn observer_ref(&self) -> &O {
        &self.observer
    }

    /// Ends the work and gives the observer back.
    pub fn into_observer(self) -> O {
        self.observer
    }

    /// Takes the next piece of the table and appends all of the result that is certain to `out`.
    ///
    /// # Errors
    /// A record that is no good, a field that is not there, a rule that cannot go on. The table is lost to this washer
    /// then, and what it has given is not a whole result.
    pub fn push(&mut self, piece: &[u8], out: &mut Vec<u8>) -> Result<(), TableError> {
        let mut given = std::mem::take(&mut self.given);
        self.push_uncopied(piece, &mut given)?;
        given.append_to(piece, out);
        given.clear();
        self.given = given;
        Ok(())
    }

    /// As [`push`](Self::push), but gives what is certain without copying it; what was given before is forgotten.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn push_uncopied(&mut self, piece: &[u8], given: &mut OutputChunks) -> Result<(), TableError> {
        given.clear();
        if self.is_done() {
            return Ok(());
        }
        // Nearly always all except the start of a record goes at once, so the piece itself is not copied.
        if self.held.is_empty() {
            let done = self.work_off(piece, false, given)?;
            self.held.take(&piece[done..]);
            return Ok(());
        }
        self.held.take(piece);
        let Some(held) = self.held.worth_a_try(false) else { return Ok(()) };
        let mut of_held = OutputChunks::default();
        given.borrow_buffers(&mut of_held);
        let done = self.work_off(&held, false, &mut of_held)?;
        given.take_made(&mut of_held, &held);
        self.held.keep(held, done);
        Ok(())
    }

    /// Closes the table and appends the rest of the result to `out`.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn finish(&mut self, out: &mut Vec<u8>) -> Result<(), TableError> {
        let held = self.held.worth_a_try(true).unwrap_or_default();
        let mut given = std::mem::take(&mut self.given);
        self.work_off(&held, true, &mut given)?;
        given.append_to(&held, out);
        let Some(Plan { reader: TableReader::Json(json), layout, required, .. }) = &self.plan else { return Ok(()) };
        if json.is_array && !self.found.is_closed && self.most_records.is_none() {
            return Err(TableError::broken(0, 1, Broken::OpenArray));
        }
        let is_there = |column: usize| self.found.columns.get(column).copied().unwrap_or(false);
        let missing = required.iter().copied().find(|column| !is_there(*column));
        match missing {
            Some(column) if self.records > 0 && self.most_records.is_none() && !self.is_made(column) => {
                let keys = std::mem::take(&mut self.found.keys);
                Err(TableError::no_field(layout.names[column].to_string(), None, keys))
            }
            _ => Ok(()),
        }
    }

    /// Whether rules make the field where it is not there.
    fn is_made(&self, column: usize) -> bool {
        let Some(Plan { reader: TableReader::Json(json), .. }) = &self.plan else { return false };
        json.makes.iter().any(|(_, made)| *made == column)
    }

    /// Washes as much of the received text as possible; gives how much that is.
    fn work_off(&mut self, held: &[u8], last: bool, given: &mut OutputChunks) -> Result<usize, TableError> {
        let mut from = 0;
        if !self.started {
            if held.len() < BOM.len() && BOM.starts_with(held) && !last {
                return Ok(0);
            }
            self.started = true;
            // No rule for cells drops the byte order mark.
            if held.starts_with(BOM) {
                given.add_same(held, 0..BOM.len());
                from = BOM.len();
            }
        }
        if self.plan.is_none() {
            match self.open(&held[from..], last, given.made())? {
                Some(read) => from += read,
                None if last => {
                    given.add_same(held, from..held.len());
                    return Ok(held.len());
                }
                None if held.len() > LONGEST_RECORD => return Err(TableError::broken(0, 1, Broken::TooLong)),
                None => return Ok(from),
            }
        }
        let in_order = self.plan.as_ref().is_some_and(|plan| plan.remembers);
        if self.threads > 1 && !in_order && !self.observer.is_active() && self.most_records.is_none() {
            from += self.in_parallel(held, from, given)?;
        }
        let mut work = std::mem::take(&mut self.work);
        while from < held.len() && !self.is_done() {
            let out = given.spare(self.block.min(held.len() - from));
            let washed = self.block(&held[from..], last, &mut work, out)?;
            let read = washed.read;
            self.take(washed, held, from, given);
            if read == 0 {
                break;
            }
            from += read;
        }
        self.work = work;
        if held.len() - from > LONGEST_RECORD && !self.is_done() {
            return Err(TableError::broken(self.records + 1, self.lines + 1, Broken::TooLong));
        }
        self.taken += from as u64;
        Ok(if self.is_done() { held.len() } else { from })
    }

    /// Reads what comes before the records and works out what is to be done. Gives how much of the text that was.
    fn open(&mut self, text: &[u8], last: bool, out: &mut Vec<u8>) -> Result<Option<usize>, TableError> {
        let Some(header) = Header::open(self.program, self.format, text, last)? else { return Ok(None) };
        let Header { cells, raw, end, is_named, .. } = header.clone();
        let plan = Plan::new(self.program, self.format, header, &[])?;
        self.lines += line_ends(&text[..end]);
        let TableReader::Csv(csv) = plan.reader else {
            out.extend_from_slice(&text[..end]);
            self.plan = Some(plan);
            return Ok(Some(end));
        };
        let last: HashMap<usize, RuleId> = plan.header_changes.iter().map(|(rule, column)| (*column, *rule)).collect();
        for (rule, column) in &plan.header_changes {
            self.changes[rule.0] += 1;
            // A field is reported once: what has become of it in the end.
            if is_named && last.get(column) == Some(rule) && *column < plan.layout.originals {
                self.log_header(*rule, &plan, *column);
            }
        }
        if is_named {
            let start = raw.first().map_or(0, |raw| raw.start);
            out.extend_from_slice(&text[..start]);
            let written = out.len();
            write_header(csv, &plan, &text[..end], &raw, out);
            self.any_change |= out[written..] != text[start..end];
            if self.program.table().guards_formulas {
                let named = plan.layout.names.iter().zip(&cells);
                for (name, value) in named.filter(|(_, value)| is_formula(value)) {
                    self.formulas.add(CellPlace { record: 0, field: Some(Arc::clone(name)) }, value);
                }
            }
        }
        self.plan = Some(plan);
        Ok(Some(end))
    }

    /// Tells what a rule does to the name of a column.
    fn log_header(&mut self, rule: RuleId, plan: &Plan, column: usize) {
        if !self.observer.is_active() || self.observer.only_rule().is_some_and(|only| only != rule) {
            return;
        }
        let before = plan.layout.names[column].as_bytes();
        let after = if plan.layout.dropped[column] { "" } else { plan.layout.called(column) };
        // It goes through no other rule.
        let mut lineage = Lineage::new(1, self.observer.detail());
        lineage.input(before);
        lineage.change(&Change { rule: RuleId(0), at: 0, before, after: after.as_bytes(), matches: 1 });
        let place = CellPlace { record: 0, field: Some(Arc::clone(&plan.layout.names[column])) };
        for mut hunk in lineage.finish() {
            // Where one rule alone is followed, it is rule 0.
            hunk.by(|_| if self.observer.only_rule().is_some() { RuleId(0) } else { rule });
            self.observer.cell(Hunk { cell: Some(place.clone()), ..hunk });
        }
    }

    /// Parts the text from `from` on into blocks that are most likely whole records, and washes them at the same time.
    /// Gives how much of the text was done.
    fn in_parallel(&mut self, text: &[u8], from: usize, given: &mut OutputChunks) -> Result<usize, TableError> {
        let (program, Some(plan)) = (self.program, self.plan.as_ref()) else { return Ok(0) };
        let rest = &text[from..];
        // Shorter ones than one thread takes: all threads are to end at about the same time.
        let cuts = plan.likely_cuts(rest, self.block.div_ceil(2));
        if cuts.len() < 2 {
            return Ok(0);
        }
        let starts = std::iter::once(0).chain(cuts.iter().copied());
        let blocks: Vec<&[u8]> = starts.zip(&cuts).map(|(start, end)| &rest[start..*end]).collect();
        let outs: Vec<Vec<u8>> = blocks.iter().map(|block| given.spare(block.len())).collect();
        let extent = Extent::whole(false);
        let washed: Vec<Result<WashedBlock, TableError>> = blocks
            .par_iter()
            .zip(outs)
            .map_init(Box::<(Grid, PassScratch)>::default, |work, (block, out)| {
                OneBlock { program, plan, text: block, extent, records: 0, any_kept: true }.wash(
                    work,
                    out,
                    &mut NoObserver,
                )
            })
            .collect();
        let mut done = 0;
        for (washed, block) in washed.into_iter().zip(blocks) {
            // Where a record stands is known only now.
            let washed = washed.map_err(|error| error.behind(self.records, self.lines))?;
            let read = washed.read;
            self.take(washed, text, from + done, given);
            done += read;
            if read < block.len() {
                // It was split within a record: what is after it was not read as it is.
                break;
            }
        }
        Ok(done)
    }

    fn block(
        &mut self,
        text: &[u8],
        last: bool,
        work: &mut (Grid, PassScratch),
        out: Vec<u8>,
    ) -> Result<WashedBlock, TableError> {
        let Some(plan) = &self.plan else { return Ok(WashedBlock::default()) };
        let records = self.most_records.map_or(u64::MAX, |most| most.saturating_sub(self.records));
        let extent = Extent { bytes: self.block, records, last, first: self.records == 0 };
        let one =
            OneBlock { program: self.program, plan, text, extent, records: self.records, any_kept: self.any_kept };
        one.wash(work, out, &mut self.observer).map_err(|error| error.behind(self.records, self.lines))
    }

    /// Takes over what happened to the block of `text` that starts at `at`.
    fn take(&mut self, washed: WashedBlock, text: &[u8], at: usize, given: &mut OutputChunks) {
        let WashedBlock { out, read, changes, any_change, records, kept, lines, found, mut formulas } = washed;
        if any_change {
            given.add_made(out);
        } else {
            given.recycle(out);
            given.add_same(text, at..at + read);
        }
        self.changes.iter_mut().zip(&changes).for_each(|(total, made)| *total += made);
        self.any_change |= any_change;
        self.found.add(&found);
        formulas.places.iter_mut().for_each(|(place, _)| place.record += self.records);
        self.formulas.merge(formulas);
        self.records += records;
        self.any_kept |= kept > 0;
        self.lines += lines;
    }
}

/// Writes the first record of a CSV table: the names of the columns that are written.
fn write_header(csv: Csv, plan: &Plan, text: &[u8], raw: &[Span], out: &mut Vec<u8>) {
    let layout = &plan.layout;
    let start = out.len();
    for (number, column) in layout.order.iter().enumerate() {
        if number > 0 {
            out.push(csv.delimiter);
        }
        let was = raw.get(*column).map_or(&b""[..], |raw| raw.of(text));
        match &layout.renamed[*column] {
            None if *column < layout.originals => out.extend_from_slice(was),
            _ => csv.write(was, layout.called(*column).as_bytes(), false, out),
        }
    }
    if layout.order.len() == 1 && out.len() == start {
        // An empty line would not be a header.
        out.extend_from_slice(b"\"\"");
    }
    out.extend_from_slice(&text[raw.last().map_or(0, |raw| raw.end)..]);
}
