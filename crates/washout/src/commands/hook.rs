//! `washout hook`

use std::fs;
use std::io::{self, Write as _};
use std::os::unix::fs::{OpenOptionsExt as _, PermissionsExt as _};
use std::path::Path;

use crate::args::HookArgs;
use crate::exit::{Exit, Trouble};
use crate::git;
use crate::out::{buffered_stdout, print_warning};
use crate::project::{self, FILE_NAME};
use crate::show::command_line::program_name;
use crate::show::summary::advise;
use crate::show::visible::shown_path;

/// The line by which a hook is known as one that this command wrote.
const MARK: &str = "# Written by `washout hook`.";

const SCRIPT: &str = "\
#!/bin/sh
# Written by `washout hook`.
# Stops a commit with text in it that the rules of washout.toml would change. It checks what will be committed, as it is in
# the index; to commit all the same: git commit --no-verify
if ! command -v washout > /dev/null; then
    echo 'the hook of this repository runs washout, which is not in the PATH' >&2
    exit 1
fi
exec washout check --staged --list some
";

/// Runs the command.
pub(crate) fn run(args: &HookArgs) -> Result<Exit, Trouble> {
    let mut out = buffered_stdout();
    if !args.install {
        out.write_all(SCRIPT.as_bytes())?;
        out.flush()?;
        return Ok(Exit::Done);
    }
    let git_folder = git::path(&["rev-parse", "--path-format=absolute", "--git-common-dir"])?;
    let top = git::path(&["rev-parse", "--path-format=absolute", "--show-toplevel"])?;
    let hooks = git::path(&["rev-parse", "--path-format=absolute", "--git-path", "hooks"])?;
    let hook = hooks.join("pre-commit");
    let to_add = format!(
        "To run the check from it, add a line: washout check --staged --list some\nTo print the whole hook: {} hook",
        program_name()
    );
    if !hooks.starts_with(&git_folder) && !hooks.starts_with(&top) {
        // Other repositories may use it too.
        let message =
            format!("the hooks of this repository are elsewhere, in {} (core.hooksPath)\n{to_add}", shown_path(&hooks));
        return Err(Trouble::Usage(message));
    }
    let there = match fs::read_to_string(&hook) {
        Ok(text) => Some(text),
        Err(error) if error.kind() == io::ErrorKind::NotFound => None,
        Err(error) => return Err(Trouble::File(shown_path(&hook), error)),
    };
    if there.as_ref().is_some_and(|text| !text.lines().any(|line| line == MARK)) {
        return Err(Trouble::Usage(format!("this repository has another hook, {}\n{to_add}", shown_path(&hook))));
    }
    write(&hook).map_err(|error| Trouble::File(shown_path(&hook), error))?;
    writeln!(out, "The hook is written: {}", shown_path(&hook))?;
    if project::find(&top).is_none() {
        out.flush()?;
        print_warning(&format!("there is no {FILE_NAME} yet, which says which rules are for which files"))?;
        advise("To write one, at the top of the repository:", &format!("{} init", program_name()), &mut out)?;
    }
    out.flush()?;
    Ok(Exit::Done)
}

/// Puts the script in its place in one step.
fn write(hook: &Path) -> io::Result<()> {
    let folder = hook.parent().unwrap_or(hook);
    fs::create_dir_all(folder)?;
    let temporary = tempfile::Builder::new()
        .permissions(fs::Permissions::from_mode(0o755))
        .make_in(folder, |path| fs::OpenOptions::new().write(true).create_new(true).mode(0o755).open(path))?;
    let mut file = temporary;
    file.write_all(SCRIPT.as_bytes())?;
    file.as_file().sync_all()?;
    file.persist(hook)?;
    Ok(())
}

/// A path that no command takes for an option.
fn not_an_option(path: &str) -> String {
    if path.starts_with('-') { format!("./{path}") } else { path.to_owned() }
}

/// What to type after a commit was stopped.
pub(crate) fn print_hint(paths: &[std::path::PathBuf], rules: &str) -> io::Result<()> {
    use crate::show::command_line::quoted;
    /// More files than these are not listed one by one.
    const MOST: usize = 5;
    let clean = format!("{} clean{rules}", program_name());
    // What cannot be typed on a line is named by a list.
    let typed = |path: &Path| path.to_str().filter(|name| !name.chars().any(char::is_control)).map(str::to_owned);
    let names: Option<Vec<String>> = paths.iter().map(|path| typed(path)).collect();
    let (look, stage) = if let Some(names) = names.filter(|names| names.len() <= MOST) {
        let files = names.iter().map(|name| quoted(&not_an_option(name))).collect::<Vec<_>>().join(" ");
        (format!("{clean} {files}"), format!("git add {files}"))
    } else {
        let staged = "git diff --cached --name-only --diff-filter=ACMT -z";
        (format!("{staged} | {clean} --files-from - -0"), "git add --update".to_owned())
    };
    let top = std::env::var_os("GIT_PREFIX").is_some_and(|prefix| !prefix.is_empty());
    let mut err = anstream::stderr();
    writeln!(
        err,
        "What is staged is not clean. What to type next{}:",
        if top { " (at the top of the repository)" } else { "" }
    )?;
    advise("  look at the changes", &look, &mut err)?;
    advise("  clean the files    ", &format!("{look} --write"), &mut err)?;
    advise("  stage them again   ", &stage, &mut err)
}
