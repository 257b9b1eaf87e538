//! Following the changes of a file: the first ones to be shown, or all of them to be written down.

use std::io;
use std::path::Path;
use std::thread::Scope;

use tempfile::SpooledTempFile;
use washout_core::RuleId;
use washout_core::observe::{Change, Detail, Hunk, Lineage, Observer};

use super::excerpt::{CONTEXT, Excerpt, Totals};
use super::record::{Recorder, Writing};

/// What is kept of the changes.
#[derive(Clone, Copy, Default)]
pub struct Follow<'r> {
    /// How many hunks of a file are kept to be shown. Once there are that many, and no recorder wants the others, a long
    /// text is only washed from there on.
    pub hunks: usize,
    /// Of how many files with changes they are kept, at least; of later ones none are.
    pub files: usize,
    /// Whether nothing else of a file is wanted: then the rest of it is not read.
    pub only: bool,
    /// Each of them writes down every change, in order.
    pub recorders: &'r [&'r dyn Recorder],
}

impl Follow<'_> {
    /// Whether anything is kept.
    pub(crate) fn wants_any(&self) -> bool {
        self.hunks > 0 || !self.recorders.is_empty()
    }
}

/// What was kept of the changes of one file.
#[derive(Debug, Default)]
pub struct Followed {
    /// The first hunks.
    pub excerpt: Excerpt,
    /// What each recorder wrote, from the start.
    pub records: Vec<SpooledTempFile>,
}

/// Hunks of cells that are handed on at once.
const CELLS: usize = 512;

/// A text is followed so far at least, in bytes: what changes in most files is counted to the end.
const FOLLOWED: usize = 1 << 20;

/// The same of a table, in cells that change.
const FOLLOWED_CELLS: u64 = 1 << 14;

/// Keeps of the changes of a file what is wanted of them: memory does not grow with their number.
pub(crate) struct FollowObserver<'s, 'f> {
    lineage: Lineage,
    cells: Vec<Hunk>,
    excerpt: Excerpt,
    totals: Totals,
    /// How much of the text has come, in bytes.
    came: usize,
    most: usize,
    only: bool,
    writing: Option<Writing<'s, 'f>>,
}

impl<'s, 'f> FollowObserver<'s, 'f> {
    /// Follows the file at a path through this number of rules. What recorders write of a long file is written on a thread of this
    /// scope.
    pub(crate) fn new(path: &'f Path, rules: usize, follow: Follow<'f>, scope: &'s Scope<'s, 'f>) -> Self {
        let writing = Writing::new(path, follow.recorders, scope);
        Self {
            lineage: Lineage::new(rules, detail(writing.is_some())),
            cells: Vec::new(),
            excerpt: Excerpt::default(),
            totals: Totals::default(),
            came: 0,
            most: follow.hunks,
            only: follow.only,
            writing,
        }
    }

    fn keep(&mut self, hunks: Vec<Hunk>) {
        for hunk in &hunks {
            self.totals.add(hunk);
            if self.excerpt.hunks.len() < self.most {
                self.excerpt.hunks.push(hunk.around(CONTEXT));
            }
        }
        if let Some(writing) = &mut self.writing {
            writing.write(hunks);
        }
    }

    /// What was kept; the error is that of a temporary file.
    pub(crate) fn finish(mut self) -> io::Result<Followed> {
        let cells = std::mem::take(&mut self.cells);
        self.keep(cells);
        if self.is_active() {
            let lineage = std::mem::replace(&mut self.lineage, Lineage::new(0, Detail::Parts));
            self.keep(lineage.finish());
            self.excerpt.totals = Some(self.totals);
        }
        let records = self.writing.map(Writing::finish).transpose()?.unwrap_or_default();
        Ok(Followed { excerpt: self.excerpt, records })
    }
}

/// How much of each hunk is kept on the way.
fn detail(is_recorded: bool) -> Detail {
    if is_recorded { Detail::Parts } else { Detail::Around { context: CONTEXT } }
}

impl Observer for FollowObserver<'_, '_> {
    fn is_active(&self) -> bool {
        let is_long = self.came > FOLLOWED || self.totals.hunks > FOLLOWED_CELLS;
        self.writing.is_some() || self.excerpt.hunks.len() < self.most || !(is_long || self.is_done())
    }

    fn is_done(&self) -> bool {
        self.only && self.excerpt.hunks.len() >= self.most
    }

    fn input(&mut self, piece: &[u8]) {
        let hunks = self.lineage.take_hunks();
        self.keep(hunks);
        self.came = self.came.saturating_add(piece.len());
        if self.is_active() {
            self.lineage.input(piece);
        }
    }

    fn change(&mut self, change: &Change<'_>) {
        self.lineage.change(change);
    }

    fn cell(&mut self, hunk: Hunk) {
        self.cells.push(hunk);
        if self.cells.len() >= CELLS || self.only {
            let cells = std::mem::take(&mut self.cells);
            self.keep(cells);
        }
    }

    fn detail(&self) -> Detail {
        detail(self.writing.is_some())
    }

    fn byte_order_mark(&mut self, rule: RuleId) {
        self.excerpt.byte_order_mark = Some(rule);
        if let Some(writing) = &mut self.writing {
            writing.byte_order_mark(rule);
        }
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.lineage.judged(rule, bytes);
    }
}
