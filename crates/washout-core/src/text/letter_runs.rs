//! Letters of ASCII in one case, many bytes at a time.

use std::ops::Range;

/// The same byte eight times.
const fn eight(byte: u8) -> u64 {
    u64::from_ne_bytes([byte; 8])
}

/// Of each byte, the highest bit.
const HIGH: u64 = eight(0x80);

/// Calls `found` with each run of letters in a text that is ASCII, in order: small ones, or capitals.
pub(crate) fn letter_runs(text: &[u8], small: bool, mut found: impl FnMut(Range<usize>)) {
    let first = if small { b'a' } else { b'A' };
    // A byte from `first` on gets its highest bit by the one, a byte after the last letter by the other; none gets a carry.
    let (from_first, after_last) = (eight(0x80 - first), eight(0x80 - first - 26));
    let mut open: Option<usize> = None;
    let (eights, rest) = text.as_chunks::<8>();
    for (index, bytes) in eights.iter().enumerate() {
        let bytes = u64::from_le_bytes(*bytes);
        let letters = (bytes + from_first) & !(bytes + after_last) & HIGH;
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

/// What the bytes of a letter of ASCII in one case and in the other differ by.
pub(crate) const OTHER_CASE: u8 = 0x20;

/// Appends a text to `out` with the letters of ASCII that are small, or those that are capitals, in the other case; gives how
/// many they are.
pub(crate) fn flip_letters(text: &[u8], small: bool, out: &mut Vec<u8>) -> usize {
    /// So many letters can be counted in a byte.
    const STEP: usize = 128;
    let first = if small { b'a' } else { b'A' };
    let start = out.len();
    out.extend_from_slice(text);
    let flip = |byte: &mut u8| {
        let is_letter = u8::from(byte.wrapping_sub(first) < 26);
        *byte ^= is_letter * OTHER_CASE;
        is_letter
    };
    out[start..].chunks_mut(STEP).map(|step| usize::from(step.iter_mut().map(flip).sum::<u8>())).sum()
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
