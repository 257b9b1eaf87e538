//! What happens to the blanks and commas around removed stretches.

use std::iter::Peekable;

use crate::guard::GuardState;
use crate::rules::Gap;
use crate::text::chars::char_before;
use crate::text::edit::Edits;
use crate::text::lines::{is_content_end, is_line_start, skip_blanks, skip_blanks_back};
use crate::text::matches::Span;

/// Marks that stand close to what is before them: no gap is left there.
fn is_close_mark(byte: u8) -> bool {
    matches!(byte, b'.' | b',' | b';' | b':' | b'!' | b'?' | b')' | b']' | b'}')
}

/// A stretch of removed matches that grows as more is found to go with it.
#[derive(Clone, Copy)]
struct Removal {
    start: usize,
    end: usize,
    matches: u64,
}

impl Removal {
    /// Grows over the removals with only blanks before them; says whether there were any.
    fn take_neighbours<'s>(
        &mut self,
        text: &[u8],
        guard: &GuardState,
        spans: &mut Peekable<impl Iterator<Item = &'s Span>>,
    ) -> bool {
        let before = self.matches;
        while let Some(next) = spans.next_if(|next| {
            let near = next.start == self.end || skip_blanks(text, self.end) >= next.start;
            near && guard.is_free(self.end, next.start)
        }) {
            self.end = next.end;
            self.matches += 1;
        }
        self.matches > before
    }
}

/// Pushes the removal of these matches, each stretch with the gap around it closed or mended.
pub(super) fn push_closed(text: &[u8], spans: &[Span], gap: Gap, guard: &GuardState, edits: &mut Edits) {
    let mut spans = spans.iter().filter(|span| span.start < span.end).peekable();
    while let Some(first) = spans.next() {
        let mut stretch = Removal { start: first.start, end: first.end, matches: 1 };
        stretch.take_neighbours(text, guard, &mut spans);
        if gap == Gap::Mend {
            // Without the comma, the next removal may be a neighbour: "um, um, the lamp".
            while let Some(after_comma) = idle_comma(text, stretch).filter(|end| guard.is_free(stretch.end, *end)) {
                stretch.end = after_comma;
                if !stretch.take_neighbours(text, guard, &mut spans) {
                    break;
                }
            }
        }
        let closed = close(text, stretch);
        // What is protected stays, however it looks.
        let (start, end) = (guard.clip_start(closed.start, stretch.start), guard.clip_end(stretch.end, closed.end));
        edits.push(text, start..end, b"", stretch.matches);
    }
}

/// The end of the comma or semicolon right after the stretch, if nothing is left for it to part.
fn idle_comma(text: &[u8], stretch: Removal) -> Option<usize> {
    let comma = skip_blanks(text, stretch.end);
    if !matches!(text.get(comma), Some(b',' | b';')) {
        return None;
    }
    let before = skip_blanks_back(text, stretch.start);
    let nothing_before = is_line_start(text, before)
        || matches!(text[before - 1], b'.' | b',' | b';' | b':' | b'!' | b'?' | b'(' | b'[');
    nothing_before.then_some(comma + 1)
}

/// The stretch with those of the blanks around it that go with it.
fn close(text: &[u8], stretch: Removal) -> Span {
    let left = skip_blanks_back(text, stretch.start);
    let right = skip_blanks(text, stretch.end);
    if is_content_end(text, right) {
        return Span::new(left, right);
    }
    if is_line_start(text, left) {
        return Span::new(stretch.start, right); // the indentation stays
    }
    if is_close_mark(text[right]) {
        return Span::new(left, right);
    }
    let opened = matches!(char_before(text, left), Some('(' | '[' | '{'));
    let gap_on_both_sides = left < stretch.start && stretch.end < right;
    if opened || gap_on_both_sides {
        return Span::new(stretch.start, right);
    }
    Span::new(stretch.start, stretch.end)
}
