//! Cells that a spreadsheet would take for a formula.

use crate::observe::CellPlace;

/// Places that are reported.
const TOLD: usize = 5;

/// Cells that begin with `=`, `+`, `-` or `@`, and are not plain number.
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
///
/// Spreadsheets leave out tabs and line ends before the sign, and some take full-width signs for others.
pub fn is_formula(value: &[u8]) -> bool {
    let start = value.iter().position(|byte| !matches!(byte, b'\t' | b'\r' | b'\n')).unwrap_or(value.len());
    let mut characters = characters_of(&value[start..]);
    match characters.next() {
        Some('=' | '@' | '\u{FF1D}' | '\u{FF20}') => true,
        Some('+' | '-' | '\u{FF0B}' | '\u{FF0D}') => {
            let mut rest = characters.peekable();
            rest.peek().is_none() || !rest.all(|one| one.is_ascii_digit() || matches!(one, '.' | ','))
        }
        _ => false,
    }
}

/// The characters of a text; U+FFFD for what is broken.
fn characters_of(text: &[u8]) -> impl Iterator<Item = char> {
    text.utf8_chunks().flat_map(|chunk| {
        let broken = (!chunk.invalid().is_empty()).then_some('\u{FFFD}');
        chunk.valid().chars().chain(broken)
    })
}
