//! A block of whole records through all passes.

use std::ops::Range;
use std::sync::Arc;

use super::change_log::{ChangeLog, LoggedCell};
use super::csv::{Csv, content_end};
use super::error::{Broken, TableError};
use super::formulas::{Formulas, is_formula};
use super::grid::{CellKind, CellValue, Extent, Grid};
use super::json::{FoundFields, Json, is_opening};
use super::layout::{ColumnRun, Layout};
use super::pass::{PassFailure, PassScratch};
use super::plan::{Plan, TableReader};
use crate::observe::{CellPlace, CellSource, Hunk, Observer};
use crate::program::Program;
use crate::text::lines::line_ends;

/// What happened to a block.
#[derive(Debug, Default)]
pub(super) struct WashedBlock {
    /// What it has become, if that is another.
    pub(super) out: Vec<u8>,
    /// How much of the text it is, in bytes.
    pub(super) read: usize,
    pub(super) changes: Vec<u64>,
    pub(super) any_change: bool,
    pub(super) records: u64,
    /// Of those, how many have not been dropped.
    pub(super) kept: u64,
    pub(super) lines: u64,
    pub(super) found: FoundFields,
    pub(super) formulas: Formulas,
}

/// A block of records on its way.
pub(super) struct OneBlock<'b> {
    pub(super) program: &'b Program,
    pub(super) plan: &'b Plan,
    /// It starts with a record,
    pub(super) text: &'b [u8],
    /// and is washed so far.
    pub(super) extent: Extent,
    /// Records before it, where an observer is to know.
    pub(super) records: u64,
    /// Whether any of those has not been dropped.
    pub(super) any_kept: bool,
}

impl OneBlock<'_> {
    /// Washes it; `out` is memory for what it becomes. In errors, records and lines are those of the block.
    pub(super) fn wash(
        &self,
        (grid, work): &mut (Grid, PassScratch),
        out: Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<WashedBlock, TableError> {
        let Self { program, plan, text, .. } = self;
        let mut washed = WashedBlock { out, changes: vec![0; program.names().len()], ..WashedBlock::default() };
        let read = plan.read(text, self.extent, grid, &mut washed.found);
        let end = read.map_err(|(at, what)| {
            let before = grid.records.iter().take_while(|record| record.place.start < at).count() as u64;
            TableError::broken(before + 1, line_ends(&text[..at]) + 1, what)
        })?;
        let text = &text[..end];
        washed.read = end;
        let mut told =
            observer.is_active().then(|| ChangeLog::new(&plan.passes, observer.detail(), observer.only_rule()));
        for pass in &plan.passes {
            let done = pass.run(text, grid, work, &mut washed.changes, &mut told);
            if let Err(PassFailure { cell, error }) = done {
                let record = grid.record_of(cell);
                let field = self.field(grid, cell);
                return Err(TableError::rule(record as u64 + 1, field.as_deref(), error));
            }
        }
        if let Some(told) = told {
            for LoggedCell { cell, source, hunks } in told.finish(grid) {
                let record = self.records + grid.record_of(cell) as u64 + 1;
                let place = CellPlace { record, field: self.field(grid, cell) };
                let source = source
                    .and_then(|(source, value)| Some(Arc::new(CellSource { field: self.field(grid, source)?, value })));
                // A record goes as a whole, however many lines it has.
                let hunks = if grid.cells[cell].kind == CellKind::Record { Hunk::joined(hunks) } else { hunks };
                for hunk in hunks {
                    observer.cell(Hunk { cell: Some(place.clone()), source: source.clone(), ..hunk });
                }
            }
        }
        if program.table().guards_formulas {
            self.look_for_formulas(grid, &mut washed.formulas);
        }
        washed.records = grid.records.len() as u64;
        let dropped = |record: &usize| grid.is_dropped(*record);
        let has_drops = plan.layout.has_record_cells;
        let dropped = if has_drops { (0..grid.records.len()).filter(dropped).count() as u64 } else { 0 };
        washed.kept = washed.records - dropped;
        washed.lines = line_ends(text);
        self.write(text, grid, &mut washed)?;
        Ok(washed)
    }

    fn field(&self, grid: &Grid, cell: usize) -> Option<Arc<str>> {
        field_of(&self.plan.layout, grid, cell)
    }

    /// Writes the block as it has become, if anything has changed.
    fn write(&self, text: &[u8], grid: &Grid, washed: &mut WashedBlock) -> Result<(), TableError> {
        let any_kept = self.any_kept;
        let mut writing = Writing { plan: self.plan, text, grid, out: &mut washed.out, from: 0, any_kept, any: false };
        match (&self.plan.reader, &self.plan.runs) {
            (TableReader::Csv(csv), Some(runs)) => writing.records(*csv, runs),
            _ => writing.cells(0..grid.cells.len())?,
        }
        washed.any_change = writing.any;
        if writing.any {
            writing.copy_to(text.len());
            // Other columns may hold the same under the same names.
            let has_others = self.plan.runs.is_some() || self.plan.layout.changes_keys();
            washed.any_change = !has_others || washed.out != text;
        }
        Ok(())
    }

    fn look_for_formulas(&self, grid: &Grid, formulas: &mut Formulas) {
        for (index, cell) in grid.cells.iter().enumerate().filter(|(_, cell)| cell.is_text()) {
            let value = grid.bytes(cell.value, self.text);
            if is_formula(value) {
                let record = grid.record_of(index) as u64 + 1;
                formulas.add(CellPlace { record, field: self.field(grid, index) }, value);
            }
        }
    }
}

