//! Cells of a column that look equal but are not.

use std::collections::hash_map::Entry;
use std::collections::{HashMap, HashSet};
use std::hash::{BuildHasher, Hasher};
use std::sync::LazyLock;

use unicode_normalization::UnicodeNormalization;

use crate::class::{CharSet, NamedClass};

/// Of a cell so much is kept to be shown, in bytes.
const KEPT: usize = 120;

/// What is kept of one cell at most, in bytes. A table of hashes has room for about twice what is in it while it grows.
pub(super) const MOST_OF_A_CELL: usize = 2 * size_of::<(u128, CellWritings)>() + KEPT;

/// How many there are, and where the first is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct CellCount {
    /// How many.
    pub count: u64,
    /// The record of the first, from 1.
    pub first: u64,
}

impl CellCount {
    pub(super) fn add(&mut self, record: u64) {
        self.count += 1;
        if self.first == 0 {
            self.first = record;
        }
    }
}

/// How a character looks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Glance {
    Seen,
    Unseen,
    Space,
}

pub(super) fn look(character: char) -> Glance {
    match character {
        ' '..='~' => Glance::Seen,
        '\t' => Glance::Space,
        _ if character.is_control() => Glance::Unseen,
        _ if ODD_SPACE.contains(character) => Glance::Space,
        _ if INVISIBLE.contains(character) => Glance::Unseen,
        _ => Glance::Seen,
    }
}

fn class(name: &str) -> CharSet {
    NamedClass::find(name).map(NamedClass::set).unwrap_or_default()
}

static ODD_SPACE: LazyLock<CharSet> = LazyLock::new(|| class("odd-space"));
static INVISIBLE: LazyLock<CharSet> = LazyLock::new(|| class("invisible"));

/// Different cells that people take for the same.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Alike {
    /// Each way it is written, as far as it is kept, the most frequent first.
    pub ways: Vec<(Vec<u8>, CellCount)>,
    /// In what they differ.
    pub differ: Vec<&'static str>,
}

/// Cells of one column by what they look like.
#[derive(Debug, Default)]
pub(super) struct LookGroups {
    /// By the hash of what they look like.
    ways: HashMap<u128, CellWritings>,
    distinct: usize,
    /// How much is kept, in bytes.
    kept: usize,
    /// Nothing more is counted or kept.
    is_dropped: bool,
}

/// The ways to write cells that look equal. Nearly always there is one.
#[derive(Debug)]
struct CellWritings {
    first: CellWriting,
    others: Vec<CellWriting>,
}

/// A way to write a cell.
#[derive(Debug)]
struct CellWriting {
    hash: u128,
    /// Its start, as far as it is kept.
    start: Box<[u8]>,
    count: CellCount,
}

/// What a cell looks like to people: without what no one sees, in small letters, with plain blanks, one at a time.
fn looks_like(value: &[u8]) -> Vec<u8> {
    let Ok(text) = std::str::from_utf8(value) else { return value.to_vec() };
    if value.iter().all(|byte| matches!(byte, b'!'..=b'~')) {
        return value.to_ascii_lowercase();
    }
    let mut seen = String::with_capacity(text.len());
    for character in text.nfc().flat_map(char::to_lowercase) {
        match character {
            ' ' | '\n' | '\r' => blank(&mut seen),
            _ => match look(character) {
                Glance::Unseen => {}
                Glance::Space => blank(&mut seen),
                Glance::Seen => seen.push(character),
            },
        }
    }
    seen.truncate(seen.trim_end().len());
    seen.into_bytes()
}

fn blank(seen: &mut String) {
    if !seen.is_empty() && !seen.ends_with(' ') {
        seen.push(' ');
    }
}

