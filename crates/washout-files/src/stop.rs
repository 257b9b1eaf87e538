//! A request to stop.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// A request to stop between files. What is under way is finished.
#[derive(Debug, Default, Clone)]
pub struct Stop(Arc<AtomicBool>);

impl Stop {
    /// A request that has not been made.
    pub fn new() -> Self {
        Self::default()
    }

    /// Where it is made by setting this to true, as handlers of signals may.
    pub fn flag(&self) -> Arc<AtomicBool> {
        Arc::clone(&self.0)
    }

    /// Makes the request.
    pub fn request(&self) {
        self.0.store(true, Ordering::Relaxed);
    }

    /// Whether it has been made.
    pub fn is_requested(&self) -> bool {
        self.0.load(Ordering::Relaxed)
    }
}
