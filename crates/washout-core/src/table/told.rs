//! Telling what happens to each cell of a block.

use std::collections::BTreeMap;

use super::grid::Grid;
use super::pass::Pass;
use crate::engine::RunError;
use crate::observe::{Change, Detail, Hunk, Lineage, NoObserver, Observer, Side};
use crate::program::RuleId;

/// Follows the cells of one block that change.
#[derive(Debug)]
pub(super) struct Told {
    detail: Detail,
    /// The rules of all passes, one behind the other.
    rules: Vec<RuleId>,
    cells: BTreeMap<usize, Followed>,
}

/// One cell on its way.
#[derive(Debug)]
struct Followed {
    lineage: Lineage,
    /// The rules of passes before this one have seen it.
    passed: usize,
}

impl Told {
    pub(super) fn new(passes: &[Pass], detail: Detail) -> Self {
        let rules = passes.iter().flat_map(|pass| pass.rules.iter().copied()).collect();
        Self { detail, rules, cells: BTreeMap::new() }
    }

    /// A cell that comes to a pass with this value.
    fn follow(&mut self, cell: usize, value: &[u8], base: usize) -> &mut Followed {
        let (rules, detail) = (self.rules.len(), self.detail);
        let followed = self.cells.entry(cell).or_insert_with(|| {
            let mut lineage = Lineage::new(rules, detail);
            lineage.input(value);
            Followed { lineage, passed: 0 }
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
        pass: &Pass,
        cell: usize,
        value: &[u8],
        changes: &mut [u64],
    ) -> Result<Vec<u8>, RunError> {
        let followed = self.follow(cell, value, pass.base);
        let mut value = value.to_vec();
        for rule in 0..pass.rules.len() {
            let told_as = RuleId(pass.base + rule);
            let washed = if value.is_empty() {
                // It is washed as an empty line, which would be told as one.
                let washed = pass.wash_by(rule, &value, NoObserver, changes)?;
                if !washed.is_empty() {
                    followed.lineage.change(&Change { rule: told_as, at: 0, before: b"", after: &washed, matches: 1 });
                }
                washed
            } else {
                pass.wash_by(rule, &value, InPass { lineage: &mut followed.lineage, base: told_as.0 }, changes)?
            };
            followed.lineage.judged(told_as, u64::MAX);
            value = washed;
        }
        followed.passed = pass.base + pass.rules.len();
        Ok(value)
    }

    /// A rule puts its result in another cell.
    pub(super) fn put(&mut self, pass: &Pass, target: usize, before: &[u8], after: &[u8]) {
        let rule = RuleId(pass.base);
        let followed = self.follow(target, before, pass.base);
        followed.lineage.change(&Change { rule, at: 0, before, after, matches: 1 });
    }

    /// What changed in each cell, in the order of the text.
    pub(super) fn finish(self, grid: &Grid) -> Vec<(usize, Vec<Hunk>)> {
        let rules = self.rules;
        let of_program = |side: Side| match side {
            Side::Kept => Side::Kept,
            Side::Removed(rule) => Side::Removed(rules[rule.0]),
            Side::Put(rule) => Side::Put(rules[rule.0]),
        };
        debug_assert!(self.cells.keys().all(|cell| *cell < grid.cells.len()), "cells are those of the grid");
        let cells = self.cells.into_iter().map(|(cell, followed)| {
            let mut hunks = followed.lineage.finish();
            hunks.iter_mut().flat_map(|hunk| &mut hunk.pieces).for_each(|piece| piece.side = of_program(piece.side));
            (cell, hunks)
        });
        cells.filter(|(_, hunks)| !hunks.is_empty()).collect()
    }
}

/// Tells the lineage of a cell of one pass. What comes in is known to it already.
struct InPass<'l> {
    lineage: &'l mut Lineage,
    base: usize,
}

impl Observer for InPass<'_> {
    fn change(&mut self, change: &Change<'_>) {
        self.lineage.change(&Change { rule: RuleId(self.base + change.rule.0), ..*change });
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.lineage.judged(RuleId(self.base + rule.0), bytes);
    }
}
