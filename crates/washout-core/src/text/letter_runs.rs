//! Letters of ASCII in one case, many bytes at a time.

use std::ops::Range;

/// The same byte eight times.
const fn eight(byte: u8) -> u64 {
    u64::from_ne_bytes([byte; 8])
}

/// What the bytes of a letter of ASCII in one case and in the other differ by.
pub(crate) const OTHER_CASE: u8 = 0x20;

/// Of each byte, the highest bit.
const HIGH: u64 = eight(0x80);

/// The letters of ASCII in one case.
#[derive(Clone, Copy)]
struct Letters {
    /// A byte from the first letter on gets its highest bit by adding this, without a carry,
    from_first: u64,
    /// and one after the last letter by adding this.
    after_last: u64,
}

impl Letters {
    const fn new(small: bool) -> Self {
        let first = if small { b'a' } else { b'A' };
        Self { from_first: eight(0x80 - first), after_last: eight(0x80 - first - 26) }
    }

    /// The highest bit of each of eight bytes of ASCII that is a letter.
    const fn among(self, bytes: u64) -> u64 {
        (bytes + self.from_first) & !(bytes + self.after_last) & HIGH
    }
}

/// Calls `found` with each run of letters in a text that is ASCII, in order: small ones, or capitals.
pub(crate) fn letter_runs(text: &[u8], small: bool, mut found: impl FnMut(Range<usize>)) {
    let first = if small { b'a' } else { b'A' };
    let in_case = Letters::new(small);
    let mut open: Option<usize> = None;
    let (eights, rest) = text.as_chunks::<8>();
    for (index, bytes) in eights.iter().enumerate() {
        let bytes = u64::from_le_bytes(*bytes);
        let letters = in_case.among(bytes);
        let before = letters << 8 | if open.is_some() { 0x80 } else { 0 };
        let mut turns = letters ^ before;
        while turns != 0 {
            let at = 8 * index + turns.trailing_zeros() as usize / 8;
            match open.take() {
                Some(start) => found(start..at),
                None => open = Some(at),
            }
            turns &= turns - 1;
        }
    }
    for (index, byte) in rest.iter().enumerate() {
        let is_letter = (first..first + 26).contains(byte);
        if is_letter == open.is_none() {
            let at = 8 * eights.len() + index;
            match open.take() {
                Some(start) => found(start..at),
                None => open = Some(at),
            }
        }
    }
    if let Some(start) = open {
        found(start..text.len());
    }
}

/// Appends a text that is ASCII to `out` with its small letters, or its capitals, in the other case; gives how many they are.
pub(crate) fn flip_letters(text: &[u8], small: bool, out: &mut Vec<u8>) -> usize {
    let in_case = Letters::new(small);
    let mut count = 0;
    let mut flip = |bytes: [u8; 8]| {
        let bytes = u64::from_le_bytes(bytes);
        let letters = in_case.among(bytes);
        // The sum of the bytes, each 0 or 1, is the highest byte of the product.
        count += ((letters >> 7).wrapping_mul(eight(1)) >> 56) as usize;
        (bytes ^ (letters >> 2)).to_le_bytes()
    };
    let start = out.len();
    out.extend_from_slice(text);
    let (eights, rest) = out[start..].as_chunks_mut::<8>();
    for bytes in eights {
        *bytes = flip(*bytes);
    }
    let mut last = [0; 8];
    last[..rest.len()].copy_from_slice(rest);
    rest.copy_from_slice(&flip(last)[..rest.len()]);
    count
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn runs_are_what_a_plain_loop_finds(text in proptest::collection::vec(0..0x80_u8, 0..300), small: bool) {
            let mut runs = Vec::new();
            letter_runs(&text, small, |run| runs.push(run));
            let is_letter = |byte: u8| if small { byte.is_ascii_lowercase() } else { byte.is_ascii_uppercase() };
            let mut want: Vec<Range<usize>> = Vec::new();
            for at in (0..text.len()).filter(|at| is_letter(text[*at])) {
                match want.last_mut() {
                    Some(last) if last.end == at => last.end += 1,
                    _ => want.push(at..at + 1),
                }
            }
            let mut flipped = b"as it was".to_vec();
            let count = flip_letters(&text, small, &mut flipped);
            let other = |byte: &u8| if is_letter(*byte) { byte ^ OTHER_CASE } else { *byte };
            prop_assert_eq!(flipped, [&b"as it was"[..], &text.iter().map(other).collect::<Vec<_>>()].concat());
            prop_assert_eq!(count, runs.iter().map(ExactSizeIterator::len).sum::<usize>());
            prop_assert_eq!(runs, want);
        }
    }
}
