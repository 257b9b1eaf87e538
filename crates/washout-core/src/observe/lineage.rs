//! Where each stretch of the result comes from, worked out from the changes of each rule.
//!
//! Before each rule stands a queue of stretches that describe the text it sees, in terms of the text as it came in:
//! kept from it, or put there by a rule. What was removed stays among them, although it has no length there. When a rule
//! says how far it has judged, the stretches up to that place move on to the queue of the next rule, cut at the
//! changes it made. What leaves the last queue is final. So memory is needed for what is under way, not for the text.
//!
//! A stretch is a few numbers: the bytes are in one place for all queues.

use super::builder::HunkBuilder;
use super::hunk::{Detail, Hunk, Side};
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
/// let hunks = washer.into_observer().finish();
/// let change = hunks[0].changes().next().expect("one change");
/// assert_eq!((change.line, change.column, &change.before[..]), (2, 3, &b"grey"[..]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Lineage {
    /// One per rule: what the rule has not judged yet.
    queues: Vec<Queue>,
    /// The text before, from the first byte that is in no hunk yet.
    source: Source,
    put: PutBytes,
    hunks: HunkBuilder,
}

/// The text between two rules, from the first place the second has not judged.
#[derive(Debug, Default)]
struct Queue {
    stretches: Vec<Stretch>,
    /// Those before this one have moved on.
    next: usize,
    /// Where the queue starts and ends, in bytes of the text the rule sees.
    start: u64,
    end: u64,
}

/// A stretch of bytes. Those that are in the text before come in the order of that text, in each queue and from queue to
/// queue, so where they are there need not be said.
#[derive(Clone, Copy, Debug)]
struct Stretch {
    side: Side,
    /// Its length in bytes.
    len: usize,
    /// Where in [`PutBytes`] its bytes start, if a rule put them there.
    put_at: u64,
}

/// What is left of the text before.
#[derive(Debug, Default)]
struct Source {
    bytes: Vec<u8>,
    /// How many of them are not needed any more.
    passed: usize,
}

/// What rules have put in place of something.
#[derive(Debug, Default)]
struct PutBytes {
    bytes: Vec<u8>,
    /// Where the first of them stands in all that was ever put.
    start: u64,
    /// How many of them were needed when that was looked at.
    needed: usize,
}

/// Memory that need not be spared, in bytes or stretches.
const ENOUGH: usize = 64 << 10;

impl Stretch {
    /// Its length in the text at this stage.
    fn len_now(&self) -> usize {
        if let Side::Removed(_) = self.side { 0 } else { self.len }
    }

    /// Cuts the first `len` bytes off.
    fn cut(&mut self, len: usize) -> Self {
        let first = Self { len, ..*self };
        self.len -= len;
        self.put_at += len as u64;
        first
    }

    /// Takes in the next one of a queue, if it goes on right where this one ends.
    fn absorbs(&mut self, next: &Self) -> bool {
        let is_put = matches!(self.side, Side::Put(_));
        let goes_on = self.side == next.side && (!is_put || self.put_at + self.len as u64 == next.put_at);
        if goes_on {
            self.len += next.len;
        }
        goes_on
    }
}

impl Source {
    /// The next bytes, which then are not needed any more.
    fn pass(&mut self, len: usize) -> &[u8] {
        let from = self.passed;
        self.passed += len;
        &self.bytes[from..self.passed]
    }

    fn add(&mut self, piece: &[u8]) {
        if self.passed > self.bytes.len() / 2 {
            self.bytes.drain(..self.passed);
            self.passed = 0;
        }
        self.bytes.extend_from_slice(piece);
    }
}

impl PutBytes {
    /// Adds what a rule puts; gives where it starts.
    fn add(&mut self, bytes: &[u8]) -> u64 {
        let at = self.start + self.bytes.len() as u64;
        self.bytes.extend_from_slice(bytes);
        at
    }

    fn of(&self, stretch: &Stretch) -> &[u8] {
        let from = usize::try_from(stretch.put_at - self.start).unwrap_or(usize::MAX);
        &self.bytes[from..from + stretch.len]
    }

    /// Forgets the bytes that are in no queue, where they are many.
    fn tidy(&mut self, queues: &mut [Queue]) {
        if self.bytes.len() < (2 * self.needed).max(ENOUGH) {
            return;
        }
        let mut needed = Self { start: self.start + self.bytes.len() as u64, ..Self::default() };
        for stretch in queues.iter_mut().flat_map(|queue| &mut queue.stretches[queue.next..]) {
            if let Side::Put(_) = stretch.side {
                stretch.put_at = needed.add(self.of(stretch));
            }
        }
        needed.needed = needed.bytes.len();
        *self = needed;
    }
}

