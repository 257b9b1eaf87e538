//! The names of the columns a table comes with.

use std::sync::Arc;

use super::csv::{Csv, FirstRecord};
use super::error::TableError;
use super::json::{Json, OTHERS};
use crate::program::Program;
use crate::rules::TableFormat;
use crate::text::matches::Span;

/// The first record of a table, or what stands for it.
#[derive(Clone, Debug, Default)]
pub(super) struct Header {
    pub(super) names: Vec<Arc<str>>,
    /// The columns have names, not only places.
    pub(super) is_named: bool,
    /// Its cells, without quotes.
    pub(super) cells: Vec<Vec<u8>>,
    /// Where they are in the text, quotes included.
    pub(super) raw: Vec<Span>,
    /// Where it ends; 0 if the first record is one like the others.
    pub(super) end: usize,
}

impl Header {
    /// Reads what comes before the records of a table: the names of its columns, and where the records start. `None`: it is
    /// not whole yet, or there is nothing but white space.
    pub(super) fn open(
        program: &Program,
        format: TableFormat,
        text: &[u8],
        last: bool,
    ) -> Result<Option<Self>, TableError> {
        match format {
            TableFormat::JsonLines => Ok(Some(unnamed())),
            TableFormat::Json => {
                let opened = Json::opened(text).map_err(|what| TableError::broken(0, 1, what))?;
                Ok(opened.map(|end| Self { end, ..unnamed() }))
            }
            _ => Self::read(program, format, text, last),
        }
    }

    /// Reads the first record of a CSV table. `None`: it is not whole yet, or there is none; `last`: no more text follows.
    fn read(program: &Program, format: TableFormat, text: &[u8], last: bool) -> Result<Option<Self>, TableError> {
        let settings = program.table();
        let csv = Csv { delimiter: settings.delimiter(format), keeps_ragged: settings.keeps_ragged() };
        let read = csv.first_record(text, last).map_err(|what| TableError::broken(0, 1, what))?;
        let Some(FirstRecord { cells, raw, end }) = read else { return Ok(None) };
        let is_named = settings.has_header();
        let names = cells.iter().enumerate().map(|(place, name)| -> Arc<str> {
            if is_named { String::from_utf8_lossy(name).into() } else { (place + 1).to_string().into() }
        });
        Ok(Some(Self { names: names.collect(), is_named, cells, raw, end: if is_named { end } else { 0 } }))
    }
}

/// The one column JSON has before any is named.
fn unnamed() -> Header {
    debug_assert_eq!(OTHERS, 0, "all other strings come first");
    Header { names: vec!["any string".into()], is_named: true, ..Header::default() }
}
