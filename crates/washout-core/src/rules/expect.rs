//! How many changes a rule is to make, or sections to act on.

use std::fmt;

/// A number, with a least and a most.
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

impl Count {
    /// In words, of things with this name: `3 changes`, `1 change or more`, `2 to 5 changes`.
    pub fn of(self, thing: &str) -> impl fmt::Display {
        let things = |count: u64| if count == 1 { format!("1 {thing}") } else { format!("{count} {thing}s") };
        match (self.least, self.most) {
            (0, Some(0)) => format!("no {thing}"),
            (least, Some(most)) if least == most => things(least),
            (0, Some(most)) => format!("at most {}", things(most)),
            (least, Some(most)) => format!("{least} to {}", things(most)),
            (least, None) => format!("{} or more", things(least)),
        }
    }
}
