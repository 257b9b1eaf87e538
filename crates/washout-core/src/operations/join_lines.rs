//! `join_lines`.
//!
//! A joint is a run of blanks and line ends that holds a line end. Where paragraphs are kept, only a joint with one
//! line end between two pieces of text is closed. Where all is joined, every joint is, and those at the start and the
//! end of the text leave nothing; the very last line end is not part of any joint.

use super::compiled_rule::{BlockContext, RuleState};
use super::operation::{LineUse, Operation};
use crate::class::{CharTable, NamedClass};
use crate::rules::{HyphenAtLineEnd, JoinLines, Paragraphs};
use crate::text::LineEnd;
use crate::text::chars::{char_at, char_before, is_blank_byte};
use crate::text::haystack::Haystack;
use crate::text::lines::{line_end_len, skip_blanks_back};

#[derive(Clone, Debug)]
pub(super) struct LineJoiner {
    with: Vec<u8>,
    paragraphs: Paragraphs,
    /// The letters before a hyphen and after the line end, where hyphens are rejoined.
    rejoin: Option<HyphenLetters>,
}

#[derive(Clone, Debug)]
struct HyphenLetters {
    before: CharTable,
    after: CharTable,
}

/// A run of blanks and line ends.
struct BlankRun {
    start: usize,
    end: usize,
    line_ends: usize,
    /// Where the run's last line end starts, if the run ends with it.
    final_line_end: Option<usize>,
}

impl LineJoiner {
    pub(super) fn new(join: &JoinLines) -> Self {
        let class = |name| NamedClass::find(name).expect("OK because these are named classes").set();
        let letters = || {
            let mut before = class("letter");
            before.add(&class("mark")); // a letter may be written with marks of its own
            HyphenLetters { before: CharTable::new(before), after: CharTable::new(class("lower")) }
        };
        Self {
            with: join.with.as_bytes().to_vec(),
            paragraphs: join.paragraphs,
            rejoin: (join.hyphens == HyphenAtLineEnd::Rejoin).then(letters),
        }
    }

    /// Judges every joint whose end is known. A joint that reaches the end of the block, and the letter and hyphen
    /// before it, come again with the text that follows.
    ///
    /// What is before `from` is judged already.
    fn judge_joints(&self, text: &[u8], from: usize, last: bool, state: &mut RuleState) -> usize {
        let mut from = from;
        while let Some(run) = next_run(text, from) {
            if !last && !self.sees_after(text, run.end) {
                return self.hold(from, run.start, state);
            }
            let at_start = run.start == 0 && !state.started;
            self.judge(text, &run, at_start, state);
            from = run.end;
        }
        let judged =
            if last { text.len() } else { self.hold(from, skip_blanks_back(text, text.len()).max(from), state) };
        state.started |= judged > 0;
        judged
    }

    /// Whether what follows a run is there, as far as judging the run asks for it: where hyphens are rejoined, the
    /// whole of the next character.
    fn sees_after(&self, text: &[u8], end: usize) -> bool {
        const LONGEST_CHAR: usize = 4;
        let is_whole = || char_at(text, end).is_some() || text.len() - end >= LONGEST_CHAR;
        end < text.len() && (self.rejoin.is_none() || is_whole())
    }

    /// Steps back from `at` over what the next joint may still ask about, a letter and a hyphen, but not into runs that
    /// have been judged, the last of which ends at `from`.
    fn hold(&self, from: usize, at: usize, state: &mut RuleState) -> usize {
        // Two characters, and the start of a third that the end of the block cuts.
        const MOST: usize = 4 + 4 + 3;
        let held = if self.rejoin.is_some() { at.saturating_sub(MOST) } else { at }.max(from);
        state.started |= held > 0;
        held
    }

    fn judge(&self, text: &[u8], run: &BlankRun, at_start: bool, state: &mut RuleState) {
        let at_end = run.end == text.len();
        match self.paragraphs {
            Paragraphs::Keep if run.line_ends == 1 && !at_start && !at_end => {
                self.close(text, run.start, run.end, state);
            }
            Paragraphs::Keep => {}
            Paragraphs::Join => {
                let end = if at_end { run.final_line_end.unwrap_or(run.end) } else { run.end };
                let is_joint = run.line_ends > usize::from(end < run.end);
                if is_joint && (at_start || at_end) {
                    state.push(text, run.start..end, b"", 1);
                } else if is_joint {
                    self.close(text, run.start, run.end, state);
                }
            }
        }
    }

    fn close(&self, text: &[u8], start: usize, end: usize, state: &mut RuleState) {
        // A joint joins two lines, and both have to be in scope.
        if !state.guard.in_scope(start, (end + 1).min(text.len())) {
            return;
        }
        match self.hyphen_before(text, start, end) {
            Some(hyphen) => state.push(text, hyphen..end, b"", 1),
            None => state.push(text, start..end, &self.with, 1),
        }
    }

    /// Where the hyphen of a word that goes on after the joint starts.
    fn hyphen_before(&self, text: &[u8], start: usize, end: usize) -> Option<usize> {
        let letters = self.rejoin.as_ref()?;
        let hyphen = char_before(text, start).filter(|hyphen| matches!(hyphen, '-' | '\u{2010}' | '\u{AD}'))?;
        let at = start - hyphen.len_utf8();
        let before = char_before(text, at)?;
        let (after, _) = char_at(text, end)?;
        (letters.before.contains(before) && letters.after.contains(after)).then_some(at)
    }
}

impl Operation for LineJoiner {
    fn line_use(&self) -> LineUse {
        LineUse::LineEnds
    }

    /// Line ends are judged by [`judge`](Self::judge) and [`judge_open_line`](Self::judge_open_line).
    fn run(&self, _: Haystack<'_>, _: BlockContext, _: &mut RuleState) {}

    fn judge(&self, text: &[u8], from: usize, limit: usize, context: BlockContext, state: &mut RuleState) -> usize {
        self.judge_joints(&text[..limit], from, context.last, state)
    }

    fn judge_open_line(&self, text: &[u8], from: usize, last: bool, state: &mut RuleState) -> Option<usize> {
        Some(self.judge_joints(text, from, last, state))
    }

    fn needs(&self, _: String) -> String {
        "neighbouring lines".to_owned()
    }
}

/// The next run of blanks and line ends that holds a line end.
fn next_run(text: &[u8], from: usize) -> Option<BlankRun> {
    let first_end = from + memchr::memchr2(b'\n', b'\r', &text[from..])?;
    let mut run = BlankRun {
        start: from + skip_blanks_back(&text[from..], first_end - from),
        end: first_end,
        line_ends: 0,
        final_line_end: None,
    };
    while let Some(byte) = text.get(run.end) {
        if is_blank_byte(*byte) {
            run.final_line_end = None;
            run.end += 1;
        } else if LineEnd::starting_at(text, run.end).is_some() {
            run.final_line_end = Some(run.end);
            run.line_ends += 1;
            run.end += line_end_len(text, run.end);
        } else {
            break;
        }
    }
    Some(run)
}
