//! What a rule spares.

use std::collections::HashSet;
use std::sync::OnceLock;

use crate::class::{CharSet, CharTable};
use crate::rules::{Case, Except};
use crate::text::chars::step;
use crate::words::{CharKey, Spelling};

/// The part of `except` that cannot be taken out of the target beforehand: a match is spared if the whole of it is
/// excepted.
#[derive(Clone, Debug)]
pub(crate) struct Spare {
    chars: Option<CharTable>,
    words: SpelledEntries,
    text: SpelledEntries,
}

/// Whole strings, compared by their spelling.
#[derive(Clone, Debug)]
struct SpelledEntries {
    spelling: Spelling,
    entries: Vec<String>,
    /// The same as they are compared; made for the first match.
    keys: OnceLock<HashSet<Vec<CharKey>>>,
}

impl SpelledEntries {
    fn new(entries: &[String], spelling: Spelling) -> Self {
        Self { spelling, entries: entries.to_vec(), keys: OnceLock::new() }
    }

    fn holds(&self, text: &[u8]) -> bool {
        if self.entries.is_empty() {
            return false;
        }
        let keys = self.keys.get_or_init(|| keys_of(&self.entries, self.spelling));
        std::str::from_utf8(text).is_ok_and(|text| keys.contains(&self.spelling.keys(text)))
    }
}

fn keys_of(entries: &[String], spelling: Spelling) -> HashSet<Vec<CharKey>> {
    entries.iter().map(|entry| spelling.keys(entry)).collect()
}

impl Spare {
    /// What is left of `except` to judge match by match; `None` if nothing is.
    pub(crate) fn new(except: &Except, case: Case) -> Option<Self> {
        if except.is_empty() {
            return None;
        }
        let mut set = except.chars.set.clone();
        if case == Case::Ignore {
            set.fold_case();
        }
        let chars = (set != CharSet::default()).then(|| CharTable::new(set));
        let ignore_case = case == Case::Ignore;
        Some(Self {
            chars,
            words: SpelledEntries::new(&except.words, Spelling { ignore_case, as_words: true }),
            text: SpelledEntries::new(&except.text, Spelling { ignore_case, as_words: false }),
        })
    }

    /// Whether the whole of this match is excepted.
    pub(crate) fn spares(&self, found: &[u8]) -> bool {
        self.words.holds(found) || self.text.holds(found) || self.chars.as_ref().is_some_and(|set| all_in(set, found))
    }
}

fn all_in(set: &CharTable, text: &[u8]) -> bool {
    let mut at = 0;
    while at < text.len() && set.match_len(text, at) > 0 {
        at += set.match_len(text, at).max(step(text, at));
    }
    at >= text.len() && !text.is_empty()
}

/// `entries` with those emptied that are excepted under this spelling: the others keep their places.
pub(crate) fn without(entries: &[String], excepted: &[String], spelling: Spelling) -> Vec<String> {
    if excepted.is_empty() {
        return entries.to_vec();
    }
    let excepted = keys_of(excepted, spelling);
    let left = |entry: &String| if excepted.contains(&spelling.keys(entry)) { String::new() } else { entry.clone() };
    entries.iter().map(left).collect()
}
