//! Stretches of a text on their way into hunks.

use std::ops::Range;
use std::sync::Arc;

use super::hunk::{Detail, Hunk, Piece, PieceList, Pieces, Side};
use super::placed::Position;
use crate::text::lines::{Line, last_whole_line, line_ends};

/// A part of a hunk ends at the first unchanged stretch after that many bytes.
const PART: usize = 256 << 10;

/// Cuts a stream of stretches into hunks. Lines that did not change are only counted.
#[derive(Debug)]
pub(super) struct HunkBuilder {
    detail: Detail,
    done: Vec<DoneHunk>,
    /// The pieces of the hunks that are done, and then of the open one.
    list: PieceList,
    open: OpenHunk,
    /// Line ends of the text before that come before the open hunk, or before the open part of it.
    lines_behind: u64,
}

/// A hunk whose pieces are these of the list.
#[derive(Debug)]
struct DoneHunk {
    pieces: Range<usize>,
    first_line: u64,
    chars_before: u64,
    lines_before: u64,
    lines_after: u64,
    cut_bytes: u64,
}

/// The hunk that is being built: it ends as soon as both texts are at the start of a line.
#[derive(Debug, Default)]
struct OpenHunk {
    /// Its first piece in the list.
    first: usize,
    bytes: usize,
    cut_bytes: u64,
    /// Characters of the first line that came in the part before. `None`: this is the first part.
    chars_before: Option<u64>,
    changed: bool,
    before: OneText,
    after: OneText,
}

/// One of the two texts, as far as it is in the open hunk.
#[derive(Clone, Copy, Debug, Default)]
struct OneText {
    bytes: usize,
    /// Line ends; a CR at the end is one.
    line_ends: u64,
    last: Option<u8>,
}

impl OneText {
    /// Adds the next bytes, which have no line end but at their end.
    fn add(&mut self, bytes: &[u8]) {
        let goes_on = self.last == Some(b'\r') && bytes == b"\n";
        self.line_ends += u64::from(matches!(bytes.last(), Some(b'\n' | b'\r')) && !goes_on);
        self.bytes += bytes.len();
        self.last = bytes.last().copied();
    }

    fn lines(&self) -> u64 {
        self.line_ends + u64::from(self.bytes > 0 && !matches!(self.last, Some(b'\n' | b'\r')))
    }
}

impl HunkBuilder {
    pub(super) fn new(detail: Detail) -> Self {
        Self { detail, done: Vec::new(), list: PieceList::default(), open: OpenHunk::default(), lines_behind: 0 }
    }

    pub(super) fn take(&mut self) -> Vec<Hunk> {
        if self.done.is_empty() {
            return Vec::new();
        }
        let open = self.list.split_off(self.open.first);
        self.open.first = 0;
        let list = Arc::new(std::mem::replace(&mut self.list, open));
        let hunk = |DoneHunk { pieces, first_line, chars_before, lines_before, lines_after, cut_bytes }| Hunk {
            cell: None,
            source: None,
            first_line,
            chars_before,
            lines_before,
            lines_after,
            cut_bytes,
            pieces: Pieces { list: Arc::clone(&list), range: pieces },
        };
        self.done.drain(..).map(hunk).collect()
    }

    /// Adds the next stretch.
    pub(super) fn add(&mut self, side: Side, bytes: &[u8]) {
        let mut rest = bytes;
        while !rest.is_empty() {
            if self.open.at_line_starts(side, rest[0]) {
                self.close();
            }
            if side == Side::Kept && !self.open.is_begun() {
                rest = self.skip_whole_lines(rest);
                if rest.is_empty() {
                    return;
                }
            }
            if side == Side::Kept && self.detail == Detail::Parts && self.open.may_be_cut() {
                self.close_part();
            }
            let line = Line::at(rest, 0).end;
            self.open.add(side, &rest[..line], self.detail, &mut self.list);
            rest = &rest[line..];
        }
    }

