//! What may stand around a stock pattern, asked of units, character by character.

use std::collections::HashMap;
use std::sync::{LazyLock, Mutex};

use regex::bytes::Regex;
use washout_core::Stock;

use super::find::is_word;
use super::units::{Unit, Units, to_bytes};

/// No match is longer, so that each end need not be tried up to the end of the text.
const LONGEST: usize = 90;

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
    (at + 1..=line_end.min(at + LONGEST)).filter(fits).collect()
}

struct Around<'u> {
    units: &'u Units,
}

impl Around<'_> {
    /// The character so many places before `at`; 1 is the one next to it.
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
            Stock::Initial => self.names(at, true).is_some_and(|name| self.begins_name(name)),
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
            Stock::Initial => self.names(end, false).is_some_and(|name| self.begins_name(name)),
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

    /// Where the word before or after starts, initials passed over, with blanks between.
    fn names(&self, at: usize, before: bool) -> Option<usize> {
        let mut at = at;
        for _ in 0..4 {
            let blanks = |units: &mut dyn Iterator<Item = &Unit>| units.take_while(|unit| unit.is_blank()).count();
            let run =
                if before { blanks(&mut self.units[..at].iter().rev()) } else { blanks(&mut self.units[at..].iter()) };
            if run == 0 {
                return None;
            }
            if !before {
                let next = at + run;
                if self.at(next).is_some_and(char::is_uppercase) && self.at(next + 1) == Some('.') {
                    at = next + 2;
                    continue;
                }
                return Some(next);
            }
            let end = at - run;
            let of_name = |character: char| is_word(character) || "'’-".contains(character);
            let len = (1..=end).take_while(|back| self.before(end, *back).is_some_and(of_name)).count();
            if len > 0 {
                return Some(end - len);
            }
            let initial = self.before(end, 1) == Some('.')
                && self.before(end, 2).is_some_and(char::is_uppercase)
                && !self.before(end, 3).is_some_and(in_word);
            if !initial {
                return None;
            }
            at = end - 2;
        }
        None
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
