//! Stretches of whole lines that changed together.

use std::ops::Range;
use std::sync::Arc;

use crate::rules::RuleId;
use crate::text::chars::splits_char;

/// In which of the two texts, before and after, a stretch stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Side {
    /// In both.
    Kept,
    /// Only in the text before; this rule took it.
    Removed(RuleId),
    /// Only in the text after; this rule put it there.
    Put(RuleId),
}

/// How much of a hunk is kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Detail {
    /// All of it.
    All,
    /// All of it. A long one comes in several parts that follow each other, cut where nothing changed.
    Parts,
    /// Of long lines only what is around their changes, and of very long hunks only the start.
    Around {
        /// Bytes of unchanged text that are kept on either side of a change.
        context: usize,
    },
}

/// A stretch of a hunk.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Piece<'h> {
    /// In which text it stands.
    pub side: Side,
    /// Its bytes, line ends included.
    pub bytes: &'h [u8],
    /// Bytes of the same line that were left out before these, since nothing changed there.
    pub omitted: u64,
    /// The same in characters.
    pub omitted_chars: u64,
}

/// A cell of a table, or a whole record.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct CellPlace {
    /// Its record, from 1; 0 is the header.
    pub record: u64,
    /// Its field, by its name or else its place. `None`: it is the whole record.
    pub field: Option<Arc<str>>,
}

/// The cell that a rule made another one from.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct CellSource {
    /// Its field, by its name or else its place.
    pub field: Arc<str>,
    /// What is in it where the rule runs.
    pub value: Vec<u8>,
}

/// The smallest stretch of whole lines that changed without touching the lines around it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Hunk {
    /// The cell it is in, if the text is a table; its lines are those of the cell then.
    pub cell: Option<CellPlace>,
    /// The cell of the same record whose value a rule put there, if it came from another.
    pub source: Option<Arc<CellSource>>,
    /// Its first line in the text before, from 1.
    pub first_line: u64,
    /// How many characters of that line came in the part before; 0 where it is not a later part of a longer hunk.
    pub chars_before: u64,
    /// How many lines it has in the text before.
    pub lines_before: u64,
    /// How many lines it has in the text after.
    pub lines_after: u64,
    /// Bytes at its end that were not kept to be shown.
    pub cut_bytes: u64,
    pub(crate) pieces: Pieces,
}

/// A hunk is cut after this many times its context.
const MOST_CONTEXTS: usize = 64;

/// The pieces of a hunk: some of those of a list that it shares with other hunks.
#[derive(Clone, Debug, Default)]
pub(crate) struct Pieces {
    pub(super) list: Arc<PieceList>,
    /// Which they are, by their places in the list.
    pub(super) range: Range<usize>,
}

/// Pieces whose bytes stand one after the other: a hunk of a short line is not worth memory of its own.
#[derive(Clone, Debug, Default)]
pub(super) struct PieceList {
    pub(super) bytes: Vec<u8>,
    pub(super) spans: Vec<PieceSpan>,
}

/// A piece that begins where the one before ends.
#[derive(Clone, Copy, Debug)]
pub(super) struct PieceSpan {
    pub(super) side: Side,
    /// Its end in the bytes of all pieces.
    pub(super) end: usize,
    omitted: u64,
    omitted_chars: u64,
}

impl Pieces {
    fn iter(&self) -> impl DoubleEndedIterator<Item = Piece<'_>> + ExactSizeIterator + Clone {
        self.list.iter(self.range.clone())
    }
}

impl PartialEq for Pieces {
    fn eq(&self, other: &Self) -> bool {
        self.iter().eq(other.iter())
    }
}

impl Eq for Pieces {}

impl From<PieceList> for Pieces {
    fn from(list: PieceList) -> Self {
        Self { range: 0..list.spans.len(), list: Arc::new(list) }
    }
}

