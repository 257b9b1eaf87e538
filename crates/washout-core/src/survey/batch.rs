//! Lines in which a kind of litter may be, counted by running its rule on them.

use std::ops::Range;

use super::kinds::{KindFindings, SIGHTINGS};
use super::{Place, Sighting};
use crate::observe::{Change, Observer};
use crate::program::Program;

/// How much of a line is shown before and after what was found, in bytes.
const AROUND: usize = 60;

/// Candidate lines that are still to be counted.
#[derive(Debug, Default)]
pub(super) struct CandidateBatch {
    text: Vec<u8>,
    /// Where each line starts in `text`, and its number.
    lines: Vec<(usize, u64)>,
    found: KindFindings,
}

impl CandidateBatch {
    /// Adds a line, or a few that belong together; `text` may have a line end or not.
    pub(super) fn push(&mut self, text: &[u8], number: u64) {
        if self.text.is_empty() {
            // U+FEFF at the start of a line within a text is no byte order mark.
            self.text.push(b'\n');
        }
        self.lines.push((self.text.len(), number));
        self.text.extend_from_slice(text);
        if !text.ends_with(b"\n") {
            self.text.push(b'\n');
        }
    }

    pub(super) fn is_large(&self) -> bool {
        self.text.len() >= 64 << 10
    }

    /// Counts what the rule would change.
    pub(super) fn count(&mut self, program: &Program) {
        if self.lines.is_empty() {
            return;
        }
        let mut washer = program.washer(Sights { most: SIGHTINGS - self.found.sightings.len(), seen: Vec::new() });
        let mut result = Vec::new();
        // A rule that takes too much work on these lines is counted as far as it came.
        let _ = washer.push(&self.text, &mut result).and_then(|()| washer.finish(&mut result));
        self.found.count += washer.changes().iter().sum::<u64>();
        for (at, len) in washer.into_observer().seen {
            let index = self.lines.partition_point(|(start, _)| *start <= at).saturating_sub(1);
            let (start, number) = self.lines[index];
            let end = self.lines.get(index + 1).map_or(self.text.len(), |(next, _)| *next);
            self.found.sightings.push(sighting(&self.text[start..end], at - start, len, number));
        }
        self.text.clear();
        self.lines.clear();
    }

    pub(super) fn finish(mut self, program: &Program) -> KindFindings {
        self.count(program);
        self.found.texts = usize::from(self.found.count > 0);
        self.found
    }
}

/// Notes where the first changes are: start and length in bytes.
struct Sights {
    most: usize,
    seen: Vec<(usize, usize)>,
}

impl Observer for Sights {
    fn change(&mut self, change: &Change<'_>) {
        if self.seen.len() < self.most {
            self.seen.push((usize::try_from(change.at).unwrap_or(usize::MAX), change.before.len()));
        }
    }
}

/// Counts a place that was found on a line, and keeps it if it is one of the first.
pub(super) fn note(found: &mut KindFindings, content: &[u8], mark: Range<usize>, number: u64) {
    found.count += 1;
    if found.sightings.len() < SIGHTINGS {
        found.sightings.push(sighting(content, mark.start, mark.len(), number));
    }
}

/// What is shown of a line in which `len` bytes from `at` are litter.
pub(super) fn sighting(line: &[u8], at: usize, len: usize, number: u64) -> Sighting {
    let ends_before = line[..at.min(line.len())].iter().position(|byte| is_line_end(*byte));
    let column = bytecount::num_chars(&line[..ends_before.unwrap_or(at.min(line.len()))]) as u64 + 1;
    sighting_at(line, at, len, Place { text: 0, line: number, column })
}

fn is_line_end(byte: u8) -> bool {
    matches!(byte, b'\n' | b'\r')
}

/// The same where its place is known. Of a long line only what is around is looked at.
pub(super) fn sighting_at(line: &[u8], at: usize, len: usize, place: Place) -> Sighting {
    let far = (at + len.min(AROUND) + 2 * AROUND).min(line.len());
    let line = &line[..far];
    let near = at.saturating_sub(2 * AROUND).min(far);
    let content = line[near..].iter().position(|byte| is_line_end(*byte)).map_or(far, |found| near + found);
    let (at, mark_end) = (at.min(content), (at + len).min(content).max(at.min(content)));
    let mark_end = mark_end.min(at + AROUND);
    let boundary = |place: usize| {
        (place..content).find(|place| !crate::text::chars::splits_char(line, *place)).unwrap_or(content.min(line.len()))
    };
    let start = if at <= AROUND { 0 } else { boundary(at - AROUND) };
    let end = if mark_end + AROUND >= content { content } else { boundary(mark_end + AROUND) };
    Sighting { place, excerpt: line[start..end].to_vec(), mark: at - start..mark_end.max(at) - start }
}
