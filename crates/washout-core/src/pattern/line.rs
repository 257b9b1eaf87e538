//! Regular expressions over blocks of lines.
//!
//! The haystack of a pattern is one line without its end. To search a whole block at once, the expression is rewritten
//! so that it cannot tell the difference: line ends are taken out of every class and literal, and every anchor becomes
//! the anchor of a line in the sense of `text::lines`, which is what `regex` calls CRLF mode. Two things are left to
//! filter: empty matches within a CRLF, and those after the last line end of the block, where no line is.

use std::sync::OnceLock;

use regex_automata::util::captures::Captures;
use regex_automata::{Anchored, Input};
use regex_syntax::hir::{
    Capture, Class, ClassBytes, ClassBytesRange, ClassUnicode, ClassUnicodeRange, Hir, HirKind, Literal, Look,
    Repetition,
};

use super::expression::{Expression, SearchMemory, Sees};
use super::row::{CharRow, Matched};
use super::run::CharRun;
use super::{PatternScratch, TooMuchWork};
use crate::pattern::budget::WorkBudget;
use crate::text::At;
use crate::text::chars::splits_char;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, line_start, splits_crlf};
use crate::text::matches::{Matches, Span};

/// Bytes of the longest match of a short pattern.
const SHORT: usize = 64;

/// A pattern made ready for one place on the line.
#[derive(Debug)]
pub(crate) struct LinePattern {
    at: At,
    /// For `At::Edges` the form for the start.
    expression: Expression,
    /// For `At::Edges` the form for the end.
    end_expression: Option<Expression>,
    /// Where blanks may stand beside the match, the group that is the match itself.
    inner: Option<usize>,
    groups: usize,
    /// It is a run of that many or more of these characters, found wherever they stand.
    run: Option<CharRun>,
    /// It is a row of such characters, found wherever they stand; made ready by the first search that knows where to look.
    row: OnceLock<Option<CharRow>>,
    /// No match is empty, nor longer than that many bytes, which are few: to look for one from each of many places is no more
    /// work than to look for them in all of the text.
    longest: Option<usize>,
}

impl LinePattern {
    pub(super) fn expressions(&self) -> impl Iterator<Item = &Expression> {
        std::iter::once(&self.expression).chain(&self.end_expression)
    }

    /// `groups`: how many the expression has, group 0 included.
    ///
    /// # Errors
    /// A message, if the compiled pattern would be larger than it may be.
    pub(crate) fn new(expression: &Hir, groups: usize, at: At) -> Result<Self, String> {
        let hir = within_line(expression);
        let inner = u32::try_from(groups).map_err(|_| "the pattern has too many groups".to_owned())?;
        let build = |place: At| {
            let anchored = if place == At::Anywhere { hir.clone() } else { anchored(&hir, place, inner) };
            Expression::new(anchored, Sees::Line)
        };
        let first_place = if at == At::Edges { At::Start } else { at };
        Ok(Self {
            at,
            expression: build(first_place)?,
            end_expression: if at == At::Edges { Some(build(At::End)?) } else { None },
            inner: (at != At::Anywhere).then_some(groups),
            groups,
            run: if at == At::Anywhere && groups == 1 { CharRun::of(&hir) } else { None },
            row: OnceLock::new(),
            longest: longest_if_short(&hir),
        })
    }

    /// How many groups a match of this pattern has, group 0 included.
    pub(crate) fn groups(&self) -> usize {
        self.groups
    }

    /// Finds all matches in a block of whole lines, with their groups if `with_groups`.
    ///
    /// # Errors
    /// Searches that take too much work.
    pub(crate) fn find_all(
        &self,
        haystack: Haystack<'_>,
        with_groups: bool,
        scratch: &mut PatternScratch,
        budget: &mut WorkBudget,
        matches: &mut Matches,
    ) -> Result<(), TooMuchWork> {
        let PatternScratch { search, end_search, .. } = scratch;
        let text = haystack.text;
        match (self.at, &self.end_expression) {
            (At::Anywhere, _) => return self.anywhere(haystack, with_groups, search, budget, matches),
            (At::Edges, Some(end)) => {
                let start =
                    LineEdge { expression: &self.expression, search: self.expression.search(search), found: None };
                let end = LineEdge { expression: end, search: end.search(end_search), found: None };
                EdgeSearch { pattern: self, text, with_groups, start, end, budget }.run(matches)?;
            }
            _ => {
                let search = self.expression.search(search);
                let mut from = 0;
                while let Some(found) = self.next(&self.expression, text, from, search, budget)? {
                    self.push(found, with_groups, &search.captures, matches);
                    from = line_around(text, found.start).end;
                    if from == text.len() {
                        break;
                    }
                }
            }
        }
        Ok(())
    }

