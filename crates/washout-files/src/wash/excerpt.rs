//! The first changes of a text, kept to be shown.

use washout_core::RuleId;
use washout_core::observe::{CellPlace, Change, Detail, Hunk, Lineage, Observer};

/// Bytes of unchanged text kept on either side of a change: enough for the widest terminals.
const CONTEXT: usize = 512;

/// The first hunks of a text, and how much more there is.
#[derive(Debug, Default)]
pub struct Excerpt {
    /// The first hunks.
    pub hunks: Vec<Hunk>,
    /// Hunks after those.
    pub more_hunks: u64,
    /// Lines of the text before that changed, in all hunks; of a table, its cells.
    pub changed_lines: u64,
    /// Of a table, the records that go.
    pub dropped_records: u64,
    /// Of a table, the names of fields that go or change.
    pub changed_names: u64,
    /// The rule that drops the byte order mark, if there is one to drop.
    pub byte_order_mark: Option<RuleId>,
}

impl Excerpt {
    /// Whether the text differs in the end. One rule may undo what another did.
    pub fn differs(&self) -> bool {
        let changed = [self.changed_lines, self.dropped_records, self.changed_names];
        changed.iter().any(|count| *count > 0) || self.byte_order_mark.is_some()
    }

    fn add(&mut self, hunks: Vec<Hunk>, most: usize) {
        for hunk in hunks {
            // A cell counts once, however many lines it has.
            match &hunk.cell {
                Some(CellPlace { field: None, .. }) => self.dropped_records += 1,
                Some(CellPlace { record: 0, .. }) => self.changed_names += 1,
                Some(_) => self.changed_lines += 1,
                None => self.changed_lines += hunk.lines_before.max(1),
            }
            if self.hunks.len() < most {
                self.hunks.push(hunk);
            } else {
                self.more_hunks += 1;
            }
        }
    }
}

/// Follows a text and keeps its first hunks: memory does not grow with the number of changes.
#[derive(Debug)]
pub(crate) struct ExcerptObserver {
    lineage: Lineage,
    excerpt: Excerpt,
    most: usize,
}

impl ExcerptObserver {
    pub(crate) fn new(rules: usize, most: usize) -> Self {
        Self { lineage: Lineage::new(rules, Detail::Around { context: CONTEXT }), excerpt: Excerpt::default(), most }
    }

    pub(crate) fn finish(mut self) -> Excerpt {
        self.excerpt.add(self.lineage.finish(), self.most);
        self.excerpt
    }
}

impl Observer for ExcerptObserver {
    fn input(&mut self, piece: &[u8]) {
        let hunks = self.lineage.take_hunks();
        self.excerpt.add(hunks, self.most);
        self.lineage.input(piece);
    }

    fn change(&mut self, change: &Change<'_>) {
        self.lineage.change(change);
    }

    fn cell(&mut self, hunk: Hunk) {
        self.excerpt.add(vec![hunk], self.most);
    }

    fn detail(&self) -> Detail {
        Detail::Around { context: CONTEXT }
    }

    fn byte_order_mark(&mut self, rule: RuleId) {
        self.excerpt.byte_order_mark = Some(rule);
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.lineage.judged(rule, bytes);
    }
}
