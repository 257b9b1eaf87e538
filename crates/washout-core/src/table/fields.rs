//! Dropping and renaming fields.
//!
//! In a CSV table this is done where its header and its records are written. In JSON every object has its own keys, so each
//! of them is a change.

use super::change_log::ChangeLog;
use super::grid::{CellKind, Grid};
use super::pass::RulesOfPass;

/// A rule that drops or renames fields.
#[derive(Debug)]
pub(super) struct FieldPass {
    pub(super) of: RulesOfPass,
    /// By column.
    pub(super) is_for: Vec<bool>,
    pub(super) drops: bool,
}

impl FieldPass {
    pub(super) fn run(&self, text: &[u8], grid: &mut Grid, changes: &mut [u64], told: &mut Option<ChangeLog>) {
        let wanted = if self.drops { CellKind::Member } else { CellKind::Key };
        let mut dropped_up_to = 0;
        for index in 0..grid.cells.len() {
            let cell = &grid.cells[index];
            if cell.gone {
                continue;
            }
            let is_here = self.is_for.get(cell.column).copied().unwrap_or(false);
            if is_here && cell.kind == wanted {
                let (start, end) = (cell.raw.start, cell.raw.end);
                changes[self.of.rules[0].0] += 1;
                if let Some(told) = told {
                    let (before, after) = (grid.bytes(cell.original, text), grid.bytes(cell.value, text));
                    told.put(&self.of, None, index, before, after);
                }
                if self.drops && start >= dropped_up_to {
                    dropped_up_to = end;
                }
            } else if self.drops && (cell.raw.start < dropped_up_to || (is_here && cell.is_value())) {
                grid.cells[index].gone = true;
            }
        }
    }
}
