//! From the paths a person named to a list of files.

mod globs;

pub use globs::Globs;

use std::collections::HashMap;
use std::fs::File;
use std::io;
use std::os::unix::fs::MetadataExt;
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use washout_sets::what_it_is;

use ignore::{DirEntry, WalkBuilder};

use crate::error::{ChooseError, FileError};
use crate::folder::{Location, is_temporary};
use crate::skip::Skip;
use crate::stamp::Stamp;
use washout_sets::refuse_irregular;

/// What was requested.
#[derive(Debug, Default)]
pub struct Choice {
    /// Files and folders, as named.
    pub paths: Vec<PathBuf>,
    /// Which files below a named folder.
    pub globs: Globs,
    /// Also those whose name starts with a dot.
    pub with_hidden: bool,
    /// Also those that ignore files leave out.
    pub with_ignored: bool,
    /// Also those that look binary.
    pub with_binary: bool,
    /// What of all that is there.
    pub take: Take,
    /// A folder that is never walked: the one results go to.
    pub avoid: Option<PathBuf>,
}

/// What is chosen of what is there.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Take {
    /// Files, for their contents.
    #[default]
    Contents,
    /// Whatever has a name and is not a folder: links too, and what else there is.
    Names,
    /// The same and folders below the named ones, for their names.
    NamesAndFolders,
}

/// The list of files, in the order of their paths, and what was left out of it.
#[derive(Debug, Default)]
pub struct Chosen {
    /// The files.
    pub files: Vec<ChosenFile>,
    /// Folders, if they are requested, in the order of their paths.
    pub folders: Vec<ChosenFile>,
    /// What was named or found and is not a file that can be washed.
    pub skipped: Vec<(PathBuf, Skip)>,
    /// Folders that could not be walked.
    pub failed: Vec<(PathBuf, FileError)>,
}

/// One file, or a folder whose name is wanted.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct ChosenFile {
    /// Its path, as messages show it.
    pub path: PathBuf,
    /// How many names at the end of its path were found below a folder that was named; 0: it was named itself.
    pub found: usize,
    /// How many names of its path lead to where the tree of copies starts, from the first.
    pub leading: usize,
    /// What it was like when it was judged, if it was.
    pub stamp: Option<Stamp>,
    /// Whether it is worked on even if it looks binary: it was named, or all such files are.
    pub with_binary: bool,
}

impl Chosen {
    /// Its files and folders.
    pub fn entries(&self) -> impl Iterator<Item = &ChosenFile> {
        self.files.iter().chain(&self.folders)
    }

    /// An input that a copy of another input would replace, below this folder of copies: the copied file, and the file
    /// that would be lost.
    pub fn copy_over_input(&self, folder: &Path) -> Option<(&Path, &Path)> {
        let identity = |path: &Path| std::fs::metadata(path).ok().map(|file| (file.dev(), file.ino()));
        let there: HashMap<_, &Path> = self
            .files
            .iter()
            .filter_map(|file| Some((identity(&folder.join(file.below()))?, file.path.as_path())))
            .collect();
        // A copy over its own file is refused for that file alone.
        let other = |file: &&ChosenFile| {
            let copied = identity(&file.path).and_then(|file| there.get(&file));
            copied.is_some_and(|copied| *copied != file.path)
        };
        let lost = self.files.iter().filter(|_| !there.is_empty()).find(other)?;
        Some((there[&identity(&lost.path)?], &lost.path))
    }
}

impl ChosenFile {
    /// Where a copy of it goes, below the folder of copies: the same tree as the paths show.
    pub fn below(&self) -> PathBuf {
        names(&self.path).skip(self.leading).collect()
    }

    /// Opens it for reading. Below the folder that was named no link is followed.
    ///
    /// # Errors
    /// It cannot be opened, or is not a regular file.
    pub fn open(&self) -> io::Result<File> {
        let (file, metadata) = self.location().open()?;
        refuse_irregular(&metadata).map(|()| file)
    }

    pub(crate) fn location(&self) -> Location<'_> {
        Location::new(&self.path, self.found)
    }
}

