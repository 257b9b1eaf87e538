//! From UTF-8 to another encoding.

use std::io::{self, Write};

use encoding_rs::{EncoderResult, UTF_16BE, UTF_16LE};

use crate::charset::{Charset, Transcoding};
use crate::chunk::Sink;
use crate::error::FileError;

/// Encodes a text that comes in pieces.
pub(super) struct Encoder {
    charset: Charset,
    /// UTF-16 is written here: the standard's encoders do not.
    inner: Option<encoding_rs::Encoder>,
}

impl Encoder {
    pub(super) fn new(charset: Charset) -> Self {
        let inner = (!charset.is_utf16()).then(|| charset.0.new_encoder());
        Self { charset, inner }
    }

    /// Appends the next piece to `out`; `last`: no more follows.
    ///
    /// # Errors
    /// The first character that the encoding has not.
    pub(super) fn encode(&mut self, text: &str, last: bool, out: &mut Vec<u8>) -> Result<(), char> {
        let Some(encoder) = &mut self.inner else {
            if self.charset.0 == UTF_16LE {
                out.extend(text.encode_utf16().flat_map(u16::to_le_bytes));
            } else {
                debug_assert_eq!(self.charset.0, UTF_16BE, "the only other one");
                out.extend(text.encode_utf16().flat_map(u16::to_be_bytes));
            }
            return Ok(());
        };
        let mut rest = text;
        loop {
            let room =
                encoder.max_buffer_length_from_utf8_without_replacement(rest.len()).unwrap_or(rest.len() * 4 + 16);
            out.reserve(room);
            let (result, read) = encoder.encode_from_utf8_to_vec_without_replacement(rest, out, last);
            rest = &rest[read..];
            match result {
                EncoderResult::InputEmpty => return Ok(()),
                EncoderResult::OutputFull => {}
                EncoderResult::Unmappable(character) => return Err(character),
            }
        }
    }
}

/// A sink that gets UTF-8 and passes another encoding on.
pub(crate) struct EncodingSink<S> {
    sink: S,
    pieces: Option<Pieces>,
    /// The result has other bytes than its text in any case.
    always_differs: bool,
}

/// Pieces of UTF-8, cut anywhere.
struct Pieces {
    encoder: Encoder,
    /// The start of a character.
    cut: Vec<u8>,
    out: Vec<u8>,
}

impl Pieces {
    fn new(charset: Charset) -> Self {
        Self { encoder: Encoder::new(charset), cut: Vec::new(), out: Vec::new() }
    }

    /// Encodes all whole characters of this piece; what they are is in `out` then.
    fn add(&mut self, bytes: &[u8], last: bool) -> Result<(), FileError> {
        self.out.clear();
        let joined;
        let bytes = if self.cut.is_empty() {
            bytes
        } else {
            joined = [&self.cut, bytes].concat();
            &joined
        };
        let charset = self.encoder.charset;
        let (text, cut) = match std::str::from_utf8(bytes) {
            Ok(text) => (text, &[][..]),
            Err(error) if error.error_len().is_none() && !last => {
                let (text, cut) = bytes.split_at(error.valid_up_to());
                (std::str::from_utf8(text).unwrap_or_default(), cut)
            }
            Err(_) => return Err(FileError::NoText(charset)),
        };
        self.encoder
            .encode(text, last, &mut self.out)
            .map_err(|character| FileError::Unmappable(character, charset))?;
        self.cut = cut.to_vec();
        Ok(())
    }
}

impl<S> EncodingSink<S> {
    pub(crate) fn new(sink: S, ways: Transcoding) -> Self {
        Self { sink, pieces: ways.to.map(Pieces::new), always_differs: ways.differ() }
    }

    /// Closes the text and gives the sink back.
    pub(crate) fn finish(mut self) -> Result<S, FileError>
    where
        S: Sink,
        FileError: From<S::Error>,
    {
        if let Some(pieces) = &mut self.pieces {
            pieces.add(b"", true)?;
            if !pieces.out.is_empty() {
                self.sink.give(&pieces.out, true)?;
            }
        }
        Ok(self.sink)
    }
}

impl<S: Sink> Sink for EncodingSink<S>
where
    FileError: From<S::Error>,
{
    type Error = FileError;

    fn give(&mut self, bytes: &[u8], changed: bool) -> Result<(), FileError> {
        let changed = changed || self.always_differs;
        match &mut self.pieces {
            None => self.sink.give(bytes, changed)?,
            Some(pieces) => {
                pieces.add(bytes, false)?;
                self.sink.give(&pieces.out, changed)?;
            }
        }
        Ok(())
    }
}

/// A writer that gets UTF-8 and passes another encoding on. What it holds back goes out with [`finish`](Self::finish).
pub(crate) struct EncodingWriter<W> {
    writer: W,
    pieces: Option<Pieces>,
}

impl<W: Write> EncodingWriter<W> {
    pub(crate) fn new(writer: W, ways: Transcoding) -> Self {
        Self { writer, pieces: ways.to.map(Pieces::new) }
    }

    pub(crate) fn finish(mut self) -> io::Result<()> {
        if let Some(pieces) = &mut self.pieces {
            pieces.add(b"", true).map_err(io::Error::other)?;
            self.writer.write_all(&pieces.out)?;
        }
        self.writer.flush()
    }
}

impl<W: Write> Write for EncodingWriter<W> {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match &mut self.pieces {
            None => self.writer.write(bytes),
            Some(pieces) => {
                pieces.add(bytes, false).map_err(io::Error::other)?;
                self.writer.write_all(&pieces.out)?;
                Ok(bytes.len())
            }
        }
    }

    fn flush(&mut self) -> io::Result<()> {
        self.writer.flush()
    }
}