    /// Counts the unchanged lines at the start of a kept stretch; gives what is left, the start of a line.
    fn skip_whole_lines<'b>(&mut self, bytes: &'b [u8]) -> &'b [u8] {
        let (whole, rest) = bytes.split_at(last_whole_line(bytes));
        self.lines_behind += line_ends(whole);
        rest
    }

    fn close(&mut self) {
        self.done.extend(self.open.hunk(self.lines_behind + 1, &mut self.list));
        self.lines_behind += self.open.before.lines();
        self.open = OpenHunk { first: self.list.spans.len(), ..OpenHunk::default() };
    }

    /// Gives what there is of the open hunk; the rest follows.
    fn close_part(&mut self) {
        let chars_before = self.open.chars_before.unwrap_or(0);
        let mut at = Position::at(self.lines_behind + 1, chars_before + 1);
        self.list.iter(self.open.first..self.list.spans.len()).for_each(|piece| at.pass_piece(&piece));
        self.open.chars_before = Some(chars_before);
        self.done.extend(self.open.hunk(self.lines_behind + 1, &mut self.list));
        self.lines_behind = at.line - 1;
        let goes_on = |text: OneText| OneText { last: text.last, ..OneText::default() };
        self.open = OpenHunk {
            first: self.list.spans.len(),
            chars_before: Some(at.column - 1),
            before: goes_on(self.open.before),
            after: goes_on(self.open.after),
            ..OpenHunk::default()
        };
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
        self.bytes >= PART && ![self.before.last, self.after.last].contains(&Some(b'\r'))
    }

    /// The hunk, which begins on this line. `None`: nothing has changed, and its pieces are gone from the list.
    fn hunk(&self, first_line: u64, list: &mut PieceList) -> Option<DoneHunk> {
        if !self.changed || self.ends_as_it_was(list) {
            let pieces = list.split_off(self.first);
            // A part stays all the same: parts follow each other without a gap.
            self.chars_before?;
            let kept = pieces.iter(0..pieces.spans.len()).filter(|piece| !matches!(piece.side, Side::Put(_)));
            kept.for_each(|piece| list.push(Piece { side: Side::Kept, ..piece }));
        }
        Some(DoneHunk {
            pieces: self.first..list.spans.len(),
            first_line,
            chars_before: self.chars_before.unwrap_or(0),
            lines_before: self.before.lines(),
            lines_after: self.after.lines(),
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
        self.is_begun() && ended(self.before.last, in_before) && ended(self.after.last, in_after)
    }

    /// Whether what some rules did others undid.
    fn ends_as_it_was(&self, list: &PieceList) -> bool {
        let of = |away: fn(Side) -> bool| {
            let pieces = list.iter(self.first..list.spans.len());
            pieces.filter(move |piece| !away(piece.side)).flat_map(|piece| piece.bytes)
        };
        let before = || of(|side| matches!(side, Side::Put(_)));
        let after = || of(|side| matches!(side, Side::Removed(_)));
        self.cut_bytes == 0 && self.before.bytes == self.after.bytes && before().eq(after())
    }

    /// Adds the next bytes, which have no line end but at their end.
    fn add(&mut self, side: Side, bytes: &[u8], detail: Detail, list: &mut PieceList) {
        self.changed |= side != Side::Kept;
        self.bytes += bytes.len();
        if !matches!(side, Side::Put(_)) {
            self.before.add(bytes);
        }
        if !matches!(side, Side::Removed(_)) {
            self.after.add(bytes);
        }
        if let Detail::Around { context } = detail
            && list.is_enough(self.first, context)
        {
            self.cut_bytes += bytes.len() as u64;
            return;
        }
        match list.spans[self.first..].last_mut() {
            Some(last) if last.side == side => {
                list.bytes.extend_from_slice(bytes);
                last.end += bytes.len();
            }
            _ => list.push(Piece { side, bytes, omitted: 0, omitted_chars: 0 }),
        }
        if let (Side::Kept, Detail::Around { context }) = (side, detail) {
            list.shorten_last(context);
        }
    }
}
