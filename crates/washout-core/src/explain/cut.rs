//! Where what rules clean may be cut, so that several machines can work on its parts.

use crate::program::Program;
use crate::rules::{RuleId, RuleName};

/// The smallest parts that may be cleaned apart from each other with the same result.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Cut {
    /// Lines of a text: it may be cut after any `\n`.
    Lines,
    /// Whole texts.
    Texts {
        /// The first rule that sees more than one line.
        by: RuleName,
        /// What it has to see.
        needs: String,
    },
    /// Records of a table.
    Records,
    /// Whole tables.
    Tables {
        /// The first rule that compares records.
        by: RuleName,
    },
}

impl Program {
    /// Where what these rules clean may be cut. A table whose rules name no fields may always be cut between its records.
    ///
    /// ```
    /// use washout_core::explain::Cut;
    /// use washout_core::{Program, RuleSet};
    ///
    /// let cut = |rule| RuleSet::read_one_rule("rule", rule).map(|set| Program::compile([&set]).cut());
    /// assert_eq!(cut("trim = {}")?, Cut::Lines);
    /// assert_eq!(cut("drop_repeats = {}")?.name(), "texts");
    /// assert_eq!(cut("drop_records = { empty = 'all' }")?, Cut::Records);
    /// assert_eq!(cut("drop_records = { repeated = 'file' }")?.name(), "tables");
    /// # Ok::<(), washout_core::RuleError>(())
    /// ```
    pub fn cut(&self) -> Cut {
        if self.cell_rules().iter().any(|rule| rule.is_about_tables) {
            return match self.remembers_records() {
                Some(rule) => Cut::Tables { by: self.names()[rule.0].clone() },
                None => Cut::Records,
            };
        }
        match self.ops().iter().position(|op| !op.is_by_line()) {
            Some(rule) => Cut::Texts { by: self.names()[rule].clone(), needs: self.needs(RuleId(rule)) },
            None => Cut::Lines,
        }
    }
}

impl Cut {
    /// Its name in messages for programs: `lines`, `texts`, `records` or `tables`.
    pub fn name(&self) -> &'static str {
        match self {
            Self::Lines => "lines",
            Self::Texts { .. } => "texts",
            Self::Records => "records",
            Self::Tables { .. } => "tables",
        }
    }

    /// The rule for which it may not be cut into smaller parts.
    pub fn because_of(&self) -> Option<&RuleName> {
        match self {
            Self::Lines | Self::Records => None,
            Self::Texts { by, .. } | Self::Tables { by } => Some(by),
        }
    }
}

impl std::fmt::Display for Cut {
    /// A sentence.
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Lines => {
                formatter.write_str("Parts of a text, cut between lines, can be cleaned apart from each other.")
            }
            Self::Texts { by: RuleName { number, caption }, needs } => write!(
                formatter,
                "A text has to be cleaned as a whole, since rule {number} ({caption}) has to see {}; different texts can be \
                 cleaned apart from each other.",
                if needs.starts_with("line by line") { "what comes before a line" } else { needs }
            ),
            Self::Records => {
                formatter.write_str("Parts of a table, cut between records, can be cleaned apart from each other.")
            }
            Self::Tables { by: RuleName { number, caption } } => write!(
                formatter,
                "A table has to be cleaned as a whole, since rule {number} ({caption}) compares each record with those before it."
            ),
        }
    }
}
