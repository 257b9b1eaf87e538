//! Which names of one folder become which others.
//!
//! The idea: every entry has a final name, its own or the wanted one. Entries whose final names are one name are a group;
//! a group with more than one member has to be settled. Whoever is refused goes back to its own name, which may unsettle
//! the group there. Each entry goes back once at most, so this ends, after work in proportion to the names.

use std::collections::VecDeque;

use foldhash::{HashMap, HashMapExt};

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
    Refused(Option<Vec<u8>>, Refusal),
}

/// What happens to one entry of a folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum NameOutcome {
    /// It keeps its name, as no one wants another.
    Stays,
    /// It gets this name.
    Becomes(Vec<u8>),
    /// It keeps its name though another was wanted (this one, if there was any), for this reason.
    Refused(Option<Vec<u8>>, Refusal),
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
        let outcomes = settling.outcomes;
        let moves: Vec<(usize, &[u8], &[u8])> = outcomes
            .iter()
            .enumerate()
            .filter_map(|(index, outcome)| match outcome {
                NameOutcome::Becomes(new) => Some((index, entries[index].0.as_ref(), new.as_slice())),
                NameOutcome::Stays | NameOutcome::Refused(..) => None,
            })
            .collect();
        let steps = steps(&moves, self.folds);
        let temporary = if steps.iter().all(|step| matches!(step, RenameStep::Direct(_))) {
            String::new()
        } else {
            let names = entries.iter().map(|(name, ..)| name.as_ref());
            free_prefix(&names.chain(moves.iter().map(|(_, _, new)| *new)))
        };
        FolderPlan { outcomes, steps, temporary }
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
    planner: Planner,
    entries: &'e [(N, bool, NameRequest)],
    outcomes: Vec<NameOutcome>,
    /// The entries that have each final name, by its key.
    groups: HashMap<Vec<u8>, Vec<usize>>,
    unsettled: VecDeque<Vec<u8>>,
    /// The number to try next for a name.
    next_number: HashMap<Vec<u8>, usize>,
}

impl<'e, N: AsRef<[u8]>> Settling<'e, N> {
    fn new(planner: Planner, entries: &'e [(N, bool, NameRequest)]) -> Self {
        let outcomes = entries.iter().map(|(old, _, request)| {
            let old = old.as_ref();
            match request {
                NameRequest::Become(new) if new != old => match planner.refusal(old, new) {
                    Some(why) => NameOutcome::Refused(Some(new.clone()), why),
                    None => NameOutcome::Becomes(new.clone()),
                },
                NameRequest::Stay | NameRequest::Become(_) => NameOutcome::Stays,
                NameRequest::Refused(wanted, why) => NameOutcome::Refused(wanted.clone(), why.clone()),
            }
        });
        let outcomes = outcomes.collect();
        let groups = HashMap::with_capacity(entries.len());
        let mut settling =
            Self { planner, entries, outcomes, groups, unsettled: VecDeque::new(), next_number: HashMap::new() };
        for entry in 0..entries.len() {
            settling.join(entry);
        }
        settling
    }

    fn old(&self, entry: usize) -> &'e [u8] {
        self.entries[entry].0.as_ref()
    }

    /// The final name, as it looks now.
    fn name(&self, entry: usize) -> &[u8] {
        match &self.outcomes[entry] {
            NameOutcome::Becomes(new) => new,
            NameOutcome::Stays | NameOutcome::Refused(..) => self.old(entry),
        }
    }

    fn moves(&self, entry: usize) -> bool {
        matches!(self.outcomes[entry], NameOutcome::Becomes(_))
    }

    /// The key under which names are one.
    fn key(&self, name: &[u8]) -> Vec<u8> {
        if self.planner.restores && !self.planner.folds { name.to_vec() } else { key(name).into_owned() }
    }

    /// Puts an entry into the group of its final name.
    fn join(&mut self, entry: usize) {
        let key = self.key(self.name(entry));
        let group = self.groups.entry(key.clone()).or_default();
        group.push(entry);
        if group.len() > 1 && self.unsettled.back() != Some(&key) {
            self.unsettled.push_back(key);
        }
    }

    fn settle_all(&mut self) {
        while let Some(key) = self.unsettled.pop_front() {
            let Some(mut group) = self.groups.remove(&key) else { continue };
            group.sort_unstable();
            let mut losers = self.losers(&group);
            if self.planner.on_clash == OnClash::Number && !losers.iter().any(|loser| loser.to_one_that_stays) {
                // No one has the name, so the first may.
                losers.drain(..losers.len().min(1));
            }
            let mut leaving = losers.iter().map(|loser| loser.entry).peekable();
            group.retain(|entry| leaving.next_if_eq(entry).is_none());
            self.groups.insert(key.clone(), group);
            for Blocked { entry, why, .. } in losers {
                match self.planner.on_clash {
                    OnClash::Refuse => self.refuse(entry, why),
                    OnClash::Number => self.number(entry, &key),
                }
            }
        }
    }

    /// Those of a group that cannot have their new name beside the others, in order.
    fn losers(&self, group: &[usize]) -> Vec<Blocked> {
        let mut same_name: HashMap<&[u8], Namesakes> = HashMap::new();
        let mut same_old: HashMap<Vec<u8>, (usize, usize)> = HashMap::new();
        let mut staying = 0;
        for entry in group {
            let stays = !self.moves(*entry);
            same_name.entry(self.name(*entry)).or_default().add(*entry, stays);
            let same = same_old.entry(self.key(self.old(*entry))).or_default();
            *same = (same.0 + 1, same.1 + usize::from(stays));
            staying += usize::from(stays);
        }
        let judged = group.iter().copied().filter(|entry| self.moves(*entry)).filter_map(|entry| {
            let namesakes = &same_name[self.name(entry)];
            // Names that were alike before are told apart by this system.
            let (from_one, stay_of_these) = same_old[&self.key(self.old(entry))];
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
        let wanted = match std::mem::replace(&mut self.outcomes[entry], NameOutcome::Stays) {
            NameOutcome::Becomes(new) => Some(new),
            NameOutcome::Stays | NameOutcome::Refused(..) => None,
        };
        self.outcomes[entry] = NameOutcome::Refused(wanted, why);
        self.join(entry);
    }

    /// Gives an entry, which is in no group, the first free number after the name it wants.
    fn number(&mut self, entry: usize, clash: &[u8]) {
        let wanted = self.name(entry).to_vec();
        let mut number = self.next_number.get(clash).copied().unwrap_or(2);
        loop {
            let new = numbered(&wanted, self.entries[entry].1, number);
            if let Some(why) = self.planner.refusal(self.old(entry), &new) {
                return self.refuse(entry, why);
            }
            number += 1;
            if self.groups.get(&self.key(&new)).is_some_and(|group| !group.is_empty()) {
                continue;
            }
            self.outcomes[entry] = if new == self.old(entry) { NameOutcome::Stays } else { NameOutcome::Becomes(new) };
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
