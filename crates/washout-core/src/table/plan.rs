//! Which rules act on which columns of a table, in which order.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use super::csv::Csv;
use super::error::{Broken, TableError};
use super::fields::FieldPass;
use super::grid::{Extent, Grid};
use super::header::Header;
use super::json_lines::{Found, JsonLines};
use super::layout::{Layout, MadeAt, Run};
use super::pass::{CellPass, OfRules, Pass, Rows};
use super::records::RecordPass;
use super::settings::{TableFormat, TableSettings};
use crate::matching::Finder;
use crate::model::{DropRecords, Field, NewField, NewPlace, RenameFields, Verb, Which};
use crate::program::{CellRule, OnTable, Program, RuleId};

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
    /// How CSV records are written, if not with the columns they came with.
    pub(super) runs: Option<Vec<Run>>,
    /// Columns of CSV that rules drop or rename, each with its rule.
    pub(super) header_changes: Vec<(RuleId, usize)>,
    /// Fields of JSON that have to be there.
    pub(super) required: Vec<usize>,
    /// A rule remembers records: blocks have to come in their order.
    pub(super) remembers: bool,
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
        let is_json = format.is_json();
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
            header_changes: Vec::new(),
            required: Vec::new(),
            by_name: None,
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
            Reader::JsonLines(JsonLines { is_array, keeps_ragged, makes: planner.makes })
        } else {
            Reader::Csv(Csv { delimiter: settings.delimiter(format), keeps_ragged })
        };
        let Planner { mut layout, passes, near, replaced, header_changes, required, .. } = planner;
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
            Reader::JsonLines(json) => json.likely_cuts(text, size),
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
    header_changes: Vec<(RuleId, usize)>,
    required: Vec<usize>,
    /// The columns there are, by what rules call them now; made when it is wanted.
    by_name: Option<HashMap<Arc<str>, Vec<usize>>>,
    /// Fields of JSON that rules so far have renamed, rule by rule: what they were called, and what they are called now.
    renames: Vec<Vec<(String, String)>>,
}

