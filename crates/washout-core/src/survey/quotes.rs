//! Which kinds of quotation marks there are.

use std::collections::BTreeSet;

/// The looks of quotation marks that occur.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Quotes {
    double: BTreeSet<Look>,
    single: BTreeSet<Look>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Look {
    Straight,
    Curly,
    Angle,
    Other,
}

impl Quotes {
    /// Looks for the two straight ones, which are not counted as characters.
    pub(super) fn see_straight(&mut self, text: &[u8]) {
        for (looks, mark) in [(&mut self.double, b'"'), (&mut self.single, b'\'')] {
            if !looks.contains(&Look::Straight) && memchr::memchr(mark, text).is_some() {
                looks.insert(Look::Straight);
            }
        }
    }

    pub(super) fn see(&mut self, character: char) {
        match character {
            '“' | '”' | '„' | '‟' => self.double.insert(Look::Curly),
            '«' | '»' => self.double.insert(Look::Angle),
            '\u{2E42}' | '\u{301D}'..='\u{301F}' | '\u{FF02}' => self.double.insert(Look::Other),
            '‘' | '’' | '‚' | '‛' => self.single.insert(Look::Curly),
            '‹' | '›' => self.single.insert(Look::Angle),
            '\u{FF07}' => self.single.insert(Look::Other),
            _ => false,
        };
    }

    pub(super) fn double_are_mixed(&self) -> bool {
        self.double.len() > 1
    }

    pub(super) fn single_are_mixed(&self) -> bool {
        self.single.len() > 1
    }

    pub(super) fn add(&mut self, other: Self) {
        self.double.extend(other.double);
        self.single.extend(other.single);
    }
}
