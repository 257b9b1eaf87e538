//! Rules, ready to run.

use std::collections::BTreeMap;
use std::path::PathBuf;
use std::sync::{Arc, Mutex, PoisonError};

use arrow_array::{ArrayRef, RecordBatch, UInt64Array};
use arrow_schema::SchemaRef;
use pyo3::exceptions::{PyTypeError, PyValueError};
use pyo3::prelude::*;
use pyo3::types::{PyBytes, PyString};
use pyo3_arrow::input::{AnyArray, AnyRecordBatch};
use pyo3_arrow::{PyArray, PyChunkedArray, PyRecordBatch, PySchema, PyTable};
use washout_core::explain::{cautions, explain};
use washout_core::table::{Cells, ColumnWasher, Form, TableError, TableFormat};
use washout_core::{Files, NamedFile, Program, RuleId, RuleSet};
use washout_sets::{RuleFiles, read_source};

use crate::column::clean_chunk;
use crate::errors::{cannot_clean, of_rules, of_set};
use crate::table::{TableCleanError, TableCleaner};
use crate::utf16;

/// What messages call rules that were given as text.
const TYPED: &str = "rules";

/// The files a set names: from which set, by which path; what each is called, and what is in it.
type SetFiles = BTreeMap<(String, String), (String, Vec<u8>)>;

/// What a set is made of, so that it can be made again where its files are not.
#[derive(Clone, Debug, Default)]
struct Source {
    name: String,
    text: String,
    files: SetFiles,
}

/// Opens files, and keeps what is in them.
struct KeptFiles<'f> {
    files: &'f dyn Files,
    kept: Mutex<SetFiles>,
}

impl Files for KeptFiles<'_> {
    fn open(&self, from: &str, path: &str, most: u64) -> Result<NamedFile, String> {
        let file = self.files.open(from, path, most)?;
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        kept.insert((from.to_owned(), path.to_owned()), (file.name.clone(), file.bytes.clone()));
        Ok(file)
    }
}

impl Files for Source {
    fn open(&self, from: &str, path: &str, _: u64) -> Result<NamedFile, String> {
        let file = self.files.get(&(from.to_owned(), path.to_owned()));
        let (name, bytes) = file.ok_or("there is no such file")?;
        Ok(NamedFile { name: name.clone(), bytes: bytes.clone() })
    }
}

/// A rule set, ready to run. Make one with `washout.load` or `washout.rules`.
#[pyclass(frozen, module = "washout._washout")]
pub struct Rules {
    source: Source,
    set: RuleSet,
    program: Program,
    counts: Mutex<Vec<u64>>,
    /// What cleaned the last column, and the last table. To make them takes longer than to clean a small one.
    column: Mutex<Option<Arc<ColumnWasher<'static>>>>,
    table: Mutex<Option<TableCleaner>>,
}

/// [`SetFiles`] in a pickle.
type FileParts = Vec<((String, String), (String, Vec<u8>))>;

/// An example: its label, what is given, what that is to become and what it becomes, or what goes wrong.
type ProofParts<'py> =
    (Option<String>, Bound<'py, PyBytes>, Bound<'py, PyBytes>, Option<Bound<'py, PyBytes>>, Option<String>);

/// A rule's number, its label and a count.
type RuleCount = (String, String, u64);

impl Rules {
    fn new(source: Source, set: RuleSet) -> Self {
        let program = Program::compile([&set]);
        let counts = Mutex::new(vec![0; program.names().len()]);
        Self { source, set, program, counts, column: Mutex::default(), table: Mutex::default() }
    }

    fn add(&self, changes: &[u64]) {
        let mut counts = self.counts.lock().unwrap_or_else(PoisonError::into_inner);
        counts.iter_mut().zip(changes).for_each(|(total, made)| *total += made);
    }

    /// What cleans a column.
    fn column_washer(&self) -> Result<Arc<ColumnWasher<'static>>, TableError> {
        let mut kept = self.column.lock().unwrap_or_else(PoisonError::into_inner);
        let washer = match &*kept {
            Some(washer) => Arc::clone(washer),
            None => Arc::clone(kept.insert(Arc::new(self.program.column_washer()?.into_owned()))),
        };
        washer.start_again();
        Ok(washer)
    }

    /// What cleans a table with these fields. It is to be given back with [`keep_table_cleaner`](Self::keep_table_cleaner).
    fn table_cleaner(&self, schema: &SchemaRef) -> Result<TableCleaner, TableCleanError> {
        let kept = self.table.lock().unwrap_or_else(PoisonError::into_inner).take();
        let Some(mut cleaner) = kept.filter(|kept| kept.is_for(schema)) else {
            return TableCleaner::new(&self.program, schema);
        };
        cleaner.start_again();
        Ok(cleaner)
    }

    fn keep_table_cleaner(&self, cleaner: TableCleaner) {
        *self.table.lock().unwrap_or_else(PoisonError::into_inner) = Some(cleaner);
    }

    fn named(&self, counts: &[u64]) -> Vec<RuleCount> {
        let names = self.program.names().iter().zip(counts);
        names.map(|(name, count)| (name.number.clone(), name.caption.clone(), *count)).collect()
    }
}

