//! Which rules act on which columns of a table, in which order.

use super::csv::Csv;
use super::error::{Broken, TableError};
use super::grid::{Extent, Grid};
use super::header::Header;
use super::json_lines::{Found, JsonLines};
use super::layout::Layout;
use super::pass::{Pass, Rows};
use super::settings::{TableFormat, TableSettings};
use crate::model::Field;
use crate::program::{CellRule, Program, RuleId};

/// How a table is read and written, and what is done to it.
#[derive(Debug)]
pub(super) struct Plan {
    pub(super) reader: Reader,
    pub(super) layout: Layout,
    pub(super) passes: Vec<Pass>,
    /// The columns that are looked at though no rule may be for them, as asked for.
    pub(super) also: Vec<usize>,
    /// Fields that were found only by looking past letter case: as named, and as the table has it.
    pub(super) near: Vec<(String, String)>,
    /// Fields that a rule puts its result in and that the table comes with.
    pub(super) replaced: Vec<String>,
}

/// One way of reading and writing tables.
#[derive(Clone, Debug)]
pub(super) enum Reader {
    Csv(Csv),
    JsonLines(JsonLines),
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
        let is_json = format == TableFormat::JsonLines;
        let mut planner = Planner {
            program,
            layout: Layout::new(header.names),
            named: header.is_named,
            is_json,
            near: Vec::new(),
            passes: Vec::new(),
            open: Vec::new(),
            makes: Vec::new(),
            replaced: Vec::new(),
        };
        if is_json {
            planner.name_all(settings, also);
        }
        planner.rules(settings)?;
        let also = also.iter().map(|field| planner.column(field, None)).collect::<Result<Vec<_>, _>>()?;
        also.iter().for_each(|column| planner.layout.look_at(*column));
        if settings.guards_formulas {
            planner.layout.seen.fill(true);
        }
        let keeps_ragged = settings.keeps_ragged();
        let reader = if is_json {
            Reader::JsonLines(JsonLines { keeps_ragged, makes: planner.makes })
        } else {
            Reader::Csv(Csv { delimiter: settings.delimiter(format), keeps_ragged })
        };
        let Planner { layout, passes, near, replaced, .. } = planner;
        Ok(Self { reader, layout, passes, also, near, replaced })
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
        found: &mut Found,
    ) -> Result<usize, (usize, Broken)> {
        grid.clear();
        match &self.reader {
            Reader::Csv(csv) => csv.read(text, extent, &self.layout, grid),
            Reader::JsonLines(json) => json.read(text, extent, &self.layout, grid, found),
        }
    }

    /// Where to part a table, from a record on, into blocks of about `size` bytes that are most likely whole records.
    pub(super) fn likely_cuts(&self, text: &[u8], size: usize) -> Vec<usize> {
        match &self.reader {
            Reader::Csv(_) => Csv::likely_cuts(text, size),
            Reader::JsonLines(_) => JsonLines::likely_cuts(text, size),
        }
    }
}

struct Planner<'p> {
    program: &'p Program,
    layout: Layout,
    named: bool,
    is_json: bool,
    near: Vec<(String, String)>,
    passes: Vec<Pass>,
    /// Rules in a row of which none hangs on another column, each with its columns.
    open: Vec<(usize, Vec<usize>)>,
    makes: Vec<(usize, usize)>,
    replaced: Vec<String>,
}

