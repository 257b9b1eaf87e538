//! Only the first lines of a text.

use std::io::{self, Read};

/// Lets that many lines pass, in pieces cut anywhere.
#[derive(Debug)]
pub(crate) struct LineLimit {
    /// `None`: all of them.
    left: Option<u64>,
    after_cr: bool,
}

impl LineLimit {
    pub(crate) fn new(lines: Option<u64>) -> Self {
        Self { left: lines, after_cr: false }
    }

    /// How many bytes of the next piece still belong to those lines. A line ends at LF, CRLF or a lone CR.
    pub(crate) fn take(&mut self, piece: &[u8]) -> usize {
        let Some(left) = &mut self.left else { return piece.len() };
        let mut from = 0;
        if self.after_cr && piece.first() == Some(&b'\n') {
            from = 1;
        }
        if !piece.is_empty() {
            self.after_cr = false;
        }
        while *left > 0 {
            let Some(found) = memchr::memchr2(b'\n', b'\r', &piece[from..]) else { return piece.len() };
            let at = from + found;
            *left -= 1;
            from = at + 1;
            if piece[at] == b'\r' {
                match piece.get(from) {
                    Some(b'\n') => from += 1,
                    Some(_) => {}
                    None => self.after_cr = true,
                }
            }
        }
        from
    }

    /// A reader that ends after those lines.
    pub(crate) fn limiting<R: Read>(self, reader: R) -> Limited<R> {
        Limited { limit: self, reader }
    }
}

/// A reader that ends after that many lines of another.
pub fn first_lines<R: Read>(lines: u64, reader: R) -> impl Read + use<R> {
    LineLimit::new(Some(lines)).limiting(reader)
}

pub(crate) struct Limited<R> {
    limit: LineLimit,
    reader: R,
}

impl<R: Read> Read for Limited<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.limit.left == Some(0) && !self.limit.after_cr {
            return Ok(0);
        }
        let read = self.reader.read(buffer)?;
        Ok(self.limit.take(&buffer[..read]))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn so_many_lines_pass_however_the_text_is_cut() {
        let text = b"a\nb\r\nc\rd\r\n\ne";
        for (lines, want) in [(0, 0), (1, 2), (2, 5), (3, 7), (4, 10), (5, 11), (6, 12), (9, 12)] {
            for cut in 0..=text.len() {
                let mut limit = LineLimit::new(Some(lines));
                let taken = limit.take(&text[..cut]);
                let more = if taken == cut { limit.take(&text[cut..]) } else { 0 };
                assert_eq!(taken + more, want, "{lines} lines, cut at {cut}");
            }
        }
    }
}
