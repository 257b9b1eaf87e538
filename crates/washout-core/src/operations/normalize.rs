//! `normalize`
//!
//! A text is cut before every character that normalization can never join with what is before it, and each part is
//! normalized by itself: the result is that of the whole, and each part that differs is a change.

use unicode_normalization::char::{canonical_combining_class, decompose_canonical, decompose_compatible};
use unicode_normalization::{IsNormalized, UnicodeNormalization, is_nfc_quick};

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::rules::{NormalForm, Normalize};
use crate::text::haystack::Haystack;
use crate::text::lines::Lines;

/// Puts text in a normalization form.
#[derive(Clone, Copy, Debug)]
pub(super) struct Normalizer(pub(super) Normalize);

impl Normalizer {
    fn run_on_valid(self, text: &[u8], start: usize, valid: &str, state: &mut RuleState) {
        let mut part_start = 0;
        for (at, _) in valid.char_indices().skip(1).filter(|(_, character)| self.begins_part(*character)) {
            self.edit(text, start, &valid[part_start..at], part_start, state);
            part_start = at;
        }
        self.edit(text, start, &valid[part_start..], part_start, state);
    }

    fn edit(self, text: &[u8], start: usize, part: &str, part_start: usize, state: &mut RuleState) {
        if part.is_ascii() {
            return;
        }
        let place = start + part_start..start + part_start + part.len();
        if !state.guard.allows(place.start, place.end) {
            return;
        }
        state.edits.push_with(text, place, 1, |put| {
            let mut write = |character: char| put.extend_from_slice(character.encode_utf8(&mut [0; 4]).as_bytes());
            match self.0.form {
                NormalForm::Nfc => part.nfc().for_each(&mut write),
                NormalForm::Nfd => part.nfd().for_each(&mut write),
                NormalForm::Nfkc => part.nfkc().for_each(&mut write),
                NormalForm::Nfkd => part.nfkd().for_each(&mut write),
            }
        });
    }

    /// Whether nothing before this character can be joined with it or moved after it, whatever it is.
    fn begins_part(self, character: char) -> bool {
        if character.is_ascii() {
            return true;
        }
        let mut first = None;
        let keep_first = |decomposed| first = first.or(Some(decomposed));
        match self.0.form {
            NormalForm::Nfc | NormalForm::Nfd => decompose_canonical(character, keep_first),
            NormalForm::Nfkc | NormalForm::Nfkd => decompose_compatible(character, keep_first),
        }
        let first = first.unwrap_or(character);
        let composes = matches!(self.0.form, NormalForm::Nfc | NormalForm::Nfkc);
        let may_compose = composes && is_nfc_quick(std::iter::once(first)) == IsNormalized::Maybe;
        canonical_combining_class(first) == 0 && !may_compose
    }
}

impl Operation for Normalizer {
    fn line_use(&self) -> LineUse {
        LineUse::KEEPS_NUMBER
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        for line in Lines::of(text) {
            let content = &text[line.start..line.content_end];
            if content.is_ascii() {
                continue; // every form leaves ASCII alone
            }
            let mut at = line.start;
            for chunk in content.utf8_chunks() {
                self.run_on_valid(text, at, chunk.valid(), state);
                at += chunk.valid().len() + chunk.invalid().len();
            }
        }
    }
}
