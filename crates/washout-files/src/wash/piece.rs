//! A piece of a text, in memory that is used again.

use std::io::{self, ErrorKind, Read};

/// What a buffer has at first, in bytes: a short text is not worth more.
const FIRST: usize = 64 << 10;

/// A piece of a text. Its buffer is never cleared: that would take as long as reading.
#[derive(Debug, Default)]
pub(crate) struct TextPiece {
    /// What is read into; only the start of it is the piece.
    buffer: Vec<u8>,
    len: usize,
}

impl From<Vec<u8>> for TextPiece {
    fn from(buffer: Vec<u8>) -> Self {
        Self { len: buffer.len(), buffer }
    }
}

impl TextPiece {
    pub(crate) fn bytes(&self) -> &[u8] {
        &self.buffer[..self.len]
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.len == 0
    }

    pub(crate) fn clear(&mut self) {
        self.len = 0;
    }

    pub(crate) fn append(&mut self, bytes: &[u8]) {
        let end = self.len + bytes.len();
        if let Some(room) = self.buffer.get_mut(self.len..end) {
            room.copy_from_slice(bytes);
        } else {
            self.buffer.truncate(self.len);
            self.buffer.extend_from_slice(bytes);
        }
        self.len = end;
    }

    /// Parts it: what is after the first `len` bytes goes before what is read next, into `next`.
    pub(super) fn part(&mut self, len: usize, next: &mut Vec<u8>) {
        next.clear();
        next.extend_from_slice(&self.bytes()[len..]);
        self.len = len;
    }

    /// Puts what comes next in place of the piece, as one reading gives it: at most that many bytes, none at the end.
    pub(crate) fn read(&mut self, input: &mut impl Read, most: usize) -> io::Result<()> {
        self.clear();
        self.read_more(input, most).map(drop)
    }

    /// Reads once, after what there is, until there are `most` bytes at the most. Gives how many came.
    pub(super) fn read_more(&mut self, input: &mut impl Read, most: usize) -> io::Result<usize> {
        if self.len == self.buffer.len() && self.len < most {
            self.buffer.resize((2 * self.len).max(FIRST).min(most), 0);
        }
        let end = self.buffer.len().min(most);
        let room = &mut self.buffer[self.len..end];
        let read = loop {
            match input.read(room) {
                Err(error) if error.kind() == ErrorKind::Interrupted => {}
                read => break read?,
            }
        };
        self.len += read;
        Ok(read)
    }
}