    /// Whether it looks only where there may be anything to find, given that.
    pub(super) fn looks_near(&self) -> bool {
        self.at == At::Anywhere
    }

    fn anywhere(
        &self,
        haystack: Haystack<'_>,
        with_groups: bool,
        search: &mut Option<SearchMemory>,
        budget: &mut WorkBudget,
        matches: &mut Matches,
    ) -> Result<(), TooMuchWork> {
        if let Some(run) = &self.run {
            run.each_in(haystack, |found| {
                if with_groups {
                    matches.push_with_groups(found, [Some(found)]);
                } else {
                    matches.push(found.start, found.end);
                }
            });
            return Ok(());
        }
        if let Some(starts) = haystack.starts()
            && let Some(row) = self.row()
        {
            let (mut from, mut matched) = (0, Matched::default());
            for start in starts {
                if *start >= from && row.matches_at(haystack.text, *start, &mut matched) {
                    let found = row.span(&matched);
                    if with_groups {
                        matches.push_with_groups(found, row.groups(&matched));
                    } else {
                        matches.push(found.start, found.end);
                    }
                    from = found.end;
                }
            }
            return Ok(());
        }
        let search = self.expression.search(search);
        if let (Some(places), Some(longest)) = (haystack.places, self.longest) {
            self.near(haystack, places, longest, with_groups, search, matches);
            return Ok(());
        }
        let mut done = Ok(());
        haystack.each_stretch(|text, from| {
            if done.is_ok() {
                done = self.anywhere_from(text, from, with_groups, search, budget, matches);
            }
        });
        done
    }

    /// The row of characters that it is, if it is one and short: a long one, tried from each of many starts, would take time
    /// in proportion to its length besides that of the text.
    fn row(&self) -> Option<&CharRow> {
        self.longest?;
        self.row.get_or_init(|| CharRow::of(self.expression.hir(), self.groups)).as_ref()
    }

    /// The matches that hold one of these places, for a pattern that looks no farther than a few bytes.
    fn near(
        &self,
        haystack: Haystack<'_>,
        places: &[usize],
        longest: usize,
        with_groups: bool,
        search: &mut SearchMemory,
        matches: &mut Matches,
    ) {
        let (regex, text) = (self.expression.regex(), haystack.text);
        let mut from = 0;
        for place in places {
            if *place < from {
                continue;
            }
            // What starts after the place is near another one, and may be longer than what is seen of it from here.
            let input = if haystack.are_starts {
                Input::new(text).range(*place..).anchored(Anchored::Yes)
            } else {
                Input::new(text).range(place.saturating_sub(longest).max(from)..text.len().min(place + longest))
            };
            let found = if with_groups {
                regex.search_captures_with(&mut search.cache, &input, &mut search.captures);
                search.captures.get_match()
            } else {
                regex.search_with(&mut search.cache, &input)
            };
            if let Some(found) = found.filter(|found| found.start() <= *place) {
                self.push(Span::new(found.start(), found.end()), with_groups, &search.captures, matches);
                from = found.end();
            }
        }
    }

    fn anywhere_from(
        &self,
        text: &[u8],
        from: usize,
        with_groups: bool,
        search: &mut SearchMemory,
        budget: &mut WorkBudget,
        matches: &mut Matches,
    ) -> Result<(), TooMuchWork> {
        let (mut from, mut last_end) = (from, None);
        while from <= text.len() {
            let found = self.expression.find(text, from, with_groups, search, budget)?;
            let Some(found) = found else { return Ok(()) };
            if found.start == found.end && (Some(found.end) == last_end || !is_place(text, found.end)) {
                from = found.end + 1;
                continue;
            }
            self.push(found, with_groups, &search.captures, matches);
            (from, last_end) = (found.end, Some(found.end));
        }
        Ok(())
    }

