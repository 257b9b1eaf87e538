//! Which kinds of quotation marks there are.

use std::collections::BTreeSet;

/// The looks of quotation marks that occur.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Quotes {
    double: BTreeSet<QuoteLook>,
    single: BTreeSet<QuoteLook>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum QuoteLook {
    Straight,
    Curly,
    Angle,
    Other,
}

impl Quotes {
    /// Looks for the two straight ones, which are not counted as characters.
    pub(super) fn see_straight(&mut self, text: &[u8]) {
        for (looks, mark) in [(&mut self.double, b'"'), (&mut self.single, b'\'')] {
            if !looks.contains(&QuoteLook::Straight) && memchr::memchr(mark, text).is_some() {
                looks.insert(QuoteLook::Straight);
            }
        }
    }

    pub(super) fn see(&mut self, character: char) {
        match character {
            '“' | '”' | '„' | '‟' => self.double.insert(QuoteLook::Curly),
            '«' | '»' => self.double.insert(QuoteLook::Angle),
            '\u{2E42}' | '\u{301D}'..='\u{301F}' | '\u{FF02}' => self.double.insert(QuoteLook::Other),
            '‘' | '’' | '‚' | '‛' => self.single.insert(QuoteLook::Curly),
            '‹' | '›' => self.single.insert(QuoteLook::Angle),
            '\u{FF07}' => self.single.insert(QuoteLook::Other),
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
