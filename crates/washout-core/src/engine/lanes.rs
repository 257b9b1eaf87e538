//! A segment at work, on several parts of a text at the same time where its rules allow it.
//!
//! Why parts can be joined again: a rule that acts line by line, and waits for nothing where one part ends, does to the
//! next part what it would do to it alone. Where it does wait for something (what a rule left of a line may end in a
//! CR, and the next part may begin with an LF), the next part is done over by the one that waits.

use std::sync::{Mutex, PoisonError};

use memchr::{memchr, memrchr};

use super::chain::Together;
use super::node::{Counts, Failure, Node, Output};
use super::segment::SegmentRun;
use crate::observe::{NoObserver, Observer};
use crate::program::{Op, RuleId, Segment, Surroundings};

/// Parts for each thread: more than one, since some parts take longer than others.
const PARTS: usize = 16;

/// The least a part is worth, in bytes.
const LEAST: usize = 32 << 10;

/// A segment at work.
#[derive(Debug)]
pub(super) struct Lanes<'p> {
    /// One for each thread, so that what it works in stays in its processor's cache. The first has the text so far; the
    /// others are at rest.
    runs: Vec<SegmentRun<'p>>,
    /// What became of parts, kept for their memory.
    outs: Vec<Vec<u8>>,
    least: usize,
}

/// A part of a text on its way.
struct Part<'t> {
    text: &'t [u8],
    out: Vec<u8>,
    done: Option<Done>,
}

/// What a run made of a part.
struct Done {
    /// Which run it was.
    run: usize,
    fed: Fed,
    /// The run waits for nothing behind the part.
    at_rest: bool,
}

/// What came of feeding a part to a run.
struct Fed {
    /// A failure has its line in the part.
    output: Result<Output, Failure>,
    /// What the part has added to the counts of each node.
    counts: Vec<Counts>,
}

impl<'p> Lanes<'p> {
    pub(super) fn new(segment: &'p Segment, ops: &'p [Op], threads: usize, least: Option<usize>) -> Self {
        let lanes = if segment.by_line { threads.max(1) } else { 1 };
        Self {
            runs: (0..lanes).map(|_| SegmentRun::new(segment, ops)).collect(),
            outs: Vec::new(),
            least: least.unwrap_or(LEAST),
        }
    }

