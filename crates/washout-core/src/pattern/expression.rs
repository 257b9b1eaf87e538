//! A regular expression that is compiled when it is first searched for: most texts hold nothing that most patterns look
//! for, and short runs are to be short. Its searches are within the bounds of a budget.

use std::sync::OnceLock;

use regex_automata::util::captures::Captures;
use regex_automata::{Anchored, Input, PatternID, meta};
use regex_syntax::hir::Hir;

use super::TooMuchWork;
use super::counted::{CountedMemory, CountedRepeats};
use super::further_look::{FurtherLook, LookWatch};
use super::size::upper_bound;
use crate::pattern::budget::WorkBudget;
use crate::text::matches::Span;

/// The largest a compiled pattern may be, in bytes; more is nearly always a slip such as `\w{1,5000}`.
pub(super) const SIZE_LIMIT: usize = 20 << 20;

/// An expression, checked.
#[derive(Debug)]
pub(super) struct Expression {
    hir: Hir,
    regex: OnceLock<meta::Regex>,
    ahead: FurtherLook,
    counted: Option<CountedRepeats>,
    sees: Sees,
}

/// How far a match may go.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Sees {
    Line,
    Text,
}

/// The memory searches for one expression need; one for each thread.
#[derive(Debug)]
pub(super) struct SearchMemory {
    pub(super) cache: meta::Cache,
    pub(super) captures: Captures,
    watch: LookWatch,
    counted: Option<CountedMemory>,
}

impl Expression {
    /// # Errors
    /// A message, if it would be larger than it may be.
    pub(super) fn new(hir: Hir, sees: Sees) -> Result<Self, String> {
        let regex = OnceLock::new();
        if upper_bound(&hir) > SIZE_LIMIT as u64 {
            // Only compiling it tells how large it is.
            let _ = regex.set(compile(&hir)?);
        }
        let (ahead, counted) = (FurtherLook::new(&hir, sees), CountedRepeats::of(&hir));
        Ok(Self { hir, regex, ahead, counted, sees })
    }

    /// More than it takes compiled, in bytes.
    pub(super) fn size_bound(&self) -> u64 {
        self.regex.get().map_or_else(|| upper_bound(&self.hir), |regex| regex.memory_usage() as u64)
    }

    /// About what it takes compiled, in bytes.
    pub(super) fn size(&self) -> u64 {
        self.regex().memory_usage() as u64
    }

    pub(super) fn hir(&self) -> &Hir {
        &self.hir
    }

    pub(super) fn regex(&self) -> &meta::Regex {
        self.regex
            .get_or_init(|| compile(&self.hir).expect("OK because it is not too large, and nothing else can fail"))
    }

    /// What is needed to search a block of text.
    pub(super) fn search<'s>(&self, memory: &'s mut Option<SearchMemory>) -> &'s mut SearchMemory {
        let search = memory.get_or_insert_with(|| {
            let (cache, captures) = (self.regex().create_cache(), self.regex().create_captures());
            SearchMemory { cache, captures, watch: LookWatch::default(), counted: None }
        });
        search.watch.see_another_text();
        search
    }

    /// The first match from `from` on; where groups are requested, they are left in `search.captures`.
    ///
    /// # Errors
    /// Searches that take more work than they may.
    #[inline]
    pub(super) fn find(
        &self,
        text: &[u8],
        from: usize,
        with_groups: bool,
        search: &mut SearchMemory,
        budget: &mut WorkBudget,
    ) -> Result<Option<Span>, TooMuchWork> {
        let input = Input::new(text).range(from..);
        let found = if let Some(counted) = &self.counted {
            self.find_counted(counted, &input, with_groups, search, budget)?
        } else if with_groups {
            self.regex().search_captures_with(&mut search.cache, &input, &mut search.captures);
            search.captures.get_match().map(|found| Span::new(found.start(), found.end()))
        } else {
            let found = self.regex().search_with(&mut search.cache, &input);
            found.map(|found| Span::new(found.start(), found.end()))
        };
        match found {
            Some(found) if !self.ahead.allows(text, from, found.end, &mut search.watch, budget) => {
                Err(TooMuchWork { at: found.start })
            }
            _ => Ok(found),
        }
    }

    fn find_counted(
        &self,
        counted: &CountedRepeats,
        input: &Input<'_>,
        with_groups: bool,
        search: &mut SearchMemory,
        budget: &mut WorkBudget,
    ) -> Result<Option<Span>, TooMuchWork> {
        let found = counted.find(&self.hir, input, self.sees == Sees::Line, &mut search.counted, budget)?;
        let Some(span) = found.filter(|_| with_groups) else { return Ok(found) };
        counted.pay_for_groups(input.haystack(), span, &mut search.counted, budget)?;
        let input = Input::new(input.haystack()).range(span.start..span.end).anchored(Anchored::Yes);
        self.regex().search_captures_with(&mut search.cache, &input, &mut search.captures);
        Ok(found)
    }
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

#[cfg(test)]
mod tests {
    use super::*;

    fn expression(pattern: &str) -> Result<Expression, String> {
        Expression::new(regex_syntax::parse(pattern).expect("a pattern"), Sees::Line)
    }

    #[test]
    fn only_what_may_be_too_large_is_compiled_before_it_is_searched_for() {
        for (pattern, at_once) in [
            (r"(\d{2})\.(\d{2})\.(\d{4})", false),
            (r"^[\w ]{0,3}\bum\b", false),
            (r"x{1,5000}", false),
            (r"\w{400}", true),
        ] {
            let expression = expression(pattern).expect("small enough");
            assert_eq!(expression.regex.get().is_some(), at_once, "{pattern}");
            let mut memory = None;
            expression.search(&mut memory);
            assert!(memory.is_some() && expression.regex.get().is_some(), "{pattern}");
        }
        assert!(expression(r"\w{1,5000}").is_err_and(|message| message.contains("over 20 MiB")));
    }
}
