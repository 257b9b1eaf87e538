//! How much work searches may take, in proportion to the text they have seen.
//!
//! A search may look far ahead for a match that turns out short, and the next one looks over the same text again; it may
//! follow thousands of ways at each byte, or track back again and again. So work beyond a few looks at each byte is counted
//! across all searches of one rule in one text; or in all texts of a run of short ones, such as the cells of a table.

use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};

/// Steps that are granted to any text: a short one may be as hard as it likes.
const GRANTED: u64 = 64 << 20;

/// Steps for each byte that has been seen.
pub(super) const FOR_EACH_BYTE: u64 = 256;

/// The work of one rule on one text so far.
#[derive(Debug, Default)]
pub(crate) struct WorkBudget {
    seen: u64,
    spent: u64,
    shared: Option<Arc<SharedBudget>>,
}

/// The work of one rule on many short texts so far, on any number of threads.
#[derive(Debug, Default)]
pub(crate) struct SharedBudget {
    seen: AtomicU64,
    spent: AtomicU64,
}

impl SharedBudget {
    /// Forgets the work so far.
    pub(crate) fn start_again(&self) {
        self.seen.store(0, Ordering::Relaxed);
        self.spent.store(0, Ordering::Relaxed);
    }
}

impl WorkBudget {
    /// For one of several texts.
    pub(crate) fn shared(shared: Option<Arc<SharedBudget>>) -> Self {
        Self { shared, ..Self::default() }
    }

    /// Begins with another text. What is shared stays.
    pub(crate) fn start_again(&mut self) {
        (self.seen, self.spent) = (0, 0);
    }

    /// This many bytes more are to be searched.
    pub(super) fn see(&mut self, bytes: usize) {
        self.seen += bytes as u64;
        if let Some(shared) = &self.shared {
            shared.seen.fetch_add(bytes as u64, Ordering::Relaxed);
        }
    }

    /// Takes that many steps. Whether they were left.
    #[must_use]
    pub(super) fn spend(&mut self, steps: u64) -> bool {
        self.spent = self.spent.saturating_add(steps);
        let (seen, spent) = match &self.shared {
            // What is spent is far from what the counter holds long before it could run over: each step takes time.
            Some(shared) => {
                let spent = shared.spent.fetch_add(steps, Ordering::Relaxed).saturating_add(steps);
                (shared.seen.load(Ordering::Relaxed), spent)
            }
            None => (self.seen, self.spent),
        };
        spent <= GRANTED + seen.saturating_mul(FOR_EACH_BYTE)
    }
}
