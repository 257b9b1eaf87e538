//! Lines that come again and again: headings and footers of pages, whose numbers may differ.
//!
//! Memory is bounded: a table remembers a tag of what was seen once, newer lines in place of older ones, and only what
//! comes a second time is kept. A line that comes again after some thousand others may be missed.

use std::collections::HashMap;
use std::hash::{BuildHasherDefault, Hasher};

use super::kinds::{KindFindings, SIGHTINGS};
use super::{Place, Sighting};
use crate::text::lines::{skip_blanks, skip_blanks_back};

/// Lines seen once that are remembered, at most and at first: most texts are short, and what is larger than the
/// processor's cache makes the whole survey slower by a fifth.
const MOST_SEEN: usize = 1 << 13;
const FIRST_SEEN: usize = 1 << 9;
/// Places after its own where a line may be.
const PROBES: usize = 16;
/// Lines seen more than once that are kept.
const KEPT: usize = 1 << 12;
/// Longer lines are prose, in bytes.
const LONGEST: usize = 160;
/// Fewer letters say too little.
const FEWEST_LETTERS: usize = 6;

/// What is seen of one text.
#[derive(Debug)]
pub(super) struct RepeatWatch {
    /// By the last bits of the hash.
    seen: Vec<Once>,
    /// How many of them are taken.
    taken: usize,
    again: HashMap<u64, Repeat, BuildHasherDefault<AsIs>>,
}

/// A hash for keys that are hashes already.
#[derive(Clone, Copy, Debug, Default)]
struct AsIs(u64);

impl Hasher for AsIs {
    fn finish(&self) -> u64 {
        self.0
    }

    fn write(&mut self, bytes: &[u8]) {
        bytes.iter().for_each(|byte| self.0 = mix(self.0, u64::from(*byte)));
    }

    fn write_u64(&mut self, hash: u64) {
        self.0 = hash;
    }
}

/// A line that was seen once.
#[derive(Clone, Copy, Debug, Default)]
struct Once {
    print: Print,
    /// From 1; 0: none yet.
    number: u32,
    has_controls_around: bool,
}

/// What is reported a line by its hashes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
struct Print {
    /// The same for lines whose numbers differ.
    hash: u64,
    /// With its numbers.
    exact: u32,
}

/// A line that comes more than once.
#[derive(Clone, Debug)]
pub(super) struct Repeat {
    /// The line as it stood first, without blanks and control characters around it.
    pub(super) text: Vec<u8>,
    /// Whether its digits differ.
    pub(super) numbers_differ: bool,
    /// Whether control characters, such as form feeds, stand before or after it.
    pub(super) has_controls_around: bool,
    pub(super) found: KindFindings,
    /// How many of its places have a form feed before them on the line.
    after_form_feed: u64,
    /// The number of its last line in this text.
    last: u64,
    gaps: Gaps,
    /// The numbers on its last line.
    numbers: Vec<u64>,
    /// Whether one of its numbers counts up from place to place, as the number of a page does, and the others stay.
    counts_up: bool,
}

/// How far apart the places of a line are, in lines.
#[derive(Clone, Copy, Debug, Default)]
struct Gaps {
    count: u64,
    least: u64,
    most: u64,
}

impl Gaps {
    fn add(&mut self, other: Self) {
        if other.count > 0 {
            self.least = if self.count == 0 { other.least } else { self.least.min(other.least) };
            self.most = self.most.max(other.most);
            self.count += other.count;
        }
    }

    /// Whether they may be the lengths of pages: no page is so short or so long, and pages of one text are alike.
    fn are_pages(self) -> bool {
        self.count >= FEWEST - 1 && self.least >= 10 && self.most <= 200 && self.most <= 3 * self.least
    }
}

/// What is repeated in one text or several. A line that comes once in each of many texts is repeated too.
#[derive(Clone, Debug, Default)]
pub(super) struct Repeated {
    lines: HashMap<u64, Repeat>,
}

