//! Who writes in a folder.
//!
//! Whoever has temporary files in a folder holds a lock on the folder together with all others who do; whoever removes
//! those of killed programs needs it alone. A lock goes with its program, however that ended, and holds between
//! containers that share the folder. No number of a process could tell as much.

use std::io;

use rustix::fs::{FlockOperation, flock};
use rustix::io::Errno;

use super::Folder;
use crate::wait::wait_for;

impl Folder {
    /// Says to others that temporary files in the folder are in use from now on, until it is dropped.
    ///
    /// # Errors
    /// Another program has locked the folder for longer than is waited.
    pub(super) fn claim(&self) -> io::Result<()> {
        // Where a file system has no locks, no one can have it alone either: nothing is removed there.
        let look = || (flock(self, FlockOperation::NonBlockingLockShared) != Err(Errno::WOULDBLOCK)).then_some(());
        wait_for(look).ok_or_else(|| io::Error::other("another program has locked this folder"))
    }

    /// Does something while no one has temporary files in the folder. `None`: someone has, or no one can tell.
    pub(super) fn alone<T>(&self, work: impl FnOnce() -> T) -> Option<T> {
        flock(self, FlockOperation::NonBlockingLockExclusive).ok()?;
        let done = work();
        let _ = flock(self, FlockOperation::Unlock);
        Some(done)
    }
}
