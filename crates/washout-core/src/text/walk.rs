//! What can say whether a match starts at a place.

use super::chars::step;

/// Something that can be found by walking.
pub(crate) trait Walk {
    /// The first place at or after `from` where a match may start.
    fn next_candidate(&self, text: &[u8], from: usize) -> Option<usize>;

    /// The end of the longest match that starts at `at` and whose end is accepted.
    fn match_at(&self, text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<usize>;

    /// The first place after `at` where a match may start, given that none starts at `at`.
    fn after_failure(&self, text: &[u8], at: usize) -> usize {
        at + step(text, at)
    }
}
