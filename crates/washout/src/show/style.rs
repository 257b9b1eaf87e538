//! Colours. Each only repeats what a sign or a word says too.

use anstyle::{AnsiColor, Style};

/// Text that a rule takes away.
pub(crate) const GONE: Style = AnsiColor::Yellow.on_default().bold();
/// Text that a rule puts in.
pub(crate) const NEW: Style = AnsiColor::Cyan.on_default().bold();
/// Names of files.
pub(crate) const FILE: Style = Style::new().bold();
/// What is there to be read only if one looks for it.
pub(crate) const QUIET: Style = Style::new().dimmed();
/// What should be read first.
pub(crate) const STRONG: Style = Style::new().bold();
