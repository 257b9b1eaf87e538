//! Finding the places where one rule may act.

use std::sync::Arc;

use memchr::memchr;

#[cfg(target_arch = "x86_64")]
use super::buckets::Buckets;
use super::bytes::ByteSet;
use super::probe::{Check, Probe, Starts, WINDOW};
#[cfg(target_arch = "x86_64")]
use super::scan::vector;
use super::{Sifted, lone_cr};

/// Looks for the probes of one rule.
#[derive(Clone, Debug)]
pub(crate) struct Spotter {
    #[cfg(target_arch = "x86_64")]
    buckets: Buckets,
    /// For each value of the first, second and third byte, the windows that allow it, a bit for each. They are small, since
    /// those of all rules are used in turn.
    tables: [[u8; 256]; WINDOW],
    /// What is asked where a window of this bit is; more than one thing where there are more probes than bits.
    checks: [Vec<(Check, Starts)>; SEATS],
    pair: Option<Pair>,
}

/// The only window, if that is a pair of bytes, each of them one of two. It is searched for as it is where no CR is to be
/// looked for besides.
#[derive(Clone, Copy, Debug)]
struct Pair {
    bytes: [[u8; 2]; 2],
    /// There is nothing more to ask; the bytes from its start to a place on the line.
    inside: Option<usize>,
}

/// Bits for probes.
const SEATS: usize = 7;

/// The bit for a CR that no LF follows.
const LONE_CR: u8 = 1 << SEATS;

impl Spotter {
    pub(crate) fn new(probes: &[Probe]) -> Self {
        let mut tables = [[0; 256]; WINDOW];
        let mut add = |bit: u8, window: &[ByteSet; WINDOW]| {
            for (table, set) in tables.iter_mut().zip(window) {
                set.members().for_each(|byte| table[usize::from(byte)] |= bit);
            }
        };
        let mut checks: [Vec<(Check, Starts)>; SEATS] = std::array::from_fn(|_| Vec::new());
        add(LONE_CR, &lone_cr());
        for (index, probe) in probes.iter().enumerate() {
            add(1 << (index % SEATS), &probe.window);
            let check = probe.clone().into_check(probes.len() <= SEATS);
            // Members of one set are looked up in any case: one look is enough.
            if !checks[index % SEATS].iter().any(|(other, _)| other.is_member_of_same_set(&check)) {
                checks[index % SEATS].push((check, probe.starts()));
            }
        }
        #[cfg(target_arch = "x86_64")]
        let windows: Vec<_> = probes.iter().map(|probe| probe.window).chain([lone_cr()]).collect();
        Self {
            #[cfg(target_arch = "x86_64")]
            buckets: Buckets::new(&windows),
            pair: Pair::of(probes, &checks[0]),
            tables,
            checks,
        }
    }

    /// Puts down in `places`, in order, places on all lines of `text` that the rule may act on. `text` is made of whole lines
    /// and ends in LF.
    pub(crate) fn places(&self, text: &[u8], places: &mut Vec<usize>) -> Sifted {
        places.clear();
        let mut spotted = Spotted { spotter: self, text, places, in_order: true };
        let pair = self.pair.filter(|_| memchr(b'\r', text).is_none());
        let all = spotted.edge(0)
            && self
                .each_place(text, pair, &mut spotted)
                .is_some_and(|from| (from..text.len()).all(|at| spotted.edge(at + 1)));
        if !spotted.in_order {
            places.sort_unstable();
            places.dedup();
        }
        if all { Sifted::Marked } else { Sifted::LoneCr }
    }

    /// Looks at all places but the last few, the first of which it gives; `None`: a CR stands alone.
    fn each_place(&self, text: &[u8], pair: Option<Pair>, spotted: &mut Spotted<'_>) -> Option<usize> {
        #[cfg(target_arch = "x86_64")]
        if let Some(vectors) = pulp::x86::V3::try_new() {
            let bytes = pair.map(|pair| pair.bytes);
            if let Some(inside) = pair.and_then(|pair| pair.inside) {
                return vector::each_place(vectors, &self.buckets, bytes, text, &mut |place| {
                    spotted.places.push(place + inside);
                    true
                });
            }
            return vector::each_place(vectors, &self.buckets, bytes, text, &mut |place| {
                spotted.see(place + 1, [text[place], text[place + 1], text[place + 2]])
            });
        }
        Some(0)
    }
}

