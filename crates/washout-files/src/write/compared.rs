//! A result that is only compared with its file.

use std::fs::File;
use std::io;
use std::os::unix::fs::FileExt;

use super::in_place::SourceFile;
use crate::chunk::Sink;
use crate::error::FileError;

/// Takes a result and compares it with the file it was made from, up to the first byte that differs.
pub(crate) struct ComparedSink<'s> {
    file: &'s File,
    /// How much of the result is the same as the start of the file.
    same: u64,
    differs: bool,
    buffer: Vec<u8>,
}

impl<'s> ComparedSink<'s> {
    pub(crate) fn new(source: &'s SourceFile) -> Self {
        Self { file: source.file(), same: 0, differs: false, buffer: Vec::new() }
    }

    /// Whether any byte of the result differs from that of the file at its place. Either may be longer.
    pub(crate) fn differs(&self) -> bool {
        self.differs
    }

    fn compare(&mut self, bytes: &[u8]) -> io::Result<bool> {
        self.buffer.resize(bytes.len(), 0);
        match self.file.read_exact_at(&mut self.buffer, self.same) {
            Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => Ok(false),
            read => read.map(|()| self.buffer == bytes),
        }
    }
}

impl Sink for ComparedSink<'_> {
    type Error = FileError;

    fn give(&mut self, bytes: &[u8], changed: bool) -> Result<(), FileError> {
        if changed && !self.differs {
            self.differs = !self.compare(bytes).map_err(FileError::Read)?;
        }
        self.same += bytes.len() as u64;
        Ok(())
    }
}
