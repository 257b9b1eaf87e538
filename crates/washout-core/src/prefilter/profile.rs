//! What the first bytes of a match can be, worked out from an expression.

use regex_syntax::hir::{Class, Hir, HirKind, Look};
use regex_syntax::utf8::Utf8Sequences;

use super::bytes::ByteSet;

/// How many bytes are looked at.
pub(super) const DEPTH: usize = 5;

/// For each of the first bytes of all strings of a language, which values it can have.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Profile {
    bytes: [ByteSet; DEPTH],
    /// Bit `n`: a string may be over after `n` bytes; the highest also stands for all longer ones.
    ends: u16,
}

const LONGER: u16 = 1 << DEPTH;

impl Profile {
    fn empty() -> Self {
        Self { bytes: [ByteSet::default(); DEPTH], ends: 1 }
    }

    fn none() -> Self {
        Self { ends: 0, ..Self::empty() }
    }

    pub(super) fn one(set: ByteSet) -> Self {
        let mut profile = Self { ends: 1 << 1, ..Self::empty() };
        profile.bytes[0] = set;
        profile
    }

    pub(super) fn literal(bytes: &[u8]) -> Self {
        let mut profile = Self { ends: 1 << bytes.len().min(DEPTH), ..Self::empty() };
        profile.bytes.iter_mut().zip(bytes).for_each(|(set, byte)| *set = ByteSet::of([*byte]));
        profile
    }

    fn or(mut self, other: &Self) -> Self {
        self.bytes.iter_mut().zip(other.bytes).for_each(|(set, more)| *set = set.or(more));
        self.ends |= other.ends;
        self
    }

    /// A string of this one, then one of `next`.
    pub(super) fn then(&self, next: &Self) -> Self {
        let mut both = Self { ends: self.ends & LONGER, ..self.clone() };
        for end in (0..DEPTH).filter(|end| self.ends >> end & 1 == 1) {
            for (set, more) in both.bytes[end..].iter_mut().zip(next.bytes) {
                *set = set.or(more);
            }
            let ends = u32::from(next.ends) << end;
            both.ends |= u16::try_from(ends & u32::from(LONGER - 1)).unwrap_or(0);
            if ends >= u32::from(LONGER) {
                both.ends |= LONGER;
            }
        }
        both
    }

    pub(super) fn of(hir: &Hir) -> Self {
        match hir.kind() {
            // What is looked at is not part of a match.
            HirKind::Empty | HirKind::Look(_) => Self::empty(),
            HirKind::Literal(literal) => Self::literal(&literal.0),
            HirKind::Class(class) => Self::of_class(class),
            HirKind::Repetition(repetition) => {
                let sub = Self::of(&repetition.sub);
                // Longer rows of it than there are bytes to look at change nothing.
                let most = repetition.max.map_or(DEPTH, |max| usize::try_from(max).unwrap_or(DEPTH).min(DEPTH));
                let least = usize::try_from(repetition.min).unwrap_or(DEPTH).min(DEPTH);
                let mut row = Self::empty();
                let mut all = if least == 0 { Self::empty() } else { Self::none() };
                for count in 1..=most {
                    row = row.then(&sub);
                    if count >= least {
                        all = all.or(&row);
                    }
                }
                all
            }
            HirKind::Capture(capture) => Self::of(&capture.sub),
            HirKind::Concat(parts) => parts.iter().fold(Self::empty(), |row, part| row.then(&Self::of(part))),
            HirKind::Alternation(parts) => parts.iter().fold(Self::none(), |all, part| all.or(&Self::of(part))),
        }
    }

    fn of_class(class: &Class) -> Self {
        let mut all = Self::none();
        match class {
            Class::Unicode(class) => {
                for sequence in class.ranges().iter().flat_map(|range| Utf8Sequences::new(range.start(), range.end())) {
                    // A character has four bytes at the most, which is less than are looked at.
                    for (set, range) in all.bytes.iter_mut().zip(sequence.as_slice()) {
                        *set = set.or(ByteSet::of(range.start..=range.end));
                    }
                    all.ends |= 1 << sequence.len();
                }
            }
            Class::Bytes(class) => {
                let bytes = class.ranges().iter().flat_map(|range| range.start()..=range.end());
                all = all.or(&Self::one(ByteSet::of(bytes)));
            }
        }
        all
    }