    /// The next match from `from` on, with its groups in `search.captures`.
    fn next(
        &self,
        expression: &Expression,
        text: &[u8],
        from: usize,
        search: &mut SearchMemory,
        budget: &mut WorkBudget,
    ) -> Result<Option<Span>, TooMuchWork> {
        let mut from = from;
        while from <= text.len() {
            let Some(whole) = expression.find(text, from, true, search, budget)? else { return Ok(None) };
            let inner = self.inner.and_then(|group| search.captures.get_group(group));
            let found = inner.map_or(whole, |inner| Span::new(inner.start, inner.end));
            if found.start < found.end || is_place(text, found.start) {
                return Ok(Some(found));
            }
            from = found.end + 1;
        }
        Ok(None)
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
    start: LineEdge<'s>,
    end: LineEdge<'s>,
    budget: &'s mut WorkBudget,
}

/// One edge: the next match there, its groups in `search.captures`.
struct LineEdge<'s> {
    expression: &'s Expression,
    search: &'s mut SearchMemory,
    found: Option<Span>,
}

impl EdgeSearch<'_> {
    fn run(&mut self, matches: &mut Matches) -> Result<(), TooMuchWork> {
        self.advance_start(0)?;
        self.advance_end(0)?;
        loop {
            let line_of = |found: Option<Span>| found.map(|found| line_around(self.text, found.start));
            match (line_of(self.start.found), line_of(self.end.found)) {
                (Some(line), Some(end_line)) if line == end_line => self.both(line, matches)?,
                (Some(line), end_line) if end_line.is_none_or(|end| line.start < end.start) => {
                    self.push(&self.start, matches);
                    self.advance_start(self.behind(line))?;
                }
                (_, Some(line)) => {
                    self.push(&self.end, matches);
                    self.advance_end(self.behind(line))?;
                }
                (_, None) => return Ok(()), // OK because the arm above takes every start that has no end
            }
        }
    }

    /// A line with a match at its start and, taken by itself, one at its end. What the start takes, the end cannot
    /// have.
    fn both(&mut self, line: Line, matches: &mut Matches) -> Result<(), TooMuchWork> {
        self.push(&self.start, matches);
        let taken = self.start.found.map_or(line.start, |start| start.end);
        if self.end.found.is_some_and(|end| end.start < taken || end.end == taken) {
            self.advance_end(taken)?;
            if self.end.found.is_some_and(|end| end.end == taken) {
                self.advance_end(taken + 1)?;
            }
        }
        if self.end.found.is_some_and(|end| end.start <= line.content_end) {
            self.push(&self.end, matches);
            self.advance_end(self.behind(line))?;
        }
        self.advance_start(self.behind(line))
    }

    fn push(&self, edge: &LineEdge<'_>, matches: &mut Matches) {
        if let Some(found) = edge.found {
            self.pattern.push(found, self.with_groups, &edge.search.captures, matches);
        }
    }

    /// Where the next line starts; out of the text if there is none.
    fn behind(&self, line: Line) -> usize {
        if line.end == self.text.len() { line.end + 1 } else { line.end }
    }

    fn advance_start(&mut self, from: usize) -> Result<(), TooMuchWork> {
        self.start.found = self.pattern.next(self.start.expression, self.text, from, self.start.search, self.budget)?;
        Ok(())
    }

    fn advance_end(&mut self, from: usize) -> Result<(), TooMuchWork> {
        self.end.found = self.pattern.next(self.end.expression, self.text, from, self.end.search, self.budget)?;
        Ok(())
    }
}

/// The bytes of the longest match of a pattern that matches nothing empty or long.
fn longest_if_short(hir: &Hir) -> Option<usize> {
    let lengths = hir.properties();
    lengths.maximum_len().filter(|longest| *longest <= SHORT && lengths.minimum_len() > Some(0))
}

fn line_around(text: &[u8], at: usize) -> Line {
    Line::at(text, line_start(text, at))
}

/// Whether an empty match may be at `at`: on a line, and inside neither a character nor a CRLF.
pub(super) fn is_place(text: &[u8], at: usize) -> bool {
    let after_last_line = at == text.len() && matches!(text.last(), Some(b'\n' | b'\r'));
    !after_last_line && !splits_char(text, at) && !splits_crlf(text, at)
}

/// The expression with blanks allowed between the match and the edges `at` names. The match itself is group `inner`.
///
/// The blanks at the start are lazy, so that a pattern that takes blanks gets them all.
pub(super) fn anchored(hir: &Hir, at: At, inner: u32) -> Hir {
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
