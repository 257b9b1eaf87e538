//! Dropping records.

use super::change_log::ChangeLog;
use super::grid::{Grid, NO_COLUMN};
use super::pass::{PassFailure, PassScratch, Rows, RulesOfPass};
use crate::engine::RunError;
use crate::matching::Finder;
use crate::operations::Seen;
use crate::rules::{DropRecords, DropRepeats, EmptyFields, RuleId, RuleName};
use crate::text::lines::skip_blanks;

/// A rule that drops records.
#[derive(Debug)]
pub(super) struct RecordPass {
    pub(super) of: RulesOfPass,
    pub(super) what: DropRecords,
    /// The fields that records are judged by, each with the columns that may be it. `None`: all that a record has.
    pub(super) fields: Option<Vec<Vec<usize>>>,
    pub(super) rows: Vec<Rows>,
    /// A record that holds a match of one of these stays.
    pub(super) protect: Vec<Finder>,
    pub(super) name: RuleName,
    /// How much may be remembered of records, in bytes.
    pub(super) memory_limit: u64,
}

impl RecordPass {
    /// Drops records of a block. Those that are ragged stay.
    pub(super) fn run(
        &self,
        text: &[u8],
        grid: &mut Grid,
        work: &mut PassScratch,
        changes: &mut [u64],
        told: &mut Option<ChangeLog>,
    ) -> Result<(), PassFailure> {
        let rule = self.of.rules[0];
        let known = work.seen.iter().position(|(of, _)| *of == rule);
        let mut seen = known.map_or_else(Seen::default, |known| work.seen.swap_remove(known).1);
        for record in 0..grid.records.len() {
            if grid.records[record].is_ragged || grid.is_dropped(record) {
                continue;
            }
            let Some(cell) = grid.record_cell(record) else { continue };
            let failed = |error| PassFailure { cell, error };
            let mut goes = self.rows.iter().all(|rows| rows.hold(record, grid, text, &mut work.finder));
            goes = goes && self.judges(record, text, grid, &mut seen);
            goes = goes && !self.is_protected(record, text, grid, work);
            if work.finder.failed_at.is_some() {
                return Err(failed(RunError::too_much_work(RuleId(0), self.name.clone(), 1)));
            }
            if seen.memory() > self.memory_limit {
                let needs = "it remembers every record of the table";
                let (held, most) = (seen.memory(), self.memory_limit);
                return Err(failed(RunError::too_much_memory(RuleId(0), self.name.clone(), held, most, needs)));
            }
            if goes {
                if let Some(told) = told {
                    told.put(&self.of, None, cell, grid.value(cell, text), b"");
                }
                grid.drop_record(record);
                changes[rule.0] += 1;
            }
        }
        work.seen.push((rule, seen));
        Ok(())
    }

    /// Whether a record is one of those that go.
    fn judges(&self, record: usize, text: &[u8], grid: &Grid, seen: &mut Seen) -> bool {
        match self.what {
            DropRecords::Rows => true,
            DropRecords::Empty(EmptyFields::All) => {
                self.values(record, grid).all(|(_, cell)| is_empty(cell, text, grid))
            }
            DropRecords::Empty(EmptyFields::Any) => {
                let filled = |field: usize| {
                    self.values(record, grid).any(|(of, cell)| of == field && !is_empty(cell, text, grid))
                };
                match &self.fields {
                    Some(fields) => !(0..fields.len()).all(filled),
                    None => self.values(record, grid).any(|(_, cell)| is_empty(cell, text, grid)),
                }
            }
            DropRecords::Repeated(repeats) => self.is_repeated(repeats, record, text, grid, seen),
        }
    }

    fn is_repeated(&self, repeats: DropRepeats, record: usize, text: &[u8], grid: &Grid, seen: &mut Seen) -> bool {
        if self.values(record, grid).all(|(_, cell)| is_empty(cell, text, grid)) {
            return false;
        }
        let mut compared = std::mem::take(&mut seen.compared);
        compared.clear();
        let mut values: Vec<(usize, usize)> = self.values(record, grid).collect();
        values.sort_by_key(|(field, _)| *field);
        for (field, cell) in values {
            // Each part with its length, so that none can be taken for a part of another.
            let mut part = |bytes: &[u8]| {
                let start = compared.len();
                compared.extend_from_slice(&[0; 8]);
                repeats.compared(bytes, &mut compared);
                let length = (compared.len() - start - 8) as u64;
                compared[start..start + 8].copy_from_slice(&length.to_le_bytes());
            };
            let of = &grid.cells[cell];
            part(&field.to_le_bytes());
            part(of.name.as_deref().unwrap_or_default().as_bytes());
            part(&[u8::from(of.is_text())]);
            part(grid.value(cell, text));
        }
        seen.compared = compared;
        seen.is_repeated(repeats.scope)
    }

    /// The cells that a record is judged by, each with the number of its field, or else its column.
    fn values<'g>(&'g self, record: usize, grid: &'g Grid) -> impl Iterator<Item = (usize, usize)> + 'g {
        grid.cells_of(record).filter_map(move |cell| {
            let of = &grid.cells[cell];
            if !of.is_value() || of.column == NO_COLUMN {
                return None;
            }
            match &self.fields {
                Some(fields) => Some((fields.iter().position(|columns| columns.contains(&of.column))?, cell)),
                None => Some((of.column, cell)),
            }
        })
    }

    fn is_protected(&self, record: usize, text: &[u8], grid: &Grid, work: &mut PassScratch) -> bool {
        let texts = || grid.cells_of(record).filter(|cell| grid.cells[*cell].is_text());
        self.protect.iter().any(|finder| {
            texts().any(|cell| !finder.find_all(grid.value(cell, text), &mut work.finder).spans().is_empty())
        })
    }
}

/// Whether a value is nothing but blanks and line ends, or `null`.
fn is_empty(cell: usize, text: &[u8], grid: &Grid) -> bool {
    let value = grid.value(cell, text);
    if !grid.cells[cell].is_text() {
        return value == b"null";
    }
    value.split(|byte| matches!(byte, b'\n' | b'\r')).all(|line| skip_blanks(line, 0) == line.len())
}