impl LookGroups {
    /// Counts a cell. Gives how much more is kept now, in bytes.
    pub(super) fn add(&mut self, value: &[u8], record: u64) -> usize {
        if value.is_empty() || self.is_dropped {
            return 0;
        }
        let hash = hash(value);
        let looks = self::hash(&looks_like(value));
        if let Some(ways) = self.ways.get_mut(&looks)
            && let Some(way) = std::iter::once(&mut ways.first).chain(&mut ways.others).find(|way| way.hash == hash)
        {
            way.count.add(record);
            return 0;
        }
        let start: Box<[u8]> = value[..value.len().min(KEPT)].into();
        let cost = MOST_OF_A_CELL - KEPT + start.len();
        self.distinct += 1;
        self.kept += cost;
        let mut count = CellCount::default();
        count.add(record);
        let way = CellWriting { hash, start, count };
        match self.ways.entry(looks) {
            Entry::Occupied(mut ways) => ways.get_mut().others.push(way),
            Entry::Vacant(free) => drop(free.insert(CellWritings { first: way, others: Vec::new() })),
        }
        cost
    }

    /// How much is kept, in bytes.
    pub(super) fn kept(&self) -> usize {
        self.kept
    }

    /// How many different cells there are, if all were counted, and how many were counted.
    pub(super) fn distinct(&self) -> (Option<u64>, u64) {
        ((!self.is_dropped).then_some(self.distinct as u64), self.distinct as u64)
    }

    /// The groups of cells that look equal, the largest first.
    pub(super) fn alike(self) -> Vec<Alike> {
        let mut groups: Vec<Alike> = self
            .ways
            .into_values()
            .filter(|ways| !ways.others.is_empty())
            .map(|CellWritings { first, others }| {
                let ways = std::iter::once(first).chain(others);
                let mut ways: Vec<(Vec<u8>, CellCount)> = ways.map(|way| (way.start.into(), way.count)).collect();
                ways.sort_by_key(|(_, count)| (std::cmp::Reverse(count.count), count.first));
                Alike { differ: differences(&ways), ways }
            })
            .collect();
        groups.sort_by_key(|group| {
            let cells: u64 = group.ways.iter().map(|(_, count)| count.count).sum();
            (std::cmp::Reverse(cells), group.ways[0].1.first)
        });
        groups
    }

    /// Forgets what is kept, and counts and keeps no more. Gives how much that was, in bytes.
    pub(super) fn stop(&mut self) -> usize {
        let distinct = self.distinct;
        std::mem::replace(self, Self { distinct, is_dropped: true, ..Self::default() }).kept
    }
}

/// A hash of a cell that stands for the cell: among a million cells, two with one hash do not happen by chance.
fn hash(value: &[u8]) -> u128 {
    let half = |seed: u64| {
        let mut hasher = foldhash::quality::FixedState::with_seed(seed).build_hasher();
        hasher.write(value);
        hasher.finish()
    };
    u128::from(half(1)) << 64 | u128::from(half(2))
}

/// In what the ways to write a cell differ.
fn differences(ways: &[(Vec<u8>, CellCount)]) -> Vec<&'static str> {
    type LookStep = fn(&str) -> String;
    let steps: [(&str, LookStep); 5] = [
        ("characters nobody sees", |text| text.chars().filter(|c| look(*c) != Glance::Unseen).collect()),
        ("odd spaces", |text| text.chars().map(|c| if look(c) == Glance::Space { ' ' } else { c }).collect()),
        ("blanks", |text| text.split_whitespace().collect::<Vec<_>>().join(" ")),
        ("Unicode form", |text| text.nfc().collect()),
        ("letter case", str::to_lowercase),
    ];
    let texts: Vec<_> = ways.iter().map(|(way, _)| String::from_utf8_lossy(way)).collect();
    // What still tells them apart when all else is made alike.
    let matters = |one: usize| {
        let others = || steps.iter().enumerate().filter(move |(step, _)| *step != one);
        let alike = |text: &str| others().fold(text.to_owned(), |text, (_, (_, step))| step(&text));
        texts.iter().map(|text| alike(text)).collect::<HashSet<_>>().len() > 1
    };
    steps.iter().enumerate().filter(|(step, _)| matters(*step)).map(|(_, (what, _))| *what).collect()
}
