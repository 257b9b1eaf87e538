//! What is seen at the edges of lines, and in what lines come after each other.

use std::collections::BTreeMap;

use super::batch::{CandidateBatch, note};
use super::kinds::{KindFindings, LitterKind};
use super::numbers::Numbers;
use super::repeated::RepeatWatch;
use super::scan::byte_table;
use super::surveyor::{Detectors, SEARCHED};
use crate::text::chars::splits_char;
use crate::text::lines::{Line, skip_blanks, skip_blanks_back};

/// First lines that are kept.
const FIRST_LINES: usize = 2;

/// How much of a line that ends in a hyphen is kept, in bytes.
const MOST_BEFORE_HYPHEN: usize = 1000;

/// `page 1234 of 5678`, with room to spare.
const LONGEST_PAGE_NUMBER: usize = 40;

/// Follows the lines of one text.
#[derive(Debug)]
pub(super) struct EdgeWatch<'d> {
    detectors: &'d Detectors,
    pub(super) batches: BTreeMap<LitterKind, CandidateBatch>,
    pub(super) at_start: Numbers<'d>,
    pub(super) at_end: Numbers<'d>,
    pub(super) watch: RepeatWatch,
    /// The first lines with text: headings of texts.
    pub(super) first_lines: Vec<(Vec<u8>, u64)>,
    pub(super) trailing: KindFindings,
    pub(super) extra_empty: KindFindings,
    /// Lines that have text after two blanks or more.
    pub(super) indented: u64,
    pub(super) empty: u64,
    before_was_empty: bool,
    /// A line that ends in a hyphen, for the next one.
    hyphenated: Option<(Vec<u8>, u64)>,
}

impl<'d> EdgeWatch<'d> {
    pub(super) fn new(detectors: &'d Detectors) -> Self {
        let numbers = |kind| Numbers::new(detectors.program(kind));
        Self {
            detectors,
            batches: BTreeMap::new(),
            at_start: numbers(LitterKind::LineNumbersAtStart),
            at_end: numbers(LitterKind::LineNumbersAtEnd),
            watch: RepeatWatch::new(),
            first_lines: Vec::new(),
            trailing: KindFindings::default(),
            extra_empty: KindFindings::default(),
            indented: 0,
            empty: 0,
            before_was_empty: false,
            hyphenated: None,
        }
    }

    /// Looks at lines, of which the first has this number.
    pub(super) fn lines(&mut self, text: &[u8], lines: &[Line], first: u64) {
        for (line, number) in lines.iter().zip(first..) {
            // The edges of a long line are not seen together.
            if line.content_end - line.start <= SEARCHED {
                self.line(&text[line.start..line.content_end], number);
            }
        }
        for (kind, batch) in &mut self.batches {
            if batch.is_large() {
                batch.count(self.detectors.program(*kind));
            }
        }
    }

    #[inline]
    fn line(&mut self, content: &[u8], number: u64) {
        let text_start = skip_blanks(content, 0);
        let empty = text_start == content.len();
        let may_go_on = content[text_start..].first().is_some_and(|byte| !byte.is_ascii() || byte.is_ascii_lowercase());
        if let Some((mut before, at)) = self.hyphenated.take().filter(|_| may_go_on) {
            before.push(b'\n');
            before.extend_from_slice(&content[..content.len().min(text_start + 40)]);
            // An empty line keeps this pair from the next.
            before.extend_from_slice(b"\n\n");
            self.batches.entry(LitterKind::HyphenatedLineEnds).or_default().push(&before, at);
        }
        if empty {
            self.empty += 1;
            if self.before_was_empty {
                note(&mut self.extra_empty, content, 0..0, number);
            }
        }
        self.before_was_empty = empty;
        let end = skip_blanks_back(content, content.len());
        if end < content.len() {
            note(&mut self.trailing, content, end..content.len(), number);
        }
        if empty {
            self.at_start.skip(1);
            self.at_end.skip(1);
            return;
        }
        if end - text_start <= LONGEST_PAGE_NUMBER && may_be_page_number(&content[text_start..end]) {
            self.batches.entry(LitterKind::PageNumbers).or_default().push(content, number);
        }
        self.indented += u64::from(text_start >= 2 || content[0] == b'\t');
        if matches!(content[text_start], b'0'..=b'9' | b'[') {
            self.at_start.line(content, number);
        } else {
            self.at_start.skip(1);
        }
        if matches!(content[end - 1], b'0'..=b'9' | b']') {
            self.at_end.line(content, number);
        } else {
            self.at_end.skip(1);
        }
        if content[..end].ends_with(b"-")
            || content[..end].ends_with("‐".as_bytes())
            || content[..end].ends_with(b"\xC2\xAD")
        {
            let from = end.saturating_sub(MOST_BEFORE_HYPHEN);
            let from = (from..end).find(|at| !splits_char(content, *at)).unwrap_or(end);
            self.hyphenated = Some((content[from..].to_vec(), number));
        }
        if self.first_lines.len() < FIRST_LINES {
            self.first_lines.push((content.to_vec(), number));
        }
        self.watch.line(content, number);
    }
}

/// Whether this may be the number of a page: it has nothing else in it.
fn may_be_page_number(text: &[u8]) -> bool {
    text.iter().all(|byte| IN_PAGE_NUMBER[usize::from(*byte)])
}

/// Digits, Roman ones too, `page` and `of` in any case, and what stands around; of dashes the bytes they have in UTF-8.
static IN_PAGE_NUMBER: [bool; 256] = byte_table(b"0123456789ivxlpageofPAGEOF.-/[] \t\xE2\x80\x93\x94");
