//! `recase`

use bstr::ByteSlice;

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::guard::GuardState;
use crate::matching::Finder;
use crate::rules::{LetterCase, Recase};
use crate::stock::{closing_end, ends_sentence, is_end_mark, marks_start};
use crate::text::chars::{char_at, char_before, step};
use crate::text::edit::Edits;
use crate::text::haystack::Haystack;
use crate::text::letter_runs::{OTHER_CASE, flip_letters, letter_runs};
use crate::text::lines::Lines;
use crate::text::matches::Span;
use crate::words::{Hyphen, begins_word, is_word_char};

/// Puts letters in another case.
#[derive(Clone, Debug)]
pub(super) struct Recaser {
    to: LetterCase,
    keeps_rest: bool,
    /// Only there.
    within: Option<Finder>,
}

impl Recaser {
    pub(super) fn new(recase: &Recase) -> Self {
        let within = recase.within.as_ref().map(|(search, which)| Finder::new(search, *which, false));
        Self { to: recase.to, keeps_rest: recase.keeps_rest, within }
    }

    /// Every character that changes is a change, neighbours together.
    fn recase(&self, text: &[u8], span: Span, each_place: bool, guard: &GuardState, edits: &mut Edits) {
        let mut at = span.start;
        if !guard.is_at_work() && self.is_same_everywhere() {
            return self.recase_in_runs(text, span, each_place, edits);
        }
        self.each_char(text, span, |bytes, recased| {
            if let Some(recased) = recased.filter(|_| guard.allows(at, at + bytes.len())) {
                edits.push(text, at..at + bytes.len(), recased.as_bytes(), 1);
            }
            at += bytes.len();
        });
    }

    /// Whether what happens to a letter of ASCII does not depend on where it is.
    fn is_same_everywhere(&self) -> bool {
        matches!(self.to, LetterCase::Upper | LetterCase::Lower) && !self.keeps_rest
    }

    /// The same where that is so and all may change: letters of ASCII that stand together are changed together,
    /// and where places do not matter, all of them up to a character that is not ASCII.
    fn recase_in_runs(&self, text: &[u8], span: Span, each_place: bool, edits: &mut Edits) {
        let is_upper = self.to == LetterCase::Upper;
        let mut at = span.start;
        while at < span.end {
            let ascii = text[at..span.end].find_non_ascii_byte().unwrap_or(span.end - at);
            if ascii > 0 {
                let stretch = at..at + ascii;
                if each_place {
                    letter_runs(&text[stretch.clone()], is_upper, |run| {
                        let place = at + run.start..at + run.end;
                        edits.push_with(text, place.clone(), run.len() as u64, |put| {
                            put.extend(text[place].iter().map(|letter| letter ^ OTHER_CASE));
                        });
                    });
                } else {
                    edits.push_counted(text, stretch.clone(), |put| flip_letters(&text[stretch], is_upper, put) as u64);
                }
                at += ascii;
            } else {
                let len = step(text, at);
                self.each_char(text, Span::new(at, at + len), |bytes, recased| {
                    if let Some(recased) = recased {
                        edits.push(text, at..at + bytes.len(), recased.as_bytes(), 1);
                    }
                });
                at += len;
            }
        }
    }

    /// Visits each character of the span with what happens to it, if it changes.
    fn each_char(&self, text: &[u8], span: Span, mut visit: impl FnMut(&[u8], Option<&str>)) {
        let mut opens_sentence = true;
        let mut at = span.start;
        while at < span.end {
            let len = step(text, at);
            let mut ascii = [0];
            let other;
            let recased = match char_at(text, at) {
                None => None,
                // No string is made for each letter of most texts.
                Some((character, _)) if character.is_ascii() => {
                    let recased = match self.case_at(text, at, character, &mut opens_sentence) {
                        LetterCase::Lower if self.keeps_rest => character,
                        LetterCase::Lower => character.to_ascii_lowercase(),
                        LetterCase::Upper | LetterCase::Title | LetterCase::Sentence => character.to_ascii_uppercase(),
                    };
                    (recased != character).then(|| &*recased.encode_utf8(&mut ascii))
                }
                Some((character, _)) => {
                    let to = self.case_at(text, at, character, &mut opens_sentence);
                    let is_rest = to == LetterCase::Lower && self.keeps_rest;
                    other = if is_rest { None } else { recased(to, text, at, character) };
                    other.as_deref()
                }
            };
            visit(&text[at..at + len], recased);
            at += len;
        }
    }

