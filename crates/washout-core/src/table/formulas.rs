//! Cells that a spreadsheet would take for a formula.

use crate::observe::CellPlace;

/// Places that are told.
const TOLD: usize = 5;

/// Cells that begin with `=`, `+`, `-` or `@` and are no plain number.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Formulas {
    /// How many there are.
    pub count: u64,
    /// The first of them, with what they hold.
    pub places: Vec<(CellPlace, Vec<u8>)>,
}

impl Formulas {
    pub(super) fn add(&mut self, place: CellPlace, value: &[u8]) {
        self.count += 1;
        if self.places.len() < TOLD {
            self.places.push((place, value[..value.len().min(80)].to_vec()));
        }
    }

    /// Adds those of a later part.
    pub fn merge(&mut self, later: Self) {
        self.count += later.count;
        let room = TOLD.saturating_sub(self.places.len());
        self.places.extend(later.places.into_iter().take(room));
    }
}

/// Whether a spreadsheet would work a cell out instead of showing it. A number with a sign is none.
pub(super) fn is_formula(value: &[u8]) -> bool {
    let [first, rest @ ..] = value else { return false };
    match first {
        b'=' | b'@' => true,
        b'+' | b'-' => rest.is_empty() || !rest.iter().all(|byte| byte.is_ascii_digit() || matches!(byte, b'.' | b',')),
        _ => false,
    }
}
