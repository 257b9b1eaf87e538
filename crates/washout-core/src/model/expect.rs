//! How many changes a rule is to make.

use std::fmt;

/// A number of changes, with a least and a most.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Count {
    /// At least.
    pub least: u64,
    /// At most; `None`: any number.
    pub most: Option<u64>,
}

impl Count {
    /// Whether this number is meant.
    pub fn holds(self, found: u64) -> bool {
        found >= self.least && self.most.is_none_or(|most| found <= most)
    }
}

impl fmt::Display for Count {
    /// In words: `3 changes`, `1 change or more`, `2 to 5 changes`.
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        let changes = |count: u64| if count == 1 { "1 change".to_owned() } else { format!("{count} changes") };
        match (self.least, self.most) {
            (0, Some(0)) => formatter.write_str("no change"),
            (least, Some(most)) if least == most => formatter.write_str(&changes(least)),
            (0, Some(most)) => write!(formatter, "at most {}", changes(most)),
            (least, Some(most)) => write!(formatter, "{least} to {}", changes(most)),
            (least, None) => write!(formatter, "{} or more", changes(least)),
        }
    }
}
