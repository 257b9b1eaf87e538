//! A quick hash of a few bytes, for rows of bits that may say yes too often.

pub(super) const START: u64 = 0xCBF2_9CE4_8422_2325;

/// An odd number without pattern, from the golden ratio.
const FACTOR: u64 = 0x9E37_79B9_7F4A_7C15;

#[inline]
pub(super) fn mix(hash: u64, byte: u8) -> u64 {
    (hash.rotate_left(5) ^ u64::from(byte)).wrapping_mul(FACTOR)
}

/// The upper half, which every byte has had a part in.
#[inline]
pub(super) fn finish(hash: u64) -> usize {
    (hash.wrapping_mul(FACTOR) >> 32) as usize
}
