//! Which columns a rule means by the names of fields.

use std::collections::HashMap;
use std::sync::Arc;

use super::super::error::TableError;
use super::super::layout::Layout;
use super::PassPlanner;
use crate::rules::TableSettings;
use crate::rules::{Field, Verb};

impl PassPlanner<'_> {
    /// In JSON Lines there is no header: what is named may be there.
    pub(super) fn name_all(&mut self, settings: &TableSettings, also: &[Field]) {
        let program = self.program;
        let of_settings = settings.only.iter().chain(&settings.fields).flatten();
        of_settings.chain(also).for_each(|field| self.name(field));
        for rule in program.cell_rules() {
            let rows = rule.rows.iter().map(|row| &row.field);
            let to = rule.to_field.as_ref().map(|to| &to.field);
            let verb = rule.on_table.as_ref().map(|on| &on.verb);
            // Rules that drop or rename fields name them themselves.
            let of_set =
                rule.of_set.as_ref().filter(|_| !matches!(verb, Some(Verb::DropFields(_) | Verb::RenameFields(_))));
            let fields = rule.fields.as_ref().or(of_set);
            fields.into_iter().flatten().chain(rows).chain(to).for_each(|field| self.name(field));
            match verb {
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

    pub(super) fn columns(&mut self, fields: &[Field], by: Option<usize>) -> Result<Vec<usize>, TableError> {
        let columns = fields.iter().map(|field| self.columns_of_field(field, by)).collect::<Result<Vec<_>, _>>()?;
        let mut columns = columns.concat();
        columns.sort_unstable();
        columns.dedup();
        Ok(columns)
    }

    /// The columns that may be this field. In JSON these are several where fields were renamed; an object has one of them.
    pub(super) fn columns_of_field(&mut self, field: &Field, by: Option<usize>) -> Result<Vec<usize>, TableError> {
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
    pub(super) fn column(&mut self, field: &Field, by: Option<usize>) -> Result<usize, TableError> {
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
        let columns = by_name.get(name).or_else(|| by_name.get(self.still_called.get(name)?.as_str()));
        let mut columns = columns.cloned().unwrap_or_default();
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
}

/// What of a path comes below this field; nothing if it is the field itself. `None`: it is not within it.
pub(super) fn within<'p>(path: &'p str, field: &str) -> Option<&'p str> {
    path.strip_prefix(field).filter(|rest| rest.is_empty() || rest.starts_with('.'))
}
