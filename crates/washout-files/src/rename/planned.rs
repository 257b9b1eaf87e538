//! From a list of paths to a plan for every folder.

use std::borrow::Borrow;
use std::collections::HashMap;
use std::ffi::OsStr;
use std::io;
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use rayon::prelude::*;
use washout_core::names::{
    FolderPlan, NameOutcome, NameRequest, NameResult, NameWasher, Planner, Refusal, natural_order,
};
use washout_core::{Expectation, Program};

use super::NameMap;
use crate::choose::ChosenFile;
use crate::error::FileError;
use crate::folder::{Folder, folder_of};
use crate::identity::Identity;
use crate::judge::{PLACES, Spot, Unmet};
use crate::meter::Meter;

/// In which order the names of a folder come: who is first is numbered first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum NameOrder {
    /// By name, numbers by their value.
    #[default]
    Name,
    /// By the time of the last change of what is in them, the oldest first.
    Modified,
}

/// Where new names come from.
#[derive(Clone, Copy, Debug)]
pub enum RequestSource<'w> {
    /// From rules.
    Rules(&'w NameWasher),
    /// From a list of old and new names.
    Map(&'w NameMap),
}

/// The plans of all folders, and what could not be planned.
#[derive(Debug, Default)]
pub struct Plans {
    /// A plan for each folder, in the order of their paths.
    pub folders: Vec<PlannedFolder>,
    /// Named entries and folders that could not be looked at.
    pub failed: Vec<(PathBuf, FileError)>,
    /// How many changes each rule makes, in the order of the program.
    pub changes: Vec<u64>,
    /// In how many names each rule makes any.
    pub touched: Vec<u64>,
}

/// The plan of one folder.
#[derive(Debug)]
pub struct PlannedFolder {
    /// Its path as it was named or found.
    pub shown: PathBuf,
    /// Its path when its names are changed, absolute and without links.
    pub path: PathBuf,
    /// Where it is until then.
    pub(crate) now: PathBuf,
    /// What distinguishes it from any other folder that may be there by then.
    pub(crate) own: Identity,
    /// Whether its file system ignores letter case.
    pub(crate) folds: bool,
    /// Everything in it: first the names that were asked about, in their order, then the others.
    pub(crate) entries: Vec<(Vec<u8>, bool, NameRequest)>,
    pub(crate) asked: usize,
    /// The rules that change each name that was asked about, in the order of the program, and how often.
    rules: RuleCounts,
    pub(crate) plan: FolderPlan,
    /// What distinguishes each entry that changes from others, as it was when that was planned; the default one for others.
    identities: Vec<Identity>,
}

/// For each of several names, the rules that change it and how often: a million of names are not worth memory for each.
#[derive(Debug, Default)]
struct RuleCounts {
    /// Where those of each name end in `all`.
    ends: Vec<usize>,
    all: Vec<(usize, u64)>,
}

impl RuleCounts {
    /// Adds the next name: how many changes each rule made.
    fn add(&mut self, changes: &[u64]) {
        self.all.extend(changes.iter().copied().enumerate().filter(|(_, changes)| *changes > 0));
        self.ends.push(self.all.len());
    }

    fn of(&self, name: usize) -> &[(usize, u64)] {
        let Some(end) = self.ends.get(name) else { return &[] };
        &self.all[name.checked_sub(1).map_or(0, |before| self.ends[before])..*end]
    }
}

/// A name that was asked about.
#[derive(Clone, Copy, Debug)]
pub struct PlannedName<'p> {
    /// Its place among those of its folder.
    pub index: usize,
    /// The name.
    pub name: &'p [u8],
    /// Whether it is a folder's.
    pub is_folder: bool,
    /// What happens to it.
    pub outcome: &'p NameOutcome,
    /// The rules that change it, by their place in the program, and how often.
    pub rules: &'p [(usize, u64)],
}

