//! Characters that stand for blanks: in names `_` does.

use std::borrow::Cow;

/// A set of ASCII characters that are looked at as if they were spaces. They are one byte each, as a space is, so that
/// every place is the same in both looks of a text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct StandIns(u128);

impl StandIns {
    /// Those of `chars` that are ASCII and no space.
    pub(crate) fn of(chars: &str) -> Self {
        Self::of_bytes(chars.bytes().filter(|byte| *byte != b' '))
    }

    /// The ASCII ones of these bytes.
    pub(crate) fn of_bytes(bytes: impl IntoIterator<Item = u8>) -> Self {
        Self(bytes.into_iter().filter(u8::is_ascii).fold(0, |set, byte| set | 1 << byte))
    }

    /// Every ASCII character.
    pub(crate) const ALL: Self = Self(u128::MAX);

    pub(crate) fn is_empty(self) -> bool {
        self.0 == 0
    }

    pub(crate) fn shares_any_with(self, other: Self) -> bool {
        self.0 & other.0 != 0
    }

    fn has(self, byte: u8) -> bool {
        byte.is_ascii() && self.0 >> byte & 1 == 1
    }

    /// The text with a space for each of them.
    pub(crate) fn as_blanks(self, text: &[u8]) -> Cow<'_, [u8]> {
        if self.is_empty() || !text.iter().any(|byte| self.has(*byte)) {
            return Cow::Borrowed(text);
        }
        Cow::Owned(text.iter().map(|byte| if self.has(*byte) { b' ' } else { *byte }).collect())
    }
}
