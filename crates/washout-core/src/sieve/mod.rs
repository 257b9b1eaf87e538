//! Finding the lines that any of several rules may act on, in one pass.
//!
//! Most lines of most texts are left as they are by all rules. Each rule says what a line must hold at least for it to
//! act: probes. All probes together make three tables: which of them can have this byte as the first, the second, the
//! third of three bytes in a row. A row of three bytes that all agree on a probe is looked at closer; a line without
//! any is copied and shown to no rule.
//!
//! The tables are looked up for every byte without waiting for the look-up before, as an automaton must; and where the
//! machine has vectors of 32 bytes, a coarser form of them for as many bytes at once.

#[cfg(target_arch = "x86_64")]
mod buckets;
mod bytes;
mod of_rule;
mod probe;
mod profile;
mod scan;

pub(crate) use of_rule::probes_of;
pub(crate) use probe::Probe;

use bytes::ByteSet;
use scan::Scanner;

use memchr::{memchr, memrchr};

/// Rules by their place among those of a sieve: bit `n` stands for the rule `n`.
pub(crate) type RuleBits = u128;

/// As many rules as one sieve can serve.
pub(crate) const MOST_RULES: usize = RuleBits::BITS as usize;

/// The probes of several rules.
#[derive(Clone, Debug)]
pub(crate) struct Sieve {
    scanner: Scanner,
    /// The probes for each bit of the scanner; several where there are more probes than bits.
    seats: Vec<Vec<(usize, Probe)>>,
}

/// A line that rules may act on, in bytes of the text, its line end included.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct MarkedLine {
    pub(crate) start: usize,
    pub(crate) end: usize,
    pub(crate) rules: RuleBits,
}

/// What a sieve says of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Sifted {
    /// The lines that are marked are all that rules may act on.
    Marked,
    /// A line ends at a CR alone. What is done to such a line can make one line end of two, so lines cannot be taken
    /// by themselves.
    LoneCr,
}

/// The bit for a CR that no LF follows.
const LONE_CR: u64 = 1 << SEATS;

/// Bits for probes.
const SEATS: usize = 63;

impl Sieve {
    /// For rules with these probes, [`MOST_RULES`] at most.
    pub(crate) fn new(rules: impl IntoIterator<Item = Vec<Probe>>) -> Self {
        let rules = rules.into_iter().enumerate();
        let probes = rules.flat_map(|(rule, probes)| probes.into_iter().map(move |probe| (rule, probe)));
        let mut seats = vec![Vec::new(); SEATS];
        let lone_cr = [ByteSet::of(*b"\r"), ByteSet::ALL.except(ByteSet::of(*b"\n")), ByteSet::ALL];
        let mut windows = vec![(LONE_CR, lone_cr)];
        for (index, (rule, probe)) in probes.enumerate() {
            windows.push((1 << (index % SEATS), probe.window));
            seats[index % SEATS].push((rule, probe));
        }
        Self { scanner: Scanner::new(windows), seats }
    }

    /// Marks the lines of `text` that rules may act on. `text` is made of whole lines and ends in LF.
    pub(crate) fn mark(&self, text: &[u8], marked: &mut Vec<MarkedLine>) -> Sifted {
        debug_assert!(text.ends_with(b"\n"), "whole lines");
        marked.clear();
        let mut marks = Marks { sieve: self, text, marked };
        let all = marks.edge(0)
            && self
                .scanner
                .scan(text, &mut |windows, at| marks.found(windows, at + 1))
                .is_some_and(|from| (from..text.len()).all(|at| marks.edge(at + 1)));
        if all { Sifted::Marked } else { Sifted::LoneCr }
    }

    /// The rules that may act on any line of `text`, which is made of whole lines and ends in LF.
    pub(crate) fn rules_for(&self, text: &[u8], marked: &mut Vec<MarkedLine>) -> RuleBits {
        match self.mark(text, marked) {
            Sifted::Marked => marked.iter().fold(0, |rules, line| rules | line.rules),
            Sifted::LoneCr => RuleBits::MAX,
        }
    }
}

/// Marking one text. Places count from the byte before it, which stands for the end of another line.
struct Marks<'m> {
    sieve: &'m Sieve,
    text: &'m [u8],
    marked: &'m mut Vec<MarkedLine>,
}

impl Marks<'_> {
    /// Looks at one place near an edge of the text. `false`: a CR stands alone.
    fn edge(&mut self, at: usize) -> bool {
        let byte = |at: usize| at.checked_sub(1).and_then(|at| self.text.get(at)).copied().unwrap_or(b'\n');
        let windows = self.sieve.scanner.windows_at([byte(at), byte(at + 1), byte(at + 2)]);
        windows == 0 || self.found(windows, at)
    }

    /// Looks closer at a place with these windows.
    fn found(&mut self, windows: u64, at: usize) -> bool {
        if windows & LONE_CR != 0 {
            return false;
        }
        let mut windows = windows;
        while windows != 0 {
            let seat = windows.trailing_zeros() as usize;
            windows &= windows - 1;
            for (rule, probe) in &self.sieve.seats[seat] {
                if let Some(place) = probe.place(self.text, at) {
                    self.mark(place, 1 << rule);
                }
            }
        }
        true
    }

    /// Marks the line that `place` is on for these rules.
    fn mark(&mut self, place: usize, rules: RuleBits) {
        let place = place.min(self.text.len() - 1);
        if let Some(last) = self.marked.last_mut().filter(|last| last.start <= place && place < last.end) {
            last.rules |= rules;
            return;
        }
        // Nearly always the last: places hardly ever go back behind a line that is marked.
        let index = self.marked.iter().rposition(|line| line.start <= place).map_or(0, |before| before + 1);
        let after = index.checked_sub(1).map_or(0, |before| self.marked[before].end);
        if place < after {
            self.marked[index - 1].rules |= rules;
            return;
        }
        let start = memrchr(b'\n', &self.text[after..place]).map_or(after, |found| after + found + 1);
        let end = memchr(b'\n', &self.text[place..]).map_or(self.text.len(), |found| place + found + 1);
        self.marked.insert(index, MarkedLine { start, end, rules });
    }
}
