//! Finding the lines that any of several rules may act on, in one pass.
//!
//! Most lines of most texts are left as they are by all rules. Each rule says what a line must hold at least for it to
//! act: requirements. All requirements together make three tables: which of them can have this byte as the first, the second, the
//! third of three bytes in a row. A row of three bytes that all agree on a requirement is looked at closer; a line without
//! any is copied and shown to no rule.
//!
//! The tables are looked up for every byte without waiting for the look-up before, as an automaton must; and where the
//! machine has vectors, a coarser form of them for 32 or 64 bytes at once.

#[cfg(target_arch = "x86_64")]
mod buckets;
mod bytes;
mod candidates;
mod marked;
mod of_rule;
mod profile;
mod requirement;
mod scan;
#[cfg(target_arch = "x86_64")]
mod vector;

pub(crate) use marked::{Marked, MarkedLine};
pub(crate) use of_rule::requirements_of;
pub(crate) use requirement::Requirement;

use bytes::ByteSet;
pub(crate) use candidates::CandidateFinder;
use profile::DEPTH;
use requirement::{MOST_BEFORE, WINDOW, WindowCheck};
pub(crate) use scan::BEHIND;
use scan::Scanner;

use std::ops::Range;

use crate::text::lines::skip_blanks_back;

/// As many rules as one prefilter can serve: more would make it look closer at too many places.
pub(crate) const MOST_RULES: usize = 128;

/// What a rule costs that looks for what it wants in all lines, in parts of a hundred of what it costs to keep account of
/// what happens to one line.
const CROWD_FOR_EACH_RULE: usize = 2;

/// The requirements of several rules.
#[derive(Clone, Debug)]
pub(crate) struct Prefilter {
    scanner: Scanner,
    /// The requirements for each bit of the scanner; several where there are more requirements than bits.
    buckets: Vec<Vec<Bucketed>>,
    /// For each rule the windows of requirements of those after it, and that of a lone CR.
    windows_behind: Vec<u64>,
}

/// A requirement at its place.
#[derive(Clone, Debug)]
struct Bucketed {
    rule: usize,
    check: WindowCheck,
}

/// What a prefilter says of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Sifting {
    /// The lines that are marked are all that rules may act on.
    Marked,
    /// A line ends at a CR alone. What is done to such a line can make one line end of two, so lines cannot be taken
    /// by themselves.
    LoneCr,
    /// This many lines are marked that it is less work for each rule to look for what it wants by itself.
    Crowded,
}

/// The bit for a CR that no LF follows.
const LONE_CR: u64 = 1 << SEATS;

/// The window of a CR that no LF follows.
fn lone_cr() -> [ByteSet; WINDOW] {
    [ByteSet::of(*b"\r"), ByteSet::ALL.except(ByteSet::of(*b"\n")), ByteSet::ALL]
}

/// Bits for requirements.
const SEATS: usize = 63;

impl Prefilter {
    /// For rules with these requirements, [`MOST_RULES`] at most.
    pub(crate) fn new(rules: &[&[Requirement]]) -> Self {
        let requirements = rules
            .iter()
            .enumerate()
            .flat_map(|(rule, requirements)| requirements.iter().map(move |requirement| (rule, requirement)));
        let mut buckets = vec![Vec::new(); SEATS];
        let mut windows = vec![(LONE_CR, lone_cr())];
        let mut windows_behind = vec![LONE_CR; rules.len()];
        for (index, (rule, requirement)) in requirements.enumerate() {
            let window = 1 << (index % SEATS);
            windows.push((window, requirement.window));
            buckets[index % SEATS].push((rule, requirement));
            windows_behind[..rule].iter_mut().for_each(|windows| *windows |= window);
        }
        // A window that is taken for no other requirement's needs no closer look if it says all there is.
        let seated = |alone: bool, (rule, requirement): (usize, &Requirement)| Bucketed {
            rule,
            check: requirement.clone().into_check(alone),
        };
        let buckets = buckets.into_iter().map(|bucket: Vec<_>| {
            let alone = bucket.len() == 1;
            bucket.into_iter().map(|one| seated(alone, one)).collect()
        });
        let buckets = buckets.collect();
        Self { scanner: Scanner::new(windows), buckets, windows_behind }
    }

    /// Marking the lines of `text` that rules may act on. `text` is made of whole lines and ends in LF, or is a line without
    /// any line end.
    /// `mostly_dirty`: how many bytes of a hundred have to be on marked lines.
    pub(crate) fn mark(&self, text: &[u8], mostly_dirty: Option<usize>, marked: &mut Marked) -> Sifting {
        marked.start_anew(self.windows_behind.len(), mostly_dirty);
        let mut marks = Marking { prefilter: self, text, marked };
        let all = marks.edge(0)
            && self
                .scanner
                .scan(text, &mut |windows, at| marks.found(windows, at + 1))
                .is_some_and(|from| (from..text.len()).all(|at| marks.edge(at + 1)));
        match all {
            true => Sifting::Marked,
            false if marked.is_mostly_dirty() => Sifting::Crowded,
            false => Sifting::LoneCr,
        }
    }