impl PlannedFolder {
    /// The names that were asked about, in their order.
    pub fn names(&self) -> impl Iterator<Item = PlannedName<'_>> + Clone {
        let asked = self.entries[..self.asked].iter().zip(&self.plan.outcomes).enumerate();
        asked.map(|(index, ((name, is_folder, _), outcome))| PlannedName {
            index,
            name,
            is_folder: *is_folder,
            outcome,
            rules: self.rules.of(index),
        })
    }

    /// The path of a name, as it was named or found.
    pub fn path_of(&self, name: PlannedName<'_>) -> PathBuf {
        join_shown(&self.shown, name.name)
    }

    /// How many of its names change.
    pub fn renames(&self) -> u64 {
        self.names().filter(|name| matches!(name.outcome, NameOutcome::Becomes(_))).count() as u64
    }

    /// Plans again without these renames; indices as in [`PlannedName`].
    pub fn without(&mut self, refused: &[usize], planner: Planner) {
        for index in refused {
            self.entries[*index].2 = NameRequest::Stay;
        }
        self.plan = Planner { folds: self.folds, ..planner }.plan(&self.entries);
        self.identify();
    }

    /// What distinguishes an entry that changes from any other that may have its name by then.
    pub(crate) fn identity(&self, entry: usize) -> Identity {
        // Where it was gone already, nothing will be found to have this identity, and that is reported.
        self.identities.get(entry).copied().unwrap_or_default()
    }

    fn identify(&mut self) {
        let Self { identities, plan, entries, now, .. } = self;
        identities.resize(entries.len(), Identity::default());
        let all = identities.par_iter_mut().zip(&plan.outcomes).zip(entries.as_slice()).with_min_len(256);
        all.for_each(|((identity, outcome), (name, ..))| {
            if matches!(outcome, NameOutcome::Becomes(_)) && *identity == Identity::default() {
                *identity = Identity::of(&now.join(OsStr::from_bytes(name))).unwrap_or_default();
            }
        });
    }
}

/// A path below a folder; no one writes `./` before names in the folder where they are.
pub(crate) fn join_shown(folder: &Path, name: &[u8]) -> PathBuf {
    let name = OsStr::from_bytes(name);
    if folder == Path::new(".") { PathBuf::from(name) } else { folder.join(name) }
}

/// The entries of one folder that were named or found.
struct Group {
    shown: PathBuf,
    path: PathBuf,
    names: Vec<Vec<u8>>,
}

impl Plans {
    /// Looks at the folders of all these entries and plans each of them whole. Nothing is changed. Each name that has
    /// been through the rules is counted as a file of `meter`.
    pub fn make<E: Borrow<ChosenFile>>(
        entries: impl IntoIterator<Item = E>,
        source: RequestSource<'_>,
        order: NameOrder,
        planner: Planner,
        meter: &Meter,
    ) -> Self {
        let mut plans = Self::to_look_at(entries, source, order, planner, meter);
        plans.folders.iter_mut().for_each(PlannedFolder::identify);
        plans
    }

    /// The same plans, to look at only: [`carry_out`](super::carry_out) finds none of the entries to be what was planned
    /// for, and renames nothing. To ask the system what distinguishes each entry takes long.
    pub fn to_look_at<E: Borrow<ChosenFile>>(
        entries: impl IntoIterator<Item = E>,
        source: RequestSource<'_>,
        order: NameOrder,
        planner: Planner,
        meter: &Meter,
    ) -> Self {
        let mut plans = Self { failed: Vec::new(), ..Self::default() };
        if let RequestSource::Rules(washer) = source {
            (plans.changes, plans.touched) = (vec![0; washer.rules()], vec![0; washer.rules()]);
        }
        for group in plans.groups(entries) {
            match Folder::open_without_links(&group.path).and_then(|folder| Listing::of(&folder)) {
                Ok(listing) => plans.folder(group, listing, source, (order, planner), meter),
                Err(error) => plans.failed.push((group.shown, FileError::Read(error))),
            }
        }
        plans.folders.sort_by(|one, other| one.shown.cmp(&other.shown));
        plans
    }

    /// Entries by their folders, however these were named.
    fn groups<E: Borrow<ChosenFile>>(&mut self, entries: impl IntoIterator<Item = E>) -> Vec<Group> {
        let mut groups: Vec<Group> = Vec::new();
        let mut by_named: HashMap<PathBuf, Option<usize>> = HashMap::new();
        let mut last: Option<(PathBuf, Option<usize>)> = None;
        let mut by_path: HashMap<PathBuf, usize> = HashMap::new();
        for entry in entries {
            let entry = entry.borrow();
            let Some(name) = entry.path.file_name() else { continue };
            let named = folder_of(&entry.path);
            let open = || entry.location().folder().and_then(|folder| folder.whole_path());
            // Nearly all are in the folder of the one before; to hash a path takes it apart.
            let is_last = |(folder, _): &&(PathBuf, Option<usize>)| folder.as_os_str() == named.as_os_str();
            let known = last.as_ref().filter(is_last).map(|(_, group)| *group);
            let known = known.or_else(|| by_named.get(named).copied());
            let group = known.unwrap_or_else(|| match open() {
                Ok(path) => Some(*by_path.entry(path.clone()).or_insert_with(|| {
                    groups.push(Group { shown: named.to_owned(), path, names: Vec::new() });
                    groups.len() - 1
                })),
                Err(error) => {
                    self.failed.push((named.to_owned(), FileError::Read(error)));
                    None
                }
            });
            if known.is_none() {
                by_named.insert(named.to_owned(), group);
                last = Some((named.to_owned(), group));
            }
            if let Some(group) = group {
                groups[group].names.push(name.as_bytes().to_vec());
            }
        }
        groups
    }

