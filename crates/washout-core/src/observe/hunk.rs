//! Stretches of whole lines that changed together.

use std::sync::Arc;

use super::lineage::SourceSegment;
use super::placed::Position;
use crate::rules::RuleId;
use crate::text::SizeCounter;
use crate::text::chars::splits_char;
use crate::text::lines::{Line, last_whole_line};

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

/// A part of a hunk ends at the first unchanged stretch after that many bytes.
const PART: usize = 256 << 10;

/// A hunk is cut after this many times its context.
const MOST_CONTEXTS: usize = 64;

/// A stretch of a hunk.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Piece {
    /// In which text it stands.
    pub side: Side,
    /// Its bytes, line ends included.
    pub bytes: Vec<u8>,
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
    /// Its pieces, in order. Those in the text before make up its lines there, and so for the text after.
    pub pieces: Vec<Piece>,
    /// Bytes at its end that were not kept to be shown.
    pub cut_bytes: u64,
}

impl Hunk {
    /// The rules that had a part in it, in ascending order.
    pub fn rules(&self) -> Vec<RuleId> {
        let mut rules: Vec<RuleId> = self.pieces.iter().filter_map(|piece| piece.side.rule()).collect();
        rules.sort_unstable();
        rules.dedup();
        rules
    }
}

impl Hunk {
    /// One hunk of these, which follow each other with nothing between them.
    pub(crate) fn joined(hunks: Vec<Self>) -> Vec<Self> {
        let mut hunks = hunks.into_iter();
        let Some(mut first) = hunks.next() else { return Vec::new() };
        for hunk in hunks {
            first.lines_before += hunk.lines_before;
            first.lines_after += hunk.lines_after;
            first.cut_bytes += hunk.cut_bytes;
            first.pieces.extend(hunk.pieces);
        }
        vec![first]
    }

    /// Makes it one of a text of one line that has these before and after it.
    pub(crate) fn put_between(&mut self, before: &[u8], behind: &[u8]) {
        let kept = |bytes: &[u8]| Piece { side: Side::Kept, bytes: bytes.to_vec(), omitted: 0, omitted_chars: 0 };
        self.pieces.insert(0, kept(before));
        self.pieces.push(kept(behind));
        self.pieces.retain(|piece| !piece.bytes.is_empty());
    }
}

impl Side {
    /// The same by another rule, if it is by any.
    pub(crate) fn by(self, rule: RuleId) -> Self {
        match self {
            Self::Kept => Self::Kept,
            Self::Removed(_) => Self::Removed(rule),
            Self::Put(_) => Self::Put(rule),
        }
    }

    /// The rule that made the change; `None` for what was kept.
    pub fn rule(self) -> Option<RuleId> {
        match self {
            Self::Kept => None,
            Self::Removed(rule) | Self::Put(rule) => Some(rule),
        }
    }
}

/// Cuts a stream of segments into hunks. Lines that did not change are only counted.
#[derive(Debug)]
pub(super) struct HunkBuilder {
    detail: Detail,
    done: Vec<Hunk>,
    open: OpenHunk,
    /// Line ends of the text before that come before the open hunk, or before the open part of it.
    lines_behind: u64,
}

/// The hunk that is being built: it ends as soon as both texts are at the start of a line.
#[derive(Debug, Default)]
struct OpenHunk {
    pieces: Vec<Piece>,
    /// Bytes in `pieces`.
    shown: usize,
    bytes: usize,
    cut_bytes: u64,
    /// Characters of the first line that came in the part before. `None`: this is the first part.
    chars_before: Option<u64>,
    changed: bool,
    before: SizeCounter,
    after: SizeCounter,
    last_before: Option<u8>,
    last_after: Option<u8>,
}

impl HunkBuilder {
    pub(super) fn new(detail: Detail) -> Self {
        Self { detail, done: Vec::new(), open: OpenHunk::default(), lines_behind: 0 }
    }

    pub(super) fn take(&mut self) -> Vec<Hunk> {
        std::mem::take(&mut self.done)
    }

    pub(super) fn add(&mut self, segment: &SourceSegment) {
        let mut rest = segment.bytes();
        while !rest.is_empty() {
            if self.open.at_line_starts(segment.side, rest[0]) {
                self.close();
            }
            if segment.side == Side::Kept && !self.open.is_begun() {
                rest = self.skip_whole_lines(rest);
                if rest.is_empty() {
                    return;
                }
            }
            if segment.side == Side::Kept && self.detail == Detail::Parts && self.open.may_be_cut() {
                self.close_part();
            }
            let line = Line::at(rest, 0).end;
            self.open.add(segment.side, &rest[..line], self.detail);
            rest = &rest[line..];
        }
    }

