//! Going over a text for places where a window may be.

use std::ops::Range;

use super::bytes::ByteSet;
use super::probe::WINDOW;

#[cfg(target_arch = "x86_64")]
use std::sync::atomic::{AtomicUsize, Ordering};
#[cfg(target_arch = "x86_64")]
use std::sync::{Arc, OnceLock};

#[cfg(target_arch = "x86_64")]
use super::buckets::Buckets;

/// Bytes that are looked at before anything is decided.
const STRIDE: usize = 32;

/// The same around a change, which hardly ever is longer.
const FEW: usize = 12;

/// The bytes that are looked at for that; as many behind a line let the look go beyond its end.
pub(crate) const BEHIND: usize = FEW + WINDOW - 1;

/// Texts shorter than this, all taken together, are looked over without making vectors ready: that takes as long.
#[cfg(target_arch = "x86_64")]
const LONG: usize = 256 << 10;

/// For each value of the first, second and third byte, the windows that allow it, a bit for each.
pub(super) type Tables = [[u64; 256]; WINDOW];

/// Finds windows.
#[derive(Clone, Debug)]
pub(super) struct Scanner {
    tables: Box<Tables>,
    windows: Vec<[ByteSet; WINDOW]>,
    #[cfg(target_arch = "x86_64")]
    buckets: Arc<OnceLock<Buckets>>,
    /// Bytes that have been looked over without them.
    #[cfg(target_arch = "x86_64")]
    scanned: Arc<AtomicUsize>,
}

impl Scanner {
    /// For windows, each of which is known by a bit.
    pub(super) fn new(windows: Vec<(u64, [ByteSet; WINDOW])>) -> Self {
        let mut tables = Box::new([[0; 256]; WINDOW]);
        for (bit, window) in &windows {
            for (table, set) in tables.iter_mut().zip(window) {
                set.members().for_each(|byte| table[usize::from(byte)] |= bit);
            }
        }
        Self {
            tables,
            windows: windows.into_iter().map(|(_, window)| window).collect(),
            #[cfg(target_arch = "x86_64")]
            buckets: Arc::default(),
            #[cfg(target_arch = "x86_64")]
            scanned: Arc::default(),
        }
    }

    /// Hands over each place of `text` where windows are, with their bits, in order, until `found` says no. The last
    /// places, where a window would reach out of the text, are not looked at: gives the first of them, or `None` if
    /// `found` has said no.
    pub(super) fn scan(&self, text: &[u8], found: &mut impl FnMut(u64, usize) -> bool) -> Option<usize> {
        #[cfg(target_arch = "x86_64")]
        if let Some(vectors) = pulp::x86::V3::try_new()
            && let Some(buckets) = self.buckets_for(text.len())
        {
            return vector::scan(vectors, self, buckets, text, found);
        }
        self.scan_plainly(text, found)
    }

    /// Whether it looks at many bytes at once.
    pub(super) fn has_vectors(&self) -> bool {
        #[cfg(target_arch = "x86_64")]
        return pulp::x86::V3::try_new().is_some() && self.buckets.get().is_some();
        #[cfg(not(target_arch = "x86_64"))]
        return false;
    }

    /// The buckets, if so many bytes more are worth them.
    #[cfg(target_arch = "x86_64")]
    fn buckets_for(&self, len: usize) -> Option<&Buckets> {
        let ready = self.buckets.get();
        if ready.is_some() || self.scanned.fetch_add(len, Ordering::Relaxed) + len < LONG {
            return ready;
        }
        Some(self.buckets.get_or_init(|| Buckets::new(&self.windows)))
    }

    /// The way of machines without such vectors, and for short texts.
    fn scan_plainly(&self, text: &[u8], found: &mut impl FnMut(u64, usize) -> bool) -> Option<usize> {
        let mut at = 0;
        while let Some(bytes) = text[at..].first_chunk::<{ STRIDE + WINDOW - 1 }>() {
            let any = (0..STRIDE).fold(0, |any, index| any | self.windows_in(bytes, index));
            if any != 0 {
                let all = (0..STRIDE).all(|index| match self.windows_in(bytes, index) {
                    0 => true,
                    windows => found(windows, at + index),
                });
                if !all {
                    return None;
                }
            }
            at += STRIDE;
        }
        while let Some(bytes) = text[at..].first_chunk::<WINDOW>() {
            let windows = self.windows_at(*bytes);
            if windows != 0 && !found(windows, at) {
                return None;
            }
            at += 1;
        }
        Some(at)
    }

