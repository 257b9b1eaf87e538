//! What rules do to a block of records: rules in a row at work on the cells of some columns.
//!
//! Cells are short, and getting to work on a text takes longer than the work on one of them. So the cells of a block of
//! records are set one below the other and washed as the lines of one text, where every rule of the pass leaves line
//! ends alone. Cells that hold line ends themselves, and all cells of other rules, are texts of their own.

use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, OnceLock};

use crate::engine::RunError;
use crate::matching::{Finder, FinderScratch};
use crate::observe::{NoObserver, Observer};
use crate::operations::Seen;
use crate::pattern::SharedBudget;
use crate::program::{Program, ShortTextMemory};
use crate::rules::{RuleId, Search, Which};
use crate::text::LineEnd;

use super::change_log::ChangeLog;
use super::fields::FieldPass;
use super::grid::Grid;
use super::records::RecordPass;
use super::stacked::{first_line, holds_line_ends, line_feeds, same_lines, set_below};

/// Cells set one below the other whose result is longer than this, in lengths of the input and in bytes added, are washed
/// one by one.
const LONGER_TIMES: usize = 10;
const LONGER: usize = 64 << 10;

/// What is done to a block of records at once.
#[derive(Debug)]
pub(super) enum Pass {
    /// Rules in a row for cells.
    Cells(Box<CellPass>),
    /// A rule that drops records.
    Records(RecordPass),
    /// A rule that drops or renames fields.
    Fields(FieldPass),
}

/// Which rules a pass is of.
#[derive(Clone, Debug)]
pub(super) struct RulesOfPass {
    /// Which they are in the whole program.
    pub(super) rules: Vec<RuleId>,
    /// How many rules the passes before have.
    pub(super) base: usize,
}

/// Rules in a row that act on the same columns.
#[derive(Debug)]
pub(super) struct CellPass {
    /// For cells set one below the other, if all rules allow it.
    stacked: Option<Program>,
    /// For a cell without line ends by itself.
    single: Program,
    /// For a cell of several lines.
    several: Program,
    /// Each rule by itself, for a cell without line ends and for one of several lines.
    alone: OnceLock<Vec<[Program; 2]>>,
    pub(super) of: RulesOfPass,
    /// Of each rule, for all cells.
    budgets: Vec<Arc<SharedBudget>>,
    /// For each rule that washes cells alone: how much it has received, and what it has made of that, in bytes.
    lengths: Vec<[AtomicU64; 2]>,
    /// By column.
    is_for: Vec<bool>,
    rows: Vec<Rows>,
    /// The columns its result may go to: that which a record has.
    pub(super) to: Option<Vec<usize>>,
}

/// Which records a rule is for.
#[derive(Debug)]
pub(super) struct Rows {
    /// Those that may be the field; a record has one of them.
    columns: Vec<usize>,
    finder: Finder,
}

/// Cells that rules are at work on, by numbers of their own.
pub(super) trait CellStore {
    /// What a cell holds now.
    fn value(&self, cell: usize) -> &[u8];

    /// Whether it is certain without a look that it holds no line end.
    fn is_one_line(&self, cell: usize) -> bool;

    /// Gives the result for a cell the place it belongs to.
    fn put(&mut self, cell: usize, washed: &[u8], changes: &mut [u64]);
}

/// The cells of a grid, before this pass.
struct GridCells<'g> {
    pass: &'g CellPass,
    text: &'g [u8],
    grid: &'g mut Grid,
}

impl CellStore for GridCells<'_> {
    fn value(&self, cell: usize) -> &[u8] {
        self.grid.value(cell, self.text)
    }

    fn is_one_line(&self, cell: usize) -> bool {
        self.grid.is_plain(cell)
    }

    fn put(&mut self, cell: usize, washed: &[u8], changes: &mut [u64]) {
        self.pass.put(cell, self.text, self.grid, washed, changes, &mut None);
    }
}

/// What passes work in.
#[derive(Debug, Default)]
pub(super) struct PassScratch {
    chosen: Vec<usize>,
    stack: Vec<u8>,
    stacked: Vec<usize>,
    result: Vec<u8>,
    value: Vec<u8>,
    pub(super) finder: FinderScratch,
    /// What rules that drop repeated records have seen, each with the number of its rule.
    pub(super) seen: Vec<(RuleId, Seen)>,
}

/// A rule that cannot go on, at this cell of the grid.
pub(super) struct PassFailure {
    pub(super) cell: usize,
    pub(super) error: RunError,
}