    /// From now on it works as on a machine without vectors.
    pub(crate) fn forgo_vectors(&mut self) {
        self.scanner.forgo_vectors();
    }

    /// From how much of a text on it is mostly dirty, for [`mark`](Self::mark); `None`: rules had better not look for what they want by
    /// themselves here.
    pub(crate) fn mostly_dirty(&self) -> Option<usize> {
        let share = self.windows_behind.len() * CROWD_FOR_EACH_RULE;
        (self.scanner.has_vectors() && share < 100).then_some(share)
    }

    /// Whether no rule may act on any line of a text without a CR, of which the last line need not end.
    pub(crate) fn leaves(&self, text: &[u8]) -> bool {
        let nothing = |at: usize| {
            let mut windows = self.windows_at(text, at);
            windows == 0 || {
                let mut any = false;
                windows &= !LONE_CR;
                self.each_seated(windows, |seated| any |= seated.check.place(text, at).is_some());
                !any
            }
        };
        let scanned = |from: usize| (from..text.len()).all(|at| nothing(at + 1));
        nothing(0) && self.scanner.scan(text, &mut |_, at| nothing(at + 1)).is_some_and(scanned)
    }

    /// Hands over the rules after `rule` that may act on a line since that one has changed it at `places`; some more
    /// than once.
    ///
    /// `framed` is the line, made of whole lines and ending in LF, with one LF before it and [`BEHIND`] behind; `places`
    /// are in bytes of the line.
    #[inline]
    pub(crate) fn rules_after(
        &self,
        rule: usize,
        framed: &[u8],
        places: &[Range<usize>],
        mut visit: impl FnMut(usize),
    ) {
        if rule + 1 == self.windows_behind.len() {
            return;
        }
        let line = &framed[1..framed.len() - BEHIND];
        let wanted = self.windows_behind[rule];
        let mut looked_at = 0;
        for place in places {
            // What is found now and was not before holds an inserted byte, or reaches over a removed one, past
            // any number of blanks.
            let mut from = skip_blanks_back(line, place.start).saturating_sub(DEPTH).max(looked_at);
            looked_at = (place.end + MOST_BEFORE + 2).min(line.len() + 1);
            while let Some((windows, at)) = self.scanner.next(framed, from..looked_at, wanted) {
                from = at + 1;
                if windows & LONE_CR != 0 {
                    return (rule + 1..self.windows_behind.len()).for_each(visit);
                }
                self.each_seated(windows, |seated| {
                    if seated.rule > rule && seated.check.place(line, at).is_some() {
                        visit(seated.rule);
                    }
                });
            }
        }
    }

    /// The windows at a place near an edge of the text, counted from the byte before it, which stands for the end of
    /// another line; so do the bytes after it.
    #[inline]
    fn windows_at(&self, text: &[u8], at: usize) -> u64 {
        let inside = at.checked_sub(1).and_then(|at| text[at..].first_chunk());
        let byte = |at: usize| at.checked_sub(1).and_then(|at| text.get(at)).copied().unwrap_or(b'\n');
        self.scanner.windows_at(inside.copied().unwrap_or_else(|| [byte(at), byte(at + 1), byte(at + 2)]))
    }

    /// Hands over the requirements with these windows.
    #[inline]
    fn each_seated(&self, windows: u64, mut visit: impl FnMut(&Bucketed)) {
        let mut windows = windows;
        while windows != 0 {
            let bucket = windows.trailing_zeros() as usize;
            windows &= windows - 1;
            self.buckets[bucket].iter().for_each(&mut visit);
        }
    }
}

/// Marking one text.
#[derive(Debug)]
struct Marking<'m> {
    prefilter: &'m Prefilter,
    text: &'m [u8],
    marked: &'m mut Marked,
}

impl Marking<'_> {
    /// Looks at one place near an edge of the text, counted from the byte before it. `false`: there is no need to go on.
    fn edge(&mut self, at: usize) -> bool {
        let windows = self.prefilter.windows_at(self.text, at);
        windows == 0 || self.found(windows, at)
    }

    /// Looks closer at a place with these windows. `false`: there is no need to go on.
    fn found(&mut self, windows: u64, at: usize) -> bool {
        if windows & LONE_CR != 0 {
            return false;
        }
        let prefilter = self.prefilter;
        prefilter.each_seated(windows, |Bucketed { rule, check }| {
            // What the line is marked for already needs no closer look.
            if !self.marked.last_waits(*rule, at + DEPTH)
                && let Some(place) = check.place(self.text, at)
            {
                self.marked.mark(self.text, place, *rule);
            }
        });
        !self.marked.is_mostly_dirty()
    }
}
