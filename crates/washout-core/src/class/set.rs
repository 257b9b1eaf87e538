//! A set of characters, as rules describe it.

use regex_syntax::hir::{ClassUnicode, ClassUnicodeRange};

/// A set of characters, line ends and broken bytes.
///
/// The three are kept apart since they follow different rules: a line end is one thing even where it is two bytes
/// (CRLF), only a set that names line ends takes them, and a broken byte is not a character at all.
///
/// ```
/// use washout_core::class::{CharSet, NamedClass};
///
/// let mut set = NamedClass::find("dash").map(NamedClass::set).unwrap_or_default();
/// set.subtract(&CharSet::of_chars(['-']));
/// assert!(set.contains('–') && !set.contains('-'));
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct CharSet {
    /// Never holds LF or CR: those are in `line_feed` and `carriage_return`.
    chars: ClassUnicodeEq,
    line_feed: bool,
    carriage_return: bool,
    broken: bool,
}

/// `ClassUnicode` keeps its ranges sorted and merged, so equal ranges mean equal sets.
#[derive(Clone, Debug, PartialEq, Eq)]
struct ClassUnicodeEq(ClassUnicode);

impl Default for ClassUnicodeEq {
    fn default() -> Self {
        Self(ClassUnicode::empty())
    }
}

impl CharSet {
    /// The set of these characters. `\n` and `\r` stand for the line ends LF and CR, and either of them for CRLF.
    pub fn of_chars(chars: impl IntoIterator<Item = char>) -> Self {
        let mut set = Self::default();
        for character in chars {
            match character {
                '\n' => set.line_feed = true,
                '\r' => set.carriage_return = true,
                _ => set.chars.0.push(ClassUnicodeRange::new(character, character)),
            }
        }
        set
    }

    /// The set of all characters from `first` to `last`, both included, without the line ends among them.
    pub(crate) fn of_range(first: char, last: char) -> Self {
        Self::of_class(ClassUnicode::new([ClassUnicodeRange::new(first, last)]))
    }

    /// The set of the characters of `class`, without the line ends among them.
    pub(crate) fn of_class(mut class: ClassUnicode) -> Self {
        class.difference(&ClassUnicode::new(['\n', '\r'].map(|end| ClassUnicodeRange::new(end, end))));
        Self { chars: ClassUnicodeEq(class), ..Self::default() }
    }

    /// Line ends of every kind, and nothing else.
    pub(crate) fn line_ends() -> Self {
        Self { line_feed: true, carriage_return: true, ..Self::default() }
    }

    /// Bytes that are not valid UTF-8, and nothing else.
    pub(crate) fn broken() -> Self {
        Self { broken: true, ..Self::default() }
    }

    /// Adds everything in `other`.
    pub fn add(&mut self, other: &Self) {
        self.chars.0.union(&other.chars.0);
        self.line_feed |= other.line_feed;
        self.carriage_return |= other.carriage_return;
        self.broken |= other.broken;
    }

    /// Takes away everything in `other`.
    pub fn subtract(&mut self, other: &Self) {
        self.chars.0.difference(&other.chars.0);
        self.line_feed &= !other.line_feed;
        self.carriage_return &= !other.carriage_return;
        self.broken &= !other.broken;
    }

    /// Adds every character that differs from a member by letter case only (simple case folding, `CaseFolding.txt`).
    pub(crate) fn fold_case(&mut self) {
        self.chars.0.case_fold_simple();
    }

    /// Whether nothing is in the set.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// Whether a character is in the set. For line ends, see [`CharSet::has_line_ends`].
    pub fn contains(&self, character: char) -> bool {
        let order = |range: &ClassUnicodeRange| {
            if range.end() < character {
                std::cmp::Ordering::Less
            } else if range.start() > character {
                std::cmp::Ordering::Greater
            } else {
                std::cmp::Ordering::Equal
            }
        };
        self.chars.0.ranges().binary_search_by(order).is_ok()
    }

    /// Whether the set takes any kind of line end.
    pub fn has_line_ends(&self) -> bool {
        self.line_feed || self.carriage_return
    }

    /// Whether the set takes this line end. CRLF is taken as one by a set that names either of its halves.
    pub fn contains_line_end(&self, end: &[u8]) -> bool {
        (self.line_feed && end.contains(&b'\n')) || (self.carriage_return && end.contains(&b'\r'))
    }

    /// Whether the set takes bytes that are not valid UTF-8.
    pub fn has_broken(&self) -> bool {
        self.broken
    }

    /// The characters as ranges, both ends included, in ascending order and without gaps between neighbours.
    pub fn ranges(&self) -> impl Iterator<Item = (char, char)> + '_ {
        self.chars.0.ranges().iter().map(|range| (range.start(), range.end()))
    }

    /// How many characters are in the set; line ends and broken bytes are not counted.
    pub fn len(&self) -> usize {
        self.chars.0.ranges().iter().map(ClassUnicodeRange::len).sum()
    }
}
