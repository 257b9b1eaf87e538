//! The lines that rules may act on, and for each rule which those are.

use memchr::{memchr, memrchr};

/// Lines in a group: a bit of a word for each.
const GROUP: usize = u64::BITS as usize;

/// A line that rules may act on, in bytes of the text, its line end included.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct MarkedLine {
    pub(crate) start: usize,
    pub(crate) end: usize,
}

/// The marked lines of one text, in order; kept for its memory from text to text.
#[derive(Debug, Default)]
pub(crate) struct Marked {
    lines: Vec<MarkedLine>,
    /// For each group of lines a word for each rule, with a bit for each line that waits for it.
    waiting: Vec<u64>,
    rules: usize,
    /// A text is mostly dirty if more bytes of a hundred than this are on marked lines.
    mostly_dirty: Option<usize>,
    is_mostly_dirty: bool,
}

impl Marked {
    /// Forgets all lines; from now on there are that many rules. `mostly_dirty`: how many bytes of a hundred have to be on marked lines.
    pub(super) fn start_anew(&mut self, rules: usize, mostly_dirty: Option<usize>) {
        self.lines.clear();
        self.waiting.clear();
        *self = Self { rules, mostly_dirty, is_mostly_dirty: false, ..std::mem::take(self) };
    }

    /// Whether the text is mostly dirty, which is looked at from time to time.
    #[inline]
    pub(super) fn is_mostly_dirty(&self) -> bool {
        self.is_mostly_dirty
    }

    pub(crate) fn lines(&self) -> &[MarkedLine] {
        &self.lines
    }

    /// The lines a rule may act on, by their number among those marked, from 0.
    pub(crate) fn waiting_for(&self, rule: usize) -> impl Iterator<Item = usize> + '_ {
        self.waiting
            .chunks_exact(self.rules)
            .enumerate()
            .flat_map(move |(group, words)| BitPlaces(words[rule]).map(move |bit| group * GROUP + bit))
    }

    /// Lets a line wait for a rule.
    #[inline]
    pub(crate) fn add_rule(&mut self, line: usize, rule: usize) {
        self.waiting[line / GROUP * self.rules + rule] |= 1 << (line % GROUP);
    }

    #[inline]
    fn waits(&self, line: usize, rule: usize) -> bool {
        self.waiting[line / GROUP * self.rules + rule] >> (line % GROUP) & 1 == 1
    }

    /// Whether the last line waits for the rule and goes on after `at`.
    #[inline]
    pub(super) fn last_waits(&self, rule: usize, at: usize) -> bool {
        self.lines.last().is_some_and(|last| at < last.end) && self.waits(self.lines.len() - 1, rule)
    }

    /// Marking the line that `place` is on for a rule.
    #[inline]
    pub(super) fn mark(&mut self, text: &[u8], place: usize, rule: usize) {
        let place = place.min(text.len() - 1);
        let line = match self.lines.last() {
            Some(last) if last.start <= place && place < last.end => self.lines.len() - 1,
            _ => self.line_with(text, place),
        };
        self.add_rule(line, rule);
    }

    fn line_with(&mut self, text: &[u8], place: usize) -> usize {
        // Nearly always after the last: places hardly ever go back.
        let index = self.lines.iter().rposition(|line| line.start <= place).map_or(0, |before| before + 1);
        let after = index.checked_sub(1).map_or(0, |before| self.lines[before].end);
        if place < after {
            return index - 1;
        }
        let line_end = |from: usize| memchr(b'\n', &text[from..]).map_or(text.len(), |found| from + found + 1);
        let (mut start, mut end) = (after, line_end(after));
        // In dirty text it is the line after the last that was marked.
        if end <= place {
            start = memrchr(b'\n', &text[end..place]).map_or(end, |found| end + found + 1);
            end = line_end(place);
        }
        if self.lines.len().is_multiple_of(GROUP) {
            self.waiting.resize(self.waiting.len() + self.rules, 0);
            let marked: usize = self.lines.iter().map(|line| line.end - line.start).sum();
            self.is_mostly_dirty = marked > 0 && self.mostly_dirty.is_some_and(|share| marked * 100 > start * share);
        }
        self.lines.push(MarkedLine { start, end });
        if index + 1 < self.lines.len() {
            self.move_last_to(index);
        }
        index
    }

    #[cold]
    fn move_last_to(&mut self, index: usize) {
        self.lines[index..].rotate_right(1);
        for line in (index + 1..self.lines.len()).rev() {
            for rule in 0..self.rules {
                let waits = self.waits(line - 1, rule);
                self.set(line, rule, waits);
            }
        }
        (0..self.rules).for_each(|rule| self.set(index, rule, false));
    }

    fn set(&mut self, line: usize, rule: usize, waits: bool) {
        let word = &mut self.waiting[line / GROUP * self.rules + rule];
        *word = *word & !(1 << (line % GROUP)) | u64::from(waits) << (line % GROUP);
    }
}

/// The places of the bits of a word, in order.
struct BitPlaces(u64);

impl Iterator for BitPlaces {
    type Item = usize;

    #[inline]
    fn next(&mut self) -> Option<usize> {
        let bit = self.0.trailing_zeros() as usize;
        (self.0 != 0).then(|| {
            self.0 &= self.0 - 1;
            bit
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_stay_in_order_and_keep_their_rules_whatever_is_found_first() {
        let text = "lamp\n".repeat(200);
        let order = (0..200).map(|index| index * 77 % 200);
        let mut marked = Marked::default();
        marked.start_anew(3, None);
        for line in order.filter(|line| line % 5 != 0) {
            marked.mark(text.as_bytes(), line * 5 + 2, line % 3);
        }
        let want: Vec<usize> = (0..200).filter(|line| line % 5 != 0).collect();
        assert_eq!(marked.lines().iter().map(|line| line.start / 5).collect::<Vec<_>>(), want);
        for rule in 0..3 {
            let waiting: Vec<usize> = marked.waiting_for(rule).map(|index| want[index]).collect();
            assert_eq!(
                waiting,
                want.iter().copied().filter(|line| line % 3 == rule).collect::<Vec<_>>(),
                "rule {rule}"
            );
        }
    }
}
