//! The windows of all requirements, packed so that a vector instruction looks up 32 bytes at a time.
//!
//! A look-up goes by half a byte, so what is packed is coarser than the windows: a bucket stands for several windows,
//! and allows a byte if the low half and the high half of it each occur in one of them. It says yes too often; the exact
//! tables then say no. This is the way the "Teddy" algorithm of Hyperscan packs strings (Wang et al., "Hyperscan", NSDI
//! 2019, section 4), for sets of bytes in place of strings.

use super::bytes::{ByteSet, per_million_of};
use super::requirement::WINDOW;

/// Each bit of a byte is a bucket.
const BUCKETS_EACH: usize = 8;
const MILLION: u64 = 1_000_000;
/// Bytes that buckets are spread over, at most.
pub(super) const MOST_GROUPS: usize = 2;

/// Finding it so much more often in a million bytes is no worse than one more look-up for each of them.
const LITTLE: u64 = 2_000;

/// For each group and place in the window: which buckets allow a low half, and which a high half.
#[derive(Clone, Debug)]
pub(super) struct Buckets {
    pub(super) low: [[[u8; 16]; WINDOW]; MOST_GROUPS],
    pub(super) high: [[[u8; 16]; WINDOW]; MOST_GROUPS],
    /// How many groups there are.
    pub(super) groups: usize,
    /// How many places are looked at.
    pub(super) places: usize,
}

/// Which halves occur at each place, a bit for each of sixteen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
struct Halves {
    low: [u16; WINDOW],
    high: [u16; WINDOW],
}

impl Buckets {
    pub(super) fn new(windows: &[[ByteSet; WINDOW]]) -> Self {
        let mut all: Vec<(u64, Halves)> = windows.iter().flat_map(Halves::of).map(|one| (one.chance(), one)).collect();
        // The most frequent ones choose first, so that each gets a bucket of its own.
        all.sort_by_key(|(chance, _)| std::cmp::Reverse(*chance));
        let [few, many] = [1, MOST_GROUPS].map(|groups| filled(&all, groups * BUCKETS_EACH));
        let rate = |buckets: &[Halves], places: usize| -> u64 {
            buckets.iter().map(|bucket| bucket.chance_of(places) / MILLION / MILLION).sum()
        };
        let buckets = if rate(&few, WINDOW) <= rate(&many, WINDOW) + LITTLE { few } else { many };
        let least = rate(&buckets, WINDOW) + LITTLE;
        let places = (1..WINDOW).find(|places| rate(&buckets, *places) <= least).unwrap_or(WINDOW);
        Self { places, ..Self::packed(&buckets) }
    }

    fn packed(buckets: &[Halves]) -> Self {
        let none = [[[0; 16]; WINDOW]; MOST_GROUPS];
        let groups = buckets.len().div_ceil(BUCKETS_EACH).max(1);
        let mut packed = Self { low: none, high: none, groups, places: WINDOW };
        for (index, bucket) in buckets.iter().enumerate() {
            let (group, bit) = (index / BUCKETS_EACH, 1 << (index % BUCKETS_EACH));
            for place in 0..WINDOW {
                for half in 0..16 {
                    if bucket.low[place] >> half & 1 == 1 {
                        packed.low[group][place][half] |= bit;
                    }
                    if bucket.high[place] >> half & 1 == 1 {
                        packed.high[group][place][half] |= bit;
                    }
                }
            }
        }
        packed
    }
}

/// All of these in that many buckets at most.
fn filled(all: &[(u64, Halves)], most: usize) -> Vec<Halves> {
    let mut buckets: Vec<Halves> = Vec::new();
    for (chance, one) in all {
        let added = |bucket: &Halves| bucket.or(*one).chance() - bucket.chance();
        let best = (0..buckets.len()).min_by_key(|index| added(&buckets[*index]));
        match best.filter(|best| buckets.len() == most || added(&buckets[*best]) < *chance) {
            Some(best) => buckets[best] = buckets[best].or(*one),
            None => buckets.push(*one),
        }
    }
    buckets
}

impl Halves {
    /// A window as few of these as keep together what belongs together: one for each high half of the first byte.
    fn of(window: &[ByteSet; WINDOW]) -> Vec<Self> {
        let mut whole = Self::default();
        for (place, set) in window.iter().enumerate() {
            for byte in set.members() {
                whole.low[place] |= 1 << (byte & 15);
                whole.high[place] |= 1 << (byte >> 4);
            }
        }
        let by_high = (0..16).filter(|high| whole.high[0] >> high & 1 == 1);
        let part = |high: u8| {
            let mut part = whole;
            part.high[0] = 1 << high;
            let low = (0..16).filter(|low| window[0].has(high << 4 | low));
            part.low[0] = low.fold(0, |bits, low| bits | 1 << low);
            part
        };
        let mut parts: Vec<Self> = Vec::new();
        for part in by_high.map(part) {
            // Those with the same low halves lose nothing together.
            match parts.iter_mut().find(|other| other.low == part.low) {
                Some(other) => *other = other.or(part),
                None => parts.push(part),
            }
        }
        parts
    }

    fn or(mut self, other: Self) -> Self {
        for place in 0..WINDOW {
            self.low[place] |= other.low[place];
            self.high[place] |= other.high[place];
        }
        self
    }

    /// About how often it is found in ordinary text, out of 10^18.
    fn chance(&self) -> u64 {
        self.chance_of(WINDOW)
    }

    /// The same, where only the first places are looked at.
    fn chance_of(&self, places: usize) -> u64 {
        let at = |place: usize| -> u64 {
            let (low, high) = (self.low[place], self.high[place]);
            if (low, high) == (u16::MAX, u16::MAX) {
                return MILLION;
            }
            let halves = |bits: u16| (0..16_u8).filter(move |half| bits >> half & 1 == 1);
            let allowed = halves(high).flat_map(|high| halves(low).map(move |low| high << 4 | low));
            // The shares of all bytes are rounded, so that together they can be more than the whole.
            allowed.map(|byte| u64::from(per_million_of(byte))).sum::<u64>().min(MILLION)
        };
        (0..WINDOW).map(|place| if place < places { at(place) } else { MILLION }).product()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_allows_more_is_never_found_less_often() {
        let every = Halves { low: [u16::MAX; WINDOW], high: [u16::MAX; WINDOW] };
        for bit in 0..16 {
            for place in 0..WINDOW {
                let (mut low, mut high) = (every, every);
                low.low[place] ^= 1 << bit;
                high.high[place] ^= 1 << bit;
                for fewer in [low, high] {
                    assert!(fewer.chance() <= every.chance(), "without half {bit} at place {place}");
                }
            }
        }
    }
}
