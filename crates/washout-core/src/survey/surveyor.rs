//! Following one text.

use std::collections::BTreeMap;

use super::batch::CandidateBatch;
use super::kinds::{KindFindings, LitterKind};
use super::numbers::Numbers;
use super::quotes::Quotes;
use super::repeated::RepeatWatch;
use super::tally::{CharTally, LineStretch};
use super::{LineCounts, Survey, scan};
use crate::program::Program;
use crate::rules::RuleSet;
use crate::text::chars::splits_char;
use crate::text::lines::{Line, Lines, last_whole_line, skip_blanks, skip_blanks_back};
use crate::text::{BOM, LineEnd, SizeCounter};

/// Of a longer line, only so much is searched for litter, in bytes.
pub const LONGEST_LINE: usize = 1 << 20;

/// The same less the bytes a character may be cut into.
const SEARCHED: usize = LONGEST_LINE - 8;

/// The rules that take litter, compiled once for many texts.
#[derive(Debug)]
pub struct Detectors {
    programs: BTreeMap<LitterKind, Program>,
}

impl Default for Detectors {
    fn default() -> Self {
        Self::new()
    }
}

impl Detectors {
    /// Compiles the rules.
    pub fn new() -> Self {
        let compile = |kind: LitterKind| {
            let set = RuleSet::read_one_rule("survey", kind.rule()?).ok()?;
            Some((kind, Program::compile([&set])))
        };
        Self { programs: LitterKind::ALL.into_iter().filter_map(compile).collect() }
    }
}

/// Follows one text that comes in pieces.
///
/// ```
/// use washout_core::survey::{Detectors, Surveyor};
///
/// let detectors = Detectors::new();
/// let mut surveyor = Surveyor::new(&detectors, false);
/// surveyor.push("lamp\u{A0}lit  \nfog  \n".as_bytes());
/// let survey = surveyor.finish();
/// assert_eq!(survey.unusual_characters()[0].count, 1);
/// assert!(survey.litter().iter().any(|litter| litter.rule == "trim = { at = \"end\" }"));
/// ```
#[derive(Debug)]
pub struct Surveyor<'d> {
    detectors: &'d Detectors,
    tally: CharTally,
    size: SizeCounter,
    lines: LineCounts,
    batches: BTreeMap<LitterKind, CandidateBatch>,
    at_start: Numbers<'d>,
    at_end: Numbers<'d>,
    watch: RepeatWatch,
    /// The first lines with text: headings of texts.
    first_lines: Vec<(Vec<u8>, u64)>,
    trailing: KindFindings,
    extra_empty: KindFindings,
    blank_runs: KindFindings,
    /// Doubled words on lines of ASCII.
    doubled: KindFindings,
    indented: u64,
    quotes: Quotes,
    before_was_empty: bool,
    /// A line that ends in a hyphen, for the next one.
    hyphenated: Option<(Vec<u8>, u64)>,
    /// The start of a line whose end has not come.
    open: Vec<u8>,
    /// Characters of the open line that were passed on already, because it is long.
    passed_chars: u64,
    /// The number of the next line, from 1.
    next_line: u64,
    started: bool,
}

/// First lines that are kept.
const FIRST_LINES: usize = 2;

/// How much of a line that ends in a hyphen is kept, in bytes.
const MOST_BEFORE_HYPHEN: usize = 1000;

impl<'d> Surveyor<'d> {
    /// For one text. `every_character`: printable ASCII is counted too, which takes longer.
    pub fn new(detectors: &'d Detectors, every_character: bool) -> Self {
        let numbers = |kind| Numbers::new(&detectors.programs[&kind]);
        Self {
            detectors,
            tally: CharTally::new(every_character),
            size: SizeCounter::default(),
            lines: LineCounts::default(),
            batches: BTreeMap::new(),
            at_start: numbers(LitterKind::LineNumbersAtStart),
            at_end: numbers(LitterKind::LineNumbersAtEnd),
            watch: RepeatWatch::new(),
            first_lines: Vec::new(),
            trailing: KindFindings::default(),
            extra_empty: KindFindings::default(),
            blank_runs: KindFindings::default(),
            doubled: KindFindings::default(),
            indented: 0,
            quotes: Quotes::default(),
            before_was_empty: false,
            hyphenated: None,
            open: Vec::new(),
            passed_chars: 0,
            next_line: 1,
            started: false,
        }
    }

