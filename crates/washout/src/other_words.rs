//! What people type who know the same thing by another word: the answer is ours.

use clap::error::{ContextKind, ContextValue, ErrorKind};
use clap::{Command, Error};

/// Words for a command, with what to type here.
const COMMANDS: &[(&[&str], &str)] = &[
    (
        &[
            "delete", "strip", "fix", "format", "fmt", "apply", "run", "replace", "remove", "tidy", "wash", "preview",
            "diff",
        ],
        "`washout clean -r RULES PATH...` shows what rules change; with --write it changes the files",
    ),
    (&["rename", "mv", "move"], "`washout names -r RULES PATH...` shows new names; with --write it renames"),
    (&["lint", "verify", "validate"], "`washout check -r RULES PATH...` finds out whether rules would change anything"),
    (&["scan", "stats", "analyze", "inspect", "detect"], "`washout survey PATH...` tells what is in files"),
    (&["revert", "restore", "rollback"], "`washout undo` takes back the last run that changed something here"),
    (&["log", "runs"], "`washout history` lists the runs"),
    (&["debug", "step"], "`washout trace -r RULES FILE:LINES` shows a small text after each rule"),
    (
        &["list", "patterns", "rules"],
        "`washout stock` lists what comes ready-made; `washout explain -r RULES` tells what rules do",
    ),
];

/// Options, with what there is for them.
const OPTIONS: &[(&[&str], &str)] = &[
    (
        &["-i", "--in-place", "--inplace", "--overwrite-files", "-w", "--apply", "--fix"],
        "--write changes the files in place; `washout undo` takes it back",
    ),
    (
        &["-o", "--output", "--out", "--output-dir", "--dest"],
        "--into DIR writes the results into a folder, --stdout writes them to standard output",
    ),
    (
        &["-n", "--dry-run", "--dryrun", "--preview", "--simulate", "--no-act"],
        "without --write or --into nothing is changed: leave it out",
    ),
    (&["--backup", "-b", "--bak"], "what is replaced is kept, and `washout undo` restores it: leave it out"),
    (&["--recursive", "-R", "--recurse"], "folders are gone through with all that is below them: leave it out"),
    (&["--yes", "-y", "-f", "--force", "--no-confirm"], "nothing is asked unless you say --ask: leave it out"),
    (
        &["-e", "--expression", "--regex", "--pattern", "--find", "--search"],
        "--rule 'remove.pattern = EXPRESSION' gives a rule",
    ),
    (&["--replace", "--sub", "-s"], "--rule 'replace = { text = \"fog\", with = \"mist\" }' gives a rule"),
    (&["-c", "--config", "--ruleset", "--rule-set", "--rules-file"], "-r FILE names a rule set"),
    (&["--diff", "-u"], "--patch prints the changes as a unified diff"),
    (&["--interactive", "--confirm", "--prompt"], "--ask shows each change, and asks whether to take it"),
    (&["--exclude", "--ignore", "--skip"], "--except GLOB leaves out files"),
    (&["--glob", "--ext"], "--only GLOB takes only some files"),
    (&["--hidden", "--all-files"], "--with-hidden takes hidden files too"),
    (&["--encoding"], "--charset LABEL says how the files are written"),
    (&["--limit", "--head", "--max-count"], "--first N looks at the first lines only"),
];

/// The same error, with our word for what was typed, if there is one.
pub(crate) fn answered(error: Error, command: &mut Command) -> Error {
    let (kind, lists) = match error.kind() {
        ErrorKind::InvalidSubcommand => (ContextKind::InvalidSubcommand, COMMANDS),
        ErrorKind::UnknownArgument => (ContextKind::InvalidArg, OPTIONS),
        _ => return error,
    };
    let Some(ContextValue::String(typed)) = error.get(kind) else { return error };
    let word = typed.split('=').next().unwrap_or(typed);
    let Some((_, ours)) = lists.iter().find(|(words, _)| words.contains(&word)) else { return error };
    let what = if kind == ContextKind::InvalidArg { "option" } else { "command" };
    command.error(error.kind(), format!("there is no {what} `{word}` here: {ours}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_word_is_answered_that_is_one_of_ours() {
        use clap::CommandFactory;
        let cli = crate::args::Cli::command();
        let commands: Vec<&str> = cli.get_subcommands().map(Command::get_name).collect();
        for word in COMMANDS.iter().flat_map(|(words, _)| *words) {
            assert!(!commands.contains(word), "{word}");
        }
    }
}