impl Pair {
    fn of(probes: &[Probe], checks: &[(Check, Starts)]) -> Option<Self> {
        let ([probe], [(check, starts)]) = (probes, checks) else { return None };
        let two = |set: &ByteSet| {
            let mut members = set.members();
            let first = members.next()?;
            let second = members.next().unwrap_or(first);
            members.next().is_none().then_some([first, second])
        };
        let inside = match (check, starts) {
            (Check::Nothing(inside), Starts::There | Starts::Somewhere) if probe.window[2] == ByteSet::ALL => {
                Some(*inside)
            }
            _ => None,
        };
        Some(Self { bytes: [two(&probe.window[0])?, two(&probe.window[1])?], inside })
    }
}

/// Looking over one text.
struct Spotted<'s> {
    spotter: &'s Spotter,
    text: &'s [u8],
    places: &'s mut Vec<usize>,
    /// And none of them twice.
    in_order: bool,
}

impl Spotted<'_> {
    /// Looks closer at a place near an edge of the text, counted from the byte before it. `false`: a CR stands alone there.
    fn edge(&mut self, at: usize) -> bool {
        // Outside of the text is where other lines end.
        let byte = |at: usize| at.checked_sub(1).and_then(|at| self.text.get(at)).copied().unwrap_or(b'\n');
        self.see(at, [byte(at), byte(at + 1), byte(at + 2)])
    }

    /// The same where these bytes stand.
    #[inline]
    fn see(&mut self, at: usize, bytes: [u8; WINDOW]) -> bool {
        let [first, second, third] = &self.spotter.tables;
        let mut windows = first[usize::from(bytes[0])] & second[usize::from(bytes[1])] & third[usize::from(bytes[2])];
        if windows & LONE_CR != 0 {
            return false;
        }
        while windows != 0 {
            let seat = windows.trailing_zeros() as usize;
            windows &= windows - 1;
            for (check, starts) in &self.spotter.checks[seat] {
                if let Some(place) = check.place(self.text, at) {
                    let place = place.min(self.text.len() - 1);
                    match starts {
                        Starts::Somewhere | Starts::There => self.put_down(place),
                        Starts::Before { least, most, first } => {
                            let starts = place.saturating_sub(*most)..(place + 1).saturating_sub(*least);
                            starts.filter(|start| first.has(self.text[*start])).for_each(|start| self.put_down(start));
                        }
                    }
                }
            }
        }
        true
    }

    fn put_down(&mut self, place: usize) {
        self.in_order &= self.places.last().is_none_or(|last| *last < place);
        self.places.push(place);
    }
}

impl Check {
    fn is_member_of_same_set(&self, other: &Self) -> bool {
        matches!((self, other), (Self::Member(set), Self::Member(other)) if Arc::ptr_eq(set, other))
    }
}

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;
    use crate::model::RuleSet;
    use crate::sieve::probes_of;

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
            let probes = probes_of(&set.rules[0].verb).expect("a rule with probes");
            let text = bits.concat() + "\n";
            let spotter = Spotter::new(&probes);
            let mut places = Vec::new();
            prop_assert_eq!(spotter.places(text.as_bytes(), &mut places), Sifted::Marked);
            let mut one_by_one = Vec::new();
            let mut spotted =
                Spotted { spotter: &spotter, text: text.as_bytes(), places: &mut one_by_one, in_order: true };
            prop_assert!((0..=text.len()).all(|at| spotted.edge(at)));
            one_by_one.sort_unstable();
            one_by_one.dedup();
            prop_assert_eq!(places, one_by_one);
        }
    }

    #[test]
    fn a_cr_alone_is_told_wherever_it_stands() {
        let set = RuleSet::read_one_rule("spotted", "trim.at = 'end'").expect("a rule");
        let spotter = Spotter::new(&probes_of(&set.rules[0].verb).expect("a rule with probes"));
        for at in 0..200 {
            let text = format!("{}\r{}\n", "x".repeat(at), "x".repeat(200 - at));
            assert_eq!(spotter.places(text.as_bytes(), &mut Vec::new()), Sifted::LoneCr, "at {at}");
        }
    }
}
