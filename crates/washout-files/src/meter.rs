//! The progress of a long run.

use std::io::{self, Read};
use std::sync::atomic::{AtomicU64, Ordering};

/// Counts what has been done; any thread may look at it meanwhile.
#[derive(Debug, Default)]
pub struct Meter {
    files: AtomicU64,
    bytes: AtomicU64,
}

impl Meter {
    /// Files that are finished.
    pub fn files(&self) -> u64 {
        self.files.load(Ordering::Relaxed)
    }

    /// Bytes that have been read.
    pub fn bytes(&self) -> u64 {
        self.bytes.load(Ordering::Relaxed)
    }

    /// One more file is finished.
    pub fn file_done(&self) {
        self.files.fetch_add(1, Ordering::Relaxed);
    }

    pub(crate) fn add(&self, bytes: usize) {
        self.bytes.fetch_add(bytes as u64, Ordering::Relaxed);
    }

    /// A reader whose bytes are counted.
    pub(crate) fn counting<R: Read>(&self, reader: R) -> Counting<'_, R> {
        Counting { meter: self, reader }
    }
}

pub(crate) struct Counting<'m, R> {
    meter: &'m Meter,
    reader: R,
}

impl<R: Read> Read for Counting<'_, R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.reader.read(buffer)?;
        self.meter.add(read);
        Ok(read)
    }
}
