//! `collapse`

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::matching::{Finder, chosen};
use crate::rules::{Collapse, Search, Which};
use crate::text::At;
use crate::text::edges::Edges;
use crate::text::haystack::Haystack;
use crate::text::matches::Span;

/// Makes one of many.
#[derive(Clone, Debug)]
pub(super) struct Collapser {
    /// Finds each single match, wherever it stands: runs are made of them first, and placed and counted then.
    finder: Finder,
    at: At,
    which: Which,
    with: Option<Vec<u8>>,
}

impl Collapser {
    pub(super) fn new(collapse: &Collapse) -> Self {
        let search = Search { at: At::Anywhere, ..collapse.search.clone() };
        Self {
            finder: Finder::new(&search, Which::All, false),
            at: collapse.search.at,
            which: collapse.which,
            with: collapse.with.as_ref().filter(|_| !collapse.leaves_one()).map(|with| with.as_bytes().to_vec()),
        }
    }
}

impl Operation for Collapser {
    fn line_use(&self) -> LineUse {
        self.with.as_ref().map_or(LineUse::KEEPS_NUMBER, LineUse::of_put)
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { finder, edits, guard, .. } = state;
        let matches = self.finder.find_all(text, finder).spans();
        let belongs =
            |one: &Span, next: &Span| one.end == next.start && (self.with.is_some() || one.of(text) == next.of(text));
        let mut edges_of_lines = Edges::default();
        let runs = matches.chunk_by(belongs);
        let stands_right = |run: &Span| edges_of_lines.allow(self.at, text, *run) && guard.allows(run.start, run.end);
        let mut stands_right = stands_right;
        let placed: Vec<&[Span]> = runs.filter(|run| stands_right(&whole(run))).collect();
        let spans: Vec<Span> = placed.iter().map(|run| whole(run)).collect();
        let chosen = chosen(self.which, text, &spans, false);
        for (index, run) in placed.iter().enumerate() {
            if chosen.as_ref().is_some_and(|chosen| !chosen[index]) {
                continue;
            }
            let Span { start, end } = spans[index];
            match &self.with {
                Some(with) => edits.push(text, start..end, with, 1),
                None if run.len() > 1 => edits.push(text, run[0].end..end, b"", 1),
                None => {}
            }
        }
    }

    fn finder(&self) -> Option<&Finder> {
        Some(&self.finder)
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        Some(&mut self.finder)
    }
}

/// A run from its first match to its last; `chunk_by` gives no empty ones.
fn whole(run: &[Span]) -> Span {
    Span::new(run[0].start, run[run.len() - 1].end)
}
