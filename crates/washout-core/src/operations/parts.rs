//! Judging a line in parts: a line may be longer than there is memory, and many rules need not see it whole.
//!
//! Text that ends within a line is searched as if it ended there, and what was found is taken up to a place that lies
//! so far before the end that nothing after the end can change it. The next part starts a little before that place,
//! where a search from there on finds what one from the start of the line would find.

use std::ops::Range;

use crate::text::chars::is_blank_byte;
use crate::text::matches::Span;

/// What a search looks at beyond the characters of its entries: the ends of words, and marks and blanks beside a gap.
const BESIDES: usize = 8;

/// Where a line can be split.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct LineCut {
    /// What is before has been judged.
    pub(super) to: usize,
    /// What is after has to come again.
    pub(super) keep_from: usize,
}

/// The last place where `text` can be split, which is the start of a line that goes on, judged up to `from`.
///
/// `found` and `changed` are the matches and the changes in all of it, in order; an entry has `longest` characters at
/// most, of which each blank stands for any number of blanks.
pub(super) fn cut(
    text: &[u8],
    from: usize,
    found: &[Span],
    changed: impl Iterator<Item = Range<usize>>,
    longest: usize,
) -> Option<LineCut> {
    let changed: Vec<Span> = changed.map(|place| Span::new(place.start, place.end)).collect();
    let certain = before_so_many(text, longest + BESIDES)?;
    let to = (from + 2..=certain).rev().find(|at| {
        let inside = Span::new(at - 1, at + 1);
        starts_char(text, *at)
            && !is_blank_byte(text[at - 1])
            && !is_blank_byte(text[*at])
            && !touches(found, inside)
            && !touches(&changed, inside)
    })?;
    // After a blank a word begins for certain.
    let keep_from = (1..to).rev().find(|at| {
        is_blank_byte(text[at - 1]) && !is_blank_byte(text[*at]) && !touches(found, Span::new(at - 1, at + 1))
    })?;
    Some(LineCut { to, keep_from })
}

/// The last place with that many characters after it that are not blanks.
fn before_so_many(text: &[u8], characters: usize) -> Option<usize> {
    let mut places = (0..text.len()).rev().filter(|at| starts_char(text, *at) && !is_blank_byte(text[*at]));
    places.nth(characters)
}

/// Whether what stands before `at` is over there, be it a character or broken.
fn starts_char(text: &[u8], at: usize) -> bool {
    text[at] & 0xC0 != 0x80
}

/// Whether any of these, which are in order, shares a byte with `place`.
fn touches(spans: &[Span], place: Span) -> bool {
    let behind = spans.partition_point(|span| span.end <= place.start);
    spans.get(behind).is_some_and(|span| span.start < place.end)
}
