//! The meaning of a rule set, written to be read: each rule in turn over the whole text, nothing clever.
//!
//! A text is a list of units: a character, a line end (CRLF is one), or a broken byte. The engine works on bytes and
//! blocks and shares nothing with this but the model of the rules.

#![allow(
    clippy::unwrap_used,
    unreachable_pub,
    reason = "a test that cannot go on fails, and this module is shared by tests"
)]

mod find;
mod units;

use find::{Found, find};
use units::{Unit, Units, lines, to_bytes, to_units};
use washout_core::{
    At, BreakLines, BreakPlace, DropLines, EmptyLines, Gap, HyphenAtLineEnd, JoinLines, LineEnd, Paragraphs, Part,
    RuleSet, Search, Template, Trim, TrimAt, TrimClass, Verb, Which,
};

/// The text after all rules, and how many changes each rule made.
pub fn apply(rules: &RuleSet, text: &[u8]) -> (Vec<u8>, Vec<u64>) {
    let (bom, text) = match text.strip_prefix(b"\xEF\xBB\xBF") {
        Some(rest) => (&b"\xEF\xBB\xBF"[..], rest),
        None => (&b""[..], text),
    };
    let mut units = to_units(text);
    let first_line_end = units.iter().find_map(|unit| unit.line_end());
    let mut changes = Vec::new();
    for rule in rules.rules.iter().filter(|rule| !rule.off) {
        let edits = edits(&rule.verb, &units, first_line_end);
        changes.push(edits.iter().filter(|edit| edit.changes(&units)).map(|edit| edit.matches).sum());
        // Through bytes and back: a rule may make a CRLF, or put line ends into the text.
        units = to_units(&carry_out(&units, &edits));
    }
    ([bom, &to_bytes(&units)].concat(), changes)
}

/// Units `start..end` give way to `put`.
struct Edit {
    start: usize,
    end: usize,
    put: Vec<u8>,
    matches: u64,
}

impl Edit {
    fn remove(start: usize, end: usize) -> Self {
        Self { start, end, put: Vec::new(), matches: 1 }
    }

    fn changes(&self, units: &Units) -> bool {
        to_bytes(&units[self.start..self.end]) != self.put
    }
}

fn carry_out(units: &Units, edits: &[Edit]) -> Vec<u8> {
    let mut out = Vec::new();
    let mut from = 0;
    for edit in edits {
        out.extend(to_bytes(&units[from..edit.start]));
        out.extend(&edit.put);
        from = edit.end;
    }
    out.extend(to_bytes(&units[from..]));
    out
}

fn edits(verb: &Verb, units: &Units, first_line_end: Option<LineEnd>) -> Vec<Edit> {
    match verb {
        Verb::Remove(remove) if remove.search.at == At::WholeLine => {
            let matches = chosen(&remove.search, remove.which, units);
            matches
                .iter()
                .map(|found| line_with(units, found.start))
                .map(|(start, end)| Edit::remove(start, end))
                .collect()
        }
        Verb::Remove(remove) => {
            let matches = chosen(&remove.search, remove.which, units);
            remove_closing(units, &matches, remove.gap)
        }
        Verb::Replace(replace) => {
            let put = |found: &Found| Edit {
                start: found.start,
                end: found.end,
                put: expand(&replace.with, found),
                matches: 1,
            };
            chosen(&replace.search, replace.which, units).iter().map(put).collect()
        }
        Verb::Trim(trim) => trimmed(*trim, units),
        Verb::DropLines(DropLines::Holding(search)) => without_lines(units, |line| holds(search, units, line)),
        Verb::DropLines(DropLines::Empty(EmptyLines::All)) => without_lines(units, |line| is_empty(units, line)),
        Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => without_lines(units, |line| {
            is_empty(units, line) && line.0 > 0 && is_empty(units, line_with(units, line.0 - 1))
        }),
        Verb::KeepLines(keep) => without_lines(units, |line| !holds(&keep.search, units, line)),
        Verb::JoinLines(join) => joined(join, units),
        Verb::BreakLines(breaks) => broken_up(breaks, units, first_line_end),
    }
}

/// The matches of a search, after `except` and `which`.
fn chosen(search: &Search, which: Which, units: &Units) -> Vec<Found> {
    let found = find(search, units);
    let line_of = |found: &Found| line_with(units, found.start).0;
    let keep = |index: usize| {
        let same_line: Vec<usize> =
            (0..found.len()).filter(|other| line_of(&found[*other]) == line_of(&found[index])).collect();
        match which {
            Which::All => true,
            Which::First => same_line.first() == Some(&index),
            Which::Last => same_line.last() == Some(&index),
            Which::Nth(nth) => same_line.get(nth - 1) == Some(&index),
        }
    };
    (0..found.len()).filter(|index| keep(*index)).map(|index| found[index].clone()).collect()
}