/// A block that is being written.
struct Writing<'w> {
    plan: &'w Plan,
    text: &'w [u8],
    grid: &'w Grid,
    out: &'w mut Vec<u8>,
    /// The text is written up to there.
    from: usize,
    /// A record has been written, in this block or before.
    any_kept: bool,
    /// It is not what it was.
    any: bool,
}

impl Writing<'_> {
    /// Copies the text up to there.
    fn copy_to(&mut self, end: usize) {
        self.out.extend_from_slice(&self.text[self.from..end]);
        self.from = end;
    }

    /// Copies the text up to `start` and goes on at `end`.
    fn skip(&mut self, start: usize, end: usize) {
        if !self.any {
            self.any = true;
            self.out.reserve(self.text.len());
        }
        self.copy_to(start);
        self.from = end;
    }

    /// Writes these cells, and the text up to the last of those that have changed.
    fn cells(&mut self, cells: Range<usize>) -> Result<(), TableError> {
        let (grid, text) = (self.grid, self.text);
        let start = cells.start;
        let changed = grid.cells[cells].iter().enumerate().filter(|(_, cell)| grid.differs(cell, text));
        for (index, cell) in changed {
            // It is in what has been dropped.
            if cell.raw.start < self.from {
                continue;
            }
            if cell.kind == CellKind::Record {
                let content = if let CellValue::Text(content) = cell.original { content } else { cell.raw };
                if cell.gone {
                    self.skip(cell.raw.start, cell.raw.end);
                } else {
                    if !self.any_kept && content.start > cell.raw.start {
                        self.skip(cell.raw.start, content.start);
                    }
                    self.any_kept = true;
                }
                continue;
            }
            self.skip(cell.raw.start, cell.raw.start);
            let value = grid.bytes(cell.value, text);
            let written = match (&self.plan.reader, cell.kind) {
                (_, CellKind::Member) => Ok(()),
                (_, CellKind::Separator) if is_opening(self.out) => Ok(()),
                (_, CellKind::Separator) => continue,
                (TableReader::Csv(csv), _) => {
                    csv.write(cell.raw.of(text), value, self.plan.layout.order.len() == 1, self.out);
                    Ok(())
                }
                (TableReader::Json(_), CellKind::New) => {
                    let name = self.plan.layout.called(cell.column);
                    let lead = grid.bytes(cell.original, text);
                    Json::write_new(name, value, (is_spaced(text, grid, start + index), lead), self.out)
                }
                (TableReader::Json(_), _) => Json::write(value, self.out),
            };
            self.from = cell.raw.end;
            written.map_err(|what: Broken| {
                let record = grid.record_of(start + index);
                let line = line_ends(&text[..grid.records[record].place.start]) + 1;
                TableError::broken(record as u64 + 1, line, what)
            })?;
        }
        Ok(())
    }

    /// Writes all records of a CSV table of which each is to have other columns, or to have them in another order.
    fn records(&mut self, csv: Csv, runs: &[ColumnRun]) {
        for (index, record) in self.grid.records.iter().enumerate() {
            if record.is_ragged {
                continue;
            }
            self.skip(record.place.start, record.place.start);
            if self.plan.layout.has_record_cells && self.grid.is_dropped(index) {
                self.from = record.place.end;
                continue;
            }
            let cells = self.grid.cells_of(index);
            let content_end = content_end(self.text, record.place.start, record.place.end);
            let written = self.out.len();
            for (number, run) in runs.iter().enumerate() {
                if number > 0 {
                    self.out.push(csv.delimiter);
                }
                match run {
                    ColumnRun::Made { cell } => {
                        csv.write(b"", self.grid.value(cells.start + cell, self.text), false, self.out);
                    }
                    ColumnRun::Kept { cells: kept, after, last } => {
                        let cell = |cell: usize| &self.grid.cells[cells.start + cell];
                        self.from = after.map_or(record.place.start, |after| cell(after).raw.end + 1);
                        let end = last.map_or(content_end, |last| cell(last).raw.end);
                        self.kept(csv, cells.start + kept.start..cells.start + kept.end, end);
                    }
                }
            }
            if runs.len() == 1 && self.out.len() == written {
                // An empty line would not be a record.
                self.out.extend_from_slice(b"\"\"");
            }
            self.from = content_end;
            self.copy_to(record.place.end);
        }
    }

    /// Writes these cells of a record, as far as they were there, and the text up to `end`.
    fn kept(&mut self, csv: Csv, cells: Range<usize>, end: usize) {
        let (grid, text) = (self.grid, self.text);
        for cell in grid.cells[cells].iter().filter(|cell| cell.kind == CellKind::Text && grid.differs(cell, text)) {
            self.copy_to(cell.raw.start);
            csv.write(cell.raw.of(text), grid.bytes(cell.value, text), false, self.out);
            self.from = cell.raw.end;
        }
        self.copy_to(end);
    }
}

/// Whether the field before a new one has a blank after its colon.
fn is_spaced(text: &[u8], grid: &Grid, cell: usize) -> bool {
    let source = grid.cells[..cell].iter().rev().find(|cell| matches!(cell.kind, CellKind::Text | CellKind::Other));
    source.is_some_and(|source| source.raw.start > 0 && text[source.raw.start - 1] == b' ')
}

/// What messages call the field of a cell; nothing for a whole record.
pub(super) fn field_of(layout: &Layout, grid: &Grid, cell: usize) -> Option<Arc<str>> {
    let cell = &grid.cells[cell];
    cell.name.as_ref().or(layout.names.get(cell.column)).map(Arc::clone)
}
