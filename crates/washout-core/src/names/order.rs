//! In which order renames find their new names free.

use std::borrow::Cow;
use std::collections::VecDeque;

use foldhash::{HashMap, HashMapExt};

use super::RenameStep;
use super::same::key;

/// The renames of one folder as steps. `moves`: entry, old name, new name; all new names differ, and nothing that stays
/// has one of them. Chains run from their free end; of each cycle one entry goes to a temporary name first.
pub(super) fn steps(moves: &[(usize, &[u8], &[u8])], folds: bool) -> Vec<RenameStep> {
    let mut order = MoveOrder::new(moves, folds);
    for index in 0..moves.len() {
        if !order.is_blocked(index) {
            order.ready.push_back(index);
        }
    }
    order.run();
    for index in 0..moves.len() {
        // Whoever still waits is in a cycle, or after one.
        if !order.done[index] {
            order.send_away(index);
            order.run();
        }
    }
    order.steps
}

struct MoveOrder<'m> {
    moves: &'m [(usize, &'m [u8], &'m [u8])],
    folds: bool,
    /// How many entries that are going to move have each name now.
    occupied: HashMap<Cow<'m, [u8]>, usize>,
    /// Who waits for each name to be left.
    waiting: HashMap<Cow<'m, [u8]>, Vec<usize>>,
    ready: VecDeque<usize>,
    away: Vec<Option<usize>>,
    done: Vec<bool>,
    temporaries: usize,
    steps: Vec<RenameStep>,
}

impl<'m> MoveOrder<'m> {
    fn new(moves: &'m [(usize, &'m [u8], &'m [u8])], folds: bool) -> Self {
        let mut order = Self {
            moves,
            folds,
            occupied: HashMap::with_capacity(moves.len()),
            waiting: HashMap::new(),
            ready: VecDeque::new(),
            away: vec![None; moves.len()],
            done: vec![false; moves.len()],
            temporaries: 0,
            steps: Vec::with_capacity(moves.len()),
        };
        for (_, old, _) in moves {
            *order.occupied.entry(order.key(old)).or_default() += 1;
        }
        for (index, (_, _, new)) in moves.iter().enumerate() {
            let key = order.key(new);
            if order.occupied.contains_key(&key) {
                order.waiting.entry(key).or_default().push(index);
            }
        }
        order
    }

    fn key(&self, name: &'m [u8]) -> Cow<'m, [u8]> {
        if self.folds { key(name) } else { Cow::Borrowed(name) }
    }

    fn is_blocked(&self, index: usize) -> bool {
        self.occupied.get(&self.key(self.moves[index].2)).is_some_and(|count| *count > 0)
    }

    fn run(&mut self) {
        while let Some(index) = self.ready.pop_front() {
            if self.done[index] || self.is_blocked(index) {
                continue;
            }
            self.done[index] = true;
            let (entry, old, _) = self.moves[index];
            if let Some(temporary) = self.away[index] {
                self.steps.push(RenameStep::Source(entry, temporary));
            } else {
                self.steps.push(RenameStep::Direct(entry));
                self.left(old);
            }
        }
    }

    fn send_away(&mut self, index: usize) {
        let (entry, old, _) = self.moves[index];
        self.steps.push(RenameStep::Target(entry, self.temporaries));
        self.away[index] = Some(self.temporaries);
        self.temporaries += 1;
        self.left(old);
        // Its own old name may be what it waited for, where names differ in letter case only.
        self.ready.push_back(index);
    }

    /// An entry has left this name.
    fn left(&mut self, old: &'m [u8]) {
        let key = self.key(old);
        let count = self.occupied.get_mut(&key);
        let is_free = count.is_none_or(|count| {
            *count -= 1;
            *count == 0
        });
        if is_free && let Some(waiting) = self.waiting.remove(&key) {
            self.ready.extend(waiting);
        }
    }
}
