//! How much work searches may take, in proportion to the text they have seen.
//!
//! A search may look far ahead for a match that turns out short, and the next one looks over the same text again; it may
//! follow thousands of ways at each byte, or track back again and again. So work beyond a few looks at each byte is counted
//! across all searches of one rule in one text.

/// Steps that are granted to any text: a short one may be as hard as it likes.
const GRANTED: u64 = 64 << 20;

/// Steps for each byte that has been seen.
pub(super) const FOR_EACH_BYTE: u64 = 256;

/// The work of one rule on one text so far.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Budget {
    seen: u64,
    spent: u64,
}

impl Budget {
    /// So many bytes more are to be searched.
    pub(super) fn see(&mut self, bytes: usize) {
        self.seen += bytes as u64;
    }

    /// Takes so many steps. Whether they were left.
    #[must_use]
    pub(super) fn spend(&mut self, steps: u64) -> bool {
        self.spent = self.spent.saturating_add(steps);
        self.spent <= GRANTED + self.seen.saturating_mul(FOR_EACH_BYTE)
    }
}
