//! Which rules run together.

use std::ops::Range;
use std::sync::OnceLock;

use super::op::Op;
use super::together::together;
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
    /// For each of them, where they are behind a sieve: finds where that one rule may act, and where any of those may that
    /// go together with it.
    spotters: Vec<[OnceLock<Spotter>; 2]>,
    /// For each of them: how many from it on go together.
    together: Vec<usize>,
}

impl Stage {
    /// One rule by itself.
    fn alone(rule: usize) -> Self {
        Self { rules: rule..rule + 1, sieve: None, spotters: Vec::new(), together: vec![1] }
    }

    fn behind_sieve(ops: &[Op], rules: Range<usize>) -> Self {
        let probes: Vec<&[Probe]> = ops.iter().map(|op| op.probes().unwrap_or_default()).collect();
        let spotters = ops.iter().map(|_| Default::default()).collect();
        let together = (0..ops.len()).map(|rule| together(&ops[rule..])).collect();
        Self { rules, sieve: Some(Sieve::new(&probes)), spotters, together }
    }

    /// How many rules from this one on go together; the first rule is 0.
    pub(crate) fn together(&self, rule: usize) -> usize {
        self.together[rule]
    }

    /// Finds where one rule behind the sieve may act, or any of those that go together with it; made for the first who asks.
    pub(crate) fn spotter<'o>(&self, rule: usize, ops: impl ExactSizeIterator<Item = &'o Op>) -> &Spotter {
        self.spotters[rule][usize::from(ops.len() > 1)].get_or_init(|| {
            let (mut probes, mut looks_near) = (Vec::new(), true);
            for op in ops {
                probes.extend_from_slice(op.probes().unwrap_or_default());
                looks_near &= op.looks_near();
            }
            Spotter::new(&probes, looks_near)
        })
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
        return rules.map(Stage::alone).collect();
    }
    vec![Stage::behind_sieve(ops, rules)]
}
