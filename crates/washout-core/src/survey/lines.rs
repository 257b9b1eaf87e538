//! How the lines of a text end, and how long they are.

use super::Place;
use crate::text::LineEnd;

/// How lines end, and the longest one.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
#[non_exhaustive]
pub struct LineCounts {
    /// Lines that end in `\n`.
    pub lf: u64,
    /// Lines that end in `\r\n`.
    pub crlf: u64,
    /// Lines that end in a lone `\r`.
    pub cr: u64,
    /// Texts whose last line has no line end.
    pub texts_without_final: u64,
    /// Texts that have line ends `\n`, `\r\n` and lone `\r`.
    pub texts_with: [u64; 3],
    /// Texts all of whose line ends are `\n`, `\r\n` or lone `\r`.
    pub texts_only: [u64; 3],
    /// Texts that start with a byte order mark.
    pub texts_with_bom: u64,
    /// Lines with nothing on them but blanks.
    pub empty: u64,
    /// The longest line in characters, and where it is.
    pub longest: Option<(u64, Place)>,
}

impl LineCounts {
    pub(super) fn count(&mut self, end: Option<LineEnd>) {
        match end {
            Some(LineEnd::Lf) => self.lf += 1,
            Some(LineEnd::CrLf) => self.crlf += 1,
            Some(LineEnd::Cr) => self.cr += 1,
            None => self.texts_without_final += 1,
        }
    }

    /// How many kinds of line ends there are.
    pub(super) fn kinds(&self) -> usize {
        [self.lf, self.crlf, self.cr].iter().filter(|count| **count > 0).count()
    }

    pub(super) fn see_length(&mut self, chars: u64, line: u64) {
        if self.longest.is_none_or(|(longest, _)| chars > longest) {
            self.longest = Some((chars, Place { text: 0, line, column: 1 }));
        }
    }

    pub(super) fn add(&mut self, other: &Self, moved: impl Fn(Place) -> Place) {
        self.lf += other.lf;
        self.crlf += other.crlf;
        self.cr += other.cr;
        self.texts_without_final += other.texts_without_final;
        (0..3).for_each(|kind| self.texts_with[kind] += other.texts_with[kind]);
        (0..3).for_each(|kind| self.texts_only[kind] += other.texts_only[kind]);
        self.texts_with_bom += other.texts_with_bom;
        self.empty += other.empty;
        if let Some((length, place)) = other.longest
            && self.longest.is_none_or(|(longest, _)| length > longest)
        {
            self.longest = Some((length, moved(place)));
        }
    }
}
