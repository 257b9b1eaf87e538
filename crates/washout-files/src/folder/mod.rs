//! Folders that are held open.
//!
//! A path is looked up again each time it is used, and by then a link may have taken the place of a folder in it. What is
//! done through an open folder is done in that folder, whatever happened to its path. Below a folder that a person
//! named, no link is followed.

mod location;
mod lock;
mod sweep;

pub(crate) use location::{Location, folder_of};
pub(crate) use sweep::{is_temporary, temporary_name};
pub use sweep::{left_behind_below, remove_left_behind};

use std::collections::HashMap;
use std::collections::hash_map::Entry;
use std::ffi::{OsStr, OsString};
use std::fs::{File, Metadata};
use std::io;
use std::os::fd::{AsFd, BorrowedFd, OwnedFd};
use std::os::unix::ffi::OsStrExt;
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, Mutex, OnceLock, PoisonError, Weak};

use rustix::fs::{
    AtFlags, CWD, Dir, FileType, Mode, OFlags, RenameFlags, Stat, fstat, linkat, mkdirat, openat, renameat,
    renameat_with, statat, unlinkat,
};
use rustix::io::Errno;
use xattr::FileExt;

/// How folders are opened that are only gone through: without the right to read their names.
#[cfg(target_os = "linux")]
const THROUGH: OFlags = OFlags::PATH.union(OFlags::DIRECTORY).union(OFlags::CLOEXEC);
#[cfg(not(target_os = "linux"))]
const THROUGH: OFlags = FOLDER;

const FOLDER: OFlags = OFlags::RDONLY.union(OFlags::DIRECTORY).union(OFlags::CLOEXEC);

/// A pipe is opened without waiting for a writer.
const FILE: OFlags =
    OFlags::RDONLY.union(OFlags::NONBLOCK).union(OFlags::NOCTTY).union(OFlags::CLOEXEC).union(OFlags::NOFOLLOW);

/// The attribute that holds the access control list of a file on Linux. What is new may inherit one from its folder.
pub(crate) const ACCESS_LIST: &str = "system.posix_acl_access";

/// A folder that is held open.
#[derive(Debug)]
pub(crate) struct Folder {
    handle: OwnedFd,
    path: PathBuf,
    /// The file system it is on.
    system: Option<Arc<OwnedFd>>,
    whole_path: OnceLock<PathBuf>,
}

impl AsFd for Folder {
    fn as_fd(&self) -> BorrowedFd<'_> {
        self.handle.as_fd()
    }
}

impl Folder {
    /// Opens the folder at this path, links followed.
    pub(crate) fn open(path: &Path) -> io::Result<Self> {
        Ok(Self {
            handle: openat(CWD, path, FOLDER, Mode::empty())?,
            path: path.to_owned(),
            system: None,
            whole_path: OnceLock::new(),
        })
    }

    /// Opens the folder `rest` below `named`. Links are followed in `named` only.
    pub(crate) fn open_below(named: &Path, rest: &Path) -> io::Result<Self> {
        if rest.as_os_str().is_empty() {
            return Self::open(named);
        }
        let base = openat(CWD, named, THROUGH, Mode::empty())?;
        Ok(Self {
            handle: open_beneath(base.as_fd(), rest, FOLDER)?,
            path: named.join(rest),
            system: None,
            whole_path: OnceLock::new(),
        })
    }

    /// Opens the folder at an absolute path in which there is no link.
    pub(crate) fn open_without_links(path: &Path) -> io::Result<Self> {
        let rest: PathBuf = path.components().filter(|part| *part != Component::RootDir).collect();
        Self::open_below(Path::new("/"), &rest)
    }

    /// Opens the folder `rest` below `named`, and makes the folders that are missing. A new one gets the permissions that
    /// `mode` gives for its path below `named`, as far as the process gives them to new folders.
    pub(crate) fn make_below(named: &Path, rest: &Path, mode: impl Fn(&Path) -> u32) -> io::Result<Self> {
        std::fs::create_dir_all(named)?;
        let mut folder = Self::open(named)?;
        let mut below = PathBuf::new();
        for name in rest.components() {
            below.push(name);
            let is_new = match mkdirat(&folder.handle, name.as_os_str(), Mode::from_raw_mode(mode(&below))) {
                Ok(()) => true,
                Err(Errno::EXIST) => false,
                Err(error) => return Err(error.into()),
            };
            let handle = open_beneath(folder.handle.as_fd(), name.as_os_str().as_ref(), FOLDER)?;
            if is_new {
                // It may have inherited an access list that lets others in; there are none on many file systems.
                let _ = File::from(handle.try_clone()?).remove_xattr(ACCESS_LIST);
            }
            folder = Self { handle, path: named.join(&below), system: None, whole_path: OnceLock::new() };
        }
        Ok(folder)
    }

