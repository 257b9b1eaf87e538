//! Regular expressions over blocks of lines.
//!
//! The haystack of a pattern is one line without its end. To search a whole block at once, the expression is rewritten
//! so that it cannot tell the difference: line ends are taken out of every class and literal, and every anchor becomes
//! the anchor of a line in the sense of `text::lines`, which is what `regex` calls CRLF mode. Two things are left to
//! filter: empty matches within a CRLF, and those after the last line end of the block, where no line is.

use std::sync::Arc;

use regex_automata::util::captures::Captures;
use regex_automata::{Input, PatternID, meta};
use regex_syntax::hir::{
    Capture, Class, ClassBytes, ClassBytesRange, ClassUnicode, ClassUnicodeRange, Hir, HirKind, Literal, Look,
    Repetition,
};

use super::matches::{Matches, Span};
use crate::model::At;
use crate::text::chars::splits_char;
use crate::text::lines::{Line, line_start, splits_crlf};

/// The largest a compiled pattern may be, in bytes; more is nearly always a slip such as `\w{1,5000}`.
const SIZE_LIMIT: usize = 20 << 20;

/// A pattern made ready for one place on the line.
#[derive(Clone, Debug)]
pub(crate) struct LinePattern {
    at: At,
    /// For `At::Edges` the form for the start.
    regex: meta::Regex,
    /// For `At::Edges` the form for the end.
    end_regex: Option<meta::Regex>,
    /// Where blanks may stand beside the match, the group that is the match itself.
    inner: Option<usize>,
    groups: usize,
}

/// The memory searches need; one for each thread.
#[derive(Debug)]
pub(crate) struct PatternScratch {
    search: Search,
    end_search: Option<Search>,
}

#[derive(Debug)]
struct Search {
    cache: meta::Cache,
    captures: Captures,
}

impl LinePattern {
    /// `groups`: how many the expression has, group 0 included.
    ///
    /// # Errors
    /// A message, if the compiled pattern would be larger than it may be.
    pub(crate) fn new(expression: &Hir, groups: usize, at: At) -> Result<Arc<Self>, String> {
        let hir = within_line(expression);
        let inner = u32::try_from(groups).map_err(|_| "the pattern has too many groups".to_owned())?;
        let build = |place: At| {
            let anchored = if place == At::Anywhere { hir.clone() } else { anchored(&hir, place, inner) };
            compile(&anchored)
        };
        let first_place = if at == At::Edges { At::Start } else { at };
        Ok(Arc::new(Self {
            at,
            regex: build(first_place)?,
            end_regex: if at == At::Edges { Some(build(At::End)?) } else { None },
            inner: (at != At::Anywhere).then_some(groups),
            groups,
        }))
    }

    pub(crate) fn scratch(&self) -> PatternScratch {
        let search = |regex: &meta::Regex| Search { cache: regex.create_cache(), captures: regex.create_captures() };
        PatternScratch { search: search(&self.regex), end_search: self.end_regex.as_ref().map(search) }
    }

    /// How many groups a match of this pattern has, group 0 included.
    pub(crate) fn groups(&self) -> usize {
        self.groups
    }

    /// Finds all matches in a block of whole lines. `matches` says by its reset whether groups are asked for.
    pub(crate) fn find_all(&self, text: &[u8], with_groups: bool, scratch: &mut PatternScratch, matches: &mut Matches) {
        match (self.at, &self.end_regex, &mut scratch.end_search) {
            (At::Anywhere, _, _) => self.anywhere(text, with_groups, &mut scratch.search, matches),
            (At::Edges, Some(end_regex), Some(end_search)) => {
                let mut edges = EdgeSearch { pattern: self, text, with_groups };
                edges.run((&self.regex, &mut scratch.search), (end_regex, end_search), matches);
            }
            _ => {
                let mut from = 0;
                while let Some(found) = self.next(&self.regex, text, from, &mut scratch.search) {
                    self.push(found, with_groups, &scratch.search.captures, matches);
                    from = line_around(text, found.start).end;
                    if from == text.len() {
                        break;
                    }
                }
            }
        }
    }

