//! Where a sentence ends.
//!
//! A point ends none after an abbreviation, an initial, or the number of a list; what else ends with a mark and a blank
//! ends a sentence. Unicode Standard Annex #29 (sentence boundaries) leaves abbreviations to the program, and looks for a
//! capital after the mark; here none is needed, since text in small letters has sentences too.

use crate::text::chars::{char_at, char_before, is_closing};
use crate::text::lines::{is_content_end, is_line_start, skip_blanks_back};
use crate::words::is_word_char;

/// A word before a point is looked at so far back, in bytes.
const LONGEST_WORD: usize = 32;

/// Abbreviations that no sentence ends with, whatever follows: as written here, or all in capitals.
const TITLES: &[&str] = &[
    "Adm", "Capt", "Cmdr", "Col", "Cpl", "Dott", "Dr", "Dra", "Fr", "Gen", "Gov", "Hon", "Hr", "Lt", "Maj", "Messrs",
    "Mgr", "Mlle", "MM", "Mme", "Mr", "Mrs", "Ms", "Msgr", "Mt", "Mx", "Prof", "Rep", "Rev", "Sen", "Sgt", "Sig",
    "Sra", "Srta", "St", "Supt", "Uds",
];

/// The same in any case.
const NEVER: &[&str] = &[
    "approx", "bijv", "bspw", "bzw", "cf", "dhr", "esp", "evtl", "excl", "ggf", "incl", "inkl", "mevr", "resp", "sog",
    "vgl", "viz", "vs", "zzgl",
];

/// Abbreviations only before a number, in any case.
const BEFORE_NUMBER: &[&str] = &[
    "abb", "apr", "art", "aug", "bd", "ca", "ch", "chap", "col", "dec", "feb", "ff", "fig", "figs", "jan", "jul",
    "jun", "kap", "ll", "mar", "no", "nos", "nov", "nr", "oct", "par", "para", "pp", "pt", "sec", "sep", "sept", "tab",
    "vol", "vols", "vv",
];

/// Abbreviations that a sentence may end with: it does where a capital or nothing follows. In any case.
const MAY_END: &[&str] = &[
    "al", "bros", "co", "corp", "dept", "doz", "ecc", "enz", "est", "etc", "ft", "gal", "gall", "hr", "hrs", "inc",
    "jnr", "jr", "lb", "lbs", "ltd", "max", "min", "misc", "oz", "qt", "snr", "sr", "tel", "usw", "yd", "yds",
];

/// No abbreviation in these lists is longer, in bytes.
const LONGEST_LISTED: usize = 6;

/// Months after which a number with a point is a day: `am 5. November`.
const GERMAN_MONTHS: &[&str] = &[
    "Januar",
    "Jänner",
    "Februar",
    "März",
    "April",
    "Mai",
    "Juni",
    "Juli",
    "August",
    "September",
    "Oktober",
    "November",
    "Dezember",
];

/// A mark that sentences end with.
pub(crate) fn is_end_mark(character: char) -> bool {
    matches!(character, '.' | '!' | '?' | '…' | '‽' | '؟' | '۔') || needs_no_blank(character)
}

/// Marks of scripts that put no blanks between sentences, or none that must be there.
fn needs_no_blank(character: char) -> bool {
    matches!(character, '।' | '。' | '｡' | '！' | '？')
}

/// Where the row of end marks that this one is in starts.
pub(crate) fn marks_start(text: &[u8], at: usize) -> usize {
    let mut start = at;
    while let Some(before) = char_before(text, start).filter(|before| is_end_mark(*before)) {
        start -= before.len_utf8();
    }
    start
}

/// Where the closing quotation marks and brackets end that stand at `at`.
pub(crate) fn closing_end(text: &[u8], at: usize) -> usize {
    let mut end = at;
    while let Some((_, len)) = char_at(text, end).filter(|(mark, _)| is_closing(*mark)) {
        end += len;
    }
    end
}

/// No other end mark before it: a row of them is taken whole.
pub(super) fn no_mark_before(text: &[u8], at: usize) -> bool {
    !char_before(text, at).is_some_and(is_end_mark)
}

