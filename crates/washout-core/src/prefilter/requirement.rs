//! What a line must hold, at least, for a rule to act on it.

use std::sync::Arc;

use super::bytes::ByteSet;
use super::profile::{DEPTH, Profile};
use crate::class::CharTable;
use crate::text::chars::is_blank_byte;

/// Bytes that are looked at at once.
pub(super) const WINDOW: usize = 3;

/// Bytes of a row before its window, at most.
pub(super) const MOST_BEFORE: usize = DEPTH - WINDOW;

/// A short row of bytes that a line holds if a rule is to act on it. Lines that do not hold it are not shown to the
/// rule; one that holds it may still be left as it is.
#[derive(Clone, Debug)]
pub(crate) struct Requirement {
    /// What is looked for everywhere.
    pub(super) window: [ByteSet; WINDOW],
    /// What is asked where that is found.
    check: WindowCheck,
    starts: MatchStart,
}

/// Where what a rule looks for can start, given a place where one of its requirements is.
#[derive(Clone, Copy, Debug)]
pub(super) enum MatchStart {
    /// That is not known.
    Somewhere,
    /// At the place.
    There,
    /// This many characters before it.
    Characters(usize),
    /// This many bytes before it, with one of each of these from there on.
    Before { least: usize, most: usize, first: [ByteSet; WINDOW] },
}

/// What is asked where a window is.
#[derive(Clone, Debug)]
pub(super) enum WindowCheck {
    /// A row of bytes around the window.
    Row {
        /// Bytes of the row before the window.
        before: usize,
        /// The row starts with the last byte before the line or before the match.
        starts_outside: bool,
        row: Vec<RequirementStep>,
    },
    /// A member of the set.
    Member(Arc<CharTable>),
    /// The window is all there is to it, or what finds it looks for itself whether it is there.
    Nothing {
        /// As for a row.
        before: usize,
        starts_outside: bool,
    },
}

#[derive(Clone, Copy, Debug)]
pub(super) enum RequirementStep {
    One(ByteSet),
    /// The same after any number of blanks, which may be in the set themselves.
    BehindBlanks(ByteSet),
}

impl Requirement {
    /// The best one for a row of bytes that each match holds.
    pub(super) fn of_profile(profile: &Profile, starts_outside: bool) -> Self {
        let sets = profile.sets();
        let known = sets.iter().take_while(|set| **set != ByteSet::ALL).count();
        let window_at = |at: usize| [sets[at], sets[at + 1], sets[at + 2]];
        let rate = |at: &usize| chance(&window_at(*at));
        let before = (0..=MOST_BEFORE).min_by_key(rate).unwrap_or(0);
        let row = sets[..known.max(before)].iter().copied().map(RequirementStep::One).collect();
        Self {
            window: window_at(before),
            check: WindowCheck::Row { before, starts_outside, row },
            starts: MatchStart::Somewhere,
        }
    }

    /// One of `first` that only blanks part from the start of its line.
    pub(super) fn at_line_start(first: ByteSet) -> Self {
        let row = vec![RequirementStep::One(ByteSet::line_ends()), RequirementStep::BehindBlanks(first)];
        let window = [ByteSet::line_ends(), ByteSet::blanks().or(first), ByteSet::ALL];
        Self { window, check: WindowCheck::Row { before: 0, starts_outside: true, row }, starts: MatchStart::Somewhere }
    }

    /// One of `last` that only blanks part from the end of its line.
    pub(super) fn at_line_end(last: ByteSet) -> Self {
        let row = vec![RequirementStep::One(last), RequirementStep::BehindBlanks(ByteSet::line_ends())];
        let window = [last, ByteSet::blanks().or(ByteSet::line_ends()), ByteSet::ALL];
        Self {
            window,
            check: WindowCheck::Row { before: 0, starts_outside: false, row },
            starts: MatchStart::Somewhere,
        }
    }

    /// A line of nothing but blanks.
    pub(super) fn empty_line() -> Self {
        Self::at_line_start(ByteSet::line_ends())
    }