    /// Takes the next piece of the text, cut anywhere.
    pub fn push(&mut self, piece: &[u8]) {
        self.size.add(piece);
        let mut piece = piece;
        if !self.open.is_empty() || self.passed_chars > 0 {
            piece = self.close_open(piece);
        }
        let whole = last_whole_line(piece);
        if whole > 0 {
            self.region(&piece[..whole]);
        }
        self.open.extend_from_slice(&piece[whole..]);
        if self.open.len() > LONGEST_LINE {
            self.pass_on_open();
        }
    }

    /// Goes on with the line that is open, and gives what is after it: the start of a line, or nothing.
    fn close_open<'t>(&mut self, piece: &'t [u8]) -> &'t [u8] {
        // A CR at the end of what is open may be half a CRLF: what follows tells.
        let ended = self.open.ends_with(b"\r");
        let end = if ended { usize::from(piece.first() == Some(&b'\n')) } else { Line::at(piece, 0).end };
        let certain = ended && !piece.is_empty() || last_whole_line(&piece[..end]) > 0;
        if !certain && end < piece.len() {
            // The line ends in a CR with more after it.
            self.open.extend_from_slice(&piece[..end]);
            self.close();
            return &piece[end..];
        }
        self.open.extend_from_slice(&piece[..end]);
        if certain {
            self.close();
        }
        &piece[end..]
    }

    /// The open line is whole.
    fn close(&mut self) {
        let region = std::mem::take(&mut self.open);
        self.region(&region);
    }

    /// Counts the characters of a long line, and searches its start for litter.
    fn pass_on_open(&mut self) {
        let len = self.open.len();
        let cut = (len.saturating_sub(4)..len).rev().find(|at| !splits_char(&self.open, *at)).unwrap_or(len - 1);
        let rest = self.open.split_off(cut);
        let part = std::mem::replace(&mut self.open, rest);
        let first = self.passed_chars == 0;
        let part = self.without_mark(&part);
        let line = [Line { start: 0, content_end: part.len(), end: part.len() }];
        self.count(part, &line);
        if first {
            self.search(part, &line);
        }
        self.passed_chars += bytecount::num_chars(part) as u64;
    }

    /// A byte order mark is not part of the text.
    fn without_mark<'t>(&mut self, text: &'t [u8]) -> &'t [u8] {
        if std::mem::replace(&mut self.started, true) {
            return text;
        }
        let text_without = text.strip_prefix(BOM);
        self.lines.texts_with_bom += u64::from(text_without.is_some());
        text_without.unwrap_or(text)
    }

    /// Whole lines.
    fn region(&mut self, text: &[u8]) {
        let text = self.without_mark(text);
        let lines: Vec<Line> = Lines::of(text).collect();
        self.count(text, &lines);
        for (index, line) in lines.iter().enumerate() {
            self.lines.count(LineEnd::starting_at(text, line.content_end));
            let bytes = (line.content_end - line.start) as u64;
            let before = if index == 0 { self.passed_chars } else { 0 };
            // Characters are counted only where the line may be the longest.
            if self.lines.longest.is_none_or(|(longest, _)| bytes + before > longest) {
                let chars = bytecount::num_chars(&text[line.start..line.content_end]) as u64 + before;
                self.lines.see_length(chars, self.next_line + index as u64);
            }
        }
        // Of a long line, the start has been searched.
        let searched = usize::from(self.passed_chars > 0).min(lines.len());
        self.next_line += searched as u64;
        self.passed_chars = 0;
        self.search(text, &lines[searched..]);
        self.next_line += (lines.len() - searched) as u64;
    }

    fn count(&mut self, text: &[u8], lines: &[Line]) {
        let (first_line, chars_before) = (self.next_line, self.passed_chars);
        self.quotes.see_straight(text);
        self.tally.add(&LineStretch::new(text, lines, first_line, chars_before));
    }

    fn search(&mut self, text: &[u8], lines: &[Line]) {
        for (line, number) in lines.iter().zip(self.next_line..) {
            // The edges of a long line are not seen together.
            if line.content_end - line.start <= SEARCHED {
                self.line(&text[line.start..line.content_end], number);
            }
        }
        let Some(first) = lines.first() else { return };
        let (base, batches) = (first.start, &mut self.batches);
        let (runs, doubled) = (&mut self.blank_runs, &mut self.doubled);
        let mut at_line = 0;
        // By kind: the line, from 1, that was told of last.
        let mut told = [0; LitterKind::ALL.len()];
        let next_line = self.next_line;
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
            let number = next_line + at_line as u64;
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
                batch.count(&self.detectors.programs[kind]);
            }
        }
    }

    /// What is seen at the edges of a line.
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
            self.lines.empty += 1;
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

    /// Ends the text.
    pub fn finish(mut self) -> Survey {
        let rest = std::mem::take(&mut self.open);
        if !rest.is_empty() || self.passed_chars > 0 {
            self.region(&rest);
            if rest.is_empty() {
                self.lines.count(None);
            }
        }
        let Self { detectors, tally, size, mut lines, batches, at_start, at_end, watch, first_lines, .. } = self;
        lines.texts_with = [lines.lf, lines.crlf, lines.cr].map(|count| u64::from(count > 0));
        if lines.kinds() == 1 {
            lines.texts_only = lines.texts_with;
        }
        let mut found: BTreeMap<LitterKind, KindFindings> = BTreeMap::new();
        for (kind, batch) in batches {
            found.insert(kind, batch.finish(&detectors.programs[&kind]));
        }
        found.entry(LitterKind::DoubledWords).or_default().join(self.doubled);
        found.insert(LitterKind::LineNumbersAtStart, at_start.finish());
        found.insert(LitterKind::LineNumbersAtEnd, at_end.finish());
        for (kind, mut counted) in [
            (LitterKind::TrailingBlanks, self.trailing),
            (LitterKind::ExtraEmptyLines, self.extra_empty),
            (LitterKind::BlankRuns, self.blank_runs),
        ] {
            counted.texts = usize::from(counted.count > 0);
            found.insert(kind, counted);
        }
        let but_straight = |mut counted: KindFindings, class: &str, straight: char| {
            counted.count -= tally.class(class, "non-ascii").count;
            counted
                .sightings
                .retain(|sighting| !sighting.excerpt[sighting.mark.clone()].starts_with(&[straight as u8]));
            counted.texts = usize::from(counted.count > 0);
            counted
        };
        found.extend([
            (LitterKind::Control, tally.class("control", "")),
            (LitterKind::Invisible, tally.class("invisible", "")),
            (LitterKind::OddSpaces, tally.class("odd-space", "control")),
            (LitterKind::MixedDoubleQuotes, but_straight(tally.class("double-quote", ""), "double-quote", '"')),
            (LitterKind::MixedSingleQuotes, but_straight(tally.class("single-quote", ""), "single-quote", '\'')),
        ]);
        let mut quotes = self.quotes;
        tally.signs().for_each(|sign| quotes.see(sign));
        found.retain(|_, found| found.count > 0);
        Survey {
            texts: 1,
            size: size.size(),
            lines,
            characters: tally.finish(),
            found,
            repeated: watch.finish(&first_lines),
            indented: self.indented,
            quotes,
            ..Survey::default()
        }
    }
}

