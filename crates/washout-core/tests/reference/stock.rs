//! What may stand around a stock pattern, asked of units, character by character.

use std::collections::HashMap;
use std::sync::{LazyLock, Mutex};

use regex::bytes::Regex;
use washout_core::stock::Stock;

use super::find::is_word;
use super::units::{Units, to_bytes};

const CLOSING: &str = "\"'”’»›«“)]}";
const END_MARKS: &str = ".!?…‽؟۔।。｡！？";

macro_rules! name {
    () => {
        r"\p{Uppercase}[\p{Alphabetic}'’]"
    };
}
macro_rules! part {
    () => {
        r"[\p{L}\p{M}\p{Nd}'’-]"
    };
}
const NAME_ENDS: &str = concat!("(?:^|[^", r"\p{L}\p{M}\p{Nd}'’-", "])", name!(), part!(), "*$");
const NAME_AND_INITIALS: &str = concat!(
    "(?:^|[^",
    r"\p{L}\p{M}\p{Nd}'’-",
    "])",
    name!(),
    part!(),
    "*[ \t]+",
    r"(?:\p{Uppercase}\.[ \t]*|\p{Uppercase}[ \t]+){0,3}$"
);
macro_rules! name_after {
    () => {
        concat!(r"(?:\p{Uppercase}\.[ \t]*|(?:\p{Uppercase}|de|la|van)[ \t]+){0,3}(?:[a-z]{1,4}['’])?", name!())
    };
}
const NAME_AFTER_POINT: &str = concat!("^[ \t]*", name_after!());
const NAME_AFTER_LETTER: &str = concat!("^[ \t]+", name_after!());
const TWO_NAMES: &str =
    concat!("(?:^|[^", r"\p{L}\p{M}\p{Nd}'’-", r"])\p{Uppercase}", part!(), r"*\.?[ \t]+\p{Uppercase}", part!(), "*$");
/// Of the words that are numbered, those that the tests use.
const NUMBERED: &str = r"\b(?:Chapter|War)(?:[ \t]+\S*)?$";

fn finds(expression: &'static str, text: &[u8]) -> bool {
    static KNOWN: LazyLock<Mutex<HashMap<&str, Regex>>> = LazyLock::new(Mutex::default);
    KNOWN.lock().unwrap().entry(expression).or_insert_with(|| Regex::new(expression).unwrap()).is_match(text)
}

/// The ends of all matches that start at `at`.
pub fn ends(stock: Stock, units: &Units, at: usize) -> Vec<usize> {
    static WHOLE: LazyLock<Mutex<HashMap<&str, Regex>>> = LazyLock::new(Mutex::default);
    let expression = stock.expression().unwrap();
    let mut known = WHOLE.lock().unwrap();
    let whole = known.entry(expression).or_insert_with(|| Regex::new(&format!("^(?:{expression})$")).unwrap());
    let line_end = (at..units.len()).find(|at| units[*at].line_end().is_some()).unwrap_or(units.len());
    let text = Around { units };
    if !text.may_start(stock, at) {
        return Vec::new();
    }
    let fits = |end: &usize| whole.is_match(&to_bytes(&units[at..*end])) && text.may_end(stock, at, *end);
    (at + 1..=line_end).filter(fits).collect()
}

/// Whether a sentence is over after this unit.
pub fn closes_sentence(units: &Units, at: usize) -> bool {
    let is = |at: usize, marks: &str| {
        units.get(at).and_then(|unit| unit.character()).is_some_and(|mark| marks.contains(mark))
    };
    let start = (0..at).rev().take_while(|at| is(*at, END_MARKS)).last().unwrap_or(at);
    let end = (at + 1..units.len()).find(|at| !is(*at, CLOSING)).unwrap_or(units.len());
    is(at, END_MARKS) && !is(at + 1, END_MARKS) && Around { units }.ends_sentence(start, end)
}

struct Around<'u> {
    units: &'u Units,
}

