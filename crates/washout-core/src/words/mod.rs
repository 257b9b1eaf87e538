//! Words and literal strings: where a word ends, and lists of any length looked up in one walk.

mod boundary;
mod first_words;
mod hash;
mod openings;
mod phrases;
mod spelling;
mod trie;

pub use boundary::Hyphen;
pub(crate) use boundary::{begins_word, is_word_char};
pub(crate) use phrases::Phrases;
pub(crate) use spelling::{CharKey, Spelling, fold};