/// Finds the files. Named files are always taken; globs, hidden and ignored files matter below folders only.
///
/// # Errors
/// A named path that is not there, or two files that would be copied to one place. Nothing has been opened then.
pub fn choose(choice: &Choice) -> Result<Chosen, ChooseError> {
    let mut chosen = Chosen::default();
    for path in &choice.paths {
        let kind = std::fs::metadata(path).or_else(|error| match choice.take {
            Take::Contents => Err(error),
            // A link that leads nowhere has a name too.
            Take::Names | Take::NamesAndFolders => std::fs::symlink_metadata(path),
        });
        let kind = kind.map_err(|cause| ChooseError::NotThere { path: path.clone(), cause })?;
        if kind.is_dir() {
            walk(path, choice, &mut chosen);
        } else if kind.is_file() || choice.take != Take::Contents {
            chosen.files.push(ChosenFile {
                path: path.clone(),
                found: 0,
                leading: leading(path),
                stamp: None,
                with_binary: true,
            });
        } else {
            chosen.failed.push((path.clone(), FileError::NoFile(what_it_is(&kind))));
        }
    }
    // What is found below one path is in order, and nothing of it twice: to compare paths takes longer than to find them.
    if let [_, _, ..] = choice.paths[..] {
        chosen.files.sort();
        // A file may be named, and found in a folder too.
        chosen.files.dedup_by(|again, kept| {
            let is_same = (&again.path, again.leading) == (&kept.path, kept.leading);
            kept.with_binary |= is_same && again.with_binary;
            is_same
        });
        chosen.folders.sort();
        chosen.folders.dedup();
        chosen.skipped.sort_by(|one, other| one.0.cmp(&other.0));
        if choice.take == Take::Contents {
            refuse_same_place(&chosen.files)?;
        }
    }
    Ok(chosen)
}

fn walk(folder: &Path, choice: &Choice, chosen: &mut Chosen) {
    let walk = FolderWalk { folder, leading: leading(folder), from_here: folder.starts_with("."), choice };
    let avoid = choice.avoid.as_ref().and_then(|avoid| avoid.canonicalize().ok());
    let mut builder = WalkBuilder::new(folder);
    builder.hidden(!choice.with_hidden).follow_links(false).require_git(false);
    // What is in one folder differs in its name alone: to take the names off their paths would take longer than all else.
    builder.sort_by_file_path(|one, other| one.as_os_str().cmp(other.as_os_str()));
    if choice.with_ignored {
        builder.ignore(false).git_ignore(false).git_global(false).git_exclude(false).parents(false);
    }
    // A pipe in place of an ignore file would be waited for without end.
    let blocked = Arc::new(Mutex::new(Vec::new()));
    if !choice.with_ignored {
        let above = folder.canonicalize().unwrap_or_default();
        if let Some(pipe) = above.ancestors().find_map(not_an_ignore_file) {
            chosen.failed.push((folder.to_owned(), no_ignore_file(&pipe)));
            return;
        }
    }
    let (noted, looks) = (Arc::clone(&blocked), !choice.with_ignored);
    builder.filter_entry(move |entry| {
        let is_folder = entry.file_type().is_some_and(|kind| kind.is_dir());
        let pipe = if looks && is_folder && entry.depth() > 0 { not_an_ignore_file(entry.path()) } else { None };
        if let Some(pipe) = &pipe {
            let failed = (entry.path().to_owned(), no_ignore_file(pipe));
            noted.lock().unwrap_or_else(PoisonError::into_inner).push(failed);
        }
        pipe.is_none() && !is_avoided(entry, avoid.as_deref())
    });
    for entry in builder.build() {
        match entry {
            Ok(entry) => walk.found(entry, chosen),
            Err(error) => {
                let path = error_path(&error).unwrap_or_else(|| folder.to_owned());
                chosen.failed.push((path, FileError::Walk(plain(&error))));
            }
        }
    }
    chosen.failed.append(&mut blocked.lock().unwrap_or_else(PoisonError::into_inner));
}

/// An ignore file of a folder that is neither a regular file nor a folder, if there is one.
fn not_an_ignore_file(folder: &Path) -> Option<PathBuf> {
    let odd = |path: &PathBuf| std::fs::metadata(path).is_ok_and(|there| !there.is_file() && !there.is_dir());
    IGNORE_FILES.iter().map(|name| folder.join(name)).find(odd)
}

fn no_ignore_file(path: &Path) -> FileError {
    FileError::Walk(format!(
        "{} is not a regular file, so it does not say what to leave out; --with-ignored includes everything",
        path.display()
    ))
}

const IGNORE_FILES: [&str; 2] = [".gitignore", ".ignore"];

