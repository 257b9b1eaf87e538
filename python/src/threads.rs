//! The threads that long columns are cleaned by.

use std::sync::{Arc, Mutex, PoisonError};

use rayon::{ThreadPool, ThreadPoolBuilder};

/// The process that made the pool, and the pool. A process that was forked has none of its threads, and would wait for them
/// without end.
static POOL: Mutex<Option<(u32, Arc<ThreadPool>)>> = Mutex::new(None);

/// As many threads as there are processors, or as `RAYON_NUM_THREADS` says; those of this process. `None`: none can be
/// made.
pub(crate) fn pool() -> Option<Arc<ThreadPool>> {
    let mut known = POOL.lock().unwrap_or_else(PoisonError::into_inner);
    let process = std::process::id();
    if let Some((_, pool)) = known.as_ref().filter(|(owner, _)| *owner == process) {
        return Some(Arc::clone(pool));
    }
    let pool = Arc::new(ThreadPoolBuilder::new().build().ok()?);
    // The pool of another process is not dropped: that would wait for its threads too.
    if let Some(other) = known.replace((process, Arc::clone(&pool))) {
        std::mem::forget(other);
    }
    Some(pool)
}
