//! A segment at work, on several parts of a text at the same time where its rules allow it.
//!
//! Why parts can be joined again: a rule that acts line by line, and waits for nothing where one part ends, does to the
//! next part what it would do to it alone. Where it does wait for something (what a rule left of a line may end in a
//! CR, and the next part may begin with an LF), the next part is done over by the one that waits.

use memchr::{memchr, memrchr};
use rayon::prelude::*;

use super::chain::Together;
use super::node::{Failure, Node, Output};
use super::segment::SegmentRun;
use crate::observe::{NoObserver, Observer};
use crate::program::{Op, RuleId, Segment, Surroundings};

/// Parts for each thread: more than one, since some parts take longer than others.
const PARTS: usize = 4;

/// The least a part is worth, in bytes.
const LEAST: usize = 32 << 10;

/// A segment at work.
#[derive(Debug)]
pub(super) struct Lanes<'p> {
    /// The first has the text so far; the others are at rest.
    runs: Vec<SegmentRun<'p>>,
    outs: Vec<Vec<u8>>,
    least: usize,
}

impl<'p> Lanes<'p> {
    pub(super) fn new(segment: &'p Segment, ops: &'p [Op], threads: usize, least: Option<usize>) -> Self {
        let lanes = if segment.by_line && threads > 1 { threads * PARTS } else { 1 };
        Self {
            runs: (0..lanes).map(|_| SegmentRun::new(segment, ops)).collect(),
            outs: vec![Vec::new(); lanes],
            least: least.unwrap_or(LEAST),
        }
    }

    /// Adds the changes of each rule so far to these.
    pub(super) fn add_changes(&self, changes: &mut [u64]) {
        self.runs.iter().flat_map(SegmentRun::nodes).for_each(|node| changes[node.rule.0] += node.changes);
    }

    /// The rules at work on the text so far.
    pub(super) fn nodes_mut(&mut self) -> impl Iterator<Item = &mut Node<'p>> {
        self.runs[0].nodes_mut()
    }

    /// What each rule holds, in bytes.
    pub(super) fn memory(&self) -> impl Iterator<Item = (RuleId, u64)> {
        self.runs.iter().flat_map(SegmentRun::memory)
    }

    /// Takes the next piece of the input and gives all output that is certain.
    pub(super) fn feed(
        &mut self,
        piece: &[u8],
        around: Surroundings,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let alone = self.runs.len() == 1 || observer.is_active() || piece.len() < 2 * self.least;
        if alone {
            return self.runs[0].feed(piece, around, out, observer);
        }
        self.feed_parts(piece, around, out)
    }

    fn feed_parts(&mut self, piece: &[u8], around: Surroundings, out: &mut Vec<u8>) -> Result<Output, Failure> {
        let inner = Surroundings { last: false, ..around };
        let opened =
            if self.runs[0].is_at_rest() { 0 } else { memchr(b'\n', piece).map_or(piece.len(), |end| end + 1) };
        let whole = memrchr(b'\n', &piece[opened..]).map_or(opened, |end| opened + end + 1);
        let mut together = Together::default();
        if opened > 0 {
            let from = out.len();
            let output = self.runs[0].feed_in_blocks(&piece[..opened], inner, out, &mut NoObserver)?;
            together.add(piece, 0, output, from, out);
        }
        if opened < whole {
            let (lines, from) = (&piece[opened..whole], out.len());
            let output = if self.runs[0].is_at_rest() {
                self.lines(lines, inner, out)?
            } else {
                self.runs[0].feed_in_blocks(lines, inner, out, &mut NoObserver)?
            };
            together.add(piece, opened, output, from, out);
        }
        if whole < piece.len() || around.last {
            let from = out.len();
            let output = self.runs[0].feed(&piece[whole..], around, out, &mut NoObserver)?;
            together.add(piece, whole, output, from, out);
        }
        Ok(together.output())
    }

    /// Whole lines, in parts.
    fn lines(&mut self, lines: &[u8], around: Surroundings, out: &mut Vec<u8>) -> Result<Output, Failure> {
        let parts = parts(lines, self.runs.len(), self.least);
        let counts = |run: &SegmentRun<'p>| run.nodes().map(|node| (node.changes, node.lines)).collect::<Vec<_>>();
        let before: Vec<Vec<(u64, u64)>> = self.runs.iter().map(counts).collect();
        let lanes = self.runs.par_iter_mut().zip(&mut self.outs).zip(&parts);
        let done: Vec<Result<Output, Failure>> = lanes
            .map(|((run, out), part)| {
                out.clear();
                run.feed_in_blocks(part, around, out, &mut NoObserver)
            })
            .collect();
        let (mut live, mut together, mut at) = (0, Together::default(), 0);
        for (index, done) in done.into_iter().enumerate() {
            let from = out.len();
            let output = if index == 0 || self.runs[live].is_at_rest() {
                live = index;
                let output = done.map_err(|failure| self.placed(failure, index, &before))?;
                out.append(&mut self.outs[index]);
                output
            } else {
                self.runs[index].start_anew(&before[index]);
                self.runs[live].feed_in_blocks(parts[index], around, out, &mut NoObserver)?
            };
            together.add(lines, at, output, from, out);
            at += parts[index].len();
        }
        self.runs.swap(0, live);
        Ok(together.output())
    }

    /// A failure in one part with its line in the text, not in the lane.
    fn placed(&self, failure: Failure, lane: usize, before: &[Vec<(u64, u64)>]) -> Failure {
        let lines_of = |index: usize| {
            let nodes = self.runs[index].nodes().zip(&before[index]);
            let mut nodes = nodes.filter(|(node, _)| node.rule == failure.rule);
            nodes.next().map_or(0, |(node, (_, before))| if index < lane { node.lines } else { *before })
        };
        let others = (0..self.runs.len()).filter(|index| *index != lane).map(lines_of);
        Failure { line: failure.line + others.sum::<u64>(), ..failure }
    }
}

/// Whole lines in so many parts of about the same length, or in fewer, each of whole lines.
fn parts(lines: &[u8], most: usize, least: usize) -> Vec<&[u8]> {
    let size = lines.len().div_ceil(most).max(least).max(1);
    let mut rest = lines;
    let mut parts = Vec::with_capacity(most);
    while rest.len() > size && parts.len() + 1 < most {
        let end = memchr(b'\n', &rest[size..]).map_or(rest.len(), |found| size + found + 1);
        let (part, behind) = rest.split_at(end);
        parts.push(part);
        rest = behind;
    }
    if !rest.is_empty() {
        parts.push(rest);
    }
    parts
}
