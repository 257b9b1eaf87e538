//! What runs have left behind: whether a file, or its name, is still as the newest run made it.

use std::collections::{HashMap, HashSet};
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};

use super::error::reading;
use super::originals::{ContentHash, hash_of};
use super::{History, HistoryError, RunState};
use washout_sets::open_regular;

/// What runs put in files, by their paths.
pub(crate) struct LeftContents(HashMap<Vec<u8>, ContentHash>);

impl LeftContents {
    /// Whether that is what is in this file.
    pub(crate) fn is_in(&self, file: &Path) -> bool {
        let Some(known) = self.0.get(file.as_os_str().as_bytes()) else { return false };
        open_regular(file).and_then(|mut file| hash_of(&mut file)).is_ok_and(|found| found == *known)
    }
}

impl History {
    /// For each of these files, whether what is in it is what the newest run that touched it put there, be it a run that
    /// cleaned it or one that undid that.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn are_as_left(&self, files: &[PathBuf]) -> Result<Vec<bool>, HistoryError> {
        let places: Vec<Option<PathBuf>> = files.iter().map(|file| without_links(file)).collect();
        let wanted: HashSet<&[u8]> = places.iter().flatten().map(|place| place.as_os_str().as_bytes()).collect();
        let left = self.left_contents(|path| wanted.contains(path))?;
        Ok(places.iter().map(|place| place.as_ref().is_some_and(|place| left.is_in(place))).collect())
    }

    /// What the newest run put in each file whose path is wanted: absolute, without links.
    pub(crate) fn left_contents(&self, wanted: impl Fn(&[u8]) -> bool) -> Result<LeftContents, HistoryError> {
        let failed = reading(&self.path());
        let mut query = self
            .database
            .prepare("SELECT path, after FROM contents WHERE outcome IS NOT 0 ORDER BY run, seq")
            .map_err(&failed)?;
        let mut rows = query.query([]).map_err(&failed)?;
        let mut left: HashMap<Vec<u8>, ContentHash> = HashMap::new();
        while let Some(row) = rows.next().map_err(&failed)? {
            let path = row.get_ref(0).and_then(|path| Ok(path.as_bytes()?)).map_err(&failed)?;
            if wanted(path) {
                left.insert(path.to_vec(), row.get(1).map_err(&failed)?);
            }
        }
        Ok(LeftContents(left))
    }

    /// The same of their names: whether the newest run that renamed an entry gave it the name it has.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn names_are_as_left(&self, entries: &[PathBuf]) -> Result<Vec<bool>, HistoryError> {
        let failed = reading(&self.path());
        let mut query = self
            .database
            .prepare(
                "SELECT folders.path, renames.new, device, inode FROM renames JOIN folders ON folders.id = renames.folder \
                 WHERE outcome IS NOT 0 ORDER BY renames.run, seq",
            )
            .map_err(&failed)?;
        let identities: Vec<Option<(i64, i64)>> = entries.iter().map(|entry| identity(entry)).collect();
        let wanted: HashSet<(i64, i64)> = identities.iter().flatten().copied().collect();
        let mut left: HashMap<(i64, i64), PathBuf> = HashMap::new();
        let mut rows = query.query([]).map_err(&failed)?;
        while let Some(row) = rows.next().map_err(&failed)? {
            let identity = (row.get(2).map_err(&failed)?, row.get(3).map_err(&failed)?);
            if wanted.contains(&identity) {
                let folder = PathBuf::from(std::ffi::OsString::from_vec(row.get(0).map_err(&failed)?));
                left.insert(identity, folder.join(std::ffi::OsString::from_vec(row.get(1).map_err(&failed)?)));
            }
        }
        let is_as_left = |(entry, identity): (&PathBuf, &Option<(i64, i64)>)| {
            Some(left.get(identity.as_ref()?)? == &without_links(entry)?)
        };
        Ok(entries.iter().zip(&identities).map(|pair| is_as_left(pair).unwrap_or(false)).collect())
    }

    /// Whether another program is writing files or names now, and has written that down here.
    ///
    /// # Errors
    /// The database cannot be read.
    pub fn is_at_work_now(&self) -> Result<bool, HistoryError> {
        Ok(self.runs()?.iter().take(20).any(|run| run.state == RunState::UnderWay))
    }
}

/// A path as the history has it: its folder absolute and without links.
fn without_links(path: &Path) -> Option<PathBuf> {
    let absolute = std::path::absolute(path).ok()?;
    Some(absolute.parent()?.canonicalize().ok()?.join(absolute.file_name()?))
}

fn identity(entry: &Path) -> Option<(i64, i64)> {
    let entry = std::fs::symlink_metadata(entry).ok()?;
    Some((entry.dev().cast_signed(), entry.ino().cast_signed()))
}
