//! Finding the places where one rule may act.

use std::sync::Arc;

#[cfg(target_arch = "x86_64")]
use super::buckets::Buckets;
use super::bytes::ByteSet;
use super::requirement::{MatchStart, Requirement, WINDOW, WindowCheck};
#[cfg(target_arch = "x86_64")]
use super::vector::{self, Vectors};
use super::{Sifting, lone_cr};
use crate::text::chars::splits_char;

/// Looks for the requirements of one rule.
#[derive(Clone, Debug)]
pub(crate) struct CandidateFinder {
    #[cfg(target_arch = "x86_64")]
    buckets: Buckets,
    /// For each value of the first, second and third byte, the windows that allow it, a bit for each. They are small, since
    /// those of all rules are used in turn.
    tables: [[u8; 256]; WINDOW],
    /// What is asked where a window of this bit is; more than one thing where there are more requirements than bits.
    checks: [Vec<(WindowCheck, MatchStart)>; SEATS],
    /// What is asked, if that is one thing for all windows, and it tells no more than where they are.
    #[cfg(target_arch = "x86_64")]
    offset: Option<Offset>,
    #[cfg(target_arch = "x86_64")]
    vectors: Option<Vectors>,
}

/// What parts a place from the start of its window, in bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Offset {
    before: usize,
    starts_outside: bool,
}

/// Bits for requirements.
const SEATS: usize = 7;

/// The bit for a CR that no LF follows.
const LONE_CR: u8 = 1 << SEATS;

/// The bits of a place in a span; the windows there are in those above.
#[cfg(target_arch = "x86_64")]
const BITS_OF_PLACE: u32 = 24;

impl CandidateFinder {
    /// `looks_at_starts`: where starts of what the rule looks for are told, it makes sure of each of them itself.
    #[cfg_attr(not(target_arch = "x86_64"), expect(unused_variables, reason = "there are no vectors"))]
    pub(crate) fn new(requirements: &[Requirement], looks_at_starts: bool, may_use_vectors: bool) -> Self {
        let mut tables = [[0; 256]; WINDOW];
        let mut add = |bit: u8, window: &[ByteSet; WINDOW]| {
            for (table, set) in tables.iter_mut().zip(window) {
                set.members().for_each(|byte| table[usize::from(byte)] |= bit);
            }
        };
        let mut checks: [Vec<(WindowCheck, MatchStart)>; SEATS] = std::array::from_fn(|_| Vec::new());
        add(LONE_CR, &lone_cr());
        // Those that begin alike share a bit where there are more than bits: together they allow little else.
        let mut sorted: Vec<&Requirement> = requirements.iter().collect();
        sorted.sort_by_key(|requirement| requirement.window[0].members().next());
        for (index, requirement) in sorted.into_iter().enumerate() {
            let index = index * SEATS / requirements.len().max(SEATS);
            add(1 << index, &requirement.window);
            let alone = requirements.len() <= SEATS;
            let (starts, requirement) = (requirement.starts(), requirement.clone());
            let check =
                if looks_at_starts { requirement.into_check_of_starts(alone) } else { requirement.into_check(alone) };
            let check = (check, starts);
            if !checks[index].iter().any(|other| are_alike(&check, other)) {
                checks[index].push(check);
            }
        }
        #[cfg(target_arch = "x86_64")]
        let windows: Vec<_> = requirements.iter().map(|requirement| requirement.window).chain([lone_cr()]).collect();
        Self {
            #[cfg(target_arch = "x86_64")]
            buckets: Buckets::new(&windows),
            #[cfg(target_arch = "x86_64")]
            offset: Offset::of_all(checks.iter().flatten()),
            #[cfg(target_arch = "x86_64")]
            vectors: Vectors::new().filter(|_| may_use_vectors),
            tables,
            checks,
        }
    }

    /// Puts down in `places`, in order, places on all lines of `text` that the rule may act on. `text` is made of whole lines
    /// and ends in LF.
    pub(crate) fn places(&self, text: &[u8], places: &mut Vec<usize>) -> Sifting {
        places.clear();
        let mut spotted = CandidateScan { candidate_finder: self, text, places, in_order: true };
        let all = spotted.edge(0)
            && self.each_span(&mut spotted).is_some_and(|from| (from..text.len()).all(|at| spotted.edge(at + 1)));
        if !spotted.in_order {
            places.sort_unstable();
            places.dedup();
        }
        if all { Sifting::Marked } else { Sifting::LoneCr }
    }

