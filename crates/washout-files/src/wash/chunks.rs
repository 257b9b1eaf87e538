//! Where the next pieces of a text come from: read when they are requested, or ahead of that on a thread of their own.

use std::io::{self, Read};
use std::sync::mpsc::{Receiver, Sender, SyncSender, channel, sync_channel};

use super::piece::TextPiece;
use crate::chunk::CHUNK;

/// Pieces of what comes bit by bit that may wait to be worked on.
const MOST_WAITING: usize = 6;

/// The same of pieces of a file, which are large.
const MOST_OF_FILE_WAITING: usize = 2;

/// The pieces of a text.
pub(super) trait Chunks {
    /// Puts the next piece after what is in `text`, if there is one at hand without waiting, and it is worth a copy.
    /// Whether there was.
    fn at_hand(&mut self, text: &mut TextPiece) -> io::Result<bool>;

    /// Waits for the next piece and puts it in place of an empty one. The text is over if that one is empty too.
    fn wait(&mut self, text: &mut TextPiece) -> io::Result<()>;
}

/// Reads when it is asked.
pub(super) struct ReadNow<R>(pub(super) R);

impl<R: Read> Chunks for ReadNow<R> {
    fn at_hand(&mut self, _text: &mut TextPiece) -> io::Result<bool> {
        Ok(false)
    }

    fn wait(&mut self, text: &mut TextPiece) -> io::Result<()> {
        debug_assert!(text.is_empty(), "nothing is read ahead");
        text.read(&mut self.0, CHUNK)
    }
}

/// The same for the start of a text of which more may come: no more than that many bytes.
pub(super) struct StartOf<'r, R> {
    pub(super) input: &'r mut R,
    pub(super) left: usize,
    /// The text ended before that.
    pub(super) is_over: bool,
}

impl<R: Read> Chunks for StartOf<'_, R> {
    fn at_hand(&mut self, _text: &mut TextPiece) -> io::Result<bool> {
        Ok(false)
    }

    fn wait(&mut self, text: &mut TextPiece) -> io::Result<()> {
        if self.left > 0 {
            text.read(self.input, self.left)?;
            self.left -= text.bytes().len();
            self.is_over = text.is_empty();
        }
        Ok(())
    }
}

/// For a text of which nothing is left to read.
pub(super) struct AllRead;

impl Chunks for AllRead {
    fn at_hand(&mut self, _text: &mut TextPiece) -> io::Result<bool> {
        Ok(false)
    }

    fn wait(&mut self, _text: &mut TextPiece) -> io::Result<()> {
        Ok(())
    }
}

/// Takes what another thread has read.
pub(super) struct ReadAhead {
    full: Receiver<io::Result<TextPiece>>,
    empty: Sender<TextPiece>,
    reading: ReadSize,
    over: bool,
}

/// The other side.
pub(super) struct ChunkReader<R> {
    input: R,
    full: SyncSender<io::Result<TextPiece>>,
    empty: Receiver<TextPiece>,
    reading: ReadSize,
}

/// How much is read at once.
#[derive(Clone, Copy, Debug)]
pub(super) enum ReadSize {
    /// What is there: a source that is slow is followed.
    AsItComes,
    /// Pieces of that many bytes, except for the start of a line at the end of each, which goes into the next: whole lines are
    /// dealt with at less cost. For files, where nothing has to be waited for.
    Lines(usize),
}

/// Both sides for an input.
pub(super) fn reading_ahead<R: Read>(input: R, reading: ReadSize) -> (ReadAhead, ChunkReader<R>) {
    let (full_in, full_out) = sync_channel(match reading {
        ReadSize::AsItComes => MOST_WAITING,
        ReadSize::Lines(_) => MOST_OF_FILE_WAITING,
    });
    let (empty_in, empty_out) = channel();
    let ahead = ReadAhead { full: full_out, empty: empty_in, reading, over: false };
    (ahead, ChunkReader { input, full: full_in, empty: empty_out, reading })
}

