//! Following one text.

use std::collections::BTreeMap;

use super::edges::EdgeWatch;
use super::inner::InnerWatch;
use super::kinds::{KindFindings, LitterKind};
use super::quotes::Quotes;
use super::tally::{CharTally, LineStretch};
use super::{LineCounts, Survey};
use crate::program::Program;
use crate::rules::RuleSet;
use crate::text::chars::splits_char;
use crate::text::lines::{Line, Lines, last_whole_line};
use crate::text::{BOM, LineEnd, SizeCounter};

/// Of a longer line, only so much is searched for litter, in bytes.
pub const LONGEST_LINE: usize = 1 << 20;

/// The same less the bytes a character may be cut into.
pub(super) const SEARCHED: usize = LONGEST_LINE - 8;

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

    /// The rules that take this kind.
    pub(super) fn program(&self, kind: LitterKind) -> &Program {
        &self.programs[&kind]
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
    edges: EdgeWatch<'d>,
    inner: InnerWatch<'d>,
    quotes: Quotes,
    /// The start of a line whose end has not come.
    open: Vec<u8>,
    /// Characters of the open line that were passed on already, because it is long.
    passed_chars: u64,
    /// The number of the next line, from 1.
    next_line: u64,
    started: bool,
}

impl<'d> Surveyor<'d> {
    /// For one text. `every_character`: printable ASCII is counted too, which takes longer.
    pub fn new(detectors: &'d Detectors, every_character: bool) -> Self {
        Self {
            detectors,
            tally: CharTally::new(every_character),
            size: SizeCounter::default(),
            lines: LineCounts::default(),
            edges: EdgeWatch::new(detectors),
            inner: InnerWatch::new(detectors),
            quotes: Quotes::default(),
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
        self.quotes.see_straight(part);
        self.tally.add(&LineStretch::new(part, &line, self.next_line, self.passed_chars));
        if first {
            self.edges.lines(part, &line, self.next_line);
            self.inner.lines(part, &line, self.next_line);
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
        // Of a long line, the start has been searched.
        let searched = usize::from(self.passed_chars > 0).min(lines.len());
        let first = self.next_line + searched as u64;
        let Self { tally, quotes, lines: counts, edges, inner, passed_chars, next_line, .. } = self;
        // What is within lines takes about as long as all the rest.
        rayon::join(
            || {
                quotes.see_straight(text);
                tally.add(&LineStretch::new(text, &lines, *next_line, *passed_chars));
                for (index, line) in lines.iter().enumerate() {
                    counts.count(LineEnd::starting_at(text, line.content_end));
                    let bytes = (line.content_end - line.start) as u64;
                    let before = if index == 0 { *passed_chars } else { 0 };
                    // Characters are counted only where the line may be the longest.
                    if counts.longest.is_none_or(|(longest, _)| bytes + before > longest) {
                        let chars = bytecount::num_chars(&text[line.start..line.content_end]) as u64 + before;
                        counts.see_length(chars, *next_line + index as u64);
                    }
                }
                edges.lines(text, &lines[searched..], first);
            },
            || inner.lines(text, &lines[searched..], first),
        );
        self.next_line += lines.len() as u64;
        self.passed_chars = 0;
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
        let Self { detectors, tally, size, mut lines, edges, inner, .. } = self;
        lines.empty = edges.empty;
        lines.texts_with = [lines.lf, lines.crlf, lines.cr].map(|count| u64::from(count > 0));
        if lines.kinds() == 1 {
            lines.texts_only = lines.texts_with;
        }
        let mut found: BTreeMap<LitterKind, KindFindings> = BTreeMap::new();
        for (kind, batch) in edges.batches.into_iter().chain(inner.batches) {
            found.insert(kind, batch.finish(detectors.program(kind)));
        }
        found.entry(LitterKind::DoubledWords).or_default().join(inner.doubled);
        found.insert(LitterKind::LineNumbersAtStart, edges.at_start.finish());
        found.insert(LitterKind::LineNumbersAtEnd, edges.at_end.finish());
        for (kind, mut counted) in [
            (LitterKind::TrailingBlanks, edges.trailing),
            (LitterKind::ExtraEmptyLines, edges.extra_empty),
            (LitterKind::BlankRuns, inner.blank_runs),
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
            repeated: edges.watch.finish(&edges.first_lines),
            indented: edges.indented,
            quotes,
            ..Survey::default()
        }
    }
}
