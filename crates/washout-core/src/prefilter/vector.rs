//! Going over a text for places where a window may be, many bytes at once: with vectors of 32 bytes, or of 64 where the
//! machine has them.

use std::arch::x86_64::{__m256i, __m512i};

use pulp::x86::{V3, V4};
use pulp::{NullaryFnOnce, cast};

use super::buckets::{Buckets, MOST_GROUPS};
use super::requirement::WINDOW;
use super::scan::Scanner;

/// The bytes of a narrow vector.
const STRIDE: usize = 32;

/// This many bytes are looked over before what was found in them is looked at closer.
const SPAN: usize = 2 << 10;

/// The vectors that the machine has.
#[derive(Clone, Copy, Debug)]
pub(super) struct Vectors {
    narrow: V3,
    wide: Option<V4>,
}

impl Vectors {
    /// `None`: it has none that are of use.
    pub(super) fn new() -> Option<Self> {
        Some(Self { narrow: V3::try_new()?, wide: V4::try_new() })
    }

    /// As if the machine had no wide ones.
    #[cfg(test)]
    pub(super) fn narrow(self) -> Self {
        Self { wide: None, ..self }
    }
}

/// See [`Scanner::scan`].
pub(super) fn scan(
    vectors: Vectors,
    scanner: &Scanner,
    buckets: &Buckets,
    text: &[u8],
    found: &mut impl FnMut(u64, usize) -> bool,
) -> Option<usize> {
    let from = each_span(vectors, buckets, text, |start, places| {
        places.iter().map(|place| start + *place as usize).all(|place| {
            let windows = scanner.windows_at([text[place], text[place + 1], text[place + 2]]);
            windows == 0 || found(windows, place)
        })
    })?;
    let rest = scanner.scan_plainly(&text[from..], &mut |windows, at| found(windows, from + at))?;
    Some(from + rest)
}

/// Hands over the places where windows may be, span by span: where it starts, and the places counted from there, in order;
/// until `found` says no. The last few bytes of `text` are not looked at: gives the first of them, or `None` if `found` has
/// said no.
#[inline]
pub(super) fn each_span(
    vectors: Vectors,
    buckets: &Buckets,
    text: &[u8],
    mut found: impl FnMut(usize, &mut [u32]) -> bool,
) -> Option<usize> {
    let Some(last) = text.len().checked_sub(STRIDE + WINDOW - 1) else { return Some(0) };
    let mut places = [0; SPAN + 2];
    let mut from = 0;
    while from < text.len() - (WINDOW - 1) {
        // The last stride begins where it ends with the text, so that it takes in some places twice.
        let start = from.min(last);
        let span = &text[start..text.len().min(start + SPAN + WINDOW - 1)];
        let look = VectorScan { buckets, span, at: 0, places: &mut places, count: 0 };
        // What is not looked up takes no time.
        let VectorScan { at, count, .. } = match (buckets.groups, buckets.places) {
            (1, 1) => look.over::<1, 1>(vectors),
            (1, 2) => look.over::<1, 2>(vectors),
            (1, _) => look.over::<1, WINDOW>(vectors),
            _ => look.over::<MOST_GROUPS, WINDOW>(vectors),
        };
        let places = &mut places[..count];
        let twice = places.iter().take_while(|place| start + (**place as usize) < from).count();
        if !found(start, &mut places[twice..]) {
            return None;
        }
        from = start + at;
    }
    Some(from)
}

/// Looking a span over.
struct VectorScan<'s> {
    buckets: &'s Buckets,
    span: &'s [u8],
    /// So much of it has been looked over.
    at: usize,
    /// Where windows may be, and room for two more places than the span has bytes.
    places: &'s mut [u32],
    /// This many places have been put down.
    count: usize,
}

