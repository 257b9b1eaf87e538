//! Stages in a row that are alike in what they must see, at work on their own input.

use super::chain::{ChainScratch, JoinedOutput, pass};
use super::rule_runner::{Counts, Failure, Output, RuleRunner};
use super::stage::StageRun;
use crate::observe::Observer;
use crate::operations::{BlockContext, CompiledRule};
use crate::program::Segment;
use crate::rules::RuleId;

/// How much of a text goes through all stages at once, in bytes. Small enough to stay in the processor's cache from
/// stage to stage, large enough that the work per block does not count.
pub(super) const BLOCK: usize = 128 << 10;

/// A segment at work.
#[derive(Debug)]
pub(super) struct SegmentRun<'p> {
    stages: Vec<StageRun<'p>>,
    between: ChainScratch,
}

impl<'p> SegmentRun<'p> {
    pub(super) fn new(segment: &'p Segment, ops: &'p [CompiledRule]) -> Self {
        let stages = segment.stages.iter().map(|stage| StageRun::new(stage, ops)).collect();
        Self { stages, between: ChainScratch::default() }
    }

    pub(super) fn runners(&self) -> impl Iterator<Item = &RuleRunner<'p>> {
        self.stages.iter().flat_map(|stage| &stage.runners)
    }

    pub(super) fn runners_mut(&mut self) -> impl Iterator<Item = &mut RuleRunner<'p>> {
        self.stages.iter_mut().flat_map(|stage| &mut stage.runners)
    }

    /// From now on each rule looks for what it wants by itself, however few lines some rule may act on.
    pub(super) fn sweep_always(&mut self) {
        self.stages.iter_mut().for_each(StageRun::sweep_always);
    }

    /// What each rule holds, in bytes.
    pub(super) fn memory(&self) -> impl Iterator<Item = (RuleId, u64)> {
        self.stages.iter().flat_map(|stage| &stage.runners).map(|runner| (runner.rule, runner.memory()))
    }

    /// Whether it waits for nothing.
    pub(super) fn has_no_pending(&self) -> bool {
        self.stages.iter().all(StageRun::has_no_pending)
    }

    /// Takes the next piece of the input and gives all output that is certain.
    pub(super) fn feed(
        &mut self,
        piece: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let feed =
            |stage: &mut StageRun<'p>, piece: &[u8], out: &mut Vec<u8>| stage.feed(piece, context, out, observer);
        pass(&mut self.stages, piece, &mut self.between, out, feed)
    }

    /// The same for a long piece, block by block.
    pub(super) fn feed_in_blocks(
        &mut self,
        piece: &[u8],
        context: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let (mut together, mut at) = (JoinedOutput::default(), 0);
        for block in blocks(piece, BLOCK) {
            let from = out.len();
            let output = self.feed(block, context, out, observer)?;
            together.add(piece, at, output, from, out);
            at += block.len();
        }
        Ok(together.output())
    }

    /// What each runner has counted.
    pub(super) fn counts(&self) -> Vec<Counts> {
        self.runners().map(|runner| runner.counts).collect()
    }

    /// Takes back what it was fed last, which has added this to the counts. `at_rest`: it was at rest after that.
    pub(super) fn take_back(&mut self, counts: &[Counts], at_rest: bool) {
        self.runners_mut().zip(counts).for_each(|(runner, counts)| runner.counts -= *counts);
        if !at_rest {
            self.stages.iter_mut().for_each(StageRun::start_anew);
        }
    }
}

/// A text in blocks of about that many bytes, each of which ends with a line if one ends in it.
pub(super) fn blocks(text: &[u8], size: usize) -> impl Iterator<Item = &[u8]> {
    let mut rest = text;
    std::iter::from_fn(move || {
        let most = rest.len().min(size);
        let cut = match memchr::memrchr(b'\n', &rest[..most]) {
            Some(line_end) if most < rest.len() => line_end + 1,
            _ => most,
        };
        let (block, behind) = rest.split_at(cut);
        rest = behind;
        (!block.is_empty()).then_some(block)
    })
}
