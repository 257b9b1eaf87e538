//! `number`

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::matching::Finder;
use crate::rules::{Number, NumberPlace, Which};
use crate::text::haystack::Haystack;
use crate::text::lines::Lines;

/// Writes numbers that go up.
#[derive(Clone, Debug)]
pub(super) struct Numberer {
    number: Number,
    /// In place of these; else one for each line.
    instead: Option<Finder>,
}

impl Numberer {
    pub(super) fn new(number: &Number) -> Self {
        let find = |(search, which): &(_, Which)| Finder::new(search, *which, false);
        Self { number: number.clone(), instead: number.instead_of.as_ref().map(find) }
    }

    /// The next number; `numbered`: how many there were before.
    fn next(&self, numbered: &mut u64) -> String {
        let Number { start, step, width, .. } = self.number;
        let value = start.saturating_add(step.saturating_mul(*numbered));
        *numbered += 1;
        format!("{value:0width$}")
    }
}

impl Operation for Numberer {
    fn line_use(&self) -> LineUse {
        LineUse::WithOthers
    }

    fn run(&self, block: Haystack<'_>, _: BlockContext, state: &mut RuleState) {
        let text = block.text;
        let RuleState { finder, edits, guard, numbered, .. } = state;
        if let Some(search) = &self.instead {
            for span in search.find(text, guard, finder).spans() {
                edits.push(text, span.start..span.end, self.next(numbered).as_bytes(), 1);
            }
            return;
        }
        let joined_with = &self.number.joined_with;
        for line in Lines::of(text) {
            let at = match self.number.place {
                NumberPlace::Start => line.start,
                NumberPlace::End => line.content_end,
            };
            if !guard.allows(at, at) {
                continue;
            }
            let number = self.next(numbered);
            let put = match self.number.place {
                NumberPlace::Start => number + joined_with,
                NumberPlace::End => joined_with.clone() + &number,
            };
            edits.push(text, at..at, put.as_bytes(), 1);
        }
    }

    fn finder(&self) -> Option<&Finder> {
        self.instead.as_ref()
    }

    fn finder_mut(&mut self) -> Option<&mut Finder> {
        self.instead.as_mut()
    }

    fn is_numbering(&self) -> bool {
        true
    }
}