/// `page 1234 of 5678`, with room to spare.
const LONGEST_PAGE_NUMBER: usize = 40;

/// Whether this may be the number of a page: it has nothing else in it.
fn may_be_page_number(text: &[u8]) -> bool {
    text.iter().all(|byte| IN_PAGE_NUMBER[usize::from(*byte)])
}

/// Digits, Roman ones too, `page` and `of` in any case, and what stands around; of dashes the bytes they have in UTF-8.
static IN_PAGE_NUMBER: [bool; 256] = {
    let mut among = [false; 256];
    let bytes = b"0123456789ivxlpageofPAGEOF.-/[] \t\xE2\x80\x93\x94";
    let mut index = 0;
    while index < bytes.len() {
        among[bytes[index] as usize] = true;
        index += 1;
    }
    among
};

/// So much of a line as is searched: however the text is cut, the same.
#[inline]
fn start_of_line(content: &[u8]) -> &[u8] {
    if content.len() <= SEARCHED {
        return content;
    }
    let end = (0..=SEARCHED).rev().find(|at| !splits_char(content, *at)).unwrap_or(SEARCHED);
    &content[..end]
}

fn note(found: &mut KindFindings, content: &[u8], mark: std::ops::Range<usize>, number: u64) {
    found.count += 1;
    if found.sightings.len() < super::kinds::SIGHTINGS {
        found.sightings.push(super::batch::sighting(content, mark.start, mark.len(), number));
    }
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
