//! Telling what happens to each cell of a block.

use std::collections::BTreeMap;

use super::grid::{CellKind, Grid};
use super::pass::{CellPass, Pass, RulesOfPass};
use crate::engine::RunError;
use crate::observe::{Change, Detail, Hunk, Lineage, NoObserver, Observer};
use crate::rules::RuleId;

/// Follows the cells of one block that change.
#[derive(Debug)]
pub(super) struct ChangeLog {
    detail: Detail,
    /// The rules of all passes, one after the other.
    rules: Vec<RuleId>,
    /// Only this one is followed, as rule 0: what it makes of what the others made.
    only: Option<RuleId>,
    cells: BTreeMap<usize, FollowedCell>,
}

/// What happened to one cell.
#[derive(Debug)]
pub(super) struct LoggedCell {
    pub(super) cell: usize,
    /// The cell that its text came from, if it was another, and what was in that.
    pub(super) source: Option<(usize, Vec<u8>)>,
    pub(super) hunks: Vec<Hunk>,
}

/// One cell on its way.
#[derive(Debug)]
struct FollowedCell {
    lineage: Lineage,
    /// The rules of passes before this one have seen it.
    passed: usize,
    source: Option<(usize, Vec<u8>)>,
}

impl ChangeLog {
    pub(super) fn new(passes: &[Pass], detail: Detail, only: Option<RuleId>) -> Self {
        let rules = passes.iter().flat_map(|pass| pass.of().rules.iter().copied()).collect();
        let rules = if only.is_some() { vec![RuleId(0)] } else { rules };
        Self { detail, rules, only, cells: BTreeMap::new() }
    }

    /// A cell that comes to a pass with this value.
    fn follow(&mut self, cell: usize, value: &[u8], base: usize) -> &mut FollowedCell {
        let (rules, detail) = (self.rules.len(), self.detail);
        let followed = self.cells.entry(cell).or_insert_with(|| {
            let mut lineage = Lineage::new(rules, detail);
            lineage.input(value);
            FollowedCell { lineage, passed: 0, source: None }
        });
        for rule in followed.passed..base {
            followed.lineage.judged(RuleId(rule), u64::MAX);
        }
        followed.passed = base;
        followed
    }

    /// Washes a cell and follows what happens to it.
    pub(super) fn wash(
        &mut self,
        pass: &CellPass,
        cell: usize,
        value: &[u8],
        changes: &mut [u64],
    ) -> Result<Vec<u8>, RunError> {
        let mut value = value.to_vec();
        let RulesOfPass { rules, base } = &pass.of;
        for (rule, id) in rules.iter().enumerate() {
            if self.only.is_some_and(|only| only != *id) {
                value = pass.wash_by(rule, &value, NoObserver, changes)?;
                continue;
            }
            let told_as = if self.only.is_some() { RuleId(0) } else { RuleId(base + rule) };
            let followed = self.follow(cell, &value, if self.only.is_some() { 0 } else { *base });
            let washed = if value.is_empty() {
                // It is washed as an empty line, which would be told as one.
                let washed = pass.wash_by(rule, &value, NoObserver, changes)?;
                if !washed.is_empty() {
                    followed.lineage.change(&Change { rule: told_as, at: 0, before: b"", after: &washed, matches: 1 });
                }
                washed
            } else {
                pass.wash_by(rule, &value, PassObserver { lineage: &mut followed.lineage, base: told_as.0 }, changes)?
            };
            followed.lineage.judged(told_as, u64::MAX);
            followed.passed = told_as.0 + 1;
            value = washed;
        }
        Ok(value)
    }

    /// A rule puts something in place of the whole of a cell. `source`: the other cell it comes from, and what is in that.
    pub(super) fn put(
        &mut self,
        of: &RulesOfPass,
        source: Option<(usize, &[u8])>,
        target: usize,
        before: &[u8],
        after: &[u8],
    ) {
        if self.only.is_some_and(|only| only != of.rules[0]) {
            return;
        }
        let rule = RuleId(if self.only.is_some() { 0 } else { of.base });
        let followed = self.follow(target, before, rule.0);
        followed.source = source.map(|(cell, value)| (cell, value.to_vec())).or(followed.source.take());
        followed.lineage.change(&Change { rule, at: 0, before, after, matches: 1 });
    }

    /// What changed in each cell, in the order of the text.
    pub(super) fn finish(self, grid: &Grid) -> impl Iterator<Item = LoggedCell> {
        let rules = self.rules;
        debug_assert!(self.cells.keys().all(|cell| *cell < grid.cells.len()), "cells are those of the grid");
        let cells = self.cells.into_iter().map(move |(cell, followed)| {
            let mut hunks = followed.lineage.finish();
            hunks.iter_mut().for_each(|hunk| hunk.by(|rule| rules[rule.0]));
            LoggedCell { cell, source: followed.source, hunks }
        });
        // What happened to a cell is reported with its record or field, if that was dropped.
        let is_there =
            |told: &LoggedCell| !grid.cells[told.cell].gone || grid.cells[told.cell].kind == CellKind::Record;
        cells.filter(move |told| !told.hunks.is_empty() && is_there(told))
    }
}

/// Tells the lineage of a cell of one pass. What comes in is known to it already.
struct PassObserver<'l> {
    lineage: &'l mut Lineage,
    base: usize,
}

impl Observer for PassObserver<'_> {
    fn change(&mut self, change: &Change<'_>) {
        self.lineage.change(&Change { rule: RuleId(self.base + change.rule.0), ..*change });
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.lineage.judged(RuleId(self.base + rule.0), bytes);
    }
}
