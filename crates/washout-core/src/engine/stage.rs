//! One rule, or several with a prefilter before them, at work on their own input.

use memchr::{memchr, memrchr};

use super::batch::MarkedBatch;
use super::chain::{ChainScratch, pass};
use super::rule_runner::{Failure, Output, RuleRunner, lines_counted};
use super::segment::BLOCK;
use super::sweep::{Sweep, SweepResult};
use crate::observe::Observer;
use crate::operations::{BlockContext, CompiledRule};
use crate::prefilter::{Prefilter, Sifting};
use crate::program::Stage;
use crate::rules::RuleId;

/// A line that is not whole is held to be sifted, up to that many bytes; the rules themselves may need less of it.
const LONGEST_HELD: usize = 64 << 10;

/// All lines of that many bytes go through one rule after the other, at most: a rule may put down a place for each byte.
const MOST_SWEPT: usize = 4 * BLOCK;

/// About the length of a line, in bytes.
const LINE: usize = 64;

/// A stage at work, with cache lines of its own, as a [`RuleRunner`].
#[derive(Debug)]
#[repr(align(128))]
pub(super) struct StageRun<'p> {
    pub(super) runners: Vec<RuleRunner<'p>>,
    stage: &'p Stage,
    /// Whether each rule looks for what it wants by itself, however few lines some rule may act on.
    always_sweeps: bool,
    /// Most of the last lines were such that it is less work to do so.
    mostly_dirty: bool,
    /// The start of a line that is not whole yet.
    held: Vec<u8>,
    between: ChainScratch,
    batch: MarkedBatch,
    sweep: Sweep,
}

impl<'p> StageRun<'p> {
    pub(super) fn new(stage: &'p Stage, ops: &'p [CompiledRule]) -> Self {
        Self {
            runners: stage.rules.clone().map(|rule| RuleRunner::new(&ops[rule], RuleId(rule))).collect(),
            stage,
            always_sweeps: false,
            mostly_dirty: false,
            held: Vec::new(),
            between: ChainScratch::default(),
            batch: MarkedBatch::default(),
            sweep: Sweep::default(),
        }
    }

    /// Whether it waits for nothing.
    pub(super) fn has_no_pending(&self) -> bool {
        self.held.is_empty() && self.runners.iter().all(RuleRunner::has_no_pending)
    }

    /// Forgets the text so far, as if it began here.
    pub(super) fn start_anew(&mut self) {
        self.held.clear();
        self.runners.iter_mut().for_each(RuleRunner::start_anew);
    }

    /// Takes the next piece of the input and gives all output that is certain.
    pub(super) fn feed(
        &mut self,
        piece: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let Some(prefilter) = &self.stage.prefilter else { return self.runners[0].feed(piece, context, out, observer) };
        if !self.runners.iter().all(RuleRunner::has_no_pending) {
            return self.through(0, piece, context, out, observer);
        }
        if self.held.is_empty() {
            return self.sift(prefilter, piece, context, out, observer);
        }
        let mut text = std::mem::take(&mut self.held);
        text.extend_from_slice(piece);
        if let Output::Same(len) = self.sift(prefilter, &text, context, out, observer)? {
            out.extend_from_slice(&text[..len]);
        }
        Ok(Output::Written)
    }

    /// Sifts the whole lines of a text and deals with the rest; all runners are at rest.
    fn sift(
        &mut self,
        prefilter: &Prefilter,
        text: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let (lines, rest) = text.split_at(memrchr(b'\n', text).map_or(0, |found| found + 1));
        let mut batch = std::mem::take(&mut self.batch);
        let output = self.lines(prefilter, lines, context, out, observer, &mut batch);
        self.batch = batch;
        let output = output?;
        let at_rest = self.runners.iter().all(RuleRunner::has_no_pending);
        if at_rest && rest.is_empty() {
            return Ok(output);
        }
        if !context.last && at_rest && rest.len() <= LONGEST_HELD {
            self.held.extend_from_slice(rest);
            return Ok(output);
        }
        if context.last && at_rest && self.leaves_last_line(prefilter, rest) {
            self.pass_over(rest, observer);
            if let Output::Same(lines) = output {
                return Ok(Output::Same(lines + rest.len()));
            }
            out.extend_from_slice(rest);
            return Ok(output);
        }
        if let Output::Same(_) = output {
            out.extend_from_slice(lines);
        }
        self.feed_all(0, rest, context, out, observer)?;
        Ok(Output::Written)
    }

