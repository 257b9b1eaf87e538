//! Encodings of texts, as people name them.

use std::fmt;

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE};

/// An encoding of the WHATWG Encoding Standard other than UTF-8.
#[derive(Clone, Copy, Debug)]
pub struct Charset(pub(crate) &'static Encoding);

/// How texts are encoded, if given.
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
    pub(crate) fn is_utf16(self) -> bool {
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
pub(crate) struct Transcoding {
    pub(crate) from: Option<Charset>,
    pub(crate) to: Option<Charset>,
}

impl Charsets {
    /// The encodings of a text that starts like this.
    pub(crate) fn of(self, start: &[u8]) -> Transcoding {
        let by_mark = match start {
            [0xFF, 0xFE, ..] => Some(Charset(UTF_16LE)),
            [0xFE, 0xFF, ..] => Some(Charset(UTF_16BE)),
            _ => None,
        };
        let from = self.from.map_or(by_mark, Label::charset);
        Transcoding { from, to: self.to.map_or(from, Label::charset) }
    }
}

impl Transcoding {
    /// Whether a result has other bytes than its text even if no rule changes anything.
    pub(crate) fn differ(self) -> bool {
        self.from != self.to
    }
}