    /// What each of the first bytes from the start of a match can be; after the end of a match that is anything.
    pub(super) fn sets(&self) -> [ByteSet; DEPTH] {
        let mut sets = self.bytes;
        for end in (0..DEPTH).filter(|end| self.ends >> end & 1 == 1) {
            sets[end..].fill(ByteSet::ALL);
        }
        sets
    }
}

/// A row of bytes that every match holds.
pub(super) struct RequiredRow {
    pub(super) profile: Profile,
    /// It starts with the byte before the match.
    pub(super) starts_outside: bool,
    /// The least and the most bytes of a match that stand before it; `None`: any number.
    pub(super) behind: Option<(usize, usize)>,
    /// How many characters of a match stand before it, if that is certain.
    pub(super) characters: Option<usize>,
}

/// The rows of bytes that every match holds: what it starts with, and what follows each of its parts.
pub(super) fn required_rows(hir: &Hir) -> Vec<RequiredRow> {
    let parts = flat(hir);
    let mut rows = Vec::with_capacity(parts.len());
    let at_line_start = matches!(parts.first().map(|part| part.kind()), Some(HirKind::Look(look)) if is_start(*look));
    let mut profiles: Vec<Profile> = parts.iter().map(|part| Profile::of(part)).collect();
    if let Some(last) = profiles.last_mut()
        && matches!(parts.last().map(|part| part.kind()), Some(HirKind::Look(look)) if is_end(*look))
    {
        *last = Profile::one(ByteSet::line_ends());
    }
    // Of each part with all that follow it: from the last on, so that an expression of many parts takes no longer for each.
    for part in (1..profiles.len()).rev() {
        profiles[part - 1] = profiles[part - 1].then(&profiles[part]);
    }
    let (mut behind, mut characters) = (Some((0, 0)), Some(0));
    for (first, mut profile) in profiles.into_iter().enumerate() {
        let starts_outside = first == 0 && at_line_start;
        if starts_outside {
            profile = Profile::one(ByteSet::line_ends()).then(&profile);
        }
        rows.push(RequiredRow { profile, starts_outside, behind, characters });
        let lengths = parts[first].properties();
        behind = behind.and_then(|(least, most)| Some((least + lengths.minimum_len()?, most + lengths.maximum_len()?)));
        characters = characters.and_then(|before| Some(before + characters_of(parts[first])?));
    }
    rows
}

/// How many characters a match has, if that is certain.
fn characters_of(hir: &Hir) -> Option<usize> {
    match hir.kind() {
        HirKind::Empty | HirKind::Look(_) => Some(0),
        HirKind::Literal(literal) => Some(std::str::from_utf8(&literal.0).ok()?.chars().count()),
        HirKind::Class(Class::Unicode(_)) => Some(1),
        HirKind::Repetition(repetition) if repetition.max == Some(repetition.min) => {
            characters_of(&repetition.sub)?.checked_mul(usize::try_from(repetition.min).ok()?)
        }
        HirKind::Capture(capture) => characters_of(&capture.sub),
        HirKind::Concat(parts) => parts.iter().map(characters_of).sum(),
        HirKind::Class(Class::Bytes(_)) | HirKind::Repetition(_) | HirKind::Alternation(_) => None,
    }
}

/// The parts of an expression one after the other.
fn flat(hir: &Hir) -> Vec<&Hir> {
    match hir.kind() {
        HirKind::Capture(capture) => flat(&capture.sub),
        HirKind::Concat(parts) => parts.iter().flat_map(flat).collect(),
        _ => vec![hir],
    }
}

fn is_start(look: Look) -> bool {
    matches!(look, Look::Start | Look::StartLF | Look::StartCRLF)
}

fn is_end(look: Look) -> bool {
    matches!(look, Look::End | Look::EndLF | Look::EndCRLF)
}
