//! The files a rule set names: lists of words, tables of pairs, other sets, texts of examples.

use std::ops::Range;

use super::fields::Placed;
use super::problem::Problems;

/// Where the files come from that a rule set names. The core itself opens none.
///
/// ```
/// use washout_core::{Files, NamedFile, RuleSet};
///
/// struct Shelf;
///
/// impl Files for Shelf {
///     fn open(&self, _from: &str, path: &str, _most: u64) -> Result<NamedFile, String> {
///         Ok(NamedFile { name: path.to_owned(), bytes: b"um\nuh\n".to_vec() })
///     }
/// }
///
/// let set = RuleSet::read_with("set", "[[rule]]\nremove.words_from = 'fillers.txt'\n", &Shelf)?;
/// assert_eq!(set.files, ["fillers.txt"]);
/// # Ok::<(), washout_core::RuleError>(())
/// ```
pub trait Files {
    /// The file called `path` in the rule set called `from`. No more than one byte over `most` has to be read: a longer file
    /// is refused by the caller.
    ///
    /// # Errors
    /// Why it cannot be had, in a few words: "there is no such file".
    fn open(&self, from: &str, path: &str, most: u64) -> Result<NamedFile, String>;
}

/// A file a rule set names.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct NamedFile {
    /// What messages call it. Two files of one name are the same file.
    pub name: String,
    /// What is in it.
    pub bytes: Vec<u8>,
}

/// No files at all: a rule set that names one is refused.
#[derive(Clone, Copy, Debug, Default)]
pub struct NoFiles;

impl Files for NoFiles {
    fn open(&self, _from: &str, _path: &str, _most: u64) -> Result<NamedFile, String> {
        Err("no files can be opened here".to_owned())
    }
}

/// Opens a file a rule set names; what goes wrong is a problem at the path's place.
pub(super) fn open(path: &Placed<String>, problems: &mut Problems) -> Option<NamedFile> {
    let leaves = path.value.starts_with(['/', '\\']) || path.value.split(['/', '\\']).any(|part| part == "..");
    if leaves && problems.is_confined() {
        let help = "a set names files beside it or in folders below it; put a copy there";
        let message = format!("`{}` leaves the folder of this rule set", path.value);
        problems.add_helped(path.place.clone(), message, "not below the set", help);
        return None;
    }
    match problems.open_file(&path.value) {
        Ok(file) => Some(file),
        Err(reason) => {
            let message = format!("`{}` cannot be read: {reason}", path.value);
            problems.add_helped(path.place.clone(), message, "not readable", "paths start in the folder of this set");
            None
        }
    }
}

/// The text of such a file, without its byte order mark.
pub(super) fn open_text(path: &Placed<String>, problems: &mut Problems) -> Option<String> {
    let file = open(path, problems)?;
    text(path, file, problems)
}

/// The text of a file that is open, without its byte order mark.
pub(super) fn text(path: &Placed<String>, file: NamedFile, problems: &mut Problems) -> Option<String> {
    match String::from_utf8(file.bytes) {
        Ok(text) => Some(text.strip_prefix('\u{FEFF}').map(str::to_owned).unwrap_or(text)),
        Err(error) => {
            let good = &error.as_bytes()[..error.utf8_error().valid_up_to()];
            let line = bytecount::count(good, b'\n') + 1;
            not_utf8(&path.value, line, path.place.clone(), problems);
            None
        }
    }
}

pub(super) fn not_utf8(path: &str, line: usize, place: Range<usize>, problems: &mut Problems) {
    let message = format!("`{path}` is not UTF-8 in line {line}");
    problems.add_helped(place, message, "not readable", "save the file as UTF-8");
}
