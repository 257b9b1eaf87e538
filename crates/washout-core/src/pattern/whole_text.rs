//! Patterns that see the whole text, and patterns that look around or refer back.
//!
//! The haystack is one line after the other, or the whole text with each line end as `\n`: a pattern that names line
//! ends then fits every kind of them. What looks around or refers back runs on a backtracking engine, whose work on
//! one search is bounded.

use std::borrow::Cow;

use regex_syntax::hir::Hir;

use super::backtracking::BacktrackingRegex;
use super::cost::CostWatch;
use super::expression::{Expression, SearchMemory, Sees};
use super::line::{anchored, is_place};
use super::{PatternScratch, TooMuchWork};
use crate::pattern::budget::WorkBudget;
use crate::text::chars::{splits_char, step};
use crate::text::edges::Edges;
use crate::text::lines::{Lines, content_end};
use crate::text::matches::{Matches, Span};
use crate::text::{At, LineEnd};

/// A pattern made ready for one place on the line.
#[derive(Debug)]
pub(crate) struct WholeTextPattern {
    at: At,
    /// Whether the haystack is the whole text.
    across_lines: bool,
    /// For `At::Edges` the form for the start.
    engine: Engine,
    /// For `At::Edges` the form for the end.
    end_engine: Option<Engine>,
    groups: usize,
}

/// An engine for one place on the line.
#[derive(Debug)]
struct Engine {
    kind: EngineKind,
    at: At,
}

#[derive(Debug)]
enum EngineKind {
    /// The group that is the match itself, where blanks may stand beside it.
    Plain(Box<Expression>, Option<usize>),
    BacktrackingRegex(Box<BacktrackingRegex>),
}

/// A match and its groups, group 0 included.
pub(super) type FoundMatch = (Span, Vec<Option<Span>>);

impl WholeTextPattern {
    /// A pattern for the whole text. `expression` has its anchors at line edges already.
    pub(crate) fn across_lines(expression: &Hir, groups: usize, at: At) -> Result<Self, String> {
        let inner = u32::try_from(groups).map_err(|_| "the pattern has too many groups".to_owned())?;
        let build = |place: At| -> Result<EngineKind, String> {
            let hir = if place == At::Anywhere { expression.clone() } else { anchored(expression, place, inner) };
            let expression = Box::new(Expression::new(hir, Sees::Text)?);
            Ok(EngineKind::Plain(expression, (place != At::Anywhere).then_some(groups)))
        };
        Self::build(at, true, groups, build)
    }

    /// A pattern that looks around or refers back. Gives the names of its groups too.
    pub(crate) fn backtracking(
        source: &str,
        ignore_case: bool,
        at: At,
        across_lines: bool,
    ) -> Result<(Self, Vec<Option<String>>), fancy_regex::Error> {
        let build = |place: At| -> Result<EngineKind, fancy_regex::Error> {
            let backtracking = BacktrackingRegex::new(source, place, ignore_case, across_lines)?;
            Ok(EngineKind::BacktrackingRegex(Box::new(backtracking)))
        };
        // By itself first: then errors are at the places of the source.
        let names = match build(At::Anywhere)? {
            EngineKind::BacktrackingRegex(backtracking) => backtracking.group_names()?,
            EngineKind::Plain(..) => Vec::new(),
        };
        let groups = names.len();
        Ok((Self::build(at, across_lines, groups, build)?, names))
    }

    fn build<E>(
        at: At,
        across_lines: bool,
        groups: usize,
        kind: impl Fn(At) -> Result<EngineKind, E>,
    ) -> Result<Self, E> {
        let build = |at: At| kind(at).map(|kind| Engine { kind, at });
        let first = if at == At::Edges { At::Start } else { at };
        let end_engine = if at == At::Edges { Some(build(At::End)?) } else { None };
        Ok(Self { at, across_lines, engine: build(first)?, end_engine, groups })
    }

    pub(crate) fn groups(&self) -> usize {
        self.groups
    }

    /// What it takes compiled, in bytes, if `of_expression` says so of a plain expression.
    pub(super) fn size(&self, of_expression: impl Fn(&Expression) -> u64) -> u64 {
        let engines = std::iter::once(&self.engine).chain(&self.end_engine);
        let sizes = engines.map(|engine| match &engine.kind {
            EngineKind::Plain(expression, _) => of_expression(expression),
            EngineKind::BacktrackingRegex(backtracking) => backtracking.size_bound(),
        });
        sizes.sum()
    }

