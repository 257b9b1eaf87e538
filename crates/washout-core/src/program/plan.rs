//! Which rules run together.

use std::ops::Range;
use std::sync::OnceLock;

use crate::operations::CompiledRule;
use crate::prefilter::{MOST_RULES, Probe, Sieve, Spotter};

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
    /// One rule by itself.
    fn alone(rule: usize) -> Self {
        Self { rules: rule..rule + 1, sieve: None, spotters: Vec::new() }
    }

    fn behind_sieve(ops: &[CompiledRule], rules: Range<usize>) -> Self {
        let probes: Vec<&[Probe]> = ops.iter().map(|op| op.probes().unwrap_or_default()).collect();
        let spotters = ops.iter().map(|_| OnceLock::new()).collect();
        Self { rules, sieve: Some(Sieve::new(&probes)), spotters }
    }

    /// Finds where this rule behind the sieve may act; made for the first who asks. The first rule is 0.
    pub(crate) fn spotter(&self, rule: usize, op: &CompiledRule) -> &Spotter {
        self.spotters[rule].get_or_init(|| Spotter::new(op.probes().unwrap_or_default(), op.looks_near()))
    }
}

/// The fewest rules a sieve is worth: one rule looks for what it wants by itself.
const FEWEST_RULES: usize = 2;

/// How these rules run together.
pub(super) fn plan(ops: &[CompiledRule]) -> Vec<Segment> {
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

fn stages_of(ops: &[CompiledRule], rules: Range<usize>) -> Vec<Stage> {
    if ops.len() < FEWEST_RULES {
        return rules.map(Stage::alone).collect();
    }
    vec![Stage::behind_sieve(ops, rules)]
}
