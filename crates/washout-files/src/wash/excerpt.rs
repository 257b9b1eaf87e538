//! The first changes of a text, kept to be shown.

use washout_core::RuleId;
use washout_core::observe::{CellPlace, Hunk};

/// Bytes of unchanged text kept on either side of a change: enough for the widest terminals.
pub const CONTEXT: usize = 512;

/// The first hunks of a text, and how much changes in all of it.
#[derive(Debug, Default)]
pub struct Excerpt {
    /// The first hunks.
    pub hunks: Vec<Hunk>,
    /// What all hunks come to. `None`: there may be more than were kept, and no one has looked at them.
    pub totals: Option<Totals>,
    /// The rule that drops the byte order mark, if there is one to drop.
    pub byte_order_mark: Option<RuleId>,
}

/// What the hunks of a text come to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Totals {
    /// Hunks.
    pub hunks: u64,
    /// Lines of the text before that changed; of a table, its cells.
    pub changed_lines: u64,
    /// Of a table, the records that go.
    pub dropped_records: u64,
    /// Of a table, the names of fields that go or change.
    pub changed_names: u64,
}

impl Excerpt {
    /// Whether the text differs in the end. One rule may undo what another did.
    pub fn differs(&self) -> bool {
        !self.hunks.is_empty() || self.totals.is_none_or(|totals| totals.hunks > 0) || self.byte_order_mark.is_some()
    }

    /// How many hunks there are after those that were kept; `None`: that is not known.
    pub fn more_hunks(&self) -> Option<u64> {
        self.totals.map(|totals| totals.hunks - self.hunks.len() as u64)
    }
}

impl Totals {
    pub(super) fn add(&mut self, hunk: &Hunk) {
        self.hunks += 1;
        // A cell counts once, however many lines it has.
        match &hunk.cell {
            Some(CellPlace { field: None, .. }) => self.dropped_records += 1,
            Some(CellPlace { record: 0, .. }) => self.changed_names += 1,
            Some(_) => self.changed_lines += 1,
            // The line that a later part of a hunk begins in was counted with the part before.
            None if hunk.chars_before > 0 => self.changed_lines += hunk.lines_before.saturating_sub(1),
            None => self.changed_lines += hunk.lines_before.max(1),
        }
    }
}
