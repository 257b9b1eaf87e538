//! Runs the built program in a temporary folder.
#![allow(dead_code, unreachable_pub, reason = "each test file uses its part of this")]

use std::collections::BTreeMap;
use std::fs;
use std::io::Write as _;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// A temporary folder with files in it, and the program run there.
pub struct TestDir {
    folder: tempfile::TempDir,
    /// Where the history is: beside the files, not among them.
    pub state: tempfile::TempDir,
}

/// Skips a test that cannot run on this machine: only if `WASHOUT_ALLOW_SKIPS` is 1, else the test fails.
#[track_caller]
pub fn cannot_run(why: &str) {
    let allowed = std::env::var_os("WASHOUT_ALLOW_SKIPS").is_some_and(|value| value == "1");
    assert!(allowed, "this test cannot run: {why}; to skip such tests, set WASHOUT_ALLOW_SKIPS=1");
    eprintln!("skipped: {why}");
}

/// Why system calls cannot be watched.
pub const NO_STRACE: &str = "strace is not installed, or may not trace programs";

/// How a run ended.
#[derive(Debug)]
pub struct Ran {
    pub command: String,
    pub status: i32,
    pub out: Vec<u8>,
    pub err: String,
}

impl TestDir {
    pub fn new() -> Self {
        let folder = || tempfile::tempdir().expect("a temporary folder");
        Self { folder: folder(), state: folder() }
    }

    /// A desk with these files.
    pub fn with(files: &[(&str, &str)]) -> Self {
        let desk = Self::new();
        files.iter().for_each(|(path, text)| desk.write(path, text.as_bytes()));
        desk
    }

    pub fn path(&self, path: &str) -> PathBuf {
        self.folder.path().join(path)
    }

    pub fn write(&self, path: &str, bytes: &[u8]) {
        let path = self.path(path);
        fs::create_dir_all(path.parent().expect("a folder")).expect("a folder for the file");
        fs::write(path, bytes).expect("a written file");
    }

    /// Writes a large file without holding it in memory.
    pub fn write_parts(&self, path: &str, parts: impl Iterator<Item = String>) {
        let mut file = std::io::BufWriter::new(fs::File::create(self.path(path)).expect("a new file"));
        parts.for_each(|part| file.write_all(part.as_bytes()).expect("a written file"));
    }

    pub fn read(&self, path: &str) -> String {
        let bytes = fs::read(self.path(path)).unwrap_or_else(|error| panic!("{path}: {error}"));
        String::from_utf8(bytes).expect("UTF-8")
    }

