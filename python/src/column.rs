//! One column through rules.

use std::collections::HashMap;
use std::ops::Range;
use std::sync::Arc;

use arrow_array::cast::AsArray;
use arrow_array::types::ArrowDictionaryKeyType;
use arrow_array::{Array, ArrayRef, DictionaryArray, PrimitiveArray, downcast_dictionary_array};
use arrow_buffer::ArrowNativeType;
use arrow_schema::DataType;
use rayon::prelude::*;
use washout_core::table::{Cells, ColumnWasher, TableError, WashedCells, WashedColumn};

use crate::cells::{Unfit, array, cells};
use crate::threads;

/// Cells that are worth a thread.
const PART: usize = 64 << 10;

/// Why a column cannot be cleaned.
#[derive(Debug)]
pub(crate) enum ColumnError {
    Rule(TableError),
    NoText(DataType),
    NoUtf8,
    TooMany,
}

impl From<TableError> for ColumnError {
    fn from(error: TableError) -> Self {
        Self::Rule(error)
    }
}

impl From<Unfit> for ColumnError {
    fn from(unfit: Unfit) -> Self {
        match unfit {
            Unfit::TooMany => Self::TooMany,
            Unfit::NoUtf8 => Self::NoUtf8,
        }
    }
}

impl std::fmt::Display for ColumnError {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Rule(error) => error.fmt(formatter),
            Self::NoText(kind) => write!(
                formatter,
                "this column holds {kind}, and rules are for texts; cast it to text first, or leave it out"
            ),
            Self::NoUtf8 => formatter.write_str(
                "a cell would hold bytes that are not UTF-8, and this column cannot; cast it to binary first",
            ),
            Self::TooMany => formatter.write_str(
                "the result has over 2 GiB, more than this column can hold in one piece; cast it to large text first, or give \
                 it in chunks",
            ),
        }
    }
}

/// What becomes of one chunk of a column: as many cells, in one array or, where that holds no more than 2 GiB, in several.
/// Adds up the changes of each rule.
pub(crate) fn clean_chunk(
    washer: &ColumnWasher<'_>,
    chunk: &ArrayRef,
    changes: &mut [u64],
) -> Result<Vec<ArrayRef>, ColumnError> {
    if let DataType::Dictionary(..) = chunk.data_type() {
        return Ok(vec![clean_dictionary(washer, chunk, changes)?]);
    }
    if *chunk.data_type() == DataType::Null {
        return Ok(vec![chunk.clone()]);
    }
    let kind = chunk.data_type().clone();
    let Some(_) = cells(chunk) else { return Err(ColumnError::NoText(kind)) };
    let pool = if chunk.len() > PART { threads::pool() } else { None };
    let most = chunk.len().div_ceil(PART).max(1);
    let parts = pool.as_ref().map_or(1, |pool| pool.current_num_threads().clamp(1, most));
    let size = chunk.len().div_ceil(parts).max(1);
    let ranges: Vec<Range<usize>> =
        (0..chunk.len()).step_by(size).map(|start| start..(start + size).min(chunk.len())).collect();
    let wash = |range: &Range<usize>| -> Result<WashedColumn, TableError> {
        let cells = cells(chunk).expect("it holds texts");
        washer.wash(&*cells, range.clone())
    };
    let washed: Vec<WashedColumn> = match pool {
        Some(pool) => pool.install(|| ranges.par_iter().map(wash).collect::<Result<_, _>>())?,
        None => ranges.iter().map(wash).collect::<Result<_, _>>()?,
    };
    for part in &washed {
        changes.iter_mut().zip(&part.changes).for_each(|(total, made)| *total += made);
    }
    if washed.iter().all(|part| part.cells.is_none()) {
        return Ok(vec![chunk.clone()]);
    }
    let mut arrays = Vec::with_capacity(ranges.len());
    for (part, range) in washed.into_iter().zip(ranges) {
        match part.cells {
            Some(cells) => arrays.extend(in_pieces(&kind, cells)?),
            None => arrays.push(chunk.slice(range.start, range.len())),
        }
    }
    Ok(join(arrays))
}