    fn anywhere(&self, text: &[u8], with_groups: bool, search: &mut Search, matches: &mut Matches) {
        let (mut from, mut last_end) = (0, None);
        while from <= text.len() {
            let found = if with_groups {
                self.next(&self.regex, text, from, search)
            } else {
                let input = Input::new(text).range(from..);
                self.regex.search_with(&mut search.cache, &input).map(|found| Span::new(found.start(), found.end()))
            };
            let Some(found) = found else { return };
            if found.start == found.end && (Some(found.end) == last_end || !is_place(text, found.end)) {
                from = found.end + 1;
                continue;
            }
            self.push(found, with_groups, &search.captures, matches);
            (from, last_end) = (found.end, Some(found.end));
        }
    }

    /// The next match from `from` on, with its groups in `search.captures`.
    fn next(&self, regex: &meta::Regex, text: &[u8], from: usize, search: &mut Search) -> Option<Span> {
        let mut from = from;
        while from <= text.len() {
            let input = Input::new(text).range(from..);
            regex.search_captures_with(&mut search.cache, &input, &mut search.captures);
            let whole = search.captures.get_match()?;
            let found = self.inner.and_then(|group| search.captures.get_group(group)).unwrap_or(whole.span());
            if found.start < found.end || is_place(text, found.start) {
                return Some(Span::new(found.start, found.end));
            }
            from = found.end + 1;
        }
        None
    }

    fn push(&self, found: Span, with_groups: bool, captures: &Captures, matches: &mut Matches) {
        if !with_groups {
            matches.push(found.start, found.end);
            return;
        }
        let groups =
            (1..self.groups).map(|group| captures.get_group(group).map(|span| Span::new(span.start, span.end)));
        matches.push_with_groups(found, std::iter::once(Some(found)).chain(groups));
    }
}

/// Both edges of each line: first the start, then the end in what is left of the line.
struct EdgeSearch<'s> {
    pattern: &'s LinePattern,
    text: &'s [u8],
    with_groups: bool,
}

impl EdgeSearch<'_> {
    fn run(&mut self, first: (&meta::Regex, &mut Search), last: (&meta::Regex, &mut Search), matches: &mut Matches) {
        let (text, pattern) = (self.text, self.pattern);
        let mut at_start = pattern.next(first.0, text, 0, first.1);
        let mut at_end = pattern.next(last.0, text, 0, last.1);
        while at_start.is_some() || at_end.is_some() {
            let end_line = at_end.map(|found| line_around(text, found.start));
            let Some(start) = at_start.filter(|start| end_line.is_none_or(|line| start.start < line.end)) else {
                // A line with a match at its end alone.
                if let (Some(end), Some(line)) = (at_end, end_line) {
                    pattern.push(end, self.with_groups, &last.1.captures, matches);
                    at_end = self.from_line_end(last.0, line, last.1);
                }
                continue;
            };
            let line = line_around(text, start.start);
            pattern.push(start, self.with_groups, &first.1.captures, matches);
            if end_line == Some(line) {
                // What the start has taken the end cannot have.
                if at_end.is_some_and(|end| end.start < start.end || end.end == start.end) {
                    at_end = pattern.next(last.0, text, start.end, last.1);
                    if at_end.is_some_and(|end| end.end == start.end) {
                        at_end = pattern.next(last.0, text, start.end + 1, last.1);
                    }
                }
                if let Some(end) = at_end.filter(|end| end.start <= line.content_end) {
                    pattern.push(end, self.with_groups, &last.1.captures, matches);
                }
                if at_end.is_none_or(|end| end.start <= line.content_end) {
                    at_end = self.from_line_end(last.0, line, last.1);
                }
            }
            at_start = self.from_line_end(first.0, line, first.1);
        }
    }

    fn from_line_end(&self, regex: &meta::Regex, line: Line, search: &mut Search) -> Option<Span> {
        if line.end == self.text.len() { None } else { self.pattern.next(regex, self.text, line.end, search) }
    }
}

fn line_around(text: &[u8], at: usize) -> Line {
    Line::at(text, line_start(text, at))
}

