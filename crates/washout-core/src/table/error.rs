//! What can be wrong with a table.

use std::fmt;

use crate::engine::RunError;
use crate::program::RuleName;
use crate::shown::visible as shown;

/// Why a table cannot be washed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TableError(Box<Kind>);

#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    Broken { record: u64, line: u64, what: Broken },
    NoField { named: String, by: Option<RuleName>, there: Vec<String>, one_field: bool },
    SeveralFields { named: String, places: Vec<usize> },
    NotOneSource { rule: RuleName, sources: usize },
    Rule { record: u64, field: String, error: RunError },
    LineRule { rule: RuleName, word: &'static str },
    NoTable { rule: Option<RuleName> },
}

/// What is wrong with a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Broken {
    Ragged {
        fields: usize,
        wanted: usize,
    },
    Unclosed,
    BehindQuote,
    TooLong,
    NoObject,
    NoUtf8,
    Json {
        column: usize,
        why: String,
    },
    /// Nested in more objects and lists than are read.
    Deep {
        column: usize,
        deepest: usize,
    },
}

impl TableError {
    pub(super) fn broken(record: u64, line: u64, what: Broken) -> Self {
        Self(Box::new(Kind::Broken { record, line, what }))
    }

    pub(super) fn no_field(named: String, by: Option<RuleName>, there: Vec<String>) -> Self {
        let one_field = there.len() == 1 && there[0].contains([',', ';', '\t', '|']);
        Self(Box::new(Kind::NoField { named, by, there, one_field }))
    }

    pub(super) fn several_fields(named: String, places: Vec<usize>) -> Self {
        Self(Box::new(Kind::SeveralFields { named, places }))
    }

    pub(super) fn not_one_source(rule: RuleName, sources: usize) -> Self {
        Self(Box::new(Kind::NotOneSource { rule, sources }))
    }

    pub(super) fn rule(record: u64, field: &str, error: RunError) -> Self {
        Self(Box::new(Kind::Rule { record, field: field.to_owned(), error }))
    }

    pub(crate) fn line_rule(rule: RuleName, word: &'static str) -> Self {
        Self(Box::new(Kind::LineRule { rule, word }))
    }

    pub(crate) fn no_table(rule: Option<RuleName>) -> Self {
        Self(Box::new(Kind::NoTable { rule }))
    }

    /// The same error so many records and lines later.
    pub(super) fn behind(mut self, records: u64, lines: u64) -> Self {
        match &mut *self.0 {
            Kind::Broken { record, line, .. } => (*record, *line) = (*record + records, *line + lines),
            Kind::Rule { record, .. } => *record += records,
            _ => {}
        }
        self
    }

    /// Whether it is the rules that do not fit, not what is in the table.
    pub fn is_about_rules(&self) -> bool {
        matches!(*self.0, Kind::LineRule { .. } | Kind::NoTable { .. } | Kind::NotOneSource { .. })
    }
}

/// Things that a message names.
const NAMED: usize = 20;

/// The first of these, and how many more there are.
fn some_of<T>(all: &[T], name: impl Fn(&T) -> String) -> String {
    let named = all.iter().take(NAMED).map(name).collect::<Vec<_>>().join(", ");
    match all.len().saturating_sub(NAMED) {
        0 => named,
        more => format!("{named} and {more} more"),
    }
}

impl fmt::Display for TableError {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &*self.0 {
            Kind::Broken { record, line, what } => {
                let record = if *record == 0 { "the header".to_owned() } else { format!("record {record}") };
                write!(formatter, "{record} (line {line}) {what}")
            }
            Kind::NoField { named, by, there, one_field } => {
                write!(formatter, "there is no field `{}`", shown(named))?;
                if let Some(RuleName { number, caption }) = by {
                    write!(formatter, ", which rule {number} ({caption}) is for")?;
                }
                match there.len() {
                    0 => formatter.write_str("; the table has none"),
                    _ => write!(formatter, "; there are {}", some_of(there, |field| format!("`{}`", shown(field)))),
                }?;
                if *one_field {
                    formatter.write_str("; if that is several, say what stands between them with --delimiter")?;
                }
                Ok(())
            }
            Kind::SeveralFields { named, places } => {
                let shown = shown(named);
                write!(
                    formatter,
                    "several fields are called `{shown}`: those at {}; name the one you mean by its place, such as {}",
                    some_of(places, usize::to_string),
                    places[0]
                )
            }
            Kind::NotOneSource { rule: RuleName { number, caption }, sources } => write!(
                formatter,
                "rule {number} ({caption}) puts its result in one field, and comes from {sources}; let `fields` name one"
            ),
            Kind::Rule { record, field, error } => {
                write!(formatter, "record {record}, {}: {error}", shown(field))
            }
            Kind::LineRule { rule: RuleName { number, caption }, word } => write!(
                formatter,
                "this is a table, and rule {number} ({caption}) is about lines (`{word}`): `cell_lines = true` on the rule \
                 says that the lines within a cell are meant; --table text takes the file as plain text"
            ),
            Kind::NoTable { rule: Some(RuleName { number, caption }) } => write!(
                formatter,
                "this is no table, and rule {number} ({caption}) is for fields of one; --table csv, tsv or jsonl says that it \
                 is a table all the same"
            ),
            Kind::NoTable { rule: None } => formatter.write_str(
                "this is no table, and only some fields of one were asked for; --table csv, tsv or jsonl says that it is a \
                 table all the same",
            ),
        }
    }
}

impl Broken {
    /// What is wrong with the quotation marks of a record.
    pub(super) fn what(&self) -> &'static str {
        match self {
            Self::BehindQuote => {
                "goes on after a closing quotation mark; a quotation mark within quotes is written twice"
            }
            _ => "opens a quotation mark that nothing closes",
        }
    }
}

impl fmt::Display for Broken {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Ragged { fields, wanted } => {
                let fields = if *fields == 1 { "1 field".to_owned() } else { format!("{fields} fields") };
                write!(formatter, "has {fields}, not {wanted}; --ragged keep lets such records pass as they are")
            }
            Self::BehindQuote => write!(formatter, "{}; --ragged keep lets such records pass as they are", self.what()),
            Self::Unclosed => formatter.write_str(self.what()),
            Self::TooLong => {
                formatter.write_str("is longer than 64 MiB; most likely a quotation mark is opened and never closed")
            }
            Self::NoObject => formatter.write_str(
                "is no JSON object; a line has one such as {\"Keeper\": \"A\"}; --ragged keep lets others pass",
            ),
            Self::NoUtf8 => formatter.write_str("would hold bytes that are no UTF-8, and JSON cannot"),
            Self::Deep { column, deepest } => write!(
                formatter,
                "is nested more than {deepest} objects and lists deep, at column {column}; --ragged keep lets such records \
                 pass as they are"
            ),
            Self::Json { column, why } => {
                write!(
                    formatter,
                    "is no valid JSON at column {column}: {why}; --ragged keep lets such records pass as they are"
                )
            }
        }
    }
}

impl std::error::Error for TableError {}