impl VectorScan<'_> {
    /// With that many groups, and places of windows that are looked at.
    fn over<const GROUPS: usize, const PLACES: usize>(self, vectors: Vectors) -> Self {
        let Vectors { narrow, wide } = vectors;
        let rest = match wide {
            Some(wide) => wide.vectorize(VectorScanWith::<'_, _, GROUPS, PLACES, 1>(self, wide)),
            None => narrow.vectorize(VectorScanWith::<'_, _, GROUPS, PLACES, 2>(self, narrow)),
        };
        narrow.vectorize(VectorScanWith::<'_, _, GROUPS, PLACES, 1>(rest, narrow))
    }
}

/// The same with such vectors, `STRIDES` of them before places are put down.
struct VectorScanWith<'s, V, const GROUPS: usize, const PLACES: usize, const STRIDES: usize>(VectorScan<'s>, V);

impl<'s, V: VectorTable, const GROUPS: usize, const PLACES: usize, const STRIDES: usize> NullaryFnOnce
    for VectorScanWith<'s, V, GROUPS, PLACES, STRIDES>
{
    type Output = VectorScan<'s>;

    #[expect(clippy::inline_always, reason = "compiled for vectors only where it is part of the caller")]
    #[inline(always)]
    fn call(self) -> VectorScan<'s> {
        let Self(VectorScan { buckets, span, mut at, places, mut count }, v) = self;
        let tables = |halves: &[[[u8; 16]; WINDOW]; MOST_GROUPS]| {
            std::array::from_fn::<_, GROUPS, _>(|group| {
                std::array::from_fn::<_, PLACES, _>(|place| v.table(halves[group][place]))
            })
        };
        let (low, high) = (tables(&buckets.low), tables(&buckets.high));
        while let Some(bytes) = span.get(at..at + STRIDES * V::BYTES + WINDOW - 1) {
            let mut bits = 0_u64;
            for stride in 0..STRIDES {
                let mut allowed: [Option<V::Bytes>; GROUPS] = [None; GROUPS];
                for place in 0..PLACES {
                    let Some((low_half, high_half)) = v.halves(&bytes[stride * V::BYTES + place..]) else { break };
                    for group in 0..GROUPS {
                        let by_low = v.look_up(low[group][place], low_half);
                        let here = v.and(by_low, v.look_up(high[group][place], high_half));
                        allowed[group] = Some(allowed[group].map_or(here, |before| v.and(before, here)));
                    }
                }
                let any = allowed.into_iter().flatten().reduce(|any, here| v.or(any, here));
                bits |= any.map_or(0, |any| v.not_zero(any)) << (stride * V::BYTES % 64);
            }
            count = put_down(bits, at, places, count);
            at += STRIDES * V::BYTES;
        }
        VectorScan { buckets, span, at, places, count }
    }
}

/// Puts down a place for each of the bits, which stand for places from `start` on; gives how many places there are then.
///
/// Whether there is anything is hard to predict where a text holds much of it, so two places are put down in any case, and
/// count if they are any.
#[expect(clippy::inline_always, reason = "part of code for vectors")]
#[expect(clippy::cast_possible_truncation, reason = "a span is short")]
#[inline(always)]
fn put_down(bits: u64, start: usize, places: &mut [u32], count: usize) -> usize {
    let start = start as u32;
    let after = bits & bits.wrapping_sub(1);
    if let [one, other, ..] = &mut places[count..] {
        (*one, *other) = (start + bits.trailing_zeros(), start + after.trailing_zeros());
    }
    let found = bits.count_ones() as usize;
    if found > 2 {
        let mut rest = after & after.wrapping_sub(1);
        for place in &mut places[count + 2..count + found] {
            *place = start + rest.trailing_zeros();
            rest &= rest - 1;
        }
    }
    count + found
}

/// What is asked of vectors. All of it has to be part of code for them.
trait VectorTable: Copy {
    type Bytes: Copy;
    const BYTES: usize;

