//! Changes reported as they are made.

mod builder;
mod hunk;
mod lineage;
mod noted;
mod placed;

pub use hunk::{CellPlace, CellSource, Detail, Hunk, Piece, Side};
pub use lineage::Lineage;
pub use noted::Noted;
pub use placed::PlacedChange;

use crate::rules::RuleId;

/// One change, as a rule makes it.
#[derive(Clone, Copy, Debug)]
pub struct Change<'c> {
    /// The rule.
    pub rule: RuleId,
    /// Where the change starts, in bytes from the start of the text **this rule** sees: the whole result of the rules
    /// before it. A byte order mark does not count.
    pub at: u64,
    /// What went.
    pub before: &'c [u8],
    /// What came.
    pub after: &'c [u8],
    /// How many matches the change stands for: neighbouring ones on a line are one change.
    pub matches: u64,
}

/// Is told what happens to a text. Every method does nothing by default.
///
/// For each rule, changes come in ascending order without overlap. Different rules are at different places of the
/// text at the same time.
pub trait Observer {
    /// Whether anyone listens. An observer that says no costs nothing.
    fn is_active(&self) -> bool {
        true
    }

    /// Whether it knows all it wants to: the rest of the text need not be washed for it. Whoever washes a text asks.
    fn is_done(&self) -> bool {
        false
    }

    /// The next piece of the text as it came in, without its byte order mark.
    fn input(&mut self, piece: &[u8]) {
        let _ = piece;
    }

    /// A rule makes a change.
    fn change(&mut self, change: &Change<'_>) {
        let _ = change;
    }

    /// A rule drops the byte order mark, which is in no rule's text. One match.
    fn byte_order_mark(&mut self, rule: RuleId) {
        let _ = rule;
    }

    /// Of a table: what happened to a stretch of a cell, which `hunk.cell` names. Nothing else is reported a table.
    fn cell(&mut self, hunk: Hunk) {
        let _ = hunk;
    }

    /// How much of the cells of a table it wants to be told.
    fn detail(&self) -> Detail {
        Detail::All
    }

    /// The one rule of which it wants to be told, in a table; `None`: of all.
    fn only_rule(&self) -> Option<RuleId> {
        None
    }

    /// A rule has judged this many bytes of its text: all its changes that start before are reported.
    fn judged(&mut self, rule: RuleId, bytes: u64) {
        let _ = (rule, bytes);
    }
}

/// Reports to no one.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoObserver;

impl Observer for NoObserver {
    #[inline]
    fn is_active(&self) -> bool {
        false
    }
}