impl Lineage {
    /// Follows a program of that many rules and keeps so much of each hunk.
    pub fn new(rules: usize, detail: Detail) -> Self {
        let queues = std::iter::repeat_with(Queue::default).take(rules).collect();
        Self { queues, source: Source::default(), put: PutBytes::default(), hunks: HunkBuilder::new(detail) }
    }

    /// The hunks that are finished and have not been taken yet, in the order of the text.
    pub fn take_hunks(&mut self) -> Vec<Hunk> {
        self.hunks.take()
    }

    /// Closes the text: the last line is a whole one now. Gives the last hunks.
    pub fn finish(mut self) -> Vec<Hunk> {
        for index in 0..self.queues.len() {
            // What was removed at the very end has no length, so no place before the end moved it on.
            let queue = std::mem::take(&mut self.queues[index]);
            queue.waiting().iter().for_each(|stretch| self.pass_on(index + 1, *stretch));
        }
        self.hunks.finish();
        self.hunks.take()
    }

    /// Gives a stretch to the queue of rule `index`, or away as final after the last rule.
    fn pass_on(&mut self, index: usize, stretch: Stretch) {
        let Self { queues, source, put, hunks } = self;
        if let Some(queue) = queues.get_mut(index) {
            return queue.push(stretch);
        }
        let bytes = match stretch.side {
            Side::Put(_) => put.of(&stretch),
            Side::Kept | Side::Removed(_) => source.pass(stretch.len),
        };
        hunks.add(stretch.side, bytes);
    }

    /// Moves everything before `at` (in bytes of the text rule `index` sees) on to the next rule.
    fn move_on(&mut self, index: usize, at: u64) {
        if let [queue, next, ..] = &mut self.queues[index..]
            && next.waiting().is_empty()
            && at >= queue.end
        {
            queue.move_all(next);
            return;
        }
        while let Some(stretch) = self.queues[index].pop_before(at) {
            self.pass_on(index + 1, stretch);
        }
    }
}

impl Queue {
    fn waiting(&self) -> &[Stretch] {
        &self.stretches[self.next..]
    }

    fn push(&mut self, stretch: Stretch) {
        self.end += stretch.len_now() as u64;
        if !self.stretches[self.next..].last_mut().is_some_and(|last| last.absorbs(&stretch)) {
            self.stretches.push(stretch);
        }
    }

    fn pop(&mut self) -> Option<Stretch> {
        let first = self.stretches.get(self.next).copied();
        self.next += usize::from(first.is_some());
        if self.next == self.stretches.len() || self.next > ENOUGH {
            self.stretches.drain(..self.next);
            self.next = 0;
        }
        first
    }

    /// The next stretch, or the part of it that is before `at`. What was removed at `at` itself stays.
    fn pop_before(&mut self, at: u64) -> Option<Stretch> {
        let room = usize::try_from(at.saturating_sub(self.start)).unwrap_or(usize::MAX);
        let first = self.stretches.get_mut(self.next)?;
        if room == 0 {
            return None;
        }
        let len = first.len_now();
        if len <= room {
            self.start += len as u64;
            return self.pop();
        }
        self.start += room as u64;
        Some(first.cut(room))
    }

    /// Moves all on to the next queue, which is empty. What was removed at the end stays.
    fn move_all(&mut self, next: &mut Self) {
        std::mem::swap(&mut self.stretches, &mut next.stretches);
        std::mem::swap(&mut self.next, &mut next.next);
        let moved = next.waiting().iter().rposition(|stretch| stretch.len_now() > 0).map_or(0, |last| last + 1);
        self.stretches.extend(next.stretches.drain(next.next + moved..));
        next.end += self.end - self.start;
        self.start = self.end;
    }
}

impl Observer for Lineage {
    fn input(&mut self, piece: &[u8]) {
        self.put.tidy(&mut self.queues);
        self.source.add(piece);
        self.pass_on(0, Stretch { side: Side::Kept, len: piece.len(), put_at: 0 });
    }

    fn change(&mut self, change: &Change<'_>) {
        let index = change.rule.0;
        self.move_on(index, change.at);
        let end = change.at + change.before.len() as u64;
        while let Some(stretch) = self.queues[index].pop_before(end) {
            match stretch.side {
                Side::Kept => self.pass_on(index + 1, Stretch { side: Side::Removed(change.rule), ..stretch }),
                Side::Removed(_) => self.pass_on(index + 1, stretch),
                // Put there by an earlier rule and gone again: it is in neither text.
                Side::Put(_) => {}
            }
        }
        if !change.after.is_empty() {
            let put_at = self.put.add(change.after);
            self.pass_on(index + 1, Stretch { side: Side::Put(change.rule), len: change.after.len(), put_at });
        }
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.move_on(rule.0, bytes);
    }
}
