//! What is wrong with texts and tables.

use std::sync::Arc;

use arrow_array::RecordBatch;
use arrow_schema::DataType;
use pyo3::prelude::*;
use pyo3_arrow::input::AnyRecordBatch;
use washout_core::survey::{Detectors, Survey, Surveyor, draft};
use washout_core::table::{TableFormat, TableSettings, TableSurveyor, table_draft};

use crate::cells::is_text;
use crate::errors::cannot_clean;

/// What is found: what, how often, in which record or line first, and the rule that mends it.
type Found = (String, u64, u64, String);

/// Surveys a text: what is found, and a rule set that takes it.
#[pyfunction]
#[pyo3(name = "_survey_text")]
pub fn survey_text(py: Python<'_>, text: Vec<u8>) -> (Vec<Found>, String) {
    py.detach(|| {
        let detectors = Detectors::new();
        let mut surveyor = Surveyor::new(&detectors, false);
        surveyor.push(&text);
        let mut survey = Survey::default();
        survey.add(surveyor.finish());
        let litter = survey.litter();
        let found = litter.iter().map(|litter| {
            let line = litter.sightings.first().map_or(0, |sighting| sighting.place.line);
            (litter.kind.caption().to_owned(), litter.count, line, litter.rule.clone())
        });
        (found.collect(), draft(&litter, &["a text".to_owned()]))
    })
}

/// Surveys the columns of a table that hold texts: of each what is found, and a rule set that takes it all.
#[pyfunction]
#[pyo3(name = "_survey_table")]
pub fn survey_table(py: Python<'_>, table: AnyRecordBatch) -> PyResult<(u64, Vec<(String, Vec<Found>)>, String)> {
    let (batches, schema) = table.into_table()?.into_inner();
    let texts: Vec<usize> =
        (0..schema.fields().len()).filter(|column| is_text(schema.field(*column).data_type())).collect();
    let names: Vec<&str> = texts.iter().map(|column| schema.field(*column).name().as_str()).collect();
    let survey = py.detach(|| {
        let mut surveyor = TableSurveyor::new(&TableSettings::default(), TableFormat::Csv);
        let mut record = Vec::new();
        write(names.iter().map(|name| Some(name.as_bytes())), &mut record);
        surveyor.push(&record).map_err(|error| error.to_string())?;
        for batch in &batches {
            let rows = of_batch(batch, &texts).map_err(|error| error.to_string())?;
            surveyor.push(&rows).map_err(|error| error.to_string())?;
        }
        surveyor.finish().map_err(|error| error.to_string())
    });
    let survey = survey.map_err(|error: String| cannot_clean(py, error))?;
    let columns = survey.columns.iter().map(|column| {
        let found = column.findings().into_iter();
        let found =
            found.map(|found| (found.what.to_owned(), found.cells.count, found.cells.first, found.rule.to_owned()));
        (column.name.clone(), found.collect())
    });
    let records = batches.iter().map(|batch| batch.num_rows() as u64).sum();
    Ok((records, columns.collect(), table_draft(&[&survey], &["a table".to_owned()])))
}

/// Records in CSV, every cell in quotes. What is missing is empty.
fn of_batch(batch: &RecordBatch, columns: &[usize]) -> Result<Vec<u8>, arrow_schema::ArrowError> {
    let plain = |column: &usize| {
        let array = Arc::clone(batch.column(*column));
        match array.data_type() {
            DataType::Dictionary(_, value) => arrow_cast::cast(&array, value),
            _ => Ok(array),
        }
    };
    let arrays = columns.iter().map(plain).collect::<Result<Vec<_>, _>>()?;
    let cells: Vec<_> = arrays.iter().filter_map(|array| crate::cells::cells(array)).collect();
    let mut rows = Vec::new();
    for record in 0..batch.num_rows() {
        write(cells.iter().map(|cells| cells.cell(record)), &mut rows);
    }
    Ok(rows)
}

fn write<'c>(cells: impl Iterator<Item = Option<&'c [u8]>>, out: &mut Vec<u8>) {
    for (index, cell) in cells.enumerate() {
        out.extend_from_slice(if index > 0 { b",\"" } else { b"\"" });
        for byte in cell.unwrap_or_default() {
            out.extend_from_slice(if *byte == b'"' { b"\"\"" } else { std::slice::from_ref(byte) });
        }
        out.push(b'"');
    }
    out.push(b'\n');
}
