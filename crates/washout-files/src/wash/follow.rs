//! Following the changes of a file: the first ones to be shown, or all of them to be written down.

use std::io::{self, Seek, Write};
use std::path::Path;

use tempfile::SpooledTempFile;
use washout_core::RuleId;
use washout_core::observe::{Change, Detail, Hunk, Lineage, Observer, PlacedChange};

use super::excerpt::{Excerpt, ExcerptObserver};

/// Writes one change of a file down, as a line or in any other form.
pub type Recorder<'r> = dyn Fn(&Path, &PlacedChange, &mut Vec<u8>) + Sync + 'r;

/// What is kept of the changes.
#[derive(Clone, Copy, Default)]
pub struct Follow<'r> {
    /// How many hunks of a file are kept to be shown.
    pub hunks: usize,
    /// Every change is written down by this, in order.
    pub record: Option<&'r Recorder<'r>>,
}

/// What was kept of the changes of one file.
#[derive(Debug, Default)]
pub struct Followed {
    /// The first hunks.
    pub excerpt: Excerpt,
    /// What the recorder wrote, from the start.
    pub record: Option<SpooledTempFile>,
}

/// What is kept in memory of a record, in bytes; more goes to a temporary file.
const SPOOLED: usize = 1 << 20;

pub(crate) struct FollowObserver<'f> {
    excerpt: ExcerptObserver,
    record: Option<ChangeRecord<'f>>,
}

struct ChangeRecord<'f> {
    path: &'f Path,
    lineage: Lineage,
    write: &'f Recorder<'f>,
    buffer: Vec<u8>,
    spool: SpooledTempFile,
    failed: Option<io::Error>,
}

impl<'f> FollowObserver<'f> {
    pub(crate) fn new(path: &'f Path, rules: usize, follow: Follow<'f>) -> Self {
        let record = follow.record.map(|write| ChangeRecord {
            path,
            lineage: Lineage::new(rules, Detail::Parts),
            write,
            buffer: Vec::new(),
            spool: SpooledTempFile::new(SPOOLED),
            failed: None,
        });
        Self { excerpt: ExcerptObserver::new(rules, follow.hunks), record }
    }

    /// What was kept; the error is that of the temporary file.
    pub(crate) fn finish(self) -> io::Result<Followed> {
        let record = self.record.map(ChangeRecord::finish).transpose()?;
        Ok(Followed { excerpt: self.excerpt.finish(), record })
    }
}

impl ChangeRecord<'_> {
    fn take(&mut self) {
        let hunks = self.lineage.take_hunks();
        self.write(&hunks);
    }

    fn write(&mut self, hunks: &[Hunk]) {
        for change in hunks.iter().flat_map(Hunk::changes) {
            (self.write)(self.path, &change, &mut self.buffer);
        }
        if self.failed.is_none() {
            self.failed = self.spool.write_all(&self.buffer).err();
        }
        self.buffer.clear();
    }

    fn finish(mut self) -> io::Result<SpooledTempFile> {
        let last = std::mem::replace(&mut self.lineage, Lineage::new(0, Detail::Parts)).finish();
        self.write(&last);
        match self.failed {
            Some(error) => Err(error),
            None => self.spool.rewind().map(|()| self.spool),
        }
    }
}

impl Observer for FollowObserver<'_> {
    fn input(&mut self, piece: &[u8]) {
        self.excerpt.input(piece);
        if let Some(record) = &mut self.record {
            record.take();
            record.lineage.input(piece);
        }
    }

    fn change(&mut self, change: &Change<'_>) {
        self.excerpt.change(change);
        if let Some(record) = &mut self.record {
            record.lineage.change(change);
        }
    }

    fn cell(&mut self, hunk: Hunk) {
        if let Some(record) = &mut self.record {
            record.write(std::slice::from_ref(&hunk));
        }
        self.excerpt.cell(hunk);
    }

    fn detail(&self) -> Detail {
        if self.record.is_some() { Detail::Parts } else { self.excerpt.detail() }
    }

    fn byte_order_mark(&mut self, rule: RuleId) {
        self.excerpt.byte_order_mark(rule);
        if let Some(record) = &mut self.record {
            let before = "\u{FEFF}".as_bytes().to_vec();
            let change = PlacedChange { cell: None, source: None, line: 1, column: 1, rule, before, after: Vec::new() };
            (record.write)(record.path, &change, &mut record.buffer);
        }
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.excerpt.judged(rule, bytes);
        if let Some(record) = &mut self.record {
            record.lineage.judged(rule, bytes);
        }
    }
}