    /// How often the program makes each of these system calls, those it does not make left out; `None` where it cannot be
    /// watched: that takes `strace`.
    pub fn calls(&self, args: &[&str], calls: &[&'static str]) -> Option<BTreeMap<&'static str, usize>> {
        self.calls_with(args, Stdio::null(), calls)
    }

    /// The same with this on standard input.
    pub fn calls_with(
        &self,
        args: &[&str],
        input: Stdio,
        calls: &[&'static str],
    ) -> Option<BTreeMap<&'static str, usize>> {
        let log = self.state.path().join("calls");
        let mut command = Command::new("strace");
        command.args(["-f", "-qq", "-o"]).arg(&log).args(["-e", &format!("trace={}", calls.join(","))]);
        command
            .arg(env!("CARGO_BIN_EXE_washout"))
            .args(args)
            .current_dir(self.path(""))
            .env("WASHOUT_STATE", self.state.path());
        command.stdin(input).stdout(Stdio::null()).stderr(Stdio::null());
        if !command.status().ok()?.success() {
            return None;
        }
        let log = fs::read_to_string(log).ok()?;
        let made = |call: &&str| log.lines().filter(|line| line.contains(&format!(" {call}("))).count();
        Some(calls.iter().map(|call| (*call, made(call))).filter(|(_, made)| *made > 0).collect())
    }

    /// The most memory the program has at a time, in bytes; what it prints is thrown away. What the test itself holds then
    /// counts too, if it is more.
    pub fn peak_memory(&self, args: &[&str]) -> u64 {
        use wait4::Wait4;
        let mut command = self.command();
        let mut child = command.args(args).stdout(Stdio::null()).spawn().expect("the built program");
        let ended = child.wait4().expect("the program ended");
        // Status 1 says that something was found.
        assert!(ended.status.code().is_some_and(|code| code < 2), "{args:?}: {}", ended.status);
        ended.rusage.maxrss
    }

    /// Every file on the desk, hidden ones too, in order.
    pub fn files(&self) -> Vec<String> {
        let mut found = Vec::new();
        list(self.folder.path(), self.folder.path(), &mut found);
        found.sort();
        found
    }

    pub fn command(&self) -> Command {
        self.command_of(env!("CARGO_BIN_EXE_washout"))
    }

    pub fn command_of(&self, program: impl AsRef<Path>) -> Command {
        let mut command = Command::new(program.as_ref());
        command.current_dir(self.folder.path()).env("COLUMNS", "100").env("LINES", "60");
        command.env("WASHOUT_STATE", self.state.path());
        command.env_remove("NO_COLOR").env_remove("CLICOLOR_FORCE").env_remove("CLICOLOR");
        command
    }

    /// Runs the program with nothing on standard input.
    pub fn run(&self, args: &[&str]) -> Ran {
        self.run_with(args, b"")
    }

    /// Runs the program as the owner of all files whom permissions bind: root, who may do everything, steps down.
    pub fn run_bound(&self, args: &[&str]) -> Ran {
        use std::os::unix::fs::{PermissionsExt, chown};
        use std::os::unix::process::CommandExt;
        const NOBODY: u32 = 65534;
        let place = tempfile::tempdir().expect("a temporary folder");
        let program = place.path().join("washout");
        // By another process: whatever another test starts meanwhile would inherit a file that this one writes, and then it
        // cannot be run.
        let copied = Command::new("cp").arg(env!("CARGO_BIN_EXE_washout")).arg(&program).status();
        assert!(copied.expect("cp").success(), "a copy of the program");
        fs::set_permissions(place.path(), fs::Permissions::from_mode(0o755)).expect("a folder of ours");
        let mut command = self.command_of(&program);
        if rustix::process::geteuid().is_root() {
            for root in [self.folder.path(), self.state.path()] {
                let mut paths = vec![root.to_owned()];
                while let Some(path) = paths.pop() {
                    chown(&path, Some(NOBODY), Some(NOBODY)).expect("another owner");
                    let below = fs::read_dir(&path).into_iter().flatten().flatten();
                    paths.extend(below.map(|entry| entry.path()));
                }
            }
            command.uid(NOBODY).gid(NOBODY);
        }
        Self::ran(command, args, b"")
    }

    pub fn run_with(&self, args: &[&str], input: &[u8]) -> Ran {
        Self::ran(self.command(), args, input)
    }

    fn ran(mut command: Command, args: &[&str], input: &[u8]) -> Ran {
        command.args(args).stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
        let mut child = command.spawn().expect("the built program");
        let mut stdin = child.stdin.take().expect("a pipe");
        let input = input.to_vec();
        // A program that ends early closes its end: that is for the test to judge by what came out.
        let feeding = std::thread::spawn(move || drop(stdin.write_all(&input)));
        let output = child.wait_with_output().expect("the program ended");
        feeding.join().expect("the input was written");
        Ran {
            command: format!("washout {}", args.join(" ")),
            status: output.status.code().unwrap_or(-1),
            out: output.stdout,
            err: String::from_utf8_lossy(&output.stderr).into_owned(),
        }
    }
}

fn list(root: &Path, folder: &Path, found: &mut Vec<String>) {
    for entry in fs::read_dir(folder).expect("a folder") {
        let path = entry.expect("an entry").path();
        if path.is_dir() {
            list(root, &path, found);
        } else {
            found.push(path.strip_prefix(root).expect("below the root").to_string_lossy().into_owned());
        }
    }
}

impl Ran {
    pub fn out(&self) -> String {
        String::from_utf8_lossy(&self.out).into_owned()
    }

    /// Asserts the exit status; shows everything if it is another.
    #[track_caller]
    pub fn status(self, status: i32) -> Self {
        assert_eq!(self.status, status, "{self}");
        self
    }

    /// Asserts that standard output holds each of these.
    #[track_caller]
    pub fn says(self, parts: &[&str]) -> Self {
        let out = self.out();
        parts.iter().for_each(|part| assert!(out.contains(part), "no {part:?} in\n{self}"));
        self
    }

    /// Asserts that standard error holds each of these.
    #[track_caller]
    pub fn warns(self, parts: &[&str]) -> Self {
        parts.iter().for_each(|part| assert!(self.err.contains(part), "no {part:?} in\n{self}"));
        self
    }

    #[track_caller]
    pub fn silent_err(self) -> Self {
        assert_eq!(self.err, "", "{self}");
        self
    }
}

impl std::fmt::Display for Ran {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(formatter, "$ {}\nstatus {}\n--- out\n{}\n--- err\n{}", self.command, self.status, self.out(), self.err)
    }
}
