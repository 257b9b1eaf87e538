//! Where words begin and end.
//!
//! A word is made of letters, marks and digits, and of apostrophes that stand between two letters ("don't"). All
//! else is a boundary: blanks, punctuation, broken bytes, the edges of the line.

use std::sync::LazyLock;

use crate::class::{CharSet, CharTable, class_item};
use crate::text::chars::{char_at, char_before};

/// What a hyphen between two word characters does.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Hyphen {
    /// It parts words: "lamp" is found in "lamp-room".
    #[default]
    Parts,
    /// It joins them: "lamp-room" is one word.
    Joins,
}

static WORD_CHARS: LazyLock<CharTable> = LazyLock::new(|| table(&["L", "M", "Nd"]));
static LETTERS: LazyLock<CharTable> = LazyLock::new(|| table(&["L", "M"]));

fn table(categories: &[&str]) -> CharTable {
    let mut all = CharSet::default();
    for category in categories {
        all.add(&class_item(category).expect("OK because these are general categories"));
    }
    CharTable::new(all)
}

/// Whether a character is a letter, a mark or a digit.
pub(crate) fn is_word_char(character: char) -> bool {
    if character.is_ascii() { character.is_ascii_alphanumeric() } else { WORD_CHARS.contains(character) }
}

/// A letter, or a mark that belongs to one.
fn is_letter(character: char) -> bool {
    if character.is_ascii() { character.is_ascii_alphabetic() } else { LETTERS.contains(character) }
}

fn is_apostrophe(character: char) -> bool {
    matches!(character, '\'' | '’')
}

/// Whether `joint`, standing between `left` and `right`, makes one word of them.
fn joins(left: Option<char>, joint: char, right: Option<char>, hyphen: Hyphen) -> bool {
    let (Some(left), Some(right)) = (left, right) else { return false };
    if is_apostrophe(joint) {
        return is_letter(left) && is_letter(right);
    }
    hyphen == Hyphen::Joins && matches!(joint, '-' | '\u{2010}') && is_word_char(left) && is_word_char(right)
}

/// Whether a word that starts with the character at `at` begins there, or goes on from before.
#[inline]
pub(crate) fn begins_word(text: &[u8], at: usize, hyphen: Hyphen) -> bool {
    // Nearly every word begins so.
    if at == 0 || matches!(text[at - 1], b' ' | b'\n') {
        return true;
    }
    let Some(before) = char_before(text, at) else { return true };
    if is_word_char(before) {
        return false;
    }
    let farther = char_before(text, at - before.len_utf8());
    let here = char_at(text, at).map(|(character, _)| character);
    !joins(farther, before, here, hyphen)
}

/// Whether a word whose last character ends at `end` is over there, or goes on.
pub(crate) fn ends_word(text: &[u8], end: usize, hyphen: Hyphen) -> bool {
    let Some((after, len)) = char_at(text, end) else { return true };
    if is_word_char(after) {
        return false;
    }
    let farther = char_at(text, end + len).map(|(character, _)| character);
    !joins(char_before(text, end), after, farther, hyphen)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_end_where_readers_see_them_end() {
        use Hyphen::{Joins, Parts};
        for (text, word, hyphen, whole) in [
            ("don't", "don", Parts, false),
            ("don’t", "don", Parts, false),
            ("'don'", "don", Parts, true),
            ("the keepers' lamp", "keepers", Parts, true),
            ("don'7", "don", Parts, true),
            ("l'eau", "eau", Parts, false),
            ("lamp-room", "lamp", Parts, true),
            ("lamp-room", "room", Joins, false),
            ("lamp-room", "lamp", Joins, false),
            ("lamp- room", "lamp", Joins, true),
            ("lamp_room", "lamp", Parts, true),
            ("lamps", "lamp", Parts, false),
            ("cafe\u{301}", "cafe", Parts, false),
            ("маяк-", "маяк", Joins, true),
        ] {
            let at = text.find(word).expect("the word is in the text");
            let found = begins_word(text.as_bytes(), at, hyphen) && ends_word(text.as_bytes(), at + word.len(), hyphen);
            assert_eq!(found, whole, "{word:?} in {text:?}");
        }
        assert!(ends_word(b"lamp\xFF", 4, Parts), "a broken byte is a boundary");
    }
}
