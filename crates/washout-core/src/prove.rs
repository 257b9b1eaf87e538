//! Proving the examples of a rule set.

use std::cell::LazyCell;

use crate::program::Program;
use crate::rules::{Example, RuleSet};
use crate::table::WashError;

/// What the rules made of an example.
///
/// ```
/// let set = washout_core::RuleSet::read("set", "[[rule]]\ntrim = {}\n[[example]]\ngiven = ' fog '\ngives = 'fog'\n")?;
/// assert!(set.prove(None).all(|proof| proof.holds()));
/// # Ok::<(), washout_core::RuleError>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Proof<'s> {
    /// The example.
    pub example: &'s Example,
    /// What the rules made of its `given`, if they could.
    pub got: Result<Vec<u8>, WashError>,
}

impl Proof<'_> {
    /// Whether that is what the example says.
    pub fn holds(&self) -> bool {
        self.got.as_ref() == Ok(&self.example.gives)
    }
}

impl RuleSet {
    /// Runs the rules on each example: all of them, or the one the example names, even if that one is off. They may hold as
    /// much of it as `memory_limit` says, in bytes, as in [`Program::with_memory_limit`].
    pub fn prove(&self, memory_limit: Option<u64>) -> impl Iterator<Item = Proof<'_>> {
        let compile = move |set: &Self| {
            let program = Program::compile([set]);
            match memory_limit {
                Some(bytes) => program.with_memory_limit(bytes),
                None => program,
            }
        };
        // A set may have no example, or none that needs all its rules.
        let all = LazyCell::new(move || compile(self));
        self.examples.iter().map(move |example| {
            let given = &example.given[..];
            let one = example.rule.and_then(|number| self.only(number)).map(|one| compile(&one));
            let program = one.as_ref().unwrap_or_else(|| &all);
            let got = program.apply_as(program.form_of_examples(), given);
            Proof { example, got }
        })
    }

    fn only(&self, number: usize) -> Option<Self> {
        let rule = self.rules.iter().find(|rule| rule.number == number)?;
        let rule = crate::rules::Rule { off: false, ..rule.clone() };
        Some(Self {
            name: self.name.clone(),
            protect: self.protect.clone(),
            rules: vec![rule],
            table: self.table.clone(),
            ..Self::default()
        })
    }
}
