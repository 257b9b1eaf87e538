//! A block of whole records through all passes.

use std::sync::Arc;

use super::error::TableError;
use super::formulas::{Formulas, is_formula};
use super::grid::{Extent, Grid};
use super::json_lines::{Found, JsonLines};
use super::layout::Layout;
use super::pass::{Failed, Work};
use super::plan::{Plan, Reader};
use super::told::{Told, ToldCell};
use crate::observe::{CellPlace, CellSource, Hunk, Observer};
use crate::program::Program;
use crate::text::lines::line_ends;

/// What has become of a block.
#[derive(Debug, Default)]
pub(super) struct Washed {
    /// What it has become, if that is another.
    pub(super) out: Vec<u8>,
    /// How much of the text it is, in bytes.
    pub(super) read: usize,
    pub(super) changes: Vec<u64>,
    pub(super) any_change: bool,
    pub(super) records: u64,
    pub(super) lines: u64,
    pub(super) found: Found,
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
}

impl OneBlock<'_> {
    /// Washes it; `out` is memory for what it becomes. In errors, records and lines are those of the block.
    pub(super) fn wash(
        &self,
        (grid, work): &mut (Grid, Work),
        out: Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Washed, TableError> {
        let Self { program, plan, text, .. } = self;
        let mut washed = Washed { out, changes: vec![0; program.names().len()], ..Washed::default() };
        let read = plan.read(text, self.extent, grid, &mut washed.found);
        let end = read.map_err(|(at, what)| {
            let before = grid.records.iter().take_while(|record| record.place.start < at).count() as u64;
            TableError::broken(before + 1, line_ends(&text[..at]) + 1, what)
        })?;
        let text = &text[..end];
        washed.read = end;
        let mut told = observer.is_active().then(|| Told::new(&plan.passes, observer.detail(), observer.only_rule()));
        for pass in &plan.passes {
            let done = pass.run(text, grid, work, &mut washed.changes, &mut told);
            if let Err(Failed { cell, error }) = done {
                let record = grid.record_of(cell);
                let field = self.field(grid, cell);
                return Err(TableError::rule(record as u64 + 1, &field, error));
            }
        }
        if let Some(told) = told {
            for ToldCell { cell, source, hunks } in told.finish(grid) {
                let record = self.records + grid.record_of(cell) as u64 + 1;
                let place = CellPlace { record, field: self.field(grid, cell) };
                let source =
                    source.map(|(source, value)| Arc::new(CellSource { field: self.field(grid, source), value }));
                for hunk in hunks {
                    observer.cell(Hunk { cell: Some(place.clone()), source: source.clone(), ..hunk });
                }
            }
        }
        if program.table().guards_formulas {
            self.look_for_formulas(grid, &mut washed.formulas);
        }
        washed.records = grid.records.len() as u64;
        washed.lines = line_ends(text);
        self.write(text, grid, &mut washed)?;
        Ok(washed)
    }

    fn field(&self, grid: &Grid, cell: usize) -> Arc<str> {
        field_of(&self.plan.layout, grid, cell)
    }

    /// Writes the block as it has become, if anything has changed.
    fn write(&self, text: &[u8], grid: &Grid, washed: &mut Washed) -> Result<(), TableError> {
        let Self { plan, .. } = self;
        let out = &mut washed.out;
        let mut from = 0;
        for (index, cell) in grid.cells.iter().enumerate().filter(|(_, cell)| grid.differs(cell, text)) {
            if !washed.any_change {
                washed.any_change = true;
                out.reserve(text.len());
            }
            out.extend_from_slice(&text[from..cell.raw.start]);
            from = cell.raw.end;
            let value = grid.bytes(cell.value, text);
            let written = match &plan.reader {
                Reader::Csv(csv) if cell.is_new => {
                    csv.write_new(value, out);
                    Ok(())
                }
                Reader::Csv(csv) => {
                    let alone = plan.layout.originals == 1 && !plan.layout.makes_any();
                    csv.write(cell.raw.of(text), value, alone, out);
                    Ok(())
                }
                Reader::JsonLines(_) if cell.is_new => {
                    let name = &plan.layout.names[cell.column];
                    JsonLines::write_new(name, value, is_spaced(text, grid, index), out)
                }
                Reader::JsonLines(_) => JsonLines::write(value, out),
            };
            written.map_err(|what| {
                let record = grid.record_of(index);
                let line = line_ends(&text[..grid.records[record].place.start]) + 1;
                TableError::broken(record as u64 + 1, line, what)
            })?;
        }
        if washed.any_change {
            out.extend_from_slice(&text[from..]);
        }
        Ok(())
    }

    fn look_for_formulas(&self, grid: &Grid, formulas: &mut Formulas) {
        for (index, cell) in grid.cells.iter().enumerate() {
            let value = grid.bytes(cell.value, self.text);
            if is_formula(value) {
                let record = grid.record_of(index) as u64 + 1;
                formulas.add(CellPlace { record, field: self.field(grid, index) }, value);
            }
        }
    }
}

/// Whether the field before a new one has a blank behind its colon.
fn is_spaced(text: &[u8], grid: &Grid, cell: usize) -> bool {
    let source = grid.cells[..cell].iter().rev().find(|cell| !cell.is_new);
    source.is_some_and(|source| source.raw.start > 0 && text[source.raw.start - 1] == b' ')
}

/// What messages call the field of a cell.
pub(super) fn field_of(layout: &Layout, grid: &Grid, cell: usize) -> Arc<str> {
    let cell = &grid.cells[cell];
    Arc::clone(cell.name.as_ref().unwrap_or(&layout.names[cell.column]))
}