impl Planner<'_> {
    /// In JSON Lines there is no header: what is named may be there.
    fn name_all(&mut self, settings: &TableSettings, also: &[Field]) {
        let program = self.program;
        let of_rules = program.cell_rules().iter().flat_map(|rule| {
            let rows = rule.rows.iter().map(|row| &row.field);
            rule.fields.iter().flatten().chain(rows).chain(&rule.to_field)
        });
        let of_settings = settings.only.iter().chain(&settings.fields).flatten();
        for field in of_rules.chain(of_settings).chain(also) {
            if let Field::Name(name) = field
                && !self.layout.names.iter().any(|known| **known == **name)
            {
                self.layout.names.push(name.as_str().into());
            }
        }
        let names = std::mem::take(&mut self.layout.names);
        self.layout = Layout::new(names);
    }

    fn rules(&mut self, settings: &TableSettings) -> Result<(), TableError> {
        let program = self.program;
        // A field that is asked for has to be there, even if no rule is for it.
        let only = settings.only.as_ref().map(|only| self.columns(only, None)).transpose()?;
        for (index, rule) in program.cell_rules().iter().enumerate() {
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
            let rows = rule.rows.iter().map(|row| {
                let column = self.column(&row.field, Some(index))?;
                self.layout.look_at(column);
                Ok(Rows::new(column, &row.search))
            });
            let rows = rows.collect::<Result<Vec<_>, TableError>>()?;
            let to = rule.to_field.as_ref().map(|to| self.target(to, index, &columns)).transpose()?;
            self.pass(&[index], &columns, rows, to);
        }
        self.close();
        Ok(())
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
        Ok((0..self.layout.names.len()).collect())
    }

    fn columns(&mut self, fields: &[Field], by: Option<usize>) -> Result<Vec<usize>, TableError> {
        let mut columns = fields.iter().map(|field| self.column(field, by)).collect::<Result<Vec<_>, _>>()?;
        columns.sort_unstable();
        columns.dedup();
        Ok(columns)
    }

    fn column(&mut self, field: &Field, by: Option<usize>) -> Result<usize, TableError> {
        let places = self.layout.originals;
        let place = |place: usize| (1..=places).contains(&place).then(|| place - 1);
        match field {
            Field::Place(number) if self.is_json => Err(self.missing(&number.to_string(), by)),
            Field::Place(number) => place(*number).ok_or_else(|| self.missing(&number.to_string(), by)),
            Field::Name(name) => match self.by_name(name)? {
                Some(column) => Ok(column),
                // Where no field has a name, digits can only be a place.
                None if self.is_json => Err(self.missing(name, by)),
                None => name.parse().ok().and_then(place).ok_or_else(|| self.missing(name, by)),
            },
        }
    }

    #[cold]
    fn missing(&self, named: &str, by: Option<usize>) -> TableError {
        let rule = by.map(|by| self.program.names()[by].clone());
        let names = if self.is_json { &self.layout.names[1..] } else { &self.layout.names[..] };
        TableError::no_field(named.to_owned(), rule, names.iter().map(ToString::to_string).collect())
    }

    fn by_name(&mut self, name: &str) -> Result<Option<usize>, TableError> {
        let named = if self.named { 0 } else { self.layout.originals };
        let found = |same: &dyn Fn(&str) -> bool| -> Vec<usize> {
            (named..self.layout.names.len()).filter(|column| same(&self.layout.names[*column])).collect()
        };
        let mut columns = found(&|field| field == name);
        if columns.is_empty() && !self.is_json {
            columns = found(&|field| field.trim().to_lowercase() == name.trim().to_lowercase());
            if let [column] = columns[..] {
                let near = (name.to_owned(), self.layout.names[column].to_string());
                if !self.near.contains(&near) {
                    self.near.push(near);
                }
            }
        }
        match columns[..] {
            [] => Ok(None),
            [column] => Ok(Some(column)),
            _ => {
                let places = columns.iter().map(|column| column + 1).collect();
                Err(TableError::several_fields(name.to_owned(), places))
            }
        }
    }

    /// Where the result of a rule goes.
    fn target(&mut self, to: &Field, by: usize, columns: &[usize]) -> Result<usize, TableError> {
        let [source] = columns else {
            return Err(TableError::not_one_source(self.program.names()[by].clone(), columns.len()));
        };
        let name = match to {
            Field::Place(_) => return self.column(to, Some(by)),
            Field::Name(name) => name,
        };
        if self.is_json {
            let made = self.column(to, Some(by))?;
            self.layout.look_at(made);
            if made != *source && !self.makes.contains(&(*source, made)) {
                self.makes.push((*source, made));
            }
            return Ok(made);
        }
        // A new field is made rather than one that is called nearly the same changed.
        let there = self.layout.names.iter().position(|field| **field == **name);
        let named = self.named || there.is_some_and(|column| column >= self.layout.originals);
        Ok(match there.filter(|_| named) {
            Some(column) => {
                self.layout.look_at(column);
                if column < self.layout.originals && !self.replaced.contains(name) {
                    self.replaced.push(name.clone());
                }
                column
            }
            None => self.layout.make(name, *source),
        })
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

    fn pass(&mut self, rules: &[usize], columns: &[usize], rows: Vec<Rows>, to: Option<usize>) {
        columns.iter().for_each(|column| self.layout.look_at(*column));
        let program = self.program.pick(rules);
        let rules = rules.iter().map(|rule| RuleId(*rule)).collect();
        let base = self.passes.last().map_or(0, |last| last.base + last.rules.len());
        let mut is_for = vec![false; self.layout.names.len()];
        columns.iter().for_each(|column| is_for[*column] = true);
        self.passes.push(Pass::new(program, rules, base, is_for, rows, to));
    }
}
