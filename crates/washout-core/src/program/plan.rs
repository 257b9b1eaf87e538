//! Which rules run together.

use std::ops::Range;
use std::sync::OnceLock;

use crate::operations::CompiledRule;
use crate::prefilter::{CandidateFinder, MOST_RULES, Prefilter, Requirement};

/// Rules in a row that are alike in what they must see.
#[derive(Clone, Debug)]
pub(crate) struct Segment {
    pub(crate) stages: Vec<Stage>,
    /// What these rules do to a line depends on that line alone, so parts of a text can be worked on at the same time.
    pub(crate) by_line: bool,
}

/// Rules in a row that run together: one, or several behind a prefilter.
#[derive(Clone, Debug)]
pub(crate) struct Stage {
    pub(crate) rules: Range<usize>,
    /// Finds the lines that any of the rules may act on.
    pub(crate) prefilter: Option<Prefilter>,
    /// For each of them, where they are behind a prefilter: finds where that one rule may act.
    candidate_finders: Vec<OnceLock<CandidateFinder>>,
    may_use_vectors: bool,
}

impl Stage {
    /// One rule by itself.
    fn alone(rule: usize) -> Self {
        Self { rules: rule..rule + 1, prefilter: None, candidate_finders: Vec::new(), may_use_vectors: true }
    }

    fn with_prefilter(ops: &[CompiledRule], rules: Range<usize>) -> Self {
        let requirements: Vec<&[Requirement]> = ops.iter().map(|op| op.requirements().unwrap_or_default()).collect();
        let candidate_finders = ops.iter().map(|_| OnceLock::new()).collect();
        Self { rules, prefilter: Some(Prefilter::new(&requirements)), candidate_finders, may_use_vectors: true }
    }

    /// Finds where this rule behind the prefilter may act; made for the first who asks. The first rule is 0.
    pub(crate) fn candidate_finder(&self, rule: usize, op: &CompiledRule) -> &CandidateFinder {
        self.candidate_finders[rule].get_or_init(|| {
            CandidateFinder::new(op.requirements().unwrap_or_default(), op.looks_near(), self.may_use_vectors)
        })
    }

    /// From now on it works as on a machine without vectors.
    pub(super) fn forgo_vectors(&mut self) {
        self.may_use_vectors = false;
        self.prefilter.iter_mut().for_each(Prefilter::forgo_vectors);
    }
}

/// The fewest rules a prefilter is worth: one rule looks for what it wants by itself.
const FEWEST_RULES: usize = 2;

/// How these rules run together.
pub(super) fn plan(ops: &[CompiledRule]) -> Vec<Segment> {
    let mut first = 0;
    let alike = ops.chunk_by(|one, next| one.is_by_line() == next.is_by_line());
    let segments = alike.map(|alike| {
        let mut stages = Vec::new();
        for row in alike.chunk_by(|one, next| one.requirements().is_some() && next.requirements().is_some()) {
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
    vec![Stage::with_prefilter(ops, rules)]
}
