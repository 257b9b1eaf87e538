//! Which names of one folder become which others.
//!
//! The idea: every entry has a final name, its own or the wanted one. Entries whose final names are one name are a group;
//! a group with more than one member has to be settled. Whoever is refused goes back to its own name, which may unsettle
//! the group there. Each entry goes back once at most, so this ends, after work in proportion to the names.

use std::borrow::Cow;
use std::collections::VecDeque;
use std::hash::BuildHasher as _;

use foldhash::fast::RandomState;
use foldhash::{HashMap, HashMapExt};
use hashbrown::HashTable;

use super::Refusal;
use super::order::steps;
use super::part::part;
use super::refusal::refusal;
use super::same::key;
use crate::rules::NamePart;

/// What is wanted of one entry of a folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NameRequest {
    /// It keeps its name.
    Stay,
    /// This is to be its name.
    Become(Vec<u8>),
    /// It cannot have the name it would, if there is one.
    Refused(Option<Vec<u8>>, Box<Refusal>),
}

/// What happens to one entry of a folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NameOutcome {
    /// It keeps its name, as no one wants another.
    Stays,
    /// It gets this name.
    Becomes(Vec<u8>),
    /// It keeps its name though another was wanted (this one, if there was any), for this reason.
    Refused(Option<Vec<u8>>, Box<Refusal>),
}

/// What happens where several entries would have one name.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum OnClash {
    /// None of them gets it.
    #[default]
    Refuse,
    /// The first gets it, unless someone has it, and the others get ` (2)`, ` (3)` after the stem: what the stock
    /// pattern `copy-suffix` takes away.
    Number,
}

/// Plans the renames of folders.
///
/// ```
/// use washout_core::names::{NameRequest, Planner};
///
/// let swap = |name: &str, new: &str| (name.to_owned(), false, NameRequest::Become(new.as_bytes().to_vec()));
/// let plan = Planner::default().plan(&[swap("a", "b"), swap("b", "a")]);
/// assert_eq!(plan.steps.len(), 3, "one of them gets a temporary name first");
/// ```
#[derive(Clone, Copy, Debug, Default)]
pub struct Planner {
    /// What happens where several entries would have one name.
    pub on_clash: OnClash,
    /// Names that other systems do not have are refused.
    pub portable: bool,
    /// The file system takes names that differ in letter case or Unicode form only for one.
    pub folds: bool,
    /// The names were there before: only what cannot be is refused.
    pub restores: bool,
}

/// The renames of one folder.
#[derive(Clone, Debug, Default)]
pub struct FolderPlan {
    /// What happens to each entry, in the order they were given.
    pub outcomes: Vec<NameOutcome>,
    /// The renames, each of which finds its new name free if those before it were done.
    pub steps: Vec<RenameStep>,
    pub(super) temporary: String,
}

/// One rename.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum RenameStep {
    /// The entry goes from its old name to its new one.
    Direct(usize),
    /// The entry goes out of the way, to the temporary name of this number.
    Target(usize, usize),
    /// The entry goes from there to its new name.
    Source(usize, usize),
}

impl RenameStep {
    /// The entry, by its place among those given.
    pub fn entry(self) -> usize {
        let (Self::Direct(entry) | Self::Target(entry, _) | Self::Source(entry, _)) = self;
        entry
    }
}

impl FolderPlan {
    /// The temporary name of this number: one that nothing in the folder has or wants.
    pub fn temporary(&self, number: usize) -> String {
        format!("{}{number}", self.temporary)
    }
}

impl Planner {
    /// Plans for one folder. `entries`: everything in it, with its name, whether it is a folder, and what is wanted; the
    /// order decides who is first. No name may be there twice.
    pub fn plan<N: AsRef<[u8]>>(self, entries: &[(N, bool, NameRequest)]) -> FolderPlan {
        let mut settling = Settling::new(self, entries);
        settling.settle_all();
        // What was needed to settle the names is given back before more is.
        let names = settling.names;
        let moves: Vec<usize> = (0..entries.len()).filter(|entry| names.moves(*entry)).collect();
        let steps = steps(&moves, &names);
        let temporary = if steps.iter().all(|step| matches!(step, RenameStep::Direct(_))) {
            String::new()
        } else {
            let all = entries.iter().map(|(name, ..)| name.as_ref());
            free_prefix(&all.chain(moves.iter().map(|entry| names.of(*entry))))
        };
        FolderPlan { outcomes: names.outcomes, steps, temporary }
    }

    fn refusal(self, old: &[u8], new: &[u8]) -> Option<Refusal> {
        let refusal = refusal(old, new, self.portable && !self.restores);
        refusal.filter(|refusal| !self.restores || !matches!(refusal, Refusal::Control))
    }
}

/// The start of temporary names, which no name begins with.
fn free_prefix<'n>(names: &(impl Iterator<Item = &'n [u8]> + Clone)) -> String {
    let mut prefix = ".washout-".to_owned();
    while names.clone().any(|name| key(name).starts_with(prefix.as_bytes())) {
        prefix.push('-');
    }
    prefix
}

