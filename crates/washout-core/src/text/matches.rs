//! The matches of one rule in one block.

use std::iter::Peekable;

use crate::text::lines::Line;

/// A stretch of a text, in bytes; `start` is never after `end`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Span {
    pub(crate) start: usize,
    pub(crate) end: usize,
}

impl Span {
    pub(crate) fn new(start: usize, end: usize) -> Self {
        debug_assert!(start <= end, "a span ends before it starts: {start}..{end}");
        Self { start, end }
    }

    pub(crate) fn of(self, text: &[u8]) -> &[u8] {
        &text[self.start..self.end]
    }
}

/// Matches in ascending order, without overlap, and what their groups took where a rule asks for groups.
#[derive(Debug, Default)]
pub(crate) struct Matches {
    spans: Vec<Span>,
    /// `groups_each` entries per match.
    groups: Vec<Option<Span>>,
    groups_each: usize,
}

impl Matches {
    /// Forgets all matches. From now on each match has this many groups, group 0 included; 0 where none is requested.
    pub(crate) fn reset(&mut self, groups_each: usize) {
        self.spans.clear();
        self.groups.clear();
        self.groups_each = groups_each;
    }

    #[inline]
    pub(crate) fn push(&mut self, start: usize, end: usize) {
        debug_assert!(self.spans.last().is_none_or(|last| last.end <= start), "matches overlap or are out of order");
        self.spans.push(Span::new(start, end));
    }

    pub(crate) fn push_with_groups(&mut self, span: Span, groups: impl IntoIterator<Item = Option<Span>>) {
        self.push(span.start, span.end);
        self.groups.extend(groups);
        debug_assert_eq!(self.groups.len(), self.spans.len() * self.groups_each, "groups missing");
    }

    pub(crate) fn spans(&self) -> &[Span] {
        &self.spans
    }

    /// What each group of the match took; empty where no rule asked.
    pub(crate) fn groups(&self, index: usize) -> &[Option<Span>] {
        &self.groups[index * self.groups_each..(index + 1) * self.groups_each]
    }

    /// Keeps the matches that `keep` says yes to. It is asked once for each, in order.
    pub(crate) fn retain(&mut self, mut keep: impl FnMut(Span) -> bool) {
        let mut kept = 0;
        for index in 0..self.spans.len() {
            if !keep(self.spans[index]) {
                continue;
            }
            self.spans[kept] = self.spans[index];
            let from = index * self.groups_each;
            self.groups.copy_within(from..from + self.groups_each, kept * self.groups_each);
            kept += 1;
        }
        self.spans.truncate(kept);
        self.groups.truncate(kept * self.groups_each);
    }
}

/// Which stretches of a text a rule may act on.
pub(crate) trait Permission {
    /// Whether any stretch is refused.
    fn refuses_some(&self) -> bool;

    /// Whether the rule may act on this stretch, in bytes.
    fn permits(&self, start: usize, end: usize) -> bool;
}

/// Whether a match touches the line. To be called for lines in order.
pub(crate) fn holds_line(line: Line, spans: &mut Peekable<impl Iterator<Item = Span>>) -> bool {
    let mut holds = false;
    while let Some(span) = spans.peek() {
        let starts_here = span.start < line.end || span.start == line.content_end;
        if !starts_here {
            break;
        }
        holds = true;
        if span.end > line.end {
            break; // it reaches into the next line too
        }
        spans.next();
    }
    holds
}