impl Rows {
    pub(super) fn new(columns: Vec<usize>, search: &Search) -> Self {
        Self { columns, finder: Finder::new(search, Which::All, false) }
    }

    pub(super) fn hold(&self, record: usize, grid: &Grid, text: &[u8], scratch: &mut FinderScratch) -> bool {
        grid.cells_of(record).any(|cell| {
            let value = grid.value(cell, text);
            // An empty cell is an empty line, not a text without any.
            let value = if value.is_empty() { b"\n" } else { value };
            let is_here = grid.cells[cell].is_text() && self.columns.contains(&grid.cells[cell].column);
            is_here && !self.finder.find_all(value, scratch).spans().is_empty()
        })
    }
}

impl Pass {
    pub(super) fn of(&self) -> &RulesOfPass {
        match self {
            Self::Cells(pass) => &pass.of,
            Self::Records(pass) => &pass.of,
            Self::Fields(pass) => &pass.of,
        }
    }

    /// Begins with another table.
    pub(super) fn start_again(&self) {
        if let Self::Cells(pass) = self {
            pass.start_again();
        }
    }

    /// The rules for cells that change this cell, if it is for it.
    pub(super) fn rules_for(&self, cell: usize, text: &[u8], grid: &Grid, work: &mut PassScratch) -> Vec<usize> {
        if let Self::Cells(pass) = self { pass.rules_for(cell, text, grid, work) } else { Vec::new() }
    }

    /// Carries it out on a block and adds up the changes.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub(super) fn run(
        &self,
        text: &[u8],
        grid: &mut Grid,
        work: &mut PassScratch,
        changes: &mut [u64],
        told: &mut Option<ChangeLog>,
    ) -> Result<(), PassFailure> {
        match self {
            Self::Cells(pass) => pass.run(text, grid, work, changes, told),
            Self::Records(pass) => pass.run(text, grid, work, changes, told),
            Self::Fields(pass) => {
                pass.run(text, grid, changes, told);
                Ok(())
            }
        }
    }
}

impl CellPass {
    pub(super) fn new(
        program: Program,
        of: RulesOfPass,
        is_for: Vec<bool>,
        rows: Vec<Rows>,
        to: Option<Vec<usize>>,
    ) -> Self {
        let (stacked, several) = (program.for_stacked_cells(), program.clone().for_whole_cells());
        let budgets = of.rules.iter().map(|_| Arc::default()).collect();
        let lengths = of.rules.iter().map(|_| Default::default()).collect();
        Self { stacked, single: program, several, alone: OnceLock::new(), of, budgets, lengths, is_for, rows, to }
    }

    /// Begins with other cells: what was done to those before does not count any more.
    fn start_again(&self) {
        self.budgets.iter().for_each(|budget| budget.start_again());
        self.lengths.iter().flatten().for_each(|length| length.store(0, Ordering::Relaxed));
    }

    /// The cells this pass is for.
    ///
    /// # Errors
    /// A search for records takes too much work.
    fn choose(&self, text: &[u8], grid: &Grid, work: &mut PassScratch) -> Result<(), PassFailure> {
        work.chosen.clear();
        let is_here = |cell: &usize| {
            let cell = &grid.cells[*cell];
            self.is_for(cell.column) && cell.is_text()
        };
        if self.rows.is_empty() {
            work.chosen.extend((0..grid.cells.len()).filter(is_here));
            return Ok(());
        }
        for record in 0..grid.records.len() {
            let holds = self.rows.iter().all(|rows| rows.hold(record, grid, text, &mut work.finder));
            if work.finder.failed_at.is_some() {
                let cell = grid.cells_of(record).next().unwrap_or_default();
                let error = RunError::too_much_work(RuleId(0), self.single.names()[0].clone(), 1);
                return Err(PassFailure { cell, error });
            }
            if holds {
                work.chosen.extend(grid.cells_of(record).filter(is_here));
            }
        }
        Ok(())
    }

    fn rules_for(&self, cell: usize, text: &[u8], grid: &Grid, work: &mut PassScratch) -> Vec<usize> {
        let is_for_it = self.choose(text, grid, work).is_ok() && self.to.is_none() && work.chosen.contains(&cell);
        self.of.rules.iter().filter(|_| is_for_it).map(|rule| rule.0).collect()
    }