/// A folder whose names are being settled.
struct Settling<'e, N> {
    names: FinalNames<'e, N>,
    /// The entries that have each final name, by the hash of its key: the key is that of any of them, so a million of names are
    /// not in memory once more.
    groups: HashTable<Group>,
    hashes: RandomState,
    unsettled: VecDeque<Vec<u8>>,
    /// The number to try next for a name.
    next_number: HashMap<Vec<u8>, usize>,
}

/// The final name of each entry, as it looks now.
pub(super) struct FinalNames<'e, N> {
    planner: Planner,
    entries: &'e [(N, bool, NameRequest)],
    outcomes: Vec<NameOutcome>,
}

/// The entries of one group. Nearly all groups have one.
enum Group {
    One(usize),
    Many(Vec<usize>),
}

impl Group {
    fn of(entries: Vec<usize>) -> Option<Self> {
        match entries[..] {
            [] => None,
            [one] => Some(Self::One(one)),
            _ => Some(Self::Many(entries)),
        }
    }

    fn any(&self) -> usize {
        match self {
            Self::One(entry) => *entry,
            Self::Many(entries) => entries[0],
        }
    }

    fn push(&mut self, entry: usize) {
        match self {
            Self::One(one) => *self = Self::Many(vec![*one, entry]),
            Self::Many(entries) => entries.push(entry),
        }
    }

    fn into_entries(self) -> Vec<usize> {
        match self {
            Self::One(entry) => vec![entry],
            Self::Many(entries) => entries,
        }
    }
}

impl<'e, N: AsRef<[u8]>> FinalNames<'e, N> {
    pub(super) fn old(&self, entry: usize) -> &'e [u8] {
        self.entries[entry].0.as_ref()
    }

    pub(super) fn folds(&self) -> bool {
        self.planner.folds
    }

    fn moves(&self, entry: usize) -> bool {
        matches!(self.outcomes[entry], NameOutcome::Becomes(_))
    }

    pub(super) fn of(&self, entry: usize) -> &[u8] {
        match &self.outcomes[entry] {
            NameOutcome::Becomes(new) => new,
            NameOutcome::Stays | NameOutcome::Refused(..) => self.old(entry),
        }
    }

    /// The key under which names are one.
    fn key<'n>(&self, name: &'n [u8]) -> Cow<'n, [u8]> {
        if self.planner.restores && !self.planner.folds { Cow::Borrowed(name) } else { key(name) }
    }

    fn key_of(&self, group: &Group) -> Cow<'_, [u8]> {
        self.key(self.of(group.any()))
    }
}

impl<'e, N: AsRef<[u8]>> Settling<'e, N> {
    fn new(planner: Planner, entries: &'e [(N, bool, NameRequest)]) -> Self {
        let outcomes = entries.iter().map(|(old, _, request)| {
            let old = old.as_ref();
            match request {
                NameRequest::Become(new) if new != old => match planner.refusal(old, new) {
                    Some(why) => NameOutcome::Refused(Some(new.clone()), Box::new(why)),
                    None => NameOutcome::Becomes(new.clone()),
                },
                NameRequest::Stay | NameRequest::Become(_) => NameOutcome::Stays,
                NameRequest::Refused(wanted, why) => NameOutcome::Refused(wanted.clone(), why.clone()),
            }
        });
        let mut settling = Self {
            names: FinalNames { planner, entries, outcomes: outcomes.collect() },
            groups: HashTable::with_capacity(entries.len()),
            hashes: RandomState::default(),
            unsettled: VecDeque::new(),
            next_number: HashMap::new(),
        };
        for entry in 0..entries.len() {
            settling.join(entry);
        }
        settling
    }

