//! Operations that put something in place of matches: `remove`, `replace`, `break_lines`.

use super::gap::push_closed;
use super::op::OpState;
use super::pairs::PairTable;
use super::together::CharRule;
use crate::guard::GuardState;
use crate::matching::Finder;
use crate::model::{BreakLines, BreakPlace, Gap, Part, Remove, Replace, Replacement, Template};
use crate::text::blanks::BlankRuns;
use crate::text::chars::{char_at, char_before, is_closing};
use crate::text::copy::append_few;
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, content_end, is_content_end, is_line_start, line_start};
use crate::text::matches::{Matches, Span};
use crate::text::stand_ins::StandIns;
use crate::text::{At, LineEnd};

/// `remove` and `replace`.
#[derive(Clone, Debug)]
pub(super) struct Substitution {
    finder: Finder,
    action: Action,
    /// Characters that close a gap as blanks do.
    blanks: StandIns,
}

#[derive(Clone, Debug)]
enum Action {
    Delete(Gap),
    DeleteLine,
    /// All of the line but its line end.
    EmptyLine,
    Put(Vec<u8>),
    Expand(Template),
    Pairs(PairTable),
}

impl Substitution {
    pub(super) fn finder(&self) -> &Finder {
        &self.finder
    }

    /// From now on these count as blanks.
    pub(super) fn count_as_blanks(&mut self, blanks: StandIns) {
        self.finder.count_as_blanks(blanks);
        self.blanks = blanks;
    }

    /// From now on a removal of whole lines leaves their line ends.
    pub(super) fn spare_line_ends(&mut self) {
        if let Action::DeleteLine = self.action {
            self.action = Action::EmptyLine;
        }
    }

    pub(super) fn removal(remove: &Remove) -> Self {
        let action = if remove.search.at == At::WholeLine { Action::DeleteLine } else { Action::Delete(remove.gap) };
        Self { finder: Finder::new(&remove.search, remove.which, false), action, blanks: StandIns::default() }
    }

    pub(super) fn replacement(replace: &Replace) -> Self {
        let action = match &replace.with {
            Replacement::Pairs(pairs) => Action::Pairs(PairTable::new(pairs)),
            Replacement::Template(template) => match template.as_literal() {
                Some(literal) => Action::Put(literal.as_bytes().to_vec()),
                None => Action::Expand(template.clone()),
            },
        };
        let with_groups = matches!(action, Action::Expand(_));
        Self { finder: Finder::new(&replace.search, replace.which, with_groups), action, blanks: StandIns::default() }
    }

    /// See [`Op::char_rule`](super::Op::char_rule).
    pub(super) fn char_rule(&self) -> Option<CharRule<'_>> {
        let put = match &self.action {
            Action::Delete(Gap::Leave) => &[],
            Action::Put(put) => &put[..],
            _ => return None,
        };
        Some(CharRule { set: self.finder.chars_anywhere()?, put })
    }

    pub(super) fn run(&self, haystack: Haystack<'_>, state: &mut OpState) {
        let OpState { finder, edits, guard, .. } = state;
        let text = haystack.text;
        let matches = self.finder.find(haystack, guard, finder);
        match &self.action {
            Action::Delete(Gap::Leave) => {
                matches.spans().iter().for_each(|span| edits.push(text, span.start..span.end, b"", 1));
            }
            Action::Delete(gap) => push_closed(&self.blanks.as_blanks(text), matches.spans(), *gap, guard, edits),
            Action::DeleteLine => delete_lines(text, matches.spans(), guard, edits, |line| line.end),
            Action::EmptyLine => delete_lines(text, matches.spans(), guard, edits, |line| line.content_end),
            Action::Put(put) => matches.spans().iter().for_each(|span| edits.push(text, span.start..span.end, put, 1)),
            Action::Expand(template) => expand(text, template, matches, edits),
            Action::Pairs(pairs) => pairs.run(text, &self.finder, matches.spans(), edits),
        }
    }
}

fn delete_lines(text: &[u8], spans: &[Span], guard: &GuardState, edits: &mut Edits, end_of: impl Fn(Line) -> usize) {
    for span in spans {
        let mut line = Line::at(text, line_start(text, span.start));
        let start = line.start;
        while line.end < span.end {
            line = Line::at(text, line.end);
        }
        if guard.allows_line(Line { start, ..line }) {
            edits.push(text, start..end_of(line), b"", 1);
        }
    }
}

fn expand(text: &[u8], template: &Template, matches: &Matches, edits: &mut Edits) {
    for (index, span) in matches.spans().iter().enumerate() {
        let groups = matches.groups(index);
        edits.push_with(text, span.start..span.end, 1, |put| {
            for part in template.parts() {
                match part {
                    Part::Literal(literal) => match literal.as_bytes() {
                        [byte] => put.push(*byte),
                        bytes => put.extend_from_slice(bytes),
                    },
                    Part::Group(group) => {
                        groups[*group].into_iter().for_each(|span| append_few(put, text, span.start..span.end));
                    }
                }
            }
        });
    }
}

/// `break_lines`.
#[derive(Clone, Debug)]
pub(super) struct Breaker {
    finder: Finder,
    place: BreakPlace,
    tight: bool,
}

impl Breaker {
    pub(super) fn finder_mut(&mut self) -> &mut Finder {
        &mut self.finder
    }

    pub(super) fn new(breaks: &BreakLines) -> Self {
        Self { finder: Finder::new(&breaks.search, breaks.which, false), place: breaks.place, tight: breaks.tight }
    }

    pub(super) fn run(&self, text: &[u8], first_line_end: Option<LineEnd>, state: &mut OpState) {
        let OpState { finder, edits, guard, .. } = state;
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
            let line_end = line_ends.after(text, span.start).or(first_line_end).unwrap_or(LineEnd::Lf);
            edits.push(text, blanks.start..blanks.end, line_end.as_bytes(), 1);
            last_break = blanks.end;
        }
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