    fn folder(
        &mut self,
        mut group: Group,
        mut listing: Listing,
        source: RequestSource<'_>,
        (order, planner): (NameOrder, Planner),
        meter: &Meter,
    ) {
        group.names.par_sort_unstable_by(|one, other| natural_order(one, other));
        group.names.dedup(); // the same entry may have been named in several ways
        let mut asked: Vec<(Vec<u8>, bool)> = Vec::with_capacity(group.names.len());
        for name in group.names {
            if let Some(is_folder) = listing.entries.remove(&name) {
                asked.push((name, is_folder));
            } else {
                // It is gone since it was found.
                let gone = FileError::Read(io::ErrorKind::NotFound.into());
                self.failed.push((group.shown.join(OsStr::from_bytes(&name)), gone));
            }
        }
        // The place for those that were found is given back before more is needed.
        let others: Vec<(Vec<u8>, bool)> = listing.entries.into_iter().collect();
        if order == NameOrder::Modified {
            sort_by_time(&mut asked, &group.path);
        }
        let named = requests(&asked, &group.path, source, meter);
        let mut rules = RuleCounts::default();
        named.iter().for_each(|named| rules.add(&named.changes));
        for (rule, changes) in &rules.all {
            self.changes[*rule] += changes;
            self.touched[*rule] += 1;
        }
        let count = asked.len();
        let wanted = asked.into_iter().zip(named).map(|((name, is_folder), named)| (name, is_folder, named.request));
        let others = others.into_iter().map(|(name, is_folder)| (name, is_folder, NameRequest::Stay));
        let entries: Vec<(Vec<u8>, bool, NameRequest)> = wanted.chain(others).collect();
        let folds = listing.folds;
        let plan = Planner { folds, ..planner }.plan(&entries);
        let (shown, path) = (group.shown, group.path);
        let (now, own, identities) = (path.clone(), listing.own, Vec::new());
        let asked = count;
        self.folders.push(PlannedFolder { shown, path, now, own, folds, entries, asked, rules, plan, identities });
    }

    /// What rules expect and do not find: over all names, or in each.
    pub fn unmet(&self, program: &Program) -> Vec<Unmet> {
        let mut unmet = Vec::new();
        // A name has no sections.
        let expected = program.expectations().iter().filter(|expected| !expected.sections);
        for Expectation { rule, count, each, .. } in expected {
            let of = |name: &PlannedName<'_>| {
                name.rules.iter().find(|(busy, _)| *busy == rule.0).map_or(0, |(_, changes)| *changes)
            };
            let names =
                || self.folders.iter().flat_map(|folder| folder.names().map(|name| (folder.path_of(name), of(&name))));
            let one = |found, file, places| Unmet { rule: *rule, wanted: *count, sections: false, found, file, places };
            if *each {
                let wrong = names().filter(|(_, found)| !count.holds(*found));
                unmet.extend(wrong.map(|(path, found)| one(found, Some(path), Vec::new())));
            } else if !count.holds(self.changes[rule.0]) {
                let places = names().filter(|(_, found)| *found > 0).take(PLACES).map(|(path, _)| (path, Spot::Name));
                unmet.push(one(self.changes[rule.0], None, places.collect()));
            }
        }
        unmet
    }

    /// Names that change.
    pub fn renames(&self) -> u64 {
        self.folders.iter().map(PlannedFolder::renames).sum()
    }

    /// The folders in the order in which they are changed: what is in a folder comes before the folder itself.
    pub(crate) fn deepest_first(&self) -> Vec<&PlannedFolder> {
        let mut folders: Vec<&PlannedFolder> = self.folders.iter().collect();
        folders.sort_by_key(|folder| std::cmp::Reverse(folder.path.components().count()));
        folders
    }
}