    /// Adds the changes of each rule so far to these.
    pub(super) fn add_changes(&self, changes: &mut [u64]) {
        self.runs.iter().flat_map(SegmentRun::nodes).for_each(|node| changes[node.rule.0] += node.counts.changes);
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
            let output = self.runs[0].feed(piece, around, out, observer);
            return output.map_err(|failure| self.placed(failure));
        }
        self.feed_parts(piece, around, out)
    }

    /// A failure of the first run with its line in the text.
    fn placed(&self, failure: Failure) -> Failure {
        let others = self.runs[1..].iter().flat_map(SegmentRun::nodes).filter(|node| node.rule == failure.rule);
        Failure { line: failure.line + others.map(|node| node.counts.lines).sum::<u64>(), ..failure }
    }

    fn feed_parts(&mut self, piece: &[u8], around: Surroundings, out: &mut Vec<u8>) -> Result<Output, Failure> {
        let inner = Surroundings { last: false, ..around };
        let opened =
            if self.runs[0].is_at_rest() { 0 } else { memchr(b'\n', piece).map_or(piece.len(), |end| end + 1) };
        let whole = memrchr(b'\n', &piece[opened..]).map_or(opened, |end| opened + end + 1);
        let mut together = Together::default();
        if opened > 0 {
            let from = out.len();
            let output = self.feed_first(&piece[..opened], inner, out)?;
            together.add(piece, 0, output, from, out);
        }
        if opened < whole {
            let (lines, from) = (&piece[opened..whole], out.len());
            let output = if self.runs[0].is_at_rest() {
                self.lines(lines, inner, out)?
            } else {
                self.feed_first(lines, inner, out)?
            };
            together.add(piece, opened, output, from, out);
        }
        if whole < piece.len() || around.last {
            let from = out.len();
            let output = self.runs[0].feed(&piece[whole..], around, out, &mut NoObserver);
            let output = output.map_err(|failure| self.placed(failure))?;
            together.add(piece, whole, output, from, out);
        }
        Ok(together.output())
    }

    fn feed_first(&mut self, text: &[u8], around: Surroundings, out: &mut Vec<u8>) -> Result<Output, Failure> {
        let output = self.runs[0].feed_in_blocks(text, around, out, &mut NoObserver);
        output.map_err(|failure| self.placed(failure))
    }

    /// Whole lines, in parts; all runs are at rest.
    fn lines(&mut self, lines: &[u8], around: Surroundings, out: &mut Vec<u8>) -> Result<Output, Failure> {
        let texts = parts(lines, self.runs.len() * PARTS, self.least).into_iter();
        let mut parts: Vec<Part<'_>> =
            texts.map(|text| Part { text, out: self.outs.pop().unwrap_or_default(), done: None }).collect();
        let mut counts = self.counts();
        work_on(&mut parts, &mut self.runs, around);
        let joined = self.join(&mut parts, &mut counts, lines, around, out);
        self.outs.extend(parts.into_iter().map(|part| part.out));
        joined
    }

    /// The counts of each node on the text so far.
    fn counts(&self) -> Vec<Counts> {
        let mut counts = self.runs[0].counts();
        self.runs[1..].iter().for_each(|run| add(&mut counts, &run.counts()));
        counts
    }

    /// Puts together what became of the parts of `lines`, and does over those that the one before reaches into. `counts`
    /// are those on the text before.
    fn join(
        &mut self,
        parts: &mut [Part<'_>],
        counts: &mut [Counts],
        lines: &[u8],
        around: Surroundings,
        out: &mut Vec<u8>,
    ) -> Result<Output, Failure> {
        let (mut live, mut at_rest) = (0, true);
        let (mut together, mut at) = (Together::default(), 0);
        for Part { text, out: part_out, done } in parts {
            let from = out.len();
            let fed = match done.take() {
                Some(done) if at_rest => {
                    (live, at_rest) = (done.run, done.at_rest);
                    out.append(part_out);
                    done.fed
                }
                done => {
                    if let Some(Done { run, fed, at_rest }) = done {
                        self.runs[run].take_back(&fed.counts, at_rest);
                    }
                    let fed = feed(&mut self.runs[live], text, around, out);
                    at_rest = self.runs[live].is_at_rest();
                    fed
                }
            };
            let lines_before = |failure: &Failure| {
                let nodes = self.runs[live].nodes().zip(&*counts);
                nodes.filter(|(node, _)| node.rule == failure.rule).map(|(_, counts)| counts.lines).sum::<u64>()
            };
            let output =
                fed.output.map_err(|failure| Failure { line: failure.line + lines_before(&failure), ..failure })?;
            add(counts, &fed.counts);
            together.add(lines, at, output, from, out);
            at += text.len();
        }
        self.runs.swap(0, live);
        Ok(together.output())
    }
}

/// Lets each run take the next part as long as it waits for nothing, on as many threads as there are.
fn work_on(parts: &mut [Part<'_>], runs: &mut [SegmentRun<'_>], around: Surroundings) {
    let parts = Mutex::new(parts.iter_mut());
    let next = || parts.lock().unwrap_or_else(PoisonError::into_inner).next();
    rayon::scope(|scope| {
        for (index, run) in runs.iter_mut().enumerate() {
            scope.spawn(move |_| {
                while let Some(part) = next() {
                    let mut out = std::mem::take(&mut part.out);
                    out.clear(); // what was done over is still there
                    let fed = feed(run, part.text, around, &mut out);
                    let at_rest = run.is_at_rest() && fed.output.is_ok();
                    *part = Part { text: part.text, out, done: Some(Done { run: index, fed, at_rest }) };
                    if !at_rest {
                        return;
                    }
                }
            });
        }
    });
}

fn feed(run: &mut SegmentRun<'_>, text: &[u8], around: Surroundings, out: &mut Vec<u8>) -> Fed {
    let before = run.counts();
    let output = run.feed_in_blocks(text, around, out, &mut NoObserver);
    let mut counts = run.counts();
    counts.iter_mut().zip(&before).for_each(|(counts, before)| *counts -= *before);
    let in_part = |failure: Failure| {
        let before = run.nodes().zip(&before).filter(|(node, _)| node.rule == failure.rule);
        Failure { line: failure.line - before.map(|(_, before)| before.lines).sum::<u64>(), ..failure }
    };
    Fed { output: output.map_err(in_part), counts }
}

fn add(counts: &mut [Counts], more: &[Counts]) {
    counts.iter_mut().zip(more).for_each(|(counts, more)| *counts += *more);
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
