//! What a rule set may take, with the sets it includes and the files it names: rule sets come from strangers too.

use std::cell::{Cell, RefCell};
use std::sync::Arc;

use crate::pattern::CompiledPattern;

/// All files that are named, together, in bytes.
pub(super) const MOST_BYTES: u64 = 32 << 20;

/// All rules.
pub(super) const MOST_RULES: usize = 10_000;

/// How many sets may include each other in a row.
pub(super) const DEEPEST: usize = 32;

/// All compiled patterns together, in bytes.
pub(super) const MOST_COMPILED: u64 = 256 << 20;

/// What has been taken so far.
#[derive(Debug, Default)]
pub(super) struct ReadBudget {
    bytes: Cell<u64>,
    rules: Cell<usize>,
    /// What the patterns take that are compiled or not `uncounted`, and more than the others will take.
    compiled: Cell<u64>,
    /// Patterns of which only a bound is known, which is far more than most of them take: it is summed up in `compiled`.
    uncounted: RefCell<Vec<Arc<CompiledPattern>>>,
}

impl ReadBudget {
    /// How many bytes of files may be read yet.
    pub(super) fn bytes_left(&self) -> u64 {
        MOST_BYTES - self.bytes.get()
    }

    /// A file was read. Whether that was allowed.
    pub(super) fn add_file(&self, bytes: usize) -> bool {
        let bytes = self.bytes.get().saturating_add(bytes as u64);
        self.bytes.set(bytes.min(MOST_BYTES));
        bytes <= MOST_BYTES
    }

    /// Another rule. Gives how many that are.
    pub(super) fn add_rule(&self) -> usize {
        self.rules.set(self.rules.get() + 1);
        self.rules.get()
    }

    /// Another pattern. Whether that is allowed.
    pub(super) fn add_pattern(&self, pattern: Arc<CompiledPattern>) -> bool {
        let bound = pattern.size_bound();
        self.compiled.set(self.compiled.get().saturating_add(bound));
        let mut uncounted = self.uncounted.borrow_mut();
        uncounted.push(pattern);
        if self.compiled.get() > MOST_COMPILED {
            // Only compiling them tells what they take.
            for pattern in uncounted.drain(..) {
                let less = pattern.size_bound().saturating_sub(pattern.size());
                self.compiled.set(self.compiled.get().saturating_sub(less));
            }
        }
        self.compiled.get() <= MOST_COMPILED
    }
}
