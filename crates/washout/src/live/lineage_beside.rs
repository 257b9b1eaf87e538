//! Where each stretch of the result comes from, worked out on a thread of its own beside the one that washes.

use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread::JoinHandle;

use washout_core::RuleId;
use washout_core::observe::{Change, Detail, Hunk, Lineage, Noted, Observer};

/// How much of what the thread is to be told may wait, in lists.
const MOST_WAITING: usize = 8;

/// An observer that notes what it is told: a [`Lineage`] on another thread is told the same.
pub(super) struct LineageBeside {
    noted: Noted,
    beside: SyncSender<Noted>,
    thread: JoinHandle<Vec<Hunk>>,
}

impl LineageBeside {
    /// Follows a program of that many rules.
    pub(super) fn start(rules: usize) -> Self {
        let (beside, noted) = sync_channel(MOST_WAITING);
        let thread = std::thread::spawn(move || follow(rules, &noted));
        Self { noted: Noted::default(), beside, thread }
    }

    fn note(&mut self, event: impl FnOnce(&mut Noted)) {
        event(&mut self.noted);
        if self.noted.is_much() {
            self.hand_over();
        }
    }

    fn hand_over(&mut self) {
        // A thread that has ended has panicked, which is passed on when it is joined.
        drop(self.beside.send(std::mem::take(&mut self.noted)));
    }

    /// Closes the text; gives its hunks.
    pub(super) fn finish(mut self) -> Vec<Hunk> {
        self.hand_over();
        drop(self.beside);
        self.thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    }
}

fn follow(rules: usize, noted: &Receiver<Noted>) -> Vec<Hunk> {
    let mut lineage = Lineage::new(rules, Detail::All);
    noted.iter().for_each(|noted| noted.tell(&mut lineage));
    lineage.finish()
}

impl Observer for LineageBeside {
    fn input(&mut self, piece: &[u8]) {
        self.note(|noted| noted.input(piece));
    }

    fn change(&mut self, change: &Change<'_>) {
        self.note(|noted| noted.change(change));
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.note(|noted| noted.judged(rule, bytes));
    }
}
