//! All rules of a program at work on one text.

use std::ops::Range;
use std::sync::Arc;

use super::chain::{ChainScratch, Passed, pass_between};
use super::error::RunError;
use super::opening::{FirstLineEnd, Opening, TextOpening};
use super::output_chunks::OutputChunks;
use super::parallel_segment::ParallelSegment;
use super::rule_runner::{Failure, StopReason};
use super::segment::{BLOCK, blocks};
use crate::observe::Observer;
use crate::operations::BlockContext;
use crate::pattern::SharedBudget;
use crate::program::Program;
use crate::rules::RuleId;
use crate::text::{BOM, LineEnd};

/// How much goes through all rules at once for each thread that works, in bytes,
const TURN: usize = 512 << 10;

/// and for all of them.
const MOST_AT_ONCE: usize = 4 << 20;

/// How much goes through all rules at once where that many threads work, in bytes. Memory is not to grow with the
/// processor.
pub fn bytes_at_once(threads: usize) -> usize {
    (TURN * threads).min(MOST_AT_ONCE)
}

/// Washes one text that comes in pieces cut anywhere.
///
/// Give it the pieces with [`push`](Self::push) and close with [`finish`](Self::finish). What is appended to `out` is
/// certain; what a rule cannot judge yet comes with a later call. The result does not depend on how the text is cut.
///
/// ```
/// use washout_core::observe::NoObserver;
/// use washout_core::{Program, RuleSet};
///
/// let program = Program::compile([&RuleSet::read_one_rule("rule", "remove.text = 'fog'")?]);
/// let (mut washer, mut out) = (program.washer(NoObserver), Vec::new());
/// for piece in [&b"the fo"[..], b"g horn\n"] {
///     washer.push(piece, &mut out)?;
/// }
/// washer.finish(&mut out)?;
/// assert_eq!((&out[..], washer.changes()), (&b"the  horn\n"[..], &[1][..]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug)]
pub struct Washer<'p, O> {
    program: &'p Program,
    parallel: Vec<ParallelSegment<'p>>,
    changes: Vec<u64>,
    observer: O,
    block: usize,
    opening: Opening,
    first_line_end: FirstLineEnd,
    drops_bom: Option<RuleId>,
    /// The text so far ends within a line.
    within_line: bool,
    between: ChainScratch,
    /// How much of the text has been received, in bytes.
    came: u64,
    /// What is given for a piece to those who want a copy, kept for its memory.
    given: OutputChunks,
    /// The same of what is given for a block.
    block_given: OutputChunks,
}

impl Program {
    /// Starts on a text that comes in pieces.
    pub fn washer<O: Observer>(&self, observer: O) -> Washer<'_, O> {
        Washer::new(self, observer)
    }
}

impl<'p, O: Observer> Washer<'p, O> {
    pub(crate) fn new(program: &'p Program, observer: O) -> Self {
        let (plan, ops) = (program.plan(), program.ops());
        Self {
            program,
            parallel: plan.iter().map(|segment| ParallelSegment::new(segment, ops)).collect(),
            changes: vec![0; program.ops().len()],
            observer,
            block: BLOCK,
            opening: Opening::Maybe(Vec::new()),
            first_line_end: FirstLineEnd::None,
            drops_bom: None,
            within_line: false,
            came: 0,
            between: ChainScratch::default(),
            given: OutputChunks::default(),
            block_given: OutputChunks::default(),
        }
    }

    fn with_parallel_segments(mut self, threads: usize, least: Option<usize>) -> Self {
        let (plan, ops) = (self.program.plan(), self.program.ops());
        self.parallel
            .iter_mut()
            .zip(plan)
            .for_each(|(parallel, segment)| parallel.spread(segment, ops, threads, least));
        self
    }

    /// Sets how much goes through all rules at once, in bytes; results do not depend on it. 0 counts as 1.
    #[must_use]
    pub fn with_block_size(mut self, bytes: usize) -> Self {
        self.block = bytes.max(1);
        self
    }

    /// Lets that many threads of the current thread pool work on the text at the same time, as far as its rules act line
    /// by line, from here on; results do not depend on it. Pieces to [`push`](Self::push) should be of [that many
    /// bytes](bytes_at_once). With an observer that is active, one thread does it all.
    #[must_use]
    pub fn with_threads(mut self, threads: usize) -> Self {
        if threads <= 1 {
            return self;
        }
        self.block = bytes_at_once(threads);
        self.with_parallel_segments(threads, None)
    }