    /// Looks at all places but the last few, the first of which it gives; `None`: a CR stands alone.
    fn each_span(&self, spotted: &mut CandidateScan<'_>) -> Option<usize> {
        #[cfg(target_arch = "x86_64")]
        if let Some(vectors) = self.vectors {
            return vector::each_span(vectors, &self.buckets, spotted.text, |start, places| {
                spotted.take(start, places)
            });
        }
        Some(0)
    }

    /// The windows these bytes are in, a bit for each.
    #[inline]
    fn windows_at(&self, bytes: [u8; WINDOW]) -> u8 {
        let [first, second, third] = &self.tables;
        first[usize::from(bytes[0])] & second[usize::from(bytes[1])] & third[usize::from(bytes[2])]
    }
}

impl Offset {
    fn of((check, starts): &(WindowCheck, MatchStart)) -> Option<Self> {
        match (check, starts) {
            (WindowCheck::Nothing { before, starts_outside }, MatchStart::There | MatchStart::Somewhere) => {
                Some(Self { before: *before, starts_outside: *starts_outside })
            }
            _ => None,
        }
    }

    #[cfg(target_arch = "x86_64")]
    fn of_all<'c>(mut checks: impl Iterator<Item = &'c (WindowCheck, MatchStart)>) -> Option<Self> {
        let first = Self::of(checks.next()?)?;
        checks.all(|check| Self::of(check) == Some(first)).then_some(first)
    }
}

/// Looking over one text.
struct CandidateScan<'s> {
    candidate_finder: &'s CandidateFinder,
    text: &'s [u8],
    places: &'s mut Vec<usize>,
    /// And none of them twice.
    in_order: bool,
}

impl CandidateScan<'_> {
    /// Looks closer at a place near an edge of the text, counted from the byte before it. `false`: a CR stands alone there.
    fn edge(&mut self, at: usize) -> bool {
        // Outside of the text is where other lines end.
        let byte = |at: usize| at.checked_sub(1).and_then(|at| self.text.get(at)).copied().unwrap_or(b'\n');
        let windows = self.candidate_finder.windows_at([byte(at), byte(at + 1), byte(at + 2)]);
        self.see(at, windows & !LONE_CR);
        windows & LONE_CR == 0
    }

    /// Looks closer at places where windows may be, counted from `start`. `false`: a CR stands alone.
    #[cfg(target_arch = "x86_64")]
    fn take(&mut self, start: usize, places: &mut [u32]) -> bool {
        let Self { candidate_finder, text, .. } = self;
        let windows_at = |place: u32| {
            let at = start + place as usize;
            text.get(at..at + WINDOW).map_or(0, |bytes| candidate_finder.windows_at([bytes[0], bytes[1], bytes[2]]))
        };
        // Whether a place is one is hard to predict, so each is put down in any case, and counts if it is.
        let (mut count, mut all) = (0, 0);
        if let Some(Offset { before, starts_outside }) = candidate_finder.offset {
            let known = self.places.len();
            for index in 0..places.len() {
                let place = places[index];
                let windows = windows_at(place);
                places[count] = place;
                count += usize::from(windows & !LONE_CR != 0 && start + place as usize + 1 >= before);
                all |= windows;
            }
            let by = start + usize::from(starts_outside);
            self.places.extend(places[..count].iter().map(|place| (by + *place as usize).saturating_sub(before)));
            // Only where places would lie before the text, or after what the edge has told, are they in another order.
            let seam = if start == 0 { &self.places[..] } else { &self.places[known.saturating_sub(1)..] };
            self.in_order &= seam.iter().take(before + 3).is_sorted_by(|one, next| one < next);
            return all & LONE_CR == 0;
        }
        for index in 0..places.len() {
            let place = places[index];
            let windows = windows_at(place);
            places[count] = place | u32::from(windows) << BITS_OF_PLACE;
            count += usize::from(windows & !LONE_CR != 0);
            all |= windows;
        }
        for found in &places[..count] {
            let place = found & ((1 << BITS_OF_PLACE) - 1);
            self.see(start + place as usize + 1, (found >> BITS_OF_PLACE) as u8 & !LONE_CR);
        }
        all & LONE_CR == 0
    }

    /// Asks what is to be asked at a place with these windows.
    #[inline]
    fn see(&mut self, at: usize, windows: u8) {
        let mut windows = windows;
        while windows != 0 {
            let bucket = windows.trailing_zeros() as usize;
            windows &= windows - 1;
            for (check, starts) in &self.candidate_finder.checks[bucket] {
                if let Some(place) = check.place(self.text, at) {
                    let place = place.min(self.text.len() - 1);
                    match starts {
                        MatchStart::Somewhere | MatchStart::There => self.put_down(place),
                        MatchStart::Characters(count) => {
                            if let Some(start) = back(self.text, place, *count) {
                                self.put_down(start);
                            }
                        }
                        MatchStart::Before { least, most, first } => {
                            let starts = place.saturating_sub(*most)..(place + 1).saturating_sub(*least);
                            for start in starts {
                                let row = self.text[start..].iter().zip(first);
                                if row.fold(true, |all, (byte, set)| all & set.has(*byte)) {
                                    self.put_down(start);
                                }
                            }
                        }
                    }
                }
            }
        }
    }

    fn put_down(&mut self, place: usize) {
        self.in_order &= self.places.last().is_none_or(|last| *last < place);
        self.places.push(place);
    }
}