    /// The case this one character is put in.
    fn case_at(&self, text: &[u8], at: usize, character: char, opens_sentence: &mut bool) -> LetterCase {
        let in_word = is_word_char(character);
        let opens = match self.to {
            LetterCase::Lower | LetterCase::Upper => return self.to,
            LetterCase::Title => in_word && begins_word(text, at, Hyphen::Parts),
            LetterCase::Sentence => {
                let first = in_word && *opens_sentence;
                *opens_sentence = (*opens_sentence && !in_word) || closes_sentence(text, at, character);
                first
            }
        };
        if opens { LetterCase::Title } else { LetterCase::Lower }
    }
}

impl Operation for Recaser {
    fn line_use(&self) -> LineUse {
        LineUse::KEEPS_NUMBER
    }

    fn run(&self, block: Haystack<'_>, context: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { finder, edits, guard, .. } = state;
        match &self.within {
            None => {
                for line in Lines::of(text) {
                    self.recase(text, Span::new(line.start, line.content_end), context.each_place, guard, edits);
                }
            }
            Some(search) => {
                for span in search.find(text, guard, finder).spans() {
                    // The whole of a match is one change.
                    let mut put = Vec::with_capacity(span.end - span.start);
                    self.each_char(text, *span, |bytes, recased| {
                        put.extend_from_slice(recased.map_or(bytes, str::as_bytes));
                    });
                    edits.push(text, span.start..span.end, &put, 1);
                }
            }
        }
    }

    fn finder(&self) -> Option<&Finder> {
        self.within.as_ref()
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        self.within.as_mut()
    }
}

/// Whether a sentence is over at this mark, as the stock pattern `sentence-end` has it.
fn closes_sentence(text: &[u8], at: usize, mark: char) -> bool {
    is_end_mark(mark) && {
        let marks_end = at + mark.len_utf8();
        let is_last = !char_at(text, marks_end).is_some_and(|(next, _)| is_end_mark(next));
        is_last && ends_sentence(text, marks_start(text, at), closing_end(text, marks_end))
    }
}

/// What a character becomes, if that is another. Most have no case, and no string is made for them.
fn recased(to: LetterCase, text: &[u8], at: usize, character: char) -> Option<String> {
    let stays = match to {
        LetterCase::Lower => character.to_lowercase().eq([character]),
        LetterCase::Upper => character.to_uppercase().eq([character]),
        LetterCase::Title | LetterCase::Sentence => false,
    };
    if stays { None } else { Some(mapped(to, text, at, character)).filter(|mapped| !mapped.chars().eq([character])) }
}

fn mapped(to: LetterCase, text: &[u8], at: usize, character: char) -> String {
    match to {
        LetterCase::Upper => character.to_uppercase().collect(),
        LetterCase::Title | LetterCase::Sentence => {
            let title = unicode_case_mapping::to_titlecase(character);
            let title: String = title.into_iter().filter(|code| *code != 0).filter_map(char::from_u32).collect();
            if title.is_empty() { character.to_string() } else { title }
        }
        LetterCase::Lower if character == 'Σ' && ends_word_here(text, at) => "ς".to_owned(),
        LetterCase::Lower => character.to_lowercase().collect(),
    }
}

/// Whether the letter at `at` has a letter before it and none after it: there Σ becomes ς (Unicode 16.0, table 3-17).
fn ends_word_here(text: &[u8], at: usize) -> bool {
    let before = char_before(text, at).is_some_and(char::is_alphabetic);
    let behind = char_at(text, at + step(text, at)).is_some_and(|(next, _)| next.is_alphabetic());
    before && !behind
}
