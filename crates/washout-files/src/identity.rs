//! What distinguishes one file from every other.

use std::ffi::OsStr;
use std::io;
use std::os::fd::AsFd;
use std::os::unix::ffi::OsStrExt;
use std::path::Path;

use rustix::fs::{AtFlags, CWD, StatxFlags, statat, statx};
use rustix::io::Errno;

/// Device, inode, and when the file was born, in nanoseconds since 1970: an inode is given again once its file is gone.
/// Where a system does not know when files are born, that is 0.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Identity {
    pub(crate) device: u64,
    pub(crate) inode: u64,
    pub(crate) born: i64,
}

impl Identity {
    /// Of the entry at this path; a link is not followed.
    pub(crate) fn of(path: &Path) -> io::Result<Self> {
        Self::at(CWD, path.as_os_str().as_bytes())
    }

    /// Of an open file or folder.
    pub(crate) fn of_open(open: impl AsFd) -> io::Result<Self> {
        Self::with(open, b"", AtFlags::EMPTY_PATH)
    }

    /// Of the entry of this name in a folder; a link is not followed.
    pub(crate) fn at(folder: impl AsFd, name: &[u8]) -> io::Result<Self> {
        Self::with(folder, name, AtFlags::SYMLINK_NOFOLLOW)
    }

    fn with(folder: impl AsFd, name: &[u8], flags: AtFlags) -> io::Result<Self> {
        let name = OsStr::from_bytes(name);
        match statx(&folder, name, flags, StatxFlags::BASIC_STATS | StatxFlags::BTIME) {
            Ok(about) => {
                let known = about.stx_mask & StatxFlags::BTIME.bits() != 0;
                let born = about.stx_btime.tv_sec.saturating_mul(1_000_000_000) + i64::from(about.stx_btime.tv_nsec);
                let device = rustix::fs::makedev(about.stx_dev_major, about.stx_dev_minor);
                Ok(Self { device, inode: about.stx_ino, born: if known { born } else { 0 } })
            }
            Err(Errno::NOSYS) => {
                let about = statat(&folder, name, flags)?;
                Ok(Self { device: about.st_dev, inode: about.st_ino, born: 0 })
            }
            Err(error) => Err(error.into()),
        }
    }
}
