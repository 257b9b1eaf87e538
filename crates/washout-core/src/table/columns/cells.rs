//! The cells of a column as they come, and as they go.

/// The cells of a column.
pub trait Cells {
    /// How many there are.
    fn count(&self) -> usize;

    /// The bytes of a cell, from 0. `None`: it is missing, and stays so.
    fn cell(&self, index: usize) -> Option<&[u8]>;
}

impl Cells for [Option<&[u8]>] {
    fn count(&self) -> usize {
        self.len()
    }

    fn cell(&self, index: usize) -> Option<&[u8]> {
        self[index]
    }
}

impl<C: Cells + ?Sized> Cells for &C {
    fn count(&self) -> usize {
        (*self).count()
    }

    fn cell(&self, index: usize) -> Option<&[u8]> {
        (*self).cell(index)
    }
}

/// Cells that were made, one after the other, as Arrow has them.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct WashedCells {
    values: Vec<u8>,
    /// Where each cell starts, and where the last one ends.
    offsets: Vec<usize>,
    /// Which cells are missing. Empty if none is.
    missing: Vec<bool>,
}

impl Default for WashedCells {
    fn default() -> Self {
        Self::with_capacity(0, 0)
    }
}

impl WashedCells {
    pub(super) fn with_capacity(cells: usize, bytes: usize) -> Self {
        let mut offsets = Vec::with_capacity(cells + 1);
        offsets.push(0);
        Self { values: Vec::with_capacity(bytes), offsets, missing: Vec::new() }
    }

    /// Adds a cell; `None`: one that is missing.
    pub fn push(&mut self, cell: Option<&[u8]>) {
        if cell.is_none() && self.missing.is_empty() {
            self.missing.resize(self.offsets.len() - 1, false);
        }
        if cell.is_none() || !self.missing.is_empty() {
            self.missing.push(cell.is_none());
        }
        self.values.extend_from_slice(cell.unwrap_or_default());
        self.offsets.push(self.values.len());
    }

    /// The bytes of all cells, one after the other. Those that are missing have none.
    pub fn values(&self) -> &[u8] {
        &self.values
    }

    /// Where each cell starts among [`values`](Self::values), in bytes from 0, and where the last one ends: one more than
    /// there are cells.
    pub fn offsets(&self) -> &[usize] {
        &self.offsets
    }

    /// Which cells are missing, one by one; empty if none is.
    pub fn missing(&self) -> &[bool] {
        &self.missing
    }

    /// Some of the cells, from 0, by themselves.
    ///
    /// # Panics
    /// If there are fewer.
    #[must_use]
    pub fn part(&self, cells: std::ops::Range<usize>) -> Self {
        cells.map(|cell| self.cell(cell)).collect()
    }

    /// The bytes and the offsets by themselves.
    pub fn into_parts(self) -> (Vec<u8>, Vec<usize>) {
        (self.values, self.offsets)
    }
}

impl<'c> FromIterator<Option<&'c [u8]>> for WashedCells {
    fn from_iter<I: IntoIterator<Item = Option<&'c [u8]>>>(cells: I) -> Self {
        let cells = cells.into_iter();
        let mut made = Self::with_capacity(cells.size_hint().0, 0);
        cells.for_each(|cell| made.push(cell));
        made
    }
}

impl Cells for WashedCells {
    fn count(&self) -> usize {
        self.offsets.len() - 1
    }

    fn cell(&self, index: usize) -> Option<&[u8]> {
        let is_missing = self.missing.get(index).copied().unwrap_or(false);
        (!is_missing).then(|| &self.values[self.offsets[index]..self.offsets[index + 1]])
    }
}
