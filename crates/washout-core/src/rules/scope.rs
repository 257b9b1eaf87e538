//! Where in a text a rule may act: which lines, which sections, and what it must leave alone.

use crate::choices::choices;

use super::search::Search;

/// The part of a text a rule may act on. By default that is all of it.
#[derive(Clone, Debug, Default)]
pub struct Scope {
    /// `only_lines`: only lines that hold a match.
    pub only_lines: Option<Search>,
    /// `skip_lines`: no line that holds a match.
    pub skip_lines: Option<Search>,
    /// `lines`: only these.
    pub lines: Option<LineRange>,
    /// `from_line`: a section opens with a line that holds a match, and again after each that closed.
    pub from_line: Option<Search>,
    /// `to_line`: a section closes with the next later line that holds a match.
    pub to_line: Option<Search>,
    /// `unclosed`: what happens to a section that does not close.
    pub unclosed: Unclosed,
    /// `spare`: matches that share a byte with one of these are left alone.
    pub spare: Vec<Search>,
}

impl Scope {
    /// Whether it picks out lines at all.
    pub fn picks_lines(&self) -> bool {
        self.searches_for_lines().next().is_some() || self.lines.is_some()
    }

    /// Whether it leaves out nothing.
    pub fn is_all(&self) -> bool {
        !self.picks_lines() && self.spare.is_empty()
    }

    pub(crate) fn searches_for_lines(&self) -> impl Iterator<Item = &Search> {
        [&self.only_lines, &self.skip_lines, &self.from_line, &self.to_line].into_iter().flatten()
    }
}

choices! {
    /// What happens to a section that does not close before the text ends.
    #[derive(Default)]
    pub enum Unclosed {
        /// It goes to the end of the text.
        #[default]
        Take = "take",
        /// It is left alone; also one in which another opens before it closes.
        Leave = "leave",
        /// It is an error, and so is one in which another opens before it closes.
        Refuse = "refuse",
    }
}

/// Lines by their number, both ends included.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct LineRange {
    /// The first.
    pub first: LinePlace,
    /// The last.
    pub last: LinePlace,
}

/// A line by its number, from 1.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum LinePlace {
    /// Counted from the start of the text.
    FromStart(u64),
    /// Counted back from its end: 1 is the last line.
    FromEnd(u64),
}

impl LineRange {
    /// The farthest it looks from the end of the text, in lines; 0 if it does not.
    pub(crate) fn looks_back(self) -> u64 {
        let back = |place| if let LinePlace::FromEnd(back) = place { back } else { 0 };
        // Up to the very last line is no question of how many follow.
        let last = if self.last == LinePlace::FromEnd(1) { 0 } else { back(self.last) };
        back(self.first).max(last)
    }

    /// Whether a line is in the range: `number` from the start, `from_end` from the end, both from 1.
    pub(crate) fn contains(self, number: u64, from_end: u64) -> bool {
        let not_before = match self.first {
            LinePlace::FromStart(first) => number >= first,
            LinePlace::FromEnd(first) => from_end <= first,
        };
        let not_after = match self.last {
            LinePlace::FromStart(last) => number <= last,
            LinePlace::FromEnd(last) => from_end >= last,
        };
        not_before && not_after
    }
}
