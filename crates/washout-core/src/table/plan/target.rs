//! Where the result of a rule goes.

use super::super::error::TableError;
use super::super::layout::MadeAt;
use super::PassPlanner;
use crate::program::CellRule;
use crate::rules::{Field, NewField, NewPlace};

impl PassPlanner<'_> {
    /// Where the result of a rule goes.
    pub(super) fn target(
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
}
