//! Which rules act on which columns of a table, in which order.

mod names;
mod on_table;
mod target;

use std::collections::HashMap;
use std::sync::Arc;

use super::csv::Csv;
use super::error::{Broken, TableError};
use super::grid::{Extent, Grid};
use super::header::Header;
use super::json::{FoundFields, Json};
use super::layout::{ColumnRun, Layout};
use super::pass::{CellPass, Pass, Rows, RulesOfPass};
use super::records::RecordPass;
use crate::program::{CellRule, Program};
use crate::rules::{DropRecords, Field, RuleId, TableFormat, TableSettings};

/// How a table is read and written, and what is done to it.
#[derive(Debug)]
pub(super) struct Plan {
    pub(super) reader: TableReader,
    pub(super) layout: Layout,
    pub(super) passes: Vec<Pass>,
    /// The columns that are looked at though no rule may be for them, as requested.
    pub(super) also: Vec<usize>,
    /// Fields that were found only by looking past letter case: as named, and as the table has it.
    pub(super) near: Vec<(String, String)>,
    /// Fields that a rule puts its result in and that the table comes with.
    pub(super) replaced: Vec<String>,
    /// How CSV records are written, if not with the columns they came with.
    pub(super) runs: Option<Vec<ColumnRun>>,
    /// Columns of CSV that rules drop or rename, each with its rule.
    pub(super) header_changes: Vec<(RuleId, usize)>,
    /// Fields of JSON that have to be there.
    pub(super) required: Vec<usize>,
    /// A rule remembers records: blocks have to come in their order.
    pub(super) remembers: bool,
}

/// One way of reading and writing tables.
#[derive(Clone, Debug)]
pub(super) enum TableReader {
    Csv(Csv),
    Json(Json),
}

impl Plan {
    /// For a table with these columns; in JSON Lines they are those that rules name.
    /// `also`: fields that are looked at though no rule may be for them.
    pub(super) fn new(
        program: &Program,
        format: TableFormat,
        header: Header,
        also: &[Field],
    ) -> Result<Self, TableError> {
        let settings = program.table();
        let is_json = format.is_json();
        let mut planner = PassPlanner {
            program,
            layout: Layout::new(header.names),
            named: header.is_named,
            is_json,
            near: Vec::new(),
            passes: Vec::new(),
            open: Vec::new(),
            makes: Vec::new(),
            replaced: Vec::new(),
            header_changes: Vec::new(),
            required: Vec::new(),
            by_name: None,
            still_called: HashMap::new(),
            renames: Vec::new(),
        };
        if is_json {
            planner.name_all(settings, also);
        }
        // By its name in the table as it came, unless rules make it.
        let known: Vec<Option<usize>> = also.iter().map(|field| planner.column(field, None).ok()).collect();
        planner.rules(settings)?;
        let also = also.iter().zip(known).map(|(field, known)| known.map_or_else(|| planner.column(field, None), Ok));
        let also = also.collect::<Result<Vec<_>, _>>()?;
        also.iter().for_each(|column| planner.layout.look_at(*column));
        if settings.guards_formulas {
            planner.layout.seen.fill(true);
        }
        let keeps_ragged = settings.keeps_ragged();
        let reader = if is_json {
            let is_array = format == TableFormat::Json;
            TableReader::Json(Json { is_array, keeps_ragged, makes: planner.makes })
        } else {
            TableReader::Csv(Csv { delimiter: settings.delimiter(format), keeps_ragged })
        };
        let PassPlanner { mut layout, passes, near, replaced, header_changes, required, .. } = planner;
        let runs = if is_json { None } else { layout.runs() };
        let remembers = |pass: &Pass| matches!(pass, Pass::Records(RecordPass { what: DropRecords::Repeated(_), .. }));
        let remembers = passes.iter().any(remembers);
        Ok(Self { reader, layout, passes, also, near, replaced, runs, header_changes, required, remembers })
    }

    /// Reads records into a grid, as far as `extent` goes and they are whole. Gives where they end.
    ///
    /// # Errors
    /// What is wrong, and where the record starts.
    pub(super) fn read(
        &self,
        text: &[u8],
        extent: Extent,
        grid: &mut Grid,
        found: &mut FoundFields,
    ) -> Result<usize, (usize, Broken)> {
        grid.clear();
        match &self.reader {
            TableReader::Csv(csv) => csv.read(text, extent, &self.layout, grid),
            TableReader::Json(json) => json.read(text, extent, &self.layout, grid, found),
        }
    }

    /// Where to part a table, from a record on, into blocks of about `size` bytes that are most likely whole records.
    pub(super) fn likely_cuts(&self, text: &[u8], size: usize) -> Vec<usize> {
        match &self.reader {
            TableReader::Csv(_) => Csv::likely_cuts(text, size),
            TableReader::Json(json) => json.likely_cuts(text, size),
        }
    }
}

