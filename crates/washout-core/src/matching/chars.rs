//! Finding single characters, or runs of them at the edges of lines.

use crate::class::CharTable;
use crate::text::At;
use crate::text::chars::{is_blank_byte, step};
use crate::text::haystack::Haystack;
use crate::text::lines::Line;
use crate::text::matches::Matches;

/// All members of the set in `text` that stand where `at` says. Anywhere, each is a match of its own; at an edge, the
/// whole run is one; on a whole line, all from the first to the last is one.
pub(crate) fn find_all(set: &CharTable, at: At, haystack: Haystack<'_>, matches: &mut Matches) {
    let text = haystack.text;
    match at {
        At::Anywhere => match haystack.starts() {
            Some(starts) => Haystack::each_start(
                starts,
                |start| Some(start + set.match_len(text, start)).filter(|end| *end > start),
                |start, end| matches.push(start, end),
            ),
            None => haystack.each_stretch(|text, from| anywhere(set, text, from, matches)),
        },
        At::Start => haystack.lines().for_each(|line| {
            start_run(set, text, line, matches);
        }),
        At::End => haystack.lines().for_each(|line| end_run(set, text, line, line.start, matches)),
        At::Edges => haystack.lines().for_each(|line| {
            let rest = start_run(set, text, line, matches);
            end_run(set, text, line, rest, matches);
        }),
        At::WholeLine => haystack.lines().for_each(|line| whole_line(set, text, line, matches)),
    }
}

fn anywhere(set: &CharTable, text: &[u8], from: usize, matches: &mut Matches) {
    let mut from = from;
    while let Some(start) = set.next_candidate(text, from) {
        let len = set.match_len(text, start);
        if len > 0 {
            matches.push(start, start + len);
        }
        from = start + len.max(step(text, start));
    }
}

/// Where the run of members that starts at `at` ends, inside the line or with its own line end.
fn run_end(set: &CharTable, text: &[u8], line: Line, at: usize) -> usize {
    let mut end = at;
    while end < line.end {
        match set.match_len(text, end) {
            0 => break,
            len => end += len,
        }
    }
    end
}

/// The first place of the line, blanks aside, that could open a run. A blank that is a member opens one itself.
fn first_besides_blanks(set: &CharTable, text: &[u8], line: Line) -> usize {
    let mut at = line.start;
    while at < line.content_end && is_blank_byte(text[at]) && set.match_len(text, at) == 0 {
        at += 1;
    }
    at
}

/// Pushes the run at the start of the line; gives where the rest of the line begins.
fn start_run(set: &CharTable, text: &[u8], line: Line, matches: &mut Matches) -> usize {
    let start = first_besides_blanks(set, text, line);
    let end = run_end(set, text, line, start);
    if end == start {
        return line.start;
    }
    matches.push(start, end);
    end
}

/// Pushes the run at the end of the line, if it starts no earlier than `from`.
fn end_run(set: &CharTable, text: &[u8], line: Line, from: usize, matches: &mut Matches) {
    let own_end = set.match_len(text, line.content_end);
    let mut start = line.content_end;
    if own_end == 0 {
        while start > from && is_blank_byte(text[start - 1]) && set.match_len(text, start - 1) == 0 {
            start -= 1;
        }
    }
    let end = if own_end == 0 { start } else { line.end };
    while let Some(before) = member_before(set, text, from, start) {
        start = before;
    }
    if start < end && start >= from {
        matches.push(start, end);
    }
}

/// The start of the member that ends at `end` and starts no earlier than `from`.
fn member_before(set: &CharTable, text: &[u8], from: usize, end: usize) -> Option<usize> {
    if end <= from {
        return None;
    }
    let character = bstr::decode_last_utf8(&text[from..end]);
    let start = end - character.0.map_or(1, char::len_utf8);
    (set.match_len(text, start) == end - start).then_some(start)
}

fn whole_line(set: &CharTable, text: &[u8], line: Line, matches: &mut Matches) {
    let start = first_besides_blanks(set, text, line);
    let mut at = start;
    let mut end = start;
    while at < line.end {
        match set.match_len(text, at) {
            0 if at == line.content_end => break,
            0 if is_blank_byte(text[at]) => at += 1,
            0 => return,
            len => {
                at += len;
                end = at;
            }
        }
    }
    if end > start {
        matches.push(start, end);
    }
}