fn is_avoided(entry: &DirEntry, avoid: Option<&Path>) -> bool {
    let is_folder = entry.file_type().is_some_and(|kind| kind.is_dir());
    avoid.is_some_and(|avoid| is_folder && entry.path().canonicalize().is_ok_and(|path| path == avoid))
}

/// A walk through a folder.
struct FolderWalk<'w> {
    folder: &'w Path,
    leading: usize,
    /// Paths start with `./`.
    from_here: bool,
    choice: &'w Choice,
}

impl FolderWalk<'_> {
    /// Takes what was found, or leaves it out. There may be a million of them.
    fn found(&self, entry: DirEntry, chosen: &mut Chosen) {
        let Choice { take, globs, .. } = self.choice;
        let kind = entry.file_type();
        let is_folder = kind.is_none_or(|kind| kind.is_dir());
        // They are another run's, and come and go.
        if !is_folder && is_temporary(entry.file_name()) {
            return;
        }
        let wanted = !is_folder || (*take == Take::NamesAndFolders && entry.depth() > 0);
        let inner = || entry.path().strip_prefix(self.folder).unwrap_or(entry.path());
        if !wanted || !(globs.take_all() || globs.take(inner())) {
            return;
        }
        let found = entry.depth();
        let mut path = entry.into_path();
        if self.from_here {
            path = path.strip_prefix("./").map(Path::to_owned).unwrap_or(path);
        }
        if is_folder || *take != Take::Contents || kind.is_some_and(|kind| kind.is_file()) {
            let (leading, with_binary) = (self.leading, self.choice.with_binary);
            let list = if is_folder { &mut chosen.folders } else { &mut chosen.files };
            list.push(ChosenFile { path, found, leading, stamp: None, with_binary });
        } else {
            let skip = if kind.is_some_and(|kind| kind.is_symlink()) { Skip::Link } else { Skip::NoFile };
            chosen.skipped.push((path, skip));
        }
    }
}

/// The names a path is made of; neither `.` nor `..` is one.
fn names(path: &Path) -> impl Iterator<Item = Component<'_>> {
    path.components().filter(|part| matches!(part, Component::Normal(_)))
}

/// How many names of a path, or of what is below it, lead to where the tree of copies starts: none if the path stays below
/// where it starts, else all except its last.
fn leading(path: &Path) -> usize {
    let climbs = path.components().any(|part| !matches!(part, Component::Normal(_) | Component::CurDir));
    let kept = usize::from(path.file_name().is_some());
    if climbs { names(path).count() - kept } else { 0 }
}

fn refuse_same_place(files: &[ChosenFile]) -> Result<(), ChooseError> {
    let mut places: HashMap<PathBuf, &Path> = HashMap::with_capacity(files.len());
    for file in files {
        if let Some(first) = places.insert(file.below(), &file.path) {
            return Err(ChooseError::SamePlace {
                first: first.to_owned(),
                second: file.path.clone(),
                place: file.below(),
            });
        }
    }
    Ok(())
}

fn error_path(error: &ignore::Error) -> Option<PathBuf> {
    match error {
        ignore::Error::WithPath { path, .. } => Some(path.clone()),
        ignore::Error::WithDepth { err, .. } | ignore::Error::WithLineNumber { err, .. } => error_path(err),
        ignore::Error::Loop { child, .. } => Some(child.clone()),
        _ => None,
    }
}

/// The innermost message: the path is said beside it.
fn plain(error: &ignore::Error) -> String {
    match error {
        ignore::Error::WithPath { err, .. } | ignore::Error::WithDepth { err, .. } => plain(err),
        ignore::Error::Io(error) => format!("cannot be read: {}", washout_sets::reason(error)),
        other => other.to_string(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn copies_keep_the_tree_and_never_climb_out_of_it() {
        for (path, place) in [
            ("watch.txt", "watch.txt"),
            ("./notes//a/watch.txt", "notes/a/watch.txt"),
            ("../notes", "notes"),
            ("/archive/notes/", "notes"),
            ("a/../b.txt", "b.txt"),
            (".", ""),
            ("..", ""),
        ] {
            let file = ChosenFile {
                path: path.into(),
                found: 0,
                leading: leading(Path::new(path)),
                stamp: None,
                with_binary: true,
            };
            assert_eq!(file.below(), Path::new(place), "{path}");
        }
    }
}