impl RepeatWatch {
    pub(super) fn new() -> Self {
        Self { seen: Vec::new(), taken: 0, again: HashMap::default() }
    }

    #[inline]
    pub(super) fn line(&mut self, content: &[u8], number: u64) {
        if !(FEWEST_LETTERS..=LONGEST).contains(&content.len()) {
            return;
        }
        let print = print(content);
        if let Some(repeat) = self.again.get_mut(&print.hash) {
            repeat.see(content, number);
            return;
        }
        self.make_room();
        let slot = self.slot(&print);
        let once = self.seen[slot];
        if once.number == 0 || once.print.hash != print.hash {
            self.taken += usize::from(once.number == 0);
            let number = u32::try_from(number).unwrap_or(u32::MAX);
            self.seen[slot] = Once { print, number, has_controls_around: controls_around(content) };
            return;
        }
        if !says_something(content) {
            return;
        }
        if self.again.len() >= KEPT {
            self.again.retain(|_, repeat| repeat.found.count > 2);
        }
        if self.again.len() < KEPT {
            let mut repeat = Repeat::new(content, u64::from(once.number));
            repeat.numbers_differ = once.print != print;
            if repeat.numbers_differ {
                // Its text is not known any more, and this one's has other numbers.
                repeat.found.sightings.clear();
            }
            repeat.has_controls_around |= once.has_controls_around;
            repeat.see(content, number);
            self.again.insert(print.hash, repeat);
        }
    }

    /// Where this line is, or is to be: after its own place while others are there. In a full table it takes its own
    /// place, whoever has it.
    fn slot(&self, print: &Print) -> usize {
        let (own, last) = (low(print.hash), self.seen.len() - 1);
        let is_free = |slot: &usize| self.seen[*slot].number == 0 || self.seen[*slot].print.hash == print.hash;
        (0..PROBES).map(|step| own.wrapping_add(step) & last).find(is_free).unwrap_or(own & last)
    }

    fn make_room(&mut self) {
        let size = self.seen.len();
        if size == MOST_SEEN || (size > 0 && self.taken < size / 2) {
            return;
        }
        let larger = if size == 0 { FIRST_SEEN } else { size * 4 }.min(MOST_SEEN);
        let before = std::mem::replace(&mut self.seen, vec![Once::default(); larger]);
        for once in before.into_iter().filter(|once| once.number > 0) {
            let slot = self.slot(&once.print);
            self.seen[slot] = once;
        }
    }

    pub(super) fn finish(mut self, first_lines: &[(Vec<u8>, u64)]) -> Repeated {
        // The first lines of a text are kept even if they come once: they may come in each of many texts.
        for (line, number) in first_lines {
            if says_something(line) && line.len() <= LONGEST {
                self.again.entry(print(line).hash).or_insert_with(|| Repeat::new(line, *number));
            }
        }
        Repeated { lines: self.again.into_iter().collect() }
    }
}

impl Repeat {
    fn new(content: &[u8], number: u64) -> Self {
        let text = bare(content).to_vec();
        let mut found = KindFindings { count: 1, texts: 1, sightings: Vec::new() };
        found.sightings.push(seen(&text, number));
        Self {
            text,
            numbers_differ: false,
            has_controls_around: controls_around(content),
            found,
            after_form_feed: u64::from(is_after_form_feed(content)),
            last: number,
            gaps: Gaps::default(),
            numbers: numbers(content).collect(),
            counts_up: true,
        }
    }

    fn see(&mut self, content: &[u8], number: u64) {
        let text = bare(content);
        self.numbers_differ |= text != self.text;
        self.has_controls_around |= controls_around(content);
        self.found.count += 1;
        self.after_form_feed += u64::from(is_after_form_feed(content));
        let gap = number.saturating_sub(self.last);
        self.gaps.add(Gaps { count: 1, least: gap, most: gap });
        self.last = number;
        self.count_up(content);
        if self.found.sightings.len() < SIGHTINGS {
            self.found.sightings.push(seen(text, number));
        }
    }