    fn old(&self, entry: usize) -> &'e [u8] {
        self.names.old(entry)
    }

    fn name(&self, entry: usize) -> &[u8] {
        self.names.of(entry)
    }

    fn moves(&self, entry: usize) -> bool {
        self.names.moves(entry)
    }

    /// Puts an entry into the group of its final name.
    fn join(&mut self, entry: usize) {
        let Self { names, groups, hashes, unsettled, .. } = self;
        let key = names.key(names.of(entry));
        let hash = hashes.hash_one(&*key);
        if let Some(group) = groups.find_mut(hash, |group| names.key_of(group) == key) {
            group.push(entry);
            if unsettled.back().is_none_or(|last| **last != *key) {
                unsettled.push_back(key.into_owned());
            }
        } else {
            groups.insert_unique(hash, Group::One(entry), |group| hashes.hash_one(&*names.key_of(group)));
        }
    }

    /// Takes the group of a key away.
    fn take(&mut self, key: &[u8]) -> Option<Group> {
        let Self { names, groups, hashes, .. } = self;
        let found = groups.find_entry(hashes.hash_one(key), |group| *names.key_of(group) == *key);
        found.ok().map(|found| found.remove().0)
    }

    fn settle_all(&mut self) {
        while let Some(key) = self.unsettled.pop_front() {
            let Some(group) = self.take(&key) else { continue };
            let mut group = group.into_entries();
            group.sort_unstable();
            let mut losers = self.losers(&group);
            if self.names.planner.on_clash == OnClash::Number && !losers.iter().any(|loser| loser.to_one_that_stays) {
                // No one has the name, so the first may.
                losers.drain(..losers.len().min(1));
            }
            let mut leaving = losers.iter().map(|loser| loser.entry).peekable();
            group.retain(|entry| leaving.next_if_eq(entry).is_none());
            if let Some(group) = Group::of(group) {
                let Self { names, groups, hashes, .. } = self;
                let hash = |key: &[u8]| hashes.hash_one(key);
                groups.insert_unique(hash(&key), group, |group| hash(&names.key_of(group)));
            }
            for Blocked { entry, why, .. } in losers {
                match self.names.planner.on_clash {
                    OnClash::Refuse => self.refuse(entry, why),
                    OnClash::Number => self.number(entry, &key),
                }
            }
        }
    }

    /// Those of a group that cannot have their new name beside the others, in order.
    fn losers(&self, group: &[usize]) -> Vec<Blocked> {
        let mut same_name: HashMap<&[u8], Namesakes> = HashMap::new();
        let mut same_old: HashMap<Cow<'_, [u8]>, (usize, usize)> = HashMap::new();
        let mut staying = 0;
        for entry in group {
            let stays = !self.moves(*entry);
            same_name.entry(self.name(*entry)).or_default().add(*entry, stays);
            let same = same_old.entry(self.names.key(self.old(*entry))).or_default();
            *same = (same.0 + 1, same.1 + usize::from(stays));
            staying += usize::from(stays);
        }
        let judged = group.iter().copied().filter(|entry| self.moves(*entry)).filter_map(|entry| {
            let namesakes = &same_name[self.name(entry)];
            // Names that were alike before are told apart by this system.
            let (from_one, stay_of_these) = same_old[&self.names.key(self.old(entry))];
            if namesakes.count == 1 && group.len() == from_one {
                return None;
            }
            let to_one_that_stays = namesakes.stays.is_some() || staying > stay_of_these;
            let old = |entry: usize| self.old(entry).to_vec();
            let why = match (namesakes.stays, namesakes.other_than(entry)) {
                (Some(taker), _) => Refusal::Taken(old(taker)),
                (None, Some(rival)) => Refusal::Wanted(old(rival), namesakes.count - 2),
                (None, None) => {
                    let other = group.iter().copied().find(|other| *other != entry).unwrap_or(entry);
                    Refusal::Alike(self.name(other).to_vec())
                }
            };
            Some(Blocked { entry, to_one_that_stays, why })
        });
        judged.collect()
    }

    /// Gives an entry, which is in no group, its own name back.
    fn refuse(&mut self, entry: usize, why: Refusal) {
        let wanted = match std::mem::replace(&mut self.names.outcomes[entry], NameOutcome::Stays) {
            NameOutcome::Becomes(new) => Some(new),
            NameOutcome::Stays | NameOutcome::Refused(..) => None,
        };
        self.names.outcomes[entry] = NameOutcome::Refused(wanted, Box::new(why));
        self.join(entry);
    }

    /// Gives an entry, which is in no group, the first free number after the name it wants.
    fn number(&mut self, entry: usize, clash: &[u8]) {
        let wanted = self.name(entry).to_vec();
        let mut number = self.next_number.get(clash).copied().unwrap_or(2);
        loop {
            let new = numbered(&wanted, self.names.entries[entry].1, number);
            if let Some(why) = self.names.planner.refusal(self.old(entry), &new) {
                return self.refuse(entry, why);
            }
            number += 1;
            let key = self.names.key(&new);
            if self.groups.find(self.hashes.hash_one(&*key), |group| self.names.key_of(group) == key).is_some() {
                continue;
            }
            self.names.outcomes[entry] =
                if new == self.old(entry) { NameOutcome::Stays } else { NameOutcome::Becomes(new) };
            self.join(entry);
            break;
        }
        self.next_number.insert(clash.to_vec(), number);
    }
}

/// An entry that cannot have the name it wants.
struct Blocked {
    entry: usize,
    /// One that it clashes with stays as it is.
    to_one_that_stays: bool,
    why: Refusal,
}

/// The entries that have one final name to the byte.
#[derive(Default)]
struct Namesakes {
    count: usize,
    first: Option<usize>,
    second: Option<usize>,
    stays: Option<usize>,
}

impl Namesakes {
    fn add(&mut self, entry: usize, stays: bool) {
        self.count += 1;
        if self.first.is_none() {
            self.first = Some(entry);
        } else if self.second.is_none() {
            self.second = Some(entry);
        }
        if stays {
            self.stays = Some(entry);
        }
    }

    fn other_than(&self, entry: usize) -> Option<usize> {
        self.first.filter(|first| *first != entry).or(self.second)
    }
}

/// ` (2)` after the stem.
fn numbered(name: &[u8], is_folder: bool, number: usize) -> Vec<u8> {
    let stem_end = part(name, NamePart::Stem, is_folder).end;
    let mut numbered = name[..stem_end].to_vec();
    numbered.extend_from_slice(format!(" ({number})").as_bytes());
    numbered.extend_from_slice(&name[stem_end..]);
    numbered
}
