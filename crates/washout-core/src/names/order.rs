//! In which order renames find their new names free.

use std::borrow::Cow;
use std::collections::VecDeque;
use std::hash::BuildHasher as _;

use foldhash::fast::RandomState;
use foldhash::{HashMap, HashMapExt};
use hashbrown::HashTable;

use super::RenameStep;
use super::plan::FinalNames;
use super::same::key;

/// The renames of one folder as steps. `moves`: the entries that get another name; all new names differ, and nothing that stays
/// has one of them. Chains run from their free end; of each cycle one entry goes to a temporary name first.
pub(super) fn steps<N: AsRef<[u8]>>(moves: &[usize], names: &FinalNames<'_, N>) -> Vec<RenameStep> {
    let mut order = MoveOrder::new(moves, names);
    for index in 0..moves.len() {
        if !order.done[index] && !order.is_blocked(index) {
            order.ready.push_back(index);
            order.run();
        }
    }
    for index in 0..moves.len() {
        // Whoever still waits is in a cycle, or after one.
        if !order.done[index] {
            order.send_away(index);
            order.run();
        }
    }
    order.steps
}

struct MoveOrder<'m, N> {
    moves: &'m [usize],
    names: &'m FinalNames<'m, N>,
    /// The moves whose entries still have their old names, by the hash of these: as few bytes as there can be for each, since
    /// folders have a million of names.
    occupied: HashTable<usize>,
    hashes: RandomState,
    /// Who waits for each name to be left.
    waiting: HashMap<Cow<'m, [u8]>, Vec<usize>>,
    ready: VecDeque<usize>,
    /// The temporary name of each that has one.
    away: HashMap<usize, usize>,
    done: Vec<bool>,
    steps: Vec<RenameStep>,
}

impl<'m, N: AsRef<[u8]>> MoveOrder<'m, N> {
    fn new(moves: &'m [usize], names: &'m FinalNames<'m, N>) -> Self {
        let mut order = Self {
            moves,
            names,
            occupied: HashTable::with_capacity(moves.len()),
            hashes: RandomState::default(),
            waiting: HashMap::new(),
            ready: VecDeque::new(),
            away: HashMap::new(),
            done: vec![false; moves.len()],
            steps: Vec::with_capacity(moves.len()),
        };
        for index in 0..moves.len() {
            let hash = order.hashes.hash_one(&*order.old(index));
            // There is room for all of them.
            order.occupied.insert_unique(hash, index, |_| hash);
        }
        for index in 0..moves.len() {
            if order.is_blocked(index) {
                order.waiting.entry(order.new_name(index)).or_default().push(index);
            }
        }
        order
    }

    fn key(&self, name: &'m [u8]) -> Cow<'m, [u8]> {
        if self.names.folds() { key(name) } else { Cow::Borrowed(name) }
    }

    fn old(&self, index: usize) -> Cow<'m, [u8]> {
        self.key(self.names.old(self.moves[index]))
    }

    fn new_name(&self, index: usize) -> Cow<'m, [u8]> {
        self.key(self.names.of(self.moves[index]))
    }

    fn is_occupied(&self, name: &[u8]) -> bool {
        self.occupied.find(self.hashes.hash_one(name), |index| *self.old(*index) == *name).is_some()
    }

    fn is_blocked(&self, index: usize) -> bool {
        self.is_occupied(&self.new_name(index))
    }

    fn run(&mut self) {
        while let Some(index) = self.ready.pop_front() {
            if self.done[index] || self.is_blocked(index) {
                continue;
            }
            self.done[index] = true;
            let entry = self.moves[index];
            if let Some(temporary) = self.away.get(&index) {
                self.steps.push(RenameStep::Source(entry, *temporary));
            } else {
                self.steps.push(RenameStep::Direct(entry));
                self.left(index);
            }
        }
    }

    fn send_away(&mut self, index: usize) {
        let temporary = self.away.len();
        self.steps.push(RenameStep::Target(self.moves[index], temporary));
        self.away.insert(index, temporary);
        self.left(index);
        // Its own old name may be what it waited for, where names differ in letter case only.
        self.ready.push_back(index);
    }

    /// An entry has left its old name.
    fn left(&mut self, index: usize) {
        let old = self.old(index);
        if let Ok(found) = self.occupied.find_entry(self.hashes.hash_one(&*old), |other| *other == index) {
            found.remove();
        }
        if !self.is_occupied(&old)
            && let Some(waiting) = self.waiting.remove(&old)
        {
            self.ready.extend(waiting);
        }
    }
}
