//! What can go wrong while rules run.

use std::fmt;

use crate::rules::{RuleId, RuleName};

/// A rule that cannot go on.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct RunError {
    rule: RuleId,
    name: RuleName,
    why: Why,
}

/// Why a rule cannot go on.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Why {
    /// Its searches take more work than they may. Patterns that look around or refer back run on a backtracking engine,
    /// whose work can explode; and on one very long line, searches of any pattern that each look far ahead can.
    Work { line: u64 },
    /// A section that has to close does not.
    Unclosed { line: u64 },
    /// It makes a text longer than it may become, in bytes.
    Growth { most: u64 },
    /// More has to be held than may be, in bytes.
    Memory { held: u64, allowed: u64, needs: &'static str },
}

impl RunError {
    #[cold]
    pub(crate) fn too_much_work(rule: RuleId, name: RuleName, line: u64) -> Self {
        Self { rule, name, why: Why::Work { line } }
    }

    #[cold]
    pub(crate) fn unclosed(rule: RuleId, name: RuleName, line: u64) -> Self {
        Self { rule, name, why: Why::Unclosed { line } }
    }

    #[cold]
    pub(crate) fn too_long(rule: RuleId, name: RuleName, most: u64) -> Self {
        Self { rule, name, why: Why::Growth { most } }
    }

    #[cold]
    pub(crate) fn too_much_memory(rule: RuleId, name: RuleName, held: u64, allowed: u64, needs: &'static str) -> Self {
        Self { rule, name, why: Why::Memory { held, allowed, needs } }
    }

    /// The same error at another line, from 1.
    #[must_use]
    pub(crate) fn at_line(self, line: u64) -> Self {
        match self.why {
            Why::Work { .. } => Self { why: Why::Work { line }, ..self },
            Why::Unclosed { .. } | Why::Memory { .. } | Why::Growth { .. } => self,
        }
    }

    /// The rule: where memory is short, the one that holds most.
    pub fn rule(&self) -> RuleId {
        self.rule
    }

    /// The line at which it stopped, from 1, of the text this rule sees; `None` where the line is not what is wrong.
    pub fn line(&self) -> Option<u64> {
        match self.why {
            Why::Work { line } | Why::Unclosed { line } => Some(line),
            Why::Memory { .. } | Why::Growth { .. } => None,
        }
    }
}

impl fmt::Display for RunError {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        let RuleName { number, caption } = &self.name;
        match self.why {
            Why::Work { line } => write!(
                formatter,
                "rule {number} ({caption}) takes too much work at line {line}: its pattern tries too many ways there, or \
                 looks over the same text again and again; make it say more exactly what it looks for"
            ),
            Why::Unclosed { line } => write!(
                formatter,
                "rule {number} ({caption}) acts on sections, and the one that opens at line {line} does not close before \
                 another opens or the text ends; close it, or let `unclosed` be \"leave\" or \"take\""
            ),
            Why::Growth { most } => write!(
                formatter,
                "rule {number} ({caption}) makes this text longer than {}, which is too much for what came in; let it put less \
                 in place, or allow more with --max-memory",
                Bytes(most)
            ),
            Why::Memory { held, allowed, needs } => write!(
                formatter,
                "rules hold {} of this text in memory, and may hold {}: rule {number} ({caption}) holds most, since \
                 {needs}; allow more with --max-memory, or do without the rule",
                Bytes(held),
                Bytes(allowed)
            ),
        }
    }
}

/// A number of bytes in a unit that leaves a few digits of it.
struct Bytes(u64);

impl fmt::Display for Bytes {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.0 {
            bytes @ ..10_240 => write!(formatter, "{bytes} bytes"),
            bytes @ ..10_485_760 => write!(formatter, "{} KiB", bytes >> 10),
            bytes => write!(formatter, "{} MiB", bytes >> 20),
        }
    }
}

impl std::error::Error for RunError {}
