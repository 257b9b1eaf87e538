//! Many files made durable at once.

use std::fs::File;
use std::io;
use std::os::fd::BorrowedFd;

/// Files that are waited for at the same time. A disk does what many ask for at once in about the time of one, and who
/// waits needs no processor, so these are more than there are processors.
const AT_ONCE: usize = 8;

/// From this number of files on one file system on, all of it is made durable with one call.
const WORTH_ALL: usize = 16;

/// Waits until all of these are on the disk, each as `sync` asks for it; gives what happened to each, in their order.
/// `system` gives something on its file system that is open since before anything was written.
pub(crate) fn sync_all<T: Sync>(
    files: &[T],
    system: impl Fn(&T) -> BorrowedFd<'_>,
    sync: impl Fn(&T) -> io::Result<()> + Sync,
) -> Vec<io::Result<()>> {
    let is_done = whole::sync(&files.iter().map(system).collect::<Vec<_>>());
    let others: Vec<&T> = files.iter().zip(&is_done).filter_map(|(file, done)| (!done).then_some(file)).collect();
    let mut others = sync_each(&others, |file| sync(file)).into_iter();
    is_done.into_iter().map(|done| if done { Ok(()) } else { others.next().unwrap_or_else(lost) }).collect()
}

fn lost() -> io::Result<()> {
    Err(io::Error::other("a thread failed"))
}

/// The same one by one, many at a time.
pub(crate) fn sync_each<T: Sync>(files: &[T], sync: impl Fn(&T) -> io::Result<()> + Sync) -> Vec<io::Result<()>> {
    let share = files.len().div_ceil(AT_ONCE).max(1);
    let sync_share = |share: &[T]| share.iter().map(&sync).collect::<Vec<_>>();
    if files.len() < 2 {
        return sync_share(files);
    }
    std::thread::scope(|scope| {
        let waiting: Vec<_> = files.chunks(share).map(|share| scope.spawn(move || sync_share(share))).collect();
        let all_lost = |share: &[T]| share.iter().map(|_| lost()).collect();
        let done = waiting.into_iter().zip(files.chunks(share));
        done.flat_map(|(thread, share)| thread.join().unwrap_or_else(|_| all_lost(share))).collect()
    })
}

/// Whole file systems made durable.
#[cfg(target_os = "linux")]
mod whole {
    use std::collections::HashMap;
    use std::os::fd::BorrowedFd;
    use std::sync::LazyLock;

    use rustix::fs::{fstat, fstatfs, syncfs};

    use super::WORTH_ALL;

    /// The file systems that make all of theirs durable when they are asked to, by the numbers of Linux: ext2 to ext4, XFS,
    /// Btrfs, F2FS and tmpfs. Others, such as those of a program, may do less.
    const KNOWN: [u64; 5] = [0xEF53, 0x5846_5342, 0x9123_683E, 0xF2F5_2010, 0x0102_1994];

    /// Before Linux 5.8, this call did not say that something could not be written.
    static REPORTS_ERRORS: LazyLock<bool> = LazyLock::new(|| {
        let system = rustix::system::uname();
        let release = system.release().to_string_lossy();
        let mut parts = release.split(|other: char| !other.is_ascii_digit()).map(|part| part.parse().unwrap_or(0));
        (parts.next().unwrap_or(0), parts.next().unwrap_or(0)) >= (5_u32, 8_u32)
    });

    /// Which of these files are durable now: those that share a file system with many others. What could not be written
    /// since a file was opened is reported to it.
    pub(super) fn sync(files: &[BorrowedFd<'_>]) -> Vec<bool> {
        let mut is_done = vec![false; files.len()];
        if files.len() < WORTH_ALL || !*REPORTS_ERRORS {
            return is_done;
        }
        let mut systems: HashMap<u64, Vec<usize>> = HashMap::new();
        for (index, file) in files.iter().enumerate() {
            if let Ok(about) = fstat(file) {
                systems.entry(about.st_dev).or_default().push(index);
            }
        }
        for members in systems.into_values().filter(|members| members.len() >= WORTH_ALL) {
            let Some(first) = members.first().map(|first| files[*first]) else { continue };
            let is_known = fstatfs(first).is_ok_and(|system| KNOWN.contains(&system.f_type.cast_unsigned()));
            if is_known && syncfs(first).is_ok() {
                members.into_iter().for_each(|index| is_done[index] = true);
            }
        }
        is_done
    }
}

#[cfg(not(target_os = "linux"))]
mod whole {
    use std::os::fd::BorrowedFd;

    pub(super) fn sync(files: &[BorrowedFd<'_>]) -> Vec<bool> {
        vec![false; files.len()]
    }
}

/// A folder as it is now: names in it are on the disk once it is.
pub(crate) fn sync_folder(folder: &std::path::Path) -> io::Result<()> {
    File::open(folder)?.sync_all()
}
