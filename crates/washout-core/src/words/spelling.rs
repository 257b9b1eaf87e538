//! What counts as the same spelling: letter case, the two apostrophes, runs of blanks.

use crate::text::LineEnd;
use crate::text::chars::{char_at, is_blank_byte};
use crate::text::lines::skip_blanks;

/// What a character counts as: a code point, or [`CRLF`].
pub(crate) type CharKey = u32;

/// A CRLF, which is one line end and not two characters.
pub(super) const CRLF: CharKey = 0x11_0000;

/// Which differences of spelling a list ignores.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Spelling {
    pub(crate) ignore_case: bool,
    /// For words: ’ is ', and any run of blanks is one space.
    pub(crate) as_words: bool,
}

impl Spelling {
    /// The key of the character at `at` and the bytes it covers; `None` at the end of the text and at broken bytes.
    #[inline]
    pub(crate) fn key_at(self, text: &[u8], at: usize) -> Option<(CharKey, usize)> {
        let (character, len) = char_at(text, at)?;
        if character == '\r' && LineEnd::starting_at(text, at) == Some(LineEnd::CrLf) {
            return Some((CRLF, 2));
        }
        if self.as_words {
            if character.is_ascii() && is_blank_byte(character as u8) {
                return Some((CharKey::from(' '), skip_blanks(text, at) - at));
            }
            if character == '’' {
                return Some((CharKey::from('\''), len));
            }
        }
        Some((CharKey::from(if self.ignore_case { fold(character) } else { character }), len))
    }

    /// The keys of a whole entry.
    pub(crate) fn keys(self, entry: &str) -> Vec<CharKey> {
        let mut keys = Vec::with_capacity(entry.len());
        let mut at = 0;
        while let Some((key, len)) = self.key_at(entry.as_bytes(), at) {
            keys.push(key);
            at += len;
        }
        keys
    }
}

/// Simple case folding (`CaseFolding.txt`, statuses C and S).
#[inline]
pub(crate) fn fold(character: char) -> char {
    if character.is_ascii() {
        return character.to_ascii_lowercase();
    }
    let folded = unicode_case_mapping::case_folded(character);
    folded.and_then(|code| char::from_u32(code.get())).unwrap_or(character)
}
