//! Lines. A line ends at LF, at CRLF or at a lone CR, and at nothing else.

use memchr::{memchr2, memrchr2};

use super::chars::is_blank_byte;
use super::tally::ByteTally;

/// The three line ends there are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum LineEnd {
    /// `\n`
    Lf,
    /// `\r\n`
    CrLf,
    /// `\r` that no `\n` follows
    Cr,
}

impl LineEnd {
    /// The bytes of this line end.
    pub fn as_bytes(self) -> &'static [u8] {
        match self {
            Self::Lf => b"\n",
            Self::CrLf => b"\r\n",
            Self::Cr => b"\r",
        }
    }

    /// The line end that starts exactly at `at`, if there is one.
    pub(crate) fn starting_at(text: &[u8], at: usize) -> Option<Self> {
        match (text.get(at)?, text.get(at + 1)) {
            (b'\n', _) => Some(Self::Lf),
            (b'\r', Some(b'\n')) => Some(Self::CrLf),
            (b'\r', _) => Some(Self::Cr),
            _ => None,
        }
    }

    /// The first line end of `text`.
    pub fn first_in(text: &[u8]) -> Option<Self> {
        memchr2(b'\n', b'\r', text).and_then(|at| Self::starting_at(text, at))
    }
}

/// One line within a text, by places in bytes from 0.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Line {
    /// Where it starts.
    pub start: usize,
    /// Where its content ends and its line end starts.
    pub content_end: usize,
    /// Where its line end ends. The last line may have none.
    pub end: usize,
}

impl Line {
    /// The line that starts at `start`, which must be the start of a line.
    pub(crate) fn at(text: &[u8], start: usize) -> Self {
        let content_end = content_end(text, start);
        let end = content_end + line_end_len(text, content_end);
        Self { start, content_end, end }
    }
}

/// The lines of a text, in order. A text that ends in a line end has no empty line after it.
///
/// ```
/// use washout_core::text::Lines;
///
/// let text = b"lamp lit\r\nfog";
/// let contents: Vec<&[u8]> = Lines::of(text).map(|line| &text[line.start..line.content_end]).collect();
/// assert_eq!(contents, [&b"lamp lit"[..], b"fog"]);
/// ```
#[derive(Clone, Debug)]
pub struct Lines<'t> {
    text: &'t [u8],
    next: usize,
}

impl<'t> Lines<'t> {
    /// The lines of this text.
    pub fn of(text: &'t [u8]) -> Self {
        Self { text, next: 0 }
    }
}

impl Iterator for Lines<'_> {
    type Item = Line;

    fn next(&mut self) -> Option<Line> {
        if self.next >= self.text.len() {
            return None;
        }
        let line = Line::at(self.text, self.next);
        self.next = line.end;
        Some(line)
    }
}

/// How many lines end in a text.
pub(crate) fn line_ends(text: &[u8]) -> u64 {
    let ByteTally { line_feeds, returns, .. } = ByteTally::of(text);
    if returns == 0 {
        return line_feeds;
    }
    let lone = memchr::memchr_iter(b'\r', text).filter(|at| text.get(at + 1) != Some(&b'\n'));
    line_feeds + lone.count() as u64
}

/// The length in bytes (0, 1 or 2) of the line end that starts at `at`.
pub(crate) fn line_end_len(text: &[u8], at: usize) -> usize {
    LineEnd::starting_at(text, at).map_or(0, |end| end.as_bytes().len())
}

/// Whether `at` stands between the two bytes of a CRLF.
pub(crate) fn splits_crlf(text: &[u8], at: usize) -> bool {
    at > 0 && text[at - 1] == b'\r' && text.get(at) == Some(&b'\n')
}

/// Where the content of the line around `at` ends: the offset of the next line end, or the end of the text.
pub(crate) fn content_end(text: &[u8], at: usize) -> usize {
    memchr2(b'\n', b'\r', &text[at..]).map_or(text.len(), |found| at + found)
}

/// Where the line around `at` starts. `at` may stand anywhere on the line, its line end excluded.
pub(crate) fn line_start(text: &[u8], at: usize) -> usize {
    memrchr2(b'\n', b'\r', &text[..at]).map_or(0, |found| found + 1)
}

/// Whether a line starts at `at`. The end of a text that ends in a line end does not count: no line follows.
pub(crate) fn is_line_start(text: &[u8], at: usize) -> bool {
    at == 0 || (matches!(text[at - 1], b'\n' | b'\r') && !splits_crlf(text, at))
}

/// Whether the content of a line ends at `at`.
pub(crate) fn is_content_end(text: &[u8], at: usize) -> bool {
    match text.get(at) {
        None | Some(b'\r') => true,
        Some(b'\n') => !splits_crlf(text, at),
        Some(_) => false,
    }
}

/// The offset just after the last line end that is certain to be whole.
///
/// A CR at the very end of `text` may turn out to be the first half of a CRLF, so it does not count. 0 means that
/// there is no whole line yet.
pub(crate) fn last_whole_line(text: &[u8]) -> usize {
    let searched = match text.last() {
        Some(b'\r') => &text[..text.len() - 1],
        _ => text,
    };
    memrchr2(b'\n', b'\r', searched).map_or(0, |found| found + 1)
}

/// The offset of the first byte at or after `at` that is not a blank (space or tab).
pub(crate) fn skip_blanks(text: &[u8], at: usize) -> usize {
    let blanks = text[at..].iter().take_while(|byte| is_blank_byte(**byte)).count();
    at + blanks
}

/// The offset where the blanks that end at `at` begin.
pub(crate) fn skip_blanks_back(text: &[u8], at: usize) -> usize {
    let blanks = text[..at].iter().rev().take_while(|byte| is_blank_byte(**byte)).count();
    at - blanks
}

/// The start of the line before the one that starts at `at`; 0 where there is none.
pub(crate) fn line_before(text: &[u8], at: usize) -> usize {
    let line_end = if text[..at].ends_with(b"\r\n") { 2 } else { usize::from(at > 0) };
    line_start(text, at - line_end)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_end_at_lf_crlf_and_cr_only() {
        let text = "a\nb\r\nc\rd\u{85}e\u{2028}f\u{b}g".as_bytes();
        let contents: Vec<&[u8]> = Lines::of(text).map(|line| &text[line.start..line.content_end]).collect();
        assert_eq!(contents, [b"a".as_slice(), b"b", b"c", "d\u{85}e\u{2028}f\u{b}g".as_bytes()]);
        let ends: Vec<&[u8]> = Lines::of(text).map(|line| &text[line.content_end..line.end]).collect();
        assert_eq!(ends, [b"\n".as_slice(), b"\r\n", b"\r", b""]);
    }

    #[test]
    fn a_trailing_cr_is_not_yet_a_whole_line() {
        for (text, cut) in
            [("", 0), ("a", 0), ("a\n", 2), ("a\nb", 2), ("a\r", 0), ("a\rb", 2), ("a\r\n", 3), ("a\n\r", 2)]
        {
            assert_eq!(last_whole_line(text.as_bytes()), cut, "{text:?}");
        }
    }

    #[test]
    fn no_line_edge_stands_inside_a_crlf() {
        let text = b"a\r\nb";
        let starts: Vec<usize> = (0..=text.len()).filter(|at| is_line_start(text, *at)).collect();
        let ends: Vec<usize> = (0..=text.len()).filter(|at| is_content_end(text, *at)).collect();
        assert_eq!((starts, ends), (vec![0, 3], vec![1, 4]));
    }
}
