//! The changes one rule makes to one block.

use std::ops::Range;

use crate::text::copy::{BEYOND, append, put_few_over, put_over};
use crate::text::matches::Span;

/// One change: `place` of the block gives way to other bytes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Edit {
    pub(crate) place: Span,
    put: Span,
    /// How many matches the change stands for.
    pub(crate) matches: u64,
}

/// Changes in ascending order, without overlap.
#[derive(Debug)]
pub(crate) struct Edits {
    list: Vec<Edit>,
    /// What is put in place of all of them, one after the other.
    put: Vec<u8>,
    /// How long that may become, in bytes.
    room: usize,
}

impl Default for Edits {
    fn default() -> Self {
        Self { list: Vec::new(), put: Vec::new(), room: usize::MAX }
    }
}

impl Edits {
    /// Says how much may be put in place of all changes of one block, in bytes.
    pub(crate) fn grant(&mut self, room: usize) {
        self.room = room;
    }

    /// Whether the changes put in place more than there is room for. Changes are missing then.
    pub(crate) fn is_over(&self) -> bool {
        self.put.len() > self.room
    }

    pub(crate) fn clear(&mut self) {
        self.list.clear();
        self.put.clear();
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.list.is_empty()
    }

    /// Adds the change of `place` to `put`, unless it would leave the bytes as they are.
    #[inline]
    pub(crate) fn push(&mut self, text: &[u8], place: Range<usize>, put: &[u8], matches: u64) {
        if text[place.clone()] == *put {
            return;
        }
        let put_start = self.put.len();
        match put {
            [] => {}
            [byte] => self.put.push(*byte),
            _ if self.is_over() => return,
            _ => self.put.extend_from_slice(put),
        }
        self.add(text, place, put_start, matches);
    }

    /// As `push`, for a replacement that is written in parts.
    #[inline]
    pub(crate) fn push_with(
        &mut self,
        text: &[u8],
        place: Range<usize>,
        matches: u64,
        write: impl FnOnce(&mut Vec<u8>),
    ) {
        if self.is_over() {
            return;
        }
        let put_start = self.put.len();
        write(&mut self.put);
        if text[place.clone()] == self.put[put_start..] {
            self.put.truncate(put_start);
            return;
        }
        self.add(text, place, put_start, matches);
    }

    /// As `push_with`, where what writes the replacement says how many matches it stands for: none leaves the bytes as they
    /// are.
    #[inline]
    pub(crate) fn push_counted(&mut self, text: &[u8], place: Range<usize>, write: impl FnOnce(&mut Vec<u8>) -> u64) {
        if self.is_over() {
            return;
        }
        let put_start = self.put.len();
        match write(&mut self.put) {
            0 => self.put.truncate(put_start),
            matches => self.add(text, place, put_start, matches),
        }
    }

    /// Adds a change; what it puts in place starts at `put_start`.
    #[inline]
    fn add(&mut self, text: &[u8], place: Range<usize>, put_start: usize, matches: u64) {
        let put = Span::new(put_start, self.put.len());
        match self.list.last_mut() {
            Some(last) if joins(text, last, &place) => {
                last.place.end = place.end;
                last.put.end = put.end;
                last.matches += matches;
            }
            last => {
                debug_assert!(
                    last.is_none_or(|last| last.place.end <= place.start),
                    "changes overlap or are out of order"
                );
                self.list.push(Edit { place: Span::new(place.start, place.end), put, matches });
            }
        }
    }

    /// Forgets the changes that do not lie in this stretch.
    pub(crate) fn retain_within(&mut self, stretch: Range<usize>) {
        let all_within = |list: &[Edit]| {
            list.first().is_none_or(|edit| edit.place.start >= stretch.start)
                && list.last().is_none_or(|edit| edit.place.end <= stretch.end)
        };
        if !all_within(&self.list) {
            self.list.retain(|edit| edit.place.start >= stretch.start && edit.place.end <= stretch.end);
        }
    }

    /// Moves each change towards the end of the text, by the bytes that `by` gives for its start.
    pub(crate) fn move_each(&mut self, mut by: impl FnMut(usize) -> usize) {
        for edit in &mut self.list {
            let by = by(edit.place.start);
            edit.place = Span::new(edit.place.start + by, edit.place.end + by);
        }
    }

    /// The place in the text before the changes for one in the changed text; an inserted byte has the place where it was inserted.
    pub(crate) fn before(&self, at: usize) -> usize {
        let (mut before, mut after) = (0, 0);
        for edit in &self.list {
            let start = after + edit.place.start - before;
            if at < start {
                break;
            }
            let end = start + edit.put.end - edit.put.start;
            if at < end {
                return edit.place.start;
            }
            (before, after) = (edit.place.end, end);
        }
        before + at - after
    }

