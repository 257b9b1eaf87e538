//! Where each stretch of the result comes from, worked out on a thread of its own beside the one that washes.

use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread::JoinHandle;

use washout_core::RuleId;
use washout_core::observe::{Change, Detail, Hunk, Lineage, Observer};

/// Events that are handed over at once, and how many lists of them may wait.
const AT_ONCE: usize = 4_096;
const MOST_WAITING: usize = 8;

/// What an observer is told. Its bytes stand in [`Events::bytes`], in the order in which they came.
enum Event {
    Input { len: usize },
    Change { rule: RuleId, at: u64, before: usize, after: usize, matches: u64 },
    Judged { rule: RuleId, bytes: u64 },
}

#[derive(Default)]
struct Events {
    list: Vec<Event>,
    bytes: Vec<u8>,
}

/// An observer that only notes what it is told: a [`Lineage`] on another thread is told the same.
pub(super) struct LineageBeside {
    events: Events,
    beside: SyncSender<Events>,
    thread: JoinHandle<Vec<Hunk>>,
}

impl LineageBeside {
    /// Follows a program of that many rules.
    pub(super) fn start(rules: usize) -> Self {
        let (sender, receiver) = sync_channel(MOST_WAITING);
        let thread = std::thread::spawn(move || follow(rules, &receiver));
        Self { events: Events::default(), beside: sender, thread }
    }

    fn note(&mut self, event: Event) {
        self.events.list.push(event);
        if self.events.list.len() >= AT_ONCE {
            self.hand_over();
        }
    }

    fn hand_over(&mut self) {
        // A thread that has ended has panicked, which is passed on when it is joined.
        drop(self.beside.send(std::mem::take(&mut self.events)));
    }

    /// Closes the text; gives its hunks.
    pub(super) fn finish(mut self) -> Vec<Hunk> {
        self.hand_over();
        drop(self.beside);
        self.thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
    }
}

fn follow(rules: usize, events: &Receiver<Events>) -> Vec<Hunk> {
    let mut lineage = Lineage::new(rules, Detail::All);
    for Events { list, bytes } in events {
        let mut rest = &bytes[..];
        let mut take = |len: usize| {
            let (taken, behind) = rest.split_at(len);
            rest = behind;
            taken
        };
        for event in list {
            match event {
                Event::Input { len } => lineage.input(take(len)),
                Event::Change { rule, at, before, after, matches } => {
                    lineage.change(&Change { rule, at, before: take(before), after: take(after), matches });
                }
                Event::Judged { rule, bytes } => lineage.judged(rule, bytes),
            }
        }
    }
    lineage.finish()
}

impl Observer for LineageBeside {
    fn input(&mut self, piece: &[u8]) {
        self.events.bytes.extend_from_slice(piece);
        self.note(Event::Input { len: piece.len() });
    }

    fn change(&mut self, change: &Change<'_>) {
        let &Change { rule, at, before, after, matches } = change;
        self.events.bytes.extend_from_slice(before);
        self.events.bytes.extend_from_slice(after);
        self.note(Event::Change { rule, at, before: before.len(), after: after.len(), matches });
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.note(Event::Judged { rule, bytes });
    }
}
