//! What can be wrong with a table.

use std::fmt;

use crate::engine::RunError;
use crate::rules::RuleName;
use crate::text::csv::CsvFault;
use crate::text::shown::visible as shown;

/// Why a table cannot be washed.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TableError(Box<TableErrorKind>);

#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum TableErrorKind {
    Broken { record: u64, line: u64, what: Broken },
    NoField { named: String, by: Option<RuleName>, there: Vec<String>, one_field: bool },
    SeveralFields { named: String, places: Vec<usize> },
    NotOneSource { rule: RuleName, sources: usize },
    NoFieldLeft { rule: RuleName },
    FieldsOfSome { rule: RuleName },
    NoNames { rule: RuleName },
    NameTaken { rule: RuleName, old: String, new: String },
    MovesField { rule: RuleName, old: String, new: String },
    Rule { record: u64, field: Option<String>, error: RunError },
    LineRule { rule: RuleName, word: &'static str },
    NoTable { rule: Option<RuleName> },
    NoColumn { rule: RuleName },
}

/// What is wrong with a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Broken {
    Ragged {
        fields: usize,
        wanted: usize,
    },
    Csv(CsvFault),
    TooLong,
    NoObject,
    NoUtf8,
    Json {
        column: usize,
        why: String,
    },
    /// A text that is not an array of objects.
    NoArray,
    /// An item of an array that cannot be read, and with it all that follows.
    NoArrayItem {
        column: usize,
        why: String,
    },
    /// Records of an array that nothing parts.
    NoComma,
    /// Text after the array of all records.
    AfterArray,
    /// The array of all records is never closed.
    OpenArray,
    /// A renamed field that is there already.
    TwoKeys {
        old: String,
        new: String,
    },
    /// Nested in more objects and lists than are read.
    Deep {
        column: usize,
        deepest: usize,
    },
}

impl TableError {
    pub(super) fn broken(record: u64, line: u64, what: Broken) -> Self {
        Self(Box::new(TableErrorKind::Broken { record, line, what }))
    }

    pub(super) fn no_field(named: String, by: Option<RuleName>, there: Vec<String>) -> Self {
        let one_field = there.len() == 1 && there[0].contains([',', ';', '\t', '|']);
        Self(Box::new(TableErrorKind::NoField { named, by, there, one_field }))
    }

    pub(super) fn several_fields(named: String, places: Vec<usize>) -> Self {
        Self(Box::new(TableErrorKind::SeveralFields { named, places }))
    }

    pub(super) fn not_one_source(rule: RuleName, sources: usize) -> Self {
        Self(Box::new(TableErrorKind::NotOneSource { rule, sources }))
    }

    pub(super) fn no_field_left(rule: RuleName) -> Self {
        Self(Box::new(TableErrorKind::NoFieldLeft { rule }))
    }

    pub(super) fn fields_of_some(rule: RuleName) -> Self {
        Self(Box::new(TableErrorKind::FieldsOfSome { rule }))
    }

    pub(super) fn no_names(rule: RuleName) -> Self {
        Self(Box::new(TableErrorKind::NoNames { rule }))
    }

    pub(super) fn name_taken(rule: RuleName, old: String, new: String) -> Self {
        Self(Box::new(TableErrorKind::NameTaken { rule, old, new }))
    }

    pub(super) fn moves_field(rule: RuleName, old: String, new: String) -> Self {
        Self(Box::new(TableErrorKind::MovesField { rule, old, new }))
    }

    pub(super) fn rule(record: u64, field: Option<&str>, error: RunError) -> Self {
        Self(Box::new(TableErrorKind::Rule { record, field: field.map(str::to_owned), error }))
    }

    pub(crate) fn line_rule(rule: RuleName, word: &'static str) -> Self {
        Self(Box::new(TableErrorKind::LineRule { rule, word }))
    }

    pub(crate) fn no_table(rule: Option<RuleName>) -> Self {
        Self(Box::new(TableErrorKind::NoTable { rule }))
    }

    pub(super) fn no_column(rule: RuleName) -> Self {
        Self(Box::new(TableErrorKind::NoColumn { rule }))
    }

