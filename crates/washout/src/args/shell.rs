//! The arguments of `completions` and `man`.

use clap::Args;
use clap_complete::Shell;

/// Print completions for a shell
///
/// The script completes commands, options and their values when Tab is pressed. Put it where the shell reads completions.
#[derive(Args, Debug)]
#[command(after_help = COMPLETIONS_EXAMPLES)]
pub(crate) struct CompletionsArgs {
    /// Name of the shell
    #[arg(value_name = "SHELL", value_enum)]
    pub(crate) shell: Shell,
}

/// Print a manual page
///
/// The page is in roff, for `man -l` or a folder of manual pages. Without a name, it is about washout as a whole.
#[derive(Args, Debug)]
#[command(after_help = MAN_EXAMPLES)]
pub(crate) struct ManArgs {
    /// Name of a command, such as `clean`, or `history prune`
    #[arg(value_name = "COMMAND")]
    pub(crate) command: Vec<String>,
}

const COMPLETIONS_EXAMPLES: &str = "\
Examples:
  washout completions bash > washout.bash        then source it in ~/.bashrc
  washout completions zsh > _washout             into a folder of $fpath
  washout completions fish > washout.fish        into ~/.config/fish/completions
  washout completions powershell > washout.ps1   then dot-source it in $PROFILE
  washout completions elvish > washout.elv       then eval it in rc.elv";

const MAN_EXAMPLES: &str = "\
Examples:
  washout man | man -l -                    read about washout as a whole
  washout man clean | man -l -              read about a command
  washout man clean > washout-clean.1       for a folder of pages";
