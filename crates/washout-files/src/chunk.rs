//! Texts in chunks: how much is read at once, and where results go.

use std::io::{self, Read};

/// How much is read at once, in bytes.
pub(crate) const CHUNK: usize = 256 << 10;

/// Where a result goes.
pub(crate) trait Sink: Send {
    type Error: Send;

    /// Takes the next bytes of the result. `changed`: whether any rule has made a change so far; while it has not, the
    /// result is what was read.
    fn give(&mut self, bytes: &[u8], changed: bool) -> Result<(), Self::Error>;
}

/// Reads the first chunk of a file of this length, in bytes; all of it if it is short.
pub(crate) fn first_chunk(input: impl Read, len: u64) -> io::Result<Vec<u8>> {
    let len = usize::try_from(len).unwrap_or(CHUNK).min(CHUNK);
    // One more, to see that it is over.
    let mut chunk = Vec::with_capacity(len + 1);
    input.take(CHUNK as u64).read_to_end(&mut chunk)?;
    Ok(chunk)
}
