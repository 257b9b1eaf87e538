//! The columns of a table: those it has, those that rules make, and what is written of them.

use std::collections::HashMap;
use std::ops::{Range, RangeInclusive};
use std::sync::Arc;

/// The columns of a table. Those it came with are numbered first, then those that rules make.
#[derive(Clone, Debug, Default)]
pub(super) struct Layout {
    /// What each is called in the table as it came, or when it was made.
    pub(super) names: Vec<Arc<str>>,
    /// How many the table came with; in JSON, how many rules name, and the one for all others.
    pub(super) originals: usize,
    /// The columns of JSON by name, where there are many.
    by_path: HashMap<Arc<str>, usize>,
    /// How many of those can be in what comes in; all except those of JSON that have the name of one that was dropped or
    /// renamed.
    pub(super) read: usize,
    /// Which of those rules look at.
    pub(super) seen: Vec<bool>,
    /// Which of those are looked at even if they hold no text. In CSV all is text.
    pub(super) whole: Vec<bool>,
    /// For each of those, the columns that are made of it.
    pub(super) made: Vec<Vec<usize>>,
    /// For each that rules make, the one after which it was made.
    pub(super) after: Vec<Option<usize>>,
    /// Which are dropped.
    pub(super) dropped: Vec<bool>,
    /// What those are called that have another name now.
    pub(super) renamed: Vec<Option<Arc<str>>>,
    /// The columns that are written, in this order; of CSV only.
    pub(super) order: Vec<usize>,
    /// Records are cells too, since some may be dropped.
    pub(super) has_record_cells: bool,
}

/// Where a new column is written.
#[derive(Clone, Copy, Debug)]
pub(super) enum MadeAt {
    /// Before this one.
    Before(usize),
    /// After this one, and after those that were made there before.
    After(usize),
    Start,
    End,
}

/// A part of a record as it is written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum ColumnRun {
    /// A new cell: which of the cells of its record.
    Made { cell: usize },
    /// Columns that stood side by side. `None`: from the start of the record, or to its end.
    Kept {
        /// Which of the cells of its record are in these.
        cells: Range<usize>,
        /// The cell right before the first.
        after: Option<usize>,
        /// The last cell.
        last: Option<usize>,
    },
}

/// With more names than these, they are looked up by their hashes.
const MANY: usize = 16;

impl Layout {
    pub(super) fn new(names: Vec<Arc<str>>) -> Self {
        let originals = names.len();
        let many = if originals > MANY { &names[..] } else { &[] };
        let by_path = many.iter().enumerate().rev().map(|(column, name)| (Arc::clone(name), column)).collect();
        Self {
            names,
            by_path,
            originals,
            read: originals,
            seen: vec![false; originals],
            whole: vec![false; originals],
            made: vec![Vec::new(); originals],
            after: Vec::new(),
            dropped: vec![false; originals],
            renamed: vec![None; originals],
            order: (0..originals).collect(),
            has_record_cells: false,
        }
    }

    /// Adds a field of JSON that is in no object as it comes; gives its column.
    pub(super) fn add_unread(&mut self, name: &str) -> usize {
        self.names.push(name.into());
        self.originals += 1;
        self.seen.push(false);
        self.whole.push(false);
        self.made.push(Vec::new());
        self.dropped.push(false);
        self.renamed.push(None);
        self.originals - 1
    }

    /// The column of a field of JSON; `None`: no rule names it.
    pub(super) fn column_of_path(&self, path: &str) -> Option<usize> {
        if self.by_path.is_empty() {
            // The first is that of all others.
            return self.names[1..self.read].iter().position(|name| **name == *path).map(|place| place + 1);
        }
        self.by_path.get(path).copied().filter(|column| *column > 0)
    }

    /// What rules call a column.
    pub(super) fn called(&self, column: usize) -> &Arc<str> {
        self.renamed[column].as_ref().unwrap_or(&self.names[column])
    }

