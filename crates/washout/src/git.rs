//! What git knows of the repository of the working folder.

use std::io;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

use crate::exit::Trouble;
use crate::show::visible::shown;

/// Runs git; gives what it prints.
pub(crate) fn output(args: &[&str]) -> Result<Vec<u8>, Trouble> {
    let cannot = |error: io::Error| Trouble::Usage(format!("git cannot be run: {error}"));
    let output = Command::new("git").args(args).stdin(Stdio::null()).output().map_err(cannot)?;
    if output.status.success() {
        return Ok(output.stdout);
    }
    let said = String::from_utf8_lossy(&output.stderr);
    let said = said.trim().strip_prefix("fatal: ").unwrap_or(said.trim());
    Err(Trouble::Usage(format!("git {}: {}", args.first().copied().unwrap_or_default(), shown(said))))
}

/// A path that git prints, alone on its line.
pub(crate) fn path(args: &[&str]) -> Result<PathBuf, Trouble> {
    let line = output(args)?;
    Ok(path_of(line.strip_suffix(b"\n").unwrap_or(&line)))
}

pub(crate) fn path_of(bytes: &[u8]) -> PathBuf {
    use std::os::unix::ffi::OsStrExt;
    Path::new(std::ffi::OsStr::from_bytes(bytes)).to_owned()
}