impl Planner<'_> {
    /// In JSON Lines there is no header: what is named may be there.
    fn name_all(&mut self, settings: &TableSettings, also: &[Field]) {
        let program = self.program;
        let of_settings = settings.only.iter().chain(&settings.fields).flatten();
        of_settings.chain(also).for_each(|field| self.name(field));
        for rule in program.cell_rules() {
            let rows = rule.rows.iter().map(|row| &row.field);
            let to = rule.to_field.as_ref().map(|to| &to.field);
            rule.fields.iter().flatten().chain(rows).chain(to).for_each(|field| self.name(field));
            match rule.on_table.as_ref().map(|on| &on.verb) {
                Some(Verb::DropFields(drop)) => drop.fields.iter().for_each(|field| self.name(field)),
                Some(Verb::RenameFields(rename)) => {
                    rename.names.iter().for_each(|(old, _)| self.name(&Field::Name(old.clone())));
                    self.renames.push(rename.names.clone());
                }
                _ => {}
            }
        }
        self.renames.clear();
        let names = std::mem::take(&mut self.layout.names);
        self.layout = Layout::new(names);
        self.required.sort_unstable();
        self.required.dedup();
    }

    /// A field of JSON that rules name.
    fn name(&mut self, field: &Field) {
        let Field::Name(name) = field else { return };
        let paths = self.paths(name);
        // What was renamed may be in some records only under its old name, or made by a rule.
        let is_old = self.renames.iter().flatten().all(|(_, new)| within(name, new).is_none());
        for path in paths {
            let known = self.layout.names.iter().position(|known| **known == *path);
            let column = known.unwrap_or_else(|| {
                self.layout.names.push(path.into());
                self.layout.names.len() - 1
            });
            if is_old {
                self.required.push(column);
            }
        }
    }

    /// What a field of JSON may be called in the text that rules call so now.
    fn paths(&self, name: &str) -> Vec<String> {
        let mut paths = vec![name.to_owned()];
        for names in self.renames.iter().rev() {
            let was = |path: &String| {
                let renamed = names.iter().filter_map(|(old, new)| Some(format!("{old}{}", within(path, new)?)));
                let stayed = names.iter().all(|(old, _)| within(path, old).is_none()).then(|| path.clone());
                renamed.chain(stayed).collect::<Vec<_>>()
            };
            paths = paths.iter().flat_map(was).collect();
        }
        paths
    }

    fn rules(&mut self, settings: &TableSettings) -> Result<(), TableError> {
        let program = self.program;
        // A field that is asked for has to be there, even if no rule is for it.
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

    /// A rule that acts on records or fields. `only`: the only columns that may be touched.
    fn on_table(
        &mut self,
        index: usize,
        rule: &CellRule,
        on_table: &OnTable,
        settings: &TableSettings,
        only: Option<&[usize]>,
    ) -> Result<(), TableError> {
        let of = OfRules { rules: vec![RuleId(index)], base: self.base() };
        let is_allowed = |column: &usize| only.is_none_or(|only| only.contains(column));
        match &on_table.verb {
            Verb::DropRecords(what) => {
                let fields = self.fields_of_records(index, rule, settings)?;
                // A record may go for what is in those fields alone.
                let is_judged_by_others = fields.as_ref().is_none_or(|fields| !fields.iter().flatten().all(is_allowed));
                if only.is_some() && is_judged_by_others && !settings.drops_all {
                    return Ok(());
                }
                let rows = self.rows(index, rule)?;
                let protect = on_table.protect.iter().map(|search| Finder::new(search, Which::All, false)).collect();
                self.look_at_records(*what, fields.as_deref(), !on_table.protect.is_empty());
                let (name, memory_limit) = (self.program.names()[index].clone(), self.program.memory_limit());
                let pass = RecordPass { of, what: *what, fields, rows, protect, name, memory_limit };
                self.passes.push(Pass::Records(pass));
            }
            Verb::DropFields(drop) => {
                self.refuse_rows(index, rule)?;
                let mut columns = self.columns(&drop.fields, Some(index))?;
                columns.retain(|column| is_allowed(column) || *column >= self.layout.originals);
                self.layout.drop_columns(&columns);
                self.by_name = None;
                self.header_changes.extend(columns.iter().map(|column| (RuleId(index), *column)));
                if self.is_json {
                    columns.iter().for_each(|column| self.drop_below(*column));
                }
                if !self.is_json && self.layout.order.is_empty() {
                    return Err(TableError::no_field_left(self.program.names()[index].clone()));
                }
                self.field_pass(of, &columns, true);
            }
            Verb::RenameFields(rename) => {
                self.refuse_rows(index, rule)?;
                let columns = self.rename(index, rename, only)?;
                self.field_pass(of, &columns, false);
            }
            _ => {}
        }
        Ok(())
    }

    /// Drops the fields of JSON that stand within one that is dropped.
    fn drop_below(&mut self, column: usize) {
        let layout = &self.layout;
        let is_below = |other: &usize| {
            let (inner, outer) = if *other < layout.read && column < layout.read {
                (&layout.names[*other], &layout.names[column])
            } else {
                (layout.called(*other), layout.called(column))
            };
            within(inner, outer).is_some_and(|rest| !rest.is_empty())
        };
        let below: Vec<usize> = (1..layout.names.len()).filter(is_below).collect();
        below.into_iter().for_each(|column| self.layout.dropped[column] = true);
    }

    fn field_pass(&mut self, of: OfRules, columns: &[usize], drops: bool) {
        let mut is_for = vec![false; self.layout.names.len()];
        columns.iter().for_each(|column| is_for[*column] = true);
        self.passes.push(Pass::Fields(FieldPass { of, is_for, drops }));
    }

    /// The fields by which a rule judges records, each with the columns that may be it. `None`: all.
    fn fields_of_records(
        &mut self,
        index: usize,
        rule: &CellRule,
        settings: &TableSettings,
    ) -> Result<Option<Vec<Vec<usize>>>, TableError> {
        let named = rule.fields.as_ref().or(rule.of_set.as_ref()).or(settings.fields.as_ref());
        let by = rule.fields.is_some().then_some(index);
        let Some(named) = named else { return Ok(None) };
        let mut fields: Vec<Vec<usize>> = Vec::with_capacity(named.len());
        for field in named {
            let columns = self.columns_of_field(field, by)?;
            if !fields.contains(&columns) {
                fields.push(columns);
            }
        }
        Ok(Some(fields))
    }

    /// Sees to it that the grid has what a rule that drops records judges them by.
    fn look_at_records(&mut self, what: DropRecords, fields: Option<&[Vec<usize>]>, sees_all: bool) {
        self.layout.has_record_cells = true;
        let judges_all = fields.is_none() && what != DropRecords::Rows;
        if sees_all || judges_all {
            self.layout.seen.fill(true);
        }
        if judges_all {
            self.layout.whole.fill(true);
        }
        for column in fields.into_iter().flatten().flatten() {
            self.layout.look_at(*column);
            let original = self.layout.original_of(*column);
            self.layout.whole[original] = true;
        }
    }

    /// Fields are the same in every record.
    fn refuse_rows(&self, index: usize, rule: &CellRule) -> Result<(), TableError> {
        if rule.rows.is_empty() {
            return Ok(());
        }
        Err(TableError::fields_of_some(self.program.names()[index].clone()))
    }

    /// Renames columns; gives those it is for.
    fn rename(
        &mut self,
        index: usize,
        rename: &RenameFields,
        only: Option<&[usize]>,
    ) -> Result<Vec<usize>, TableError> {
        let rule = || self.program.names()[index].clone();
        if !self.named {
            return Err(TableError::no_names(rule()));
        }
        let mut renamed = Vec::new();
        for (old, new) in &rename.names {
            let columns = self.columns_of_field(&Field::Name(old.clone()), Some(index))?;
            let is_allowed =
                |column: &usize| only.is_none_or(|only| only.contains(column)) || *column >= self.layout.originals;
            if old != new && columns.iter().all(is_allowed) {
                renamed.push((columns, old, new));
            }
        }
        let all: HashSet<usize> = renamed.iter().flat_map(|(columns, ..)| columns.iter().copied()).collect();
        // In JSON each object is looked at. Two fields may exchange their names.
        let is_known = |column: &usize| !self.is_json || self.makes.iter().any(|(_, made)| made == column);
        let stays = |column: &usize| !self.layout.dropped[*column] && !all.contains(column) && is_known(column);
        let stay = (0..self.layout.names.len()).filter(stays);
        let taken: HashSet<Arc<str>> = stay.map(|column| Arc::clone(self.layout.called(column))).collect();
        self.by_name = None;
        for (columns, old, new) in renamed {
            let above = |name: &str| name.rsplit_once('.').map(|(above, _)| above.to_owned());
            if self.is_json && above(old) != above(new) {
                return Err(TableError::moves_field(rule(), old.clone(), new.clone()));
            }
            if taken.contains(new.as_str()) {
                return Err(TableError::name_taken(rule(), old.clone(), new.clone()));
            }
            for column in columns {
                self.layout.renamed[column] = Some(new.as_str().into());
                self.header_changes.push((RuleId(index), column));
            }
        }
        if self.is_json {
            self.renames.push(rename.names.clone());
        }
        Ok(all.into_iter().collect())
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

    fn columns(&mut self, fields: &[Field], by: Option<usize>) -> Result<Vec<usize>, TableError> {
        let columns = fields.iter().map(|field| self.columns_of_field(field, by)).collect::<Result<Vec<_>, _>>()?;
        let mut columns = columns.concat();
        columns.sort_unstable();
        columns.dedup();
        Ok(columns)
    }

    /// The columns that may be this field. In JSON these are several where fields were renamed; an object has one of them.
    fn columns_of_field(&mut self, field: &Field, by: Option<usize>) -> Result<Vec<usize>, TableError> {
        let Field::Name(name) = field else { return Ok(vec![self.column(field, by)?]) };
        if !self.is_json {
            return Ok(vec![self.column(field, by)?]);
        }
        let paths = self.paths(name);
        let is_it = |column: &usize| {
            let is_called_so = if *column < self.layout.read {
                paths.iter().any(|path| *self.layout.names[*column] == **path)
            } else {
                **self.layout.called(*column) == **name
            };
            !self.layout.dropped[*column] && is_called_so
        };
        let columns: Vec<usize> = (1..self.layout.names.len()).filter(is_it).collect();
        if columns.is_empty() { Err(self.missing(name, by)) } else { Ok(columns) }
    }

    /// The column of a field; in JSON where none was renamed.
    fn column(&mut self, field: &Field, by: Option<usize>) -> Result<usize, TableError> {
        let places = self.layout.originals;
        let dropped = &self.layout.dropped;
        let place = |place: usize| (1..=places).contains(&place).then(|| place - 1).filter(|column| !dropped[*column]);
        match field {
            Field::Place(number) if self.is_json => Err(self.missing(&number.to_string(), by)),
            Field::Place(number) => place(*number).ok_or_else(|| self.missing(&number.to_string(), by)),
            Field::Name(name) => match self.by_name(name)? {
                Some(column) => Ok(column),
                None if self.is_json => Err(self.missing(name, by)),
                // Where no field has a name, digits can only be a place.
                None => {
                    let number = name.parse().ok();
                    let within = number.filter(|number| (1..=places).contains(number)).map(|number| number - 1);
                    within.filter(|column| !self.layout.dropped[*column]).ok_or_else(|| self.missing(name, by))
                }
            },
        }
    }

    #[cold]
    fn missing(&self, named: &str, by: Option<usize>) -> TableError {
        let rule = by.map(|by| self.program.names()[by].clone());
        let columns = usize::from(self.is_json)..self.layout.names.len();
        let there = columns.filter(|column| !self.layout.dropped[*column]);
        let names = there.map(|column| self.layout.called(column).to_string()).collect();
        TableError::no_field(named.to_owned(), rule, names)
    }

    fn by_name(&mut self, name: &str) -> Result<Option<usize>, TableError> {
        let named = if self.named { 0 } else { self.layout.originals };
        let layout = &self.layout;
        let there = || (named..layout.names.len()).filter(|column| !layout.dropped[*column]);
        let by_name = self.by_name.get_or_insert_with(|| {
            let mut by_name: HashMap<Arc<str>, Vec<usize>> = HashMap::new();
            there().for_each(|column| by_name.entry(Arc::clone(layout.called(column))).or_default().push(column));
            by_name
        });
        let mut columns = by_name.get(name).cloned().unwrap_or_default();
        if columns.is_empty() && !self.is_json {
            let folded = |name: &str| name.trim().to_lowercase();
            columns = there().filter(|column| folded(layout.called(*column)) == folded(name)).collect();
            if let [column] = columns[..] {
                let near = (name.to_owned(), self.layout.called(column).to_string());
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
    fn target(
        &mut self,
        to: &NewField,
        by: usize,
        rule: &CellRule,
        columns: &[usize],
    ) -> Result<Vec<usize>, TableError> {
        // A field of JSON that was renamed has several columns.
        let names_one = self.is_json && rule.fields.as_ref().is_some_and(|fields| fields.len() == 1);
        if columns.len() != 1 && !names_one {
            return Err(TableError::not_one_source(self.program.names()[by].clone(), columns.len()));
        }
        let source = columns[0];
        let NewField { field, place } = to;
        let name = match field {
            Field::Place(_) => return Ok(vec![self.column(field, Some(by))?]),
            Field::Name(name) => name,
        };
        if self.is_json {
            // What was called so before may have been dropped or renamed.
            let targets = self.columns_of_field(field, Some(by)).unwrap_or_else(|_| vec![self.layout.add_unread(name)]);
            for column in &targets {
                self.layout.look_at(*column);
                self.layout.whole[*column] = true;
            }
            let Some(made) = targets.iter().copied().find(|column| *self.layout.names[*column] == **name) else {
                return Ok(targets);
            };
            for source in columns.iter().copied().filter(|source| *source != made) {
                if !self.makes.contains(&(source, made)) {
                    self.makes.push((source, made));
                }
            }
            return Ok(targets);
        }
        // A new field is made rather than one that is called nearly the same changed.
        let is_it = |column: &usize| !self.layout.dropped[*column] && **self.layout.called(*column) == **name;
        let there = (0..self.layout.names.len()).find(is_it);
        let named = self.named || there.is_some_and(|column| column >= self.layout.originals);
        if let Some(column) = there.filter(|_| named) {
            self.layout.look_at(column);
            if column < self.layout.originals && !self.replaced.contains(name) {
                self.replaced.push(name.clone());
            }
            return Ok(vec![column]);
        }
        let at = match place {
            NewPlace::Source => MadeAt::After(source),
            NewPlace::After(field) => MadeAt::After(self.column(field, Some(by))?),
            NewPlace::Before(field) => MadeAt::Before(self.column(field, Some(by))?),
            NewPlace::Start => MadeAt::Start,
            NewPlace::End => MadeAt::End,
        };
        self.by_name = None;
        Ok(vec![self.layout.make(name, source, at)])
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
        let of = OfRules { rules: rules.iter().map(|rule| RuleId(*rule)).collect(), base: self.base() };
        let mut is_for = vec![false; self.layout.names.len()];
        columns.iter().for_each(|column| is_for[*column] = true);
        self.passes.push(Pass::Cells(Box::new(CellPass::new(program, of, is_for, rows, to))));
    }
}

/// What of a path comes below this field; nothing if it is the field itself. `None`: it is not within it.
fn within<'p>(path: &'p str, field: &str) -> Option<&'p str> {
    path.strip_prefix(field).filter(|rest| rest.is_empty() || rest.starts_with('.'))
}
