//! The marked lines of a text on their way through the rules of a stage.
//!
//! Each rule is shown all lines it may act on at once, one behind the other: a line alone is so short that getting to
//! work on it would take longer than the work.

use std::ops::Range;

use super::node::{Failure, Node};
use crate::edit::Edits;
use crate::program::Surroundings;
use crate::sieve::{MarkedLine, RuleBits, Sieve};
use crate::text::copy::append;
use crate::text::lines::line_ends;

/// The marked lines of one text; kept for its memory from text to text.
#[derive(Debug, Default)]
pub(super) struct Batch {
    pub(super) marked: Vec<MarkedLine>,
    /// The same turned round: for each rule in order, a bit for each marked line it may act on.
    waiting: Vec<u64>,
    /// As many of these are for one rule.
    words: usize,
    /// What has become of each marked line: where in `changed` it is, if it has changed.
    now: Vec<Option<Range<usize>>>,
    /// All that lines have become, one behind the other, each framed by line ends.
    changed: Vec<u8>,
    /// The lines that one rule is shown.
    shown: Vec<u8>,
    /// Which they are, and where each starts in `shown`.
    shown_lines: Vec<(usize, usize)>,
    /// Where a line has been put, in bytes of it.
    places: Vec<Range<usize>>,
    cuts: Vec<Cut>,
}

/// Bits in a word.
const WORD: usize = u64::BITS as usize;

fn each_rule(rules: RuleBits, mut visit: impl FnMut(usize)) {
    let mut left = rules;
    while left != 0 {
        visit(left.trailing_zeros() as usize);
        left &= left - 1;
    }
}

/// A line has no certain end any more: what it is hangs on the line behind it. From this one on, lines have been
/// through the nodes before `node` only, and have to go on as pieces.
#[derive(Clone, Copy, Debug)]
struct Cut {
    line: usize,
    node: usize,
}

impl Batch {
    /// Sends the marked lines of `text` through the nodes whose rules may act on them.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub(super) fn work(
        &mut self,
        nodes: &mut [Node<'_>],
        sieve: &Sieve,
        text: &[u8],
        around: Surroundings,
    ) -> Result<(), Failure> {
        self.now.clear();
        self.now.resize(self.marked.len(), None);
        self.changed.clear();
        self.cuts.clear();
        let all = RuleBits::MAX >> (RuleBits::BITS as usize - nodes.len());
        self.words = self.marked.len().div_ceil(WORD);
        self.waiting.clear();
        self.waiting.resize(nodes.len() * self.words, 0);
        for (index, line) in self.marked.iter().enumerate() {
            let (word, bit) = (index / WORD, 1 << (index % WORD));
            each_rule(line.rules & all, |rule| self.waiting[rule * self.words + word] |= bit);
        }
        for (rule, node) in nodes.iter_mut().enumerate() {
            self.show(rule, text);
            if self.shown_lines.is_empty() {
                continue;
            }
            let any = node.change_lines(&self.shown, around).map_err(|at| {
                let line = self.shown_lines.partition_point(|(_, start)| *start <= at).saturating_sub(1);
                let start = self.marked[self.shown_lines[line].0].start;
                Failure { rule: node.rule, line: node.lines + line_ends(&text[..start]) + 1 }
            })?;
            if any {
                let later = all & (RuleBits::MAX << rule) & !(1 << rule);
                self.take(node.edits(), sieve, later, rule + 1);
            }
        }
        Ok(())
    }

    /// The lines that go on as pieces start with this one.
    fn limit(&self) -> usize {
        self.cuts.last().map_or(self.marked.len(), |cut| cut.line)
    }

    /// Gathers the lines this rule may act on.
    fn show(&mut self, rule: usize, text: &[u8]) {
        let limit = self.limit();
        self.shown.clear();
        self.shown_lines.clear();
        for (place, word) in self.waiting[rule * self.words..][..self.words].iter().enumerate() {
            let mut left = *word;
            while left != 0 {
                let index = place * WORD + left.trailing_zeros() as usize;
                left &= left - 1;
                if index >= limit {
                    return;
                }
                self.shown_lines.push((index, self.shown.len()));
                match &self.now[index] {
                    Some(now) => append(&mut self.shown, &self.changed, now.clone()),
                    None => append(&mut self.shown, text, self.marked[index].start..self.marked[index].end),
                }
            }
        }
    }

