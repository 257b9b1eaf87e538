//! What may stand around the parts of the names of people.

use super::around::no_word_after;
use crate::text::chars::{char_at, char_before};
use crate::text::lines::{skip_blanks, skip_blanks_back};
use crate::words::is_word_char;

/// Initials a name has at most, and words in small letters: a row of nothing else must not be walked from each of them.
const MOST_INITIALS: usize = 4;

/// Words in small letters that family names begin with.
const PARTICLES: &[&str] = &[
    "af", "al", "av", "ap", "bin", "bint", "da", "das", "de", "degli", "del", "dell", "della", "den", "der", "des",
    "di", "do", "dos", "du", "el", "ibn", "la", "las", "le", "los", "op", "ten", "ter", "te", "van", "vom", "von", "y",
    "zu", "zum", "zur",
];

/// Words before a number that make it the number of a thing.
const NUMBERED: &[&str] = &[
    "Act", "Appendix", "Article", "Book", "Chapter", "Class", "Figure", "Grade", "Group", "King", "Level", "Lot",
    "Mark", "Model", "Part", "Phase", "Plan", "Plate", "Pope", "Queen", "Scene", "Section", "Series", "Stage", "Table",
    "Title", "Type", "Unit", "Version", "Volume", "War",
];

/// A capital letter that begins a word of at least two letters.
fn begins_name(text: &[u8], at: usize) -> bool {
    let Some((first, len)) = char_at(text, at) else { return false };
    first.is_uppercase() && char_at(text, at + len).is_some_and(|(next, _)| next.is_alphabetic() || is_apostrophe(next))
}

fn is_apostrophe(character: char) -> bool {
    matches!(character, '\'' | '’')
}

fn is_in_name(character: char) -> bool {
    is_word_char(character) || is_apostrophe(character) || character == '-'
}

/// `M.`, or `M` as a word, at `at`; gives where it ends.
fn initial_at(text: &[u8], at: usize) -> Option<usize> {
    let (_, len) = char_at(text, at).filter(|(letter, _)| letter.is_uppercase())?;
    match char_at(text, at + len) {
        Some(('.', _)) => Some(at + len + 1),
        next => (!next.is_some_and(|(next, _)| is_in_name(next) || next == '_')).then_some(at + len),
    }
}

/// Where the word of a name begins that ends at `end`; `end` itself if there is none.
fn word_start(text: &[u8], end: usize) -> usize {
    let mut start = end;
    while let Some(before) = char_before(text, start).filter(|before| is_in_name(*before)) {
        start -= before.len_utf8();
    }
    start
}

/// After a name with a capital, or after another initial that is: `Edith M. K. Harrow`, `Edith M.K. Harrow`.
pub(super) fn name_before(text: &[u8], at: usize) -> bool {
    let mut at = at;
    for _ in 0..MOST_INITIALS {
        let end = skip_blanks_back(text, at);
        let rest = text[..end].strip_suffix(b".");
        if end == at && rest.is_none() {
            return false;
        }
        let start = word_start(text, rest.unwrap_or(&text[..end]).len());
        if rest.is_none() && begins_name(text, start) {
            return true;
        }
        let is_initial = initial_at(text, start) == Some(end) && !matches!(char_before(text, start), Some('_'));
        if start == end || !is_initial {
            return false;
        }
        at = start;
    }
    false
}

/// Before a name with a capital; initials and words in small letters may stand between.
pub(super) fn name_after(text: &[u8], _start: usize, end: usize) -> bool {
    let mut end = end;
    // A name in small letters only follows a word: the first is the capital of what comes.
    for _ in 0..MOST_INITIALS {
        let next = skip_blanks(text, end);
        if next == end && !text[..end].ends_with(b".") {
            return false;
        }
        if begins_name(text, next) {
            return true;
        }
        match initial_at(text, next).or_else(|| particle_at(text, next)) {
            Some(after) => end = after,
            None => return is_elided(text, next),
        }
    }
    false
}

/// A word in small letters that a family name begins with; gives where it ends.
fn particle_at(text: &[u8], at: usize) -> Option<usize> {
    let rest = &text[at..];
    let len = rest.iter().take(6).take_while(|byte| byte.is_ascii_lowercase()).count();
    let is_particle = PARTICLES.iter().any(|particle| particle.as_bytes() == &rest[..len]);
    (is_particle && no_word_after(text, at, at + len)).then_some(at + len)
}

/// `d’Orme`, `dell'Acqua`: a word in small letters with an apostrophe, and a name.
fn is_elided(text: &[u8], at: usize) -> bool {
    let len = text[at..].iter().take(4).take_while(|byte| byte.is_ascii_lowercase()).count();
    let mark = char_at(text, at + len).filter(|(mark, _)| len > 0 && is_apostrophe(*mark));
    mark.is_some_and(|(_, mark_len)| begins_name(text, at + len + mark_len))
}

/// A name, or another title, after blanks; after a point the blanks may lack.
pub(super) fn named_after(text: &[u8], start: usize, end: usize) -> bool {
    let next = skip_blanks(text, end);
    let parted = next > end || text[start..end].ends_with(b".");
    parted && (begins_name(text, next) || initial_at(text, next).is_some_and(|end| text[..end].ends_with(b".")))
}

/// After a name with a capital, with no blank between.
pub(super) fn ends_name(text: &[u8], at: usize) -> bool {
    begins_name(text, word_start(text, at))
}

/// The end of a word; and numbers only after two names, or after a comma: Henry VIII is no son of Henry VII.
pub(super) fn suffix_ends(text: &[u8], start: usize, end: usize) -> bool {
    let goes_on = char_at(text, end).is_some_and(|(next, _)| is_in_name(next) || next == '_');
    let suffix = &text[start..end];
    let first = skip_blanks(suffix, usize::from(suffix[0] == b','));
    let is_number = suffix[first..].iter().all(|byte| b"IVX".contains(byte));
    if goes_on || !is_number || suffix[0] == b',' {
        return !goes_on;
    }
    let family = word_start(text, start);
    let end = skip_blanks_back(text, family);
    let before = &text[..end];
    let given = word_start(text, before.strip_suffix(b".").unwrap_or(before).len());
    let is_thing = |word: &[u8]| NUMBERED.iter().any(|thing| thing.as_bytes() == word);
    let has_given = end < family && char_at(text, given).is_some_and(|(first, _)| first.is_uppercase());
    has_given && !is_thing(&text[family..start]) && !is_thing(&text[given..end])
}
