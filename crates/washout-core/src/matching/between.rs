//! Finding stretches between an opening and a closing mark.

use std::sync::OnceLock;

use crate::rules::{BetweenTarget, Marks};
use crate::text::At;
use crate::text::edges::Edges;
use crate::text::lines::content_end;
use crate::text::matches::{Matches, Span};
use crate::words::{Phrases, Spelling};

/// Two marks made ready for finding.
#[derive(Clone, Debug)]
pub(crate) struct BetweenFinder {
    target: BetweenTarget,
    /// Made for the first search.
    marks: OnceLock<Phrases>,
    spelling: Spelling,
    open: Vec<u32>,
    /// `None`: what opens closes too.
    close: Option<Vec<u32>>,
}

impl BetweenFinder {
    pub(crate) fn new(target: &BetweenTarget, ignore_case: bool) -> Self {
        let spelling = Spelling { ignore_case, as_words: false };
        let (open, close) = (spelling.keys(&target.open), spelling.keys(&target.close));
        Self { target: target.clone(), marks: OnceLock::new(), spelling, close: (open != close).then_some(close), open }
    }

    pub(crate) fn find_all(&self, at: At, text: &[u8], matches: &mut Matches) {
        let marks = self.marks.get_or_init(|| {
            Phrases::literal([self.target.open.as_str(), self.target.close.as_str()], self.spelling.ignore_case)
        });
        let mut edges = Edges::default();
        let mut pairs = MarkPairs::default();
        let mut from = 0;
        let mut line_end = 0;
        while let Some(start) = marks.next_candidate(text, from) {
            if start >= line_end {
                self.push(&mut pairs, at, text, &mut edges, matches);
                line_end = content_end(text, start);
            }
            let Some(end) = marks.match_at(text, start, |_| true) else {
                from = start + crate::text::chars::step(text, start);
                continue;
            };
            pairs.add(Span::new(start, end), self.kind(&text[start..end], &pairs));
            from = end;
        }
        self.push(&mut pairs, at, text, &mut edges, matches);
    }

    fn kind(&self, mark: &[u8], pairs: &MarkPairs) -> MarkKind {
        let Some(close) = &self.close else {
            return if pairs.open.is_empty() { MarkKind::Opens } else { MarkKind::Closes };
        };
        let keys = std::str::from_utf8(mark).map(|mark| self.spelling.keys(mark)).unwrap_or_default();
        debug_assert!(keys == self.open || keys == *close, "a mark is one of the two");
        if keys == self.open { MarkKind::Opens } else { MarkKind::Closes }
    }

    /// Gives the finished pairs of a line away.
    fn push(&self, pairs: &mut MarkPairs, at: At, text: &[u8], edges: &mut Edges, matches: &mut Matches) {
        pairs.open.clear();
        for (open, close) in pairs.closed.drain(..) {
            let found = match self.target.marks {
                Marks::Keep => Span::new(open.end, close.start),
                Marks::Take => Span::new(open.start, close.end),
            };
            if edges.allow(at, text, found) {
                matches.push(found.start, found.end);
            }
        }
    }
}

#[derive(Clone, Copy)]
enum MarkKind {
    Opens,
    Closes,
}

/// The marks of one line.
#[derive(Default)]
struct MarkPairs {
    /// Opening marks that have not been closed.
    open: Vec<Span>,
    /// Pairs that are in no other pair, in order.
    closed: Vec<(Span, Span)>,
}

impl MarkPairs {
    fn add(&mut self, mark: Span, kind: MarkKind) {
        match kind {
            MarkKind::Opens => self.open.push(mark),
            MarkKind::Closes => {
                // A closing mark with nothing to close is skipped.
                if let Some(open) = self.open.pop() {
                    while self.closed.pop_if(|(inner, _)| inner.start > open.start).is_some() {}
                    self.closed.push((open, mark));
                }
            }
        }
    }
}
