//! Finding characters by their place on the line.

use crate::rules::PositionsTarget;
use crate::text::At;
use crate::text::chars::char_at;
use crate::text::edges::Edges;
use crate::text::lines::{Line, Lines};
use crate::text::matches::{Matches, Span};

/// Each stretch of characters in the range is a match; a broken byte has a place and parts two stretches.
pub(crate) fn find_all(range: PositionsTarget, at: At, text: &[u8], matches: &mut Matches) {
    let mut edges = Edges::default();
    for line in Lines::of(text) {
        each_stretch(range, text, line, |found| {
            if edges.allow(at, text, found) {
                matches.push(found.start, found.end);
            }
        });
    }
}

fn each_stretch(range: PositionsTarget, text: &[u8], line: Line, mut visit: impl FnMut(Span)) {
    let last = range.last.unwrap_or(usize::MAX);
    let (mut place, mut at, mut start) = (0, line.start, None);
    while at < line.content_end && place < last {
        place += 1;
        let character = char_at(text, at);
        match (character, start) {
            (Some(_), None) if place >= range.first => start = Some(at),
            (None, Some(from)) => {
                visit(Span::new(from, at));
                start = None;
            }
            _ => {}
        }
        at += character.map_or(1, |(_, len)| len);
    }
    if let Some(from) = start {
        visit(Span::new(from, at));
    }
}
