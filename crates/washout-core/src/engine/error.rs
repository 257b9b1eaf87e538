//! What can go wrong while rules run.

use std::fmt;

use crate::program::{RuleId, RuleName};

/// A rule that cannot go on, since a search takes more work than it may: patterns that look around or refer back run
/// on a backtracking engine, whose work can explode.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RunError {
    rule: RuleId,
    name: RuleName,
    line: u64,
}

impl RunError {
    #[cold]
    pub(super) fn new(rule: RuleId, name: RuleName, line: u64) -> Self {
        Self { rule, name, line }
    }

    /// The rule.
    pub fn rule(&self) -> RuleId {
        self.rule
    }

    /// The line at which it stopped, from 1, of the text this rule sees.
    pub fn line(&self) -> u64 {
        self.line
    }
}

impl fmt::Display for RunError {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { name: RuleName { number, caption }, line, .. } = self;
        write!(
            formatter,
            "rule {number} ({caption}) takes too much work at line {line}: its pattern looks around or refers back, and \
             tries too many ways there; make it say more exactly what it looks for"
        )
    }
}

impl std::error::Error for RunError {}
