//! Memory that rules work in, kept from one short text to the next.

use std::sync::Arc;

use crate::operations::RuleState;
use crate::pattern::SharedBudget;
use crate::text::pool::Pool;

/// What all rules of a program need to wash a short text.
#[derive(Debug, Default)]
pub(crate) struct ShortTextMemory {
    /// For each rule.
    pub(crate) states: Vec<RuleState>,
    /// How many changes each has made to the last text.
    pub(crate) changes: Vec<u64>,
    /// How many numbers each has given before the next text.
    pub(crate) numbered: Vec<u64>,
    /// What the rules so far have made of it,
    pub(crate) washed: Vec<u8>,
    /// and what the next one makes of that.
    pub(crate) next: Vec<u8>,
}

impl ShortTextMemory {
    pub(crate) fn new(rules: usize) -> Self {
        let states = std::iter::repeat_with(RuleState::default).take(rules).collect();
        Self { states, changes: vec![0; rules], numbered: vec![0; rules], ..Self::default() }
    }

    /// For texts in which each rule has one budget, in the order of the rules.
    pub(crate) fn sharing(budgets: &[Arc<SharedBudget>]) -> Self {
        Self { states: budgets.iter().map(RuleState::sharing).collect(), ..Self::new(budgets.len()) }
    }
}

/// What no text needs at the moment. It belongs to one program: a copy may get other rules, and begins with none.
#[derive(Debug)]
pub(super) struct SpareMemory(pub(super) Pool<ShortTextMemory>);

impl Default for SpareMemory {
    fn default() -> Self {
        Self(Pool::new())
    }
}

impl Clone for SpareMemory {
    fn clone(&self) -> Self {
        Self::default()
    }
}
