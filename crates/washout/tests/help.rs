//! Help: every command has examples, every example runs on the demo data, and no line is too long for a terminal.

mod support;

use std::process::Command;

use support::TestDir;

const COMMANDS: &[&str] = &[
    // A project file comes first: others take their rules from it.
    "init",
    "clean",
    "names",
    "live",
    "watch",
    "check",
    "survey",
    "learn",
    "spellout",
    "trace",
    "explain",
    "test",
    "history",
    "undo",
    "again",
    "hook",
    "stock",
    "schema",
    "lsp",
    "completions",
    "man",
    "demo",
];

fn help(desk: &TestDir, command: &[&str]) -> String {
    desk.run(&[command, &["--help"]].concat()).status(0).silent_err().out()
}

/// The commands in a help text, without their descriptions.
fn examples(help: &str) -> Vec<String> {
    let lines = help.lines().filter_map(|line| line.strip_prefix("  ")).filter(|line| line.starts_with("washout "));
    lines.map(|line| line.split("  ").next().unwrap_or(line).trim().to_owned()).collect()
}

#[test]
fn every_command_is_listed_and_described_in_one_line() {
    let desk = TestDir::new();
    let all = help(&desk, &[]);
    for command in COMMANDS {
        let line = all.lines().find(|line| line.trim_start().starts_with(&format!("{command} ")));
        let about = line.unwrap_or_else(|| panic!("no line for {command} in\n{all}")).trim_start();
        let about = about[command.len()..].trim();
        assert!(about.starts_with(char::is_uppercase) && !about.ends_with('.'), "{command}: {about}");
    }
    let short = desk.run(&["-h"]).status(0).out();
    assert!(short.lines().count() < all.lines().count(), "the summary is shorter");
}

#[test]
fn every_example_of_every_command_runs_on_the_demo_data() {
    let desk = TestDir::new();
    std::fs::create_dir(desk.path("bin")).expect("a folder");
    std::os::unix::fs::symlink(env!("CARGO_BIN_EXE_washout"), desk.path("bin/washout")).expect("a link");
    desk.run(&["demo", "--into", "papers"]).status(0);
    let git = Command::new("git").args(["init", "-q"]).current_dir(desk.path("papers")).status();
    assert!(git.is_ok_and(|status| status.success()), "git is not installed");
    let path = format!("{}:{}", desk.path("bin").display(), std::env::var("PATH").unwrap_or_default());
    let pages: Vec<Vec<&str>> =
        COMMANDS.iter().map(|command| vec![*command]).chain([vec!["history", "prune"]]).collect();
    for page in pages {
        let help = help(&desk, &page);
        let examples = examples(&help);
        assert!(!examples.is_empty(), "{page:?} has no example:\n{help}");
        for example in examples {
            // Numbers of runs are those of some history, and `demo` alone leaves a folder.
            // A second `init` replaces nothing.
            let needs_more = ["washout undo", "washout demo", "washout init -r ready:source-code"].contains(&&*example);
            if example.contains(" 12") || needs_more {
                continue;
            }
            let mut shell = Command::new("bash");
            // One that goes on until it is interrupted, or shows a screen, is only begun.
            let begun = if example.starts_with("washout watch") {
                format!("timeout --signal INT 2 {example}")
            } else {
                example.clone()
            };
            shell.args(["-c", &begun]).current_dir(desk.path("papers")).env("PATH", &path);
            let ran = shell.env("WASHOUT_STATE", desk.state.path()).env("COLUMNS", "100").output().expect("bash");
            let err = String::from_utf8_lossy(&ran.stderr);
            let is_screen = example.starts_with("washout live") && err.contains("needs a terminal");
            assert!(ran.status.code() != Some(2) || is_screen, "{example}\n{err}");
            assert!(!err.contains("no such file"), "{example}\n{err}");
        }
    }
}

#[test]
fn help_fits_a_terminal_of_80_columns_and_names_the_exit_status() {
    let desk = TestDir::new();
    for page in std::iter::once("").chain(COMMANDS.iter().copied()) {
        let words: Vec<&str> = page.split_whitespace().chain(["--help"]).collect();
        let ran = desk.command().env("COLUMNS", "80").args(words).output().expect("the built program");
        let help = String::from_utf8(ran.stdout).expect("UTF-8");
        for line in help.lines() {
            assert!(line.chars().count() <= 80, "{page}: {line}");
        }
        let after = help.lines().skip_while(|line| !line.starts_with("Example") && *line != "Start here:").skip(1);
        let examples: Vec<&str> = after.take_while(|line| !line.is_empty()).collect();
        assert!(!examples.is_empty(), "{page} has no examples");
        let broken = examples.iter().find(|line| !line.starts_with("  washout "));
        assert!(broken.is_none(), "{page}: an example is broken in two: {broken:?}");
    }
    for command in ["clean", "names", "check", "survey", "learn", "undo", "test", "hook"] {
        assert!(help(&desk, &[command]).contains("Exit status: 0"), "{command} does not say how it ends");
    }
}

#[test]
fn shells_and_man_can_read_what_is_made_for_them() {
    let desk = TestDir::new();
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let script = desk.run(&["completions", shell]).status(0).silent_err().out();
        // The other two are scripts in which options have no dashes, or are in quotation marks.
        assert!(script.contains("up-to-rule") && script.contains("survey"), "{shell}");
    }
    desk.write("complete.bash", &desk.run(&["completions", "bash"]).out);
    let typed = "source complete.bash; COMP_WORDS=(washout su); COMP_CWORD=1; _washout washout su washout; echo ${COMPREPLY[@]}";
    let bash = Command::new("bash").args(["-c", typed]).current_dir(desk.path("")).output().expect("bash");
    assert_eq!(String::from_utf8_lossy(&bash.stdout), "survey\n", "{}", String::from_utf8_lossy(&bash.stderr));

    for command in COMMANDS {
        let page = desk.run(&["man", command]).status(0).silent_err().out();
        assert!(
            page.contains(&format!(".TH washout\\-{command} 1")) || page.contains(&format!(".TH washout-{command} 1")),
            "{page}"
        );
        let examples = page.split(".SH \"\\&EXAMPLE").nth(1).unwrap_or_else(|| panic!("{command}: {page}"));
        let lines =
            examples.split(".nf\n").nth(1).and_then(|rest| rest.split(".fi").next()).expect("lines that stay lines");
        assert!(lines.lines().all(|line| line.starts_with("\\&washout ")), "{command}: {lines}");
    }
    desk.run(&["man", "history", "prune"]).status(0);
    desk.run(&["man", "cleam"]).status(2).warns(&["did you mean `clean`"]);
}
