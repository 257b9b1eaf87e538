//! Going over a text for places where a window may be.

use std::ops::Range;

use super::bytes::ByteSet;
use super::requirement::WINDOW;
#[cfg(target_arch = "x86_64")]
use super::vector::{self, Vectors};

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

/// The bytes that are looked at for that; as many after a line let the look go beyond its end.
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
    vectors: Option<Vectors>,
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
            vectors: Vectors::new(),
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
        if let Some(vectors) = self.vectors
            && let Some(buckets) = self.buckets_for(text.len())
        {
            return vector::scan(vectors, self, buckets, text, found);
        }
        self.scan_plainly(text, found)
    }

    /// From now on it works as on a machine without vectors.
    pub(super) fn forgo_vectors(&mut self) {
        #[cfg(target_arch = "x86_64")]
        {
            self.vectors = None;
        }
    }

    /// Whether it looks at many bytes at once.
    pub(super) fn has_vectors(&self) -> bool {
        #[cfg(target_arch = "x86_64")]
        return self.vectors.is_some() && self.buckets.get().is_some();
        #[cfg(not(target_arch = "x86_64"))]
        return false;
    }

    /// The buckets, if that many bytes more are worth them.
    #[cfg(target_arch = "x86_64")]
    fn buckets_for(&self, len: usize) -> Option<&Buckets> {
        let ready = self.buckets.get();
        if ready.is_some() || self.scanned.fetch_add(len, Ordering::Relaxed) + len < LONG {
            return ready;
        }
        Some(self.buckets.get_or_init(|| Buckets::new(&self.windows)))
    }

    /// The way of machines without such vectors, and for short texts.
    pub(super) fn scan_plainly(&self, text: &[u8], found: &mut impl FnMut(u64, usize) -> bool) -> Option<usize> {
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

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;

    /// What is reported windows and where they are.
    type WindowHit<'f> = dyn FnMut(u64, usize) -> bool + 'f;

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
            let by = |scan: &dyn Fn(&mut WindowHit<'_>) -> Option<usize>| {
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
            prop_assert_eq!(by(&|found| scanner.scan(&text, &mut |bits, at| found(bits, at))), (want.clone(), all));
            #[cfg(target_arch = "x86_64")]
            if let (Some(vectors), Some(buckets)) = (Vectors::new(), scanner.buckets_for(0)) {
                let narrow = |found: &mut WindowHit<'_>| {
                    vector::scan(vectors.narrow(), &scanner, buckets, &text, &mut |bits, at| found(bits, at))
                };
                prop_assert_eq!(by(&narrow), (want, all));
            }
        }
    }

    fn select_few() -> impl Strategy<Value = u8> {
        proptest::sample::select(&b" \n\r.#u\xC2\xA0\xE2\x80"[..])
    }
}
