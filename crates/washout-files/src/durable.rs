//! Many files made durable at once.

use std::fs::File;
use std::io;

/// Files that are waited for at the same time. A disk does what many ask for at once in about the time of one, and who
/// waits needs no processor, so these are more than there are processors.
const AT_ONCE: usize = 8;

/// Waits until all of these are on the disk, each as `sync` asks for it; gives what happened to each, in their order.
pub(crate) fn sync_all<T: Sync>(files: &[T], sync: impl Fn(&T) -> io::Result<()> + Sync) -> Vec<io::Result<()>> {
    let share = files.len().div_ceil(AT_ONCE).max(1);
    let sync_share = |share: &[T]| share.iter().map(&sync).collect::<Vec<_>>();
    if files.len() < 2 {
        return sync_share(files);
    }
    std::thread::scope(|scope| {
        let waiting: Vec<_> = files.chunks(share).map(|share| scope.spawn(move || sync_share(share))).collect();
        let lost = |share: &[T]| share.iter().map(|_| Err(io::Error::other("a thread failed"))).collect();
        let done = waiting.into_iter().zip(files.chunks(share));
        done.flat_map(|(thread, share)| thread.join().unwrap_or_else(|_| lost(share))).collect()
    })
}

/// A folder as it is now: names in it are on the disk once it is.
pub(crate) fn sync_folder(folder: &std::path::Path) -> io::Result<()> {
    File::open(folder)?.sync_all()
}
