//! `remove` and `replace`.

use super::compiled_rule::{BlockContext, RuleState};
use super::gap::push_closed;
use super::merged::CharRule;
use super::operation::{LineUse, Operation};
use super::pairs::PairTable;
use crate::guard::GuardState;
use crate::matching::Finder;
use crate::rules::{Gap, Part, Remove, Replace, Replacement, Template};
use crate::text::At;
use crate::text::copy::append_few;
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, line_start};
use crate::text::matches::{Matches, Span};
use crate::text::stand_ins::StandIns;

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
}

impl Operation for Substitution {
    fn line_use(&self) -> LineUse {
        match &self.action {
            Action::Put(put) => LineUse::of_put(put),
            Action::Expand(template) => LineUse::of_put(template.source()),
            Action::Pairs(pairs) => pairs.line_use(),
            Action::Delete(_) | Action::DeleteLine | Action::EmptyLine => LineUse::KEEPS_NUMBER,
        }
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let RuleState { finder, edits, guard, .. } = state;
        let text = block.text;
        let matches = self.finder.find(block, guard, finder);
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

    fn finder(&self) -> Option<&Finder> {
        Some(&self.finder)
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        Some(&mut self.finder)
    }

    fn count_as_blanks(&mut self, blanks: StandIns) {
        self.finder.count_as_blanks(blanks);
        self.blanks = blanks;
    }

    fn looks_near(&self) -> bool {
        self.finder.looks_near()
    }

    fn char_rule(&self) -> Option<CharRule<'_>> {
        let put = match &self.action {
            Action::Delete(Gap::Leave) => &[],
            Action::Put(put) => &put[..],
            _ => return None,
        };
        Some(CharRule { set: self.finder.chars_anywhere()?, put })
    }

    fn longest_match(&self) -> Option<usize> {
        self.finder.longest_match()
    }

    fn spare_line_ends(&mut self) {
        if let Action::DeleteLine = self.action {
            self.action = Action::EmptyLine;
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
