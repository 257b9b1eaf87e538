//! What a washer gives for a piece of a text, without a copy of what is as it was or was made elsewhere.

use std::ops::Range;

/// A stretch shorter than this, in bytes, is copied behind the one before: one of its own costs more.
const SHORT: usize = 4 << 10;

/// As much memory is kept for what comes next, in bytes.
const MOST_SPARE: usize = 4 << 20;

/// What is certain of a result: stretches, one behind the other, each of which is a part of the piece of the text, unchanged,
/// or was made. Its memory is used again.
#[derive(Debug, Default)]
pub struct Given {
    stretches: Vec<Stretch>,
    /// Memory for what is made.
    spare: Vec<Vec<u8>>,
}

#[derive(Debug)]
enum Stretch {
    /// A part of the piece, in bytes from 0.
    Same(Range<usize>),
    Made(Vec<u8>),
}

impl Given {
    /// The stretches, none of them empty. `piece` is that for which they were given.
    pub fn stretches<'a>(&'a self, piece: &'a [u8]) -> impl Iterator<Item = &'a [u8]> {
        let bytes = |stretch: &'a Stretch| match stretch {
            Stretch::Same(part) => &piece[part.clone()],
            Stretch::Made(bytes) => bytes,
        };
        self.stretches.iter().map(bytes).filter(|bytes| !bytes.is_empty())
    }

    /// How long it is, in bytes, if it is just the start of the piece, unchanged.
    pub fn same_start(&self) -> Option<usize> {
        match &self.stretches[..] {
            [] => Some(0),
            [Stretch::Same(part)] if part.start == 0 => Some(part.end),
            _ => None,
        }
    }

    /// Appends it to `out`. `piece` is that for which it was given.
    pub fn append_to(&self, piece: &[u8], out: &mut Vec<u8>) {
        self.stretches(piece).for_each(|stretch| out.extend_from_slice(stretch));
    }

    /// Makes it empty.
    pub fn clear(&mut self) {
        while let Some(stretch) = self.stretches.pop() {
            if let Stretch::Made(made) = stretch {
                self.put_by(made);
            }
        }
    }

    /// Memory to make something of so many bytes in; it is empty.
    pub(super) fn spare(&mut self, len: usize) -> Vec<u8> {
        let fitting = self.spare.iter().enumerate().filter(|(_, memory)| memory.capacity() >= len);
        let tightest = fitting.min_by_key(|(_, memory)| memory.capacity()).map(|(index, _)| index);
        tightest.map_or_else(|| Vec::with_capacity(len.next_power_of_two()), |index| self.spare.swap_remove(index))
    }

    /// Takes memory back that was not needed.
    pub(super) fn put_by(&mut self, mut memory: Vec<u8>) {
        let kept: usize = self.spare.iter().map(Vec::capacity).sum();
        if memory.capacity() > 0 && kept + memory.capacity() <= MOST_SPARE {
            memory.clear();
            self.spare.push(memory);
        }
    }

    /// Hands its spare memory to where the next things are made.
    pub(super) fn lend(&mut self, other: &mut Self) {
        self.spare.drain(..).for_each(|memory| other.put_by(memory));
    }

    /// Where to append what is made.
    pub(crate) fn made(&mut self) -> &mut Vec<u8> {
        if !matches!(self.stretches.last(), Some(Stretch::Made(_))) {
            let largest = self.spare.iter().enumerate().max_by_key(|(_, memory)| memory.capacity());
            let largest = largest.map(|(index, _)| index);
            let made = largest.map(|index| self.spare.swap_remove(index)).unwrap_or_default();
            self.stretches.push(Stretch::Made(made));
        }
        match self.stretches.last_mut() {
            Some(Stretch::Made(made)) => made,
            _ => unreachable!("it was pushed just now"),
        }
    }

    /// Adds what was made elsewhere.
    pub(super) fn add_made(&mut self, made: Vec<u8>) {
        match self.stretches.last_mut() {
            Some(Stretch::Made(last)) if made.len() < SHORT => {
                last.extend_from_slice(&made);
                self.put_by(made);
            }
            _ => self.stretches.push(Stretch::Made(made)),
        }
    }

    /// Adds a part of the piece.
    pub(super) fn add_same(&mut self, piece: &[u8], part: Range<usize>) {
        if part.is_empty() {
            return;
        }
        if let Some(Stretch::Made(made)) = self.stretches.pop_if(|last| last.is_empty()) {
            self.put_by(made);
        }
        match self.stretches.last_mut() {
            Some(Stretch::Same(last)) if last.end == part.start => last.end = part.end,
            Some(Stretch::Made(made)) if part.len() < SHORT => made.extend_from_slice(&piece[part]),
            _ => self.stretches.push(Stretch::Same(part)),
        }
    }

    /// Takes over what was given for `text`, which was made of the piece.
    pub(super) fn take_made(&mut self, other: &mut Self, text: &[u8]) {
        for stretch in other.stretches.drain(..) {
            match stretch {
                Stretch::Same(part) => self.made().extend_from_slice(&text[part]),
                Stretch::Made(made) => self.add_made(made),
            }
        }
    }

    /// Takes over what was given for the part of `piece` that starts at `at`.
    pub(super) fn take(&mut self, other: &mut Self, piece: &[u8], at: usize) {
        for stretch in other.stretches.drain(..) {
            match stretch {
                Stretch::Same(part) => self.add_same(piece, at + part.start..at + part.end),
                Stretch::Made(made) => self.add_made(made),
            }
        }
    }
}

impl Stretch {
    fn is_empty(&self) -> bool {
        match self {
            Self::Same(part) => part.is_empty(),
            Self::Made(made) => made.is_empty(),
        }
    }
}
