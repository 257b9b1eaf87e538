//! Tails that many names have: what programs and people add to the name of a file.

use std::collections::BTreeMap;

use super::kinds::{KindFindings, SIGHTINGS};
use super::{Place, Sighting};
use crate::names::stem_of;

/// Letters a tail has at least.
const LEAST_LETTERS: usize = 4;

/// This many names have it at least, and one in that many of all.
const LEAST_NAMES: u64 = 3;
const LEAST_SHARE: u64 = 5;

/// Tails that are told apart: names may have as many as there are names.
const MOST_TAILS: usize = 10_000;

/// The tails of names.
#[derive(Clone, Debug, Default)]
pub(super) struct Tails {
    names: u64,
    found: BTreeMap<Vec<u8>, KindFindings>,
}

impl Tails {
    /// Looks at a name, that of text `text`.
    pub(super) fn see(&mut self, name: &[u8], is_folder: bool, text: usize) {
        self.names += 1;
        let stem = stem_of(name, is_folder);
        let Some(tail) = tail_of(&name[stem.clone()]) else { return };
        if !self.found.contains_key(tail) && self.found.len() >= MOST_TAILS {
            return;
        }
        let found = self.found.entry(tail.to_vec()).or_default();
        found.count += 1;
        found.texts += 1;
        if found.sightings.len() < SIGHTINGS {
            let (start, end) = (stem.end - tail.len(), stem.end);
            let column = bytecount::num_chars(&name[..start]) as u64 + 1;
            let place = Place { text, line: 1, column };
            found.sightings.push(Sighting { place, excerpt: name.to_vec(), mark: start..end });
        }
    }

    /// Those that enough names have, the most common first.
    pub(super) fn common(&self) -> Vec<(&[u8], &KindFindings)> {
        let is_common = |found: &KindFindings| found.count >= LEAST_NAMES && found.count * LEAST_SHARE >= self.names;
        let found = self.found.iter().filter(|(_, found)| is_common(found));
        let mut common: Vec<(&[u8], &KindFindings)> = found.map(|(tail, found)| (tail.as_slice(), found)).collect();
        common.sort_by_key(|(_, found)| std::cmp::Reverse(found.count));
        common
    }
}

/// The last word of a name with the mark before it: `-converted`, ` edited`, `_scan`.
fn tail_of(stem: &[u8]) -> Option<&[u8]> {
    let mark = stem.iter().rposition(|byte| matches!(byte, b'-' | b'_' | b' '))?;
    let word = std::str::from_utf8(&stem[mark + 1..]).ok()?;
    let is_word = word.chars().count() >= LEAST_LETTERS && word.chars().all(char::is_alphabetic);
    (is_word && mark > 0).then_some(&stem[mark..])
}
