//! Files that a run writes besides its results: reports, drafts, tables of names.
//!
//! An output never replaces an input of its run, and replaces another file only if that was requested. It is written to a
//! temporary file in the same folder, and renamed when it is whole.

use std::fs::Metadata;
use std::io::{self, Write};
use std::os::unix::fs::{MetadataExt, PermissionsExt};
use std::path::{Path, PathBuf};

use super::staged::{Staged, StagedPlace};
use crate::error::FileError;
use crate::folder::{Folder, Folders, folder_of};
use washout_sets::reason;
use washout_sets::what_it_is;

/// An output that is being written. Until [`finish`](Self::finish) nothing is at its place; dropped, it leaves nothing.
pub struct OutputFile {
    /// Its path as named.
    path: PathBuf,
    /// Absolute and without links.
    place: PathBuf,
    staged: Staged,
    replaces: bool,
}

/// Why an output cannot be written.
#[derive(Debug, thiserror::Error)]
pub enum OutputError {
    /// It is an input of the run.
    #[error("{} is an input of this run, and an output never replaces one; name another file", .0.display())]
    IsInput(PathBuf),
    /// It exists, and no one asked to replace it.
    #[error("{} exists; name another file, or replace it with --overwrite", .0.display())]
    Exists(PathBuf),
    /// It is not a regular file.
    #[error("{} is {what}, and an output is written to a file", path.display())]
    NotAFile {
        /// The path as named.
        path: PathBuf,
        /// What is there, in words.
        what: &'static str,
    },
    /// Two outputs of the run have the same path.
    #[error("{} is named for two outputs; name one file for each", .0.display())]
    Twice(PathBuf),
    /// The system refuses.
    #[error("{} cannot be written: {}", path.display(), reason(cause))]
    Write {
        /// The path as named.
        path: PathBuf,
        /// What the system said.
        #[source]
        cause: io::Error,
    },
}

impl OutputFile {
    /// Starts the outputs of a run, in the order of `paths`. All of them are checked before the first is started.
    ///
    /// `inputs`: the files that the run reads. `overwrite`: whether outputs replace files that exist.
    ///
    /// # Errors
    /// - A path is an input, by whatever name it is called.
    /// - A path exists, and `overwrite` is false.
    /// - A path is a folder, a pipe or a device; two paths are the same; a folder cannot be written.
    pub fn start_all<'i>(
        paths: &[&Path],
        inputs: impl IntoIterator<Item = &'i Path>,
        overwrite: bool,
    ) -> Result<Vec<Self>, OutputError> {
        let there = paths.iter().map(|path| what_is_at(path)).collect::<Result<Vec<_>, _>>()?;
        let places = paths.iter().zip(&there).map(|(path, there)| place_of(path, there.as_ref()));
        let places = places.collect::<Result<Vec<_>, _>>()?;
        for (index, (path, place)) in paths.iter().zip(&places).enumerate() {
            if places[..index].contains(place) {
                return Err(OutputError::Twice((*path).to_owned()));
            }
        }
        refuse_inputs(paths, &there, inputs)?;
        if let Some((path, _)) = paths.iter().zip(&there).find(|(_, there)| there.is_some() && !overwrite) {
            return Err(OutputError::Exists((*path).to_owned()));
        }
        let folders = Folders::default();
        let start = |((path, place), there): ((&&Path, PathBuf), Option<Metadata>)| {
            // A new file is for whoever may read new files; one that is replaced keeps its permissions.
            let mode = there.as_ref().map_or(0o666, |there| there.permissions().mode() & 0o777);
            let failed = |cause| OutputError::Write { path: (*path).to_owned(), cause };
            let folder = folders.to_write(folder_of(&place), || Folder::open(folder_of(&place))).map_err(failed)?;
            let name = place.file_name().unwrap_or_default().to_owned();
            let staged = Staged::beside(StagedPlace { folder, name }, mode).map_err(|error| refused(path, error))?;
            Ok(Self { path: (*path).to_owned(), place, staged, replaces: there.is_some() })
        };
        paths.iter().zip(places).zip(there).map(start).collect()
    }

    /// Its path as named.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// Where it will be: absolute, without links.
    pub fn place(&self) -> &Path {
        &self.place
    }

    /// Puts the file, which is whole now, in its place. Gives its path as named.
    ///
    /// # Errors
    /// It cannot be written, or a file was created there in the meantime. Nothing is lost.
    pub fn finish(self) -> Result<PathBuf, OutputError> {
        let Self { path, staged, replaces, .. } = self;
        staged.file().sync_all().map_err(|cause| OutputError::Write { path: path.clone(), cause })?;
        let put = if replaces { staged.overwrite() } else { staged.create() };
        match put {
            Ok(()) => Ok(path),
            Err(FileError::CopyExists(_)) => Err(OutputError::Exists(path)),
            Err(error) => Err(refused(&path, error)),
        }
    }
}

