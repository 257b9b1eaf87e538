//! Rules at work on the cells of one column.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use super::super::error::TableError;
use super::super::header::Header;
use super::super::pass::{CellPass, CellStore, Pass, PassFailure, PassScratch};
use super::super::plan::Plan;
use super::cells::{Cells, WashedCells};
use crate::program::Program;
use crate::rules::TableFormat;
use crate::text::matches::Span;

/// How much of a column is worked on at once: this many bytes of cells,
const BLOCK: usize = 128 << 10;

/// and this many cells.
const MOST_CELLS: usize = 16 << 10;

/// Bytes that are reserved for a result on the strength of its first cells.
const MOST_RESERVED: usize = 64 << 20;

/// Washes the cells of a column, each as a text of its own. The result for a cell is the same as in a table.
///
/// Several threads can work on parts of one column at the same time.
///
/// ```
/// use washout_core::table::Cells;
/// use washout_core::{Program, RuleSet};
///
/// let program = Program::compile([&RuleSet::read_one_rule("rule", "trim = {}")?]);
/// let washer = program.column_washer()?;
/// let cells = [Some(&b" oil "[..]), None, Some(b"wicks")];
/// let washed = washer.wash(&cells[..], 0..3)?;
/// let after = washed.cells.expect("one has changed");
/// assert_eq!((after.cell(0), after.cell(1), after.cell(2)), (Some(&b"oil"[..]), None, Some(&b"wicks"[..])));
/// assert_eq!(washed.changes, [2]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct ColumnWasher<'p> {
    program: Cow<'p, Program>,
    plan: Plan,
}

/// What has become of cells.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct WashedColumn {
    /// The cells as they are now; `None`: not one has changed.
    pub cells: Option<WashedCells>,
    /// How many changes each rule has made, in the order of [`Program::names`].
    pub changes: Vec<u64>,
}

impl Program {
    /// Gets ready to wash a column that is in memory.
    ///
    /// # Errors
    /// A rule that acts on lines or paragraphs, as in tables; one that is for fields or records of a table.
    pub fn column_washer(&self) -> Result<ColumnWasher<'_>, TableError> {
        self.refuse_line_rules()?;
        if let Some(rule) = self.cell_rules().iter().position(|rule| rule.is_about_tables) {
            return Err(TableError::no_column(self.names()[rule].clone()));
        }
        let header = Header { names: vec![Arc::from("1")], ..Header::default() };
        Ok(ColumnWasher { program: Cow::Borrowed(self), plan: Plan::new(self, TableFormat::Csv, header, &[])? })
    }
}

impl ColumnWasher<'_> {
    /// The same with a program of its own, to be kept: to make a washer takes as long as a hundred cells and more.
    pub fn into_owned(self) -> ColumnWasher<'static> {
        ColumnWasher { program: Cow::Owned(self.program.into_owned()), plan: self.plan }
    }

    /// Begins with another column: the work that searches may take is granted anew.
    pub fn start_again(&self) {
        self.plan.passes.iter().for_each(Pass::start_again);
    }

    /// Washes these cells of a column, from 0.
    ///
    /// # Errors
    /// A rule that cannot go on: the number of the cell, from 1, is that of the record.
    pub fn wash(&self, cells: &(impl Cells + ?Sized), which: Range<usize>) -> Result<WashedColumn, TableError> {
        let passes: Vec<&CellPass> = passes_for(&self.plan, 0).collect();
        let mut changes = vec![0; self.program.names().len()];
        let washed = wash_column(&passes, cells, which, &mut changes);
        let cells = washed.map_err(|PassFailure { cell, error }| TableError::rule(cell as u64 + 1, None, error))?;
        Ok(WashedColumn { cells, changes })
    }
}

/// The passes that act on the cells of this column.
pub(super) fn passes_for(plan: &Plan, column: usize) -> impl Iterator<Item = &CellPass> {
    plan.passes.iter().filter_map(move |pass| match pass {
        Pass::Cells(pass) if pass.is_for(column) => Some(&**pass),
        _ => None,
    })
}

/// Washes cells of a column. `None`: not one has changed. In errors, cells are those of the whole column, from 0.
pub(super) fn wash_column(
    passes: &[&CellPass],
    cells: &(impl Cells + ?Sized),
    which: Range<usize>,
    changes: &mut [u64],
) -> Result<Option<WashedCells>, PassFailure> {
    if passes.is_empty() {
        return Ok(None);
    }
    let mut work = PassScratch::default();
    let mut washed: Option<WashedCells> = None;
    let mut block = Block { cells, first: which.start, now: Vec::new(), arena: Vec::new(), changed: false };
    let mut chosen = Vec::new();
    let mut start = which.start;
    while start < which.end {
        let (mut end, mut bytes) = (start, 0);
        chosen.clear();
        while end < which.end && end - start < MOST_CELLS && bytes < BLOCK {
            if let Some(cell) = cells.cell(end) {
                chosen.push(end - start);
                bytes += cell.len() + 1;
            }
            end += 1;
        }
        block.start(start, end - start);
        for pass in passes {
            let run = pass.run_on(&mut block, &chosen, &mut work, changes);
            run.map_err(|failure| PassFailure { cell: start + failure.cell, ..failure })?;
        }
        if block.changed && washed.is_none() {
            // As many bytes as there are if the other cells are as long.
            let likely = bytes.saturating_mul(which.len()) / (end - start);
            let mut before = WashedCells::with_capacity(which.len(), likely.min(MOST_RESERVED));
            (which.start..start).for_each(|cell| before.push(cells.cell(cell)));
            washed = Some(before);
        }
        if let Some(washed) = &mut washed {
            (0..end - start).for_each(|cell| washed.push(block.now(cell)));
        }
        start = end;
    }
    Ok(washed)
}

/// Some cells of a column on their way.
struct Block<'c, C: Cells + ?Sized> {
    cells: &'c C,
    /// Which cell of the column is the first.
    first: usize,
    /// Where each of them is in the arena that is another now.
    now: Vec<Option<Span>>,
    arena: Vec<u8>,
    /// One is another than before.
    changed: bool,
}

impl<C: Cells + ?Sized> Block<'_, C> {
    fn start(&mut self, first: usize, count: usize) {
        self.first = first;
        self.now.clear();
        self.now.resize(count, None);
        self.arena.clear();
        self.changed = false;
    }

    fn now(&self, cell: usize) -> Option<&[u8]> {
        match self.now[cell] {
            Some(place) => Some(place.of(&self.arena)),
            None => self.cells.cell(self.first + cell),
        }
    }
}

impl<C: Cells + ?Sized> CellStore for Block<'_, C> {
    fn value(&self, cell: usize) -> &[u8] {
        self.now(cell).unwrap_or_default()
    }

    fn is_one_line(&self, _: usize) -> bool {
        false
    }

    fn put(&mut self, cell: usize, washed: &[u8], _: &mut [u64]) {
        let start = self.arena.len();
        self.arena.extend_from_slice(washed);
        self.now[cell] = Some(Span::new(start, self.arena.len()));
        self.changed = true;
    }
}
