//! Counting characters.

use std::cell::Cell;
use std::collections::{BTreeMap, HashMap};

use unicode_script::{Script, UnicodeScript};

use super::batch::sighting_at;
use super::kinds::{KindFindings, SIGHTINGS};
use super::{Place, Sighting};
use crate::class::NamedClass;
use crate::spell::{class_of, describe};
use crate::text::chars::char_at;
use crate::text::lines::Line;

/// A character, or a byte that is part of none.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Surveyed {
    /// A character.
    Char(char),
    /// A byte that is not valid UTF-8.
    Broken(u8),
}

/// How often a character occurs.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct CharCount {
    /// The character.
    pub character: Surveyed,
    /// Its name in Unicode.
    pub name: String,
    /// The named class that says most about it, or its general category.
    pub class: &'static str,
    /// How often it occurs.
    pub count: u64,
    /// In how many texts.
    pub texts: usize,
    /// Where it occurs first.
    pub first: Place,
}

#[derive(Clone, Copy, Debug)]
pub(super) struct CountedChars {
    pub(super) count: u64,
    pub(super) texts: usize,
    pub(super) first: Place,
}

impl CountedChars {
    /// Adds what later texts have.
    pub(super) fn add(&mut self, later: &Self) {
        self.count += later.count;
        self.texts += later.texts;
    }
}

impl CharCount {
    pub(super) fn new(character: Surveyed, counted: &CountedChars) -> Self {
        let (name, class) = match character {
            Surveyed::Char(character) => (describe(character), class_of(character)),
            Surveyed::Broken(byte) => (format!("byte {byte:02X}, no valid UTF-8"), "broken"),
        };
        let CountedChars { count, texts, first } = *counted;
        Self { character, name, class, count, texts, first }
    }

    /// How much this character tells; `None` for one that is as usual as can be.
    pub fn unusual(&self) -> Option<Unusual> {
        self.character.unusual()
    }
}

impl Surveyed {
    /// How much this tells; `None` for a character that is as usual as can be.
    pub fn unusual(self) -> Option<Unusual> {
        let character = match self {
            Self::Broken(_) => return Some(Unusual::Broken),
            Self::Char(character) => character,
        };
        Some(match class_of(character) {
            "line-end" | "space" | "letter" | "upper" | "lower" | "digit" => return None,
            _ if character.is_ascii_graphic() => return None,
            "replacement" => Unusual::Broken,
            "control" => Unusual::Control,
            "bidi" | "invisible" | "private" | "unassigned" => Unusual::Unseen,
            "odd-space" | "blank" => Unusual::Space,
            "joiner" => Unusual::Joiner,
            _ => Unusual::Sign,
        })
    }
}

/// Why a character is worth a look, the most telling first.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Unusual {
    /// Part of no character, or a sign that something was not.
    Broken,
    /// A control character.
    Control,
    /// Not seen, or without a meaning of its own.
    Unseen,
    /// A blank that is not an ordinary space.
    Space,
    /// Of a script that hardly occurs here: it may stand for a letter that looks the same.
    Stranger,
    /// Needed by some scripts and emoji, and not seen.
    Joiner,
    /// A sign beyond ASCII.
    Sign,
}

/// Of all characters, one in that many: a script with fewer letters is a stranger.
const STRANGER: u64 = 100;

pub(super) fn unusual(all: Vec<CharCount>, total: u64) -> Vec<CharCount> {
    let script = |count: &CharCount| match count.character {
        Surveyed::Char(character) if character.is_alphabetic() => match character.script() {
            Script::Common | Script::Inherited => None,
            script => Some(script),
        },
        _ => None,
    };
    let mut letters: HashMap<Script, u64> = HashMap::new();
    for count in &all {
        if let Some(script) = script(count) {
            *letters.entry(script).or_default() += count.count;
        }
    }
    // What is not counted is ASCII.
    let counted: u64 = all.iter().map(|count| count.count).sum();
    *letters.entry(Script::Latin).or_default() += total.saturating_sub(counted);
    let stranger = |count: &CharCount| script(count).is_some_and(|script| letters[&script] * STRANGER < total);
    let mut telling: Vec<(Unusual, CharCount)> = all
        .into_iter()
        .filter_map(|count| {
            let why = if stranger(&count) { Some(Unusual::Stranger) } else { count.unusual() };
            why.map(|why| (why, count))
        })
        .collect();
    telling.sort_by(|(why, one), (other_why, other)| why.cmp(other_why).then(other.count.cmp(&one.count)));
    telling.into_iter().map(|(_, count)| count).collect()
}

/// Code points in one page of the table.
const PAGE: usize = 256;

/// The most lines that are kept for the characters of one page: a text may hold every character there is.
const MOST_LINES: u8 = 64;

/// Counts the characters of one text.
#[derive(Debug)]
pub(super) struct CharTally {
    /// Pages are made when a character of theirs turns up: most texts need a few.
    pages: Vec<Option<Box<[u64; PAGE]>>>,
    broken: [u64; 256],
    first: BTreeMap<Surveyed, Place>,
    /// The lines of first places, of characters that are not letters or digits; of each page only those of the first
    /// [`MOST_LINES`].
    lines: BTreeMap<char, Option<Sighting>>,
    lines_of_page: Vec<u8>,
    with_ascii: bool,
}

/// A stretch of text and where it stands.
pub(super) struct LineStretch<'t> {
    pub(super) text: &'t [u8],
    /// Its lines.
    pub(super) lines: &'t [Line],
    /// The number of its first line, from 1.
    pub(super) first_line: u64,
    /// Characters of the first line that came before it.
    pub(super) chars_before: u64,
    /// Up to where characters of a line have been counted, in bytes, and how many there are: places are requested in
    /// order, and a line may be long.
    counted: Cell<(usize, u64)>,
}