impl PlannedFolder {
    /// A plan for what is in this folder, for names that were there before. `path`: how it will be called when its names
    /// are changed; `now`: how it is called until then.
    pub(crate) fn restoring(
        path: PathBuf,
        now: PathBuf,
        listing: Listing,
        mut wanted: HashMap<Vec<u8>, Vec<u8>>,
    ) -> Self {
        let folds = listing.folds;
        let mut entries: Vec<(Vec<u8>, bool, NameRequest)> = listing
            .entries
            .into_iter()
            .map(|(name, is_folder)| {
                let request = wanted.remove(&name).map_or(NameRequest::Stay, NameRequest::Become);
                (name, is_folder, request)
            })
            .collect();
        drop(wanted);
        entries.par_sort_by(|one, other| {
            let asked = |entry: &(Vec<u8>, bool, NameRequest)| entry.2 == NameRequest::Stay;
            asked(one).cmp(&asked(other)).then_with(|| natural_order(&one.0, &other.0))
        });
        let asked = entries.iter().take_while(|entry| entry.2 != NameRequest::Stay).count();
        let plan = Planner { folds, restores: true, ..Planner::default() }.plan(&entries);
        let (shown, own, rules, identities) = (now.clone(), listing.own, RuleCounts::default(), Vec::new());
        let mut folder = Self { shown, path, now, own, folds, entries, asked, rules, plan, identities };
        folder.identify();
        folder
    }
}

fn sort_by_time(asked: &mut [(Vec<u8>, bool)], folder: &Path) {
    asked.sort_by_cached_key(|(name, _)| {
        let about = std::fs::symlink_metadata(folder.join(OsStr::from_bytes(name)));
        (about.and_then(|about| about.modified()).unwrap_or(SystemTime::UNIX_EPOCH), name.clone())
    });
}

fn requests(asked: &[(Vec<u8>, bool)], folder: &Path, source: RequestSource<'_>, meter: &Meter) -> Vec<NameResult> {
    let wash = |washer: &mut NameWasher, (name, is_folder): &(Vec<u8>, bool)| {
        meter.file_done();
        washer.wash(name, *is_folder)
    };
    match source {
        RequestSource::Map(map) => {
            let request = |name: &[u8]| {
                map.request(folder, name).map_or(NameRequest::Stay, |new| NameRequest::Become(new.to_vec()))
            };
            asked.iter().map(|(name, _)| NameResult { request: request(name), changes: Vec::new() }).collect()
        }
        RequestSource::Rules(washer) if washer.counts() => {
            let mut washer = washer.clone();
            washer.begin_folder();
            asked.iter().map(|one| wash(&mut washer, one)).collect()
        }
        RequestSource::Rules(washer) => asked.par_iter().with_min_len(256).map_init(|| washer.clone(), wash).collect(),
    }
}

/// Names, each with whether it is a folder's. A million of them are looked up quicker than with the standard hash.
type NameTable = HashMap<Vec<u8>, bool, foldhash::fast::RandomState>;

/// Everything in a folder.
pub(crate) struct Listing {
    /// Each name, and whether it is a folder's.
    pub(crate) entries: NameTable,
    /// Whether the file system ignores letter case.
    pub(crate) folds: bool,
    /// What distinguishes the folder from others.
    own: Identity,
}

impl Listing {
    pub(crate) fn of(folder: &Folder) -> io::Result<Self> {
        let entries: NameTable =
            folder.entries()?.into_iter().map(|(name, is_folder)| (name.into_vec(), is_folder)).collect();
        Ok(Self { folds: folds(folder, &entries), entries, own: Identity::of_open(folder)? })
    }
}

/// Asks for one of the names in the other letter case.
fn folds(folder: &Folder, entries: &NameTable) -> bool {
    let swapped = |name: &[u8]| -> Vec<u8> {
        let swap =
            |byte: &u8| if byte.is_ascii_lowercase() { byte.to_ascii_uppercase() } else { byte.to_ascii_lowercase() };
        name.iter().map(swap).collect()
    };
    let asked = entries.keys().map(|name| swapped(name)).find(|other| !entries.contains_key(other));
    asked.is_some_and(|other| folder.about(OsStr::from_bytes(&other)).is_ok())
}

/// Why a name is left alone although another was wanted, if it is.
impl PlannedName<'_> {
    /// Why it is left alone though another name was wanted.
    pub fn refusal(&self) -> Option<&Refusal> {
        match self.outcome {
            NameOutcome::Refused(_, why) => Some(&**why),
            NameOutcome::Stays | NameOutcome::Becomes(_) => None,
        }
    }
}
