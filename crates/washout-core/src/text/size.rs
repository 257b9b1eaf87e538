//! How large a text is, counted as it streams by.

use std::ops::AddAssign;

/// The size of a text in bytes, characters and lines.
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

impl SizeCounter {
    /// Counts the next piece of the text.
    pub fn add(&mut self, piece: &[u8]) {
        let Some(last) = piece.last() else { return };
        self.size.bytes += piece.len() as u64;
        self.size.chars += bytecount::num_chars(piece) as u64;
        self.size.lines += line_ends(self.last, piece);
        self.last = Some(*last);
    }

    /// The size of all pieces so far, taken as one text.
    pub fn size(&self) -> TextSize {
        let open_line = !matches!(self.last, None | Some(b'\n' | b'\r'));
        TextSize { lines: self.size.lines + u64::from(open_line), ..self.size }
    }
}

/// Counts the line ends in `piece`; `before` is the byte before it, so that a CRLF cut in two counts once.
fn line_ends(before: Option<u8>, piece: &[u8]) -> u64 {
    let feeds = bytecount::count(piece, b'\n') as u64;
    let returns = memchr::memchr_iter(b'\r', piece);
    let lone_or_first = returns.filter(|at| piece.get(at + 1) != Some(&b'\n')).count() as u64;
    let second_half = before == Some(b'\r') && piece.first() == Some(&b'\n');
    feeds + lone_or_first - u64::from(second_half)
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
            counter.add(&text[cut..]);
            assert_eq!(counter.size(), want, "cut at {cut}");
        }
    }
}
