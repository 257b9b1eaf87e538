//! One rule, or several behind a sieve, at work on their own input.

use memchr::{memchr, memrchr};

use super::batch::Batch;
use super::chain::{Between, pass};
use super::node::{Failure, Node, Output};
use super::segment::BLOCK;
use super::sweep::{Sweep, Swept};
use crate::observe::Observer;
use crate::operations::{BlockContext, CompiledRule};
use crate::prefilter::{MarkedLine, Sieve, Sifted};
use crate::program::Stage;
use crate::rules::RuleId;
use crate::text::lines::line_ends;

/// A line that is not whole is held to be sifted, up to so many bytes; the rules themselves may need less of it.
const LONGEST_HELD: usize = 64 << 10;

/// Lines that are passed over are told to an observer a stretch at a time; shorter stretches are not worth it.
const WORTH_TELLING: usize = 512;

/// All lines of so many bytes go through one rule after the other, at most: a rule may put down a place for each byte.
const MOST_SWEPT: usize = 4 * BLOCK;

/// About the length of a line, in bytes.
const LINE: usize = 64;

/// A stage at work, with cache lines of its own, as a [`Node`].
#[derive(Debug)]
#[repr(align(128))]
pub(super) struct StageRun<'p> {
    pub(super) nodes: Vec<Node<'p>>,
    stage: &'p Stage,
    /// Whether each rule looks for what it wants by itself, however few lines some rule may act on.
    always_sweeps: bool,
    /// Most of the last lines were such that it is less work to do so.
    in_crowd: bool,
    /// The start of a line that is not whole yet.
    held: Vec<u8>,
    between: Between,
    batch: Batch,
    sweep: Sweep,
}

impl<'p> StageRun<'p> {
    pub(super) fn new(stage: &'p Stage, ops: &'p [CompiledRule]) -> Self {
        Self {
            nodes: stage.rules.clone().map(|rule| Node::new(&ops[rule], RuleId(rule))).collect(),
            stage,
            always_sweeps: false,
            in_crowd: false,
            held: Vec::new(),
            between: Between::default(),
            batch: Batch::default(),
            sweep: Sweep::default(),
        }
    }

    /// Whether it waits for nothing.
    pub(super) fn is_at_rest(&self) -> bool {
        self.held.is_empty() && self.nodes.iter().all(Node::is_at_rest)
    }

    /// Forgets the text so far, as if it began here.
    pub(super) fn start_anew(&mut self) {
        self.held.clear();
        self.nodes.iter_mut().for_each(Node::start_anew);
    }

    /// Takes the next piece of the input and gives all output that is certain.
    pub(super) fn feed(
        &mut self,
        piece: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let Some(sieve) = &self.stage.sieve else { return self.nodes[0].feed(piece, around, out, observer) };
        if !self.nodes.iter().all(Node::is_at_rest) {
            return self.through(0, piece, around, out, observer);
        }
        if self.held.is_empty() {
            return self.sift(sieve, piece, around, out, observer);
        }
        let mut text = std::mem::take(&mut self.held);
        text.extend_from_slice(piece);
        if let Output::Same(len) = self.sift(sieve, &text, around, out, observer)? {
            out.extend_from_slice(&text[..len]);
        }
        Ok(Output::Written)
    }

