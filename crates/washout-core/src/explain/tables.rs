//! Sentences about what rules do in tables.

use super::words::found;
use crate::rules::{Case, CellScope, DropRecords, EmptyFields, Field, FlatRule, NewPlace, RepeatScope, RowTest, Verb};
use crate::text::shown::quoted;

/// What a rule does that acts on records or fields.
pub(super) fn on_table(verb: &Verb) -> String {
    match verb {
        Verb::DropRecords(DropRecords::Empty(EmptyFields::All)) => {
            "Drops every record of a table in which all of these fields are empty, with its line end.".to_owned()
        }
        Verb::DropRecords(DropRecords::Empty(EmptyFields::Any)) => {
            "Drops every record of a table in which any of these fields is empty, with its line end.".to_owned()
        }
        Verb::DropRecords(DropRecords::Repeated(repeats)) => {
            let after = match repeats.scope {
                RepeatScope::Neighbours => "the record before",
                RepeatScope::File => "any record before",
            };
            let case = if repeats.case == Case::Ignore { " Letter case does not count." } else { "" };
            let edges = if repeats.ignore_edges { " Blanks at the edges do not count." } else { "" };
            format!(
                "Drops every record of a table in which all of these fields are as in {after}; the first stays, and so do records in \
                 which all of them are empty.{case}{edges}"
            )
        }
        Verb::DropRecords(DropRecords::Rows) => "Drops records of a table.".to_owned(),
        Verb::DropFields(drop) => {
            let many = if drop.fields.len() == 1 { "the field" } else { "the fields" };
            format!("Drops {many} {} of a table, in every record.", field_names(&drop.fields))
        }
        Verb::RenameFields(rename) => {
            let named = rename.names.iter().map(|(from, to)| format!("{} to {}", quoted(from), quoted(to)));
            let many = if rename.names.len() == 1 { "a field" } else { "fields" };
            format!("Renames {many} of a table: {}.", named.collect::<Vec<_>>().join(", "))
        }
        _ => String::new(),
    }
}

/// Where in a table the rule may act, a sentence for each key.
pub(super) fn cells(flat: &FlatRule<'_>) -> Vec<String> {
    let CellScope { fields, rows, to_field, cell_lines } = &flat.cells;
    let mut said = Vec::new();
    let fields = fields.as_deref().or(flat.of_set);
    if let (None, Verb::DropRecords(DropRecords::Empty(_) | DropRecords::Repeated(_))) = (fields, &flat.rule.verb) {
        said.push("It judges them by all their fields.".to_owned());
    }
    if let Some(fields) = fields {
        let many = if fields.len() == 1 { "field" } else { "fields" };
        let named = field_names(fields);
        said.push(match flat.rule.verb {
            Verb::DropRecords(DropRecords::Rows) | Verb::DropFields(_) | Verb::RenameFields(_) => String::new(),
            Verb::DropRecords(_) => format!("It judges them by the {many} {named}."),
            _ => format!("In tables only in the {many} {named}."),
        });
    }
    for RowTest { field: tested, search } in rows {
        said.push(format!("Only in records whose field {} holds {}.", field(tested), found(search)));
    }
    said.extend(to_field.as_ref().map(|to| {
        let place = match &to.place {
            NewPlace::Source => String::new(),
            NewPlace::Before(place) => format!(" If there is none, it is made before the field {}.", field(place)),
            NewPlace::After(place) => format!(" If there is none, it is made after the field {}.", field(place)),
            NewPlace::Start => " If there is none, it is made as the first of all.".to_owned(),
            NewPlace::End => " If there is none, it is made as the last of all.".to_owned(),
        };
        format!("The result goes to the field {}; what it comes from stays.{place}", field(&to.field))
    }));
    said.retain(|sentence| !sentence.is_empty());
    if *cell_lines {
        said.push("In tables the lines are those of a cell.".to_owned());
    }
    said
}

fn field_names(fields: &[Field]) -> String {
    fields.iter().map(field).collect::<Vec<_>>().join(", ")
}

fn field(field: &Field) -> String {
    match field {
        Field::Name(name) => quoted(name),
        Field::Place(place) => format!("number {place}"),
    }
}
