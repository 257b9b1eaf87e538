//! What is seen within lines.

use std::collections::BTreeMap;

use super::batch::{CandidateBatch, note};
use super::kinds::{KindFindings, LitterKind};
use super::scan;
use super::surveyor::{Detectors, SEARCHED};
use crate::text::chars::splits_char;
use crate::text::lines::{Line, skip_blanks};

/// Follows what is within the lines of one text.
#[derive(Debug)]
pub(super) struct InnerWatch<'d> {
    detectors: &'d Detectors,
    pub(super) batches: BTreeMap<LitterKind, CandidateBatch>,
    pub(super) blank_runs: KindFindings,
    /// Doubled words on lines of ASCII.
    pub(super) doubled: KindFindings,
}

impl<'d> InnerWatch<'d> {
    pub(super) fn new(detectors: &'d Detectors) -> Self {
        Self {
            detectors,
            batches: BTreeMap::new(),
            blank_runs: KindFindings::default(),
            doubled: KindFindings::default(),
        }
    }

    /// Looks at lines, of which the first has this number.
    pub(super) fn lines(&mut self, text: &[u8], lines: &[Line], first_number: u64) {
        let Some(first) = lines.first() else { return };
        let (base, batches) = (first.start, &mut self.batches);
        let (runs, doubled) = (&mut self.blank_runs, &mut self.doubled);
        let mut at_line = 0;
        // By kind: the line, from 1, that was told of last.
        let mut told = [0; LitterKind::ALL.len()];
        scan::candidates(&text[base..], |kind, at| {
            let at = base + at;
            // Places ascend except for those of one block.
            while at_line > 0 && lines.get(at_line).is_none_or(|line| line.start > at) {
                at_line -= 1;
            }
            while lines.get(at_line).is_some_and(|line| line.end <= at) {
                at_line += 1;
            }
            let Some(line) = lines.get(at_line) else { return };
            let content = start_of_line(&text[line.start..line.content_end]);
            if at >= line.start + content.len() {
                return;
            }
            if std::mem::replace(&mut told[kind as usize], at_line + 1) == at_line + 1 {
                return;
            }
            let number = first_number + at_line as u64;
            let mut push = |kind| batches.entry(kind).or_default().push(content, number);
            match kind {
                LitterKind::TimeCodesInline if memchr::memmem::find(content, b"-->").is_some() => {}
                LitterKind::TimeCodesInline if is_time_alone(content) => push(LitterKind::TimeCodesAlone),
                LitterKind::DoubledWords if content.is_ascii() => doubled_words(content, number, doubled),
                LitterKind::BlankRuns => inner_runs(content, number, runs),
                kind => push(kind),
            }
        });
        for (kind, batch) in &mut self.batches {
            if batch.is_large() {
                batch.count(self.detectors.program(*kind));
            }
        }
    }
}

/// So much of a line as is searched: however the text is cut, the same.
#[inline]
fn start_of_line(content: &[u8]) -> &[u8] {
    if content.len() <= SEARCHED {
        return content;
    }
    let end = (0..=SEARCHED).rev().find(|at| !splits_char(content, *at)).unwrap_or(SEARCHED);
    &content[..end]
}

/// Whether a line holds a timestamp and nothing else.
fn is_time_alone(content: &[u8]) -> bool {
    let start = skip_blanks(content, 0);
    let reaches_end = |end: usize| skip_blanks(content, end) == content.len();
    content.len() < 80 && crate::stock::Timestamp::match_at(content, start, reaches_end).is_some()
}

/// Notes the runs of blanks between two things on the line.
fn inner_runs(content: &[u8], number: u64, runs: &mut KindFindings) {
    let mut at = skip_blanks(content, 0);
    while let Some(found) = memchr::memchr2(b' ', b'\t', &content[at..]) {
        let (start, end) = (at + found, skip_blanks(content, at + found));
        if end < content.len() && end - start > 1 {
            note(runs, content, start..end, number);
        }
        at = end;
    }
}

/// Notes words of ASCII that stand twice: what the expression of their rule finds there, which looks back and takes its
/// time.
fn doubled_words(content: &[u8], number: u64, doubled: &mut KindFindings) {
    let letters = |at: usize| content[at..].iter().take_while(|byte| byte.is_ascii_alphabetic()).count();
    let in_word = |at: usize| content.get(at).is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_');
    let mut at = 0;
    while let Some(found) = content[at..].iter().position(u8::is_ascii_alphabetic) {
        let start = at + found;
        let len = letters(start);
        let end = start + len;
        let again = skip_blanks(content, end);
        let whole = start == 0 || !in_word(start - 1);
        let same = content.get(again..again + len).is_some_and(|word| word.eq_ignore_ascii_case(&content[start..end]));
        at = end;
        if whole && again > end && same && !in_word(again + len) {
            at = again + len;
            note(doubled, content, start..at, number);
        }
    }
}
