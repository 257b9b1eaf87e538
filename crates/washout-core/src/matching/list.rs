//! Lists of literal strings or of words, made ready for the first search: that of a long list takes longer than many a
//! text, and many a text has nothing that calls for it.

use std::collections::HashMap;
use std::sync::OnceLock;

use aho_corasick::{AhoCorasick, AhoCorasickKind, Input, MatchKind};

use super::walker;
use crate::text::At;
use crate::text::haystack::Haystack;
use crate::text::matches::{Matches, Span};
use crate::words::{Hyphen, Phrases};

/// States of an automaton that may have a row of what follows each, where the library finds that best.
const MOST_ROWS: usize = 4 << 10;

/// Bytes of a short entry.
const SHORT: usize = 64;

/// A list, and where its entries are looked for.
#[derive(Debug)]
pub(super) struct EntryList {
    /// Empty ones are found nowhere; they keep the others in their places.
    entries: Vec<String>,
    ignore_case: bool,
    /// `None`: literal strings.
    words: Option<Hyphen>,
    at: At,
    ready: OnceLock<PreparedList>,
    by_bytes: OnceLock<HashMap<Vec<u8>, usize>>,
}

#[derive(Debug)]
enum PreparedList {
    /// For literal strings on one line, in exact case, anywhere.
    Automaton(AhoCorasick),
    Tree(Box<Phrases>),
}

impl EntryList {
    pub(super) fn of_text(entries: Vec<String>, ignore_case: bool, at: At) -> Self {
        Self { entries, ignore_case, words: None, at, ready: OnceLock::new(), by_bytes: OnceLock::new() }
    }

    pub(super) fn of_words(entries: Vec<String>, ignore_case: bool, hyphen: Hyphen, at: At) -> Self {
        Self { words: Some(hyphen), ..Self::of_text(entries, ignore_case, at) }
    }

    /// Characters of the longest entry; a blank of it may stand for many.
    pub(super) fn longest(&self) -> usize {
        self.entries.iter().map(|entry| entry.chars().count()).max().unwrap_or(0)
    }

    /// Whether it looks only where there may be anything to find, given that.
    pub(super) fn looks_near(&self) -> bool {
        // Long entries, tried from each of many starts, would take time in proportion to their length besides that of the text.
        let are_short = self.entries.iter().all(|entry| entry.len() <= SHORT);
        self.at == At::Anywhere && !self.has_line_ends() && are_short
    }

    pub(super) fn find_all(&self, haystack: Haystack<'_>, matches: &mut Matches) {
        // Asked in this order: a long list, of which no starts are known, would be looked through for each block.
        if let Some(starts) = haystack.starts()
            && self.looks_near()
        {
            let text = haystack.text;
            let push = |start, end| matches.push(start, end);
            if self.words.is_none() && !self.ignore_case {
                return Haystack::each_start(starts, |start| self.longest_at(text, start), push);
            }
            if let PreparedList::Tree(phrases) = self.ready() {
                return Haystack::each_start(starts, |start| phrases.match_at(text, start, |_| true), push);
            }
        }
        match self.ready() {
            PreparedList::Automaton(literals) => haystack.each_stretch(|text, from| {
                literals
                    .find_iter(Input::new(text).range(from..))
                    .for_each(|found| matches.push(found.start(), found.end()));
            }),
            PreparedList::Tree(phrases) => walker::find_all(&**phrases, self.at, haystack.text, matches),
        }
    }

    /// Which entry a match is, from 0.
    pub(super) fn entry_of(&self, text: &[u8], found: Span) -> Option<usize> {
        match self.ready() {
            PreparedList::Automaton(_) => self.by_bytes.get_or_init(|| self.places()).get(found.of(text)).copied(),
            PreparedList::Tree(phrases) => {
                phrases.entry_at(text, found.start, |end| end == found.end).map(|(_, entry)| entry)
            }
        }
    }

    /// Where each entry is in the list; the first of equal ones.
    fn places(&self) -> HashMap<Vec<u8>, usize> {
        self.entries.iter().enumerate().rev().map(|(place, entry)| (entry.as_bytes().to_vec(), place)).collect()
    }

    fn ready(&self) -> &PreparedList {
        self.ready.get_or_init(|| {
            let automaton = if self.is_plain() { self.automaton() } else { None };
            automaton.map_or_else(|| PreparedList::Tree(Box::new(self.tree())), PreparedList::Automaton)
        })
    }

    fn is_plain(&self) -> bool {
        self.words.is_none() && !self.ignore_case && self.at == At::Anywhere && !self.has_line_ends()
    }

    fn has_line_ends(&self) -> bool {
        self.entries.iter().any(|entry| entry.contains(['\n', '\r']))
    }

    /// The end of the longest entry that starts at `start`, byte for byte.
    fn longest_at(&self, text: &[u8], start: usize) -> Option<usize> {
        let (first, rest) = text[start..].split_first()?;
        let is_here = |entry: &&[u8]| matches!(entry, [one, others @ ..] if one == first && rest.starts_with(others));
        let len = self.entries.iter().map(String::as_bytes).filter(is_here).map(<[u8]>::len).max()?;
        Some(start + len)
    }

    fn tree(&self) -> Phrases {
        let entries = self.entries.iter().map(String::as_str);
        match self.words {
            Some(hyphen) => Phrases::words(entries, self.ignore_case, hyphen),
            None => Phrases::literal(entries, self.ignore_case),
        }
    }

    /// `None` where the list is too large for one, which the prefix tree then serves.
    fn automaton(&self) -> Option<AhoCorasick> {
        let entries = || self.entries.iter().filter(|entry| !entry.is_empty());
        // One with a row for each state is the fastest, and takes too long to make of many states.
        let states: usize = entries().map(String::len).sum();
        let kind = (states > MOST_ROWS).then_some(AhoCorasickKind::ContiguousNFA);
        AhoCorasick::builder().match_kind(MatchKind::LeftmostLongest).kind(kind).build(entries()).ok()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_list_is_made_ready_by_its_first_search_and_not_by_what_is_asked_of_it() {
        let entries = || vec!["fog".to_owned(), "gale".to_owned()];
        for list in [
            EntryList::of_text(entries(), false, At::Anywhere),
            EntryList::of_words(entries(), true, Hyphen::Parts, At::End),
        ] {
            assert_eq!(list.longest(), 4);
            assert!(list.ready.get().is_none(), "how far it reaches is known without");
            let mut matches = Matches::default();
            list.find_all(b"a gale, fog".as_slice().into(), &mut matches);
            assert_eq!(list.entry_of(b"a gale, fog", matches.spans()[matches.spans().len() - 1]), Some(0));
        }
    }
}
