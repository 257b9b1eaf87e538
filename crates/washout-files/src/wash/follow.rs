//! Following the changes of a file: the first ones to be shown, or all of them to be written down.

use std::io;
use std::path::Path;
use std::sync::mpsc::{SyncSender, sync_channel};
use std::thread::{Scope, ScopedJoinHandle};

use tempfile::SpooledTempFile;
use washout_core::RuleId;
use washout_core::observe::{Change, Detail, Hunk, Lineage, Noted, Observer};

use super::excerpt::{CONTEXT, Excerpt, Totals};
use super::record::{Recorder, Writing};

/// What is kept of the changes.
#[derive(Clone, Copy, Default)]
pub struct Follow<'r> {
    /// How many hunks of a file are kept to be shown. Once there are that many, and no recorder wants the others, a long
    /// text is only washed from there on.
    pub hunks: usize,
    /// Of how many files with changes they are kept, at least; of later ones none are.
    pub files: usize,
    /// Whether nothing else of a file is wanted: then the rest of it is not read.
    pub only: bool,
    /// Each of them writes down every change, in order.
    pub recorders: &'r [&'r dyn Recorder],
}

impl Follow<'_> {
    /// Whether anything is kept.
    pub(crate) fn wants_any(&self) -> bool {
        self.hunks > 0 || !self.recorders.is_empty()
    }
}

/// What was kept of the changes of one file.
#[derive(Debug, Default)]
pub struct Followed {
    /// The first hunks.
    pub excerpt: Excerpt,
    /// What each recorder wrote, from the start.
    pub records: Vec<SpooledTempFile>,
}

/// Hunks of cells that are handed on at once.
const CELLS: usize = 512;

/// A text is followed so far at least, in bytes: what changes in most files is counted to the end.
const FOLLOWED: usize = 1 << 20;

/// The same of a table, in cells that change.
const FOLLOWED_CELLS: u64 = 1 << 14;

/// A text of which every change is written down is followed on a thread of its own from there on, in bytes.
const BESIDE: usize = 256 << 10;

/// How much of what that thread is to be told may wait, in lists.
const MOST_WAITING: usize = 8;

/// Keeps of the changes of a file what is wanted of them: memory does not grow with their number.
pub(crate) struct FollowObserver<'s, 'f> {
    /// What follows the text on the thread that washes it, as long as that is done there.
    here: Option<Following<'s, 'f>>,
    beside: Option<Beside<'s, 'f>>,
    scope: &'s Scope<'s, 'f>,
    cells: Vec<Hunk>,
    /// How much of the text has come, in bytes.
    came: usize,
    only: bool,
}

/// A text that is followed, and what is kept of its hunks.
struct Following<'s, 'f> {
    lineage: Lineage,
    excerpt: Excerpt,
    totals: Totals,
    most: usize,
    writing: Option<Writing<'s, 'f>>,
}

/// A thread that follows the text, and what it is to be told.
struct Beside<'s, 'f> {
    noted: Noted,
    sender: SyncSender<Noted>,
    thread: ScopedJoinHandle<'s, Following<'s, 'f>>,
}

impl Following<'_, '_> {
    fn keep(&mut self, hunks: Vec<Hunk>) {
        for hunk in &hunks {
            self.totals.add(hunk);
            if self.excerpt.hunks.len() < self.most {
                self.excerpt.hunks.push(hunk.around(CONTEXT));
            }
        }
        if let Some(writing) = &mut self.writing {
            writing.write(hunks);
        }
    }

    fn keep_finished(&mut self) {
        let hunks = self.lineage.take_hunks();
        self.keep(hunks);
    }

    fn is_full(&self) -> bool {
        self.excerpt.hunks.len() >= self.most
    }
}

impl Beside<'_, '_> {
    fn note(&mut self, event: impl FnOnce(&mut Noted)) {
        event(&mut self.noted);
        if self.noted.is_much() {
            // A thread that has ended has panicked, which is passed on when it is joined.
            drop(self.sender.send(std::mem::take(&mut self.noted)));
        }
    }
}

