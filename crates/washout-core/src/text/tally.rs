//! Bytes of a text counted by what they are.

#[cfg(target_arch = "x86_64")]
use pulp::{NullaryFnOnce, cast, x86::V4};

/// How many bytes of a text are of each kind.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct ByteTally {
    /// Bytes that start a character, or are part of none.
    pub(crate) chars: u64,
    /// LF.
    pub(crate) line_feeds: u64,
    /// CR.
    pub(crate) returns: u64,
}

/// How much is counted at once where it takes three passes, in bytes: the first reads it from memory, the others from the
/// processor's nearest cache.
const AT_ONCE: usize = 8 << 10;

impl ByteTally {
    pub(crate) fn of(text: &[u8]) -> Self {
        #[cfg(target_arch = "x86_64")]
        if let Some(wide) = V4::try_new() {
            return wide.vectorize(InOnePass(text, wide));
        }
        Self::in_three_passes(text)
    }

    fn in_three_passes(text: &[u8]) -> Self {
        let mut tally = Self::default();
        for part in text.chunks(AT_ONCE) {
            tally.chars += bytecount::num_chars(part) as u64;
            tally.line_feeds += bytecount::count(part, b'\n') as u64;
            tally.returns += memchr::memchr_iter(b'\r', part).count() as u64;
        }
        tally
    }
}

/// Counting with vectors of 64 bytes.
#[cfg(target_arch = "x86_64")]
struct InOnePass<'t>(&'t [u8], V4);

#[cfg(target_arch = "x86_64")]
impl NullaryFnOnce for InOnePass<'_> {
    type Output = ByteTally;

    #[inline(always)] // compiled for vectors only where it is part of the caller
    fn call(self) -> ByteTally {
        const LAST_CONTINUATION: i8 = 0xBF_u8.cast_signed();
        const CONTINUATION: u8 = 0x80;
        let Self(text, v) = self;
        let all = |byte: i8| v.avx512f._mm512_set1_epi8(byte);
        let (last_continuation, line_feed, carriage_return) =
            (all(LAST_CONTINUATION), all(b'\n'.cast_signed()), all(b'\r'.cast_signed()));
        let mut tally = ByteTally::default();
        let mut add = |chunk: &[u8; 64]| {
            let bytes = cast(*chunk);
            tally.chars += u64::from(v.avx512bw._mm512_cmpgt_epi8_mask(bytes, last_continuation).count_ones());
            tally.line_feeds += u64::from(v.avx512bw._mm512_cmpeq_epi8_mask(bytes, line_feed).count_ones());
            tally.returns += u64::from(v.avx512bw._mm512_cmpeq_epi8_mask(bytes, carriage_return).count_ones());
        };
        let (chunks, rest) = text.as_chunks::<64>();
        chunks.iter().for_each(&mut add);
        if !rest.is_empty() {
            let mut last = [CONTINUATION; 64]; // which is counted as nothing
            last[..rest.len()].copy_from_slice(rest);
            add(&last);
        }
        tally
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_way_counts_what_a_loop_counts() {
        let bytes: Vec<u8> = (0..=255).chain(*b"\r\n\r\n\n\xC3\xA9").cycle().step_by(7).take(700).collect();
        for (start, end) in (0..200).zip((0..=700).rev().step_by(3)) {
            let text = &bytes[start..end.max(start)];
            let count = |is: fn(u8) -> bool| text.iter().filter(|byte| is(**byte)).count() as u64;
            let want = ByteTally {
                chars: count(|byte| !(0x80..0xC0).contains(&byte)),
                line_feeds: count(|byte| byte == b'\n'),
                returns: count(|byte| byte == b'\r'),
            };
            assert_eq!((ByteTally::of(text), ByteTally::in_three_passes(text)), (want, want), "{start}..{end}");
        }
    }
}
