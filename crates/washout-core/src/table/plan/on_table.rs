//! Rules that act on records and fields.

use std::collections::HashSet;
use std::sync::Arc;

use super::super::error::TableError;
use super::super::fields::FieldPass;
use super::super::pass::{Pass, RulesOfPass};
use super::super::records::RecordPass;
use super::PassPlanner;
use super::names::within;
use crate::matching::Finder;
use crate::program::{CellRule, OnTable};
use crate::rules::TableSettings;
use crate::rules::{DropRecords, Field, RenameFields, RuleId, Verb, Which};

impl PassPlanner<'_> {
    /// A rule that acts on records or fields. `only`: the only columns that may be touched.
    pub(super) fn on_table(
        &mut self,
        index: usize,
        rule: &CellRule,
        on_table: &OnTable,
        settings: &TableSettings,
        only: Option<&[usize]>,
    ) -> Result<(), TableError> {
        let of = RulesOfPass { rules: vec![RuleId(index)], base: self.base() };
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

    fn field_pass(&mut self, of: RulesOfPass, columns: &[usize], drops: bool) {
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
            if !columns.iter().all(is_allowed) {
                self.still_called.insert(new.clone(), old.clone());
            } else if old != new {
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
}
