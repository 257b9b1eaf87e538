//! Rules at work on the records of a table whose columns are in memory.

use std::borrow::Cow;
use std::sync::Arc;

use super::super::error::TableError;
use super::super::grid::{CellKind, CellValue, Grid, GridCell};
use super::super::header::Header;
use super::super::pass::{CellPass, Pass, PassFailure, PassScratch};
use super::super::plan::Plan;
use super::cells::{Cells, WashedCells};
use super::column_washer::{passes_for, wash_column};
use crate::program::Program;
use crate::rules::{RuleId, TableFormat};
use crate::text::matches::Span;

/// How many records are worked on at once.
const RECORDS: usize = 4096;

/// Washes the records of a table whose columns are in memory: rules may name fields, judge records by other columns, put
/// results in new ones, drop records, and drop and rename fields.
///
/// ```
/// use washout_core::table::{Cells, Column};
/// use washout_core::{Program, RuleSet};
///
/// let rules = "[[rule]]\nfields = 'item'\nrows = { field = 'kind', text = 'oil' }\nremove.text = ' (ordered)'\n";
/// let program = Program::compile([&RuleSet::read("stores", rules)?]);
/// let mut washer = program.record_washer(["item", "kind"])?;
/// let items: &[Option<&[u8]>] = &[Some(b"colza (ordered)"), Some(b"cotton (ordered)")];
/// let kinds: &[Option<&[u8]>] = &[Some(b"oil"), Some(b"wicks")];
/// let columns = [Some(Column::of_texts(&items)), Some(Column::of_texts(&kinds))];
/// let washed = washer.wash(&columns, 2)?;
/// let items = washed.columns[0].as_ref().expect("one has changed");
/// assert_eq!((items.cell(0), items.cell(1)), (Some(&b"colza"[..]), Some(&b"cotton (ordered)"[..])));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct RecordWasher<'p> {
    program: Cow<'p, Program>,
    plan: Plan,
    fields: Vec<OutField>,
    /// Of those that are seen: which of the cells of each record.
    places: Vec<Option<usize>>,
    /// No rule for cells looks at two columns, and no record goes.
    by_column: bool,
    work: Box<(Grid, PassScratch)>,
    changes: Vec<u64>,
    records: u64,
}

/// A column as it is given to [`RecordWasher::wash`].
#[derive(Clone, Copy)]
pub struct Column<'c> {
    cells: &'c dyn Cells,
    is_text: bool,
}

/// A field of the table that comes out.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct OutField {
    /// What it is called.
    pub name: Arc<str>,
    /// Which column it was, from 0; `None`: a rule makes it.
    pub source: Option<usize>,
}

/// What has become of records.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct WashedRecords {
    /// For each of [`RecordWasher::fields`], the cells of the records that stay. `None`: the column is as it came, except
    /// for the records that go.
    pub columns: Vec<Option<WashedCells>>,
    /// Which records stay, from 0; `None`: all of them.
    pub kept: Option<Vec<usize>>,
}

impl<'c> Column<'c> {
    /// A column of texts, which rules may change.
    pub fn of_texts(cells: &'c dyn Cells) -> Self {
        Self { cells, is_text: true }
    }

    /// A column of other values, in words. Rules leave it alone, but compare records by it.
    pub fn of_values(cells: &'c dyn Cells) -> Self {
        Self { cells, is_text: false }
    }
}

impl Program {
    /// Gets ready to wash a table that is in memory and has these fields.
    ///
    /// # Errors
    /// A rule that acts on lines or paragraphs; a field that is not there, or that two columns have.
    pub fn record_washer<'n>(&self, fields: impl IntoIterator<Item = &'n str>) -> Result<RecordWasher<'_>, TableError> {
        self.refuse_line_rules()?;
        let header = Header { names: fields.into_iter().map(Arc::from).collect(), is_named: true, ..Header::default() };
        let plan = Plan::new(self, TableFormat::Csv, header, &[])?;
        let by_column = plan.passes.iter().all(|pass| match pass {
            Pass::Cells(pass) => pass.is_by_column(),
            Pass::Records(_) => false,
            Pass::Fields(_) => true,
        });
        let layout = &plan.layout;
        let field = |column: &usize| OutField {
            name: Arc::clone(layout.called(*column)),
            source: (*column < layout.originals).then_some(*column),
        };
        let fields = layout.order.iter().map(field).collect();
        let mut cells: Vec<usize> = Vec::new();
        for column in (0..layout.originals).filter(|column| layout.seen[*column]) {
            cells.push(column);
            cells.extend(&layout.made[column]);
        }
        let place_of = |column: &usize| cells.iter().position(|other| other == column);
        let records = usize::from(layout.has_record_cells);
        let places = layout.order.iter().map(|column| Some(place_of(column)? + records)).collect();
        let changes = changes_of_header(self, &plan);
        Ok(RecordWasher {
            program: Cow::Borrowed(self),
            plan,
            fields,
            places,
            by_column,
            work: Box::default(),
            changes,
            records: 0,
        })
    }
}

