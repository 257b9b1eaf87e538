//! Memory that searches need, kept from text to text: making it again for each of many small files would take longer
//! than searching them.

use std::ops::{Deref, DerefMut};
use std::sync::{Mutex, PoisonError};

/// As many are kept as threads may want at once; more are dropped.
const MOST: usize = 64;

/// What no one needs at the moment.
#[derive(Debug)]
pub(crate) struct Pool<T>(Mutex<Vec<T>>);

/// Taken from a pool, and put back when it is dropped.
#[derive(Debug)]
pub(crate) struct PoolGuard<T, S: Deref<Target = Pool<T>>> {
    pool: S,
    /// There until it is dropped.
    item: Option<T>,
}

impl<T> Pool<T> {
    pub(crate) const fn new() -> Self {
        Self(Mutex::new(Vec::new()))
    }

    fn take(&self) -> Option<T> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).pop()
    }

    fn put(&self, item: T) {
        let mut items = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if items.len() < MOST {
            items.push(item);
        }
    }
}

impl<T, S: Deref<Target = Pool<T>>> PoolGuard<T, S> {
    /// Takes one, or makes it.
    pub(crate) fn new(pool: S, make: impl FnOnce() -> T) -> Self {
        let item = pool.take().unwrap_or_else(make);
        Self { pool, item: Some(item) }
    }
}

impl<T, S: Deref<Target = Pool<T>>> Deref for PoolGuard<T, S> {
    type Target = T;

    fn deref(&self) -> &T {
        self.item.as_ref().expect("OK because it is there until it is dropped")
    }
}

impl<T, S: Deref<Target = Pool<T>>> DerefMut for PoolGuard<T, S> {
    fn deref_mut(&mut self) -> &mut T {
        self.item.as_mut().expect("OK because it is there until it is dropped")
    }
}

impl<T, S: Deref<Target = Pool<T>>> Drop for PoolGuard<T, S> {
    fn drop(&mut self) {
        if let Some(item) = self.item.take() {
            self.pool.put(item);
        }
    }
}
