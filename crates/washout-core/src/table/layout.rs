//! The columns of a table: those it has, and those that rules make.

use std::sync::Arc;

/// The columns of a table. Those it came with are numbered first, then those that rules make.
#[derive(Clone, Debug, Default)]
pub(super) struct Layout {
    /// What each is called.
    pub(super) names: Vec<Arc<str>>,
    /// How many the table came with; in JSON Lines, how many rules name, and the one for all others.
    pub(super) originals: usize,
    /// Which of those rules look at.
    pub(super) seen: Vec<bool>,
    /// For each of those, what is made right behind it, in order.
    pub(super) behind: Vec<Vec<usize>>,
}

impl Layout {
    pub(super) fn new(names: Vec<Arc<str>>) -> Self {
        let originals = names.len();
        Self { names, originals, seen: vec![false; originals], behind: vec![Vec::new(); originals] }
    }

    /// Makes a column right behind another, and behind those made there before.
    pub(super) fn make(&mut self, name: &str, source: usize) -> usize {
        let made = self.names.len();
        self.names.push(name.into());
        let original = self.original_of(source);
        let place = self.behind[original].iter().position(|column| *column == source).map_or(0, |place| place + 1);
        // What was made from the same source before stands first.
        let siblings = if source == original { self.behind[original].len() } else { place };
        self.behind[original].insert(siblings, made);
        made
    }

    /// The column of the table behind which this one stands, or the column itself.
    pub(super) fn original_of(&self, column: usize) -> usize {
        if column < self.originals {
            return column;
        }
        self.behind.iter().position(|made| made.contains(&column)).unwrap_or(0)
    }

    pub(super) fn look_at(&mut self, column: usize) {
        let original = self.original_of(column);
        self.seen[original] = true;
    }

    /// How many columns there are behind the last that is seen: nothing of them has to be found.
    pub(super) fn seen_up_to(&self) -> usize {
        self.seen.iter().rposition(|seen| *seen).map_or(0, |last| last + 1)
    }

    pub(super) fn makes_any(&self) -> bool {
        self.names.len() > self.originals
    }
}