    fn run(
        &self,
        text: &[u8],
        grid: &mut Grid,
        work: &mut PassScratch,
        changes: &mut [u64],
        told: &mut Option<ChangeLog>,
    ) -> Result<(), PassFailure> {
        self.choose(text, grid, work)?;
        let chosen = std::mem::take(&mut work.chosen);
        let alone = match (&self.stacked, &told) {
            (Some(program), None) => {
                let mut cells = GridCells { pass: self, text, grid };
                self.stacked(program, &chosen, &mut cells, work, changes)?
            }
            _ => chosen.clone(),
        };
        for cell in alone {
            let value = grid.value(cell, text);
            if !value.is_empty() && self.program_for(value).surely_leaves(value) {
                if self.to.is_some() {
                    work.value.clear();
                    work.value.extend_from_slice(value);
                    self.put(cell, text, grid, &work.value, changes, told);
                }
                continue;
            }
            let value = value.to_vec();
            let washed = match told {
                Some(told) if self.to.is_none() => told.wash(self, cell, &value, changes),
                _ => self.wash(value, changes),
            };
            let washed = washed.map_err(|error| PassFailure { cell, error })?;
            self.put(cell, text, grid, &washed, changes, told);
        }
        work.chosen = chosen;
        Ok(())
    }

    /// Washes cells one below the other; gives those that have to be washed alone.
    fn stacked(
        &self,
        program: &Program,
        chosen: &[usize],
        cells: &mut impl CellStore,
        work: &mut PassScratch,
        changes: &mut [u64],
    ) -> Result<Vec<usize>, PassFailure> {
        let PassScratch { stack, stacked, result, .. } = work;
        result.clear();
        set_below(chosen.iter().map(|cell| cells.value(*cell)), stack);
        stacked.clear();
        stacked.extend_from_slice(chosen);
        let mut alone = Vec::new();
        // Cells hardly ever hold line ends: one look at all of them, and at each only if there is any.
        let mut lines = line_feeds(stack);
        if lines != chosen.len() || memchr::memchr(b'\r', stack).is_some() {
            let of_several = |cell: &&usize| !cells.is_one_line(**cell) && holds_line_ends(cells.value(**cell));
            (alone, *stacked) = chosen.iter().partition(of_several);
            set_below(stacked.iter().map(|cell| cells.value(*cell)), stack);
            lines = line_feeds(stack);
        }
        // A cell is within a file: what begins it is no byte order mark.
        let mut washer = program.washer(NoObserver).sharing(&self.budgets).within(None);
        let washed = washer.push(stack, result).and_then(|()| washer.finish(result));
        washed.map_err(|error| {
            let line = error.line().and_then(|line| usize::try_from(line).ok()).unwrap_or(1);
            let cell = stacked.get(line.saturating_sub(1)).copied().unwrap_or_default();
            PassFailure { cell, error: error.at_line(1) }
        })?;
        // A rule may put in a line end that was written in another way in the cell: no one knows then which line is which
        // cell's.
        // And where cells become many times as long, it is to be seen by which rule.
        if result != stack
            && (line_feeds(result) != lines || result.len() > LONGER + stack.len().saturating_mul(LONGER_TIMES))
        {
            return Ok(chosen.to_vec());
        }
        if self.to.is_none() {
            self.of.rules.iter().zip(washer.changes()).for_each(|(rule, made)| changes[rule.0] += made);
        }
        if self.to.is_none() && result == stack {
            return Ok(alone);
        }
        let (mut before, mut after) = (&stack[..], &result[..]);
        let mut left = stacked.iter();
        loop {
            if self.to.is_none() {
                let (same, lines) = same_lines(before, after);
                (before, after) = (&before[same..], &after[same..]);
                left = stacked[stacked.len() - left.len() + lines..].iter();
            }
            let Some(cell) = left.next() else { break };
            let (old, new) = (first_line(before), first_line(after));
            if self.to.is_some() || old != new {
                cells.put(*cell, new, changes);
            }
            (before, after) = (&before[old.len() + 1..], after.get(new.len() + 1..).unwrap_or_default());
        }
        Ok(alone)
    }

