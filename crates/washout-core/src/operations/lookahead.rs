//! How much of a text a rule must see at once.

use crate::rules::Search;

/// How much of a text a rule must see at once.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Lookahead {
    /// Whole lines, in blocks of any number.
    Lines,
    /// Whole lines that no match reaches out of; a match reaches over at most that many line ends.
    MoreLines(usize),
    /// The whole text, since a match may reach over any number of line ends.
    Text,
}

impl Lookahead {
    /// What a search reaches over.
    pub(super) fn of(search: &Search) -> Self {
        match search.line_ends_reached_over() {
            Some(0) => Self::Lines,
            Some(line_ends) => Self::MoreLines(line_ends),
            None => Self::Text,
        }
    }

    /// The same, and at least that many lines after each line.
    pub(super) fn or_more_lines(self, lines: usize) -> Self {
        match self {
            _ if lines == 0 => self,
            Self::Lines => Self::MoreLines(lines),
            Self::MoreLines(ahead) => Self::MoreLines(ahead.max(lines)),
            Self::Text => Self::Text,
        }
    }
}