    /// A table of sixteen bytes.
    fn table(self, entries: [u8; 16]) -> Self::Bytes;
    /// The low and the high half of each of the first bytes; `None`: there are too few.
    fn halves(self, bytes: &[u8]) -> Option<(Self::Bytes, Self::Bytes)>;
    /// The entry for each half.
    fn look_up(self, table: Self::Bytes, halves: Self::Bytes) -> Self::Bytes;
    fn and(self, one: Self::Bytes, other: Self::Bytes) -> Self::Bytes;
    fn or(self, one: Self::Bytes, other: Self::Bytes) -> Self::Bytes;
    /// A bit for each byte that is not zero.
    fn not_zero(self, bytes: Self::Bytes) -> u64;
}

/// The low bits of a byte.
const LOW_HALF: i8 = 15;

#[expect(clippy::inline_always, reason = "part of code for vectors")]
impl VectorTable for V3 {
    type Bytes = __m256i;
    const BYTES: usize = STRIDE;

    #[inline(always)]
    fn table(self, entries: [u8; 16]) -> __m256i {
        self.avx2._mm256_broadcastsi128_si256(cast(entries))
    }

    #[inline(always)]
    fn halves(self, bytes: &[u8]) -> Option<(__m256i, __m256i)> {
        let bytes: __m256i = cast(*bytes.first_chunk::<STRIDE>()?);
        let low_half = self.avx._mm256_set1_epi8(LOW_HALF);
        let shifted = self.avx2._mm256_srli_epi16::<4>(bytes);
        Some((self.avx2._mm256_and_si256(bytes, low_half), self.avx2._mm256_and_si256(shifted, low_half)))
    }

    #[inline(always)]
    fn look_up(self, table: __m256i, halves: __m256i) -> __m256i {
        self.avx2._mm256_shuffle_epi8(table, halves)
    }

    #[inline(always)]
    fn and(self, one: __m256i, other: __m256i) -> __m256i {
        self.avx2._mm256_and_si256(one, other)
    }

    #[inline(always)]
    fn or(self, one: __m256i, other: __m256i) -> __m256i {
        self.avx2._mm256_or_si256(one, other)
    }

    #[inline(always)]
    fn not_zero(self, bytes: __m256i) -> u64 {
        let zero = self.avx2._mm256_cmpeq_epi8(bytes, self.avx._mm256_setzero_si256());
        u64::from(!self.avx2._mm256_movemask_epi8(zero).cast_unsigned())
    }
}

#[expect(clippy::inline_always, reason = "part of code for vectors")]
impl VectorTable for V4 {
    type Bytes = __m512i;
    const BYTES: usize = 2 * STRIDE;

    #[inline(always)]
    fn table(self, entries: [u8; 16]) -> __m512i {
        self.avx512f._mm512_broadcast_i32x4(cast(entries))
    }

    #[inline(always)]
    fn halves(self, bytes: &[u8]) -> Option<(__m512i, __m512i)> {
        let bytes: __m512i = cast(*bytes.first_chunk::<{ 2 * STRIDE }>()?);
        let low_half = self.avx512f._mm512_set1_epi8(LOW_HALF);
        let shifted = self.avx512bw._mm512_srli_epi16::<4>(bytes);
        Some((self.avx512f._mm512_and_si512(bytes, low_half), self.avx512f._mm512_and_si512(shifted, low_half)))
    }

    #[inline(always)]
    fn look_up(self, table: __m512i, halves: __m512i) -> __m512i {
        self.avx512bw._mm512_shuffle_epi8(table, halves)
    }

    #[inline(always)]
    fn and(self, one: __m512i, other: __m512i) -> __m512i {
        self.avx512f._mm512_and_si512(one, other)
    }

    #[inline(always)]
    fn or(self, one: __m512i, other: __m512i) -> __m512i {
        self.avx512f._mm512_or_si512(one, other)
    }

    #[inline(always)]
    fn not_zero(self, bytes: __m512i) -> u64 {
        self.avx512bw._mm512_test_epi8_mask(bytes, bytes)
    }
}
