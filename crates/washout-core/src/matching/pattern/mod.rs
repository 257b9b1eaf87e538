//! Regular expressions, compiled for the place they are looked for at.

mod ahead;
mod free;
mod line;

pub(crate) use free::FreePattern;
pub(crate) use line::LinePattern;

use free::FreeScratch;
use line::LineScratch;

use super::budget::Budget;
use super::matches::Matches;

/// A pattern made ready. Which way it is searched for depends on what it asks for.
#[expect(clippy::large_enum_variant, reason = "there is one for each rule with a pattern")]
#[derive(Debug)]
pub(crate) enum CompiledPattern {
    /// Sees one line, and is found in whole blocks of lines at once.
    Line(LinePattern),
    /// Sees the whole text, or looks around and refers back.
    Free(FreePattern),
}

/// The memory searches need; one for each thread.
#[derive(Debug)]
pub(crate) enum PatternScratch {
    Line(LineScratch),
    Free(FreeScratch),
}

/// A search that would take more work than it may, and where it started.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct TooMuchWork {
    /// In bytes.
    pub(crate) at: usize,
}

impl CompiledPattern {
    pub(crate) fn scratch(&self) -> PatternScratch {
        match self {
            Self::Line(pattern) => PatternScratch::Line(pattern.scratch()),
            Self::Free(pattern) => PatternScratch::Free(pattern.scratch()),
        }
    }

    /// How many groups a match of this pattern has, group 0 included.
    pub(crate) fn groups(&self) -> usize {
        match self {
            Self::Line(pattern) => pattern.groups(),
            Self::Free(pattern) => pattern.groups(),
        }
    }

    /// Finds all matches in a block of whole lines. `matches` says by its reset whether groups are asked for.
    pub(crate) fn find_all(
        &self,
        text: &[u8],
        with_groups: bool,
        scratch: &mut PatternScratch,
        budget: &mut Budget,
        matches: &mut Matches,
    ) -> Result<(), TooMuchWork> {
        budget.see(text.len());
        match (self, scratch) {
            (Self::Line(pattern), PatternScratch::Line(scratch)) => {
                pattern.find_all(text, with_groups, scratch, budget, matches)
            }
            (Self::Free(pattern), PatternScratch::Free(scratch)) => {
                pattern.find_all(text, with_groups, scratch, budget, matches)
            }
            _ => unreachable!("a pattern makes its own scratch"),
        }
    }
}