    /// Sifts the whole lines of a text and deals with the rest; all nodes are at rest.
    fn sift(
        &mut self,
        sieve: &Sieve,
        text: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let (lines, rest) = text.split_at(memrchr(b'\n', text).map_or(0, |found| found + 1));
        let mut batch = std::mem::take(&mut self.batch);
        let output = self.lines(sieve, lines, around, out, observer, &mut batch);
        self.batch = batch;
        let output = output?;
        let at_rest = self.nodes.iter().all(Node::is_at_rest);
        if at_rest && rest.is_empty() {
            return Ok(output);
        }
        if !around.last && at_rest && rest.len() <= LONGEST_HELD {
            self.held.extend_from_slice(rest);
            return Ok(output);
        }
        if around.last && at_rest && self.leaves_last_line(sieve, rest) {
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
        self.pour(0, rest, around, out, observer)?;
        Ok(Output::Written)
    }

    /// Whether no rule may act on a last line without a line end.
    fn leaves_last_line(&mut self, sieve: &Sieve, line: &[u8]) -> bool {
        let marked = &mut self.batch.marked;
        memchr(b'\r', line).is_none() && sieve.mark(line, None, marked) == Sifted::Marked && marked.lines().is_empty()
    }

    fn lines(
        &mut self,
        sieve: &Sieve,
        lines: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
        batch: &mut Batch,
    ) -> Result<Output, Failure> {
        if lines.is_empty() {
            return Ok(Output::Same(0));
        }
        let around = BlockContext { last: false, ..around };
        let may_sweep = !observer.is_active() && lines.len() <= MOST_SWEPT;
        let crowd = if may_sweep { sieve.crowd() } else { None };
        let sweeps = (self.in_crowd && crowd.is_some()) || (self.always_sweeps && may_sweep);
        let sifted = if sweeps { Sifted::Crowded } else { sieve.mark(lines, crowd, &mut batch.marked) };
        match sifted {
            Sifted::Crowded => {
                let output = self.swept(lines, around, out, observer);
                self.in_crowd = crowd.is_some_and(|share| self.sweep.spotted() * LINE * 100 > lines.len() * share);
                output
            }
            Sifted::LoneCr => self.through(0, lines, around, out, observer),
            Sifted::Marked if batch.marked.lines().is_empty() => {
                self.pass_over(lines, observer);
                Ok(Output::Same(lines.len()))
            }
            Sifted::Marked if observer.is_active() => {
                self.told(lines, batch.marked.lines(), around, out, observer)?;
                Ok(Output::Written)
            }
            Sifted::Marked => self.silent(sieve, lines, around, out, observer, batch),
        }
    }

    /// Lines that rules may act on go through all of them, so that an observer hears of everything in order.
    fn told(
        &mut self,
        lines: &[u8],
        marked: &[MarkedLine],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<(), Failure> {
        let mut marked = marked.iter().peekable();
        let mut from = 0;
        while let Some(first) = marked.next() {
            if self.is_at_rest() {
                self.pass_over(&lines[from..first.start], observer);
                out.extend_from_slice(&lines[from..first.start]);
                from = first.start;
            }
            let mut end = first.end;
            while let Some(next) = marked.next_if(|next| next.start - end < WORTH_TELLING) {
                end = next.end;
            }
            self.pour(0, &lines[from..end], around, out, observer)?;
            from = end;
        }
        if !self.is_at_rest() {
            return self.pour(0, &lines[from..], around, out, observer);
        }
        self.pass_over(&lines[from..], observer);
        out.extend_from_slice(&lines[from..]);
        Ok(())
    }

    /// Each marked line goes through the rules that may act on it.
    fn silent(
        &mut self,
        sieve: &Sieve,
        lines: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
        batch: &mut Batch,
    ) -> Result<Output, Failure> {
        batch.work(&mut self.nodes, sieve, lines, around)?;
        if batch.is_whole() {
            self.pass_over(lines, observer);
        } else {
            // Nodes that are fed count by themselves.
            for (index, node) in self.nodes.iter_mut().enumerate() {
                pass_over(std::slice::from_mut(node), &lines[..batch.worked_by(index, lines)], observer);
            }
        }
        if !batch.any_change() {
            return Ok(Output::Same(lines.len()));
        }
        batch.write_certain(lines, out);
        for (node, piece) in batch.pieces(lines) {
            self.pour(node, &piece, around, out, observer)?;
        }
        Ok(Output::Written)
    }

    /// All lines go through one rule after the other.
    fn swept(
        &mut self,
        lines: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let mut sweep = std::mem::take(&mut self.sweep);
        let output = sweep.work(self.stage, &mut self.nodes, lines, around, out).and_then(|swept| {
            // Nodes that are fed count by themselves.
            let worked = if let Swept::LeftTo(node) = swept { node } else { self.nodes.len() };
            pass_over(&mut self.nodes[..worked], lines, observer);
            match swept {
                Swept::Same => return Ok(Output::Same(lines.len())),
                Swept::Written => {}
                Swept::LeftTo(node) => self.pour(node, sweep.changed().unwrap_or(lines), around, out, observer)?,
            }
            Ok(Output::Written)
        });
        self.sweep = sweep;
        output
    }

    fn pass_over(&mut self, lines: &[u8], observer: &mut impl Observer) {
        pass_over(&mut self.nodes, lines, observer);
    }

    /// From now on each rule looks for what it wants by itself, however few lines some rule may act on.
    pub(super) fn sweep_always(&mut self) {
        self.always_sweeps = true;
    }

    /// A piece through all nodes from this one on, unsifted, whatever comes of it into `out`.
    fn pour(
        &mut self,
        first: usize,
        piece: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<(), Failure> {
        if let Output::Same(len) = self.through(first, piece, around, out, observer)? {
            out.extend_from_slice(&piece[..len]);
        }
        Ok(())
    }

    fn through(
        &mut self,
        first: usize,
        piece: &[u8],
        around: BlockContext,
        out: &mut Vec<u8>,
        observer: &mut impl Observer,
    ) -> Result<Output, Failure> {
        let feed = |node: &mut Node<'p>, piece: &[u8], out: &mut Vec<u8>| node.feed(piece, around, out, observer);
        pass(&mut self.nodes[first..], piece, &mut self.between, out, feed)
    }
}

/// Lets nodes know of lines they do not have to see.
fn pass_over(nodes: &mut [Node<'_>], lines: &[u8], observer: &mut impl Observer) {
    let count = if nodes.iter().any(Node::may_fail) { line_ends(lines) } else { 0 };
    nodes.iter_mut().for_each(|node| node.pass_over(lines, count, observer));
}
