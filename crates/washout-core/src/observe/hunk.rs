//! Stretches of whole lines that changed together.

use super::lineage::Segment;
use crate::program::RuleId;
use crate::text::SizeCounter;
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

/// A stretch of a hunk.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Piece {
    /// In which text it stands.
    pub side: Side,
    /// Its bytes, line ends included.
    pub bytes: Vec<u8>,
}

/// The smallest stretch of whole lines that changed without touching the lines around it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Hunk {
    /// Its first line in the text before, from 1.
    pub first_line: u64,
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

impl Side {
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
    most_bytes: usize,
    done: Vec<Hunk>,
    open: Open,
    /// Lines of the text before that lie behind the open hunk.
    lines_behind: u64,
}

/// The hunk that is being built: it ends as soon as both texts are at the start of a line.
#[derive(Debug, Default)]
struct Open {
    pieces: Vec<Piece>,
    bytes: usize,
    cut_bytes: u64,
    changed: bool,
    before: SizeCounter,
    after: SizeCounter,
    last_before: Option<u8>,
    last_after: Option<u8>,
}

impl HunkBuilder {
    pub(super) fn new(most_bytes: usize) -> Self {
        Self { most_bytes, done: Vec::new(), open: Open::default(), lines_behind: 0 }
    }

    pub(super) fn take(&mut self) -> Vec<Hunk> {
        std::mem::take(&mut self.done)
    }

    pub(super) fn add(&mut self, segment: &Segment) {
        let mut rest = &segment.bytes[..];
        while !rest.is_empty() {
            if self.open.at_line_starts(segment.side, rest[0]) {
                self.close();
            }
            if segment.side == Side::Kept && self.open.bytes == 0 {
                rest = self.skip_whole_lines(rest);
                if rest.is_empty() {
                    return;
                }
            }
            let line = Line::at(rest, 0).end;
            self.open.add(segment.side, &rest[..line], self.most_bytes);
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
        let (lines_before, lines_after) = (open.before.size().lines, open.after.size().lines);
        if open.changed && !open.ends_as_it_was() {
            self.done.push(Hunk {
                first_line: self.lines_behind + 1,
                lines_before,
                lines_after,
                pieces: open.pieces,
                cut_bytes: open.cut_bytes,
            });
        }
        self.lines_behind += lines_before;
    }

    pub(super) fn finish(&mut self) {
        if self.open.bytes > 0 {
            self.close();
        }
    }
}

impl Open {
    /// Whether both texts are at the start of a line, so that a segment of this side starts a new hunk.
    ///
    /// A CR that LF follows is no line end yet; which byte follows shows only now, and only on the segment's side.
    fn at_line_starts(&self, side: Side, next: u8) -> bool {
        let ended = |last: Option<u8>, sees_next: bool| match last {
            None | Some(b'\n') => true,
            Some(b'\r') => !(sees_next && next == b'\n'),
            Some(_) => false,
        };
        let (in_before, in_after) = (!matches!(side, Side::Put(_)), !matches!(side, Side::Removed(_)));
        self.bytes > 0 && ended(self.last_before, in_before) && ended(self.last_after, in_after)
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

    fn add(&mut self, side: Side, bytes: &[u8], most_bytes: usize) {
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
        if self.bytes > most_bytes && !self.pieces.is_empty() {
            self.cut_bytes += bytes.len() as u64;
            return;
        }
        match self.pieces.last_mut() {
            Some(last) if last.side == side => last.bytes.extend_from_slice(bytes),
            _ => self.pieces.push(Piece { side, bytes: bytes.to_vec() }),
        }
    }
}
