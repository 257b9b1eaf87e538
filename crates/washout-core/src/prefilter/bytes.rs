//! Sets of bytes, and how often their members turn up in ordinary text.

/// A set of bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct ByteSet([u64; 4]);

impl ByteSet {
    pub(super) const ALL: Self = Self([u64::MAX; 4]);

    pub(super) fn of(bytes: impl IntoIterator<Item = u8>) -> Self {
        let mut set = Self::default();
        bytes.into_iter().for_each(|byte| set.0[usize::from(byte) / 64] |= 1 << (byte % 64));
        set
    }

    /// The two bytes that line ends are made of.
    pub(super) fn line_ends() -> Self {
        Self::of(*b"\n\r")
    }

    pub(super) fn blanks() -> Self {
        Self::of(*b" \t")
    }

    #[inline]
    pub(super) fn has(&self, byte: u8) -> bool {
        self.0[usize::from(byte) / 64] >> (byte % 64) & 1 == 1
    }

    pub(super) fn or(mut self, other: Self) -> Self {
        self.0.iter_mut().zip(other.0).for_each(|(bits, more)| *bits |= more);
        self
    }

    pub(super) fn except(mut self, other: Self) -> Self {
        self.0.iter_mut().zip(other.0).for_each(|(bits, fewer)| *bits &= !fewer);
        self
    }

    pub(super) fn members(&self) -> impl Iterator<Item = u8> + '_ {
        // Most sets are of bytes that are near each other.
        let quarters = (0..4_u8).filter(|quarter| self.0[usize::from(*quarter)] != 0);
        quarters.flat_map(|quarter| (0..64).map(move |byte| quarter * 64 + byte)).filter(|byte| self.has(*byte))
    }

    /// About how many bytes of a million are in the set, in text of any kind. Only the choice of what to look for hangs
    /// on it, never a result.
    pub(super) fn per_million(&self) -> u32 {
        if *self == Self::ALL { 1_000_000 } else { self.members().map(per_million_of).sum::<u32>().min(1_000_000) }
    }
}

/// About how often a byte turns up among a million.
#[inline]
pub(super) fn per_million_of(byte: u8) -> u32 {
    SHARES[usize::from(byte)]
}

/// A table, since choosing what to look for reads it many thousand times.
static SHARES: [u32; 256] = {
    let mut shares = [0; 256];
    let mut byte = u8::MIN;
    loop {
        shares[byte as usize] = share(byte);
        if byte == u8::MAX {
            break shares;
        }
        byte += 1;
    }
};

/// Rough figures for texts in many languages and formats taken together.
const fn share(byte: u8) -> u32 {
    match byte {
        b' ' => 160_000,
        b'e' | b't' | b'a' | b'o' | b'i' | b'n' | b's' | b'r' => 55_000,
        b'a'..=b'z' => 18_000,
        b'\n' => 17_000,
        b'.' | b',' | 0xC3 | 0xD0 | 0xD1 | 0xE0 | 0xE3..=0xE9 => 8_000,
        b'0'..=b'9' => 4_000,
        b'A'..=b'Z' | 0x80..=0xBF => 3_000,
        b'-' | b'\'' | b'"' | b'/' | b':' | b'=' | b'_' | b'(' | b')' => 2_000,
        b'\t' | b'\r' => 1_000,
        b'!'..=b'~' => 500,
        _ => 300,
    }
}
