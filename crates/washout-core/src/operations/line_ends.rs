//! `line_ends`

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::rules::{FinalLineEnd, LineEnds};
use crate::text::LineEnd;
use crate::text::haystack::Haystack;
use crate::text::lines::{Line, Lines};

/// Makes line ends alike, and closes the text as it should be.
#[derive(Clone, Copy, Debug)]
pub(super) struct LineEndSetter(pub(super) LineEnds);

impl LineEndSetter {
    /// The line ends the text closes with are one place, and one change.
    fn close(self, text: &[u8], body: usize, context: BlockContext, state: &mut RuleState) {
        let first = LineEnd::starting_at(text, body);
        let one = self.0.to.or(first).or(context.first_line_end).unwrap_or(LineEnd::Lf);
        let place = body..text.len();
        match self.0.at_end {
            // Line ends and nothing else are an empty text.
            Some(FinalLineEnd::One) if state.started => state.push(text, place, one.as_bytes(), 1),
            Some(_) if !place.is_empty() => state.push(text, place, b"", 1),
            _ => {}
        }
    }
}

impl Operation for LineEndSetter {
    fn line_use(&self) -> LineUse {
        LineUse::LineEnds
    }

    /// Line ends are judged by [`judge`](Self::judge).
    fn run(&self, _: Haystack<'_>, _: BlockContext, _: &mut RuleState) {}

    /// Judges whole lines. Where the end of the text matters, the line ends at the end of the block come again with
    /// what follows them. What is before `from` is judged already.
    fn judge(&self, text: &[u8], from: usize, limit: usize, context: BlockContext, state: &mut RuleState) -> usize {
        let lines = &text[..limit];
        let body = if self.0.at_end.is_some() { without_line_ends(lines) } else { limit };
        if let Some(to) = self.0.to {
            // The last line of a body that is cut off before its line end has none, and is given none.
            let ended = |line: &Line| line.end > line.content_end && line.content_end >= from;
            for line in Lines::of(&lines[..body]).filter(ended) {
                state.push(text, line.content_end..line.end, to.as_bytes(), 1);
            }
        }
        state.started |= body > 0;
        if context.last {
            self.close(lines, body, context, state);
            return limit;
        }
        body
    }

    fn needs(&self, lines: String) -> String {
        if self.0.at_end.is_some() { format!("{lines}, and the end of the text") } else { lines }
    }
}

/// The length of a text without the line ends it closes with.
fn without_line_ends(text: &[u8]) -> usize {
    let ends = text.iter().rev().take_while(|byte| matches!(byte, b'\n' | b'\r')).count();
    text.len() - ends
}