    /// Compares its numbers with those of its place before.
    fn count_up(&mut self, content: &[u8]) {
        let mut steps = 0;
        for (before, now) in self.numbers.iter_mut().zip(numbers(content)) {
            if *before != now {
                // Left and right pages may have headings of their own.
                self.counts_up &= now > *before && now - *before <= 2;
                steps += 1;
            }
            *before = now;
        }
        self.counts_up &= steps <= 1;
    }

    /// Whether it comes once on each page: after form feeds, except the first of each text, or at distances that pages
    /// have, with no numbers that differ but those of the pages.
    pub(super) fn is_on_each_page(&self) -> bool {
        let after_form_feeds =
            self.after_form_feed > 0 && self.after_form_feed + self.found.texts as u64 >= self.found.count;
        after_form_feeds || (self.gaps.are_pages() && self.counts_up)
    }

    /// Whether it looks like the heading of a page: half of it or more is in capitals.
    pub(super) fn looks_like_heading(&self) -> bool {
        let text = String::from_utf8_lossy(&self.text);
        let count = |is: fn(char) -> bool| text.chars().filter(|letter| is(*letter)).count();
        count(char::is_uppercase) >= count(char::is_lowercase)
    }
}

fn seen(text: &[u8], number: u64) -> Sighting {
    Sighting { place: Place { text: 0, line: number, column: 1 }, excerpt: text.to_vec(), mark: 0..text.len() }
}

/// A repeated line is worth a rule from that many on.
const FEWEST: u64 = 3;
/// Repeated lines that are reported: those that look like headings, and others.
const MOST_HEADINGS: usize = 5;
const MOST_OTHERS: usize = 2;

impl Repeated {
    pub(super) fn add(&mut self, later: Self, moved: impl Fn(Place) -> Place) {
        for (hash, repeat) in later.lines {
            match self.lines.entry(hash) {
                std::collections::hash_map::Entry::Occupied(mut known) => {
                    let known = known.get_mut();
                    known.numbers_differ |= repeat.numbers_differ || known.text != repeat.text;
                    known.has_controls_around |= repeat.has_controls_around;
                    known.after_form_feed += repeat.after_form_feed;
                    known.gaps.add(repeat.gaps);
                    known.counts_up &= repeat.counts_up;
                    known.found.add(repeat.found, &moved);
                }
                std::collections::hash_map::Entry::Vacant(free) => {
                    let mut found = KindFindings::default();
                    found.add(repeat.found, &moved);
                    free.insert(Repeat { found, ..repeat });
                }
            }
        }
        if self.lines.len() > 4 * KEPT {
            self.lines.retain(|_, repeat| repeat.found.count > 1);
        }
    }

    /// Those worth a rule, the most frequent first.
    pub(super) fn worth_a_rule(&self) -> Vec<&Repeat> {
        let mut all: Vec<&Repeat> = self.lines.values().filter(|repeat| repeat.found.count >= FEWEST).collect();
        all.sort_by(|one, other| {
            other
                .looks_like_heading()
                .cmp(&one.looks_like_heading())
                .then_with(|| other.found.count.cmp(&one.found.count).then_with(|| one.text.cmp(&other.text)))
        });
        let headings = all.iter().filter(|repeat| repeat.looks_like_heading()).count();
        let others = all.split_off(headings);
        all.truncate(MOST_HEADINGS);
        all.extend(others.into_iter().take(MOST_OTHERS));
        all
    }
}

/// A line without blanks and control characters at its edges.
#[inline]
fn bare(content: &[u8]) -> &[u8] {
    let start = content.iter().position(|byte| *byte > b' ').unwrap_or(content.len());
    let end = content.iter().rposition(|byte| *byte > b' ').map_or(start, |last| last + 1);
    &content[start..end]
}

