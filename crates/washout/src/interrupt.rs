//! Ctrl-C ends a run between files.

use washout_files::Stop;

static STOP: Stop = Stop::new();

/// From now on an interrupt is a request to stop after the files that are under way. A second one ends at once.
pub(crate) fn watch() -> &'static Stop {
    // Without a handler an interrupt ends the program as it always does: files are whole then too.
    let _ = ctrlc::set_handler(|| {
        if STOP.is_requested() {
            std::process::exit(130);
        }
        STOP.request();
    });
    &STOP
}
