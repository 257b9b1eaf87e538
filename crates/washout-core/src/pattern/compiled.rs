//! Regular expressions, compiled for the place they are looked for at.

use super::cost::CostWatch;
use super::expression::{Expression, SearchMemory};
use super::{LinePattern, WholeTextPattern};

use super::budget::WorkBudget;
use crate::text::haystack::Haystack;
use crate::text::matches::Matches;

/// A pattern made ready. Which way it is searched for depends on what it asks for.
#[expect(clippy::large_enum_variant, reason = "there is one for each rule with a pattern")]
#[derive(Debug)]
pub(crate) enum CompiledPattern {
    /// Sees one line, and is found in whole blocks of lines at once.
    Line(LinePattern),
    /// Sees the whole text, or looks around and refers back.
    WholeText(WholeTextPattern),
}

/// The memory searches for one pattern need; one for each thread. It is made when it is needed.
#[derive(Debug, Default)]
pub(crate) struct PatternScratch {
    pub(super) search: Option<SearchMemory>,
    /// At both edges of lines, for the end.
    pub(super) end_search: Option<SearchMemory>,
    pub(super) reach: CostWatch,
    pub(super) end_reach: CostWatch,
    pub(super) line_filter: Option<regex_automata::meta::Cache>,
}

/// A search that would take more work than it may, and where it started.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct TooMuchWork {
    /// In bytes.
    pub(crate) at: usize,
}

impl CompiledPattern {
    /// How many groups a match of this pattern has, group 0 included.
    pub(crate) fn groups(&self) -> usize {
        match self {
            Self::Line(pattern) => pattern.groups(),
            Self::WholeText(pattern) => pattern.groups(),
        }
    }

    /// More than it takes compiled, in bytes, as far as can be told without compiling it.
    pub(crate) fn size_bound(&self) -> u64 {
        match self {
            Self::Line(pattern) => pattern.expressions().map(Expression::size_bound).sum(),
            Self::WholeText(pattern) => pattern.size(Expression::size_bound),
        }
    }

    /// About what it takes compiled, in bytes. It is compiled for that.
    pub(crate) fn size(&self) -> u64 {
        match self {
            Self::Line(pattern) => pattern.expressions().map(Expression::size).sum(),
            Self::WholeText(pattern) => pattern.size(Expression::size),
        }
    }

    /// Finds all matches in a block of whole lines, with their groups if `with_groups`.
    pub(crate) fn find_all(
        &self,
        haystack: Haystack<'_>,
        with_groups: bool,
        scratch: &mut PatternScratch,
        budget: &mut WorkBudget,
        matches: &mut Matches,
    ) -> Result<(), TooMuchWork> {
        budget.see(haystack.text.len());
        match self {
            Self::Line(pattern) => pattern.find_all(haystack, with_groups, scratch, budget, matches),
            Self::WholeText(pattern) => pattern.find_all(haystack.text, with_groups, scratch, budget, matches),
        }
    }

    /// Whether it looks only where there may be anything to find, given that.
    pub(crate) fn looks_near(&self) -> bool {
        matches!(self, Self::Line(pattern) if pattern.looks_near())
    }
}