/// One array, or several where one cannot hold it all.
fn join(arrays: Vec<ArrayRef>) -> Vec<ArrayRef> {
    if arrays.len() < 2 {
        return arrays;
    }
    let parts: Vec<&dyn Array> = arrays.iter().map(AsRef::as_ref).collect();
    arrow_select::concat::concat(&parts).map_or(arrays.clone(), |one| vec![one])
}

/// An array of cells; several, each of half of them, where one cannot hold that many bytes.
fn in_pieces(kind: &DataType, washed: WashedCells) -> Result<Vec<ArrayRef>, ColumnError> {
    let longest = i32::MAX as usize;
    if washed.values().len() <= longest || !matches!(kind, DataType::Utf8 | DataType::Binary) {
        return Ok(vec![array(kind, washed)?]);
    }
    // As many cells in each as fit.
    let mut pieces = Vec::new();
    let mut start = 0;
    while start < washed.count() {
        let from = washed.offsets()[start];
        let fit = washed.offsets()[start..].partition_point(|offset| offset - from <= longest);
        let end = (start + fit - 1).max(start + 1);
        pieces.push(array(kind, washed.part(start..end))?);
        start = end;
    }
    Ok(pieces)
}

/// Cleans each value of a dictionary that a cell has, once. Changes count for each cell.
fn clean_dictionary(washer: &ColumnWasher<'_>, chunk: &ArrayRef, changes: &mut [u64]) -> Result<ArrayRef, ColumnError> {
    let dictionary = chunk.as_any_dictionary();
    let values = dictionary.values();
    let Some(cells) = cells(values) else { return Err(ColumnError::NoText(values.data_type().clone())) };
    let mut uses = vec![0_u64; values.len()];
    for (cell, key) in dictionary.normalized_keys().into_iter().enumerate() {
        if dictionary.keys().is_valid(cell) {
            uses[key] += 1;
        }
    }
    // Those that as many cells have are cleaned together.
    let mut order: Vec<usize> = (0..uses.len()).filter(|value| uses[*value] > 0).collect();
    order.sort_by_key(|value| uses[*value]);
    let mut now: Vec<Option<Vec<u8>>> = vec![None; values.len()];
    for same in order.chunk_by(|one, next| uses[*one] == uses[*next]) {
        let given: Vec<Option<&[u8]>> = same.iter().map(|value| cells.cell(*value)).collect();
        let washed = washer.wash(&given[..], 0..given.len())?;
        changes.iter_mut().zip(&washed.changes).for_each(|(total, made)| *total += made * uses[same[0]]);
        let Some(after) = washed.cells else { continue };
        for (place, value) in same.iter().enumerate() {
            if after.cell(place) != given[place] {
                now[*value] = after.cell(place).map(<[u8]>::to_vec);
            }
        }
    }
    if now.iter().all(Option::is_none) {
        return Ok(chunk.clone());
    }
    // Values that have become equal are one.
    let mut after = WashedCells::default();
    let mut known: HashMap<Option<&[u8]>, usize> = HashMap::new();
    let mut now_at = Vec::with_capacity(values.len());
    for (value, now) in now.iter().enumerate() {
        let text = now.as_deref().or_else(|| cells.cell(value));
        let next = known.len();
        let at = *known.entry(text).or_insert(next);
        if at == next {
            after.push(text);
        }
        now_at.push(at);
    }
    let after = array(values.data_type(), after)?;
    if after.len() == values.len() {
        return Ok(dictionary.with_values(after));
    }
    downcast_dictionary_array!(
        chunk => Ok(with_keys(chunk, &now_at, after)),
        _ => Ok(chunk.clone())
    )
}

/// A dictionary with other values: for each of those before, which one it is now.
fn with_keys<K: ArrowDictionaryKeyType>(before: &DictionaryArray<K>, now_at: &[usize], values: ArrayRef) -> ArrayRef {
    let key = |key: K::Native| K::Native::usize_as(now_at[key.as_usize()]);
    let keys: PrimitiveArray<K> = before.keys().iter().map(|before| before.map(key)).collect();
    Arc::new(DictionaryArray::new(keys, values))
}
