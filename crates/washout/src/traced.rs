//! A text followed through rules, step by step.

use washout_core::explain::Sample;
use washout_core::names::Refusal;
use washout_core::trace::Step;

/// The steps of a text through the rules.
#[derive(Default)]
pub(crate) struct Traced {
    pub(crate) steps: Vec<Step>,
    /// Why there are no more.
    pub(crate) failed: Option<String>,
    /// Why a name is left alone in the end.
    pub(crate) refused: Option<Refusal>,
    /// What is in fields that rules made from the cell.
    pub(crate) made: Vec<(String, Vec<u8>)>,
}

impl Traced {
    /// What there is in the end.
    pub(crate) fn result<'s>(&'s self, sample: &'s Sample) -> &'s [u8] {
        let last = self.steps.last().filter(|_| self.refused.is_none());
        last.map_or(&sample.text, |step| &step.text)
    }
}