    /// The file system it is on, by something there that is open since before anything was written in this run.
    pub(crate) fn system(&self) -> BorrowedFd<'_> {
        self.system.as_deref().unwrap_or(&self.handle).as_fd()
    }

    /// Its path, as it was opened.
    pub(crate) fn path(&self) -> &Path {
        &self.path
    }

    /// Its path, absolute and without links, as it was when that was first asked for.
    ///
    /// # Errors
    /// Another folder is there.
    pub(crate) fn whole_path(&self) -> io::Result<PathBuf> {
        if let Some(path) = self.whole_path.get() {
            return Ok(path.clone());
        }
        let path = self.path.canonicalize()?;
        let there = rustix::fs::stat(&path)?;
        let held = rustix::fs::fstat(&self.handle)?;
        if (there.st_dev, there.st_ino) != (held.st_dev, held.st_ino) {
            return Err(io::Error::other("another folder has taken the place of the one that it is in"));
        }
        Ok(self.whole_path.get_or_init(|| path).clone())
    }

    /// Opens an entry for reading. It may be anything but a link.
    pub(crate) fn file(&self, name: &OsStr) -> io::Result<(File, Metadata)> {
        let file = File::from(openat(&self.handle, name, FILE, Mode::empty())?);
        let metadata = file.metadata()?;
        Ok((file, metadata))
    }

    /// Makes a file for reading and writing, if the name is free.
    pub(crate) fn create(&self, name: &OsStr, mode: u32) -> io::Result<File> {
        let flags = OFlags::RDWR | OFlags::CREATE | OFlags::EXCL | OFlags::CLOEXEC | OFlags::NOFOLLOW;
        Ok(openat(&self.handle, name, flags, Mode::from_raw_mode(mode))?.into())
    }

    /// Everything in it: each name, and whether it is a folder's.
    pub(crate) fn entries(&self) -> io::Result<Vec<(OsString, bool)>> {
        let mut entries = Vec::new();
        for entry in Dir::read_from(self)? {
            let entry = entry?;
            let name = OsStr::from_bytes(entry.file_name().to_bytes());
            let is_folder = match entry.file_type() {
                _ if name == "." || name == ".." => continue,
                // Not all file systems tell.
                FileType::Unknown => self.about(name).is_ok_and(|about| kind_of(&about).is_dir()),
                kind => kind.is_dir(),
            };
            entries.push((name.to_owned(), is_folder));
        }
        Ok(entries)
    }

    /// What is known of an entry; a link is not followed.
    pub(crate) fn about(&self, name: &OsStr) -> io::Result<Stat> {
        Ok(statat(&self.handle, name, AtFlags::SYMLINK_NOFOLLOW)?)
    }

    /// Lets two entries change their names in one step, where the file system can.
    pub(crate) fn exchange(&self, one: &OsStr, other: &OsStr) -> Result<(), Errno> {
        renameat_with(&self.handle, one, &self.handle, other, RenameFlags::EXCHANGE)
    }

    /// Renames an entry, over another if there is one.
    pub(crate) fn rename(&self, from: &OsStr, to: &OsStr) -> io::Result<()> {
        Ok(renameat(&self.handle, from, &self.handle, to)?)
    }

    /// Gives an entry another name, if that is free.
    pub(crate) fn rename_to_free(&self, from: &OsStr, to: &OsStr) -> io::Result<()> {
        match renameat_with(&self.handle, from, &self.handle, to, RenameFlags::NOREPLACE) {
            Err(Errno::INVAL | Errno::NOSYS | Errno::OPNOTSUPP) => {
                linkat(&self.handle, from, &self.handle, to, AtFlags::empty())?;
                self.remove(from)
            }
            done => Ok(done?),
        }
    }

    /// Removes an entry that is not a folder.
    pub(crate) fn remove(&self, name: &OsStr) -> io::Result<()> {
        Ok(unlinkat(&self.handle, name, AtFlags::empty())?)
    }

    /// Makes the names in it durable.
    pub(crate) fn sync(&self) -> io::Result<()> {
        Ok(rustix::fs::fsync(&self.handle)?)
    }
}

/// Folders that a run writes to, each open as long as any file in it is worked on.
#[derive(Debug, Default)]
pub(crate) struct Folders(Mutex<OpenFolders>);

#[derive(Debug, Default)]
struct OpenFolders {
    by_path: HashMap<PathBuf, Weak<Folder>>,
    /// The first folder of each file system, opened once more: not the lock that it holds.
    systems: HashMap<u64, Arc<OwnedFd>>,
}

