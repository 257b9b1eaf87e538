//! Changes written down one by one, as they are found.

use std::io::{self, Write};
use std::path::Path;
use std::sync::atomic::{AtomicU64, Ordering};

use washout_core::RuleId;
use washout_core::observe::{Hunk, Piece, PlacedChange, Side};
use washout_files::{FileRecorder, Recorder};

/// How a change is written.
pub(crate) trait ChangeFormat: Sync {
    /// What all changes of a file have in common, worked out once.
    type File: Send;

    fn file(&self, path: &Path) -> Self::File;

    fn change(&self, file: &Self::File, change: &PlacedChange<'_>, out: &mut Vec<u8>);
}

/// Writes every change in a format.
pub(crate) struct EachChange<F> {
    format: F,
    /// What is written before each change and after it.
    around: (&'static [u8], &'static [u8]),
    count: AtomicU64,
}

impl<F: ChangeFormat> EachChange<F> {
    /// A line for each.
    pub(crate) fn lines(format: F) -> Self {
        Self { format, around: (b"", b"\n"), count: AtomicU64::new(0) }
    }

    /// For a list of values: a comma and a line end before each, the first one too.
    pub(crate) fn list(format: F) -> Self {
        Self { format, around: (b",\n", b""), count: AtomicU64::new(0) }
    }

    pub(crate) fn format(&self) -> &F {
        &self.format
    }

    /// Writes the first change of a hunk.
    pub(crate) fn first(&self, path: &Path, hunk: &Hunk, out: &mut Vec<u8>) {
        if let Some(change) = hunk.changes().next() {
            out.extend_from_slice(self.around.0);
            self.format.change(&self.format.file(path), &change, out);
            out.extend_from_slice(self.around.1);
        }
    }

    /// How many were written.
    pub(crate) fn count(&self) -> u64 {
        self.count.load(Ordering::Relaxed)
    }
}

impl<F: ChangeFormat> Recorder for EachChange<F> {
    fn file<'f>(&'f self, path: &'f Path) -> Box<dyn FileRecorder + Send + 'f> {
        Box::new(ChangesOfFile { all: self, file: self.format.file(path) })
    }
}

struct ChangesOfFile<'f, F: ChangeFormat> {
    all: &'f EachChange<F>,
    file: F::File,
}

impl<F: ChangeFormat> FileRecorder for ChangesOfFile<'_, F> {
    fn hunk(&mut self, hunk: &Hunk, out: &mut Vec<u8>) {
        let EachChange { format, around: (before, after), count } = self.all;
        let mut here = 0;
        for change in hunk.changes() {
            out.extend_from_slice(before);
            format.change(&self.file, &change, out);
            out.extend_from_slice(after);
            here += 1;
        }
        count.fetch_add(here, Ordering::Relaxed);
    }

    fn byte_order_mark(&mut self, rule: RuleId, out: &mut Vec<u8>) {
        self.hunk(&mark_hunk(rule), out);
    }
}

/// A byte order mark that goes, as a hunk.
pub(crate) fn mark_hunk(rule: RuleId) -> Hunk {
    let mark = Piece { side: Side::Removed(rule), bytes: "\u{FEFF}".as_bytes(), omitted: 0, omitted_chars: 0 };
    let mut hunk = Hunk::default().with_pieces([mark]);
    hunk.first_line = 1;
    hunk
}

/// Appends a number in digits.
pub(crate) fn write_number(number: u64, out: &mut Vec<u8>) {
    out.extend_from_slice(itoa::Buffer::new().format(number).as_bytes());
}

/// Copies what a recorder has written.
pub(crate) fn copy_record(mut record: impl io::Read, out: &mut impl Write) -> io::Result<()> {
    let mut buffer = vec![0; 64 << 10];
    loop {
        match record.read(&mut buffer)? {
            0 => return Ok(()),
            len => out.write_all(&buffer[..len])?,
        }
    }
}
