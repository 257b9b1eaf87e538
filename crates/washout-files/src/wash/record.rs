//! Writing all changes of a file down, beside the work on it.

use std::io::{self, Seek, Write};
use std::path::Path;
use std::sync::mpsc::{SyncSender, sync_channel};
use std::thread::{Scope, ScopedJoinHandle};

use tempfile::SpooledTempFile;
use washout_core::RuleId;
use washout_core::observe::Hunk;

/// Writes changes down, as lines or in any other form.
pub trait Recorder: Sync {
    /// Starts on a file.
    fn file<'f>(&'f self, path: &'f Path) -> Box<dyn FileRecorder + Send + 'f>;
}

/// Writes the changes of one file down.
pub trait FileRecorder {
    /// Appends what there is to be written of a hunk.
    fn hunk(&mut self, hunk: &Hunk, out: &mut Vec<u8>);

    /// The same of several, in order.
    fn hunks(&mut self, hunks: &[Hunk], out: &mut Vec<u8>) {
        hunks.iter().for_each(|hunk| self.hunk(hunk, out));
    }

    /// The same of a byte order mark that a rule drops.
    fn byte_order_mark(&mut self, rule: RuleId, out: &mut Vec<u8>) {
        let _ = (rule, out);
    }
}

/// What is kept in memory of a record, in bytes; more goes to a temporary file.
const SPOOLED: usize = 1 << 20;

/// Lists of hunks that may wait to be written down.
const MOST_WAITING: usize = 4;

/// Lists that are written down without help: of a short file there are not many.
const WITHOUT_HELP: usize = 2;

/// All recorders at work on one file.
struct Records<'f> {
    recorders: Vec<Box<dyn FileRecorder + Send + 'f>>,
    spools: Vec<SpooledTempFile>,
    buffer: Vec<u8>,
    failed: Option<io::Error>,
}

impl Records<'_> {
    fn write(&mut self, mut write: impl FnMut(&mut dyn FileRecorder, &mut Vec<u8>)) {
        for (recorder, spool) in self.recorders.iter_mut().zip(&mut self.spools) {
            write(recorder.as_mut(), &mut self.buffer);
            if self.failed.is_none() {
                self.failed = spool.write_all(&self.buffer).err();
            }
            self.buffer.clear();
        }
    }

    fn hunks(&mut self, hunks: &[Hunk]) {
        self.write(|recorder, out| recorder.hunks(hunks, out));
    }

    fn finish(mut self) -> io::Result<Vec<SpooledTempFile>> {
        self.spools.iter_mut().try_for_each(Seek::rewind)?;
        self.failed.map_or(Ok(self.spools), Err)
    }
}

/// Hands hunks to the recorders: at first at once, then on a thread of its own.
pub(super) struct Writing<'s, 'f> {
    scope: &'s Scope<'s, 'f>,
    lists: usize,
    here: Option<Records<'f>>,
    beside: Option<(SyncSender<Vec<Hunk>>, ScopedJoinHandle<'s, Records<'f>>)>,
}

impl<'s, 'f> Writing<'s, 'f> {
    /// `None`: there is no recorder.
    pub(super) fn new(path: &'f Path, recorders: &'f [&'f dyn Recorder], scope: &'s Scope<'s, 'f>) -> Option<Self> {
        let records = Records {
            recorders: recorders.iter().map(|recorder| recorder.file(path)).collect(),
            spools: recorders.iter().map(|_| SpooledTempFile::new(SPOOLED)).collect(),
            buffer: Vec::new(),
            failed: None,
        };
        (!recorders.is_empty()).then_some(Self { scope, lists: 0, here: Some(records), beside: None })
    }

    /// Writes hunks down, which follow those before.
    pub(super) fn write(&mut self, hunks: Vec<Hunk>) {
        if hunks.is_empty() {
            return;
        }
        self.lists += 1;
        if self.lists > WITHOUT_HELP
            && let Some(mut records) = self.here.take()
        {
            let (lists, received) = sync_channel::<Vec<Hunk>>(MOST_WAITING);
            let thread = self.scope.spawn(move || {
                received.iter().for_each(|hunks| records.hunks(&hunks));
                records
            });
            self.beside = Some((lists, thread));
        }
        if let Some(records) = &mut self.here {
            records.hunks(&hunks);
        } else if let Some((lists, _)) = &self.beside {
            // A thread that has ended has panicked, which is passed on when it is joined.
            drop(lists.send(hunks));
        }
    }

    /// The same of a byte order mark, which comes before anything else.
    pub(super) fn byte_order_mark(&mut self, rule: RuleId) {
        if let Some(records) = &mut self.here {
            records.write(|recorder, out| recorder.byte_order_mark(rule, out));
        }
    }

    /// What each recorder has written.
    pub(super) fn finish(self) -> io::Result<Vec<SpooledTempFile>> {
        let beside = self.beside.map(|(lists, thread)| {
            drop(lists);
            thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
        });
        self.here.or(beside).map_or(Ok(Vec::new()), Records::finish)
    }
}
