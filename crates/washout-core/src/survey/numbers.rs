//! Line numbers that rise from line to line.
//!
//! Whether a number rises shows only in its neighbours. The rule runs over a skeleton of the text: lines without a
//! number at that edge are empty, and of a long row of them only as many are left as the rule looks ahead.

use std::collections::VecDeque;

use super::batch::sighting;
use super::kinds::{KindFindings, SIGHTINGS};
use crate::engine::Washer;
use crate::observe::{Change, Observer};
use crate::program::Program;
use crate::stock::RISING_LINES_AHEAD as LINES_AHEAD;

#[derive(Debug)]
pub(super) struct Numbers<'p> {
    washer: Washer<'p, First>,
    /// Lines without a number since the last with one.
    empty: usize,
    /// The skeleton that is still to be given to the rule.
    piece: Vec<u8>,
    /// Bytes of the skeleton before `piece`.
    before: u64,
    /// The last lines with a number: where they start in the skeleton, their number and the line.
    recent: VecDeque<(u64, u64, Vec<u8>)>,
    found: KindFindings,
}

/// Bytes of the skeleton that are given to the rule at once.
const PIECE: usize = 32 << 10;
/// Lines with a number that are kept for being shown: those of a piece, and those the rule still looks at.
const RECENT: usize = PIECE / 2 + 2 * LINES_AHEAD;
/// Longer lines are not kept, in bytes.
const KEPT: usize = 1000;

/// Notes the first changes.
#[derive(Debug, Default)]
struct First {
    seen: Vec<(u64, usize)>,
}

impl Observer for First {
    fn change(&mut self, change: &Change<'_>) {
        if self.seen.len() < SIGHTINGS {
            self.seen.push((change.at, change.before.len()));
        }
    }
}

impl<'p> Numbers<'p> {
    pub(super) fn new(program: &'p Program) -> Self {
        let washer = program.washer(First::default());
        Self {
            washer,
            empty: 0,
            piece: vec![b'\n'],
            before: 0,
            recent: VecDeque::new(),
            found: KindFindings::default(),
        }
    }

    /// This many lines without a number at this edge.
    #[inline]
    pub(super) fn skip(&mut self, lines: usize) {
        self.empty += lines;
    }

    /// A line that has one, without its line end.
    pub(super) fn line(&mut self, content: &[u8], number: u64) {
        let empty = std::mem::take(&mut self.empty).min(LINES_AHEAD + 1);
        self.piece.extend(std::iter::repeat_n(b'\n', empty));
        if self.found.sightings.len() < SIGHTINGS {
            if self.recent.len() == RECENT {
                self.recent.pop_front();
            }
            let kept = if content.len() <= KEPT { content } else { &[] };
            self.recent.push_back((self.before + self.piece.len() as u64, number, kept.to_vec()));
        }
        self.piece.extend_from_slice(content);
        self.piece.push(b'\n');
        if self.piece.len() >= PIECE {
            self.give();
        }
    }

    fn give(&mut self) {
        self.before += self.piece.len() as u64;
        let mut result = Vec::new();
        // This rule cannot fail: its target is not a pattern.
        let _ = self.washer.push(&self.piece, &mut result);
        self.piece.clear();
        self.note();
    }

    /// Keeps the lines of changes that were told just now.
    fn note(&mut self) {
        let known = self.found.sightings.len();
        let told: Vec<(u64, usize)> = self.washer.observer().seen.iter().skip(known).copied().collect();
        for (at, len) in told {
            let index = self.recent.partition_point(|(start, ..)| *start <= at).saturating_sub(1);
            if let Some((start, number, line)) = self.recent.get(index) {
                let at = usize::try_from(at.saturating_sub(*start)).unwrap_or(0);
                self.found.sightings.push(sighting(line, at, len, *number));
            }
        }
    }

    pub(super) fn finish(mut self) -> KindFindings {
        self.give();
        let mut result = Vec::new();
        let _ = self.washer.finish(&mut result);
        self.note();
        self.found.count = self.washer.changes().iter().sum();
        self.found.texts = usize::from(self.found.count > 0);
        self.found
    }
}
