//! What happened to a text.

use std::borrow::Cow;

/// The result of washing a text that was in memory.
///
/// ```
/// use std::borrow::Cow;
///
/// use washout_core::{Program, RuleSet};
///
/// let program = Program::compile([&RuleSet::read_one_rule("rule", "remove.text = 'fog'")?]);
/// let outcome = program.apply(b"a clear night")?;
/// assert!(matches!(outcome.into_text(), Cow::Borrowed(_)), "an unchanged text is not copied");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Outcome<'t> {
    text: Cow<'t, [u8]>,
    changes: Vec<u64>,
}

impl<'t> Outcome<'t> {
    pub(crate) fn new(before: &'t [u8], washed: impl Into<Vec<u8>>, changes: &[u64]) -> Self {
        let is_same = changes.iter().all(|count| *count == 0);
        let text = if is_same { Cow::Borrowed(before) } else { Cow::Owned(washed.into()) };
        Self { text, changes: changes.to_vec() }
    }

    /// A text that no rule changes.
    pub(crate) fn same(text: &'t [u8], rules: usize) -> Self {
        Self { text: Cow::Borrowed(text), changes: vec![0; rules] }
    }

    /// The text after all rules.
    pub fn text(&self) -> &[u8] {
        &self.text
    }

    /// The text after all rules; borrowed if no rule changed anything.
    pub fn into_text(self) -> Cow<'t, [u8]> {
        self.text
    }

    /// How many changes each rule made, in the order of [`Program::names`](crate::Program::names).
    pub fn changes(&self) -> &[u64] {
        &self.changes
    }
}