impl PieceList {
    pub(super) fn iter(
        &self,
        range: Range<usize>,
    ) -> impl DoubleEndedIterator<Item = Piece<'_>> + ExactSizeIterator + Clone {
        range.map(|index| {
            let PieceSpan { side, end, omitted, omitted_chars } = self.spans[index];
            Piece { side, bytes: &self.bytes[self.start(index)..end], omitted, omitted_chars }
        })
    }

    /// Where the bytes of a piece begin.
    pub(super) fn start(&self, index: usize) -> usize {
        index.checked_sub(1).map_or(0, |before| self.spans[before].end)
    }

    pub(super) fn push(&mut self, piece: Piece<'_>) {
        let Piece { side, bytes, omitted, omitted_chars } = piece;
        self.bytes.extend_from_slice(bytes);
        self.spans.push(PieceSpan { side, end: self.bytes.len(), omitted, omitted_chars });
    }

    /// Cuts the pieces from this one on off, and gives them.
    pub(super) fn split_off(&mut self, from: usize) -> Self {
        let start = self.start(from);
        let mut spans = self.spans.split_off(from);
        spans.iter_mut().for_each(|span| span.end -= start);
        Self { bytes: self.bytes.split_off(start), spans }
    }

    /// Whether no more is kept of a hunk that begins with this piece, and of which so much is kept around changes, in bytes.
    pub(super) fn is_enough(&self, first: usize, context: usize) -> bool {
        self.bytes.len() - self.start(first) > context * MOST_CONTEXTS
    }

    /// Leaves out the middle of a long unchanged stretch of one line.
    pub(super) fn shorten_last(&mut self, context: usize) {
        let Some(index) = self.spans.len().checked_sub(1) else { return };
        let first = self.start(index);
        let last = &self.bytes[first..];
        let line = last.iter().rev().skip(1).position(|byte| matches!(byte, b'\n' | b'\r'));
        let start = line.map_or(0, |back| last.len() - 1 - back);
        let (head, tail) = (start + context, last.len().saturating_sub(context));
        if tail <= head + context {
            return;
        }
        let boundary = |at: usize| (at..last.len()).find(|at| !splits_char(last, *at)).unwrap_or(at);
        let (head, tail) = (boundary(head), boundary(tail));
        // What follows text that was left out already has no head to keep.
        let head = if self.spans[index].omitted > 0 && start == 0 { 0 } else { head };
        let omitted_chars = bytecount::num_chars(&last[head..tail]) as u64;
        let omitted = (tail - head) as u64;
        self.bytes.drain(first + head..first + tail);
        let span = &mut self.spans[index];
        if head == 0 {
            span.end = self.bytes.len();
            span.omitted += omitted;
            span.omitted_chars += omitted_chars;
        } else {
            span.end = first + head;
            self.spans.push(PieceSpan { side: Side::Kept, end: self.bytes.len(), omitted, omitted_chars });
        }
    }
}

impl<'p> FromIterator<Piece<'p>> for Pieces {
    fn from_iter<I: IntoIterator<Item = Piece<'p>>>(pieces: I) -> Self {
        let mut list = PieceList::default();
        pieces.into_iter().for_each(|piece| list.push(piece));
        list.into()
    }
}

impl Hunk {
    /// Its pieces, in order. Those in the text before make up its lines there, and so for the text after.
    pub fn pieces(&self) -> impl DoubleEndedIterator<Item = Piece<'_>> + ExactSizeIterator + Clone {
        self.pieces.iter()
    }

    /// The same hunk with other pieces.
    #[must_use]
    pub fn with_pieces<'p>(&self, pieces: impl IntoIterator<Item = Piece<'p>>) -> Self {
        let pieces = pieces.into_iter().collect();
        Self { cell: self.cell.clone(), source: self.source.clone(), pieces, ..*self }
    }

    /// As much of it as [`Detail::Around`] keeps.
    #[must_use]
    pub fn around(&self, context: usize) -> Self {
        let (mut list, mut cut_bytes) = (PieceList::default(), self.cut_bytes);
        for piece in self.pieces() {
            if list.is_enough(0, context) {
                cut_bytes += piece.bytes.len() as u64;
                continue;
            }
            list.push(piece);
            if piece.side == Side::Kept {
                list.shorten_last(context);
            }
        }
        Self { cell: self.cell.clone(), source: self.source.clone(), pieces: list.into(), cut_bytes, ..*self }
    }

    /// The rules that had a part in it, in ascending order.
    pub fn rules(&self) -> Vec<RuleId> {
        let mut rules: Vec<RuleId> = self.pieces().filter_map(|piece| piece.side.rule()).collect();
        rules.sort_unstable();
        rules.dedup();
        rules
    }

    /// Makes each change one by the rule that is given for its rule.
    pub(crate) fn by(&mut self, rule_for: impl Fn(RuleId) -> RuleId) {
        let side = |side| match side {
            Side::Kept => Side::Kept,
            Side::Removed(rule) => Side::Removed(rule_for(rule)),
            Side::Put(rule) => Side::Put(rule_for(rule)),
        };
        self.pieces = self.pieces.iter().map(|piece| Piece { side: side(piece.side), ..piece }).collect();
    }

    /// One hunk of these, which follow each other with nothing between them.
    pub(crate) fn joined(hunks: Vec<Self>) -> Vec<Self> {
        let mut hunks = hunks.into_iter();
        let Some(mut first) = hunks.next() else { return Vec::new() };
        for hunk in hunks {
            first.lines_before += hunk.lines_before;
            first.lines_after += hunk.lines_after;
            first.cut_bytes += hunk.cut_bytes;
            first.pieces = first.pieces().chain(hunk.pieces()).collect();
        }
        vec![first]
    }

    /// Makes it one of a text of one line that has these before and after it.
    pub(crate) fn put_between(&mut self, before: &[u8], behind: &[u8]) {
        let kept = |bytes| Piece { side: Side::Kept, bytes, omitted: 0, omitted_chars: 0 };
        let all = std::iter::once(kept(before)).chain(self.pieces()).chain([kept(behind)]);
        self.pieces = all.filter(|piece| !piece.bytes.is_empty()).collect();
    }
}

impl Side {
    /// The rule that made the change; `None` for what was kept.
    pub fn rule(self) -> Option<RuleId> {
        match self {
            Self::Kept => None,
            Self::Removed(rule) | Self::Put(rule) => Some(rule),
        }
    }
}