impl<'s, 'f> FollowObserver<'s, 'f> {
    /// Follows the file at a path through this number of rules. Where changes of a long file are written down, threads of this
    /// scope follow it and write.
    pub(crate) fn new(path: &'f Path, rules: usize, follow: Follow<'f>, scope: &'s Scope<'s, 'f>) -> Self {
        let writing = Writing::new(path, follow.recorders, scope);
        let following = Following {
            lineage: Lineage::new(rules, detail(writing.is_some())),
            excerpt: Excerpt::default(),
            totals: Totals::default(),
            most: follow.hunks,
            writing,
        };
        Self { here: Some(following), beside: None, scope, cells: Vec::new(), came: 0, only: follow.only }
    }

    /// Goes on beside the thread that washes, if that is worth it.
    fn go_beside(&mut self) {
        let is_worth_it = |following: &mut Following<'_, '_>| following.writing.is_some() && !self.only;
        let Some(mut following) = self.here.take_if(|following| self.came >= BESIDE && is_worth_it(following)) else {
            return;
        };
        let (sender, receiver) = sync_channel::<Noted>(MOST_WAITING);
        let thread = self.scope.spawn(move || {
            for noted in receiver {
                noted.tell(&mut following.lineage);
                following.keep_finished();
            }
            following
        });
        self.beside = Some(Beside { noted: Noted::default(), sender, thread });
    }

    /// What was kept; the error is that of a temporary file.
    pub(crate) fn finish(mut self) -> io::Result<Followed> {
        let cells = std::mem::take(&mut self.cells);
        self.keep_cells(cells);
        let is_active = self.is_active();
        let beside = self.beside.map(|Beside { noted, sender, thread }| {
            drop(sender.send(noted));
            drop(sender);
            thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
        });
        let Some(mut following) = self.here.or(beside) else { return Ok(Followed::default()) };
        if is_active {
            let lineage = std::mem::replace(&mut following.lineage, Lineage::new(0, Detail::Parts));
            following.keep(lineage.finish());
            following.excerpt.totals = Some(following.totals);
        }
        let records = following.writing.map(Writing::finish).transpose()?.unwrap_or_default();
        Ok(Followed { excerpt: following.excerpt, records })
    }

    /// Cells of a table, which is followed here.
    fn keep_cells(&mut self, cells: Vec<Hunk>) {
        if let Some(following) = &mut self.here {
            following.keep(cells);
        }
    }
}

/// How much of each hunk is kept on the way.
fn detail(is_recorded: bool) -> Detail {
    if is_recorded { Detail::Parts } else { Detail::Around { context: CONTEXT } }
}

impl Observer for FollowObserver<'_, '_> {
    fn is_active(&self) -> bool {
        self.here.as_ref().is_none_or(|following| {
            let is_long = self.came > FOLLOWED || following.totals.hunks > FOLLOWED_CELLS;
            following.writing.is_some() || !following.is_full() || !(is_long || self.is_done())
        })
    }

    fn is_done(&self) -> bool {
        self.only && self.here.as_ref().is_some_and(Following::is_full)
    }

    fn input(&mut self, piece: &[u8]) {
        self.go_beside();
        if let Some(following) = &mut self.here {
            following.keep_finished();
        }
        self.came = self.came.saturating_add(piece.len());
        if let Some(beside) = &mut self.beside {
            beside.note(|noted| noted.input(piece));
        } else if self.is_active()
            && let Some(following) = &mut self.here
        {
            following.lineage.input(piece);
        }
    }

    fn change(&mut self, change: &Change<'_>) {
        if let Some(following) = &mut self.here {
            following.lineage.change(change);
        } else if let Some(beside) = &mut self.beside {
            beside.note(|noted| noted.change(change));
        }
    }

    fn cell(&mut self, hunk: Hunk) {
        self.cells.push(hunk);
        if self.cells.len() >= CELLS || self.only {
            let cells = std::mem::take(&mut self.cells);
            self.keep_cells(cells);
        }
    }

    fn detail(&self) -> Detail {
        detail(self.here.as_ref().is_none_or(|following| following.writing.is_some()))
    }

    fn byte_order_mark(&mut self, rule: RuleId) {
        // It comes before anything else, so it is told here.
        let Some(following) = &mut self.here else { return };
        following.excerpt.byte_order_mark = Some(rule);
        if let Some(writing) = &mut following.writing {
            writing.byte_order_mark(rule);
        }
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        if let Some(following) = &mut self.here {
            following.lineage.judged(rule, bytes);
        } else if let Some(beside) = &mut self.beside {
            beside.note(|noted| noted.judged(rule, bytes));
        }
    }
}
