//! The record batches of one table through rules.

use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::{Array, ArrayRef, RecordBatch, RecordBatchOptions, UInt64Array};
use arrow_cast::display::{ArrayFormatter, FormatOptions};
use arrow_schema::{ArrowError, DataType, Field, Schema, SchemaRef};
use washout_core::Program;
use washout_core::table::{Cells, Column, RecordWasher, TableError, WashedCells, WashedRecords};

use crate::cells::{array, cells, is_text};
use crate::column::ColumnError;

/// Cleans the batches of one table, one after the other.
pub(crate) struct TableCleaner {
    washer: RecordWasher<'static>,
    before: SchemaRef,
    after: SchemaRef,
}

/// Why a table cannot be cleaned.
#[derive(Debug)]
pub(crate) enum TableCleanError {
    Rule(TableError),
    Column { field: String, error: ColumnError },
    NoText { field: String, kind: DataType, rule: String },
    Schema,
    Arrow(ArrowError),
}

impl From<TableError> for TableCleanError {
    fn from(error: TableError) -> Self {
        Self::Rule(error)
    }
}

impl From<ArrowError> for TableCleanError {
    fn from(error: ArrowError) -> Self {
        Self::Arrow(error)
    }
}

impl std::fmt::Display for TableCleanError {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Rule(error) => error.fmt(formatter),
            Self::Column { field, error } => write!(formatter, "the field `{field}`: {error}"),
            Self::NoText { field, kind, rule } => write!(
                formatter,
                "the field `{field}` holds {kind}, and rule {rule} is for texts; cast it to text first, or name another field"
            ),
            Self::Schema => formatter.write_str("the batches of a table have the same fields, and this one has others"),
            Self::Arrow(error) => error.fmt(formatter),
        }
    }
}

/// The cells of a dictionary.
struct Words<'a> {
    values: Box<dyn Cells + 'a>,
    /// By cell: which value.
    keys: Vec<Option<usize>>,
}

impl Cells for Words<'_> {
    fn count(&self) -> usize {
        self.keys.len()
    }

    fn cell(&self, index: usize) -> Option<&[u8]> {
        self.values.cell(self.keys[index]?)
    }
}

/// The cells of an array, and whether they are texts. Other values are put in words.
fn seen(array: &ArrayRef) -> Result<(Box<dyn Cells + '_>, bool), ArrowError> {
    if let Some(cells) = cells(array) {
        return Ok((cells, true));
    }
    if let Some(dictionary) = array.as_any_dictionary_opt().filter(|_| is_text(array.data_type()))
        && let Some(values) = cells(dictionary.values())
    {
        let keys = dictionary.normalized_keys().into_iter().enumerate();
        let keys = keys.map(|(cell, key)| dictionary.keys().is_valid(cell).then_some(key)).collect();
        return Ok((Box::new(Words { values, keys }), true));
    }
    let options = FormatOptions::default();
    let words = ArrayFormatter::try_new(array, &options)?;
    let word = |cell: usize| {
        let text = array.is_valid(cell).then(|| words.value(cell).try_to_string()).transpose();
        text.map(|text| text.map(String::into_bytes))
    };
    let words: Vec<Option<Vec<u8>>> = (0..array.len()).map(word).collect::<Result<_, _>>()?;
    Ok((Box::new(words.iter().map(Option::as_deref).collect::<WashedCells>()), false))
}

impl TableCleaner {
    /// For tables with these fields.
    pub(crate) fn new(program: &Program, schema: &SchemaRef) -> Result<Self, TableCleanError> {
        let washer = program.record_washer(schema.fields().iter().map(|field| field.name().as_str()))?;
        for (column, field) in schema.fields().iter().enumerate() {
            let kind = field.data_type();
            if let Some(rule) = washer.named_by(column).filter(|_| !is_text(kind) && *kind != DataType::Null) {
                let rule = &program.names()[rule.0];
                let rule = format!("{} ({})", rule.number, rule.caption);
                return Err(TableCleanError::NoText { field: field.name().clone(), kind: kind.clone(), rule });
            }
        }
        let fields = washer.fields().iter().map(|field| match field.source {
            Some(source) => schema.field(source).clone().with_name(&*field.name),
            None => Field::new(&*field.name, DataType::Utf8, true),
        });
        let after = Schema::new_with_metadata(fields.collect::<Vec<_>>(), schema.metadata().clone());
        Ok(Self { washer: washer.into_owned(), before: Arc::clone(schema), after: Arc::new(after) })
    }

    /// Whether it is for tables with these fields.
    pub(crate) fn is_for(&self, schema: &SchemaRef) -> bool {
        self.before == *schema
    }

    /// Begins with another table.
    pub(crate) fn start_again(&mut self) {
        self.washer.start_again();
    }

    /// The fields of the table that comes out.
    pub(crate) fn schema(&self) -> &SchemaRef {
        &self.after
    }

    /// How many changes each rule has made so far.
    pub(crate) fn changes(&self) -> &[u64] {
        self.washer.changes()
    }

    /// Cleans the next batch. Gives the records that stay, from 0, too, if not all of them do.
    pub(crate) fn clean(&mut self, batch: &RecordBatch) -> Result<(RecordBatch, Option<UInt64Array>), TableCleanError> {
        if batch.schema_ref().fields() != self.before.fields() {
            return Err(TableCleanError::Schema);
        }
        let sees = |column: usize| self.washer.sees(column);
        let given: Vec<Option<(Box<dyn Cells + '_>, bool)>> = batch
            .columns()
            .iter()
            .enumerate()
            .map(|(column, array)| sees(column).then(|| seen(array)).transpose())
            .collect::<Result<_, ArrowError>>()?;
        let columns: Vec<Option<Column<'_>>> = given
            .iter()
            .map(|given| {
                let (cells, is_text) = given.as_ref()?;
                Some(if *is_text { Column::of_texts(&**cells) } else { Column::of_values(&**cells) })
            })
            .collect();
        let WashedRecords { columns, kept, .. } = self.washer.wash(&columns, batch.num_rows())?;
        let records = kept.as_ref().map_or(batch.num_rows(), Vec::len);
        let kept = kept.map(|kept| kept.into_iter().map(|record| record as u64).collect::<UInt64Array>());
        let mut arrays: Vec<ArrayRef> = Vec::with_capacity(columns.len());
        for ((cells, out), field) in columns.into_iter().zip(self.washer.fields()).zip(self.after.fields()) {
            arrays.push(match (cells, out.source) {
                (Some(cells), _) => of_kind(field, cells)?,
                (None, Some(source)) => match &kept {
                    Some(kept) => arrow_select::take::take(batch.column(source), kept, None)?,
                    None => Arc::clone(batch.column(source)),
                },
                (None, None) => arrow_array::new_null_array(field.data_type(), records),
            });
        }
        let options = RecordBatchOptions::new().with_row_count(Some(records));
        Ok((RecordBatch::try_new_with_options(Arc::clone(&self.after), arrays, &options)?, kept))
    }
}

/// An array for a field, dictionaries included.
fn of_kind(field: &Field, cells: WashedCells) -> Result<ArrayRef, TableCleanError> {
    let of = |kind: &DataType| {
        array(kind, cells).map_err(|unfit| TableCleanError::Column { field: field.name().clone(), error: unfit.into() })
    };
    match field.data_type() {
        kind @ DataType::Dictionary(_, value) => Ok(arrow_cast::cast(&of(value)?, kind)?),
        kind => of(kind),
    }
}
