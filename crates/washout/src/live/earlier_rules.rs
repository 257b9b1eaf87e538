//! Rules that were typed in earlier sessions.

use std::io;
use std::path::{Path, PathBuf};

use washout_files::state_folder;

/// Rules that are remembered from session to session.
const MOST_EARLIER: usize = 200;

/// Where rules that were typed are remembered.
fn earlier_file() -> Option<PathBuf> {
    Some(state_folder(std::env::var_os("WASHOUT_STATE")).ok()?.join("typed-rules"))
}

/// The rules, the newest last.
pub(super) fn earlier_rules() -> Vec<String> {
    let text = earlier_file().and_then(|file| std::fs::read_to_string(file).ok()).unwrap_or_default();
    text.lines().map(str::to_owned).collect()
}

/// Remembers a rule for other sessions. One that cannot be remembered is no reason to stop.
pub(super) fn remember_rule(rule: &str) {
    let Some(file) = earlier_file() else { return };
    let mut rules: Vec<String> = earlier_rules().into_iter().filter(|known| known != rule).collect();
    rules.push(rule.to_owned());
    let first = rules.len().saturating_sub(MOST_EARLIER);
    let text = rules[first..].join("\n") + "\n";
    let folder = file.parent().unwrap_or(Path::new(".")).to_owned();
    let written = || -> io::Result<()> {
        std::fs::create_dir_all(&folder)?;
        let mut new = tempfile::NamedTempFile::new_in(&folder)?;
        io::Write::write_all(&mut new, text.as_bytes())?;
        new.persist(&file)?;
        Ok(())
    };
    let _ = written();
}
