//! From another encoding to UTF-8.

use std::collections::VecDeque;
use std::io::{self, Read};

use encoding_rs::{Decoder, DecoderResult};

use super::encode::Encoder;
use crate::charset::Charset;

/// How much is decoded at once, in bytes.
const STEP: usize = 64 << 10;

/// Reads another encoding as UTF-8.
///
/// What it gives is encoded again and compared: an encoding may have several ways to write a character, and a text that
/// would not come back as it was is an error.
pub(crate) struct Decoding<R> {
    charset: Charset,
    decoder: Decoder,
    reader: R,
    input: Vec<u8>,
    /// What has been received and was not seen again.
    unseen: VecDeque<u8>,
    again: Encoder,
    text: Vec<u8>,
    given: usize,
    lines: u64,
    over: bool,
}

impl<R: Read> Decoding<R> {
    pub(crate) fn new(charset: Charset, reader: R) -> Self {
        Self {
            charset,
            decoder: charset.0.new_decoder_without_bom_handling(),
            reader,
            input: vec![0; STEP],
            unseen: VecDeque::new(),
            again: Encoder::new(charset),
            text: Vec::new(),
            given: 0,
            lines: 1,
            over: false,
        }
    }

    fn refill(&mut self) -> io::Result<()> {
        let read = loop {
            match self.reader.read(&mut self.input) {
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                read => break read?,
            }
        };
        self.over = read == 0;
        self.given = 0;
        let mut text = String::with_capacity(read * 3 + 16);
        let room = self.decoder.max_utf8_buffer_length_without_replacement(read).unwrap_or(read * 3 + 16);
        text.reserve(room);
        let input = &self.input[..read];
        let (result, _) = self.decoder.decode_to_string_without_replacement(input, &mut text, self.over);
        if let DecoderResult::Malformed(..) = result {
            return Err(self.error(&text, "holds bytes that mean nothing in it"));
        }
        self.unseen.extend(input);
        let mut again = Vec::with_capacity(read);
        let encoded = self.again.encode(&text, self.over, &mut again);
        let is_same = encoded.is_ok()
            && again.len() <= self.unseen.len()
            && self.unseen.drain(..again.len()).eq(again.iter().copied())
            && (!self.over || self.unseen.is_empty());
        if !is_same {
            return Err(self.error("", "would not come back as it was, to the byte"));
        }
        self.lines += bytecount_lines(&text);
        self.text = text.into_bytes();
        Ok(())
    }

    #[cold]
    fn error(&self, before: &str, what: &str) -> io::Error {
        let line = self.lines + bytecount_lines(before);
        let told = format!("it is read as {}, and {what}, at line {line} or after it", self.charset);
        io::Error::new(io::ErrorKind::InvalidData, told)
    }
}

fn bytecount_lines(text: &str) -> u64 {
    memchr::memchr_iter(b'\n', text.as_bytes()).count() as u64
}

impl<R: Read> Read for Decoding<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        while self.given == self.text.len() && !self.over {
            self.refill()?;
        }
        let rest = &self.text[self.given..];
        let len = rest.len().min(buffer.len());
        buffer[..len].copy_from_slice(&rest[..len]);
        self.given += len;
        Ok(len)
    }
}