    pub(crate) fn iter(&self) -> impl Iterator<Item = &Edit> {
        self.list.iter()
    }

    /// All changes, in order.
    pub(crate) fn list(&self) -> &[Edit] {
        &self.list
    }

    /// Appends what the change puts in place; gives how long that is.
    #[inline]
    pub(crate) fn append_put(&self, edit: &Edit, out: &mut Vec<u8>) -> usize {
        let len = edit.put.end - edit.put.start;
        if len > 0 {
            append(out, &self.put, edit.put.start..edit.put.end);
        }
        len
    }

    /// What the change puts in place.
    pub(crate) fn put(&self, edit: &Edit) -> &[u8] {
        edit.put.of(&self.put)
    }

    /// How many matches all changes stand for.
    pub(crate) fn matches(&self) -> u64 {
        self.list.iter().map(|edit| edit.matches).sum()
    }

    /// Appends this stretch of `text`, with all changes made, to `out`. No change lies outside of it.
    pub(crate) fn apply_into(&self, text: &[u8], stretch: Range<usize>, out: &mut Vec<u8>) {
        let (mut from, mut list) = (stretch.start, &self.list[..]);
        while let Some(first) = list.first() {
            if first.place.start - from > PART {
                out.extend_from_slice(&text[from..first.place.start]);
                from = first.place.start;
            }
            let (near, behind) = list.split_at(list.partition_point(|edit| edit.place.start <= from + PART));
            let end = near.last().map_or(from, |last| last.place.end);
            let put = near.iter().map(|edit| edit.put.end - edit.put.start).sum::<usize>();
            let start = out.len();
            out.resize(start + (end - from) + put + BEYOND, 0);
            let len = self.apply(near, text, from..end, &mut out[start..]);
            out.truncate(start + len);
            (from, list) = (end, behind);
        }
        out.extend_from_slice(&text[from..stretch.end]);
    }

    /// Puts `text`, with all changes made, in the place of what is in `out`, which is made longer if it has to be; gives how
    /// long it is then. What is after that in `out` means nothing.
    pub(crate) fn apply_over(&self, text: &[u8], out: &mut Vec<u8>) -> usize {
        let most = text.len() + self.put.len() + BEYOND;
        if out.len() < most {
            out.resize(most, 0);
        }
        self.apply(&self.list, text, 0..text.len(), out)
    }

    /// Puts a stretch with these changes made in the place of what is in `out`; gives how long it is.
    fn apply(&self, list: &[Edit], text: &[u8], stretch: Range<usize>, out: &mut [u8]) -> usize {
        pulp::Arch::new().dispatch(Apply { list, put: &self.put, text, stretch, out })
    }
}

/// So much of a text is changed at a time, in bytes: room has to be made for it, which then is in the processor's nearest
/// cache.
const PART: usize = 8 << 10;

/// Making changes to a stretch of a text, with the longest vectors that the machine has.
struct Apply<'a> {
    list: &'a [Edit],
    /// What all of the changes put in place, and others.
    put: &'a [u8],
    text: &'a [u8],
    stretch: Range<usize>,
    out: &'a mut [u8],
}

impl pulp::WithSimd for Apply<'_> {
    type Output = usize;

    #[expect(clippy::inline_always, reason = "compiled for vectors only where it is part of the caller")]
    #[inline(always)]
    fn with_simd<S: pulp::Simd>(self, _: S) -> usize {
        let Self { list, put, text, stretch, out } = self;
        let (mut from, mut to) = (stretch.start, 0);
        for edit in list {
            to = put_over(out, to, text, from..edit.place.start);
            to = put_few_over(out, to, put, edit.put.start..edit.put.end);
            from = edit.place.end;
        }
        put_over(out, to, text, from..stretch.end)
    }
}

/// Gives the count of one match to the first of several changes. None of them may touch another.
#[derive(Default)]
pub(crate) struct CountOnce {
    counted: bool,
}

impl CountOnce {
    pub(crate) fn push(&mut self, edits: &mut Edits, text: &[u8], place: Range<usize>, put: &[u8]) {
        let before = edits.list.len();
        edits.push(text, place, put, u64::from(!self.counted));
        self.counted |= edits.list.len() > before;
    }
}

/// Neighbouring changes on one line are one to the reader: nine removed dashes, not nine times one.
fn joins(text: &[u8], last: &Edit, place: &Range<usize>) -> bool {
    let touches = last.place.end == place.start && last.place.start < place.start && place.start < place.end;
    touches && !matches!(text[place.start - 1], b'\n' | b'\r')
}
