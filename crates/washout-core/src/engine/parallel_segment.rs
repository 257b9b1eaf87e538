//! A segment at work, on several parts of a text at the same time where its rules allow it.
//!
//! Why parts can be joined again: a rule that acts line by line, and waits for nothing where one part ends, does to the
//! next part what it would do to it alone. Where it does wait for something (what a rule left of a line may end in a
//! CR, and the next part may begin with an LF), the next part is done over by the one that waits.

use std::ops::Range;
use std::sync::{Mutex, PoisonError};

use memchr::{memchr, memrchr};

use super::output_chunks::OutputChunks;
use super::rule_runner::{Counts, Failure, Output, RuleRunner};
use super::segment::SegmentRun;
use crate::observe::{NoObserver, Observer};
use crate::operations::{BlockContext, CompiledRule};
use crate::program::Segment;
use crate::rules::RuleId;

/// A part has about that many bytes: all alike, so that the memory for what becomes of one serves any other,
const MOST: usize = 64 << 10;

/// and the least it is worth.
const LEAST: usize = 16 << 10;

/// A segment at work.
#[derive(Debug)]
pub(super) struct ParallelSegment<'p> {
    /// One for each thread, so that what it works in stays in its processor's cache. The first has the text so far; the
    /// others are at rest.
    runs: Vec<SegmentRun<'p>>,
    least: usize,
}

/// A part of a text on its way.
struct SegmentPart<'t> {
    text: &'t [u8],
    out: Vec<u8>,
    done: Option<PartResult>,
}

/// What a run made of a part.
struct PartResult {
    /// Which run it was.
    run: usize,
    fed: FeedResult,
    /// The run waits for nothing after the part.
    at_rest: bool,
}

/// What came of feeding a part to a run.
struct FeedResult {
    /// A failure has its line in the part.
    output: Result<Output, Failure>,
    /// What the part has added to the counts of each runner.
    counts: Vec<Counts>,
}

impl<'p> ParallelSegment<'p> {
    /// On one thread.
    pub(super) fn new(segment: &'p Segment, ops: &'p [CompiledRule]) -> Self {
        Self { runs: vec![SegmentRun::new(segment, ops)], least: LEAST }
    }

    /// From now on on that many threads, as far as the rules act line by line. `least`: bytes that are worth a thread, if
    /// that is not to be as it is.
    pub(super) fn spread(
        &mut self,
        segment: &'p Segment,
        ops: &'p [CompiledRule],
        threads: usize,
        least: Option<usize>,
    ) {
        if segment.by_line {
            // What has been counted is in those there are.
            self.runs.resize_with(threads.max(self.runs.len()), || SegmentRun::new(segment, ops));
        }
        self.least = least.unwrap_or(LEAST);
    }