    /// Takes over the changes to the lines that were shown, and works out which `later` rules may act on the outcome.
    fn take(&mut self, edits: &Edits, sieve: &Sieve, later: RuleBits, next_node: usize) {
        let mut left = edits.list();
        let mut cut = None;
        let wanted = sieve.windows_of(later);
        for (place, (index, start)) in self.shown_lines.iter().copied().enumerate() {
            let end = self.shown_lines.get(place + 1).map_or(self.shown.len(), |(_, next)| *next);
            let frame_start = self.changed.len();
            let new_start = frame_start + 1;
            let mut copied = start;
            self.places.clear();
            if left.first().is_none_or(|edit| edit.place.start >= end) {
                continue;
            }
            self.changed.push(b'\n');
            while let Some((edit, rest)) = left.split_first().filter(|(edit, _)| edit.place.start < end) {
                append(&mut self.changed, &self.shown, copied..edit.place.start);
                let put_at = self.changed.len() - new_start;
                let put_len = edits.append_put(edit, &mut self.changed);
                self.places.push(put_at..put_at + put_len);
                copied = edit.place.end;
                left = rest;
            }
            append(&mut self.changed, &self.shown, copied..end);
            let new_end = self.changed.len();
            self.changed.extend_from_slice(b"\n\n");
            let before = self.marked[index].rules & later;
            let after = match self.changed[new_start..new_end].last() {
                None => 0,
                Some(b'\n') if later == 0 => 0,
                Some(b'\n') => sieve.rules_after(&self.changed[frame_start..], before, &self.places, wanted) & later,
                Some(_) => {
                    cut.get_or_insert(index);
                    before
                }
            };
            self.marked[index].rules = after;
            let (word, bit) = (index / WORD, 1 << (index % WORD));
            each_rule(before ^ after, |rule| self.waiting[rule * self.words + word] ^= bit);
            self.now[index] = Some(new_start..new_end);
        }
        self.cuts.extend(cut.map(|line| Cut { line, node: next_node }));
    }

    /// Whether any line has changed.
    pub(super) fn any_change(&self) -> bool {
        self.now.iter().any(Option::is_some)
    }

    /// Appends the text to `out` as it has become, up to the first line that has to go on as a piece.
    pub(super) fn write_certain(&self, text: &[u8], out: &mut Vec<u8>) {
        out.reserve(text.len());
        let end = self.cuts.last().map_or(text.len(), |cut| self.marked[cut.line].start);
        self.write(text, 0..end, out);
    }

    /// The pieces behind that, in order, and the node each has to go on with.
    pub(super) fn pieces<'b>(&'b self, text: &'b [u8]) -> impl Iterator<Item = (usize, Vec<u8>)> + 'b {
        let ends = self.cuts.iter().rev().skip(1).map(|cut| self.marked[cut.line].start).chain([text.len()]);
        self.cuts.iter().rev().zip(ends).map(|(cut, end)| {
            let mut piece = Vec::new();
            self.write(text, self.marked[cut.line].start..end, &mut piece);
            (cut.node, piece)
        })
    }

    /// Appends a stretch of whole lines as they have become.
    fn write(&self, text: &[u8], stretch: Range<usize>, out: &mut Vec<u8>) {
        let mut copied = stretch.start;
        let first = self.marked.partition_point(|line| line.start < stretch.start);
        let lines = self.marked.iter().zip(&self.now).skip(first).take_while(|(line, _)| line.start < stretch.end);
        for (line, now) in lines {
            if let Some(now) = now {
                append(out, text, copied..line.start);
                append(out, &self.changed, now.clone());
                copied = line.end;
            }
        }
        out.extend_from_slice(&text[copied..stretch.end]);
    }
}
