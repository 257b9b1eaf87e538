//! Sets of bytes as sorted spans.

use crate::text::matches::Span;

/// Spans in ascending order that neither touch nor overlap.
#[derive(Clone, Debug, Default)]
pub(crate) struct SpanSet(Vec<Span>);

impl SpanSet {
    pub(crate) fn new(mut spans: Vec<Span>) -> Self {
        spans.sort_unstable_by_key(|span| (span.start, span.end));
        let mut merged: Vec<Span> = Vec::with_capacity(spans.len());
        for span in spans {
            match merged.last_mut() {
                Some(last) if span.start <= last.end => last.end = last.end.max(span.end),
                _ => merged.push(span),
            }
        }
        Self(merged)
    }

    pub(crate) fn spans(&self) -> &[Span] {
        &self.0
    }

    /// Adds a span that starts no earlier than any before it.
    pub(super) fn extend(&mut self, span: Span) {
        match self.0.last_mut() {
            Some(last) if span.start <= last.end => last.end = last.end.max(span.end),
            _ => self.0.push(span),
        }
    }

    /// What is in both sets.
    pub(super) fn both(&self, other: &Self) -> Self {
        let (mut one, mut two) = (self.0.iter().peekable(), other.0.iter().peekable());
        let mut both = Vec::new();
        while let (Some(a), Some(b)) = (one.peek(), two.peek()) {
            let (start, end) = (a.start.max(b.start), a.end.min(b.end));
            if start < end {
                both.push(Span::new(start, end));
            }
            if a.end <= b.end {
                one.next();
            } else {
                two.next();
            }
        }
        Self(both)
    }

    /// The first span that ends after `at`.
    fn after(&self, at: usize) -> Option<Span> {
        self.0.get(self.0.partition_point(|span| span.end <= at)).copied()
    }

    /// Whether `start..end` lies within one span; an empty stretch may stand at the end of one.
    pub(super) fn holds(&self, start: usize, end: usize) -> bool {
        let index = self.0.partition_point(|span| span.end < end);
        self.0.get(index).is_some_and(|span| span.start <= start && end <= span.end)
    }

    /// Whether a span shares a byte with `start..end`; if that is empty, whether it stands inside one.
    pub(super) fn touches(&self, start: usize, end: usize) -> bool {
        self.after(start).is_some_and(|span| span.start < end)
    }

    /// Where the last span that shares a byte with `start..end` ends, at most `end`.
    pub(super) fn last_end_within(&self, start: usize, end: usize) -> Option<usize> {
        let index = self.0.partition_point(|span| span.start < end).checked_sub(1)?;
        Some(self.0[index].end.min(end)).filter(|last| *last > start)
    }

    /// Where the first span that shares a byte with `start..end` starts, at least `start`.
    pub(super) fn first_start_within(&self, start: usize, end: usize) -> Option<usize> {
        self.after(start).map(|span| span.start.max(start)).filter(|first| *first < end)
    }
}