/// Start and end of the line that unit `at` is on, its line end included. At the end of the text: the last line.
fn line_with(units: &Units, at: usize) -> (usize, usize) {
    let all = lines(units);
    all.iter().copied().find(|(start, end)| (*start..*end).contains(&at)).unwrap_or_else(|| all[all.len() - 1])
}

fn content_end(units: &Units, line: (usize, usize)) -> usize {
    if line.1 > line.0 && units[line.1 - 1].line_end().is_some() { line.1 - 1 } else { line.1 }
}

fn is_empty(units: &Units, line: (usize, usize)) -> bool {
    units[line.0..content_end(units, line)].iter().all(|unit| unit.is_blank())
}

fn holds(search: &Search, units: &Units, line: (usize, usize)) -> bool {
    // A match that reaches over line ends is held by each of its lines; an empty one by the line it stands on.
    let touches = |found: &Found| {
        if found.start == found.end {
            line_with(units, found.start) == line
        } else {
            found.start < line.1 && found.end > line.0
        }
    };
    find(search, units).iter().any(touches)
}

fn without_lines(units: &Units, drop: impl Fn((usize, usize)) -> bool) -> Vec<Edit> {
    lines(units).into_iter().filter(|line| drop(*line)).map(|(start, end)| Edit::remove(start, end)).collect()
}

fn expand(template: &Template, found: &Found) -> Vec<u8> {
    let part = |part: &Part| match part {
        Part::Literal(literal) => literal.clone().into_bytes(),
        Part::Group(group) => found.groups[*group].clone().unwrap_or_default(),
    };
    template.parts().iter().flat_map(part).collect()
}

fn trimmed(trim: Trim, units: &Units) -> Vec<Edit> {
    let goes = |unit: &Unit| match trim.class {
        TrimClass::Blank => unit.is_blank(),
        TrimClass::Whitespace => unit.character().is_some_and(char::is_whitespace),
    };
    let mut edits = Vec::new();
    for line in lines(units) {
        let content = &units[line.0..content_end(units, line)];
        let left = if trim.at == TrimAt::End { 0 } else { content.iter().take_while(|unit| goes(unit)).count() };
        let rest = &content[left..];
        let right = if trim.at == TrimAt::Start { 0 } else { rest.iter().rev().take_while(|unit| goes(unit)).count() };
        edits.push(Edit::remove(line.0, line.0 + left));
        edits.push(Edit::remove(line.0 + content.len() - right, line.0 + content.len()));
    }
    edits
}

/// Joints are runs of blanks and line ends with at least one line end.
fn joined(join: &JoinLines, units: &Units) -> Vec<Edit> {
    let body_end = match join.paragraphs {
        Paragraphs::Keep => units.len(),
        Paragraphs::Join => units.len() - usize::from(units.last().is_some_and(|unit| unit.line_end().is_some())),
    };
    let body = &units[..body_end];
    let in_run = |unit: &Unit| unit.is_blank() || unit.line_end().is_some();
    let mut edits = Vec::new();
    let mut at = 0;
    while at < body.len() {
        let end = at + body[at..].iter().take_while(|unit| in_run(unit)).count();
        let line_ends = body[at..end].iter().filter(|unit| unit.line_end().is_some()).count();
        let at_edge = at == 0 || end == body.len();
        let is_joint = match join.paragraphs {
            Paragraphs::Keep => line_ends == 1 && !at_edge,
            Paragraphs::Join => line_ends > 0,
        };
        if is_joint && at_edge {
            edits.push(Edit::remove(at, end));
        } else if is_joint && join.hyphens == HyphenAtLineEnd::Rejoin && rejoins(body, at, end) {
            edits.push(Edit::remove(at - 1, end));
        } else if is_joint {
            edits.push(Edit { start: at, end, put: join.with.clone().into_bytes(), matches: 1 });
        }
        at = end.max(at + 1);
    }
    edits
}

fn rejoins(body: &Units, start: usize, end: usize) -> bool {
    let character = |at: usize| body.get(at).and_then(|unit| unit.character());
    start >= 2
        && character(start - 1).is_some_and(|hyphen| matches!(hyphen, '-' | '\u{2010}' | '\u{AD}'))
        && character(start - 2).is_some_and(char::is_alphabetic)
        && character(end).is_some_and(char::is_lowercase)
}