impl Around<'_> {
    /// The character that many places before `at`; 1 is the one next to it.
    fn before(&self, at: usize, back: usize) -> Option<char> {
        at.checked_sub(back).and_then(|at| self.units[at].character())
    }

    fn at(&self, at: usize) -> Option<char> {
        self.units.get(at).and_then(|unit| unit.character())
    }

    fn only_blanks_before(&self, at: usize) -> bool {
        self.units[..at].iter().rev().take_while(|unit| unit.line_end().is_none()).all(|unit| unit.is_blank())
    }

    fn only_blanks_after(&self, end: usize) -> bool {
        self.units[end..].iter().take_while(|unit| unit.line_end().is_none()).all(|unit| unit.is_blank())
    }

    fn is_line_end(&self, at: usize) -> bool {
        self.units.get(at).is_none_or(|unit| unit.line_end().is_some())
    }

    fn may_start(&self, stock: Stock, at: usize) -> bool {
        let before = self.before(at, 1);
        let in_word = before.is_some_and(in_word);
        let digit = |character: Option<char>| character.is_some_and(|character| character.is_ascii_digit());
        match stock {
            Stock::Date | Stock::DateTime | Stock::CueRange | Stock::PictureSize => {
                let in_number = before.is_some_and(|mark| ".-/:,".contains(mark)) && digit(self.before(at, 2));
                !in_word && !in_number
            }
            Stock::Speaker | Stock::PageNumber => self.only_blanks_before(at),
            Stock::Url | Stock::NameTitle => !in_word,
            Stock::Email | Stock::Hashtag | Stock::Mention => {
                !in_word && !before.is_some_and(|mark| "@#&/.+%-".contains(mark))
            }
            Stock::Initial => finds(NAME_AND_INITIALS, &self.line_before(at)),
            Stock::NameSuffix => finds(NAME_ENDS, &self.line_before(at)),
            Stock::SentenceEnd => !before.is_some_and(|mark| END_MARKS.contains(mark)),
            Stock::Uuid => !in_word && before != Some('-'),
            Stock::BlankRun => !before.is_some_and(|blank| blank == ' ' || blank == '\t'),
            _ => true,
        }
    }

    fn may_end(&self, stock: Stock, start: usize, end: usize) -> bool {
        let after = self.at(end);
        let word_goes_on = after.is_some_and(in_word);
        let number_goes_on = word_goes_on
            || (after.is_some_and(|mark| ".-/:,".contains(mark))
                && self.at(end + 1).is_some_and(|digit| digit.is_ascii_digit()));
        let blank = |at: usize| self.units.get(at).is_some_and(|unit| unit.is_blank());
        match stock {
            Stock::Date | Stock::PictureSize => !number_goes_on,
            Stock::DateTime => {
                let (opens, closes) = (self.at(start) == Some('['), self.at(end - 1) == Some(']'));
                opens == closes && (closes || !number_goes_on)
            }
            Stock::CueRange | Stock::Speaker => blank(end) || self.is_line_end(end),
            Stock::Email | Stock::Mention => !word_goes_on && after != Some('@'),
            Stock::Hashtag => !word_goes_on,
            Stock::Initial if self.at(end - 1) == Some('.') => finds(NAME_AFTER_POINT, &self.line_after(end)),
            Stock::Initial => finds(NAME_AFTER_LETTER, &self.line_after(end)),
            Stock::NameSuffix => {
                let is_number = finds(r"^[ \t]+[IVX]+$", &to_bytes(&self.units[start..end]));
                let is_named = || {
                    let before = self.line_before(start);
                    finds(TWO_NAMES, &before) && !finds(NUMBERED, &before)
                };
                !finds(r"^[\p{L}\p{M}\p{Nd}'’_-]", &self.line_after(end)) && (!is_number || is_named())
            }
            Stock::SentenceEnd => self.ends_sentence(start, end),
            Stock::NameTitle => {
                let next = end + self.units[end..].iter().take_while(|unit| unit.is_blank()).count();
                let parted = next > end || self.at(end - 1) == Some('.');
                let initial = self.at(next).is_some_and(char::is_uppercase) && self.at(next + 1) == Some('.');
                parted && (self.begins_name(next) || initial)
            }
            Stock::PageNumber => self.only_blanks_after(end) && self.is_page_number(start, end),
            Stock::CopySuffix => self.only_blanks_after(end) || self.has_extension(end),
            Stock::Uuid => !word_goes_on && after != Some('-'),
            Stock::BlankRun => !blank(end),
            _ => true,
        }
    }

    /// A name of at least two letters with a capital.
    fn begins_name(&self, at: usize) -> bool {
        let next = self.at(at + 1);
        self.at(at).is_some_and(char::is_uppercase)
            && next.is_some_and(|next| next.is_alphabetic() || next == '\'' || next == '’')
    }

    fn line_before(&self, at: usize) -> Vec<u8> {
        let start = self.units[..at].iter().rposition(|unit| unit.line_end().is_some()).map_or(0, |end| end + 1);
        to_bytes(&self.units[start..at])
    }

    fn line_after(&self, at: usize) -> Vec<u8> {
        let len = self.units[at..].iter().take_while(|unit| unit.line_end().is_none()).count();
        to_bytes(&self.units[at..at + len])
    }

    fn ends_sentence(&self, start: usize, end: usize) -> bool {
        let all: String = self.units[start..end].iter().filter_map(|unit| unit.character()).collect();
        let marks: String = all.chars().take_while(|mark| END_MARKS.contains(*mark)).collect();
        let closed = marks.len() < all.len();
        let goes_on = |next: char| CLOSING.contains(next) || (!closed && END_MARKS.contains(next));
        if self.at(end).is_some_and(goes_on) {
            return false;
        }
        if marks.ends_with(|mark| "।。｡！？".contains(mark)) {
            return true;
        }
        if !self.is_line_end(end) && self.at(end).is_some_and(|next| !next.is_whitespace()) {
            return false;
        }
        let rest = self.units[end..].iter().take_while(|unit| unit.line_end().is_none());
        let next =
            rest.map(|unit| unit.character().unwrap_or(' ')).find(|next| is_word(*next) || END_MARKS.contains(*next));
        let next = next.filter(|next| is_word(*next));
        if (closed || marks.starts_with("..") || marks.starts_with('…')) && next.is_some_and(char::is_lowercase) {
            return false;
        }
        marks != "." || !self.is_abbreviated(start, next)
    }

    /// Of the abbreviations, those that the tests use.
    fn is_abbreviated(&self, point: usize, next: Option<char>) -> bool {
        let before = self.line_before(point);
        let ends = |expression: &'static str| finds(expression, &before);
        let capital_or_none = next.is_none_or(char::is_uppercase);
        if ends(r"[\p{L}\p{M}\p{Nd}.]{33}$") || !ends(r"[\p{L}\p{M}\p{Nd}.]$") {
            return false;
        }
        if ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])[0-9]+$") {
            return ends(r"^[ \t]*[0-9]+$");
        }
        if ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])\p{Alphabetic}{1,2}(?:\.\p{Alphabetic}{1,2})+$") {
            let first_is_capital = ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])\p{Uppercase}[\p{L}.]*$");
            let may_end = ends(r"(?i)(?:^|[^\p{L}\p{M}\p{Nd}.])[ap]\.m$") || (next.is_none() && first_is_capital);
            return !(may_end && capital_or_none);
        }
        if ends(r"[^\p{L}\p{M}\p{Nd}.][ \t]*I$") && !ends(r"^[ \t]*I$") {
            return ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])\p{Uppercase}[\p{L}\p{M}\p{Nd}.]*[ \t]+I$");
        }
        if ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])\p{Uppercase}$") {
            return next.is_some();
        }
        if ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])\p{Lowercase}$") {
            return ends(r"^[ \t]*.$") || !capital_or_none;
        }
        ends(r"(?:^|[^\p{L}\p{M}\p{Nd}.])(?:Mr|MR|Dr|DR|(?i:cf))$")
            || (next.is_some_and(|next| next.is_ascii_digit()) && ends(r"(?i)(?:^|[^\p{L}\p{M}\p{Nd}.])(?:no|nov|pp)$"))
            || (!capital_or_none && ends(r"(?i)(?:^|[^\p{L}\p{M}\p{Nd}.])(?:etc|jr)$"))
    }

    /// Roman numbers are written one way only.
    fn is_page_number(&self, start: usize, end: usize) -> bool {
        static ROMAN: LazyLock<Regex> = LazyLock::new(|| Regex::new("^l?(?:xl|x{0,3})(?:ix|iv|v?i{0,3})$").unwrap());
        let small: Vec<u8> = to_bytes(&self.units[start..end]).into_iter().filter(u8::is_ascii_lowercase).collect();
        let looks_roman = !small.is_empty() && small.iter().all(|letter| b"ivxl".contains(letter));
        !looks_roman || ROMAN.is_match(&small)
    }

    fn has_extension(&self, end: usize) -> bool {
        let letters = (end + 1..self.units.len())
            .take_while(|at| self.at(*at).is_some_and(|letter| letter.is_ascii_alphanumeric()))
            .count();
        let goes_on = self.at(end + 1 + letters).is_some_and(|mark| ".-_".contains(mark));
        self.at(end) == Some('.') && (1..=5).contains(&letters) && !goes_on
    }
}

fn in_word(character: char) -> bool {
    is_word(character) || character == '_'
}
