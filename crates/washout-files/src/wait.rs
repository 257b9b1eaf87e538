//! Waiting for what another program holds: for a stated time, and no longer once the user asks to stop.

use std::sync::OnceLock;
use std::thread::sleep;
use std::time::Duration;

use crate::stop::Stop;

/// How long between two looks at a lock.
const PAUSE: Duration = Duration::from_millis(20);

/// How many looks make up 10 seconds, the longest wait.
const MOST_LOOKS: i32 = 500;

/// How many looks are left to what still has to be written down when the request to stop came first.
const LAST_LOOKS: i32 = 10;

/// One for the program: the database asks a plain function whether to wait on.
static STOP: OnceLock<Stop> = OnceLock::new();

/// From now on this request ends every wait for a lock, in the whole program. Only the first call has an effect.
pub fn end_waits_at(stop: &Stop) {
    let _ = STOP.set(stop.clone());
}

/// Pauses and says to look again. `false`, at once: it has been waited long enough, or the user asks to stop.
///
/// `looks`: how many were in vain so far.
pub(crate) fn look_again(looks: i32) -> bool {
    let most = if STOP.get().is_some_and(Stop::is_requested) { LAST_LOOKS } else { MOST_LOOKS };
    let goes_on = looks < most;
    if goes_on {
        sleep(PAUSE);
    }
    goes_on
}

/// What `look` finds in the end. `None`: nothing as long as it is waited.
pub(crate) fn wait_for<T>(mut look: impl FnMut() -> Option<T>) -> Option<T> {
    let mut looks = 0;
    loop {
        let found = look();
        if found.is_some() || !look_again(looks) {
            return found;
        }
        looks += 1;
    }
}
