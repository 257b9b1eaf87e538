//! Texts in words, numbers, blanks and marks.

use std::ops::Range;
use std::sync::LazyLock;

use unicode_normalization::char::is_combining_mark;

use crate::class::{CharSet, unicode_class};

/// What a token is made of.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Kind {
    Digits,
    Letters,
    Blanks,
    /// One character, as often as it stands there.
    Marks(char),
}

impl Kind {
    pub(super) fn of(character: char) -> Self {
        match character {
            ' ' | '\t' => Self::Blanks,
            _ if character.is_alphabetic() || is_combining_mark(character) => Self::Letters,
            _ if is_digit(character) => Self::Digits,
            _ => Self::Marks(character),
        }
    }

    /// Whether it is a word or a number.
    pub(super) fn is_word(self) -> bool {
        matches!(self, Self::Digits | Self::Letters)
    }
}

/// Whether it is a decimal digit, as `\d` of a regular expression.
pub(super) fn is_digit(character: char) -> bool {
    static DIGITS: LazyLock<CharSet> = LazyLock::new(|| unicode_class(r"\d").unwrap_or_default());
    character.is_ascii_digit() || (!character.is_ascii() && DIGITS.contains(character))
}

/// A run of characters of one kind. Positions are characters from 0.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Token {
    pub(super) kind: Kind,
    pub(super) range: Range<usize>,
}

/// The tokens of a text, one after the other without gaps.
pub(super) fn tokens(text: &[char]) -> Vec<Token> {
    let mut tokens: Vec<Token> = Vec::new();
    for (at, character) in text.iter().enumerate() {
        let kind = Kind::of(*character);
        match tokens.last_mut() {
            Some(last) if last.kind == kind => last.range.end = at + 1,
            _ => tokens.push(Token { kind, range: at..at + 1 }),
        }
    }
    tokens
}

/// Whether this place is between two characters of one word or number.
pub(super) fn is_within_token(text: &[char], at: usize) -> bool {
    at > 0 && at < text.len() && {
        let kind = Kind::of(text[at]);
        kind.is_word() && kind == Kind::of(text[at - 1])
    }
}

/// The stretch, with the words and numbers whole that it begins or ends in.
pub(super) fn widened(text: &[char], stretch: Range<usize>) -> Range<usize> {
    let (mut start, mut end) = (stretch.start, stretch.end);
    while is_within_token(text, start) {
        start -= 1;
    }
    while is_within_token(text, end) {
        end += 1;
    }
    start..end
}