impl Folders {
    /// Opens a folder to write in it, unless it is open already: `open` opens the one that `path` stands for.
    ///
    /// What killed programs have left there is removed; what is written there afterwards is left alone by other programs
    /// as long as the folder is held.
    pub(crate) fn to_write(&self, path: &Path, open: impl FnOnce() -> io::Result<Folder>) -> io::Result<Arc<Folder>> {
        let mut folders = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let OpenFolders { by_path, systems } = &mut *folders;
        if let Some(folder) = by_path.get(path).and_then(Weak::upgrade) {
            return Ok(folder);
        }
        let mut folder = open()?;
        let system = fstat(&folder.handle)?.st_dev;
        let system = match systems.entry(system) {
            Entry::Occupied(known) => known.into_mut(),
            Entry::Vacant(new) => new.insert(Arc::new(openat(&folder.handle, ".", FOLDER, Mode::empty())?)),
        };
        folder.system = Some(Arc::clone(system));
        // What is in it is looked at once: it may be a million of names.
        if !by_path.contains_key(path) {
            folder.sweep();
        }
        folder.claim()?;
        let folder = Arc::new(folder);
        by_path.insert(path.to_owned(), Arc::downgrade(&folder));
        Ok(folder)
    }
}

/// Opens a file or folder below an open folder. Nothing on the way may be a link, nor lead out of it.
fn open_beneath(base: BorrowedFd<'_>, rest: &Path, flags: OFlags) -> io::Result<OwnedFd> {
    #[cfg(target_os = "linux")]
    {
        use rustix::fs::{ResolveFlags, openat2};
        let resolve = ResolveFlags::BENEATH | ResolveFlags::NO_SYMLINKS;
        match openat2(base, rest, flags, Mode::empty(), resolve) {
            // An old system, or a sandbox that does not let programs ask; or a name changed at this moment.
            Err(Errno::NOSYS | Errno::PERM | Errno::AGAIN) => {}
            Err(Errno::LOOP) => return Err(link_in_the_way()),
            opened => return Ok(opened?),
        }
    }
    step_by_step(base, rest, flags)
}

fn step_by_step(base: BorrowedFd<'_>, rest: &Path, flags: OFlags) -> io::Result<OwnedFd> {
    let mut names = rest.components().peekable();
    let mut folder: Option<OwnedFd> = None;
    while let Some(name) = names.next() {
        let Component::Normal(name) = name else { return Err(io::ErrorKind::InvalidFilename.into()) };
        let at = folder.as_ref().map_or(base, AsFd::as_fd);
        let flags = if names.peek().is_some() { THROUGH } else { flags };
        let opened = openat(at, name, flags | OFlags::NOFOLLOW, Mode::empty()).map_err(|error| {
            let is_link =
                || statat(at, name, AtFlags::SYMLINK_NOFOLLOW).is_ok_and(|there| kind_of(&there).is_symlink());
            if matches!(error, Errno::LOOP | Errno::NOTDIR | Errno::MLINK) && is_link() {
                link_in_the_way()
            } else {
                error.into()
            }
        })?;
        folder = Some(opened);
    }
    folder.ok_or_else(|| io::ErrorKind::InvalidFilename.into())
}

fn kind_of(there: &Stat) -> FileType {
    FileType::from_raw_mode(there.st_mode)
}

fn link_in_the_way() -> io::Error {
    io::Error::other("a link has taken its place, or that of a folder above it, and is not followed")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_link_below_the_named_folder_is_followed_with_either_call() {
        let scratch = tempfile::tempdir().unwrap();
        let at = |name: &str| scratch.path().join(name);
        std::fs::create_dir_all(at("named/real")).unwrap();
        std::fs::create_dir(at("outside")).unwrap();
        std::fs::write(at("named/real/log.txt"), "fog").unwrap();
        std::fs::write(at("outside/log.txt"), "fog").unwrap();
        std::os::unix::fs::symlink("../outside", at("named/link")).unwrap();
        std::os::unix::fs::symlink("real/log.txt", at("named/file")).unwrap();
        std::os::unix::fs::symlink("named", at("also-named")).unwrap();
        let base = openat(CWD, at("also-named"), THROUGH, Mode::empty()).unwrap();
        for open in [open_beneath, step_by_step] {
            let open = |path: &str| open(base.as_fd(), Path::new(path), FILE);
            assert!(open("real/log.txt").is_ok());
            for path in ["link/log.txt", "file", "link"] {
                assert!(open(path).unwrap_err().to_string().starts_with("a link has taken"), "{path}");
            }
            assert!(open("../outside/log.txt").is_err());
        }
    }
}
