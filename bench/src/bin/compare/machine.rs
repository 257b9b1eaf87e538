//! What else the machine did meanwhile.

use std::fs;
use std::time::Instant;

/// What the host of a virtual machine takes from it for others, from some moment on.
pub(crate) struct Host {
    stolen: Option<f64>,
    start: Instant,
}

impl Host {
    pub(crate) fn now() -> Self {
        Self { stolen: stolen(), start: Instant::now() }
    }

    /// Says how much it has taken, if that is enough to make goals be missed that are reached on a quiet machine.
    pub(crate) fn tell(&self) {
        let (Some(before), Some(now)) = (self.stolen, stolen()) else { return };
        let (took, whole) = (now - before, self.start.elapsed().as_secs_f64());
        if took > whole / 50.0 {
            println!(
                "\nThe host took {took:.0} s of processor time for others while this ran ({whole:.0} s): run it again."
            );
        }
    }
}

/// Seconds since the machine started, of all processors together (`steal` in `proc_stat(5)`); `None` where nothing tells.
fn stolen() -> Option<f64> {
    const TICKS_A_SECOND: f64 = 100.0; // of what the kernel tells programs, whatever its own clock
    let all = fs::read_to_string("/proc/stat").ok()?;
    let ticks: f64 = all.lines().next()?.split_whitespace().nth(8)?.parse().ok()?;
    Some(ticks / TICKS_A_SECOND)
}