    /// Counts the unchanged lines at the start of a kept stretch; gives what is left, the start of a line.
    fn skip_whole_lines<'b>(&mut self, bytes: &'b [u8]) -> &'b [u8] {
        let (whole, rest) = bytes.split_at(last_whole_line(bytes));
        let mut counter = SizeCounter::default();
        counter.add(whole);
        self.lines_behind += counter.size().lines;
        rest
    }

    fn close(&mut self) {
        let open = std::mem::take(&mut self.open);
        let lines_before = open.before.size().lines;
        self.done.extend(open.hunk(self.lines_behind + 1));
        self.lines_behind += lines_before;
    }

    /// Gives what there is of the open hunk; the rest follows.
    fn close_part(&mut self) {
        let next =
            OpenHunk { last_before: self.open.last_before, last_after: self.open.last_after, ..OpenHunk::default() };
        let open = std::mem::replace(&mut self.open, next);
        let mut at = Position::at(self.lines_behind + 1, open.chars_before.unwrap_or(0) + 1);
        open.pieces.iter().for_each(|piece| at.pass_piece(piece));
        self.open.chars_before = Some(at.column - 1);
        self.done.extend(
            OpenHunk { chars_before: Some(open.chars_before.unwrap_or(0)), ..open }.hunk(self.lines_behind + 1),
        );
        self.lines_behind = at.line - 1;
    }

    pub(super) fn finish(&mut self) {
        if self.open.is_begun() {
            self.close();
        }
    }
}

impl OpenHunk {
    fn is_begun(&self) -> bool {
        self.bytes > 0 || self.chars_before.is_some()
    }

    /// Whether a part may end here: it is long enough, and no line end is cut in two.
    fn may_be_cut(&self) -> bool {
        self.bytes >= PART && ![self.last_before, self.last_after].contains(&Some(b'\r'))
    }

    /// The hunk, which begins on this line. `None`: nothing has changed.
    fn hunk(mut self, first_line: u64) -> Option<Hunk> {
        if !self.changed || self.ends_as_it_was() {
            // A part stays all the same: parts follow each other without a gap.
            self.chars_before?;
            self.pieces.retain(|piece| !matches!(piece.side, Side::Put(_)));
            self.pieces.iter_mut().for_each(|piece| piece.side = Side::Kept);
        }
        Some(Hunk {
            cell: None,
            source: None,
            first_line,
            chars_before: self.chars_before.unwrap_or(0),
            lines_before: self.before.size().lines,
            lines_after: self.after.size().lines,
            pieces: self.pieces,
            cut_bytes: self.cut_bytes,
        })
    }

    /// Whether both texts are at the start of a line, so that a segment of this side starts a new hunk.
    ///
    /// A CR that LF follows is not a line end yet; which byte follows shows only now, and only on the segment's side.
    fn at_line_starts(&self, side: Side, next: u8) -> bool {
        let ended = |last: Option<u8>, sees_next: bool| match last {
            None | Some(b'\n') => true,
            Some(b'\r') => !(sees_next && next == b'\n'),
            Some(_) => false,
        };
        let (in_before, in_after) = (!matches!(side, Side::Put(_)), !matches!(side, Side::Removed(_)));
        self.is_begun() && ended(self.last_before, in_before) && ended(self.last_after, in_after)
    }

    /// Whether what some rules did others undid.
    fn ends_as_it_was(&self) -> bool {
        let side = |away: fn(Side) -> bool| {
            self.pieces.iter().filter(move |piece| !away(piece.side)).flat_map(|piece| &piece.bytes)
        };
        let before = side(|side| matches!(side, Side::Put(_)));
        let after = side(|side| matches!(side, Side::Removed(_)));
        self.cut_bytes == 0 && before.eq(after)
    }

    fn add(&mut self, side: Side, bytes: &[u8], detail: Detail) {
        self.changed |= side != Side::Kept;
        self.bytes += bytes.len();
        if !matches!(side, Side::Put(_)) {
            self.before.add(bytes);
            self.last_before = bytes.last().copied();
        }
        if !matches!(side, Side::Removed(_)) {
            self.after.add(bytes);
            self.last_after = bytes.last().copied();
        }
        if let Detail::Around { context } = detail
            && self.shown > context * MOST_CONTEXTS
        {
            self.cut_bytes += bytes.len() as u64;
            return;
        }
        self.shown += bytes.len();
        match self.pieces.last_mut() {
            Some(last) if last.side == side => last.bytes.extend_from_slice(bytes),
            _ => self.pieces.push(Piece { side, bytes: bytes.to_vec(), omitted: 0, omitted_chars: 0 }),
        }
        if let (Side::Kept, Detail::Around { context }) = (side, detail) {
            self.shorten_last(context);
        }
    }

    /// Leaves out the middle of a long unchanged stretch of one line.
    fn shorten_last(&mut self, context: usize) {
        let Some(last) = self.pieces.last_mut() else { return };
        let line = last.bytes.iter().rev().skip(1).position(|byte| matches!(byte, b'\n' | b'\r'));
        let start = line.map_or(0, |back| last.bytes.len() - 1 - back);
        let (head, tail) = (start + context, last.bytes.len().saturating_sub(context));
        if tail <= head + context {
            return;
        }
        let boundary = |at: usize| (at..last.bytes.len()).find(|at| !splits_char(&last.bytes, *at)).unwrap_or(at);
        let (head, tail) = (boundary(head), boundary(tail));
        let rest = last.bytes.split_off(tail);
        // What follows text that was left out already has no head to keep.
        let head = if last.omitted > 0 && start == 0 { 0 } else { head };
        let omitted = (tail - head) as u64;
        let omitted_chars = bytecount::num_chars(&last.bytes[head..]) as u64;
        self.shown -= tail - head;
        last.bytes.truncate(head);
        if head == 0 {
            last.bytes = rest;
            last.omitted += omitted;
            last.omitted_chars += omitted_chars;
        } else {
            self.pieces.push(Piece { side: Side::Kept, bytes: rest, omitted, omitted_chars });
        }
    }
}