    pub(crate) fn find_all(
        &self,
        text: &[u8],
        with_groups: bool,
        scratch: &mut PatternScratch,
        budget: &mut WorkBudget,
        matches: &mut Matches,
    ) -> Result<(), TooMuchWork> {
        let mut push = |found: &FoundMatch, shift: &dyn Fn(usize) -> usize| {
            let span = |span: &Span| Span::new(shift(span.start), shift(span.end));
            if with_groups {
                let groups = found.1.iter().skip(1).map(|group| group.as_ref().map(span));
                matches.push_with_groups(span(&found.0), std::iter::once(Some(span(&found.0))).chain(groups));
            } else {
                matches.push(shift(found.0.start), shift(found.0.end));
            }
        };
        if self.across_lines {
            let flat = Flat::of(text);
            return self
                .in_haystack(&FlatHaystack::of(&flat.text), scratch, budget, |found| {
                    push(found, &|at| flat.original(at));
                })
                .map_err(|at| TooMuchWork { at: flat.original(at) });
        }
        for line in Lines::of(text) {
            let shift = |at: usize| at + line.start;
            if self.leaves(&text[line.start..line.content_end], scratch) {
                continue;
            }
            let haystack = FlatHaystack::of(&text[line.start..line.content_end]);
            self.in_haystack(&haystack, scratch, budget, |found| push(found, &shift))
                .map_err(|at| TooMuchWork { at: shift(at) })?;
        }
        Ok(())
    }

    /// Whether there is no match in this line for sure.
    fn leaves(&self, line: &[u8], scratch: &mut PatternScratch) -> bool {
        match (&self.engine.kind, &self.end_engine) {
            (EngineKind::BacktrackingRegex(backtracking), None) => {
                !backtracking.line_filter().may_match(line, &mut scratch.line_filter)
            }
            _ => false,
        }
    }

    /// The matches in one haystack, whose line ends are all `\n`. Fails with the place where a search started that
    /// takes too much work.
    fn in_haystack(
        &self,
        haystack: &FlatHaystack<'_>,
        scratch: &mut PatternScratch,
        budget: &mut WorkBudget,
        mut push: impl FnMut(&FoundMatch),
    ) -> Result<(), usize> {
        let text = haystack.text;
        let engines = [(Some(&self.engine), &mut scratch.reach), (self.end_engine.as_ref(), &mut scratch.end_reach)];
        for (engine, watch) in engines {
            if let Some(Engine { kind: EngineKind::BacktrackingRegex(backtracking), .. }) = engine
                && !backtracking.allows(text, watch, budget)
            {
                return Err(0);
            }
        }
        let (mut from, mut last_end) = (0, None);
        let next_line = |at: usize| content_end(text, at) + 1;
        loop {
            let start = self.engine.find(haystack, from, &mut scratch.search, &mut scratch.reach, budget)?;
            let at_end = match &self.end_engine {
                Some(engine) => engine.find(haystack, from, &mut scratch.end_search, &mut scratch.end_reach, budget)?,
                None => None,
            };
            let start_first = match (&start, &at_end) {
                (Some((start, _)), Some((end, _))) => start.start < next_line(end.start),
                (start, _) => start.is_some(),
            };
            let Some(found) = (if start_first { start } else { at_end }) else { return Ok(()) };
            let span = found.0;
            if self.at == At::Anywhere && span.start == span.end && Some(span.end) == last_end {
                from = span.end + 1;
                continue;
            }
            push(&found);
            last_end = Some(span.end);
            from = match self.at {
                At::Anywhere => span.end,
                At::Start => span.end.max(next_line(span.start)),
                At::Edges if start_first => {
                    let closed = self.end_on_line(haystack, span, scratch, budget, &mut push)?;
                    closed.unwrap_or(span.end).max(next_line(span.start))
                }
                At::End | At::WholeLine | At::Edges => next_line(span.end),
            };
        }
    }

    /// Pushes the match at the end of the line on which `start` ends, if there is one after it; gives its end.
    fn end_on_line(
        &self,
        haystack: &FlatHaystack<'_>,
        start: Span,
        scratch: &mut PatternScratch,
        budget: &mut WorkBudget,
        push: &mut impl FnMut(&FoundMatch),
    ) -> Result<Option<usize>, usize> {
        let Some(engine) = &self.end_engine else { return Ok(None) };
        let line_end = content_end(haystack.text, start.end);
        let mut from = start.end;
        while let Some(found) = engine.find(haystack, from, &mut scratch.end_search, &mut scratch.end_reach, budget)? {
            if found.0.start > line_end {
                return Ok(None);
            }
            if found.0.start == found.0.end && found.0.end == start.end {
                from = start.end + 1;
                continue;
            }
            push(&found);
            return Ok(Some(found.0.end));
        }
        Ok(None)
    }
}

