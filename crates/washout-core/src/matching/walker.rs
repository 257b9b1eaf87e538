//! Finding by walking: anything that can say “does one start here?” is found anywhere or at the edges of lines.

use crate::text::walk::Walk;
use std::cell::RefCell;

use memchr::memrchr2;

use crate::text::At;
use crate::text::edges::Edges;
use crate::text::lines::{Line, content_end, line_end_len, line_start, skip_blanks};
use crate::text::matches::Matches;

/// All matches of `walk` in `text`, a block of whole lines, that stand where `at` says.
pub(crate) fn find_all(walk: &impl Walk, at: At, text: &[u8], matches: &mut Matches) {
    match at {
        At::Anywhere => anywhere(walk, text, 0, matches),
        At::Start | At::End | At::Edges | At::WholeLine => by_line(walk, at, text, matches),
    }
}

/// The same on these lines of a text only.
pub(crate) fn find_on(lines: impl Iterator<Item = Line>, walk: &impl Walk, at: At, text: &[u8], matches: &mut Matches) {
    let ends = RefCell::new(Edges::default());
    let reaches_end = |end: usize| ends.borrow_mut().reaches(text, end);
    for line in lines {
        match at {
            At::Anywhere => anywhere(walk, &text[..line.end], line.start, matches),
            _ => on_line(walk, at, &text[..line.end], line, line.start, reaches_end, matches),
        }
    }
}

fn anywhere(walk: &impl Walk, text: &[u8], from: usize, matches: &mut Matches) {
    let mut from = from;
    while let Some(start) = walk.next_candidate(text, from) {
        if let Some(end) = walk.match_at(text, start, |_| true) {
            matches.push(start, end);
            from = end;
        } else {
            from = walk.after_failure(text, start);
        }
    }
}

/// Visits only lines that hold a candidate.
fn by_line(walk: &impl Walk, at: At, text: &[u8], matches: &mut Matches) {
    let ends = RefCell::new(Edges::default());
    let reaches_end = |end: usize| ends.borrow_mut().reaches(text, end);
    let mut from = 0;
    while let Some(candidate) = walk.next_candidate(text, from) {
        let line = line_with(text, from, candidate);
        on_line(walk, at, text, line, from, reaches_end, matches);
        from = line.end;
        if let Some(last) = matches.spans().last() {
            from = from.max(last.end); // a match may reach over line ends
        }
    }
}

/// The matches at edges of one line, none of which starts before `from`.
fn on_line(
    walk: &impl Walk,
    at: At,
    text: &[u8],
    line: Line,
    from: usize,
    reaches_end: impl Fn(usize) -> bool,
    matches: &mut Matches,
) {
    match at {
        At::Start => drop(push_at_start(walk, text, line, from, |_| true, matches)),
        At::WholeLine => drop(push_at_start(walk, text, line, from, reaches_end, matches)),
        At::End => push_at_end(walk, text, line, from, reaches_end, matches),
        At::Anywhere | At::Edges => {
            let rest = push_at_start(walk, text, line, from, |_| true, matches).unwrap_or(from);
            push_at_end(walk, text, line, rest, reaches_end, matches);
        }
    }
}

/// The line that holds `at`; `from` is a place at or before it that no search may go behind.
fn line_with(text: &[u8], from: usize, at: usize) -> Line {
    let start =
        memrchr2(b'\n', b'\r', &text[from..at]).map_or_else(|| line_start(text, from), |found| from + found + 1);
    let content_end = content_end(text, at);
    Line { start, content_end, end: content_end + line_end_len(text, content_end) }
}

/// Blanks before a match may be its own, so each place from the line start to the first other byte is tried in turn.
fn push_at_start(
    walk: &impl Walk,
    text: &[u8],
    line: Line,
    from: usize,
    accept: impl Fn(usize) -> bool,
    matches: &mut Matches,
) -> Option<usize> {
    for start in line.start.max(from)..=skip_blanks(text, line.start) {
        if let Some(end) = walk.match_at(text, start, &accept) {
            matches.push(start, end);
            return Some(end);
        }
    }
    None
}

fn push_at_end(
    walk: &impl Walk,
    text: &[u8],
    line: Line,
    from: usize,
    reaches_end: impl Fn(usize) -> bool,
    matches: &mut Matches,
) {
    let mut from = from.max(line.start);
    while let Some(start) = walk.next_candidate(text, from).filter(|start| *start < line.end) {
        if let Some(end) = walk.match_at(text, start, &reaches_end) {
            matches.push(start, end);
            return;
        }
        from = walk.after_failure(text, start);
    }
}
