//! How large a text is, counted as it streams by.

use std::ops::AddAssign;

use super::tally::ByteTally;

/// The size of a text in bytes, characters and lines.
///
/// ```
/// use washout_core::text::TextSize;
///
/// assert_eq!(TextSize::of("café\r\nfog".as_bytes()), TextSize { bytes: 10, chars: 9, lines: 2 });
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct TextSize {
    /// Bytes.
    pub bytes: u64,
    /// Characters: code points, as far as the text is valid UTF-8. In broken stretches, bytes that cannot continue a
    /// character count as one each.
    pub chars: u64,
    /// Lines: line ends (LF, CRLF or lone CR), and one more where the text ends without one.
    pub lines: u64,
}

impl TextSize {
    /// The size of a whole text.
    pub fn of(text: &[u8]) -> Self {
        let mut counter = SizeCounter::default();
        counter.add(text);
        counter.size()
    }
}

impl AddAssign for TextSize {
    fn add_assign(&mut self, other: Self) {
        self.bytes += other.bytes;
        self.chars += other.chars;
        self.lines += other.lines;
    }
}

/// Counts a text that comes in pieces cut anywhere.
#[derive(Clone, Debug, Default)]
pub struct SizeCounter {
    size: TextSize,
    last: Option<u8>,
}

/// What was counted of a piece, for another counter that gets the same piece.
#[derive(Clone, Copy, Debug, Default)]
pub struct Counted {
    size: TextSize,
    before: Option<u8>,
    last: Option<u8>,
}

impl SizeCounter {
    /// Counts the next piece of the text.
    pub fn add(&mut self, piece: &[u8]) -> Counted {
        let before = self.last;
        let tally = ByteTally::of(piece);
        let mut lines = tally.line_feeds;
        if tally.returns > 0 {
            let returns = memchr::memchr_iter(b'\r', piece);
            // One at the end may be the first half of a CRLF that is cut in two.
            lines += returns.filter(|at| piece.get(at + 1) != Some(&b'\n')).count() as u64;
        }
        lines -= u64::from(before == Some(b'\r') && piece.first() == Some(&b'\n'));
        let size = TextSize { bytes: piece.len() as u64, chars: tally.chars, lines };
        self.last = piece.last().copied().or(before);
        self.size += size;
        Counted { size, before, last: self.last }
    }

    /// Takes over what another counted of the next piece, if it would count the same itself. Whether it did.
    #[must_use]
    pub fn add_counted(&mut self, counted: Counted) -> bool {
        if counted.size.bytes == 0 {
            return true;
        }
        let is_same = (self.last == Some(b'\r')) == (counted.before == Some(b'\r'));
        if is_same {
            self.size += counted.size;
            self.last = counted.last;
        }
        is_same
    }

    /// The size of all pieces so far, taken as one text.
    pub fn size(&self) -> TextSize {
        let open_line = !matches!(self.last, None | Some(b'\n' | b'\r'));
        TextSize { lines: self.size.lines + u64::from(open_line), ..self.size }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_counts_the_same_however_it_is_cut() {
        let text = "é\r\nb\rc\n\r\nlast".as_bytes();
        let want = TextSize { bytes: 14, chars: 13, lines: 5 };
        for cut in 0..=text.len() {
            let mut counter = SizeCounter::default();
            counter.add(&text[..cut]);
            let mut other = counter.clone();
            let counted = counter.add(&text[cut..]);
            assert!(counter.add_counted(Counted::default()), "nothing is nothing");
            assert_eq!(counter.size(), want, "cut at {cut}");
            assert!(other.add_counted(counted));
            assert_eq!(other.size(), want, "taken over at {cut}");
        }
    }
}