impl<'t> LineStretch<'t> {
    pub(super) fn new(text: &'t [u8], lines: &'t [Line], first_line: u64, chars_before: u64) -> Self {
        Self { text, lines, first_line, chars_before, counted: Cell::new((0, 0)) }
    }

    fn place(&self, at: usize) -> Place {
        let index = self.lines.partition_point(|line| line.start <= at).saturating_sub(1);
        let start = self.lines.get(index).map_or(0, |line| line.start);
        let before = if index == 0 { self.chars_before } else { 0 };
        let (from, counted) = match self.counted.get() {
            (to, chars) if start < to && to <= at => (to, chars),
            _ => (start, 0),
        };
        let chars = counted + bytecount::num_chars(&self.text[from..at]) as u64;
        self.counted.set((at, chars));
        Place { text: 0, line: self.first_line + index as u64, column: chars + before + 1 }
    }

    fn sighting(&self, at: usize, len: usize, place: Place) -> Sighting {
        let index = self.lines.partition_point(|line| line.start <= at).saturating_sub(1);
        let start = self.lines.get(index).map_or(0, |line| line.start);
        sighting_at(&self.text[start..], at - start, len, place)
    }
}

impl CharTally {
    /// `with_ascii`: printable ASCII and line ends are counted too, which takes longer.
    pub(super) fn new(with_ascii: bool) -> Self {
        Self {
            pages: vec![None; 0x11_0000 / PAGE],
            broken: [0; 256],
            first: BTreeMap::new(),
            lines: BTreeMap::new(),
            lines_of_page: vec![0; 0x11_0000 / PAGE],
            with_ascii,
        }
    }

    pub(super) fn add(&mut self, stretch: &LineStretch<'_>) {
        let text = stretch.text;
        let mut at = 0;
        while at < text.len() {
            if !self.with_ascii {
                at += plain_len(&text[at..]);
                if at == text.len() {
                    return;
                }
            }
            // A word in another script: one step for each character, then in strides again.
            let stop = at + STRIDE;
            while at < text.len() && at < stop {
                let byte = text[at];
                if !self.with_ascii && is_plain(byte) {
                    at += 1;
                } else if let Some((character, len)) = char_at(text, at) {
                    self.count(character, at, stretch);
                    at += len;
                } else {
                    self.count_broken(byte, at, stretch);
                    at += 1;
                }
            }
        }
    }

    #[inline]
    fn count(&mut self, character: char, at: usize, stretch: &LineStretch<'_>) {
        let code = character as usize;
        let page = self.pages[code / PAGE].get_or_insert_with(|| Box::new([0; PAGE]));
        page[code % PAGE] += 1;
        if page[code % PAGE] == 1 {
            let place = stretch.place(at);
            self.first.insert(Surveyed::Char(character), place);
            if !character.is_alphanumeric() {
                let lines = &mut self.lines_of_page[code / PAGE];
                let sighting = (*lines < MOST_LINES).then(|| stretch.sighting(at, character.len_utf8(), place));
                *lines += u8::from(sighting.is_some());
                self.lines.insert(character, sighting);
            }
        }
    }

    fn count_broken(&mut self, byte: u8, at: usize, stretch: &LineStretch<'_>) {
        self.broken[usize::from(byte)] += 1;
        if self.broken[usize::from(byte)] == 1 {
            self.first.insert(Surveyed::Broken(byte), stretch.place(at));
        }
    }

    /// The members of a named class that occur, but those in `but`: how many, and the lines they occur on first.
    pub(super) fn class(&self, class: &str, but: &str) -> KindFindings {
        let named = |name| NamedClass::find(name).map(NamedClass::set).unwrap_or_default();
        let (set, but) = (named(class), named(but));
        let mut found = KindFindings::default();
        let mut sightings = Vec::new();
        for (character, line) in &self.lines {
            let code = *character as usize;
            if set.contains(*character) && !but.contains(*character) {
                found.count += self.pages[code / PAGE].as_ref().map_or(0, |page| page[code % PAGE]);
                sightings.extend(line.clone());
            }
        }
        sightings.sort_by_key(|sighting| sighting.place);
        sightings.truncate(SIGHTINGS);
        KindFindings { texts: usize::from(found.count > 0), sightings, ..found }
    }

    /// Every character that is not a letter or digit.
    pub(super) fn signs(&self) -> impl Iterator<Item = char> + '_ {
        self.lines.keys().copied()
    }

    pub(super) fn finish(self) -> BTreeMap<Surveyed, CountedChars> {
        let count = |character: Surveyed| match character {
            Surveyed::Broken(byte) => self.broken[usize::from(byte)],
            Surveyed::Char(character) => {
                let code = character as usize;
                self.pages[code / PAGE].as_ref().map_or(0, |page| page[code % PAGE])
            }
        };
        self.first
            .iter()
            .map(|(character, first)| (*character, CountedChars { count: count(*character), texts: 1, first: *first }))
            .collect()
    }
}

const STRIDE: usize = 32;

/// Printable ASCII and line ends: what most texts are made of.
#[inline]
fn is_plain(byte: u8) -> bool {
    matches!(byte, b' '..=b'~' | b'\n' | b'\r')
}

/// How many strides of `text` hold nothing but plain bytes, in bytes.
fn plain_len(text: &[u8]) -> usize {
    let (strides, rest) = text.as_chunks::<STRIDE>();
    let plain = strides.iter().take_while(|stride| stride.iter().fold(true, |all, byte| all & is_plain(*byte))).count();
    if plain == strides.len() && rest.iter().all(|byte| is_plain(*byte)) { text.len() } else { plain * STRIDE }
}