fn broken_up(breaks: &BreakLines, units: &Units, first_line_end: Option<LineEnd>) -> Vec<Edit> {
    let is = |at: usize, marks: &str| units[at].character().is_some_and(|mark| marks.contains(mark));
    let mut edits: Vec<Edit> = Vec::new();
    for found in chosen(&breaks.search, breaks.which, units) {
        let line = line_with(units, found.start);
        let (line_start, line_end) = (line.0, content_end(units, line));
        let (start, end) = match breaks.place {
            BreakPlace::After => {
                let marks = (found.end..line_end).take_while(|at| is(*at, "\"'”’»›«“)]}")).count();
                let start = found.end + marks;
                (start, start + (start..line_end).take_while(|at| units[*at].is_blank()).count())
            }
            BreakPlace::Before => {
                let marks = (line_start..found.start).rev().take_while(|at| is(*at, "\"'“‘„‚«‹»([{")).count();
                let end = found.start - marks;
                (end - (line_start..end).rev().take_while(|at| units[*at].is_blank()).count(), end)
            }
        };
        let makes_empty_line = blanks_after(units, end) == line_end || blanks_before(units, start) == line_start;
        let last_break = edits.last().map_or(0, |edit| edit.end);
        let needless = start == end && (!breaks.tight || end == last_break);
        if makes_empty_line || start < last_break || needless {
            continue;
        }
        let own = units[line.0..line.1].last().and_then(|unit| unit.line_end());
        let put = own.or(first_line_end).unwrap_or(LineEnd::Lf).as_bytes().to_vec();
        edits.push(Edit { start, end, put, matches: 1 });
    }
    edits
}

fn remove_closing(units: &Units, matches: &[Found], gap: Gap) -> Vec<Edit> {
    let mut stretches: Vec<Edit> = Vec::new();
    for found in matches.iter().filter(|found| found.start < found.end) {
        let only_blanks = |from: usize| units[from..found.start].iter().all(|unit| unit.is_blank());
        match stretches.last_mut() {
            Some(last) if gap != Gap::Leave && only_blanks(last.end) => {
                last.end = found.end;
                last.matches += 1;
            }
            _ => stretches.push(Edit::remove(found.start, found.end)),
        }
        // What goes with the stretch counts as removed before the next one is looked at.
        if let (Gap::Mend, Some(last)) = (gap, stretches.last_mut()) {
            let more_to_come = matches.iter().any(|next| {
                next.start >= last.end
                    && next.start < next.end
                    && units[last.end..next.start].iter().all(|unit| unit.is_blank())
            });
            if !more_to_come {
                last.end = with_idle_comma(units, last.start, last.end);
            }
        }
    }
    if gap != Gap::Leave {
        stretches.iter_mut().for_each(|stretch| close(units, stretch));
    }
    stretches
}

fn blanks_before(units: &Units, at: usize) -> usize {
    at - units[..at].iter().rev().take_while(|unit| unit.is_blank()).count()
}

fn blanks_after(units: &Units, at: usize) -> usize {
    at + units[at..].iter().take_while(|unit| unit.is_blank()).count()
}

fn at_line_start(units: &Units, at: usize) -> bool {
    at == 0 || units[at - 1].line_end().is_some()
}

fn at_line_end(units: &Units, at: usize) -> bool {
    units.get(at).is_none_or(|unit| unit.line_end().is_some())
}

fn with_idle_comma(units: &Units, start: usize, end: usize) -> usize {
    let comma = blanks_after(units, end);
    let before = blanks_before(units, start);
    let is = |at: usize, marks: &str| {
        units.get(at).and_then(|unit| unit.character()).is_some_and(|mark| marks.contains(mark))
    };
    let idle = at_line_start(units, before) || is(before - 1, ".,;:!?([");
    if is(comma, ",;") && idle { comma + 1 } else { end }
}

fn close(units: &Units, stretch: &mut Edit) {
    let (left, right) = (blanks_before(units, stretch.start), blanks_after(units, stretch.end));
    let is = |at: usize, marks: &str| units[at].character().is_some_and(|mark| marks.contains(mark));
    if at_line_end(units, right) {
        (stretch.start, stretch.end) = (left, right);
    } else if at_line_start(units, left) {
        stretch.end = right;
    } else if is(right, ".,;:!?)]}") {
        (stretch.start, stretch.end) = (left, right);
    } else if is(left - 1, "([{") || (left < stretch.start && stretch.end < right) {
        stretch.end = right;
    }
}
