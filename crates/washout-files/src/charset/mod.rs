//! Texts that are no UTF-8: read as what they are, and written back the same.
//!
//! Rules see UTF-8. A text in another encoding is decoded on the way in and encoded on the way out; what would not come
//! back as it was, to the byte, is an error before anything is written.

mod binary;
mod decode;
mod encode;

pub(crate) use decode::Decoding;
pub(crate) use encode::{Encoded, EncodingWriter};

use std::fmt;
use std::io::{self, Cursor, Read};

use encoding_rs::{Encoding, REPLACEMENT, UTF_8, UTF_16BE, UTF_16LE};

use crate::wash::{CHUNK, Skip, first_chunk};
use binary::looks_binary;

/// An encoding of the WHATWG Encoding Standard other than UTF-8.
#[derive(Clone, Copy, Debug)]
pub struct Charset(&'static Encoding);

/// How texts are encoded, as far as that is said.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Charsets {
    /// What they are in; `None`: UTF-8, or UTF-16 where a byte order mark says so.
    pub from: Option<Label>,
    /// What results are in; `None`: what the text was in.
    pub to: Option<Label>,
}

/// What a label stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Label {
    /// UTF-8: bytes pass as they are.
    Utf8,
    /// Another encoding.
    Other(Charset),
}

impl Label {
    /// The encoding with this label, in any case: `windows-1252`, `latin1`, `shift_jis`, `utf-16le`.
    pub fn named(label: &str) -> Option<Self> {
        let encoding = Encoding::for_label_no_replacement(label.as_bytes())?;
        Some(if encoding == UTF_8 { Self::Utf8 } else { Self::Other(Charset(encoding)) })
    }

    fn charset(self) -> Option<Charset> {
        match self {
            Self::Utf8 => None,
            Self::Other(charset) => Some(charset),
        }
    }
}

impl PartialEq for Charset {
    fn eq(&self, other: &Self) -> bool {
        self.0 == other.0
    }
}

impl Eq for Charset {}

impl PartialOrd for Charset {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Charset {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.0.name().cmp(other.0.name())
    }
}

impl std::hash::Hash for Charset {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.0.name().hash(state);
    }
}

impl Charset {
    fn is_utf16(self) -> bool {
        self.0 == UTF_16LE || self.0 == UTF_16BE
    }
}

impl fmt::Display for Charset {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(self.0.name())
    }
}

/// The encodings of one text: what it is in, and what its result is to be in; `None`: UTF-8.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Ways {
    pub(crate) from: Option<Charset>,
    pub(crate) to: Option<Charset>,
}

impl Charsets {
    /// The encodings of a text that starts like this.
    pub(crate) fn of(self, start: &[u8]) -> Ways {
        let by_mark = match start {
            [0xFF, 0xFE, ..] => Some(Charset(UTF_16LE)),
            [0xFE, 0xFF, ..] => Some(Charset(UTF_16BE)),
            _ => None,
        };
        let from = self.from.map_or(by_mark, Label::charset);
        Ways { from, to: self.to.map_or(from, Label::charset) }
    }
}

impl Ways {
    /// Whether a result has other bytes than its text even if no rule changes anything.
    pub(crate) fn differ(self) -> bool {
        self.from != self.to
    }
}

/// A text that was opened: how it starts, in UTF-8; the rest of it; and its encodings.
pub(crate) struct Opened<'r> {
    pub(crate) start: Vec<u8>,
    pub(crate) rest: Box<dyn Read + Send + 'r>,
    pub(crate) ways: Ways,
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
) -> io::Result<Result<Opened<'r>, Skip>> {
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
    Ok(Ok(Opened { start, rest, ways, looks_like, looks_binary }))
}

/// Makes a stream one of UTF-8. Waits for its first bytes, which may say what it is.
pub(crate) fn stream<'r>(
    charsets: Charsets,
    mut reader: impl Read + Send + 'r,
) -> io::Result<(Box<dyn Read + Send + 'r>, Ways)> {
    let mut start = Vec::new();
    reader.by_ref().take(2).read_to_end(&mut start)?;
    let ways = charsets.of(&start);
    let whole = Cursor::new(start).chain(reader);
    Ok(match ways.from {
        None => (Box::new(whole), ways),
        Some(from) => (Box::new(Decoding::new(from, whole)), ways),
    })
}

/// The encoding a text looks like that is no UTF-8, by its start.
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