    /// As [`with_threads`](Self::with_threads), for texts of any size: that many bytes are worth a thread. For tests.
    #[doc(hidden)]
    #[must_use]
    pub fn with_threads_on(self, threads: usize, bytes: usize) -> Self {
        self.with_parallel_segments(threads, Some(bytes.max(1)))
    }

    /// Sends all lines through one rule after the other where that can be done, as is done where most lines are dirty. For
    /// tests.
    #[doc(hidden)]
    #[must_use]
    pub fn with_sweeps(mut self) -> Self {
        self.parallel.iter_mut().for_each(ParallelSegment::sweep_always);
        self
    }

    /// For one of several texts in which each rule has one budget, in the order of the rules.
    pub(crate) fn sharing(mut self, budgets: &[Arc<SharedBudget>]) -> Self {
        self.parallel
            .iter_mut()
            .flat_map(ParallelSegment::runners_mut)
            .for_each(|runner| runner.share(&budgets[runner.rule.0]));
        self
    }

    /// Rules that number go on where others left off: how many numbers each has given before, in the order of the rules.
    pub(crate) fn counting_from(mut self, numbered: &[u64]) -> Self {
        self.parallel
            .iter_mut()
            .flat_map(ParallelSegment::runners_mut)
            .for_each(|runner| runner.count_from(numbered[runner.rule.0]));
        self
    }

    /// How many numbers each rule has given, those before this text included.
    pub(crate) fn counted(&mut self, numbered: &mut [u64]) {
        self.parallel
            .iter_mut()
            .flat_map(ParallelSegment::runners_mut)
            .for_each(|runner| numbered[runner.rule.0] = runner.numbered());
    }

    /// For a text within a run: it has no byte order mark, and what its first line end is was seen before.
    pub(crate) fn within(mut self, first_line_end: Option<LineEnd>) -> Self {
        self.opening = Opening::Passed;
        self.first_line_end = FirstLineEnd::Known(first_line_end);
        self
    }

    /// Takes the next piece of the text and appends all of the result that is certain to `out`.
    ///
    /// # Errors
    /// A rule that cannot go on. The text is lost to this washer then, and what it has given is not a whole result.
    pub fn push(&mut self, piece: &[u8], out: &mut Vec<u8>) -> Result<(), RunError> {
        let mut given = std::mem::take(&mut self.given);
        self.push_uncopied(piece, &mut given)?;
        given.append_to(piece, out);
        given.clear();
        self.given = given;
        Ok(())
    }