/// This many characters before a place. In a stretch that is not UTF-8 that may be anywhere before it.
fn back(text: &[u8], at: usize, characters: usize) -> Option<usize> {
    let mut at = at;
    for _ in 0..characters {
        at = at.checked_sub(1)?;
        while splits_char(text, at) {
            at -= 1;
        }
    }
    Some(at)
}

/// Whether one of two things that are asked where a window is tells as much as the other.
fn are_alike(one: &(WindowCheck, MatchStart), other: &(WindowCheck, MatchStart)) -> bool {
    match (&one.0, &other.0) {
        (WindowCheck::Member(set), WindowCheck::Member(other)) => Arc::ptr_eq(set, other),
        _ => Offset::of(one).is_some_and(|offset| Offset::of(other) == Some(offset)),
    }
}

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;
    use crate::prefilter::requirements_of;
    use crate::rules::RuleSet;

    const RULES: &[&str] = &[
        "remove.class = ['control', 'invisible']",
        "remove.words = ['um', 'uh', 'er']",
        "remove.text = ['-copy', '(draft)', '[sic]']",
        "replace = { pattern = '(\\d{2})\\.(\\d{2})', with = '$2-$1' }",
        "replace = { pattern = ' {2,}', with = ' ' }",
        "drop_lines.pattern = '^MARROW .*\\d$'",
        "remove = { chars = '#*', at = 'edges' }",
        "remove = { stock = 'line-number', at = 'start' }",
        "trim.at = 'end'",
    ];

    fn bit() -> impl Strategy<Value = &'static str> {
        proptest::sample::select(
            &[
                " ", "  ", "\t", "\n", "\r\n", "#", "*", "um", " uh ", "er", "-copy", "(draft)", "05.11", "12", "lamp",
                "MARROW ", "\u{200B}", "\u{A0}", "é", "\x07",
            ][..],
        )
    }

    proptest! {
        #[test]
        fn vectors_spot_what_a_look_at_each_place_spots(bits in vec(bit(), 0..90), rule in 0..RULES.len()) {
            let set = RuleSet::read_one_rule("spotted", RULES[rule]).expect("a rule");
            let requirements = requirements_of(&set.rules[0].verb).expect("a rule with probes");
            let text = bits.concat() + "\n";
            let candidate_finder = CandidateFinder::new(&requirements, false, true);
            let mut places = Vec::new();
            prop_assert_eq!(candidate_finder.places(text.as_bytes(), &mut places), Sifting::Marked);
            let mut one_by_one = Vec::new();
            let mut spotted =
                CandidateScan { candidate_finder: &candidate_finder, text: text.as_bytes(), places: &mut one_by_one, in_order: true };
            prop_assert!((0..=text.len()).all(|at| spotted.edge(at)));
            one_by_one.sort_unstable();
            one_by_one.dedup();
            prop_assert_eq!(places, one_by_one);
        }
    }

    #[test]
    fn a_cr_alone_is_told_wherever_it_stands() {
        let set = RuleSet::read_one_rule("spotted", "trim.at = 'end'").expect("a rule");
        let candidate_finder =
            CandidateFinder::new(&requirements_of(&set.rules[0].verb).expect("a rule with probes"), true, true);
        for at in 0..200 {
            let text = format!("{}\r{}\n", "x".repeat(at), "x".repeat(200 - at));
            assert_eq!(candidate_finder.places(text.as_bytes(), &mut Vec::new()), Sifting::LoneCr, "at {at}");
        }
    }
}