    /// Its runners, on all threads.
    pub(super) fn runners(&self) -> impl Iterator<Item = &RuleRunner<'p>> {
        self.runs.iter().flat_map(SegmentRun::runners)
    }

    /// The rules at work on the text so far.
    pub(super) fn runners_mut(&mut self) -> impl Iterator<Item = &mut RuleRunner<'p>> {
        self.runs[0].runners_mut()
    }

    /// From now on each rule looks for what it wants by itself, however few lines some rule may act on.
    pub(super) fn sweep_always(&mut self) {
        self.runs.iter_mut().for_each(SegmentRun::sweep_always);
    }

    /// What each rule holds, in bytes.
    pub(super) fn memory(&self) -> impl Iterator<Item = (RuleId, u64)> {
        self.runs.iter().flat_map(SegmentRun::memory)
    }

    /// Takes the next piece of the input and gives all output that is certain; `given` is empty.
    pub(super) fn feed(
        &mut self,
        piece: &[u8],
        context: BlockContext,
        given: &mut OutputChunks,
        observer: &mut impl Observer,
    ) -> Result<(), Failure> {
        if !self.alone_with(piece, observer) {
            return self.feed_parts(piece, context, given);
        }
        let output = self.runs[0].feed(piece, context, given.made(), observer);
        self.add(output, piece, 0, given)
    }

    /// Whether the first run deals with the piece alone.
    fn alone_with(&self, piece: &[u8], observer: &impl Observer) -> bool {
        self.runs.len() == 1 || observer.is_active() || piece.len() < 2 * self.least
    }

    /// As [`feed`](Self::feed), for what comes next to go on with: appends the output, unless it is the start of the piece.
    /// `given` is worked in.
    pub(super) fn feed_together(
        &mut self,
        piece: &[u8],
        context: BlockContext,
        given: &mut OutputChunks,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        if self.alone_with(piece, observer) {
            let output = self.runs[0].feed(piece, context, out, observer);
            return output.map_err(|failure| self.placed(failure));
        }
        self.feed_parts(piece, context, given)?;
        let output = if let Some(len) = given.same_start() {
            Output::Same(len)
        } else {
            given.append_to(piece, out);
            Output::Written
        };
        given.clear();
        Ok(output)
    }

    /// A failure of the first run with its line in the text.
    fn placed(&self, failure: Failure) -> Failure {
        let others = self.runs[1..].iter().flat_map(SegmentRun::runners).filter(|runner| runner.rule == failure.rule);
        Failure { line: failure.line + others.map(|runner| runner.counts.lines).sum::<u64>(), ..failure }
    }

    fn feed_parts(&mut self, piece: &[u8], context: BlockContext, given: &mut OutputChunks) -> Result<(), Failure> {
        let inner = BlockContext { last: false, ..context };
        let opened =
            if self.runs[0].has_no_pending() { 0 } else { memchr(b'\n', piece).map_or(piece.len(), |end| end + 1) };
        let whole = memrchr(b'\n', &piece[opened..]).map_or(opened, |end| opened + end + 1);
        self.feed_first(piece, 0..opened, inner, given)?;
        if self.runs[0].has_no_pending() {
            self.lines(piece, opened..whole, inner, given)?;
        } else {
            self.feed_first(piece, opened..whole, inner, given)?;
        }
        if whole < piece.len() || context.last {
            let output = self.runs[0].feed(&piece[whole..], context, given.made(), &mut NoObserver);
            self.add(output, piece, whole, given)?;
        }
        Ok(())
    }

    /// Whole lines of the piece to the first run.
    fn feed_first(
        &mut self,
        piece: &[u8],
        lines: Range<usize>,
        context: BlockContext,
        given: &mut OutputChunks,
    ) -> Result<(), Failure> {
        let output = self.runs[0].feed_in_blocks(&piece[lines.clone()], context, given.made(), &mut NoObserver);
        self.add(output, piece, lines.start, given)
    }

    /// Adds what the first run gave for the part of the piece that starts at `at`.
    fn add(
        &self,
        output: Result<Output, Failure>,
        piece: &[u8],
        at: usize,
        given: &mut OutputChunks,
    ) -> Result<(), Failure> {
        if let Output::Same(len) = output.map_err(|failure| self.placed(failure))? {
            given.add_same(piece, at..at + len);
        }
        Ok(())
    }

    /// Whole lines of the piece, in parts; all runs are at rest.
    fn lines(
        &mut self,
        piece: &[u8],
        lines: Range<usize>,
        context: BlockContext,
        given: &mut OutputChunks,
    ) -> Result<(), Failure> {
        if lines.is_empty() {
            return Ok(());
        }
        let texts = parts(&piece[lines.clone()], self.runs.len(), self.least).into_iter();
        let mut parts: Vec<SegmentPart<'_>> =
            texts.map(|text| SegmentPart { text, out: given.spare(text.len()), done: None }).collect();
        let mut counts = self.counts();
        work_on(&mut parts, &mut self.runs, context);
        self.join(parts, &mut counts, piece, lines.start, context, given)
    }

    /// The counts of each runner on the text so far.
    fn counts(&self) -> Vec<Counts> {
        let mut counts = self.runs[0].counts();
        self.runs[1..].iter().for_each(|run| add_counts(&mut counts, &run.counts()));
        counts
    }

    /// Puts together what happened to parts of the piece, the first of which is at `at`, and does over those that the one
    /// before reaches into. `counts` are those on the text before.
    fn join(
        &mut self,
        parts: Vec<SegmentPart<'_>>,
        counts: &mut [Counts],
        piece: &[u8],
        mut at: usize,
        context: BlockContext,
        given: &mut OutputChunks,
    ) -> Result<(), Failure> {
        let (mut live, mut at_rest) = (0, true);
        for SegmentPart { text, out, done } in parts {
            let fed = match done {
                Some(done) if at_rest => {
                    (live, at_rest) = (done.run, done.at_rest);
                    if let Ok(Output::Written) = done.fed.output {
                        given.add_made(out);
                    } else {
                        given.recycle(out);
                    }
                    done.fed
                }
                done => {
                    if let Some(PartResult { run, fed, at_rest }) = done {
                        self.runs[run].take_back(&fed.counts, at_rest);
                    }
                    given.recycle(out);
                    let fed = feed(&mut self.runs[live], text, context, given.made());
                    at_rest = self.runs[live].has_no_pending();
                    fed
                }
            };
            let lines_before = |failure: &Failure| {
                let runners = self.runs[live].runners().zip(&*counts);
                runners.filter(|(runner, _)| runner.rule == failure.rule).map(|(_, counts)| counts.lines).sum::<u64>()
            };
            let output =
                fed.output.map_err(|failure| Failure { line: failure.line + lines_before(&failure), ..failure })?;
            if let Output::Same(len) = output {
                given.add_same(piece, at..at + len);
            }
            add_counts(counts, &fed.counts);
            at += text.len();
        }
        self.runs.swap(0, live);
        Ok(())
    }
}