/// Reads a rule set from a file, or the ready set `ready:NAME`.
#[pyfunction]
pub fn load(py: Python<'_>, path: PathBuf) -> PyResult<Rules> {
    let name = path.to_string_lossy().into_owned();
    let text = read_source(&path).map_err(|error| of_set(py, &name, &error))?;
    from_disk(py, name, text)
}

/// Reads a set whose files are looked for from its folder on.
fn from_disk(py: Python<'_>, name: String, text: String) -> PyResult<Rules> {
    let files = KeptFiles { files: &RuleFiles { typed: None }, kept: Mutex::default() };
    let set = RuleSet::read_with(&name, &text, &files).map_err(|error| of_rules(py, &error))?;
    let files = files.kept.into_inner().unwrap_or_else(PoisonError::into_inner);
    Ok(Rules::new(Source { name, text, files }, set))
}

/// Reads a rule set from its text. Files that it names are looked for from the working folder on.
#[pyfunction]
pub fn rules(py: Python<'_>, text: String) -> PyResult<Rules> {
    from_disk(py, TYPED.to_owned(), text)
}

/// Whether a file that starts like this looks binary, so that no rules are for it.
#[pyfunction]
#[pyo3(name = "_looks_binary")]
pub fn looks_binary(content: &[u8]) -> bool {
    utf16::encoding_of(content).is_none() && washout_sets::looks_binary(content)
}

/// Makes rules again from what they were made of: for pickles.
#[pyfunction]
#[pyo3(name = "_restore")]
pub fn restore(py: Python<'_>, name: String, text: String, files: FileParts) -> PyResult<Rules> {
    let source = Source { name, text, files: files.into_iter().collect() };
    let set = RuleSet::read_with(&source.name, &source.text, &source).map_err(|error| of_rules(py, &error))?;
    Ok(Rules::new(source, set))
}

/// A table through rules, batch by batch: what becomes of it, and which of its records stay, from 0, if not all of them do.
fn clean_batches(
    rules: &Rules,
    batches: &[RecordBatch],
    schema: &SchemaRef,
) -> Result<(Vec<RecordBatch>, SchemaRef, Option<UInt64Array>), TableCleanError> {
    let mut cleaner = rules.table_cleaner(schema)?;
    let (mut cleaned, mut stay, mut before, mut all) = (Vec::with_capacity(batches.len()), Vec::new(), 0, true);
    for batch in batches {
        let (batch_after, kept) = cleaner.clean(batch)?;
        let records = batch.num_rows() as u64;
        match kept {
            Some(kept) => stay.extend(kept.values().iter().map(|record| before + record)),
            None => stay.extend(before..before + records),
        }
        all &= batch_after.num_rows() == batch.num_rows();
        before += records;
        cleaned.push(batch_after);
    }
    rules.add(cleaner.changes());
    let after = Arc::clone(cleaner.schema());
    rules.keep_table_cleaner(cleaner);
    Ok((cleaned, after, (!all).then(|| UInt64Array::from(stay))))
}

