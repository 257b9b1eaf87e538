//! `replace` with pairs: each match has its own replacement.

use super::operation::LineUse;
use crate::matching::Finder;
use crate::rules::Pairs;
use crate::text::edit::Edits;
use crate::text::matches::Span;

/// What takes the place of what.
#[derive(Clone, Debug)]
pub(super) struct PairTable {
    /// By the index of the entry that is found.
    to: Vec<String>,
    follow_case: bool,
}

impl PairTable {
    pub(super) fn new(pairs: &Pairs) -> Self {
        Self { to: pairs.list.iter().map(|(_, to)| to.clone()).collect(), follow_case: pairs.follow_case }
    }

    pub(super) fn line_use(&self) -> LineUse {
        LineUse::Alone { keeps_number: self.to.iter().all(|to| LineUse::of_put(to) == LineUse::KEEPS_NUMBER) }
    }

    pub(super) fn run(&self, text: &[u8], finder: &Finder, spans: &[Span], edits: &mut Edits) {
        for span in spans {
            let Some(to) = finder.entry_of(text, *span).map(|entry| &self.to[entry]) else { continue };
            if self.follow_case {
                edits.push(text, span.start..span.end, in_case_of(span.of(text), to).as_bytes(), 1);
            } else {
                edits.push(text, span.start..span.end, to.as_bytes(), 1);
            }
        }
    }
}

/// `to` with the capitals of what it replaces: all of them, the first, or as it is written.
fn in_case_of(found: &[u8], to: &str) -> String {
    let found = String::from_utf8_lossy(found);
    let mut cased = found.chars().filter(|character| character.is_uppercase() || character.is_lowercase());
    let Some(first) = cased.next().filter(|first| first.is_uppercase()) else { return to.to_owned() };
    let mut rest = cased.peekable();
    let all_capitals = first.is_uppercase() && rest.peek().is_some() && rest.all(char::is_uppercase);
    if all_capitals {
        return to.to_uppercase();
    }
    let mut to = to.chars();
    to.next().map_or_else(String::new, |first| first.to_uppercase().chain(to).collect())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn capitals_go_over_to_what_is_put() {
        for (found, to, want) in [
            ("colour", "color", "color"),
            ("Colour", "color", "Color"),
            ("COLOUR", "color", "COLOR"),
            ("cOLOUR", "color", "color"),
            ("I", "me", "Me"),
            ("É", "e", "E"),
            ("grey", "Gray", "Gray"),
            ("3RD", "third", "THIRD"),
        ] {
            assert_eq!(in_case_of(found.as_bytes(), to), want, "{found}");
        }
    }
}
