//! `keep`

use std::iter::Peekable;

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::guard::GuardState;
use crate::matching::Finder;
use crate::rules::{Keep, Target, Unmatched};
use crate::text::edit::{CountOnce, Edits};
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, Lines};
use crate::text::matches::{Matches, Span};

/// Deletes all of each line but the matches.
#[derive(Clone, Debug)]
pub(super) struct MatchKeeper {
    finder: Finder,
    joined_with: Vec<u8>,
    group: usize,
    unmatched: Unmatched,
    /// Whether neighbouring matches stay together as one: single characters do.
    in_runs: bool,
    /// The whole text is taken for one line.
    as_one_line: bool,
}

impl MatchKeeper {
    pub(super) fn new(keep: &Keep) -> Self {
        Self {
            finder: Finder::new(&keep.search, keep.which, keep.group > 0),
            joined_with: keep.joined_with.as_bytes().to_vec(),
            group: keep.group,
            unmatched: keep.unmatched,
            in_runs: matches!(keep.search.target, Target::Chars(_)),
            as_one_line: false,
        }
    }

    /// The stretches that match.
    fn kept(&self, matches: &Matches) -> Vec<Span> {
        let spans = matches.spans().iter().enumerate();
        let stays = |(index, span): (usize, &Span)| {
            if self.group == 0 { Some(*span) } else { matches.groups(index)[self.group] }
        };
        let mut kept: Vec<Span> = Vec::new();
        for span in spans.filter_map(stays).filter(|span| span.start < span.end) {
            match kept.last_mut() {
                Some(last) if self.in_runs && last.end == span.start => last.end = span.end,
                _ => kept.push(span),
            }
        }
        kept
    }

    fn edit_line(&self, text: &[u8], line: Line, spans: &[Span], guard: &GuardState, edits: &mut Edits) {
        let (Some(first), Some(last)) = (spans.first(), spans.last()) else {
            match self.unmatched {
                Unmatched::Empty => edits.push(text, line.start..line.content_end, b"", 1),
                Unmatched::Drop if !guard.has_core(line.start, line.end) => {
                    edits.push(text, line.start..line.end, b"", 1);
                }
                Unmatched::Drop | Unmatched::Leave => {}
            }
            return;
        };
        // A line is one change, however many stretches of it go.
        let mut counts = CountOnce::default();
        counts.push(edits, text, line.start..first.start, b"");
        for pair in spans.windows(2) {
            counts.push(edits, text, pair[0].end..pair[1].start, &self.joined_with);
        }
        counts.push(edits, text, last.end..line.content_end, b"");
    }
}

impl Operation for MatchKeeper {
    fn line_use(&self) -> LineUse {
        match self.unmatched {
            Unmatched::Drop => LineUse::CHANGES_NUMBER,
            Unmatched::Empty | Unmatched::Leave => LineUse::of_put(&self.joined_with),
        }
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { finder, edits, guard, .. } = state;
        let kept = self.kept(self.finder.find(text, guard, finder));
        let (mut kept, mut cores) = (kept.iter().peekable(), guard.cores().iter().peekable());
        let whole = [Line { start: 0, content_end: text.len(), end: text.len() }];
        let whole = whole.into_iter().filter(|_| self.as_one_line && !text.is_empty());
        let lines = Lines::of(if self.as_one_line { b"" } else { text });
        for line in whole.chain(lines) {
            let mut spans: Vec<Span> = Vec::new();
            while let Some(span) = kept.next_if(|span| span.start < line.end || span.end <= line.content_end) {
                spans.push(*span);
            }
            if add_protected(line, &mut cores, &mut spans) {
                spans.sort_unstable_by_key(|span| span.start);
            }
            if guard.in_scope(line.start, line.end) {
                self.edit_line(text, line, &spans, guard, edits);
            }
        }
    }

    fn finder(&self) -> Option<&Finder> {
        Some(&self.finder)
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        Some(&mut self.finder)
    }

    fn take_text_as_line(&mut self) -> bool {
        self.as_one_line = true;
        self.finder.choose_of_text();
        true
    }
}

/// Adds what is protected of the line; says whether anything is.
fn add_protected<'s>(line: Line, cores: &mut Peekable<impl Iterator<Item = &'s Span>>, spans: &mut Vec<Span>) -> bool {
    let before = spans.len();
    while let Some(core) = cores.peek().filter(|core| core.start < line.end) {
        let (start, end) = (core.start.max(line.start), core.end.min(line.content_end));
        if start < end {
            spans.push(Span::new(start, end));
        }
        if core.end > line.end {
            break; // it goes on in the next line
        }
        cores.next();
    }
    spans.len() > before
}