#[pymethods]
impl Rules {
    /// Cleans one text: `str` gives `str`, `bytes` gives `bytes`.
    fn clean<'py>(&self, py: Python<'py>, text: &Bound<'py, PyAny>) -> PyResult<Bound<'py, PyAny>> {
        let given = if let Ok(text) = text.cast::<PyString>() {
            text.to_str()?.as_bytes().to_vec()
        } else if let Ok(bytes) = text.cast::<PyBytes>() {
            bytes.as_bytes().to_vec()
        } else {
            let kind = text.get_type().name()?;
            return Err(PyTypeError::new_err(format!(
                "clean takes a str or bytes, not {kind}; clean_column takes columns, clean_table tables"
            )));
        };
        let outcome = py.detach(|| self.program.apply(&given)).map_err(|error| cannot_clean(py, error))?;
        self.add(outcome.changes());
        if outcome.changes().iter().all(|count| *count == 0) {
            return Ok(text.clone());
        }
        if !text.is_instance_of::<PyString>() {
            return Ok(PyBytes::new(py, outcome.text()).into_any());
        }
        let after = std::str::from_utf8(outcome.text());
        let after = after
            .map_err(|_| cannot_clean(py, "the result holds bytes that are not UTF-8; clean the text as bytes"))?;
        Ok(PyString::new(py, after).into_any())
    }

