//! `wrap_lines`.

use unicode_width::UnicodeWidthStr;

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::guard::GuardState;
use crate::rules::WrapLines;
use crate::text::LineEnd;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, Lines, skip_blanks};
use crate::text::matches::Span;

/// Columns from one tab stop to the next: what terminals have.
const TAB_COLUMNS: usize = 8;

/// Breaks long lines at blanks.
#[derive(Clone, Copy, Debug)]
pub(super) struct Wrapper(pub(super) WrapLines);

impl Operation for Wrapper {
    fn line_use(&self) -> LineUse {
        LineUse::CHANGES_NUMBER
    }

    fn run(&self, block: Haystack<'_>, context: BlockContext, state: &mut RuleState) {
        let text = block.text;
        for line in Lines::of(text) {
            let content = &text[line.start..line.content_end];
            // No character has more columns than bytes, except a tab.
            if content.len() <= self.0.width.get() && memchr::memchr(b'\t', content).is_none() {
                continue;
            }
            let own = LineEnd::starting_at(text, line.content_end);
            let line_end = own.or(context.first_line_end).unwrap_or(LineEnd::Lf);
            for gap in self.breaks(text, line, &state.guard) {
                state.edits.push(text, gap.start..gap.end, line_end.as_bytes(), 1);
            }
        }
    }
}

impl Wrapper {
    /// The runs of blanks of a line that give way to line ends.
    fn breaks(self, text: &[u8], line: Line, guard: &GuardState) -> Vec<Span> {
        let mut breaks = Vec::new();
        // The line ends as it came in: nothing is broken before its first word, nor after its last.
        let first_word = skip_blanks(text, line.start);
        let mut column = columns(&text[line.start..first_word], 0);
        let mut at = first_word;
        // The last gap that may be broken, and the column after the word before it, if nothing has been broken since.
        let mut gap: Option<Span> = None;
        while at < line.content_end {
            let word_end = at + word_len(&text[at..line.content_end]);
            column = columns(&text[at..word_end], column);
            if let Some(broken) = gap.take_if(|_| column > self.0.width.get()) {
                breaks.push(broken);
                column = columns(&text[broken.end..word_end], 0);
            }
            let next = skip_blanks(text, word_end);
            if next < line.content_end && guard.allows(word_end, next) {
                gap = Some(Span::new(word_end, next));
            }
            column = columns(&text[word_end..next.min(line.content_end)], column);
            at = next;
        }
        breaks
    }
}

/// The length of the word that a text starts with: up to the next space or tab.
fn word_len(text: &[u8]) -> usize {
    memchr::memchr2(b' ', b'\t', text).unwrap_or(text.len())
}

/// The column after a stretch of a line that starts in this column, from 0. Wide characters take two columns, combining
/// marks none, and each byte that is not UTF-8 one.
fn columns(stretch: &[u8], start: usize) -> usize {
    stretch.split_inclusive(|byte| *byte == b'\t').fold(start, |column, part| {
        let (text, has_tab) = part.strip_suffix(b"\t").map_or((part, false), |text| (text, true));
        let widths = text.utf8_chunks().map(|chunk| chunk.valid().width() + chunk.invalid().len());
        let column = column + widths.sum::<usize>();
        if has_tab { (column / TAB_COLUMNS + 1) * TAB_COLUMNS } else { column }
    })
}
