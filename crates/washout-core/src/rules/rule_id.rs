//! What a rule of a program is called.

/// The number of a rule in a program, from 0, in the order rules run. Rules that are off have none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct RuleId(pub usize);

/// What messages and tables call a rule.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RuleName {
    /// `3`; `3.2` for the second rule of the set that rule 3 includes; `radio:3` where a program is made of several
    /// sets.
    pub number: String,
    /// The rule's label, or what it does in a few words.
    pub caption: String,
}