/// Whether an empty match may be at `at`: on a line, and inside neither a character nor a CRLF.
fn is_place(text: &[u8], at: usize) -> bool {
    let after_last_line = at == text.len() && matches!(text.last(), Some(b'\n' | b'\r'));
    !after_last_line && !splits_char(text, at) && !splits_crlf(text, at)
}

fn compile(hir: &Hir) -> Result<meta::Regex, String> {
    let config = meta::Config::new()
        .utf8_empty(false) // texts may be broken; `is_place` filters instead
        .nfa_size_limit(Some(SIZE_LIMIT))
        .onepass_size_limit(Some(1 << 20))
        .hybrid_cache_capacity(2 << 20);
    meta::Regex::builder().configure(config).build_from_hir(hir).map_err(|error| match error.size_limit() {
        Some(limit) => format!("the pattern is too large: compiled it would take over {} MiB", limit >> 20),
        None => match error.pattern() {
            Some(PatternID::ZERO) | None => format!("the pattern cannot be compiled: {error}"),
            Some(_) => error.to_string(),
        },
    })
}

/// The expression with blanks allowed between the match and the edges `at` names. The match itself is group `inner`.
///
/// The blanks at the start are lazy, so that a pattern that takes blanks gets them all.
fn anchored(hir: &Hir, at: At, inner: u32) -> Hir {
    let blanks = |greedy: bool| {
        let class = ClassUnicode::new([' ', '\t'].map(|blank| ClassUnicodeRange::new(blank, blank)));
        Hir::repetition(Repetition { min: 0, max: None, greedy, sub: Box::new(Hir::class(Class::Unicode(class))) })
    };
    let mut parts = Vec::with_capacity(5);
    if matches!(at, At::Start | At::WholeLine) {
        parts.extend([Hir::look(Look::StartCRLF), blanks(false)]);
    }
    parts.push(Hir::capture(Capture { index: inner, name: None, sub: Box::new(hir.clone()) }));
    if matches!(at, At::End | At::WholeLine) {
        parts.extend([blanks(true), Hir::look(Look::EndCRLF)]);
    }
    Hir::concat(parts)
}

/// The expression as it is for one line, made fit for a block of lines.
fn within_line(hir: &Hir) -> Hir {
    let all = |parts: &[Hir]| parts.iter().map(within_line).collect();
    match hir.kind() {
        HirKind::Empty => Hir::empty(),
        HirKind::Literal(Literal(bytes)) if bytes.iter().any(|byte| matches!(byte, b'\n' | b'\r')) => Hir::fail(),
        HirKind::Literal(Literal(bytes)) => Hir::literal(bytes.clone()),
        HirKind::Class(class) => Hir::class(without_line_ends(class)),
        HirKind::Look(look) => Hir::look(line_look(*look)),
        HirKind::Repetition(repetition) => Hir::repetition(repetition.with(within_line(&repetition.sub))),
        HirKind::Capture(capture) => {
            let sub = Box::new(within_line(&capture.sub));
            Hir::capture(Capture { index: capture.index, name: capture.name.clone(), sub })
        }
        HirKind::Concat(parts) => Hir::concat(all(parts)),
        HirKind::Alternation(parts) => Hir::alternation(all(parts)),
    }
}

fn line_look(look: Look) -> Look {
    match look {
        Look::Start | Look::StartLF | Look::StartCRLF => Look::StartCRLF,
        Look::End | Look::EndLF | Look::EndCRLF => Look::EndCRLF,
        // Word boundaries see a line end as no word character, which is what the edge of a line is to them.
        boundary => boundary,
    }
}

fn without_line_ends(class: &Class) -> Class {
    match class {
        Class::Unicode(class) => {
            let mut class = class.clone();
            class.difference(&ClassUnicode::new(['\n', '\r'].map(|end| ClassUnicodeRange::new(end, end))));
            Class::Unicode(class)
        }
        Class::Bytes(class) => {
            let mut class = class.clone();
            class.difference(&ClassBytes::new([b'\n', b'\r'].map(|end| ClassBytesRange::new(end, end))));
            Class::Bytes(class)
        }
    }
}
