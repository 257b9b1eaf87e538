//! What a washer gives for a piece of a text, without a copy of what is as it was or was made elsewhere.

use std::ops::Range;

/// A stretch shorter than this, in bytes, is copied after the one before: one of its own costs more.
const SHORT: usize = 4 << 10;

/// As much memory is kept for what comes next, in bytes.
const MOST_SPARE: usize = 4 << 20;

/// What is certain of a result: stretches, one after the other, each of which is a part of the piece of the text, unchanged,
/// or was made. Its memory is used again.
#[derive(Debug, Default)]
pub struct OutputChunks {
    stretches: Vec<OutputRange>,
    /// Memory for what is made.
    spare: Vec<Vec<u8>>,
}

#[derive(Debug)]
enum OutputRange {
    /// A part of the piece, in bytes from 0.
    Same(Range<usize>),
    Made(Vec<u8>),
}

impl OutputChunks {
    /// The stretches, none of them empty. `piece` is that for which they were given.
    pub fn stretches<'a>(&'a self, piece: &'a [u8]) -> impl Iterator<Item = &'a [u8]> {
        let bytes = |stretch: &'a OutputRange| match stretch {
            OutputRange::Same(part) => &piece[part.clone()],
            OutputRange::Made(bytes) => bytes,
        };
        self.stretches.iter().map(bytes).filter(|bytes| !bytes.is_empty())
    }

    /// How long it is, in bytes, if it is just the start of the piece, unchanged.
    pub fn same_start(&self) -> Option<usize> {
        match &self.stretches[..] {
            [] => Some(0),
            [OutputRange::Same(part)] if part.start == 0 => Some(part.end),
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
            if let OutputRange::Made(made) = stretch {
                self.recycle(made);
            }
        }
    }

    /// Memory to make something of that many bytes in; it is empty.
    pub(crate) fn spare(&mut self, len: usize) -> Vec<u8> {
        let fitting = self.spare.iter().enumerate().filter(|(_, memory)| memory.capacity() >= len);
        let tightest = fitting.min_by_key(|(_, memory)| memory.capacity()).map(|(index, _)| index);
        tightest.map_or_else(|| Vec::with_capacity(len.next_power_of_two()), |index| self.spare.swap_remove(index))
    }

    /// Takes memory back that was not needed.
    pub(crate) fn recycle(&mut self, mut memory: Vec<u8>) {
        let kept: usize = self.spare.iter().map(Vec::capacity).sum();
        if memory.capacity() > 0 && kept + memory.capacity() <= MOST_SPARE {
            memory.clear();
            self.spare.push(memory);
        }
    }

    /// Hands its spare memory to where the next things are made.
    pub(crate) fn borrow_buffers(&mut self, other: &mut Self) {
        self.spare.drain(..).for_each(|memory| other.recycle(memory));
    }

    /// Where to append what is made.
    pub(crate) fn made(&mut self) -> &mut Vec<u8> {
        if !matches!(self.stretches.last(), Some(OutputRange::Made(_))) {
            let largest = self.spare.iter().enumerate().max_by_key(|(_, memory)| memory.capacity());
            let largest = largest.map(|(index, _)| index);
            let made = largest.map(|index| self.spare.swap_remove(index)).unwrap_or_default();
            self.stretches.push(OutputRange::Made(made));
        }
        match self.stretches.last_mut() {
            Some(OutputRange::Made(made)) => made,
            _ => unreachable!("it was pushed just now"),
        }
    }

    /// Adds what was made elsewhere.
    pub(crate) fn add_made(&mut self, made: Vec<u8>) {
        match self.stretches.last_mut() {
            Some(OutputRange::Made(last)) if made.len() < SHORT => {
                last.extend_from_slice(&made);
                self.recycle(made);
            }
            _ => self.stretches.push(OutputRange::Made(made)),
        }
    }

    /// Adds a part of the piece.
    pub(crate) fn add_same(&mut self, piece: &[u8], part: Range<usize>) {
        if part.is_empty() {
            return;
        }
        if let Some(OutputRange::Made(made)) = self.stretches.pop_if(|last| last.is_empty()) {
            self.recycle(made);
        }
        match self.stretches.last_mut() {
            Some(OutputRange::Same(last)) if last.end == part.start => last.end = part.end,
            Some(OutputRange::Made(made)) if part.len() < SHORT => made.extend_from_slice(&piece[part]),
            _ => self.stretches.push(OutputRange::Same(part)),
        }
    }

    /// Takes over what was given for `text`, which was made of the piece.
    pub(crate) fn take_made(&mut self, other: &mut Self, text: &[u8]) {
        for stretch in other.stretches.drain(..) {
            match stretch {
                OutputRange::Same(part) => self.made().extend_from_slice(&text[part]),
                OutputRange::Made(made) => self.add_made(made),
            }
        }
    }

    /// Takes over what was given for the part of `piece` that starts at `at`.
    pub(crate) fn take(&mut self, other: &mut Self, piece: &[u8], at: usize) {
        for stretch in other.stretches.drain(..) {
            match stretch {
                OutputRange::Same(part) => self.add_same(piece, at + part.start..at + part.end),
                OutputRange::Made(made) => self.add_made(made),
            }
        }
    }
}

