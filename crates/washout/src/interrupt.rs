//! Ctrl-C ends a run between files.

use std::sync::OnceLock;

use signal_hook::consts::SIGINT;
use signal_hook::flag::{register, register_conditional_shutdown};
use washout_files::{Stop, end_waits_at};

/// The exit status of a program that an interrupt has ended, as shells report it: 128 and the number of the signal.
const INTERRUPTED: i32 = 130;

static STOP: OnceLock<Stop> = OnceLock::new();

/// From now on an interrupt is a request to stop after the files that are under way. A second one ends at once.
pub(crate) fn watch() -> &'static Stop {
    STOP.get_or_init(|| {
        let stop = Stop::new();
        end_waits_at(&stop);
        // In this order: what comes first finds no request, and makes one. Without a handler an interrupt ends the program
        // as it always does: files are whole then too.
        let _ =
            register_conditional_shutdown(SIGINT, INTERRUPTED, stop.flag()).and_then(|_| register(SIGINT, stop.flag()));
        stop
    })
}

/// Whether there was an interrupt since [`watch`].
pub(crate) fn is_requested() -> bool {
    STOP.get().is_some_and(Stop::is_requested)
}