    /// Makes a column from another.
    pub(super) fn make(&mut self, name: &str, source: usize, at: MadeAt) -> usize {
        let made = self.names.len();
        self.names.push(name.into());
        self.dropped.push(false);
        self.renamed.push(None);
        let place_of = |column: usize| self.order.iter().position(|other| *other == column).unwrap_or(0);
        let place = match at {
            MadeAt::Before(column) => place_of(column),
            MadeAt::After(column) => {
                let place = place_of(column) + 1;
                // What was made there before stands first.
                place + self.order[place..].iter().take_while(|other| self.stands_after(**other, column)).count()
            }
            MadeAt::Start => 0,
            MadeAt::End => self.order.len(),
        };
        self.order.insert(place, made);
        self.after.push(if let MadeAt::After(column) = at { Some(column) } else { None });
        let original = self.original_of(source);
        self.made[original].push(made);
        made
    }

    /// Whether a column was made after this one, or after one that was.
    fn stands_after(&self, made: usize, column: usize) -> bool {
        let above = made.checked_sub(self.originals).and_then(|made| self.after[made]);
        above.is_some_and(|above| above == column || self.stands_after(above, column))
    }

    /// Drops columns.
    pub(super) fn drop_columns(&mut self, columns: &[usize]) {
        columns.iter().for_each(|column| self.dropped[*column] = true);
        self.order.retain(|other| !self.dropped[*other]);
    }

    /// The column of the table from which this one comes, or the column itself.
    pub(super) fn original_of(&self, column: usize) -> usize {
        if column < self.originals {
            return column;
        }
        self.made.iter().position(|made| made.contains(&column)).unwrap_or(0)
    }

    pub(super) fn look_at(&mut self, column: usize) {
        let original = self.original_of(column);
        self.seen[original] = true;
    }

    /// How many columns there are up to the last that is seen: none after it has to be found.
    pub(super) fn seen_up_to(&self) -> usize {
        self.seen.iter().rposition(|seen| *seen).map_or(0, |last| last + 1)
    }

    /// Whether columns are called otherwise, or dropped, in the table that comes out.
    pub(super) fn changes_keys(&self) -> bool {
        self.dropped.contains(&true) || self.renamed.iter().any(Option::is_some)
    }

    /// The parts of which a CSV record is written, if these are not just its columns. Those columns are seen then that
    /// tell where the parts are.
    pub(super) fn runs(&mut self) -> Option<Vec<ColumnRun>> {
        if self.order.iter().copied().eq(0..self.originals) {
            return None;
        }
        let mut parts: Vec<RangeInclusive<usize>> = Vec::new();
        for column in self.order.iter().copied() {
            match parts.last_mut() {
                Some(last) if column < self.originals && *last.end() + 1 == column => *last = *last.start()..=column,
                _ => parts.push(column..=column),
            }
        }
        for part in parts.iter().filter(|part| *part.start() < self.originals) {
            if *part.start() > 0 {
                self.seen[*part.start() - 1] = true;
            }
            self.seen[*part.end()] |= *part.end() + 1 < self.originals;
        }
        // The first cell of each column among those of its record.
        let mut first_cell = Vec::with_capacity(self.originals + 1);
        let mut cells = usize::from(self.has_record_cells);
        for column in 0..self.originals {
            first_cell.push(cells);
            cells += if self.seen[column] { 1 + self.made[column].len() } else { 0 };
        }
        first_cell.push(cells);
        let runs = parts.into_iter().map(|part| {
            let (first, last) = (*part.start(), *part.end());
            if first >= self.originals {
                let original = self.original_of(first);
                let made = self.made[original].iter().take_while(|other| **other != first).count();
                return ColumnRun::Made { cell: first_cell[original] + 1 + made };
            }
            ColumnRun::Kept {
                cells: first_cell[first]..first_cell[last + 1],
                after: (first > 0).then(|| first_cell[first - 1]),
                last: (last + 1 < self.originals).then(|| first_cell[last]),
            }
        });
        Some(runs.collect())
    }
}