/// Whether a sentence ends with the marks at `start` and the closing marks after them, up to `end`.
pub(crate) fn ends_sentence(text: &[u8], start: usize, end: usize) -> bool {
    let mut marks_end = start;
    let mut last = '.';
    while let Some((mark, len)) = char_at(text, marks_end).filter(|(mark, _)| marks_end < end && is_end_mark(*mark)) {
        (marks_end, last) = (marks_end + len, mark);
    }
    // The whole row, and all that closes after it.
    if char_at(text, end).is_some_and(|(next, _)| is_closing(next) || (marks_end == end && is_end_mark(next))) {
        return false;
    }
    if needs_no_blank(last) {
        return true;
    }
    if !is_content_end(text, end) && !char_at(text, end).is_none_or(|(next, _)| next.is_whitespace()) {
        return false;
    }
    let next = next_word(text, end);
    let follows = next.and_then(|next| char_at(text, next)).map(|(first, _)| first);
    let marks = &text[start..marks_end];
    let trails_off = marks.starts_with(b"..") || marks.starts_with("…".as_bytes());
    // “Fog!” she said; and so on… but no.
    if (trails_off || marks_end < end) && follows.is_some_and(char::is_lowercase) {
        return false;
    }
    marks != b"." || !is_abbreviated(text, start, next, follows)
}

/// Where the next letter or digit of the line stands, before any other end of a sentence; what opens it is passed over.
fn next_word(text: &[u8], from: usize) -> Option<usize> {
    let mut at = from;
    while !is_content_end(text, at) {
        let (character, len) = char_at(text, at).unwrap_or(('\u{FFFD}', 1));
        if is_word_char(character) {
            return Some(at);
        }
        if is_end_mark(character) {
            return None;
        }
        at += len;
    }
    None
}

/// Whether the point at `point` belongs to the word before it. `next`: where the next word starts, and with what.
fn is_abbreviated(text: &[u8], point: usize, next: Option<usize>, follows: Option<char>) -> bool {
    let (word_start, word) = word_before(text, point);
    let before = skip_blanks_back(text, word_start);
    let opens_line = is_line_start(text, before);
    let number_follows = follows.is_some_and(|next| next.is_ascii_digit());
    let is_last = follows.is_none_or(char::is_uppercase);
    let mut letters = word.chars();
    match (letters.next(), letters.next()) {
        (None, _) => false,
        (Some(_), _) if word.bytes().all(|byte| byte.is_ascii_digit()) => {
            opens_line || (word.len() <= 2 && next.is_some_and(|next| is_german_month(text, next)))
        }
        (Some(first), _) if word.contains('.') => {
            let may_end = is_half_of_day(word) || (follows.is_none() && first.is_uppercase());
            is_dotted(word) && !(may_end && is_last)
        }
        (Some('I'), None) if !opens_line => {
            // The pronoun, unless a name is before it.
            word_before(text, before).1.starts_with(char::is_uppercase)
        }
        (Some(letter), None) if letter.is_uppercase() => follows.is_some(),
        (Some(letter), None) if letter.is_lowercase() => opens_line || !is_last,
        _ if word.len() > LONGEST_LISTED => false,
        _ => {
            let listed = |list: &[&str]| list.iter().any(|entry| entry.eq_ignore_ascii_case(word));
            let in_capitals = || word.bytes().all(|byte| byte.is_ascii_uppercase()) && listed(TITLES);
            TITLES.contains(&word)
                || in_capitals()
                || listed(NEVER)
                || (number_follows && listed(BEFORE_NUMBER))
                || (!is_last && listed(MAY_END))
        }
    }
}

/// The word that ends at `end`, with the points in it, and where it starts.
fn word_before(text: &[u8], end: usize) -> (usize, &str) {
    let mut start = end;
    let in_word = |character: char| is_word_char(character) || character == '.';
    while let Some(before) = char_before(text, start).filter(|before| in_word(*before)) {
        start -= before.len_utf8();
        if end - start > LONGEST_WORD {
            return (end, "");
        }
    }
    (start, std::str::from_utf8(&text[start..end]).unwrap_or(""))
}

/// `e.g`, `U.S`, `Ph.D`: short parts of letters.
fn is_dotted(word: &str) -> bool {
    word.split('.').all(|part| (1..=2).contains(&part.chars().count()) && part.chars().all(char::is_alphabetic))
}

/// `a.m` or `p.m`, with which a sentence may end.
fn is_half_of_day(word: &str) -> bool {
    ["a.m", "p.m"].iter().any(|half| word.eq_ignore_ascii_case(half))
}

fn is_german_month(text: &[u8], at: usize) -> bool {
    GERMAN_MONTHS.iter().any(|month| text[at..].starts_with(month.as_bytes()))
}
