//! Which rules run together.

use std::ops::Range;
use std::sync::OnceLock;

use super::op::Op;
use crate::sieve::{MOST_RULES, Probe, Sieve, Spotter};

/// Rules in a row that are alike in what they must see.
#[derive(Clone, Debug)]
pub(crate) struct Segment {
    pub(crate) stages: Vec<Stage>,
    /// What these rules do to a line hangs on that line alone, so parts of a text can be worked on at the same time.
    pub(crate) by_line: bool,
}

/// Rules in a row that run together: one, or several behind a sieve.
#[derive(Clone, Debug)]
pub(crate) struct Stage {
    pub(crate) rules: Range<usize>,
    /// Finds the lines that any of the rules may act on.
    pub(crate) sieve: Option<Sieve>,
    /// For each of them, where they are behind a sieve: finds where that one rule may act.
    spotters: Vec<OnceLock<Spotter>>,
}

impl Stage {
    fn new(rules: Range<usize>, sieve: Option<Sieve>) -> Self {
        let spotters = if sieve.is_some() { vec![OnceLock::new(); rules.len()] } else { Vec::new() };
        Self { rules, sieve, spotters }
    }

    /// Finds where one rule behind the sieve may act, the first of which is 0; made for the first who asks.
    pub(crate) fn spotter(&self, rule: usize, op: &Op) -> &Spotter {
        self.spotters[rule].get_or_init(|| Spotter::new(op.probes().unwrap_or_default(), op.looks_near()))
    }
}

/// The fewest rules a sieve is worth: one rule looks for what it wants by itself.
const FEWEST_RULES: usize = 2;

/// How these rules run together.
pub(super) fn plan(ops: &[Op]) -> Vec<Segment> {
    let mut first = 0;
    let alike = ops.chunk_by(|one, next| one.is_by_line() == next.is_by_line());
    let segments = alike.map(|alike| {
        let mut stages = Vec::new();
        for row in alike.chunk_by(|one, next| one.probes().is_some() && next.probes().is_some()) {
            for part in row.chunks(MOST_RULES) {
                let rules = first..first + part.len();
                first = rules.end;
                stages.extend(stages_of(part, rules));
            }
        }
        Segment { stages, by_line: alike[0].is_by_line() }
    });
    segments.collect()
}

fn stages_of(ops: &[Op], rules: Range<usize>) -> Vec<Stage> {
    if ops.len() < FEWEST_RULES {
        return rules.map(|rule| Stage::new(rule..rule + 1, None)).collect();
    }
    let probes: Vec<&[Probe]> = ops.iter().map(|op| op.probes().unwrap_or_default()).collect();
    vec![Stage::new(rules, Some(Sieve::new(&probes)))]
}
