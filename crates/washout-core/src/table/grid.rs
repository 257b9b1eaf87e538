//! The cells of a few records, and what has become of them.

use std::sync::Arc;

use crate::matching::Span;

/// Records one behind the other, with those of their cells that rules may see.
#[derive(Debug, Default)]
pub(super) struct Grid {
    pub(super) records: Vec<Record>,
    /// In the order of the text.
    pub(super) cells: Vec<Cell>,
    /// Values that are not in the text as they are.
    pub(super) arena: Vec<u8>,
}

/// How far records are read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Extent {
    /// No record that starts behind so many bytes,
    pub(super) bytes: usize,
    /// and no more than so many.
    pub(super) records: u64,
    /// No more text follows: the last record is whole as it is.
    pub(super) last: bool,
}

impl Extent {
    /// All records that are whole.
    pub(super) fn whole(last: bool) -> Self {
        Self { bytes: usize::MAX, records: u64::MAX, last }
    }
}

/// One record.
#[derive(Clone, Copy, Debug)]
pub(super) struct Record {
    /// Where it is in the text, its line end included.
    pub(super) place: Span,
    /// Its first cell in the grid.
    pub(super) first_cell: usize,
}

/// One cell.
#[derive(Clone, Debug)]
pub(super) struct Cell {
    pub(super) column: usize,
    /// What messages call its field, where the column alone does not say.
    pub(super) name: Option<Arc<str>>,
    /// As it is written, quotes included; for a new cell the empty stretch where it comes.
    pub(super) raw: Span,
    /// Its value as it came in.
    pub(super) original: Value,
    pub(super) value: Value,
    /// It was not there.
    pub(super) is_new: bool,
}

/// Where the value of a cell is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Value {
    /// In the text.
    Text(Span),
    /// In the arena.
    Arena(Span),
}

impl Value {
    pub(super) const EMPTY: Self = Self::Text(Span { start: 0, end: 0 });
}

impl Grid {
    pub(super) fn clear(&mut self) {
        self.records.clear();
        self.cells.clear();
        self.arena.clear();
    }

    pub(super) fn open_record(&mut self, place: Span) {
        self.records.push(Record { place, first_cell: self.cells.len() });
    }

    /// Forgets the cells of the last record: it stays as it is.
    pub(super) fn pass_record(&mut self) {
        if let Some(record) = self.records.last() {
            self.cells.truncate(record.first_cell);
        }
    }

    /// The cells of each record, by their places in the grid.
    pub(super) fn cells_of(&self, record: usize) -> std::ops::Range<usize> {
        let end = self.records.get(record + 1).map_or(self.cells.len(), |next| next.first_cell);
        self.records[record].first_cell..end
    }

    /// The record a cell is in, from 0.
    pub(super) fn record_of(&self, cell: usize) -> usize {
        self.records.partition_point(|record| record.first_cell <= cell).saturating_sub(1)
    }

    /// Keeps a value that is not in the text.
    pub(super) fn keep(&mut self, value: &[u8]) -> Value {
        let start = self.arena.len();
        self.arena.extend_from_slice(value);
        Value::Arena(Span::new(start, self.arena.len()))
    }

    pub(super) fn bytes<'g>(&'g self, value: Value, text: &'g [u8]) -> &'g [u8] {
        match value {
            Value::Text(span) => span.of(text),
            Value::Arena(span) => span.of(&self.arena),
        }
    }

    /// What a cell holds now.
    pub(super) fn value<'g>(&'g self, cell: usize, text: &'g [u8]) -> &'g [u8] {
        self.bytes(self.cells[cell].value, text)
    }

    /// Whether a cell is still as it is written, without quotes: it holds no line end then.
    pub(super) fn is_plain(&self, cell: usize) -> bool {
        let cell = &self.cells[cell];
        cell.value == Value::Text(cell.raw)
    }

    /// Gives a cell another value.
    pub(super) fn set(&mut self, cell: usize, value: &[u8]) {
        self.cells[cell].value = self.keep(value);
    }

    /// Whether a cell is to be written anew.
    pub(super) fn differs(&self, cell: &Cell, text: &[u8]) -> bool {
        cell.is_new || (cell.value != cell.original && self.bytes(cell.value, text) != self.bytes(cell.original, text))
    }
}
