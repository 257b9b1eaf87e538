//! Texts that are not UTF-8: read as what they are, and written back the same.
//!
//! Rules see UTF-8. A text in another encoding is decoded on the way in and encoded on the way out; what would not come
//! back as it was, to the byte, is an error before anything is written.

mod decode;
mod encode;

pub(crate) use decode::Decoding;
pub(crate) use encode::{EncodingSink, EncodingWriter};

use std::io::{self, Cursor, Read};

use encoding_rs::{REPLACEMENT, UTF_8};

use crate::charset::{Charsets, Transcoding};
use crate::chunk::{CHUNK, first_chunk};
use crate::skip::Skip;
use washout_sets::looks_binary;

/// A text that was opened: how it starts, in UTF-8; the rest of it; and its encodings.
pub(crate) struct OpenedText<'r> {
    pub(crate) start: Vec<u8>,
    pub(crate) rest: Box<dyn Read + Send + 'r>,
    pub(crate) ways: Transcoding,
    /// The encoding it looks like, if it is taken for UTF-8 and is none.
    pub(crate) looks_like: Option<&'static str>,
    /// Whether it looks binary, and was opened all the same.
    pub(crate) looks_binary: bool,
}

/// Opens a text of this length, in bytes, or says why it is left out. `with_binary`: whether it is opened if it looks
/// binary.
pub(crate) fn open<'r>(
    charsets: Charsets,
    with_binary: bool,
    len: u64,
    mut reader: impl Read + Send + 'r,
) -> io::Result<Result<OpenedText<'r>, Skip>> {
    let start = first_chunk(&mut reader, len)?;
    let ways = charsets.of(&start);
    let (start, rest): (_, Box<dyn Read + Send + 'r>) = match ways.from {
        None => (start, Box::new(reader)),
        Some(from) => {
            let mut decoding = Decoding::new(from, Cursor::new(start).chain(reader));
            (first_chunk(&mut decoding, CHUNK as u64)?, Box::new(decoding))
        }
    };
    let looks_binary = looks_binary(&start);
    if looks_binary && !with_binary {
        return Ok(Err(Skip::Binary));
    }
    let looks_like = if ways.from.is_none() && !looks_binary { guess(&start) } else { None };
    Ok(Ok(OpenedText { start, rest, ways, looks_like, looks_binary }))
}

/// Makes a stream one of UTF-8. Waits for its first bytes, which may say what it is.
pub(crate) fn stream<'r>(
    charsets: Charsets,
    mut reader: impl Read + Send + 'r,
) -> io::Result<(Box<dyn Read + Send + 'r>, Transcoding)> {
    let mut start = Vec::new();
    reader.by_ref().take(2).read_to_end(&mut start)?;
    let ways = charsets.of(&start);
    let whole = Cursor::new(start).chain(reader);
    Ok(match ways.from {
        None => (Box::new(whole), ways),
        Some(from) => (Box::new(Decoding::new(from, whole)), ways),
    })
}

/// The encoding a text looks like that is not UTF-8, by its start.
fn guess(start: &[u8]) -> Option<&'static str> {
    let error = std::str::from_utf8(start).err()?;
    // The last character may be cut.
    if error.error_len().is_none() && start.len() - error.valid_up_to() < 4 {
        return None;
    }
    let mut detector = chardetng::EncodingDetector::new();
    detector.feed(start, start.len() < CHUNK);
    let guessed = detector.guess(None, false);
    (guessed != UTF_8 && guessed != REPLACEMENT).then(|| guessed.name())
}