impl<R: Read> ChunkReader<R> {
    /// Reads until the text is over or no one wants more of it.
    pub(super) fn run(mut self) {
        let mut open_line = Vec::new();
        loop {
            let mut piece = self.empty.try_recv().unwrap_or_default();
            let read = match self.reading {
                ReadSize::AsItComes => piece.read(&mut self.input, CHUNK),
                ReadSize::Lines(size) => lines(&mut piece, &mut self.input, size, &mut open_line),
            };
            let more = read.is_ok() && !piece.is_empty();
            if self.full.send(read.map(|()| piece)).is_err() || !more {
                return;
            }
        }
    }
}

/// Reads a piece of whole lines; of a line that is longer than a piece, a part.
fn lines(piece: &mut TextPiece, input: &mut impl Read, size: usize, open_line: &mut Vec<u8>) -> io::Result<()> {
    piece.clear();
    piece.append(open_line);
    open_line.clear();
    let most = size.max(piece.bytes().len() + CHUNK);
    while piece.bytes().len() < most {
        if piece.read_more(input, most)? == 0 {
            return Ok(());
        }
    }
    if let Some(end) = memchr::memrchr(b'\n', piece.bytes()) {
        piece.part(end + 1, open_line);
    }
    Ok(())
}

impl ReadAhead {
    fn take(&mut self, piece: io::Result<TextPiece>, text: &mut TextPiece) -> io::Result<()> {
        let mut piece = piece?;
        self.over = piece.is_empty();
        if text.is_empty() {
            std::mem::swap(text, &mut piece);
        } else {
            text.append(piece.bytes());
        }
        drop(self.empty.send(piece)); // the reader may be done
        Ok(())
    }
}

impl Chunks for ReadAhead {
    fn at_hand(&mut self, text: &mut TextPiece) -> io::Result<bool> {
        let is_enough = matches!(self.reading, ReadSize::Lines(_)) && !text.is_empty();
        if is_enough {
            return Ok(false);
        }
        match self.full.try_recv() {
            Ok(piece) if !self.over => self.take(piece, text).map(|()| !self.over),
            _ => Ok(false),
        }
    }

    fn wait(&mut self, text: &mut TextPiece) -> io::Result<()> {
        match self.full.recv() {
            Ok(piece) => self.take(piece, text),
            Err(_) => Ok(()), // it has said that the text is over
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pieces_of_files_are_whole_lines_where_lines_are_short() {
        let text = [&b"fog\n".repeat(CHUNK / 4)[..], &b"x".repeat(3 * CHUNK)[..], b"\nhorn\nno end"].concat();
        let (mut ahead, reader) = reading_ahead(&text[..], ReadSize::Lines(CHUNK + 2));
        let mut pieces = Vec::new();
        std::thread::scope(|scope| {
            scope.spawn(move || reader.run());
            loop {
                let mut piece = TextPiece::default();
                ahead.wait(&mut piece).unwrap();
                if piece.is_empty() {
                    break;
                }
                pieces.push(piece.bytes().to_vec());
            }
        });
        assert_eq!(pieces.concat(), text);
        assert_eq!(pieces[0].len(), CHUNK, "its open line is in the next");
        assert!(pieces[0].ends_with(b"\n") && pieces.iter().all(|piece| piece.len() <= 2 * CHUNK), "bounded");
    }

    #[test]
    fn what_comes_bit_by_bit_is_gathered_and_pieces_of_files_are_not_copied_behind_each_other() {
        let text = b"lamp lit\n".repeat(CHUNK);
        for (reading, gathers) in [(ReadSize::AsItComes, true), (ReadSize::Lines(CHUNK), false)] {
            let (mut ahead, reader) = reading_ahead(&text[..], reading);
            std::thread::scope(|scope| {
                scope.spawn(move || reader.run());
                let mut piece = TextPiece::default();
                ahead.wait(&mut piece).unwrap();
                let len = piece.bytes().len();
                let tries = if gathers { 10_000 } else { 20 };
                let gathered = (0..tries).any(|_| {
                    std::thread::sleep(std::time::Duration::from_millis(1)); // another piece is ready before long
                    ahead.at_hand(&mut piece).unwrap()
                });
                assert_eq!(gathered, gathers, "{reading:?}");
                assert_eq!(piece.bytes().len() > len, gathers, "{reading:?}");
                drop(ahead);
            });
        }
    }
}
