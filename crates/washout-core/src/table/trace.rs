//! Records of a table through the rules, step by step.

use std::ops::RangeInclusive;

use super::error::TableError;
use super::grid::{Extent, Grid};
use super::header::Header;
use super::json::FoundFields;
use super::plan::Plan;
use super::washer::TableWasher;
use crate::observe::{Detail, Hunk, Observer};
use crate::program::Program;
use crate::rules::{Field, RuleId, TableFormat, TableSettings};
use crate::text::lines::line_ends;
use crate::text::{BOM, TextSize};
use crate::trace::Step;

impl Program {
    /// A table of these records (from 1) alone, with its header, and how many they are: those that are not there are left
    /// out.
    ///
    /// # Errors
    /// What is wrong with the table up to there; a field that is not there.
    pub fn records(
        &self,
        format: TableFormat,
        table: &[u8],
        wanted: &RangeInclusive<u64>,
    ) -> Result<(Vec<u8>, u64), TableError> {
        let text = table.strip_prefix(BOM).unwrap_or(table);
        let Some(header) = Header::open(self, format, text, true)? else { return Ok((Vec::new(), 0)) };
        let mut start = header.end;
        let mut picked = text[..start].to_vec();
        let in_array = format == TableFormat::Json;
        let plan = Plan::new(self, format, header, &[])?;
        let (mut grid, mut before, mut count) = (Grid::default(), 0, 0);
        while start < text.len() && before < *wanted.end() {
            let extent = Extent { bytes: 1 << 16, first: before == 0, ..Extent::whole(true) };
            let read = plan.read(&text[start..], extent, &mut grid, &mut FoundFields::default());
            for (number, record) in (before + 1..).zip(&grid.records) {
                if wanted.contains(&number) {
                    if in_array && count > 0 {
                        picked.push(b',');
                    }
                    picked.extend_from_slice(&text[start..][record.place.start..record.place.end]);
                    count += 1;
                }
            }
            before += grid.records.len() as u64;
            if before < *wanted.end() {
                start +=
                    read.map_err(|(at, what)| TableError::broken(before, line_ends(&text[..start + at]) + 1, what))?;
            }
        }
        if in_array {
            picked.push(b']');
        }
        Ok((picked, count))
    }

    /// Sends a small table through the rules: each step is given with all its changes, and with the table it leaves. Its
    /// first record counts as number `first`, from 1.
    ///
    /// # Errors
    /// A rule that cannot go on, or what is wrong with the table, with the steps before it.
    pub fn trace_table(
        &self,
        format: TableFormat,
        table: &[u8],
        first: u64,
    ) -> Result<Vec<Step>, (Vec<Step>, TableError)> {
        let mut steps: Vec<Step> = Vec::new();
        let mut before = TextSize::of(table);
        for index in 0..self.names().len() {
            let rule = RuleId(index);
            // Columns that rules make do not move those that others name by number: so all run together, each time one more.
            let rules = self.part(0..index + 1);
            let mut washer = TableWasher::new(&rules, format, OneRule { rule, hunks: Vec::new() });
            let mut text = Vec::new();
            let washed = washer.push(table, &mut text).and_then(|()| washer.finish(&mut text));
            if let Err(error) = washed {
                return Err((steps, error));
            }
            let changes = washer.changes()[index];
            let mut hunks = washer.into_observer().hunks;
            let cells = hunks.iter_mut().filter_map(|hunk| hunk.cell.as_mut());
            for cell in cells.filter(|cell| cell.record > 0) {
                cell.record += first - 1;
            }
            let after = TextSize::of(&text);
            steps.push(Step { rule, changes, hunks, before, after, text });
            before = after;
        }
        Ok(steps)
    }

    /// Only for this field, and for fields that rules make.
    #[must_use]
    pub fn for_field(mut self, field: &str) -> Self {
        let field = Field::Name(field.to_owned());
        self.set_table(TableSettings { only: Some(vec![field]), drops_all: true, ..self.table().clone() });
        self
    }
}

/// Is told what one rule does to cells.
struct OneRule {
    rule: RuleId,
    hunks: Vec<Hunk>,
}

impl Observer for OneRule {
    fn cell(&mut self, hunk: Hunk) {
        self.hunks.push(hunk);
    }

    fn detail(&self) -> Detail {
        Detail::All
    }

    fn only_rule(&self) -> Option<RuleId> {
        Some(self.rule)
    }
}
