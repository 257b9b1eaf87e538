//! The part of a text that rules see: all of it, or a part of a name.

use super::Pair;
use crate::names::part_range;
use crate::rules::NamePart;

/// The part that rules see, with what is before and after it.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Seen {
    pub(super) text: String,
    before: String,
    after: String,
}

impl Seen {
    /// The part of a name, or all of a text that is none.
    pub(super) fn of(text: &str, part: Option<NamePart>) -> Self {
        let range = part.map_or(0..text.len(), |part| part_range(text.as_bytes(), part, false));
        Self {
            text: text[range.clone()].to_owned(),
            before: text[..range.start].to_owned(),
            after: text[range.end..].to_owned(),
        }
    }

    /// The same name with another text for the part.
    pub(super) fn with(&self, text: String) -> Self {
        Self { text, ..self.clone() }
    }

    /// The whole name, with this for the part.
    pub(super) fn whole(&self, text: &str) -> String {
        [&self.before, text, &self.after].concat()
    }
}

/// The part of names that differs.
pub(super) fn part_that_differs(pairs: &[Pair]) -> NamePart {
    let is_same_in = |part: NamePart| {
        pairs.iter().all(|pair| Seen::of(&pair.before, Some(part)).text == Seen::of(&pair.after, Some(part)).text)
    };
    match (is_same_in(NamePart::Extension), is_same_in(NamePart::Stem)) {
        (true, _) => NamePart::Stem,
        (_, true) => NamePart::Extension,
        _ => NamePart::Whole,
    }
}