/// Lets each run take the next part as long as it waits for nothing, on as many threads as there are.
fn work_on(parts: &mut [SegmentPart<'_>], runs: &mut [SegmentRun<'_>], context: BlockContext) {
    let parts = Mutex::new(parts.iter_mut());
    let next = || parts.lock().unwrap_or_else(PoisonError::into_inner).next();
    rayon::scope(|scope| {
        for (index, run) in runs.iter_mut().enumerate() {
            scope.spawn(move |_| {
                while let Some(part) = next() {
                    let mut out = std::mem::take(&mut part.out);
                    let fed = feed(run, part.text, context, &mut out);
                    let at_rest = run.has_no_pending() && fed.output.is_ok();
                    *part = SegmentPart { text: part.text, out, done: Some(PartResult { run: index, fed, at_rest }) };
                    if !at_rest {
                        return;
                    }
                }
            });
        }
    });
}

fn feed(run: &mut SegmentRun<'_>, text: &[u8], context: BlockContext, out: &mut Vec<u8>) -> FeedResult {
    let before = run.counts();
    let output = run.feed_in_blocks(text, context, out, &mut NoObserver);
    let mut counts = run.counts();
    counts.iter_mut().zip(&before).for_each(|(counts, before)| *counts -= *before);
    let in_part = |failure: Failure| {
        let before = run.runners().zip(&before).filter(|(runner, _)| runner.rule == failure.rule);
        Failure { line: failure.line - before.map(|(_, before)| before.lines).sum::<u64>(), ..failure }
    };
    FeedResult { output: output.map_err(in_part), counts }
}

fn add_counts(counts: &mut [Counts], more: &[Counts]) {
    counts.iter_mut().zip(more).for_each(|(counts, more)| *counts += *more);
}

/// Whole lines in parts of whole lines, for that many threads to take one after the other. The last ones become shorter and
/// shorter, down to `least` bytes, so that all threads end at about the same time, though some parts take longer than
/// others.
fn parts(lines: &[u8], threads: usize, least: usize) -> Vec<&[u8]> {
    let mut rest = lines;
    let mut parts = Vec::new();
    while !rest.is_empty() {
        let size = (rest.len() / (2 * threads)).min(MOST).max(least).min(rest.len());
        let fits = memrchr(b'\n', &rest[..size]).map(|found| found + 1);
        let end = fits.or_else(|| memchr(b'\n', rest).map(|found| found + 1)).unwrap_or(rest.len());
        let (part, behind) = rest.split_at(end);
        parts.push(part);
        rest = behind;
    }
    parts
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_are_whole_lines_and_become_shorter_towards_the_end() {
        let text = b"lamp lit\n".repeat(100_000);
        for threads in [2, 3, 8] {
            let parts = parts(&text, threads, LEAST);
            assert_eq!(parts.concat(), text);
            assert!(parts.iter().all(|part| part.ends_with(b"\n") && part.len() <= MOST), "{threads}");
            let sizes: Vec<usize> = parts.iter().rev().map(|part| part.len() / LEAST).collect();
            assert!(sizes[..threads].iter().all(|size| *size <= 1), "{threads} threads end at about the same time");
        }
        let long = [&b"fog ".repeat(MOST)[..], b"\nhorn\n"].concat();
        assert_eq!(parts(&long, 2, LEAST), [&long[..=4 * MOST], b"horn\n"], "a line is never cut");
    }
}
