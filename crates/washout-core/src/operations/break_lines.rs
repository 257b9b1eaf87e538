//! `break_lines`.

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::matching::Finder;
use crate::rules::{BreakLines, BreakPlace};
use crate::text::LineEnd;
use crate::text::blanks::BlankRuns;
use crate::text::chars::{char_at, char_before, is_closing};
use crate::text::haystack::Haystack;
use crate::text::lines::{content_end, is_content_end, is_line_start};
use crate::text::matches::Span;

/// `break_lines`.
#[derive(Clone, Debug)]
pub(super) struct Breaker {
    finder: Finder,
    place: BreakPlace,
    tight: bool,
}

impl Breaker {
    pub(super) fn new(breaks: &BreakLines) -> Self {
        Self { finder: Finder::new(&breaks.search, breaks.which, false), place: breaks.place, tight: breaks.tight }
    }
}

impl Operation for Breaker {
    fn line_use(&self) -> LineUse {
        LineUse::CHANGES_NUMBER
    }

    fn run(&self, block: Haystack<'_>, context: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { finder, edits, guard, .. } = state;
        let matches = self.finder.find(text, guard, finder);
        let mut last_break = 0;
        let mut line_ends = NextLineEnd::default();
        let mut runs = BlankRuns::default();
        for span in matches.spans() {
            let blanks = match self.place {
                BreakPlace::After => blanks_after(text, span.end, &mut runs),
                BreakPlace::Before => blanks_before(text, span.start, &mut runs),
            };
            let tight_here = blanks.start == blanks.end;
            if !guard.allows(blanks.start, blanks.end) {
                continue;
            }
            let broken_already = blanks.start < last_break || (tight_here && blanks.end == last_break);
            if broken_already || (tight_here && !self.tight) || makes_empty_line(text, blanks, &mut runs) {
                continue;
            }
            let line_end = line_ends.after(text, span.start).or(context.first_line_end).unwrap_or(LineEnd::Lf);
            edits.push(text, blanks.start..blanks.end, line_end.as_bytes(), 1);
            last_break = blanks.end;
        }
    }

    fn finder(&self) -> Option<&Finder> {
        Some(&self.finder)
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        Some(&mut self.finder)
    }
}

/// The blanks at a break after a match and the closing marks that go with it.
fn blanks_after(text: &[u8], end: usize, runs: &mut BlankRuns) -> Span {
    let mut at = end;
    while let Some((_, len)) = char_at(text, at).filter(|(mark, _)| is_closing(*mark)) {
        at += len;
    }
    Span::new(at, runs.end_after(text, at))
}

/// The blanks at a break before a match and the opening marks that go with it.
fn blanks_before(text: &[u8], start: usize, runs: &mut BlankRuns) -> Span {
    let mut at = start;
    while let Some(mark) = char_before(text, at).filter(|mark| is_opening(*mark)) {
        at -= mark.len_utf8();
    }
    Span::new(runs.start_before(text, at), at)
}

/// Whether nothing but blanks stands on one side of the break.
fn makes_empty_line(text: &[u8], blanks: Span, runs: &mut BlankRuns) -> bool {
    is_content_end(text, runs.end_after(text, blanks.end)) || is_line_start(text, runs.start_before(text, blanks.start))
}

fn is_opening(mark: char) -> bool {
    matches!(mark, '"' | '\'' | '“' | '‘' | '„' | '‚' | '«' | '‹' | '»' | '(' | '[' | '{')
}

/// Finds the line end that follows a place, for ascending places: each stretch of the text is searched once.
#[derive(Default)]
struct NextLineEnd {
    searched: Option<(usize, Option<LineEnd>)>,
}

impl NextLineEnd {
    fn after(&mut self, text: &[u8], at: usize) -> Option<LineEnd> {
        match self.searched {
            Some((end_at, end)) if at <= end_at => end,
            _ => {
                let end_at = content_end(text, at);
                let end = LineEnd::starting_at(text, end_at);
                self.searched = Some((end_at, end));
                end
            }
        }
    }
}