/// The changes of each rule before any record has come.
fn changes_of_header(program: &Program, plan: &Plan) -> Vec<u64> {
    let mut changes = vec![0; program.names().len()];
    plan.header_changes.iter().for_each(|(rule, _)| changes[rule.0] += 1);
    changes
}

impl RecordWasher<'_> {
    /// The same with a program of its own, to be kept: to make a washer takes as long as hundreds of records.
    pub fn into_owned(self) -> RecordWasher<'static> {
        let Self { program, plan, fields, places, by_column, work, changes, records } = self;
        let program = Cow::Owned(program.into_owned());
        RecordWasher { program, plan, fields, places, by_column, work, changes, records }
    }

    /// Begins with another table that has the same fields: counts start again, no record has come before, and the work
    /// that searches may take is granted anew.
    pub fn start_again(&mut self) {
        self.plan.passes.iter().for_each(Pass::start_again);
        self.changes = changes_of_header(&self.program, &self.plan);
        self.records = 0;
        *self.work = Default::default();
    }

    /// The fields of the table that comes out, in order.
    pub fn fields(&self) -> &[OutField] {
        &self.fields
    }

    /// Whether any rule looks at this column, from 0. One that none looks at need not be given.
    pub fn sees(&self, column: usize) -> bool {
        self.plan.layout.seen.get(column).copied().unwrap_or(false)
    }

    /// The rule that names this column (from 0) as one to clean or to put its result in, which it has to be a text for.
    pub fn named_by(&self, column: usize) -> Option<RuleId> {
        let rules = self.program.cell_rules();
        let names = |pass: &CellPass| {
            let rule =
                pass.of.rules.iter().find(|rule| rules[rule.0].fields.is_some() || rules[rule.0].of_set.is_some());
            let is_target = pass.to.as_ref().is_some_and(|to| to.contains(&column));
            if is_target { pass.of.rules.first().copied() } else { rule.filter(|_| pass.is_for(column)).copied() }
        };
        self.plan.passes.iter().find_map(|pass| if let Pass::Cells(pass) = pass { names(pass) } else { None })
    }

    /// Fields that were found only by looking past letter case and blanks: as named, and as the table has them.
    pub fn near_fields(&self) -> &[(String, String)] {
        &self.plan.near
    }

    /// Whether a rule compares each record with those before it, so that all records have to come to this one washer.
    pub fn remembers(&self) -> bool {
        self.plan.remembers
    }

    /// How many changes each rule has made so far, in the order of [`Program::names`].
    pub fn changes(&self) -> &[u64] {
        &self.changes
    }

    /// Washes the next records. `columns`: those that [are seen](Self::sees), at their places.
    ///
    /// # Errors
    /// A rule that cannot go on.
    ///
    /// # Panics
    /// If a column that is seen is not given or has not that many cells.
    pub fn wash(&mut self, columns: &[Option<Column<'_>>], records: usize) -> Result<WashedRecords, TableError> {
        let washed = if self.by_column { self.by_column(columns, records) } else { self.by_record(columns, records) };
        self.records += records as u64;
        washed
    }

    fn by_column(&mut self, columns: &[Option<Column<'_>>], records: usize) -> Result<WashedRecords, TableError> {
        // Those that are dropped later are washed too: it is counted.
        let mut washed = vec![None; self.plan.layout.originals];
        for (column, given) in columns.iter().enumerate() {
            let Some(Column { cells, is_text: true }) = given else { continue };
            let passes: Vec<&CellPass> = passes_for(&self.plan, column).collect();
            let cells = wash_column(&passes, *cells, 0..records, &mut self.changes);
            washed[column] = cells.map_err(|PassFailure { cell, error }| {
                let record = self.records + cell as u64 + 1;
                TableError::rule(record, Some(&self.plan.layout.names[column]), error)
            })?;
        }
        let columns = self.fields.iter().map(|field| field.source.and_then(|column| washed[column].take())).collect();
        Ok(WashedRecords { columns, kept: None })
    }

    fn by_record(&mut self, columns: &[Option<Column<'_>>], records: usize) -> Result<WashedRecords, TableError> {
        let (mut grid, mut work) = std::mem::take(&mut *self.work);
        let mut made: Vec<WashedCells> = self.fields.iter().map(|_| WashedCells::with_capacity(records, 0)).collect();
        let mut changed = vec![false; self.fields.len()];
        let mut kept = Vec::with_capacity(records);
        let mut text = Vec::new();
        for start in (0..records).step_by(RECORDS) {
            let count = RECORDS.min(records - start);
            self.fill(&mut grid, &mut text, columns, start..start + count);
            for pass in &self.plan.passes {
                let done = pass.run(&text, &mut grid, &mut work, &mut self.changes, &mut None);
                done.map_err(|PassFailure { cell, error }| {
                    let record = self.records + (start + grid.record_of(cell)) as u64 + 1;
                    let field = self.plan.layout.names.get(grid.cells[cell].column);
                    TableError::rule(record, field.map(AsRef::as_ref), error)
                })?;
            }
            for record in 0..count {
                if !grid.is_dropped(record) {
                    kept.push(start + record);
                    self.take(&grid, &text, record, &mut made, &mut changed);
                }
            }
        }
        *self.work = (grid, work);
        let columns = made.into_iter().zip(&self.fields).zip(changed);
        let columns = columns.map(|((cells, field), changed)| (changed || field.source.is_none()).then_some(cells));
        Ok(WashedRecords { columns: columns.collect(), kept: (kept.len() < records).then_some(kept) })
    }

    /// Sets the cells of these records that rules look at in a grid.
    fn fill(
        &self,
        grid: &mut Grid,
        text: &mut Vec<u8>,
        columns: &[Option<Column<'_>>],
        records: std::ops::Range<usize>,
    ) {
        let layout = &self.plan.layout;
        grid.clear();
        text.clear();
        for record in records {
            grid.open_record(Span::new(text.len(), text.len()));
            if layout.has_record_cells {
                grid.add_record(Span::new(text.len(), text.len()), Span::new(text.len(), text.len()));
            }
            for (column, given) in columns.iter().enumerate().filter(|(column, _)| layout.seen[*column]) {
                let Column { cells, is_text } = given.expect("each column that is seen is given");
                let cell = cells.cell(record);
                let start = text.len();
                // What is missing is compared as JSON's null is.
                text.extend_from_slice(cell.unwrap_or(b"null"));
                let value = CellValue::Text(Span::new(start, text.len()));
                let kind = if is_text && cell.is_some() { CellKind::Text } else { CellKind::Other };
                let place = Span::new(start, start);
                grid.cells.push(GridCell::new(column, place, value, kind));
                // What comes from a missing cell is missing.
                let kind = if cell.is_some() { CellKind::New } else { CellKind::Other };
                let made = layout.made[column].iter();
                grid.cells.extend(made.map(|made| GridCell::new(*made, place, CellValue::EMPTY, kind)));
            }
        }
    }

    /// Takes over the cells of a record that stays.
    fn take(&self, grid: &Grid, text: &[u8], record: usize, made: &mut [WashedCells], changed: &mut [bool]) {
        let first = grid.cells_of(record).start;
        for (place, cell) in self.places.iter().enumerate() {
            let Some(cell) = cell.map(|cell| &grid.cells[first + cell]) else { continue };
            let is_other = cell.value != cell.original;
            let is_missing = cell.kind == CellKind::Other && !is_other;
            changed[place] |= is_other && grid.bytes(cell.value, text) != grid.bytes(cell.original, text);
            made[place].push((!is_missing).then(|| grid.bytes(cell.value, text)));
        }
    }
}
