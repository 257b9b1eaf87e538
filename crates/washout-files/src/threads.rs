//! The threads that work on files, and on parts of large ones.

use std::num::NonZeroUsize;
use std::sync::Once;

use rayon::ThreadPoolBuilder;

/// How many threads may work at the same time. They are those of the whole program, started by the first who needs them.
#[derive(Clone, Copy, Debug, Default)]
pub struct Threads(Option<NonZeroUsize>);

static STARTED: Once = Once::new();

impl Threads {
    /// This many; `None`: as many as the machine can run at once.
    pub const fn new(number: Option<NonZeroUsize>) -> Self {
        Self(number)
    }

    /// Only the thread that asks.
    pub const fn one() -> Self {
        Self(Some(NonZeroUsize::MIN))
    }

    /// How many there are.
    pub fn number(self) -> usize {
        let here = || std::thread::available_parallelism().map_or(1, NonZeroUsize::get);
        self.0.map_or_else(here, NonZeroUsize::get)
    }

    /// Starts them, unless any have been started. One alone is the thread that asks, and so it is where the system allows
    /// no others.
    pub fn start(self) {
        STARTED.call_once(|| {
            let one = || ThreadPoolBuilder::new().num_threads(1).use_current_thread();
            let threads = if self.number() == 1 { one() } else { ThreadPoolBuilder::new().num_threads(self.number()) };
            if threads.build_global().is_err() {
                // They may have been started without this, and then it is of no use either.
                let _ = one().build_global();
            }
        });
    }
}
