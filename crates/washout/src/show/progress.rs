//! The progress of a long run, on a terminal only.

use std::io::{self, IsTerminal};
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{self, JoinHandle};
use std::time::{Duration, Instant};

use indicatif::{ProgressBar, ProgressDrawTarget, ProgressStyle};
use washout_files::{ChosenFile, Meter};

/// A run that is over sooner shows no bar.
const PATIENCE: Duration = Duration::from_millis(600);
const TICK: Duration = Duration::from_millis(100);

/// A bar on standard error with files and bytes, or names, and the time left; none where that is not a terminal.
pub(crate) struct ProgressMeter {
    meter: Arc<Meter>,
    bar: ProgressBar,
    over: Arc<AtomicBool>,
    drawing: Option<JoinHandle<()>>,
}

/// What is counted.
enum CountedWork {
    /// Files, by their bytes.
    Bytes(Vec<PathBuf>),
    /// This many names.
    Names(u64),
}

impl ProgressMeter {
    /// A bar for work on that many names.
    pub(crate) fn over_names(names: u64) -> Self {
        Self::over_work(CountedWork::Names(names), names > 0)
    }

    pub(crate) fn over(files: &[ChosenFile]) -> Self {
        let paths = || files.iter().map(|file| file.path.clone()).collect();
        let is_seen = io::stderr().is_terminal() && !files.is_empty();
        Self::over_work(CountedWork::Bytes(if is_seen { paths() } else { Vec::new() }), is_seen)
    }

    fn over_work(work: CountedWork, is_worth_it: bool) -> Self {
        let meter = Arc::new(Meter::default());
        let bar = ProgressBar::with_draw_target(None, ProgressDrawTarget::hidden());
        let over = Arc::new(AtomicBool::new(false));
        let drawing = (io::stderr().is_terminal() && is_worth_it).then(|| {
            let (meter, bar, over) = (meter.clone(), bar.clone(), over.clone());
            thread::spawn(move || draw(&work, &meter, &bar, &over))
        });
        Self { meter, bar, over, drawing }
    }

    pub(crate) fn meter(&self) -> &Meter {
        &self.meter
    }

    /// Writes something while the bar is out of the way.
    pub(crate) fn aside<R>(&self, write: impl FnOnce() -> R) -> R {
        self.bar.suspend(write)
    }
}

impl Drop for ProgressMeter {
    fn drop(&mut self) {
        self.over.store(true, Ordering::Relaxed);
        if let Some(drawing) = self.drawing.take() {
            drawing.thread().unpark();
            // A bar that could not be drawn is no reason to fail.
            let _ = drawing.join();
        }
    }
}

fn draw(work: &CountedWork, meter: &Meter, bar: &ProgressBar, over: &AtomicBool) {
    let started = Instant::now();
    while started.elapsed() < PATIENCE {
        if over.load(Ordering::Relaxed) {
            return;
        }
        thread::park_timeout(PATIENCE.saturating_sub(started.elapsed()));
    }
    let (total, template) = match work {
        CountedWork::Bytes(paths) => (
            paths.iter().filter_map(|path| path.metadata().ok()).map(|file| file.len()).sum(),
            "{wide_bar} {msg}, {binary_bytes} of {binary_total_bytes}, {binary_bytes_per_sec}, {eta} left",
        ),
        CountedWork::Names(names) => (*names, "{wide_bar} {human_pos} of {human_len} names, {eta} left"),
    };
    bar.set_length(total);
    if let Ok(style) = ProgressStyle::with_template(template) {
        bar.set_style(style.progress_chars("▬▬─"));
    }
    bar.set_draw_target(ProgressDrawTarget::stderr());
    while !over.load(Ordering::Relaxed) {
        match work {
            CountedWork::Bytes(paths) => {
                bar.set_position(meter.bytes().min(total));
                bar.set_message(format!("{} of {} files", meter.files(), paths.len()));
            }
            CountedWork::Names(_) => bar.set_position(meter.files().min(total)),
        }
        thread::park_timeout(TICK);
    }
    bar.finish_and_clear();
}