struct PassPlanner<'p> {
    program: &'p Program,
    layout: Layout,
    named: bool,
    is_json: bool,
    near: Vec<(String, String)>,
    passes: Vec<Pass>,
    /// Rules in a row of which none depends on another column, each with its columns.
    open: Vec<(usize, Vec<usize>)>,
    makes: Vec<(usize, usize)>,
    replaced: Vec<String>,
    header_changes: Vec<(RuleId, usize)>,
    required: Vec<usize>,
    /// The columns there are, by what rules call them now; made when it is wanted.
    by_name: Option<HashMap<Arc<str>, Vec<usize>>>,
    /// New names of fields that were to be left alone, each with the name it has still.
    still_called: HashMap<String, String>,
    /// Fields of JSON that rules so far have renamed, rule by rule: what they were called, and what they are called now.
    renames: Vec<Vec<(String, String)>>,
}

impl PassPlanner<'_> {
    fn rules(&mut self, settings: &TableSettings) -> Result<(), TableError> {
        let program = self.program;
        // A field that is requested has to be there, even if no rule is for it.
        let only = settings.only.as_ref().map(|only| self.columns(only, None)).transpose()?;
        for (index, rule) in program.cell_rules().iter().enumerate() {
            if let Some(on_table) = &rule.on_table {
                self.close();
                self.on_table(index, rule, on_table, settings, only.as_deref())?;
                continue;
            }
            let mut columns = self.columns_of(index, rule, settings)?;
            if let Some(only) = &only {
                let allowed = |column: &usize| only.contains(column) || *column >= self.layout.originals;
                columns.retain(allowed);
            }
            if columns.is_empty() {
                continue;
            }
            if rule.rows.is_empty() && rule.to_field.is_none() {
                self.open.push((index, columns));
                continue;
            }
            self.close();
            let rows = self.rows(index, rule)?;
            let to = rule.to_field.as_ref().map(|to| self.target(to, index, rule, &columns)).transpose()?;
            self.pass(&[index], &columns, rows, to);
        }
        self.close();
        Ok(())
    }

    fn rows(&mut self, index: usize, rule: &CellRule) -> Result<Vec<Rows>, TableError> {
        let rows = rule.rows.iter().map(|row| {
            let columns = self.columns_of_field(&row.field, Some(index))?;
            columns.iter().for_each(|column| self.layout.look_at(*column));
            Ok(Rows::new(columns, &row.search))
        });
        rows.collect()
    }

    /// How many rules the passes so far have.
    fn base(&self) -> usize {
        self.passes.last().map_or(0, |last| last.of().base + last.of().rules.len())
    }

    /// The columns of a rule: those it names, those of its set, or all there are.
    fn columns_of(
        &mut self,
        index: usize,
        rule: &CellRule,
        settings: &TableSettings,
    ) -> Result<Vec<usize>, TableError> {
        if let Some(fields) = &rule.fields {
            return self.columns(fields, Some(index));
        }
        if settings.only.is_none()
            && let Some(fields) = rule.of_set.as_ref().or(settings.fields.as_ref())
        {
            return self.columns(fields, None);
        }
        Ok((0..self.layout.names.len()).filter(|column| !self.layout.dropped[*column]).collect())
    }

    /// Makes passes of the rules in a row: columns with the same rules go through them together.
    fn close(&mut self) {
        let open = std::mem::take(&mut self.open);
        let mut groups: Vec<(Vec<usize>, Vec<usize>)> = Vec::new();
        for column in 0..self.layout.names.len() {
            let rules = open.iter().filter(|(_, columns)| columns.binary_search(&column).is_ok());
            let rules: Vec<usize> = rules.map(|(rule, _)| *rule).collect();
            if rules.is_empty() {
                continue;
            }
            match groups.iter_mut().find(|(known, _)| *known == rules) {
                Some((_, columns)) => columns.push(column),
                None => groups.push((rules, vec![column])),
            }
        }
        let program = self.program;
        for (rules, columns) in groups {
            // A rule that cannot be among those for stacked cells must not keep its neighbours from it.
            let stack = |rule: &usize| program.is_for_stacked_cells(*rule);
            for rules in rules.chunk_by(|one, next| stack(one) && stack(next)) {
                self.pass(rules, &columns, Vec::new(), None);
            }
        }
    }

    fn pass(&mut self, rules: &[usize], columns: &[usize], rows: Vec<Rows>, to: Option<Vec<usize>>) {
        columns.iter().for_each(|column| self.layout.look_at(*column));
        let program = self.program.pick(rules);
        let of = RulesOfPass { rules: rules.iter().map(|rule| RuleId(*rule)).collect(), base: self.base() };
        let mut is_for = vec![false; self.layout.names.len()];
        columns.iter().for_each(|column| is_for[*column] = true);
        self.passes.push(Pass::Cells(Box::new(CellPass::new(program, of, is_for, rows, to))));
    }
}
