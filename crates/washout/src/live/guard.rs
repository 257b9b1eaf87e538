//! A process beside the view that gives the terminal back if the view is killed.

use std::io::{self, Write as _};
use std::process::{Child, ChildStdin, Command, Stdio};

use super::terminal::write_way_back;

/// Waits for a line on standard input. If that ends without one, whoever had it was killed: the terminal gets its modes and its screen
/// back. A terminal that is taken by another program by then may be changed all the same, as signals to stop are ignored.
const SCRIPT: &str = r#"trap '' HUP INT QUIT TERM TSTP TTOU
read -r line || { printf '%s' "$2"; stty "$1" <&1; }"#;

/// The process. It ends with this value, and does nothing then.
pub(super) struct TerminalGuard {
    process: Child,
    view: ChildStdin,
}

impl TerminalGuard {
    /// Starts it, while the terminal is as it is to be again.
    pub(super) fn start() -> io::Result<Self> {
        let modes = Command::new("stty").arg("-g").stdin(terminal()?).stderr(Stdio::null()).output()?.stdout;
        let mut way_back = Vec::new();
        write_way_back(&mut way_back)?;
        let (modes, way_back) = (String::from_utf8_lossy(&modes), String::from_utf8_lossy(&way_back));
        let mut command = Command::new("sh");
        command.args(["-c", SCRIPT, "sh", modes.trim(), &way_back]);
        let mut process = command.stdin(Stdio::piped()).stdout(terminal()?).stderr(Stdio::null()).spawn()?;
        let view = process.stdin.take().ok_or(io::ErrorKind::BrokenPipe)?;
        Ok(Self { process, view })
    }
}

/// Standard output, which is the terminal here.
fn terminal() -> io::Result<Stdio> {
    use std::os::fd::AsFd as _;
    Ok(io::stdout().as_fd().try_clone_to_owned()?.into())
}

impl Drop for TerminalGuard {
    fn drop(&mut self) {
        let _ = self.view.write_all(b"over\n");
        let _ = self.process.wait();
    }
}