impl Engine {
    /// The first match from `from` on that stands where matches may; else the place of the search that failed.
    fn find(
        &self,
        haystack: &FlatHaystack<'_>,
        from: usize,
        search: &mut Option<SearchMemory>,
        watch: &mut CostWatch,
        budget: &mut WorkBudget,
    ) -> Result<Option<FoundMatch>, usize> {
        let mut from = from;
        while from <= haystack.text.len() {
            let Some(found) = self.find_any(haystack, from, search, watch, budget)? else { return Ok(None) };
            let span = found.0;
            if span.start == span.end && !is_place(haystack.text, span.start) {
                from = span.end + 1;
            } else if Edges::default().allow(self.at, haystack.text, span) {
                return Ok(Some(found));
            } else {
                // A broken byte is the edge of what the engine sees, and no edge of a line.
                from = span.start + step(haystack.text, span.start.min(haystack.text.len() - 1));
            }
        }
        Ok(None)
    }

    fn find_any(
        &self,
        haystack: &FlatHaystack<'_>,
        from: usize,
        search: &mut Option<SearchMemory>,
        watch: &mut CostWatch,
        budget: &mut WorkBudget,
    ) -> Result<Option<FoundMatch>, usize> {
        match &self.kind {
            EngineKind::Plain(expression, inner) => {
                let search = expression.search(search);
                let found = expression.find(haystack.text, from, true, search, budget).map_err(|error| error.at)?;
                let Some(whole) = found else { return Ok(None) };
                let span = |group| search.captures.get_group(group).map(|span| Span::new(span.start, span.end));
                let groups = inner.unwrap_or(search.captures.group_len());
                Ok(Some((inner.and_then(span).unwrap_or(whole), (0..groups).map(span).collect())))
            }
            EngineKind::BacktrackingRegex(backtracking) => {
                // This engine must not start inside a character.
                let inside = (0..4).take_while(|ahead| splits_char(haystack.text, from + ahead)).count();
                let from = from + inside;
                let first = haystack.stretches.partition_point(|stretch| stretch.end < from);
                for stretch in &haystack.stretches[first..] {
                    let from = stretch.start.max(from);
                    let found = backtracking.find(stretch.of(haystack.text), from - stretch.start, watch, budget);
                    let shifted = |span: Span| Span::new(span.start + stretch.start, span.end + stretch.start);
                    if let Some((found, groups)) = found.map_err(|at| at + stretch.start)? {
                        return Ok(Some((
                            shifted(found),
                            groups.into_iter().map(|group| group.map(shifted)).collect(),
                        )));
                    }
                }
                Ok(None)
            }
        }
    }
}

/// What one search sees.
struct FlatHaystack<'t> {
    text: &'t [u8],
    /// What is between broken bytes. The backtracking engine reads nothing but UTF-8, and sees one of these at a time.
    stretches: Vec<Span>,
}

impl<'t> FlatHaystack<'t> {
    fn of(text: &'t [u8]) -> Self {
        let (mut stretches, mut start, mut at) = (Vec::new(), 0, 0);
        for chunk in text.utf8_chunks() {
            at += chunk.valid().len();
            for _ in chunk.invalid() {
                stretches.push(Span::new(start, at));
                at += 1;
                start = at;
            }
        }
        stretches.push(Span::new(start, text.len()));
        Self { text, stretches }
    }
}

/// A text with each line end as `\n`.
struct Flat<'t> {
    text: Cow<'t, [u8]>,
    /// Where a `\n` stands for CRLF, in bytes of the flat text.
    crlf: Vec<usize>,
}

impl<'t> Flat<'t> {
    fn of(text: &'t [u8]) -> Self {
        if memchr::memchr(b'\r', text).is_none() {
            return Self { text: Cow::Borrowed(text), crlf: Vec::new() };
        }
        let (mut flat, mut crlf, mut from) = (Vec::with_capacity(text.len()), Vec::new(), 0);
        for at in memchr::memchr_iter(b'\r', text) {
            flat.extend_from_slice(&text[from..at]);
            let end = LineEnd::starting_at(text, at).unwrap_or(LineEnd::Cr);
            if end == LineEnd::CrLf {
                crlf.push(flat.len());
            }
            flat.push(b'\n');
            from = at + end.as_bytes().len();
        }
        flat.extend_from_slice(&text[from..]);
        Self { text: Cow::Owned(flat), crlf }
    }

    /// The place in the text itself.
    fn original(&self, at: usize) -> usize {
        at + self.crlf.partition_point(|end| *end < at)
    }
}