    /// The first place in this stretch of `bytes` with any of these windows, and which.
    #[inline]
    pub(super) fn next(&self, bytes: &[u8], stretch: Range<usize>, wanted: u64) -> Option<(u64, usize)> {
        let mut from = stretch.start;
        while from < stretch.end {
            let some = bytes[from..].first_chunk::<BEHIND>();
            if let Some(some) = some
                && (0..FEW).fold(0, |any, at| any | self.windows_at([some[at], some[at + 1], some[at + 2]])) & wanted
                    == 0
            {
                from += FEW;
                continue;
            }
            let end = (from + FEW).min(stretch.end);
            for at in from..end {
                let windows = self.windows_at([bytes[at], bytes[at + 1], bytes[at + 2]]) & wanted;
                if windows != 0 {
                    return Some((windows, at));
                }
            }
            from = end;
        }
        None
    }

    /// The windows these bytes are in.
    #[inline]
    pub(super) fn windows_at(&self, bytes: [u8; WINDOW]) -> u64 {
        let [first, second, third] = &*self.tables;
        first[usize::from(bytes[0])] & second[usize::from(bytes[1])] & third[usize::from(bytes[2])]
    }

    #[inline]
    fn windows_in(&self, bytes: &[u8; STRIDE + WINDOW - 1], index: usize) -> u64 {
        self.windows_at([bytes[index], bytes[index + 1], bytes[index + 2]])
    }
}

#[cfg(target_arch = "x86_64")]
pub(super) mod vector {
    use std::arch::x86_64::__m256i;

    use pulp::x86::V3;
    use pulp::{NullaryFnOnce, cast};

    use super::super::buckets::{Buckets, MOST_GROUPS};
    use super::{STRIDE, Scanner, WINDOW};

    /// So many bytes are looked over before what was found in them is looked at closer.
    const SPAN: usize = 1 << 10;

    pub(super) fn scan(
        vectors: V3,
        scanner: &Scanner,
        buckets: &Buckets,
        text: &[u8],
        found: &mut impl FnMut(u64, usize) -> bool,
    ) -> Option<usize> {
        let from = each_place(vectors, buckets, None, text, &mut |place| {
            let windows = scanner.windows_at([text[place], text[place + 1], text[place + 2]]);
            windows == 0 || found(windows, place)
        })?;
        let rest = scanner.scan_plainly(&text[from..], &mut |windows, at| found(windows, from + at))?;
        Some(from + rest)
    }

    /// Hands over each place of `text` where windows may be, in order, until `found` says no. The last few bytes are not
    /// looked at: gives the first of them, or `None` if `found` has said no.
    ///
    /// `pair`: the only window is a pair of bytes, each of them one of two, and that is where it is.
    #[inline]
    pub(in crate::sieve) fn each_place(
        vectors: V3,
        buckets: &Buckets,
        pair: Option<[[u8; 2]; 2]>,
        text: &[u8],
        found: &mut impl FnMut(usize) -> bool,
    ) -> Option<usize> {
        let Some(last) = text.len().checked_sub(STRIDE + WINDOW - 1) else { return Some(0) };
        let mut places = [0; SPAN + 1];
        let mut from = 0;
        while from < text.len() - (WINDOW - 1) {
            // The last stride begins where it ends with the text, so that it takes in some places twice.
            let start = from.min(last);
            let span = &text[start..text.len().min(start + SPAN + WINDOW - 1)];
            let look = Look { vectors, buckets, span, at: 0, places: &mut places, count: 0 };
            // What is not looked up takes no time.
            let Look { at, count, .. } = match (pair, buckets.groups, buckets.places) {
                (Some(pair), ..) => look.for_pair(pair),
                (None, 1, 1) => look.over::<1, 1>(),
                (None, 1, 2) => look.over::<1, 2>(),
                (None, 1, _) => look.over::<1, WINDOW>(),
                _ => look.over::<MOST_GROUPS, WINDOW>(),
            };
            let places = places[..count].iter().map(|place| start + *place as usize);
            if !places.skip_while(|place| *place < from).all(&mut *found) {
                return None;
            }
            from = start + at;
        }
        Some(from)
    }