    /// As [`push`](Self::push), but gives what is certain without copying it; what was given before is forgotten.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn push_uncopied(&mut self, piece: &[u8], given: &mut OutputChunks) -> Result<(), RunError> {
        given.clear();
        let is_behind = self.opening.is_behind(piece);
        let pushed = match std::mem::replace(&mut self.opening, Opening::Passed) {
            Opening::Maybe(mut start) if !is_behind => {
                start.extend_from_slice(piece);
                self.push_start(start, given)
            }
            _ => self.push_text(piece, given),
        };
        self.count_changes();
        pushed.map_err(|failure| self.error(failure))?;
        self.refuse_too_much_memory()
    }

    /// The start of a text, which may begin with a byte order mark.
    fn push_start(&mut self, start: Vec<u8>, given: &mut OutputChunks) -> Result<(), Failure> {
        let text = match self.opening.open(start) {
            TextOpening::NotYet => return Ok(()),
            TextOpening::Text(text) => text,
            TextOpening::Marked(text) => {
                self.byte_order_mark(given.made());
                text
            }
        };
        self.push_made(&text, given)
    }

    /// Closes the text and appends the rest of the result to `out`.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub fn finish(&mut self, out: &mut Vec<u8>) -> Result<(), RunError> {
        let mut given = std::mem::take(&mut self.given);
        let closed = match std::mem::replace(&mut self.opening, Opening::Passed) {
            Opening::Maybe(start) => self.push_made(&start, &mut given),
            Opening::Passed => Ok(()),
        };
        self.first_line_end.close();
        let closed = closed.and_then(|()| self.pass(&[], 0..0, true, &mut given));
        given.append_to(&[], out);
        self.count_changes();
        closed.map_err(|failure| self.error(failure))
    }

    fn refuse_too_much_memory(&self) -> Result<(), RunError> {
        let allowed = self.program.memory_limit();
        let held: Vec<(RuleId, u64)> = self.parallel.iter().flat_map(ParallelSegment::memory).collect();
        let total = held.iter().map(|(_, bytes)| bytes).sum();
        match held.into_iter().max_by_key(|(_, bytes)| *bytes) {
            Some((rule, _)) if total > allowed => {
                let needs = self.program.ops()[rule.0].holds();
                Err(RunError::too_much_memory(rule, self.program.names()[rule.0].clone(), total, allowed, needs))
            }
            _ => Ok(()),
        }
    }

    /// How many changes each rule has made so far, in the order of [`Program::names`].
    pub fn changes(&self) -> &[u64] {
        &self.changes
    }

    /// On how many sections each rule has acted so far, in the order of [`Program::names`].
    pub fn sections(&self) -> Vec<u64> {
        let mut sections = vec![0; self.changes.len()];
        self.parallel
            .iter()
            .flat_map(ParallelSegment::runners)
            .for_each(|runner| sections[runner.rule.0] += runner.sections());
        sections
    }

    /// The observer, to ask what it has seen so far.
    pub fn observer(&mut self) -> &mut O {
        &mut self.observer
    }

    pub(crate) fn observer_ref(&self) -> &O {
        &self.observer
    }

    /// Ends the work and gives the observer back.
    pub fn into_observer(self) -> O {
        self.observer
    }

    /// No rule sees a byte order mark.
    fn byte_order_mark(&mut self, out: &mut Vec<u8>) {
        match self.program.drops_bom() {
            Some(rule) => {
                self.drops_bom = Some(rule);
                self.observer.byte_order_mark(rule);
            }
            None => out.extend_from_slice(BOM),
        }
    }

    fn count_changes(&mut self) {
        self.changes.fill(0);
        let runners = self.parallel.iter().flat_map(ParallelSegment::runners);
        runners.for_each(|runner| self.changes[runner.rule.0] += runner.counts.changes);
        if let Some(rule) = self.drops_bom {
            self.changes[rule.0] += 1;
        }
    }

    #[cold]
    fn error(&self, Failure { rule, line, why }: Failure) -> RunError {
        let name = self.program.names()[rule.0].clone();
        match why {
            StopReason::TooMuchWork => RunError::too_much_work(rule, name, line),
            StopReason::Unclosed => RunError::unclosed(rule, name, line),
            StopReason::TooLong => RunError::too_long(rule, name, self.program.longest_result(self.came)),
        }
    }

    /// A text that is not part of a piece.
    fn push_made(&mut self, text: &[u8], given: &mut OutputChunks) -> Result<(), Failure> {
        let mut of_text = OutputChunks::default();
        self.push_text(text, &mut of_text)?;
        given.take_made(&mut of_text, text);
        Ok(())
    }

    fn push_text(&mut self, text: &[u8], given: &mut OutputChunks) -> Result<(), Failure> {
        // The rest of an open line goes by itself: what waits for it would else have to be put before a whole block.
        let opened = if self.within_line { memchr::memchr(b'\n', text).map_or(0, |end| end + 1) } else { 0 };
        let (open_line, rest) = text.split_at(opened);
        let mut at = 0;
        // One thread does what an observer is told; the text is to stay in its processor's cache from rule to rule.
        let size = if self.observer.is_active() { self.block.min(BLOCK) } else { self.block };
        for block in blocks(open_line, size).chain(blocks(rest, size)) {
            self.first_line_end.look(block);
            if self.observer.is_active() {
                self.observer.input(block);
            }
            self.pass(text, at..at + block.len(), false, given)?;
            at += block.len();
        }
        self.within_line = text.last().map_or(self.within_line, |last| *last != b'\n');
        Ok(())
    }

    /// Sends a block of a text through all rules.
    fn pass(&mut self, text: &[u8], block: Range<usize>, last: bool, given: &mut OutputChunks) -> Result<(), Failure> {
        self.came += block.len() as u64;
        let context = BlockContext {
            last,
            first_line_end: self.first_line_end.known(),
            most: self.program.longest_result(self.came),
            each_place: self.observer.is_active(),
        };
        let Self { parallel, between, observer, block_given, .. } = self;
        let Some((last_lanes, before)) = parallel.split_last_mut() else {
            given.add_same(text, block);
            return Ok(());
        };
        given.borrow_buffers(block_given);
        let feed = |parallel: &mut ParallelSegment<'p>, piece: &[u8], out: &mut Vec<u8>| {
            parallel.feed_together(piece, context, block_given, out, observer)
        };
        let passed = pass_between(before, &text[block.clone()], between, feed)?;
        let (Passed::Same(piece) | Passed::Made(piece)) = passed;
        last_lanes.feed(piece, context, block_given, observer)?;
        match passed {
            Passed::Same(_) => given.take(block_given, text, block.start),
            Passed::Made(piece) => given.take_made(block_given, piece),
        }
        Ok(())
    }
}
