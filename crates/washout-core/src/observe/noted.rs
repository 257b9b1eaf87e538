//! What an observer is told, noted down.

use super::{Change, Observer};
use crate::rules::RuleId;

/// Notes down what it is told of a text, to tell it to another observer: at another time, or on another thread.
///
/// ```
/// use washout_core::observe::{Detail, Lineage, Noted};
/// use washout_core::{Program, RuleSet};
///
/// let program = Program::compile([&RuleSet::read_one_rule("rule", "remove.text = 'fog'")?]);
/// let (mut washer, mut out) = (program.washer(Noted::default()), Vec::new());
/// washer.push(b"fog horn\n", &mut out)?;
/// washer.finish(&mut out)?;
/// let mut lineage = Lineage::new(1, Detail::All);
/// washer.into_observer().tell(&mut lineage);
/// assert_eq!(lineage.finish().len(), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug, Default)]
pub struct Noted {
    events: Vec<Event>,
    /// The bytes of all events, one after the other.
    bytes: Vec<u8>,
}

/// Calls, and bytes that came with them, that are handed over at once.
const MUCH_CALLS: usize = 4_096;
const MUCH_TEXT: usize = 128 << 10;

#[derive(Clone, Copy, Debug)]
enum Event {
    Input { len: usize },
    Change { rule: RuleId, at: u64, before: usize, after: usize, matches: u64 },
    Judged { rule: RuleId, bytes: u64 },
    ByteOrderMark { rule: RuleId },
}

impl Noted {
    /// Whether it is time to hand it over to another thread: more would take memory, less would cost time.
    pub fn is_much(&self) -> bool {
        self.events.len() >= MUCH_CALLS || self.bytes.len() >= MUCH_TEXT
    }

    /// Tells another observer all of it, in order.
    pub fn tell(&self, observer: &mut impl Observer) {
        let mut rest = &self.bytes[..];
        let mut take = |len: usize| {
            let (taken, behind) = rest.split_at(len);
            rest = behind;
            taken
        };
        for event in &self.events {
            match *event {
                Event::Input { len } => observer.input(take(len)),
                Event::Change { rule, at, before, after, matches } => {
                    observer.change(&Change { rule, at, before: take(before), after: take(after), matches });
                }
                Event::Judged { rule, bytes } => observer.judged(rule, bytes),
                Event::ByteOrderMark { rule } => observer.byte_order_mark(rule),
            }
        }
    }
}

impl Observer for Noted {
    fn input(&mut self, piece: &[u8]) {
        self.bytes.extend_from_slice(piece);
        self.events.push(Event::Input { len: piece.len() });
    }

    fn change(&mut self, change: &Change<'_>) {
        let &Change { rule, at, before, after, matches } = change;
        self.bytes.extend_from_slice(before);
        self.bytes.extend_from_slice(after);
        self.events.push(Event::Change { rule, at, before: before.len(), after: after.len(), matches });
    }

    fn judged(&mut self, rule: RuleId, bytes: u64) {
        self.events.push(Event::Judged { rule, bytes });
    }

    fn byte_order_mark(&mut self, rule: RuleId) {
        self.events.push(Event::ByteOrderMark { rule });
    }
}