    /// Looking a span over.
    struct Look<'s> {
        vectors: V3,
        buckets: &'s Buckets,
        span: &'s [u8],
        /// So much of it has been looked over.
        at: usize,
        /// Where windows may be, and room for one more place than the span has bytes.
        places: &'s mut [u32],
        /// So many places have been put down.
        count: usize,
    }

    impl Look<'_> {
        /// For a pair of bytes, each of them one of two.
        fn for_pair(self, pair: [[u8; 2]; 2]) -> Self {
            let vectors = self.vectors;
            let rest = vectors.vectorize(LookForPair::<'_, 2>(self, pair));
            vectors.vectorize(LookForPair::<'_, 1>(rest, pair))
        }

        /// With so many groups, and places of windows that are looked at.
        fn over<const GROUPS: usize, const PLACES: usize>(self) -> Self {
            let vectors = self.vectors;
            let rest = vectors.vectorize(LookIn::<'_, GROUPS, PLACES, 2>(self));
            vectors.vectorize(LookIn::<'_, GROUPS, PLACES, 1>(rest))
        }
    }

    /// The same for a pair of bytes, each of them one of two.
    struct LookForPair<'s, const STRIDES: usize>(Look<'s>, [[u8; 2]; 2]);

    impl<'s, const STRIDES: usize> NullaryFnOnce for LookForPair<'s, STRIDES> {
        type Output = Look<'s>;

        #[expect(clippy::inline_always, reason = "compiled for vectors only where it is part of the caller")]
        #[inline(always)]
        fn call(self) -> Look<'s> {
            let Self(Look { vectors, buckets, span, mut at, places, mut count }, pair) = self;
            let pair = pair.map(|bytes| bytes.map(|byte| vectors.avx._mm256_set1_epi8(byte.cast_signed())));
            while let Some(bytes) = span.get(at..at + STRIDES * STRIDE + WINDOW - 1) {
                let mut bits = 0_u64;
                for stride in 0..STRIDES {
                    let mut here = vectors.avx._mm256_set1_epi8(-1);
                    for (place, [one, other]) in pair.into_iter().enumerate() {
                        let Some(bytes) = bytes[stride * STRIDE + place..].first_chunk::<STRIDE>() else { break };
                        let bytes: __m256i = cast(*bytes);
                        let is_one = vectors.avx2._mm256_cmpeq_epi8(bytes, one);
                        let is_other = vectors.avx2._mm256_cmpeq_epi8(bytes, other);
                        here = vectors.avx2._mm256_and_si256(here, vectors.avx2._mm256_or_si256(is_one, is_other));
                    }
                    let found = vectors.avx2._mm256_movemask_epi8(here).cast_unsigned();
                    bits |= u64::from(found) << (stride * STRIDE);
                }
                count = put_down(bits, at, places, count);
                at += STRIDES * STRIDE;
            }
            Look { vectors, buckets, span, at, places, count }
        }
    }

    /// Puts down a place for each of the bits, which stand for places from `start` on; gives how many places there are then.
    ///
    /// Whether there is anything is hard to predict where a text holds much of it, so a place is put down in any case, and
    /// counts if it is one.
    #[expect(clippy::inline_always, reason = "part of code for vectors")]
    #[expect(clippy::cast_possible_truncation, reason = "a span is short")]
    #[inline(always)]
    fn put_down(bits: u64, start: usize, places: &mut [u32], count: usize) -> usize {
        let (mut bits, mut count, start) = (bits, count, start as u32);
        places[count] = start + bits.trailing_zeros();
        count += usize::from(bits != 0);
        bits &= bits.wrapping_sub(1);
        while bits != 0 {
            places[count] = start + bits.trailing_zeros();
            count += 1;
            bits &= bits - 1;
        }
        count
    }

    /// The same, so many strides at once.
    struct LookIn<'s, const GROUPS: usize, const PLACES: usize, const STRIDES: usize>(Look<'s>);

    impl<'s, const GROUPS: usize, const PLACES: usize, const STRIDES: usize> NullaryFnOnce
        for LookIn<'s, GROUPS, PLACES, STRIDES>
    {
        type Output = Look<'s>;

        #[expect(clippy::inline_always, reason = "compiled for vectors only where it is part of the caller")]
        #[inline(always)]
        fn call(self) -> Look<'s> {
            let Look { vectors, buckets, span, mut at, places, mut count } = self.0;
            let table = |half: &[u8; 16]| vectors.avx2._mm256_broadcastsi128_si256(cast(*half));
            let tables = |halves: &[[[u8; 16]; WINDOW]; MOST_GROUPS]| {
                std::array::from_fn::<_, GROUPS, _>(|group| {
                    std::array::from_fn::<_, PLACES, _>(|place| table(&halves[group][place]))
                })
            };
            let (low, high) = (tables(&buckets.low), tables(&buckets.high));
            let low_bits = vectors.avx._mm256_set1_epi8(15);
            let none = vectors.avx._mm256_setzero_si256();
            while let Some(bytes) = span.get(at..at + STRIDES * STRIDE + WINDOW - 1) {
                let mut bits = 0_u64;
                for stride in 0..STRIDES {
                    let mut allowed: [Option<__m256i>; GROUPS] = [None; GROUPS];
                    for place in 0..PLACES {
                        let Some(bytes) = bytes[stride * STRIDE + place..].first_chunk::<STRIDE>() else { break };
                        let bytes: __m256i = cast(*bytes);
                        let low_half = vectors.avx2._mm256_and_si256(bytes, low_bits);
                        let shifted = vectors.avx2._mm256_srli_epi16::<4>(bytes);
                        let high_half = vectors.avx2._mm256_and_si256(shifted, low_bits);
                        for group in 0..GROUPS {
                            let by_low = vectors.avx2._mm256_shuffle_epi8(low[group][place], low_half);
                            let by_high = vectors.avx2._mm256_shuffle_epi8(high[group][place], high_half);
                            let here = vectors.avx2._mm256_and_si256(by_low, by_high);
                            allowed[group] = Some(match allowed[group] {
                                Some(before) => vectors.avx2._mm256_and_si256(before, here),
                                None => here,
                            });
                        }
                    }
                    let any =
                        allowed.into_iter().flatten().fold(none, |any, one| vectors.avx2._mm256_or_si256(any, one));
                    let nowhere = vectors.avx2._mm256_cmpeq_epi8(any, none);
                    let found = !vectors.avx2._mm256_movemask_epi8(nowhere).cast_unsigned();
                    bits |= u64::from(found) << (stride * STRIDE);
                }
                count = put_down(bits, at, places, count);
                at += STRIDES * STRIDE;
            }
            Look { vectors, buckets, span, at, places, count }
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;

    /// What is told of windows and where they are.
    type Found<'f> = dyn FnMut(u64, usize) -> bool + 'f;

    fn set() -> impl Strategy<Value = ByteSet> {
        prop_oneof![
            Just(ByteSet::ALL),
            vec(any::<u8>(), 1..4).prop_map(ByteSet::of),
            (any::<u8>(), 0..40_u8).prop_map(|(first, count)| ByteSet::of(first..=first.saturating_add(count))),
        ]
    }

    proptest! {
        #[test]
        fn vectors_find_what_the_tables_find(
            windows in vec((set(), set(), set()), 1..63),
            text in vec(prop_oneof![any::<u8>(), select_few()], 0..300),
        ) {
            let windows = windows.into_iter().enumerate();
            let windows: Vec<_> = windows.map(|(bit, (a, b, c))| (1 << bit, [a, b, c])).collect();
            let scanner = Scanner::new(windows.clone());
            let mut want = Vec::new();
            for (at, bytes) in text.windows(WINDOW).enumerate() {
                let fits = windows.iter().filter(|(_, sets)| sets.iter().zip(bytes).all(|(set, byte)| set.has(*byte)));
                let bits = fits.fold(0_u64, |bits, (bit, _)| bits | bit);
                want.extend((bits != 0).then_some((bits, at)));
            }
            let by = |scan: &dyn Fn(&mut Found<'_>) -> Option<usize>| {
                let mut found = Vec::new();
                let end = scan(&mut |bits, at| {
                    found.push((bits, at));
                    true
                });
                (found, end)
            };
            let all = Some(text.len().saturating_sub(WINDOW - 1));
            prop_assert_eq!(by(&|found| scanner.scan_plainly(&text, &mut |bits, at| found(bits, at))), (want.clone(), all));
            #[cfg(target_arch = "x86_64")]
            scanner.buckets_for(LONG); // from here on it is worth vectors, where the machine has them
            prop_assert_eq!(by(&|found| scanner.scan(&text, &mut |bits, at| found(bits, at))), (want, all));
        }
    }

    fn select_few() -> impl Strategy<Value = u8> {
        proptest::sample::select(&b" \n\r.#u\xC2\xA0\xE2\x80"[..])
    }
}
