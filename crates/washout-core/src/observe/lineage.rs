//! Where each stretch of the result comes from, worked out from the changes of each rule.
//!
//! Between any two rules stands a queue of segments that describe the text there, in terms of the text as it came in:
//! kept from it, or put there by a rule. What was removed rides along, although it has no length there. When a rule
//! says how far it has judged, the segments up to that place move on to the queue of the next rule, cut at the
//! changes it made. What leaves the last queue is final. So memory is needed for what is under way, not for the text.

use std::collections::VecDeque;
use std::ops::Range;
use std::sync::Arc;

use super::hunk::{Detail, Hunk, HunkBuilder, Side};
use super::{Change, Observer};
use crate::rules::RuleId;

/// Follows a text through all rules and groups what happens into hunks: stretches of whole lines that changed
/// together.
///
/// ```
/// use washout_core::observe::{Detail, Lineage};
/// use washout_core::{Program, RuleSet};
///
/// let program = Program::compile([&RuleSet::read_one_rule("rule", "replace = { text = 'grey', with = 'gray' }")?]);
/// let (mut washer, mut out) = (program.washer(Lineage::new(1, Detail::All)), Vec::new());
/// washer.push(b"fog\na grey sea\n", &mut out)?;
/// washer.finish(&mut out)?;
/// let change = &washer.into_observer().finish()[0].changes()[0];
/// assert_eq!((change.line, change.column, &change.before[..]), (2, 3, &b"grey"[..]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Lineage {
    /// One per rule: what the rule has not judged yet.
    queues: Vec<Queue>,
    hunks: HunkBuilder,
}

/// The text between two rules, from the first place the second has not judged.
#[derive(Debug, Default)]
struct Queue {
    segments: VecDeque<SourceSegment>,
    /// Where the queue starts, in bytes of the text the rule sees.
    start: u64,
}

/// A stretch of bytes and where it comes from. Cutting one copies nothing: a block with a thousand changes would
/// else be copied a thousand times.
#[derive(Clone, Debug)]
pub(super) struct SourceSegment {
    pub(super) side: Side,
    source: Arc<[u8]>,
    range: Range<usize>,
}

impl SourceSegment {
    fn new(side: Side, bytes: &[u8]) -> Self {
        Self { side, source: bytes.into(), range: 0..bytes.len() }
    }

    pub(super) fn bytes(&self) -> &[u8] {
        &self.source[self.range.clone()]
    }

    /// Its length in the text at this stage.
    fn len(&self) -> usize {
        match self.side {
            Side::Removed(_) => 0,
            Side::Kept | Side::Put(_) => self.range.len(),
        }
    }

    /// Cuts the first `len` bytes off.
    fn cut(&mut self, len: usize) -> Self {
        let middle = self.range.start + len;
        let first = Self { range: self.range.start..middle, ..self.clone() };
        self.range.start = middle;
        first
    }

    /// Takes `next` in, if it goes on right where this one ends.
    fn absorbs(&mut self, next: &Self) -> bool {
        let goes_on =
            self.side == next.side && self.range.end == next.range.start && Arc::ptr_eq(&self.source, &next.source);
        if goes_on {
            self.range.end = next.range.end;
        }
        goes_on
    }
}

impl Lineage {
    /// Follows a program of that many rules and keeps so much of each hunk.
    pub fn new(rules: usize, detail: Detail) -> Self {
        let queues = std::iter::repeat_with(Queue::default).take(rules).collect();
        Self { queues, hunks: HunkBuilder::new(detail) }
    }

    /// The hunks that are finished and have not been taken yet, in the order of the text.
    pub fn take_hunks(&mut self) -> Vec<Hunk> {
        self.hunks.take()
    }

    /// Closes the text: the last line is a whole one now. Gives the last hunks.
    pub fn finish(mut self) -> Vec<Hunk> {
        for index in 0..self.queues.len() {
            // What was removed at the very end has no length, so no place before the end moved it on.
            for segment in std::mem::take(&mut self.queues[index].segments) {
                self.pass_on(index + 1, segment);
            }
        }
        self.hunks.finish();
        self.hunks.take()
    }

    /// Gives a segment to the queue of rule `index`, or away as final after the last rule.
    fn pass_on(&mut self, index: usize, segment: SourceSegment) {
        match self.queues.get_mut(index) {
            Some(queue) => queue.push(segment),
            None => self.hunks.add(&segment),
        }
    }

    /// Moves everything before `at` (in bytes of the text rule `index` sees) on to the next rule.
    fn move_on(&mut self, index: usize, at: u64) {
        while let Some(segment) = self.queues[index].pop_before(at) {
            self.pass_on(index + 1, segment);
        }
    }
}

impl Queue {
    fn push(&mut self, segment: SourceSegment) {
        if !self.segments.back_mut().is_some_and(|last| last.absorbs(&segment)) {
            self.segments.push_back(segment);
        }
    }

    /// The next segment, or the part of it that is before `at`. What was removed at `at` itself stays.
    fn pop_before(&mut self, at: u64) -> Option<SourceSegment> {
        let room = usize::try_from(at.saturating_sub(self.start)).unwrap_or(usize::MAX);
        let first = self.segments.front_mut()?;
        if room == 0 {
            return None;
        }
        let len = first.len();
        if len <= room {
            self.start += len as u64;
            return self.segments.pop_front();
        }
        self.start += room as u64;
        Some(first.cut(room))
    }
}

impl Observer for Lineage {
    fn input(&mut self, piece: &[u8]) {
        self.pass_on(0, SourceSegment::new(Side::Kept, piece));
    }

    fn change(&mut self, change: &Change<'_>) {
        let index = change.rule.0;
        self.move_on(index, change.at);
        let end = change.at + change.before.len() as u64;
        let mut removed = Vec::new();
        while let Some(segment) = self.queues[index].pop_before(end) {
            removed.push(segment);
        }
        for segment in removed {
            match segment.side {
                Side::Kept => {
                    self.pass_on(index + 1, SourceSegment { side: Side::Removed(change.rule), ..segment });
                }
                Side::Removed(_) => self.pass_on(index + 1, segment),
                // Put there by an earlier rule and gone again: it is in neither text.
                Side::Put(_) => {}
            }
        }
        if !change.after.is_empty() {
            self.pass_on(index + 1, SourceSegment::new(Side::Put(change.rule), change.after));
        }
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.move_on(rule.0, bytes);
    }
}