impl OutputRange {
    fn is_empty(&self) -> bool {
        match self {
            Self::Same(part) => part.is_empty(),
            Self::Made(made) => made.is_empty(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const PIECE: &[u8] = &[b'x'; 3 * SHORT];

    fn given(steps: &[(&str, Range<usize>)]) -> OutputChunks {
        let mut given = OutputChunks::default();
        for (made, same) in steps {
            match *made {
                "" => given.add_same(PIECE, same.clone()),
                made => given.made().extend_from_slice(made.as_bytes()),
            }
        }
        given
    }

    #[test]
    fn what_is_unchanged_from_the_start_is_told_as_long_as_nothing_was_made() {
        let none = 0..0;
        for (steps, want) in [
            (vec![], Some(0)),
            (vec![("", 0..5)], Some(5)),
            (vec![("", 0..5), ("", 5..PIECE.len())], Some(PIECE.len())),
            (vec![("", 5..9)], None),
            (vec![("fog", none.clone())], None),
            (vec![("", 0..SHORT), ("fog", none.clone())], None),
            (vec![("", 0..SHORT), ("", 2 * SHORT..3 * SHORT)], None),
        ] {
            assert_eq!(given(&steps).same_start(), want, "{steps:?}");
        }
        let mut nothing_made = OutputChunks::default();
        nothing_made.made();
        nothing_made.add_same(PIECE, 0..7);
        assert_eq!(nothing_made.same_start(), Some(7), "memory to make something in is no result");
    }

    #[test]
    fn long_stretches_are_not_copied_and_short_ones_do_not_stand_alone() {
        let given = given(&[("fog", 0..0), ("", 0..SHORT), ("horn", 0..0), ("", SHORT..SHORT + 2), ("s", 0..0)]);
        let stretches: Vec<&[u8]> = given.stretches(PIECE).collect();
        assert_eq!(stretches.iter().map(|stretch| stretch.len()).collect::<Vec<_>>(), [3, SHORT, 7]);
        assert_eq!(stretches[2], b"hornxxs");
        assert_eq!(stretches[1].as_ptr(), PIECE.as_ptr(), "a part of the piece itself");
    }

    #[test]
    fn parts_of_a_piece_and_of_what_was_made_of_it_come_one_behind_the_other() {
        let (mut all, mut part) = (OutputChunks::default(), OutputChunks::default());
        part.add_same(PIECE, 0..SHORT);
        part.add_made(b"fog".repeat(SHORT));
        all.take(&mut part, PIECE, SHORT);
        let made = b"lamp".repeat(SHORT);
        part.add_same(&made, 0..made.len());
        all.take_made(&mut part, &made);
        let mut out = Vec::new();
        all.append_to(PIECE, &mut out);
        assert_eq!(out, [&PIECE[SHORT..2 * SHORT], &b"fog".repeat(SHORT), &made].concat());
        assert_eq!(part.same_start(), Some(0), "it is given on whole");
    }

    #[test]
    fn memory_is_used_again_but_no_more_of_it_kept_than_is_worth_it() {
        let mut given = OutputChunks::default();
        for _ in 0..3 {
            let sizes = [100_000, 10, 3 * MOST_SPARE];
            sizes.iter().for_each(|size| given.add_made(vec![b'f'; SHORT.max(*size)]));
            given.clear();
        }
        let kept: usize = given.spare.iter().map(Vec::capacity).sum();
        assert!((100_000..=MOST_SPARE).contains(&kept), "{kept}");
        assert!(given.spare(50_000).capacity() >= 100_000, "the one that fits");
        assert_eq!(given.same_start(), Some(0));
    }
}