    /// The same error that many records and lines later.
    pub(super) fn behind(mut self, records: u64, lines: u64) -> Self {
        match &mut *self.0 {
            TableErrorKind::Broken { record, line, .. } => (*record, *line) = (*record + records, *line + lines),
            TableErrorKind::Rule { record, .. } => *record += records,
            _ => {}
        }
        self
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
            TableErrorKind::Broken { record, line, what } => {
                let record = match (record, what) {
                    (_, Broken::NoArray | Broken::OpenArray | Broken::AfterArray) => "the text".to_owned(),
                    (0, _) => "the header".to_owned(),
                    _ => format!("record {record}"),
                };
                write!(formatter, "{record} (line {line}) {what}")
            }
            TableErrorKind::NoField { named, by, there, one_field } => {
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
            TableErrorKind::SeveralFields { named, places } => {
                let shown = shown(named);
                write!(
                    formatter,
                    "several fields are called `{shown}`: those at {}; name the one you mean by its place, such as {}",
                    some_of(places, usize::to_string),
                    places[0]
                )
            }
            TableErrorKind::NotOneSource { rule: RuleName { number, caption }, sources } => write!(
                formatter,
                "rule {number} ({caption}) puts its result in one field, and comes from {sources}; let `fields` name one"
            ),
            TableErrorKind::NoFieldLeft { rule: RuleName { number, caption } } => {
                write!(formatter, "rule {number} ({caption}) would drop every field; a table has at least one")
            }
            TableErrorKind::FieldsOfSome { rule: RuleName { number, caption } } => write!(
                formatter,
                "rule {number} ({caption}) acts on a field of all records, and the rule that includes it is for some (`rows`)"
            ),
            TableErrorKind::NoNames { rule: RuleName { number, caption } } => write!(
                formatter,
                "rule {number} ({caption}) renames fields, and the fields of this table have no names (`header = false`)"
            ),
            TableErrorKind::NameTaken { rule: RuleName { number, caption }, old, new } => write!(
                formatter,
                "rule {number} ({caption}) cannot rename `{}`: there is a field `{}` already; drop or rename that one first",
                shown(old),
                shown(new)
            ),
            TableErrorKind::MovesField { rule: RuleName { number, caption }, old, new } => write!(
                formatter,
                "rule {number} ({caption}) cannot rename `{}` to `{}`: a field stays in its object, so all before the last \
                 dot has to be the same",
                shown(old),
                shown(new)
            ),
            TableErrorKind::Rule { record, field, error } => {
                match field {
                    Some(field) => write!(formatter, "record {record}, {}: {error}", shown(field)),
                    None => write!(formatter, "record {record}: {error}"),
                }
            }
            TableErrorKind::LineRule { rule: RuleName { number, caption }, word } => write!(
                formatter,
                "this is a table, and rule {number} ({caption}) is about lines (`{word}`): `cell_lines = true` on the rule \
                 says that the lines within a cell are meant; --table text takes the file as plain text"
            ),
            TableErrorKind::NoTable { rule: Some(RuleName { number, caption }) } => write!(
                formatter,
                "this is not a table, and rule {number} ({caption}) is for fields of one; --table csv, tsv, jsonl or json says that it \
                 is a table all the same"
            ),
            TableErrorKind::NoColumn { rule: RuleName { number, caption } } => write!(
                formatter,
                "this is one column, and rule {number} ({caption}) is for the fields or records of a table; clean the whole table"
            ),
            TableErrorKind::NoTable { rule: None } => formatter.write_str(
                "this is not a table, and only some fields of one were asked for; --table csv, tsv, jsonl or json says that it is a \
                 table all the same",
            ),
        }
    }
}

impl From<CsvFault> for Broken {
    fn from(fault: CsvFault) -> Self {
        Self::Csv(fault)
    }
}

impl fmt::Display for Broken {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Ragged { fields, wanted } => {
                let fields = if *fields == 1 { "1 field".to_owned() } else { format!("{fields} fields") };
                write!(formatter, "has {fields}, not {wanted}; --ragged keep lets such records pass as they are")
            }
            Self::Csv(fault @ CsvFault::AfterQuote) => {
                write!(formatter, "{}; --ragged keep lets such records pass as they are", fault.what())
            }
            Self::Csv(fault @ CsvFault::Unclosed) => formatter.write_str(fault.what()),
            Self::TooLong => {
                formatter.write_str("is longer than 64 MiB; most likely a quotation mark is opened and never closed")
            }
            Self::NoObject => formatter.write_str(
                "is not a JSON object; a line has one such as {\"Keeper\": \"A\"}; --ragged keep lets others pass",
            ),
            Self::NoArray => formatter.write_str(
                "is not an array of JSON objects, such as [{\"Keeper\": \"A\"}]; if there is an object on each line, say --table jsonl",
            ),
            Self::NoArrayItem { column, why } => write!(formatter, "is not valid JSON at column {column}: {why}"),
            Self::NoComma => formatter.write_str("is not separated by a comma from the one before"),
            Self::AfterArray => formatter.write_str("goes on after the array of all records"),
            Self::OpenArray => formatter.write_str("opens an array that nothing closes"),
            Self::TwoKeys { old, new } => write!(
                formatter,
                "has `{}`, which is to be called `{}`, and a `{}` too",
                shown(old),
                shown(new),
                shown(new)
            ),
            Self::NoUtf8 => formatter.write_str("would hold bytes that are not UTF-8, and JSON cannot"),
            Self::Deep { column, deepest } => write!(
                formatter,
                "is nested more than {deepest} objects and lists deep, at column {column}; --ragged keep lets such records \
                 pass as they are"
            ),
            Self::Json { column, why } => {
                write!(
                    formatter,
                    "is not valid JSON at column {column}: {why}; --ragged keep lets such records pass as they are"
                )
            }
        }
    }
}

impl std::error::Error for TableError {}
