//! One cell of a table by itself, with the rules for it.

use super::error::TableError;
use super::grid::{Extent, Grid};
use super::header::Header;
use super::json::FoundFields;
use super::pass::PassScratch;
use super::plan::Plan;
use crate::program::Program;
use crate::rules::{Field, RuleId, TableFormat};
use crate::text::BOM;
use crate::text::lines::line_ends;

/// A cell, and the rules that act on it.
#[derive(Clone, Debug)]
pub struct CellText {
    /// What it holds.
    pub text: Vec<u8>,
    /// The rules that act on it, with the names they have among all.
    pub program: Program,
    /// Which rules they are among all.
    pub rules: Vec<RuleId>,
}

impl Program {
    /// The cell of a record (from 1) and field of this table, and the rules that act on it. `None`: the table has no such
    /// record, or the record no such field.
    ///
    /// # Errors
    /// What is wrong with the table up to there; a field that is not there.
    pub fn cell(
        &self,
        format: TableFormat,
        table: &[u8],
        record: u64,
        field: &str,
    ) -> Result<Option<CellText>, TableError> {
        let text = table.strip_prefix(BOM).unwrap_or(table);
        let also = [Field::Name(field.to_owned())];
        let Some(header) = Header::open(self, format, text, true)? else { return Ok(None) };
        let header_end = header.end;
        let plan = Plan::new(self, format, header, &also)?;
        let column = plan.also[0];
        let (mut grid, mut work) = (Grid::default(), PassScratch::default());
        let (mut records, mut start) = (0, header_end);
        while start < text.len() {
            let extent = Extent { bytes: 1 << 16, first: records == 0, ..Extent::whole(true) };
            let read = plan.read(&text[start..], extent, &mut grid, &mut FoundFields::default());
            let wanted = usize::try_from(record.saturating_sub(records + 1)).unwrap_or(usize::MAX);
            records += grid.records.len() as u64;
            let block = &text[start..];
            if record == 0 || wanted >= grid.records.len() {
                start +=
                    read.map_err(|(at, what)| TableError::broken(records, line_ends(&text[..start + at]) + 1, what))?;
                continue;
            }
            let is_it = |cell: &usize| grid.cells[*cell].column == column && grid.cells[*cell].is_text();
            let cell = grid.cells_of(wanted).find(is_it);
            let Some(cell) = cell else { return Ok(None) };
            let value = grid.value(cell, block).to_vec();
            let mut rules = Vec::new();
            for pass in &plan.passes {
                rules.extend(pass.rules_for(cell, block, &grid, &mut work));
                // What comes later may depend on what this makes of the record.
                let mut changes = vec![0; self.names().len()];
                if pass.run(block, &mut grid, &mut work, &mut changes, &mut None).is_err() {
                    break;
                }
            }
            rules.sort_unstable();
            let program = self.pick(&rules);
            return Ok(Some(CellText { text: value, program, rules: rules.into_iter().map(RuleId).collect() }));
        }
        Ok(None)
    }
}