    /// Washes cells that are in no grid, each by itself in the end.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub(super) fn run_on(
        &self,
        cells: &mut impl CellStore,
        chosen: &[usize],
        work: &mut PassScratch,
        changes: &mut [u64],
    ) -> Result<(), PassFailure> {
        let alone = match &self.stacked {
            Some(program) => self.stacked(program, chosen, cells, work, changes)?,
            None => chosen.to_vec(),
        };
        for cell in alone {
            let value = cells.value(cell);
            if value.is_empty() || !self.program_for(value).surely_leaves(value) {
                let before = value.to_vec();
                let washed = self.wash(before.clone(), changes).map_err(|error| PassFailure { cell, error })?;
                if washed != before {
                    cells.put(cell, &washed, changes);
                }
            }
        }
        Ok(())
    }

    /// Whether it acts on each cell of these columns whatever is in others, and leaves the result there.
    pub(super) fn is_by_column(&self) -> bool {
        self.rows.is_empty() && self.to.is_none()
    }

    pub(super) fn is_for(&self, column: usize) -> bool {
        self.is_for.get(column).copied().unwrap_or(false)
    }

    fn program_for(&self, value: &[u8]) -> &Program {
        if holds_line_ends(value) { &self.several } else { &self.single }
    }

    /// Washes one cell, as a text of its own, rule by rule: what a rule leaves empty is an empty line to the next, as it
    /// is among stacked cells.
    fn wash(&self, value: Vec<u8>, changes: &mut [u64]) -> Result<Vec<u8>, RunError> {
        (0..self.of.rules.len()).try_fold(value, |value, rule| {
            let program = self.alone(rule, &value);
            if value.is_empty() || !program.takes_as_short(&value) {
                return self.wash_by(rule, &value, NoObserver, changes);
            }
            let budget = std::slice::from_ref(&self.budgets[rule]);
            let mut memory = program.memory_for_short_text(|| ShortTextMemory::sharing(budget));
            if !program.wash_short(&value, LineEnd::first_in(&value), &mut memory)? {
                return Ok(value);
            }
            self.refuse_growth(rule, program, value.len(), memory.washed.len())?;
            if self.to.is_none() {
                changes[self.of.rules[rule].0] += memory.changes.iter().sum::<u64>();
            }
            Ok(memory.washed.clone())
        })
    }

    /// One rule of the pass, for a cell that holds this.
    fn alone(&self, rule: usize, value: &[u8]) -> &Program {
        let alone = self.alone.get_or_init(|| {
            let one = |rule: usize| self.single.pick(&[rule]);
            (0..self.of.rules.len()).map(|rule| [one(rule), one(rule).for_whole_cells()]).collect()
        });
        &alone[rule][usize::from(holds_line_ends(value))]
    }

    /// Washes one cell by one rule of the pass.
    pub(super) fn wash_by(
        &self,
        rule: usize,
        value: &[u8],
        observer: impl Observer,
        changes: &mut [u64],
    ) -> Result<Vec<u8>, RunError> {
        let program = self.alone(rule, value);
        // An empty cell is an empty line, not a text without any.
        let is_empty = value.is_empty();
        let budget = std::slice::from_ref(&self.budgets[rule]);
        let mut washer = program.washer(observer).sharing(budget).within(LineEnd::first_in(value));
        let mut washed = Vec::with_capacity(value.len());
        washer.push(if is_empty { b"\n" } else { value }, &mut washed)?;
        washer.finish(&mut washed)?;
        self.refuse_growth(rule, program, value.len(), washed.len())?;
        // A line end that was taken was none of the cell's.
        let took_line_end = is_empty && washed.is_empty();
        if is_empty && washed.last() == Some(&b'\n') {
            washed.pop();
        }
        if self.to.is_none() && !took_line_end {
            changes[self.of.rules[rule].0] += washer.changes().iter().sum::<u64>();
        }
        Ok(washed)
    }

    /// Each cell by itself may become as long as a text may; all of them together may not.
    fn refuse_growth(&self, rule: usize, program: &Program, before: usize, after: usize) -> Result<(), RunError> {
        let add = |length: &AtomicU64, more: usize| length.fetch_add(more as u64, Ordering::Relaxed) + more as u64;
        let [came, made] = &self.lengths[rule];
        let most = program.longest_result(add(came, before));
        if add(made, after) <= most {
            return Ok(());
        }
        Err(RunError::too_long(RuleId(0), program.names()[0].clone(), most))
    }

    /// Puts the result for a cell where it belongs.
    fn put(
        &self,
        cell: usize,
        text: &[u8],
        grid: &mut Grid,
        washed: &[u8],
        changes: &mut [u64],
        told: &mut Option<ChangeLog>,
    ) {
        let Some(to) = &self.to else {
            if grid.value(cell, text) != washed {
                grid.set(cell, washed);
            }
            return;
        };
        let record = grid.record_of(cell);
        let is_target = |target: &usize| to.contains(&grid.cells[*target].column) && grid.cells[*target].is_value();
        let Some(target) = grid.cells_of(record).find(is_target) else { return };
        if grid.value(target, text) != washed {
            if let Some(told) = told {
                let source = Some((cell, grid.value(cell, text)));
                told.put(&self.of, source, target, grid.value(target, text), washed);
            }
            grid.set(target, washed);
            changes[self.of.rules[0].0] += 1;
        }
    }
}