/// The numbers on a line, as far as they are no longer than any that counts pages.
fn numbers(content: &[u8]) -> impl Iterator<Item = u64> {
    let runs = content.split(|byte| !byte.is_ascii_digit()).filter(|run| !run.is_empty());
    runs.map(|run| {
        run.iter().fold(0_u64, |number, digit| number.saturating_mul(10).saturating_add(u64::from(digit - b'0')))
    })
}

/// Whether a page begins right before what is on the line.
fn is_after_form_feed(content: &[u8]) -> bool {
    content.iter().take_while(|byte| **byte <= b' ').any(|byte| *byte == b'\x0C')
}

#[inline]
fn controls_around(content: &[u8]) -> bool {
    if content.first().is_none_or(|first| *first > b' ') && content.last().is_none_or(|last| *last > b' ') {
        return false;
    }
    bare(content).len() < trimmed_blanks(content).len()
}

fn trimmed_blanks(content: &[u8]) -> &[u8] {
    let start = skip_blanks(content, 0);
    &content[start..skip_blanks_back(content, content.len()).max(start)]
}

const SEED: u64 = 0x9E37_79B9_7F4A_7C15;
const FACTOR: u64 = 0x517C_C1B7_2722_0A95;

const EACH: u64 = 0x0101_0101_0101_0101;

#[inline]
fn mix(hash: u64, value: u64) -> u64 {
    (hash.rotate_left(5) ^ value).wrapping_mul(FACTOR)
}

/// The hashes of a line.
#[inline]
fn print(content: &[u8]) -> Print {
    let content = bare(content);
    by_words(content).map_or_else(|| numbered(content), |hash| Print { hash, exact: 0 })
}

/// Sixteen bytes at a time; none if there is a digit among them.
#[inline]
fn by_words(content: &[u8]) -> Option<u64> {
    let (pairs, rest) = content.as_chunks::<16>();
    let (mut one, mut two, mut digits) = (SEED ^ content.len() as u64, SEED, 0);
    for pair in pairs {
        // Two rows at a time: a multiplication need not wait for the one before.
        let word = u128::from_le_bytes(*pair);
        let (low, high) = (low_half(word), low_half(word >> 64));
        (one, two) = (mix(one, low), mix(two, high));
        digits |= digits_in(low) | digits_in(high);
    }
    let hash = mix(one, two);
    let hash = rest.iter().fold(hash, |hash, byte| mix(hash, u64::from(*byte)));
    let has_digits = digits != 0 || rest.iter().any(u8::is_ascii_digit);
    (!has_digits).then_some(hash ^ (hash >> 29))
}

#[expect(clippy::cast_possible_truncation, reason = "only the lower half is wanted")]
fn low_half(word: u128) -> u64 {
    word as u64
}

/// Not 0 if there is a digit among these bytes: less than ten is left of a byte just where it is one; a few more may be
/// taken for one.
#[inline]
fn digits_in(bytes: u64) -> u64 {
    let value = bytes ^ (EACH * u64::from(b'0'));
    value.wrapping_sub(EACH * 10) & !value & (EACH * 0x80)
}

/// Enough letters, or bytes beyond ASCII, to say something.
fn says_something(content: &[u8]) -> bool {
    let letters = content.iter().filter(|byte| !byte.is_ascii() || byte.is_ascii_alphabetic());
    letters.take(FEWEST_LETTERS).count() == FEWEST_LETTERS
}

/// Byte by byte: numbers may be of different lengths.
fn numbered(content: &[u8]) -> Print {
    let (mut hash, mut numbers, mut in_number) = (SEED, 0, false);
    for byte in content {
        let digit = byte.is_ascii_digit();
        if digit {
            numbers = mix(numbers, u64::from(*byte));
            if in_number {
                continue;
            }
        }
        in_number = digit;
        hash = mix(hash, u64::from(if digit { b'0' } else { *byte }));
    }
    Print { hash: hash ^ (hash >> 29), exact: u32::try_from(numbers >> 32).unwrap_or_default() }
}

#[expect(clippy::cast_possible_truncation, reason = "only the last bits are wanted")]
fn low(hash: u64) -> usize {
    hash as usize
}
