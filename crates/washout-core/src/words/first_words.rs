//! A quick no for words that open no entry of a list.
//!
//! An entry that begins with letters or digits of ASCII can be found at the start of a word only if the whole row of
//! such letters there is the one it begins with: it ends where the word ends, or goes on with something else. A row of
//! bits says which rows of letters there are. It may say yes too often; the tree then says no.

use super::hash::{START, finish, mix};
use super::spelling::CharKey;

/// Bits for each entry: one in that many words that open none gets past.
const BITS_PER_ENTRY: usize = 16;

#[derive(Clone, Debug)]
pub(super) struct FirstWords {
    bits: Vec<u64>,
    ignore_case: bool,
}

impl FirstWords {
    /// For the entries with these keys.
    pub(super) fn new(entries: &[Vec<CharKey>], ignore_case: bool) -> Self {
        let size = (entries.len() * BITS_PER_ENTRY).next_power_of_two().max(64);
        let mut first_words = Self { bits: vec![0; size / 64], ignore_case };
        for entry in entries {
            let row = entry.iter().map_while(|key| u8::try_from(*key).ok().filter(u8::is_ascii_alphanumeric));
            let (word, bit) = first_words.place(row.fold(START, mix));
            first_words.bits[word] |= bit;
        }
        first_words
    }

    /// Whether an entry may begin at `at`, where a word begins with a letter or digit of ASCII.
    #[inline]
    pub(super) fn may_begin(&self, text: &[u8], at: usize) -> bool {
        let (mut hash, mut end) = (START, at);
        while let Some(byte) = text.get(end).filter(|byte| byte.is_ascii_alphanumeric()) {
            hash = mix(hash, if self.ignore_case { byte.to_ascii_lowercase() } else { *byte });
            end += 1;
        }
        // Without case, a letter beyond ASCII may be the same as one of ASCII: ſ and s.
        if self.ignore_case && text.get(end).is_some_and(|byte| !byte.is_ascii()) {
            return true;
        }
        let (word, bit) = self.place(hash);
        self.bits[word] & bit != 0
    }

    fn place(&self, hash: u64) -> (usize, u64) {
        let index = finish(hash) & (self.bits.len() * 64 - 1);
        (index / 64, 1 << (index % 64))
    }
}
