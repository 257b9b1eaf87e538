//! What a rule does in a table: in which fields and records it acts, and where its result goes.

use std::fmt;

use super::search::Search;
use super::{Scope, StockTarget, Target, Verb};
use crate::text::shown::quoted;

/// A field of a table, as a rule or a command line names it.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Field {
    /// By the name in the header; in JSON Lines the key, or keys with dots between them.
    Name(String),
    /// By its place in a record, from 1.
    Place(usize),
}

impl fmt::Display for Field {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Name(name) => formatter.write_str(&quoted(name)),
            Self::Place(place) => write!(formatter, "field {place}"),
        }
    }
}

/// The part of a table a rule acts on. By default that is all of it.
#[derive(Clone, Debug, Default)]
pub struct CellScope {
    /// `fields`: only these.
    pub fields: Option<Vec<Field>>,
    /// `rows`: only records in which these fields hold a match.
    pub rows: Vec<RowTest>,
    /// `to_field`: the result goes there, and the field it comes from stays.
    pub to_field: Option<NewField>,
    /// `cell_lines`: what the rule says of lines is meant of the lines of a cell.
    pub cell_lines: bool,
}

/// `to_field`: where the result of a rule goes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NewField {
    /// The field; it is made if it is not there.
    pub field: Field,
    /// Where it is made.
    pub place: NewPlace,
}

/// Where a new field is made in a CSV table. In JSON, where the order of keys means nothing, it is always after its
/// source.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum NewPlace {
    /// Right after the one it comes from.
    #[default]
    Source,
    /// Right before this one.
    Before(Field),
    /// Right after this one.
    After(Field),
    /// As the first of all.
    Start,
    /// As the last of all.
    End,
}

/// `rows`: a field that has to hold a match.
#[derive(Clone, Debug)]
pub struct RowTest {
    /// The field.
    pub field: Field,
    /// What it has to hold.
    pub search: Search,
}

impl CellScope {
    /// Whether it can mean something in a table only.
    pub fn is_about_tables(&self) -> bool {
        self.fields.is_some() || !self.rows.is_empty() || self.to_field.is_some()
    }

    /// This scope within that of the rule that includes it: what is said nearer stands, conditions add up.
    pub(crate) fn within(&self, outer: &Self) -> Self {
        Self {
            fields: self.fields.clone().or_else(|| outer.fields.clone()),
            rows: outer.rows.iter().chain(&self.rows).cloned().collect(),
            to_field: self.to_field.clone(),
            cell_lines: self.cell_lines || outer.cell_lines,
        }
    }
}

/// The word by which a rule speaks of the lines of a text, which in a table are none of its own.
pub(crate) fn line_word(verb: &Verb, scope: &Scope) -> Option<&'static str> {
    match verb {
        Verb::DropLines(_)
        | Verb::KeepLines(_)
        | Verb::DropRepeats(_)
        | Verb::JoinLines(_)
        | Verb::BreakLines(_)
        | Verb::WrapLines(_)
        | Verb::LineEnds(_)
        | Verb::Number(_) => return Some(verb.name()),
        _ => {}
    }
    let search = match verb {
        Verb::Remove(remove) => Some(&remove.search),
        Verb::Replace(replace) => Some(&replace.search),
        _ => None,
    };
    let said = [
        (scope.lines.is_some(), "lines"),
        (scope.from_line.is_some(), "from_line"),
        (scope.to_line.is_some(), "to_line"),
        (
            search.is_some_and(|search| matches!(search.target, Target::Stock(StockTarget { rising: true, .. }))),
            "rising",
        ),
    ];
    said.into_iter().find_map(|(is, word)| is.then_some(word))
}
