//! Where the next pieces of a text come from: read when they are asked for, or ahead of that on a thread of their own.

use std::io::{self, Read};
use std::sync::mpsc::{Receiver, Sender, SyncSender, channel, sync_channel};

use super::stream::ChunkReader;

/// Pieces that may wait to be worked on.
const WAITING: usize = 6;

/// The pieces of a text.
pub(super) trait Chunks {
    /// Puts the next piece behind what is in `text`, if there is one at hand without waiting. Whether there was.
    fn at_hand(&mut self, text: &mut Vec<u8>) -> io::Result<bool>;

    /// Waits for the next piece and puts it behind what is in `text`. The text is over if nothing is.
    fn wait(&mut self, text: &mut Vec<u8>) -> io::Result<()>;
}

/// Reads when it is asked.
pub(super) struct Read1<R>(pub(super) ChunkReader<R>);

impl<R: Read> Chunks for Read1<R> {
    fn at_hand(&mut self, _text: &mut Vec<u8>) -> io::Result<bool> {
        Ok(false)
    }

    fn wait(&mut self, text: &mut Vec<u8>) -> io::Result<()> {
        debug_assert!(text.is_empty(), "nothing is read ahead");
        self.0.read(text)
    }
}

/// For a text of which nothing is left to read.
pub(super) struct AllRead;

impl Chunks for AllRead {
    fn at_hand(&mut self, _text: &mut Vec<u8>) -> io::Result<bool> {
        Ok(false)
    }

    fn wait(&mut self, _text: &mut Vec<u8>) -> io::Result<()> {
        Ok(())
    }
}

/// Takes what another thread has read.
pub(super) struct ReadAhead {
    full: Receiver<io::Result<Vec<u8>>>,
    empty: Sender<Vec<u8>>,
    over: bool,
}

/// The other side.
pub(super) struct Reader<R> {
    input: ChunkReader<R>,
    full: SyncSender<io::Result<Vec<u8>>>,
    empty: Receiver<Vec<u8>>,
}

/// Both sides for an input.
pub(super) fn reading_ahead<R: Read>(input: R) -> (ReadAhead, Reader<R>) {
    let (full_in, full_out) = sync_channel(WAITING);
    let (empty_in, empty_out) = channel();
    let ahead = ReadAhead { full: full_out, empty: empty_in, over: false };
    (ahead, Reader { input: ChunkReader::new(input), full: full_in, empty: empty_out })
}

impl<R: Read> Reader<R> {
    /// Reads until the text is over or nobody wants more of it.
    pub(super) fn run(mut self) {
        loop {
            let mut chunk = self.empty.try_recv().unwrap_or_default();
            let read = self.input.read(&mut chunk).map(|()| chunk);
            let more = read.as_ref().is_ok_and(|chunk| !chunk.is_empty());
            if self.full.send(read).is_err() || !more {
                return;
            }
        }
    }
}

impl ReadAhead {
    fn take(&mut self, chunk: io::Result<Vec<u8>>, text: &mut Vec<u8>) -> io::Result<()> {
        let chunk = chunk?;
        self.over = chunk.is_empty();
        if text.is_empty() {
            let emptied = std::mem::replace(text, chunk);
            drop(self.empty.send(emptied)); // the reader may be done
        } else {
            text.extend_from_slice(&chunk);
            drop(self.empty.send(chunk));
        }
        Ok(())
    }
}

impl Chunks for ReadAhead {
    fn at_hand(&mut self, text: &mut Vec<u8>) -> io::Result<bool> {
        match self.full.try_recv() {
            Ok(chunk) if !self.over => self.take(chunk, text).map(|()| !self.over),
            _ => Ok(false),
        }
    }

    fn wait(&mut self, text: &mut Vec<u8>) -> io::Result<()> {
        match self.full.recv() {
            Ok(chunk) => self.take(chunk, text),
            Err(_) => Ok(()), // it has said that the text is over
        }
    }
}
