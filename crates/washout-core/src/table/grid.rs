//! The cells of a few records, and what happened to them.

use std::sync::Arc;

use crate::text::matches::Span;

/// Records one after the other, with those of their cells that rules may see.
#[derive(Debug, Default)]
pub(super) struct Grid {
    pub(super) records: Vec<GridRecord>,
    /// In the order of the text.
    pub(super) cells: Vec<GridCell>,
    /// Values that are not in the text as they are.
    pub(super) arena: Vec<u8>,
}

/// How far records are read.
#[derive(Clone, Copy, Debug)]
pub(super) struct Extent {
    /// No record that starts after that many bytes,
    pub(super) bytes: usize,
    /// and no more than that many.
    pub(super) records: u64,
    /// No more text follows: the last record is whole as it is.
    pub(super) last: bool,
    /// No record comes before.
    pub(super) first: bool,
}

impl Extent {
    /// All records that are whole.
    pub(super) fn whole(last: bool) -> Self {
        Self { bytes: usize::MAX, records: u64::MAX, last, first: true }
    }
}

/// One record.
#[derive(Clone, Copy, Debug)]
pub(super) struct GridRecord {
    /// Where it is in the text, its line end included.
    pub(super) place: Span,
    /// Its first cell in the grid.
    pub(super) first_cell: usize,
    /// It passes as it is, since it has too few or too many fields, or cannot be read.
    pub(super) is_ragged: bool,
}

/// One cell.
#[derive(Clone, Debug)]
pub(super) struct GridCell {
    pub(super) column: usize,
    /// What messages call its field, where the column alone does not say.
    pub(super) name: Option<Arc<str>>,
    /// As it is written, quotes included; for a new cell the empty stretch where it comes.
    pub(super) raw: Span,
    /// Its value as it came in. Of a new field of a JSON object, the white space it is to have before it, if it stands on a
    /// line of its own.
    pub(super) original: CellValue,
    pub(super) value: CellValue,
    pub(super) kind: CellKind,
    /// Its record or its field has been dropped.
    pub(super) gone: bool,
}

/// What a cell of the grid is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum CellKind {
    /// A text.
    Text,
    /// A text that was not there.
    New,
    /// A value of JSON other than a text. Rules ignore it; records are compared by it, and a result may take its place.
    Other,
    /// The key of a JSON object that is called otherwise now, which is its value.
    Key,
    /// A field of a JSON object that is dropped, with what parts it from the one before.
    Member,
    /// What parts a field of a JSON object from dropped ones before it. It goes if nothing is left of them.
    Separator,
    /// A whole record, with its line end; in an array of JSON, with what parts it from the one before. It goes if it has
    /// been dropped. Its own text is its value.
    Record,
}

/// The column of what is in no column.
pub(super) const NO_COLUMN: usize = usize::MAX;

/// Where the value of a cell is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum CellValue {
    /// In the text.
    Text(Span),
    /// In the arena.
    Arena(Span),
}

impl CellValue {
    pub(super) const EMPTY: Self = Self::Text(Span { start: 0, end: 0 });
}

impl Grid {
    pub(super) fn clear(&mut self) {
        self.records.clear();
        self.cells.clear();
        self.arena.clear();
    }

    pub(super) fn open_record(&mut self, place: Span) {
        self.records.push(GridRecord { place, first_cell: self.cells.len(), is_ragged: false });
    }

    /// Adds the last record itself as a cell. `raw`: what goes with it if it is dropped; `content`: its own text.
    pub(super) fn add_record(&mut self, raw: Span, content: Span) {
        self.cells.push(GridCell::new(NO_COLUMN, raw, CellValue::Text(content), CellKind::Record));
    }

    /// Forgets the cells of the last record: it stays as it is.
    pub(super) fn pass_record(&mut self) {
        if let Some(record) = self.records.last_mut() {
            record.is_ragged = true;
            let is_record = self.cells.get(record.first_cell).is_some_and(|cell| cell.kind == CellKind::Record);
            self.cells.truncate(record.first_cell + usize::from(is_record));
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
    pub(super) fn keep(&mut self, value: &[u8]) -> CellValue {
        let start = self.arena.len();
        self.arena.extend_from_slice(value);
        CellValue::Arena(Span::new(start, self.arena.len()))
    }

    pub(super) fn bytes<'g>(&'g self, value: CellValue, text: &'g [u8]) -> &'g [u8] {
        match value {
            CellValue::Text(span) => span.of(text),
            CellValue::Arena(span) => span.of(&self.arena),
        }
    }

    /// What a cell holds now.
    pub(super) fn value<'g>(&'g self, cell: usize, text: &'g [u8]) -> &'g [u8] {
        self.bytes(self.cells[cell].value, text)
    }

    /// Whether a cell is still as it is written, without quotes: it holds no line end then.
    pub(super) fn is_plain(&self, cell: usize) -> bool {
        let cell = &self.cells[cell];
        cell.value == CellValue::Text(cell.raw)
    }

    /// The record cell of a record, where records are cells.
    pub(super) fn record_cell(&self, record: usize) -> Option<usize> {
        self.cells_of(record).next().filter(|cell| self.cells[*cell].kind == CellKind::Record)
    }

    /// Drops a record, where records are cells.
    pub(super) fn drop_record(&mut self, record: usize) {
        for cell in self.cells_of(record) {
            self.cells[cell].gone = true;
        }
    }

    pub(super) fn is_dropped(&self, record: usize) -> bool {
        self.record_cell(record).is_some_and(|cell| self.cells[cell].gone)
    }

    /// Gives a cell another value.
    pub(super) fn set(&mut self, cell: usize, value: &[u8]) {
        self.cells[cell].value = self.keep(value);
    }

    /// Whether a cell may have to be written again.
    pub(super) fn differs(&self, cell: &GridCell, text: &[u8]) -> bool {
        match cell.kind {
            CellKind::Text | CellKind::Other => {
                cell.value != cell.original && self.bytes(cell.value, text) != self.bytes(cell.original, text)
            }
            CellKind::New | CellKind::Key | CellKind::Member | CellKind::Separator => !cell.gone,
            CellKind::Record => true,
        }
    }
}

impl GridCell {
    /// A cell as it came in.
    pub(super) fn new(column: usize, raw: Span, value: CellValue, kind: CellKind) -> Self {
        Self { column, name: None, raw, original: value, value, kind, gone: false }
    }

    /// Whether rules for cells see it.
    pub(super) fn is_text(&self) -> bool {
        matches!(self.kind, CellKind::Text | CellKind::New) && !self.gone
    }

    /// Whether it holds what a field of its record has, text or not.
    pub(super) fn is_value(&self) -> bool {
        matches!(self.kind, CellKind::Text | CellKind::New | CellKind::Other) && !self.gone
    }
}
