//! What is in a text: its characters, its lines, and the litter in it, each kind with the rule that takes it.
//!
//! A [`Surveyor`] follows one text that comes in pieces; the [`Survey`]s of many texts add up to one. Memory does not
//! grow with the text: of a line longer than [`LONGEST_LINE`] only the start is searched for litter, while its
//! characters are all counted.

mod batch;
mod draft;
mod edges;
mod inner;
mod kinds;
mod lines;
mod litter;
mod numbers;
mod quotes;
mod repeated;
mod scan;
mod surveyor;
mod tails;
mod tally;

pub use draft::draft;
pub use kinds::LitterKind;
pub use lines::LineCounts;
pub use litter::Litter;
pub use surveyor::{Detectors, LONGEST_LINE, Surveyor};
pub use tally::{CharCount, Surveyed, Unusual};

use std::collections::BTreeMap;
use std::ops::Range;

use kinds::KindFindings;
use quotes::Quotes;
use repeated::Repeated;
use tails::Tails;
use tally::CountedChars;

use crate::text::TextSize;

/// A place in one of the texts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Place {
    /// Which text, from 0, in the order the surveys were added up.
    pub text: usize,
    /// The line, from 1.
    pub line: u64,
    /// The character of the line, from 1.
    pub column: u64,
}

/// A place where something was found, and the line there.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Sighting {
    /// Where it is.
    pub place: Place,
    /// The line, or the part of a long one around what was found.
    pub excerpt: Vec<u8>,
    /// What was found, in bytes of the excerpt.
    pub mark: Range<usize>,
}

/// What is in a text, or in several.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct Survey {
    /// How many texts.
    pub texts: usize,
    /// How large they are.
    pub size: TextSize,
    /// Their lines.
    pub lines: LineCounts,
    characters: BTreeMap<Surveyed, CountedChars>,
    found: BTreeMap<LitterKind, KindFindings>,
    repeated: Repeated,
    /// Runs of blanks at the start of lines: what closes up blank runs must spare them.
    indented: u64,
    quotes: Quotes,
    tails: Tails,
}

impl Survey {
    /// Looks at what the name of the last text ends in, where texts are names: of files, or of folders.
    pub fn see_name(&mut self, name: &[u8], is_folder: bool) {
        self.tails.see(name, is_folder, self.texts.saturating_sub(1));
    }

    /// Adds the survey of texts that come after these.
    pub fn add(&mut self, other: Self) {
        let before = self.texts;
        let moved = |place: Place| Place { text: place.text + before, ..place };
        self.texts += other.texts;
        self.size += other.size;
        self.lines.add(&other.lines, moved);
        for (character, counted) in other.characters {
            let counted = CountedChars { first: moved(counted.first), ..counted };
            self.characters.entry(character).and_modify(|known| known.add(&counted)).or_insert(counted);
        }
        for (kind, found) in other.found {
            self.found.entry(kind).or_default().add(found, moved);
        }
        self.repeated.add(other.repeated, moved);
        self.indented += other.indented;
        self.quotes.add(other.quotes);
    }

    /// Every character, in the order of code points; bytes that are not UTF-8 come last.
    pub fn all_characters(&self) -> Vec<CharCount> {
        self.characters.iter().map(|(character, counted)| CharCount::new(*character, counted)).collect()
    }

    /// Whether there are bytes that are not valid UTF-8.
    pub fn has_broken_bytes(&self) -> bool {
        matches!(self.characters.last_key_value(), Some((Surveyed::Broken(_), _)))
    }

    /// The characters worth a look, the most telling first: what is broken, then what is not seen, then what looks
    /// like something else. Letters, digits and ASCII are not among them, but letters of a script that hardly occurs
    /// are: they are often mistaken for others.
    pub fn unusual_characters(&self) -> Vec<CharCount> {
        tally::unusual(self.all_characters(), self.size.chars)
    }

    /// The litter, in the order in which rules should take it.
    pub fn litter(&self) -> Vec<Litter> {
        litter::all(self)
    }
}