    /// Cleans a file in memory: as a table where its name says that it is one, or as `kind` says: `csv`, `tsv`, `jsonl`,
    /// `json` or `text`. Gives the result and how often each rule has changed something.
    #[pyo3(signature = (content, name, kind=None))]
    fn clean_file<'py>(
        &self,
        py: Python<'py>,
        content: &Bound<'py, PyBytes>,
        name: PathBuf,
        kind: Option<&str>,
    ) -> PyResult<(Bound<'py, PyBytes>, Vec<u64>)> {
        let form = match kind {
            None => self.program.form(name.extension().and_then(std::ffi::OsStr::to_str)),
            Some(kind) => match TableFormat::NAMED.iter().find(|(name, _)| *name == kind) {
                Some((_, TableFormat::Text)) => Form::Text,
                Some((_, format)) => Form::Table(*format),
                None => {
                    let names = TableFormat::NAMED.map(|(name, _)| name).join(", ");
                    return Err(PyValueError::new_err(format!("a file is one of {names}, not {kind}")));
                }
            },
        };
        let given = content.as_bytes();
        let washed = py.detach(|| {
            let encoding = utf16::encoding_of(given);
            let decoded = encoding.map(|encoding| utf16::decode(given, encoding)).transpose()?;
            let text = decoded.as_deref().unwrap_or(given);
            let mut out = Vec::with_capacity(text.len());
            let mut wash = || {
                let mut washer = self.program.washer_of(form, washout_core::observe::NoObserver)?;
                washer.push(text, &mut out)?;
                washer.finish(&mut out)?;
                Ok(washer.changes().to_vec())
            };
            let changes = wash().map_err(|error: washout_core::table::WashError| error.to_string())?;
            let out = match encoding {
                Some(encoding) => utf16::encode(&out, encoding)?,
                None => out,
            };
            Ok((out, changes))
        });
        let (out, changes) = washed.map_err(|error: String| cannot_clean(py, error))?;
        self.add(&changes);
        Ok((PyBytes::new(py, &out), changes))
    }

    /// Cleans a column that is an Arrow array, or a stream of several. Gives Arrow memory again.
    fn _clean_arrow<'py>(&self, py: Python<'py>, column: AnyArray) -> PyResult<Bound<'py, PyAny>> {
        let is_array = matches!(column, AnyArray::Array(_));
        let (chunks, field) = column.into_chunked_array()?.into_inner();
        let cleaned = py.detach(|| {
            let washer = self.column_washer()?;
            let mut changes = vec![0; self.program.names().len()];
            let mut after: Vec<ArrayRef> = Vec::with_capacity(chunks.len());
            for chunk in &chunks {
                after.extend(clean_chunk(&washer, chunk, &mut changes)?);
            }
            self.add(&changes);
            Ok(after)
        });
        let after = cleaned.map_err(|error: crate::column::ColumnError| cannot_clean(py, error))?;
        match (is_array, after.len()) {
            (true, 1) => Ok(Bound::new(py, PyArray::new(after[0].clone(), field))?.into_any()),
            (true, 2..) => Err(cannot_clean(py, crate::column::ColumnError::TooMany)),
            _ => Ok(Bound::new(py, PyChunkedArray::try_new(after, field)?)?.into_any()),
        }
    }

    /// Cleans cells that are Python's `str`, `bytes` or `None`.
    fn _clean_list<'py>(&self, py: Python<'py>, cells: Vec<Bound<'py, PyAny>>) -> PyResult<Vec<Bound<'py, PyAny>>> {
        let mut given: Vec<Option<Vec<u8>>> = Vec::with_capacity(cells.len());
        for (index, cell) in cells.iter().enumerate() {
            given.push(if cell.is_none() {
                None
            } else if let Ok(text) = cell.cast::<PyString>() {
                Some(text.to_str()?.as_bytes().to_vec())
            } else if let Ok(bytes) = cell.cast::<PyBytes>() {
                Some(bytes.as_bytes().to_vec())
            } else {
                let kind = cell.get_type().name()?;
                return Err(PyTypeError::new_err(format!(
                    "cell {} is of type {kind}, and rules are for texts: str, bytes or None",
                    index + 1
                )));
            });
        }
        let washed = py.detach(|| {
            let given: Vec<Option<&[u8]>> = given.iter().map(Option::as_deref).collect();
            self.column_washer()?.wash(&given[..], 0..given.len())
        });
        let washed = washed.map_err(|error| cannot_clean(py, error))?;
        self.add(&washed.changes);
        let Some(after) = washed.cells else { return Ok(cells) };
        let mut result = Vec::with_capacity(cells.len());
        for (index, cell) in cells.into_iter().enumerate() {
            result.push(match (after.cell(index), &given[index]) {
                (Some(after), Some(before)) if after != before.as_slice() => {
                    if cell.is_instance_of::<PyString>() {
                        let text = std::str::from_utf8(after).map_err(|_| {
                            cannot_clean(
                                py,
                                format!("cell {} would hold bytes that are not UTF-8; give it as bytes", index + 1),
                            )
                        })?;
                        PyString::new(py, text).into_any()
                    } else {
                        PyBytes::new(py, after).into_any()
                    }
                }
                _ => cell,
            });
        }
        Ok(result)
    }

    /// Cleans a table of record batches. Gives Arrow memory again, and the records that stay, from 0, if not all of them do.
    fn _clean_table<'py>(
        &self,
        py: Python<'py>,
        table: AnyRecordBatch,
    ) -> PyResult<(Bound<'py, PyAny>, Option<PyArray>)> {
        let is_batch = matches!(table, AnyRecordBatch::RecordBatch(_));
        let (batches, schema) = table.into_table()?.into_inner();
        let cleaned = py.detach(|| clean_batches(self, &batches, &schema));
        let (batches, schema, kept) = cleaned.map_err(|error| cannot_clean(py, error))?;
        let kept = kept.map(|kept| PyArray::from_array_ref(Arc::new(kept)));
        let after = match &batches[..] {
            [batch] if is_batch => Bound::new(py, PyRecordBatch::new(batch.clone()))?.into_any(),
            _ => Bound::new(py, PyTable::try_new(batches, schema)?)?.into_any(),
        };
        Ok((after, kept))
    }

    /// The fields that a table with these fields has after cleaning.
    fn _clean_schema<'py>(&self, py: Python<'py>, schema: PySchema) -> PyResult<Bound<'py, PyAny>> {
        let schema = schema.into_inner();
        let cleaner = TableCleaner::new(&self.program, &schema).map_err(|error| cannot_clean(py, error))?;
        Ok(Bound::new(py, PySchema::new(cleaner.schema().clone()))?.into_any())
    }

    /// How often each rule has changed something: number, label and count.
    fn _counts(&self) -> Vec<RuleCount> {
        let counts = self.counts.lock().unwrap_or_else(PoisonError::into_inner);
        self.named(&counts)
    }

    /// Counts from 0 again.
    fn reset_counts(&self) {
        self.counts.lock().unwrap_or_else(PoisonError::into_inner).fill(0);
    }

    /// What of `expect` does not hold for these counts of a whole run, in sentences.
    fn unmet(&self, counts: Vec<u64>) -> Vec<String> {
        let count = |rule: RuleId| counts.get(rule.0).copied().unwrap_or_default();
        let whole = self.program.expectations().iter().filter(|expected| !expected.each && !expected.sections);
        let unmet = whole.filter(|expected| !expected.count.holds(count(expected.rule)));
        unmet
            .map(|expected| {
                let name = &self.program.names()[expected.rule.0];
                let (wanted, made) = (expected.count.of("change"), count(expected.rule));
                format!(
                    "rule {} ({}) expects {wanted}, and makes {}",
                    name.number,
                    name.caption,
                    if made == 0 { "none".to_owned() } else { made.to_string() }
                )
            })
            .collect()
    }

    /// What each rule does, in words, and where a text may be cut.
    fn explain(&self) -> String {
        let cautions = cautions(std::slice::from_ref(&self.set), &self.program, &[]);
        let mut text = String::new();
        for (index, rule) in explain([&self.set]).iter().enumerate() {
            let name = &rule.rule;
            text.extend([&name.number, "  ", &name.caption, "\n   ", &rule.does.join(" ")]);
            text.extend(["\n   sees     ", &rule.needs, "\n"]);
            for caution in cautions.iter().filter(|caution| caution.rule == Some(RuleId(index))) {
                text.extend(["   caution  ", &caution.message, "\n"]);
            }
            text.push('\n');
        }
        text.push_str(&self.program.cut().to_string());
        text
    }

    /// Between which parts a text or a table may be cut: `lines`, `texts`, `records` or `tables`.
    #[getter]
    fn cut(&self) -> &'static str {
        self.program.cut().name()
    }

    /// The same in a sentence, with the rule that is the reason.
    #[getter]
    fn cut_reason(&self) -> String {
        self.program.cut().to_string()
    }

    /// What becomes of each example of the set: label, given, what it is to become, what it becomes, or what goes wrong.
    fn _test<'py>(&self, py: Python<'py>) -> Vec<ProofParts<'py>> {
        let proofs = self.set.prove(None).map(|proof| {
            let got = proof.got.as_ref().ok().map(|got| PyBytes::new(py, got));
            let failed = proof.got.as_ref().err().map(ToString::to_string);
            let (given, gives) = (PyBytes::new(py, &proof.example.given), PyBytes::new(py, &proof.example.gives));
            (proof.example.label.clone(), given, gives, got, failed)
        });
        proofs.collect()
    }

    /// A text through the rules one by one: number, label, count, and the text each leaves.
    fn _trace<'py>(&self, py: Python<'py>, text: &str) -> PyResult<Vec<(String, String, u64, Bound<'py, PyBytes>)>> {
        let steps = self.program.trace(text.as_bytes()).map_err(|(_, error)| cannot_clean(py, error))?;
        let step = |step: washout_core::trace::Step| {
            let name = &self.program.names()[step.rule.0];
            (name.number.clone(), name.caption.clone(), step.changes, PyBytes::new(py, &step.text))
        };
        Ok(steps.into_iter().map(step).collect())
    }

    /// What messages call the set.
    #[getter]
    fn name(&self) -> &str {
        &self.source.name
    }

    /// Its text.
    #[getter]
    fn text(&self) -> &str {
        &self.source.text
    }

    fn __repr__(&self) -> String {
        let rules = self.program.names().len();
        format!("<washout.Rules {}: {rules} rule{}>", self.source.name, if rules == 1 { "" } else { "s" })
    }

    fn __reduce__<'py>(&self, py: Python<'py>) -> PyResult<(Bound<'py, PyAny>, (String, String, FileParts))> {
        let restore = py.import("washout._washout")?.getattr("_restore")?;
        let files = self.source.files.clone().into_iter().collect();
        Ok((restore, (self.source.name.clone(), self.source.text.clone(), files)))
    }
}