    /// A row of bytes as it is.
    pub(super) fn row(sets: &[ByteSet]) -> Self {
        let profile = sets.iter().fold(Profile::literal(b""), |row, set| row.then(&Profile::one(*set)));
        Self::of_profile(&profile, false)
    }

    /// A member of a set, of those whose first bytes are like this.
    pub(super) fn member(window: [ByteSet; WINDOW], set: Arc<CharTable>) -> Self {
        Self { window, check: WindowCheck::Member(set), starts: MatchStart::Somewhere }
    }

    /// The same, where whatever the rule looks for starts there.
    pub(super) fn with_starts(self, starts: MatchStart) -> Self {
        Self { starts, ..self }
    }

    /// Whether it tells where what the rule looks for can start.
    pub(crate) fn knows_starts(&self) -> bool {
        !matches!(self.starts, MatchStart::Somewhere)
    }

    /// Where that is.
    pub(super) fn starts(&self) -> MatchStart {
        self.starts
    }

    /// What is to be asked. `alone`: nothing else is taken for the window.
    pub(super) fn into_check(self, alone: bool) -> WindowCheck {
        match self.check {
            WindowCheck::Row { before: before @ 0, starts_outside, row }
                if alone
                    && row.len() <= WINDOW
                    && row
                        .iter()
                        .zip(&self.window)
                        .all(|(step, set)| matches!(step, RequirementStep::One(one) if one == set)) =>
            {
                WindowCheck::Nothing { before, starts_outside }
            }
            check => check,
        }
    }

    /// The same where each start is looked at in any case: what is no start may be told as well.
    pub(super) fn into_check_of_starts(self, alone: bool) -> WindowCheck {
        match (self.starts, &self.check) {
            (MatchStart::Somewhere, _) => self.into_check(alone),
            (_, WindowCheck::Row { before, starts_outside, .. }) => {
                WindowCheck::Nothing { before: *before, starts_outside: *starts_outside }
            }
            (_, WindowCheck::Member(_)) => WindowCheck::Nothing { before: 0, starts_outside: false },
            (_, WindowCheck::Nothing { .. }) => self.check,
        }
    }

    /// About how often in a million bytes the window is found in ordinary text.
    pub(super) fn per_million(&self) -> u64 {
        chance(&self.window) / 1_000_000 / 1_000_000
    }
}

impl WindowCheck {
    /// Whether it is here, given that its window is at `at`; and then a place on the line it is on. `at` counts from
    /// the byte before the text, which stands for the end of a line before.
    #[inline]
    pub(super) fn place(&self, text: &[u8], at: usize) -> Option<usize> {
        match self {
            Self::Nothing { before, starts_outside } => {
                Some((at.checked_sub(*before)? + usize::from(*starts_outside)).saturating_sub(1))
            }
            Self::Member(set) => {
                let at = at.checked_sub(1)?;
                (set.match_len(text, at) > 0).then_some(at)
            }
            Self::Row { before, starts_outside, row } => {
                let start = at.checked_sub(*before)?;
                holds(text, start, row).then(|| (start + usize::from(*starts_outside)).saturating_sub(1))
            }
        }
    }
}

/// Out of 10^18.
fn chance(window: &[ByteSet; WINDOW]) -> u64 {
    window.iter().map(|set| u64::from(set.per_million())).product()
}

#[inline(never)] // most checks need no such look
fn holds(text: &[u8], start: usize, row: &[RequirementStep]) -> bool {
    // Outside of the text is where other lines end.
    let byte = |at: usize| at.checked_sub(1).and_then(|at| text.get(at)).copied().unwrap_or(b'\n');
    let mut at = start;
    for step in row {
        let set = match step {
            RequirementStep::One(set) => set,
            RequirementStep::BehindBlanks(set) => {
                while is_blank_byte(byte(at)) && !set.has(byte(at)) {
                    at += 1;
                }
                set
            }
        };
        if !set.has(byte(at)) {
            return false;
        }
        at += 1;
    }
    true
}
