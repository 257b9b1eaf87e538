//! How much of a text an operation must see at once, and whether it leaves lines their number.

use crate::model::{Part, Replacement, Search, Unmatched, Verb};

/// How much of the text an operation must see at once.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Reach {
    /// Whole lines, in blocks of any number.
    Lines,
    /// Whole lines that no match reaches out of; a match reaches over so many line ends at most.
    LinesAhead(usize),
    /// The whole text, since a match may reach over any number of line ends.
    Text,
}

impl Reach {
    /// What a search reaches over.
    pub(super) fn of(search: &Search) -> Self {
        match search.line_ends_reached_over() {
            Some(0) => Self::Lines,
            Some(line_ends) => Self::LinesAhead(line_ends),
            None => Self::Text,
        }
    }

    /// The same, and at least so many lines behind each line.
    pub(super) fn or_ahead(self, lines: usize) -> Self {
        match self {
            _ if lines == 0 => self,
            Self::Lines => Self::LinesAhead(lines),
            Self::LinesAhead(ahead) => Self::LinesAhead(ahead.max(lines)),
            Self::Text => Self::Text,
        }
    }
}

/// Whether it makes no line of two, nor two of one, but for taking whole ones.
pub(super) fn keeps_lines(verb: &Verb) -> bool {
    let in_line = |text: &str| !text.contains(['\n', '\r']);
    match verb {
        Verb::Remove(_)
        | Verb::Trim(_)
        | Verb::Recase(_)
        | Verb::Normalize(_)
        | Verb::PlainLetters
        | Verb::Tabs(_)
        | Verb::Pad(_) => true,
        Verb::Replace(replace) => match &replace.with {
            Replacement::Pairs(pairs) => pairs.list.iter().all(|(_, with)| in_line(with)),
            Replacement::Template(template) => template.parts().iter().all(|part| match part {
                Part::Literal(literal) => in_line(literal),
                Part::Group(_) => true,
            }),
        },
        Verb::Keep(keep) => keep.unmatched != Unmatched::Drop && in_line(&keep.joined_with),
        Verb::Collapse(collapse) => collapse.with.as_deref().is_none_or(in_line),
        _ => false,
    }
}
