//! A list of literal strings or words, found leftmost and then longest.

use super::boundary::{Hyphen, begins_word, ends_word, is_word_char};
use super::first_words::FirstWords;
use super::openings::Openings;
use super::spelling::{CRLF, CharKey, Spelling};
use super::trie::{NodeId, Trie};
use crate::class::{CharSet, CharTable};
use crate::text::chars::{char_at, step};
use crate::text::walk::Walk;

/// A list of entries made ready for finding.
///
/// One walk down a prefix tree from each place where an entry may start. The cost per place does not grow with the
/// number of entries.
#[derive(Clone, Debug)]
pub(crate) struct Phrases {
    trie: Trie,
    spelling: Spelling,
    /// For words: a word entry must stand as a whole word.
    boundaries: Option<Hyphen>,
    starts: CharTable,
    /// For words.
    first_words: Option<FirstWords>,
    /// For literal strings.
    openings: Option<Openings>,
}

impl Phrases {
    /// Literal strings, found anywhere.
    pub(crate) fn literal<'e>(entries: impl IntoIterator<Item = &'e str>, ignore_case: bool) -> Self {
        Self::new(entries, Spelling { ignore_case, as_words: false }, None)
    }

    /// Words and phrases, found where they stand as whole words.
    pub(crate) fn words<'e>(entries: impl IntoIterator<Item = &'e str>, ignore_case: bool, hyphen: Hyphen) -> Self {
        Self::new(entries, Spelling { ignore_case, as_words: true }, Some(hyphen))
    }

    fn new<'e>(entries: impl IntoIterator<Item = &'e str>, spelling: Spelling, boundaries: Option<Hyphen>) -> Self {
        let entries: Vec<String> = entries.into_iter().map(str::to_owned).collect();
        let keys: Vec<Vec<CharKey>> = entries.iter().map(|entry| spelling.keys(entry)).collect();
        let openings = if boundaries.is_none() { Openings::new(&entries, &keys, spelling.ignore_case) } else { None };
        let first_words = boundaries.map(|_| FirstWords::new(&keys, spelling.ignore_case));
        let trie = Trie::new(keys);
        let starts = CharTable::new(start_set(&trie, spelling));
        Self { trie, spelling, boundaries, starts, first_words, openings }
    }

    /// The first place at or after `from` where an entry may start.
    #[inline]
    pub(crate) fn next_candidate(&self, text: &[u8], from: usize) -> Option<usize> {
        let Some(openings) = &self.openings else { return self.starts.next_candidate(text, from) };
        let mut from = from;
        loop {
            let at = self.starts.next_candidate(text, from)?;
            if openings.may_begin(text, at) {
                return Some(at);
            }
            from = at + 1;
        }
    }

    /// The first place after `at` where an entry may start, given that none starts at `at`: within a word no other
    /// word begins.
    #[inline]
    pub(crate) fn after_failure(&self, text: &[u8], at: usize) -> usize {
        if self.boundaries.is_none() || !text[at].is_ascii_alphanumeric() {
            return at + step(text, at);
        }
        at + text[at..].iter().take_while(|byte| byte.is_ascii_alphanumeric()).count()
    }

    /// The end of the longest entry that starts at `at` and whose end is accepted.
    #[inline]
    pub(crate) fn match_at(&self, text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<usize> {
        self.entry_at(text, at, accept).map(|(end, _)| end)
    }

    /// As `match_at`, with the index of the entry.
    #[inline]
    pub(crate) fn entry_at(&self, text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<(usize, usize)> {
        let (first, _) = char_at(text, at)?;
        if let Some(hyphen) = self.boundaries
            && is_word_char(first)
            && !begins_word(text, at, hyphen)
        {
            return None;
        }
        if let Some(first_words) = &self.first_words
            && first.is_ascii_alphanumeric()
            && !first_words.may_begin(text, at)
        {
            return None;
        }
        let mut longest = None;
        self.walk(text, 0, at, &accept, &mut longest);
        longest
    }

    fn walk(
        &self,
        text: &[u8],
        mut node: NodeId,
        mut at: usize,
        accept: &impl Fn(usize) -> bool,
        longest: &mut Option<(usize, usize)>,
    ) {
        while let Some((key, len)) = self.spelling.key_at(text, at) {
            if key == CRLF {
                return self.walk_crlf(text, node, at + len, accept, longest);
            }
            let Some(child) = self.trie.child(node, key) else { return };
            (node, at) = (child, at + len);
            self.judge_end(text, node, at, key, accept, longest);
        }
    }

    /// An entry may have the CRLF that ends at `end` as `\r\n`, as `\n` or as `\r`.
    fn walk_crlf(
        &self,
        text: &[u8],
        node: NodeId,
        end: usize,
        accept: &impl Fn(usize) -> bool,
        longest: &mut Option<(usize, usize)>,
    ) {
        let spelled = [CRLF, CharKey::from('\n'), CharKey::from('\r')];
        for (key, child) in spelled.into_iter().filter_map(|key| Some((key, self.trie.child(node, key)?))) {
            self.judge_end(text, child, end, key, accept, longest);
            self.walk(text, child, end, accept, longest);
        }
    }

    #[inline]
    fn judge_end(
        &self,
        text: &[u8],
        node: NodeId,
        end: usize,
        last_key: CharKey,
        accept: &impl Fn(usize) -> bool,
        longest: &mut Option<(usize, usize)>,
    ) {
        let Some(entry) = self.trie.entry(node) else { return };
        if longest.is_some_and(|(longest, _)| longest >= end) {
            return;
        }
        let whole = match self.boundaries {
            Some(hyphen) if char::from_u32(last_key).is_some_and(is_word_char) => ends_word(text, end, hyphen),
            _ => true,
        };
        if whole && accept(end) {
            *longest = Some((end, entry));
        }
    }
}

/// Every character whose key opens an entry.
fn start_set(trie: &Trie, spelling: Spelling) -> CharSet {
    let mut starts = CharSet::of_chars(trie.first_keys().flat_map(first_chars));
    if spelling.ignore_case {
        starts.fold_case();
    }
    if spelling.as_words {
        for (key, other) in [('\'', '’'), (' ', '\t')] {
            if starts.contains(key) {
                starts.add(&CharSet::of_chars([other]));
            }
        }
    }
    starts
}

/// The characters a key stands for.
fn first_chars(key: CharKey) -> Vec<char> {
    char::from_u32(key).map_or_else(|| vec!['\r', '\n'], |character| vec![character])
}

impl Walk for Phrases {
    #[inline]
    fn next_candidate(&self, text: &[u8], from: usize) -> Option<usize> {
        self.next_candidate(text, from)
    }

    #[inline]
    fn match_at(&self, text: &[u8], at: usize, accept: impl Fn(usize) -> bool) -> Option<usize> {
        self.match_at(text, at, accept)
    }

    #[inline]
    fn after_failure(&self, text: &[u8], at: usize) -> usize {
        self.after_failure(text, at)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn found(phrases: &Phrases, text: &str) -> Vec<String> {
        let (mut found, mut at) = (Vec::new(), 0);
        while let Some(start) = phrases.next_candidate(text.as_bytes(), at) {
            match phrases.match_at(text.as_bytes(), start, |_| true) {
                Some(end) => {
                    found.push(text[start..end].to_owned());
                    at = end;
                }
                None => at = start + char_at(text.as_bytes(), start).map_or(1, |(_, len)| len),
            }
        }
        found
    }

    #[test]
    fn the_longest_entry_wins_and_a_shorter_one_steps_in_where_it_fails() {
        let words = Phrases::words(["Marrow", "Marrow Point", "Dr.", "§"], false, Hyphen::Parts);
        assert_eq!(found(&words, "Marrow \t Point"), ["Marrow \t Point"]);
        assert_eq!(found(&words, "Marrow Pointer"), ["Marrow"]);
        assert_eq!(
            found(&words, "Dr.Dr. x§y Drs."),
            ["Dr.", "Dr.", "§"],
            "after a point a word begins, within one none does"
        );
    }

    #[test]
    fn case_and_apostrophes_are_looked_past_where_asked() {
        let words = Phrases::words(["don't", "STRASSE", "éclat"], true, Hyphen::Parts);
        assert_eq!(found(&words, "Don’t strasse ÉCLAT straße"), ["Don’t", "strasse", "ÉCLAT"]);
        let kelvin = Phrases::literal(["kg", "ß"], true);
        assert_eq!(found(&kelvin, "5 \u{212A}g ẞ"), ["\u{212A}g", "ẞ"], "simple folding pairs K with the kelvin sign");
    }

    #[test]
    fn a_line_end_in_an_entry_takes_a_crlf_as_one() {
        for (entry, want) in [("x\ny", 1), ("x\ry", 1), ("x\r\ny", 1), ("x\n\ny", 0)] {
            let literal = Phrases::literal([entry], false);
            assert_eq!(found(&literal, "x\r\ny").len(), want, "{entry:?}");
        }
    }
}