    /// Whether no rule may act on a last line without a line end.
    fn leaves_last_line(&mut self, prefilter: &Prefilter, line: &[u8]) -> bool {
        let marked = &mut self.batch.marked;
        memchr(b'\r', line).is_none()
            && prefilter.mark(line, None, marked) == Sifting::Marked
            && marked.lines().is_empty()
    }

    fn lines(
        &mut self,
        prefilter: &Prefilter,
        lines: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
        batch: &mut MarkedBatch,
    ) -> Result<Output, Failure> {
        if lines.is_empty() {
            return Ok(Output::Same(0));
        }
        let context = BlockContext { last: false, ..context };
        let may_sweep = lines.len() <= MOST_SWEPT;
        let mostly_dirty = if may_sweep { prefilter.mostly_dirty() } else { None };
        let sweeps = (self.mostly_dirty && mostly_dirty.is_some()) || (self.always_sweeps && may_sweep);
        let sifted = if sweeps { Sifting::Crowded } else { prefilter.mark(lines, mostly_dirty, &mut batch.marked) };
        match sifted {
            Sifting::Crowded => {
                let output = self.swept(lines, context, out, observer);
                self.mostly_dirty =
                    mostly_dirty.is_some_and(|share| self.sweep.spotted() * LINE * 100 > lines.len() * share);
                output
            }
            Sifting::LoneCr => self.through(0, lines, context, out, observer),
            Sifting::Marked if batch.marked.lines().is_empty() => {
                self.pass_over(lines, observer);
                Ok(Output::Same(lines.len()))
            }
            Sifting::Marked => self.marked(prefilter, lines, context, out, observer, batch),
        }
    }

    /// Each marked line goes through the rules that may act on it.
    fn marked(
        &mut self,
        prefilter: &Prefilter,
        lines: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
        batch: &mut MarkedBatch,
    ) -> Result<Output, Failure> {
        batch.work(&mut self.runners, prefilter, lines, context, observer)?;
        if !batch.any_change() {
            return Ok(Output::Same(lines.len()));
        }
        batch.write_certain(lines, out);
        for (runner, piece) in batch.pieces(lines) {
            self.feed_all(runner, &piece, context, out, observer)?;
        }
        Ok(Output::Written)
    }

    /// All lines go through one rule after the other.
    fn swept(
        &mut self,
        lines: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let mut sweep = std::mem::take(&mut self.sweep);
        let swept = sweep.work(self.stage, &mut self.runners, lines, context, out, observer);
        let output = swept.and_then(|swept| match swept {
            SweepResult::Same => Ok(Output::Same(lines.len())),
            SweepResult::Written => Ok(Output::Written),
            SweepResult::LeftTo(runner) => self
                .feed_all(runner, sweep.changed().unwrap_or(lines), context, out, observer)
                .map(|()| Output::Written),
        });
        self.sweep = sweep;
        output
    }

    /// Lets all runners know of lines they do not have to see.
    fn pass_over(&mut self, lines: &[u8], observer: &mut impl Observer) {
        let count = lines_counted(&self.runners, lines);
        self.runners.iter_mut().for_each(|runner| runner.pass_over(lines.len(), count, observer));
    }

    /// From now on each rule looks for what it wants by itself, however few lines some rule may act on.
    pub(super) fn sweep_always(&mut self) {
        self.always_sweeps = true;
    }

    /// A piece through all runners from this one on, without the prefilter; the result goes to `out`.
    fn feed_all(
        &mut self,
        first: usize,
        piece: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<(), Failure> {
        if let Output::Same(len) = self.through(first, piece, context, out, observer)? {
            out.extend_from_slice(&piece[..len]);
        }
        Ok(())
    }

    fn through(
        &mut self,
        first: usize,
        piece: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let feed =
            |runner: &mut RuleRunner<'p>, piece: &[u8], out: &mut Vec<u8>| runner.feed(piece, context, out, observer);
        pass(&mut self.runners[first..], piece, &mut self.between, out, feed)
    }
}