impl Write for OutputFile {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.staged.file().write(bytes)
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

fn refused(path: &Path, error: FileError) -> OutputError {
    let cause = match error {
        FileError::Write { cause, .. } => cause,
        other => io::Error::other(other),
    };
    OutputError::Write { path: path.to_owned(), cause }
}

/// What is at the path, links followed. `None`: nothing, not even a link.
fn what_is_at(path: &Path) -> Result<Option<Metadata>, OutputError> {
    let failed = |cause| OutputError::Write { path: path.to_owned(), cause };
    match std::fs::metadata(path) {
        Ok(there) if there.is_file() => Ok(Some(there)),
        Ok(there) => Err(OutputError::NotAFile { path: path.to_owned(), what: what_it_is(&there) }),
        Err(error) if error.kind() == io::ErrorKind::NotFound => match std::fs::symlink_metadata(path) {
            Ok(_) => Err(OutputError::NotAFile { path: path.to_owned(), what: "a link that leads nowhere" }),
            Err(_) => Ok(None),
        },
        Err(cause) => Err(failed(cause)),
    }
}

/// Where the file is: a link is followed, so that the file it leads to is replaced and not the link.
fn place_of(path: &Path, there: Option<&Metadata>) -> Result<PathBuf, OutputError> {
    let failed = |cause| OutputError::Write { path: path.to_owned(), cause };
    if there.is_some() {
        return path.canonicalize().map_err(failed);
    }
    let name = path.file_name().ok_or_else(|| failed(io::ErrorKind::InvalidFilename.into()))?;
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    Ok(folder.canonicalize().map_err(failed)?.join(name))
}

fn refuse_inputs<'i>(
    paths: &[&Path],
    there: &[Option<Metadata>],
    inputs: impl IntoIterator<Item = &'i Path>,
) -> Result<(), OutputError> {
    let file = |metadata: &Metadata| (metadata.dev(), metadata.ino());
    // What is not there is not an input: for a new file no input is looked at.
    let existing: Vec<_> =
        paths.iter().zip(there).filter_map(|(path, there)| Some((path, file(there.as_ref()?)))).collect();
    if existing.is_empty() {
        return Ok(());
    }
    for input in inputs {
        let Ok(input) = std::fs::metadata(input) else { continue };
        if let Some((path, _)) = existing.iter().find(|(_, output)| *output == file(&input)) {
            return Err(OutputError::IsInput((**path).to_owned()));
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use std::fs::Permissions;

    use super::*;

    fn start(path: &Path, inputs: &[&Path], overwrite: bool) -> Result<OutputFile, OutputError> {
        OutputFile::start_all(&[path], inputs.iter().copied(), overwrite).map(|mut all| all.remove(0))
    }

    #[test]
    fn an_output_is_refused_where_it_would_replace_an_input_or_another_file_unasked() {
        let folder = tempfile::tempdir().unwrap();
        let at = |name: &str| folder.path().join(name);
        std::fs::write(at("input.txt"), "input").unwrap();
        std::fs::write(at("old.html"), "old").unwrap();
        std::os::unix::fs::symlink("input.txt", at("link.html")).unwrap();
        std::fs::hard_link(at("input.txt"), at("second-name.html")).unwrap();
        std::os::unix::fs::symlink("nowhere", at("dangling.html")).unwrap();
        let input = at("input.txt");
        for name in ["input.txt", "link.html", "second-name.html", "../input.txt"] {
            let path = if name.starts_with("..") { folder.path().join("x/..").join("input.txt") } else { at(name) };
            std::fs::create_dir_all(at("x")).unwrap();
            for overwrite in [false, true] {
                assert!(matches!(start(&path, &[&input], overwrite), Err(OutputError::IsInput(_))), "{name}");
            }
        }
        assert!(matches!(start(&at("old.html"), &[&input], false), Err(OutputError::Exists(_))));
        assert!(matches!(start(&at("dangling.html"), &[&input], true), Err(OutputError::NotAFile { .. })));
        assert!(matches!(start(folder.path(), &[], true), Err(OutputError::NotAFile { .. })));
        assert!(matches!(start(Path::new("/dev/null"), &[], true), Err(OutputError::NotAFile { .. })));
        let twice = [&*at("new.html"), &*at("x/../new.html")];
        assert!(matches!(OutputFile::start_all(&twice, [], false), Err(OutputError::Twice(_))));
        assert_eq!(std::fs::read_to_string(&input).unwrap(), "input");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 6, "nothing was left behind");
    }

    #[test]
    fn an_output_is_at_its_place_only_when_it_is_whole() {
        let folder = tempfile::tempdir().unwrap();
        let (new, old) = (folder.path().join("new.html"), folder.path().join("old.html"));
        std::fs::write(&old, "old").unwrap();
        std::fs::set_permissions(&old, Permissions::from_mode(0o640)).unwrap();
        let mut outputs = OutputFile::start_all(&[&new, &old], [], true).unwrap();
        outputs.iter_mut().for_each(|output| output.write_all(b"page").unwrap());
        assert_eq!((new.exists(), std::fs::read_to_string(&old).unwrap().as_str()), (false, "old"));
        outputs.into_iter().for_each(|output| drop(output.finish().unwrap()));
        assert_eq!([&new, &old].map(|path| std::fs::read_to_string(path).unwrap()), ["page", "page"]);
        assert_eq!(old.metadata().unwrap().permissions().mode() & 0o777, 0o640);
        // Someone else was quicker.
        let output = start(&folder.path().join("late.html"), &[], true).unwrap();
        std::fs::write(folder.path().join("late.html"), "theirs").unwrap();
        assert!(matches!(output.finish(), Err(OutputError::Exists(_))));
        assert_eq!(std::fs::read_to_string(folder.path().join("late.html")).unwrap(), "theirs");
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 3, "nothing was left behind");
    }
}
