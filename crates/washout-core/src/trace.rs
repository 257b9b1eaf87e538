//! A text through the rules, step by step.

use crate::engine::RunError;
use crate::observe::{Detail, Hunk, Lineage};
use crate::program::Program;
use crate::rules::RuleId;
use crate::text::{BOM, LineEnd, TextSize};

/// What one rule made of the text.
///
/// ```
/// use washout_core::{Program, RuleSet};
///
/// let program = Program::compile([&RuleSet::read_one_rule("rule", "remove.chars = '#'")?]);
/// let steps = program.trace(b"# fog").map_err(|(_, error)| error)?;
/// assert_eq!((steps[0].changes, &steps[0].text[..]), (1, &b" fog"[..]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
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
    /// Sends a whole text through the rules one by one: each step is given with all its changes.
    ///
    /// # Errors
    /// A rule that cannot go on, with the steps before it.
    pub fn trace(&self, text: &[u8]) -> Result<Vec<Step>, (Vec<Step>, RunError)> {
        let mut steps: Vec<Step> = Vec::new();
        for step in self.steps(text) {
            match step {
                Ok(step) => steps.push(step),
                Err(error) => return Err((steps, error)),
            }
        }
        Ok(steps)
    }

    /// The same, one step at a time as they are asked for.
    pub fn steps(&self, text: &[u8]) -> impl Iterator<Item = Result<Step, RunError>> + use<'_> {
        let bare = text.strip_prefix(BOM);
        let mut now = Now { mark: bare.is_some(), text: bare.unwrap_or(text).to_vec() };
        // What rules put in as a line end is the first one of the text as it came in.
        let first_line_end = LineEnd::first_in(text);
        (0..self.names().len()).map(move |index| self.step(index, &mut now, first_line_end))
    }

    fn step(&self, index: usize, now: &mut Now, first_line_end: Option<LineEnd>) -> Result<Step, RunError> {
        let alone = self.part(index..index + 1);
        let before = TextSize::of(&now.whole());
        let mut washer = alone.washer(Lineage::new(1, Detail::All)).within(first_line_end);
        let mut text = Vec::new();
        washer.push(&now.text, &mut text)?;
        washer.finish(&mut text)?;
        let drops_mark = now.mark && self.drops_bom() == Some(RuleId(index));
        let changes = washer.changes().iter().sum::<u64>() + u64::from(drops_mark);
        *now = Now { mark: now.mark && !drops_mark, text };
        let hunks = washer.into_observer().finish();
        let text = now.whole();
        Ok(Step { rule: RuleId(index), changes, hunks, before, after: TextSize::of(&text), text })
    }
}

/// The text between two rules: a byte order mark is in no rule's text.
struct Now {
    mark: bool,
    text: Vec<u8>,
}

impl Now {
    fn whole(&self) -> Vec<u8> {
        [if self.mark { BOM } else { b"" }, &self.text].concat()
    }
}
