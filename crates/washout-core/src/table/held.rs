//! What has been received of a table and is not a whole record yet.

use super::csv::LONGEST_RECORD;

/// The start of a record that goes on.
///
/// A record that is not whole is read again when there is twice as much of it: reading it again for each piece would take
/// quadratic time.
#[derive(Debug, Default)]
pub(super) struct Held {
    bytes: Vec<u8>,
    /// With fewer bytes, nothing is tried.
    wanted: usize,
}

impl Held {
    pub(super) fn is_empty(&self) -> bool {
        self.bytes.is_empty()
    }

    /// Takes a piece; gives how much there is now, in bytes.
    pub(super) fn take(&mut self, piece: &[u8]) -> usize {
        self.bytes.extend_from_slice(piece);
        self.bytes.len()
    }

    /// All that is held, if it is enough to be read. `last`: no more follows, so whatever there is is enough.
    pub(super) fn worth_a_try(&mut self, last: bool) -> Option<Vec<u8>> {
        (last || self.bytes.len() >= self.wanted).then(|| std::mem::take(&mut self.bytes))
    }

    /// Holds again what was tried, except the first `done` bytes.
    pub(super) fn keep(&mut self, mut bytes: Vec<u8>, done: usize) {
        // One more than the longest record, so that a longer one is noticed as soon as it is.
        self.wanted = if done == 0 { (2 * bytes.len()).min(LONGEST_RECORD + 1) } else { 0 };
        bytes.drain(..done);
        self.bytes = bytes;
    }
}
