//! Temporary files that killed programs have left.

use std::ffi::{OsStr, OsString};
use std::io;
use std::os::unix::ffi::{OsStrExt, OsStringExt};
use std::path::{Path, PathBuf};

use ignore::WalkBuilder;
use rustix::fs::Dir;

use super::Folder;
use super::location::folder_of;

const PREFIX: &[u8] = b".washout-";
const SUFFIX: &[u8] = b".part";
const DIGITS: usize = 16;

/// A name for a temporary file.
pub(crate) fn temporary_name(number: u64) -> OsString {
    let mut name = PREFIX.to_vec();
    name.extend(format!("{number:0DIGITS$x}").as_bytes());
    name.extend(SUFFIX);
    OsString::from_vec(name)
}

/// Whether a name is that of a temporary file of this program, to the byte: a file that a person called almost so stays.
pub(crate) fn is_temporary(name: &OsStr) -> bool {
    let digits = || name.as_bytes().strip_prefix(PREFIX)?.strip_suffix(SUFFIX);
    let is_digit = |byte: &u8| matches!(byte, b'0'..=b'9' | b'a'..=b'f');
    digits().is_some_and(|digits| digits.len() == DIGITS && digits.iter().all(is_digit))
}

impl Folder {
    /// Removes the temporary files in the folder, if no one uses them.
    pub(crate) fn sweep(&self) {
        if self.temporary_files().is_empty() {
            return;
        }
        self.alone(|| self.temporary_files().iter().for_each(|name| drop(self.remove(name))));
    }

    fn temporary_files(&self) -> Vec<OsString> {
        let Ok(entries) = Dir::read_from(self) else { return Vec::new() };
        let names = entries.flatten().map(|entry| OsStr::from_bytes(entry.file_name().to_bytes()).to_owned());
        names.filter(|name| is_temporary(name)).collect()
    }
}

/// The temporary files that killed programs have left in this folder and below it. Links are not followed, and other file
/// systems are not entered.
pub fn left_behind_below(folder: &Path) -> Vec<PathBuf> {
    let walk = WalkBuilder::new(folder).standard_filters(false).same_file_system(true).build().flatten();
    let found =
        walk.filter(|entry| entry.file_type().is_some_and(|kind| kind.is_file()) && is_temporary(entry.file_name()));
    let is_unused = |path: &PathBuf| Folder::open(folder_of(path)).is_ok_and(|folder| folder.alone(|| ()).is_some());
    found.map(ignore::DirEntry::into_path).filter(is_unused).collect()
}

/// Removes files that [`left_behind_below`] found below this folder. One that is gone is no error.
///
/// # Errors
/// The path of the first that cannot be removed, and why.
pub fn remove_left_behind(below: &Path, files: &[PathBuf]) -> Result<(), (PathBuf, io::Error)> {
    for path in files {
        let rest = path.strip_prefix(below).unwrap_or(path);
        let name = path.file_name().unwrap_or_default();
        let folder = Folder::open_below(below, rest.parent().unwrap_or(Path::new("")));
        match folder.and_then(|folder| folder.remove(name)) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => return Err((path.clone(), error)),
            Err(_) | Ok(()) => {}
        }
    }
    Ok(())
}
