//! A text through the rules, step by step.

use crate::engine::RunError;
use crate::observe::{Detail, Hunk, Lineage};
use crate::program::{Program, RuleId};
use crate::text::{SizeCounter, TextSize};

/// What one rule made of the text.
#[derive(Clone, Debug)]
pub struct Step {
    /// The rule, of the whole program.
    pub rule: RuleId,
    /// How many changes it made.
    pub changes: u64,
    /// Where; the rule of each change is number 0 of [`Program::part`] for this rule alone.
    pub hunks: Vec<Hunk>,
    /// The size of the text it saw.
    pub before: TextSize,
    /// The size of the text it left.
    pub after: TextSize,
    /// The text it left.
    pub text: Vec<u8>,
}

impl Program {
    /// Sends a whole text through the rules one by one: each step is told with all its changes.
    ///
    /// # Errors
    /// A rule that cannot go on, with the steps before it.
    pub fn trace(&self, text: &[u8]) -> Result<Vec<Step>, (Vec<Step>, RunError)> {
        let mut steps: Vec<Step> = Vec::new();
        for index in 0..self.names().len() {
            let seen = steps.last().map_or(text, |step| &step.text);
            match self.step(index, seen) {
                Ok(step) => steps.push(step),
                Err(error) => return Err((steps, error)),
            }
        }
        Ok(steps)
    }

    fn step(&self, index: usize, seen: &[u8]) -> Result<Step, RunError> {
        let alone = self.part(index..index + 1);
        let mut washer = alone.washer(Lineage::new(1, Detail::All));
        let mut text = Vec::new();
        washer.push(seen, &mut text)?;
        washer.finish(&mut text)?;
        let changes = washer.changes().iter().sum();
        let hunks = washer.into_observer().finish();
        Ok(Step { rule: RuleId(index), changes, hunks, before: size(seen), after: size(&text), text })
    }
}

fn size(text: &[u8]) -> TextSize {
    let mut counter = SizeCounter::default();
    counter.add(text);
    counter.size()
}
