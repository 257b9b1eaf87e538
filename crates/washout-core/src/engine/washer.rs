//! All rules of a program at work on one text.

use super::error::RunError;
use super::node::{Failure, Node, Output};
use crate::observe::Observer;
use crate::program::{Program, RuleId, RuleName, Surroundings};
use crate::text::{BOM, LineEnd};

/// How much of a text goes through all rules at once, in bytes. Small enough to stay in the processor's cache from
/// rule to rule, large enough that the work per block does not count.
const BLOCK: usize = 128 << 10;

/// Washes one text that comes in pieces cut anywhere.
///
/// Give it the pieces with [`push`](Self::push) and close with [`finish`](Self::finish). What is appended to `out` is
/// certain; what a rule cannot judge yet comes with a later call. The result does not depend on how the text is cut.
#[derive(Debug)]
pub struct Washer<'p, O> {
    nodes: Vec<Node<'p>>,
    names: &'p [RuleName],
    changes: Vec<u64>,
    observer: O,
    block: usize,
    drops_bom: Option<RuleId>,
    opening: Opening,
    first_line_end: FirstLineEnd,
    /// Texts between one rule and the next, kept for their memory.
    between: (Vec<u8>, Vec<u8>),
}

/// Whether the text opens with a byte order mark.
#[derive(Debug)]
enum Opening {
    /// The bytes so far could be the start of one.
    Maybe(Vec<u8>),
    Passed,
}

#[derive(Clone, Copy, Debug)]
enum FirstLineEnd {
    None,
    /// A CR at the end of a piece: LF may follow.
    Cut,
    Found(LineEnd),
    /// Seen before this text.
    Given(Option<LineEnd>),
}

impl<'p, O: Observer> Washer<'p, O> {
    pub(crate) fn new(program: &'p Program, observer: O) -> Self {
        let ops = program.ops().iter().enumerate();
        Self {
            nodes: ops.map(|(index, op)| Node::new(op, RuleId(index))).collect(),
            names: program.names(),
            changes: vec![0; program.ops().len()],
            observer,
            block: BLOCK,
            drops_bom: program.drops_bom(),
            opening: Opening::Maybe(Vec::new()),
            first_line_end: FirstLineEnd::None,
            between: (Vec::new(), Vec::new()),
        }
    }

    /// Sets how much goes through all rules at once, in bytes; results do not depend on it. 0 counts as 1.
    #[must_use]
    pub fn with_block_size(mut self, bytes: usize) -> Self {
        self.block = bytes.max(1);
        self
    }

    /// For a text within a run: it has no byte order mark, and what its first line end is was seen before.
    pub(crate) fn within(mut self, first_line_end: Option<LineEnd>) -> Self {
        self.opening = Opening::Passed;
        self.first_line_end = FirstLineEnd::Given(first_line_end);
        self
    }

    /// Takes the next piece of the text and appends all of the result that is certain to `out`.
    ///
    /// # Errors
    /// A rule that cannot go on. The text is lost to this washer then, and what it has given is no whole result.
    pub fn push(&mut self, piece: &[u8], out: &mut Vec<u8>) -> Result<(), RunError> {
        let opening = std::mem::replace(&mut self.opening, Opening::Passed);
        let Opening::Maybe(mut start) = opening else { return self.push_text(piece, out) };
        start.extend_from_slice(piece);
        if start.starts_with(BOM) {
            match self.drops_bom {
                Some(rule) => {
                    self.nodes[rule.0].changes += 1;
                    self.observer.byte_order_mark(rule);
                }
                None => out.extend_from_slice(BOM), // no rule sees it
            }
            self.push_text(&start[BOM.len()..], out)
        } else if BOM.starts_with(&start) {
            self.opening = Opening::Maybe(start);
            Ok(())
        } else {
            self.push_text(&start, out)
        }
    }

    /// Closes the text and appends the rest of the result to `out`.
    ///
    /// # Errors
    /// A rule that cannot go on.
    pub fn finish(&mut self, out: &mut Vec<u8>) -> Result<(), RunError> {
        if let Opening::Maybe(start) = std::mem::replace(&mut self.opening, Opening::Passed) {
            self.push_text(&start, out)?;
        }
        if let FirstLineEnd::Cut = self.first_line_end {
            self.first_line_end = FirstLineEnd::Found(LineEnd::Cr);
        }
        self.pass(&[], true, out)
    }

    /// How many changes each rule has made so far, in the order of [`Program::names`].
    pub fn changes(&self) -> &[u64] {
        &self.changes
    }

    /// The observer, to ask what it has seen so far.
    pub fn observer(&mut self) -> &mut O {
        &mut self.observer
    }

    /// Ends the work and gives the observer back.
    pub fn into_observer(self) -> O {
        self.observer
    }

    fn push_text(&mut self, text: &[u8], out: &mut Vec<u8>) -> Result<(), RunError> {
        for block in text.chunks(self.block) {
            self.look_for_line_end(block);
            if self.observer.is_active() {
                self.observer.input(block);
            }
            self.pass(block, false, out)?;
        }
        Ok(())
    }

    fn look_for_line_end(&mut self, block: &[u8]) {
        self.first_line_end = match self.first_line_end {
            FirstLineEnd::Found(_) | FirstLineEnd::Given(_) => return,
            FirstLineEnd::Cut if block[0] == b'\n' => FirstLineEnd::Found(LineEnd::CrLf),
            FirstLineEnd::Cut => FirstLineEnd::Found(LineEnd::Cr),
            FirstLineEnd::None => match LineEnd::first_in(block) {
                Some(LineEnd::Cr) if memchr::memchr(b'\r', block) == Some(block.len() - 1) => FirstLineEnd::Cut,
                Some(end) => FirstLineEnd::Found(end),
                None => FirstLineEnd::None,
            },
        };
    }

    /// Sends a block through all rules.
    fn pass(&mut self, block: &[u8], last: bool, out: &mut Vec<u8>) -> Result<(), RunError> {
        let first_line_end = match self.first_line_end {
            FirstLineEnd::Found(end) => Some(end),
            FirstLineEnd::Given(end) => end,
            FirstLineEnd::None | FirstLineEnd::Cut => None,
        };
        let around = Surroundings { last, first_line_end };
        let (mut text, mut next) = std::mem::take(&mut self.between);
        // What the next rule sees: a part of the block until a rule changes something, from then on `text`.
        let mut unchanged = Some(block);
        for (node, changes) in self.nodes.iter_mut().zip(&mut self.changes) {
            let input = unchanged.unwrap_or(&text);
            next.clear();
            let rule = node.rule;
            let failed = |failure: Failure| RunError::new(rule, self.names[rule.0].clone(), failure.line);
            match node.feed(input, around, &mut next, &mut self.observer).map_err(failed)? {
                Output::Same(len) => match &mut unchanged {
                    Some(block) => *block = &block[..len],
                    None => text.truncate(len),
                },
                Output::Written => {
                    std::mem::swap(&mut text, &mut next);
                    unchanged = None;
                }
            }
            *changes = node.changes;
        }
        out.extend_from_slice(unchanged.unwrap_or(&text));
        self.between = (text, next);
        Ok(())
    }
}
