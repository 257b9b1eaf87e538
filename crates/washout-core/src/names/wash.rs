//! Names through a program.

use std::sync::Arc;

use super::part::part;
use super::{NameRequest, Refusal};
use crate::engine::RunError;
use crate::observe::NoObserver;
use crate::pattern::SharedBudget;
use crate::program::{Program, ShortTextMemory};
use crate::rules::{NamePart, NameSettings};
use crate::text::{LineEnd, TextSize};
use crate::trace::Step;

/// Sends names through the rules of a program, one by one.
///
/// Each name is a text of its own, a line without a line end. Only rules that number go on from name to name, in the
/// order the names come.
///
/// ```
/// use washout_core::names::{NameRequest, NameSettings, NameWasher};
/// use washout_core::{Program, RuleSet};
///
/// let rules = RuleSet::read_one_rule("rule", "replace = { chars = '_', with = ' ' }")?;
/// let mut washer = NameWasher::new(&Program::compile([&rules]), &NameSettings::default());
/// assert_eq!(washer.wash(b"lamp_room.txt", false).request, NameRequest::Become(b"lamp room.txt".to_vec()));
/// # Ok::<(), washout_core::RuleError>(())
/// ```
#[derive(Clone, Debug)]
pub struct NameWasher {
    program: Arc<Program>,
    part: NamePart,
    numbers: Vec<u64>,
    /// Of each rule, for all names.
    budgets: Arc<[Arc<SharedBudget>]>,
}

/// What the rules made of a name.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct NameResult {
    /// The new name, or why there is none.
    pub request: NameRequest,
    /// How many changes each rule made, in the order of [`Program::names`]; nothing at all if none made any.
    pub changes: Vec<u64>,
}

impl NameWasher {
    /// Makes a program ready for names.
    pub fn new(program: &Program, settings: &NameSettings) -> Self {
        let numbers = vec![0; program.names().len()];
        let budgets = numbers.iter().map(|_| Arc::default()).collect();
        Self {
            program: Arc::new(program.clone().for_names(settings.blanks())),
            part: settings.part(),
            numbers,
            budgets,
        }
    }

    /// How many rules there are.
    pub fn rules(&self) -> usize {
        self.numbers.len()
    }

    /// Whether what happens to a name depends on the names before it.
    pub fn counts(&self) -> bool {
        self.program.is_numbering()
    }

    /// From here on rules that number begin again: a folder's names are numbered by themselves.
    pub fn begin_folder(&mut self) {
        self.numbers.fill(0);
    }

    /// Washes the part of a name that rules see, and puts the name together again.
    pub fn wash(&mut self, name: &[u8], is_folder: bool) -> NameResult {
        let seen = part(name, self.part, is_folder);
        if self.program.surely_leaves(&name[seen.clone()]) {
            return NameResult { request: NameRequest::Stay, changes: Vec::new() };
        }
        let (washed, changes) = self.run(&name[seen.clone()]);
        let changes = if changes.iter().any(|count| *count > 0) { changes } else { Vec::new() };
        let request = match washed {
            Err(error) => NameRequest::Refused(None, Box::new(Refusal::Rule(error.to_string()))),
            Ok(washed) if washed == name[seen.clone()] => NameRequest::Stay,
            Ok(washed) => self.request(name, seen, &washed),
        };
        NameResult { request, changes }
    }

    /// What the rules make of what they see of a name, and how many changes each of them has made.
    fn run(&mut self, text: &[u8]) -> (Result<Vec<u8>, RunError>, Vec<u64>) {
        if !self.program.takes_as_short(text) {
            let mut washer = self.program.washer(NoObserver).sharing(&self.budgets).counting_from(&self.numbers);
            let mut washed = Vec::with_capacity(text.len());
            let done = washer.push(text, &mut washed).and_then(|()| washer.finish(&mut washed));
            washer.counted(&mut self.numbers);
            return (done.map(|()| washed), washer.changes().to_vec());
        }
        let mut memory = self.program.memory_for_short_text(|| ShortTextMemory::sharing(&self.budgets));
        memory.numbered.clone_from(&self.numbers);
        let washed = self.program.wash_short(text, LineEnd::first_in(text), &mut memory);
        self.numbers.iter_mut().zip(&memory.states).for_each(|(number, state)| *number = state.numbered);
        (washed.map(|any| if any { memory.washed.clone() } else { text.to_vec() }), memory.changes.clone())
    }

    /// Sends one name through the rules one by one: each step is given with all its changes, and with the name it leaves.
    ///
    /// # Errors
    /// A rule that cannot go on, with the steps before it.
    pub fn trace(&self, name: &[u8], is_folder: bool) -> Result<Vec<Step>, (Vec<Step>, RunError)> {
        let seen = part(name, self.part, is_folder);
        let (before, behind) = (&name[..seen.start], &name[seen.end..]);
        let whole = |steps: Vec<Step>| -> Vec<Step> {
            let mut length = TextSize::of(name);
            let name_of = |step: Step| {
                let text = [before, &step.text, behind].concat();
                let from = std::mem::replace(&mut length, TextSize::of(&text));
                let mut hunks = step.hunks;
                for hunk in &mut hunks {
                    hunk.put_between(before, behind);
                }
                Step { text, before: from, after: length, hunks, ..step }
            };
            steps.into_iter().map(name_of).collect()
        };
        match self.program.trace(&name[seen.clone()]) {
            Ok(steps) => Ok(whole(steps)),
            Err((steps, error)) => Err((whole(steps), error)),
        }
    }

    fn request(&self, name: &[u8], seen: std::ops::Range<usize>, washed: &[u8]) -> NameRequest {
        let (before, behind) = (&name[..seen.start], &name[seen.end..]);
        if washed.is_empty() && self.part == NamePart::Extension {
            // Without an extension there is nothing for its dot to part.
            return NameRequest::Become(before[..before.len().saturating_sub(1)].to_vec());
        }
        let new = [before, washed, behind].concat();
        let hides = new.first() == Some(&b'.') && name.first() != Some(&b'.');
        match self.part {
            NamePart::Stem if washed.is_empty() => NameRequest::Refused(None, Box::new(Refusal::NothingLeft)),
            NamePart::Stem if hides => NameRequest::Refused(Some(new), Box::new(Refusal::Hidden)),
            NamePart::Extension if seen.is_empty() => NameRequest::Become([before, b".", washed].concat()),
            NamePart::Stem | NamePart::Extension | NamePart::Whole => NameRequest::Become(new),
        }
    }
}
