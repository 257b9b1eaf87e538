//! The arguments of `hook`.

use clap::Args;

/// Print or install a hook for git that checks each commit
///
/// The hook runs `washout check --staged` before a commit, with the rules of washout.toml: it checks what will be committed,
/// and stops the commit if a rule would change anything.
#[derive(Args, Debug)]
#[command(after_help = HOOK_EXAMPLES)]
pub(crate) struct HookArgs {
    /// Write the hook into the repository of the working folder, unless it has another one
    #[arg(long)]
    pub(crate) install: bool,
}

const HOOK_EXAMPLES: &str = "\
Examples:
  washout hook            print the hook
  washout hook --install  write it as the pre-commit hook of this repository

Exit status: 0 done, 2 there is no repository, or it has another hook.";
