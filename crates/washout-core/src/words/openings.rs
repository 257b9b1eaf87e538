//! A quick no for places where no entry of a list of literal strings begins.
//!
//! A row of bits says with which bytes entries begin, up to [`LONGEST`] of them. It may say yes too often; the tree
//! then says no.

use super::hash::{START, finish, mix};
use super::spelling::CharKey;

/// Bytes of an entry that are looked at.
const LONGEST: usize = 6;

/// Bits for each entry: few openings that are none get past.
const BITS_PER_ENTRY: usize = 16;

#[derive(Clone, Debug)]
pub(super) struct Openings {
    bits: Vec<u64>,
    /// Bits for the first bytes, as many as every opening has, up to four: they are looked at at once.
    first: Vec<u64>,
    /// Which of four bytes those are.
    mask: u32,
    /// Which lengths of openings there are.
    lengths: [bool; LONGEST + 1],
    ignore_case: bool,
}

impl Openings {
    /// For these entries; `None` where one holds a line end, which may stand in the text as two bytes. `keys` are the
    /// entries as they are compared.
    pub(super) fn new(entries: &[String], keys: &[Vec<CharKey>], ignore_case: bool) -> Option<Self> {
        if entries.iter().any(|entry| entry.contains(['\n', '\r'])) {
            return None;
        }
        let size = (entries.len() * BITS_PER_ENTRY).next_power_of_two().max(64);
        let opening = |(entry, keys): (&String, &Vec<CharKey>)| -> Vec<u8> {
            // Without case, letters beyond ASCII have kin of other lengths: only those before them are looked at.
            let ascii = keys.iter().map_while(|key| u8::try_from(*key).ok().filter(u8::is_ascii));
            if ignore_case { ascii.take(LONGEST).collect() } else { entry.bytes().take(LONGEST).collect() }
        };
        let all = entries.iter().zip(keys).filter(|(entry, _)| !entry.is_empty()).map(opening);
        let all: Vec<Vec<u8>> = all.collect();
        let shortest = all.iter().map(Vec::len).min().unwrap_or(0).min(4);
        let mask = u32::MAX.checked_shr(32 - 8 * u32::try_from(shortest).unwrap_or(0)).unwrap_or(0);
        let bits = || vec![0; size / 64];
        let mut openings = Self { bits: bits(), first: bits(), mask, lengths: [false; LONGEST + 1], ignore_case };
        for opening in all {
            let mut four = [0; 4];
            four[..shortest].copy_from_slice(&opening[..shortest]);
            let (word, bit) = openings.place_of(u32::from_le_bytes(four));
            openings.first[word] |= bit;
            openings.lengths[opening.len()] = true;
            let (word, bit) = openings.place(opening.iter().copied().fold(START, mix), opening.len());
            openings.bits[word] |= bit;
        }
        Some(openings)
    }

    /// Whether an entry may begin at `at`.
    #[inline]
    pub(super) fn may_begin(&self, text: &[u8], at: usize) -> bool {
        if self.lengths[0] {
            return true;
        }
        if let Some(four) = text[at..].first_chunk() {
            let four = u32::from_le_bytes(*four) & self.mask;
            if self.ignore_case && four & 0x8080_8080 != 0 {
                return true; // ſ is the same as s
            }
            let (word, bit) = self.place_of(four);
            if self.first[word] & bit == 0 {
                return false;
            }
        }
        let mut hash = START;
        for (index, byte) in text[at..].iter().take(LONGEST).enumerate() {
            if self.ignore_case && !byte.is_ascii() {
                return true; // ſ is the same as s
            }
            hash = mix(hash, if self.ignore_case { byte.to_ascii_lowercase() } else { *byte });
            let length = index + 1;
            if self.lengths[length] {
                let (word, bit) = self.place(hash, length);
                if self.bits[word] & bit != 0 {
                    return true;
                }
            }
        }
        false
    }

    /// Where the bit of that many first bytes is. Small and capital letters share one where case does not count; so do a
    /// few signs, which only says yes once more.
    #[inline]
    fn place_of(&self, four: u32) -> (usize, u64) {
        let four = if self.ignore_case { (four | 0x2020_2020) & self.mask } else { four };
        let index = finish(u64::from(four)) & (self.first.len() * 64 - 1);
        (index / 64, 1 << (index % 64))
    }

    fn place(&self, hash: u64, length: usize) -> (usize, u64) {
        let index = finish(mix(hash, length.to_le_bytes()[0])) & (self.bits.len() * 64 - 1);
        (index / 64, 1 << (index % 64))
    }
}
