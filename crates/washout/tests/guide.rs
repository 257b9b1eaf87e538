//! Pages that show commands: what they type is run on the demo data, and what they show is what comes out.

mod support;

use std::process::Command;

use support::TestDir;

/// A reader of the guide: a folder, and a shell in which `washout` is the built program.
struct Reader {
    desk: TestDir,
}

impl Reader {
    fn new() -> Self {
        let desk = TestDir::new();
        std::fs::create_dir(desk.path("bin")).expect("a folder");
        std::os::unix::fs::symlink(env!("CARGO_BIN_EXE_washout"), desk.path("bin/washout")).expect("a link");
        Self { desk }
    }

    /// Runs one line as a shell does. Gives what a terminal would show, with the folder, the time and the names that differ from
    /// run to run as the guide has them.
    fn types(&self, line: &str) -> String {
        let papers = self.desk.path("papers");
        let folder = if papers.exists() { papers.clone() } else { self.desk.path("") };
        let repository = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
        let path = std::env::var("PATH").unwrap_or_default();
        let mut shell = Command::new("bash");
        shell
            .args(["-c", &format!("{{ {}\n}} 2>&1", line.replace("/path/to/washout", repository))])
            .current_dir(folder);
        shell
            .env("PATH", format!("{}:{path}", self.desk.path("bin").display()))
            .env("COLUMNS", "80")
            .env("LINES", "60");
        shell.env("WASHOUT_STATE", self.desk.state.path()).env("HOME", self.desk.path(""));
        for (name, value) in [("AUTHOR_NAME", "Wren"), ("AUTHOR_EMAIL", "wren@example.org")] {
            shell.env(format!("GIT_{name}"), value).env(format!("GIT_{}", name.replace("AUTHOR", "COMMITTER")), value);
        }
        shell.env_remove("NO_COLOR").env_remove("CLICOLOR_FORCE").env_remove("CLICOLOR");
        let output = shell.output().expect("bash");
        let text = String::from_utf8(output.stdout).expect("UTF-8");
        let text = text.replace(&*papers.to_string_lossy(), "/home/wren/papers");
        text.split_inclusive('\n').map(without_time).collect()
    }
}

/// A line that names a run, with the time of the guide.
fn without_time(line: &str) -> String {
    match line.strip_prefix("Run ").and_then(|rest| rest.split_once(", in ")) {
        Some((run, rest)) => {
            let number = run.split(',').next().unwrap_or_default();
            format!("Run {number}, 2026-11-30 08:12, in {rest}")
        }
        None => line.to_owned(),
    }
}

/// The guide with what its commands show now. A block of TOML whose opening names a file is that file.
fn followed(guide: &str) -> String {
    let reader = Reader::new();
    let mut parts = guide.split("```");
    let mut shown = parts.next().unwrap_or_default().to_owned();
    while let Some(block) = parts.next() {
        let (opening, body) = block.split_once('\n').expect("a block has lines");
        let body = match opening.split_once(' ') {
            Some(("toml", name)) => {
                reader.desk.write(&format!("papers/{name}"), body.as_bytes());
                body.to_owned()
            }
            None if opening == "console" => {
                let commands = body.lines().filter_map(|line| line.strip_prefix("$ "));
                commands.map(|command| ["$ ", command, "\n", &reader.types(command)].concat()).collect()
            }
            _ => body.to_owned(),
        };
        shown += &["```", opening, "\n", &body, "```", parts.next().unwrap_or_default()].concat();
    }
    shown
}

/// To write a page again after a change of the program: `WASHOUT_WRITE_GUIDE=1 cargo test -p washout --test guide`.
fn check(path: &str) {
    if Command::new("git").arg("--version").output().is_err() {
        return support::cannot_run("git is not installed");
    }
    let path = format!("{}/{path}", env!("CARGO_MANIFEST_DIR"));
    let page = std::fs::read_to_string(&path).expect("the page");
    let now = followed(&page);
    if std::env::var_os("WASHOUT_WRITE_GUIDE").is_some() {
        std::fs::write(&path, &now).expect("the page");
        return;
    }
    assert!(page.matches("\n$ ").count() > 10, "{path} types hardly anything");
    let difference = page.lines().zip(now.lines()).find(|(written, real)| written != real);
    assert!(page == now, "{path} is out of date; WASHOUT_WRITE_GUIDE=1 writes it. First difference: {difference:#?}");
}

#[test]
fn what_the_guide_shows_is_what_comes_out() {
    check("../../docs/guide.md");
}

#[test]
fn what_commands_print_is_what_was_read_and_found_good() {
    check("tests/data/shown.md");
}
