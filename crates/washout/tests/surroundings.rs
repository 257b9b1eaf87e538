//! Every command where the surroundings are not as usual: no home folder, no screen, output to a full disk, streams that
//! are closed, a working folder that is gone. It ends with a status it knows, without a panic, and the files stay.

mod support;

use std::fs::File;
use std::os::unix::process::ExitStatusExt;
use std::process::{Command, Output, Stdio};

use support::TestDir;

const RULES: [&str; 2] = ["-r", "a.wash.toml"];

/// Command lines that look and change nothing, each with its status.
const LOOKING: &[(&[&str], i32)] = &[
    (&["clean", "log.txt"], 0),
    (&["clean", "log.txt", "--json"], 0),
    (&["clean", "log.txt", "--stdout"], 0),
    (&["clean", "log.txt", "--patch"], 0),
    (&["clean", "stores.csv", "--all"], 0),
    (&["check", "log.txt"], 1),
    (&["check", "log.txt", "--format", "sarif"], 1),
    (&["names", "."], 0),
    (&["survey", "."], 0),
    (&["survey", "stores.csv", "--json"], 0),
    (&["spellout", "log.txt"], 0),
    (&["trace", "log.txt"], 0),
    (&["explain"], 0),
    (&["explain", "--json"], 0),
    (&["test", "a.wash.toml"], 0),
    (&["stock"], 0),
    (&["stock", "timestamp"], 0),
    (&["schema"], 0),
    (&["man"], 0),
    (&["completions", "bash"], 0),
    (&["learn", "--pair", "# fog", "fog"], 0),
    (&["--help"], 0),
    (&["clean", "--help"], 0),
    (&["--version"], 0),
];

/// Of these the rules are a part of the command line.
const WITH_RULES: [&str; 5] = ["clean", "check", "names", "trace", "explain"];

fn desk() -> TestDir {
    TestDir::with(&[
        ("a.wash.toml", "[[rule]]\nremove.chars = '#'\n[[example]]\ngiven = '#'\ngives = ''\n"),
        ("log.txt", "# fog\nclear\u{200B}\r\n"),
        ("stores.csv", "Item,Keeper\noil #,Vey\n"),
        ("late #.txt", ""),
    ])
}

/// The command line, ready to run where nothing comes in.
fn command(desk: &TestDir, args: &[&str]) -> Command {
    let mut command = desk.command();
    command.args(args).stdin(Stdio::null());
    if WITH_RULES.contains(&args[0]) && !args.contains(&"--help") {
        command.args(RULES);
    }
    command
}

/// Runs it, and sees to it that it ends well: by itself, without a panic, and with the files as they were.
fn output(desk: &TestDir, mut command: Command, about: &str) -> Output {
    let before: Vec<(String, Vec<u8>)> = contents(desk);
    let output = command.output().expect("the built program");
    let said = String::from_utf8_lossy(&output.stderr);
    let shown = format!("{about}\n{command:?}\n{:?}\n{said}", output.status);
    assert_eq!(output.status.signal(), None, "{shown}");
    assert!(!said.contains("panicked"), "{shown}");
    assert_eq!(contents(desk), before, "{shown}");
    output
}

fn contents(desk: &TestDir) -> Vec<(String, Vec<u8>)> {
    let read = |path: String| (path.clone(), std::fs::read(desk.path(&path)).expect("a file"));
    desk.files().into_iter().map(read).collect()
}

/// Variables of the environment; `None`: it is not set.
type Variables = &'static [(&'static str, Option<&'static str>)];

#[test]
fn looking_needs_no_home_no_screen_and_no_place_for_temporary_files() {
    let desk = desk();
    let surroundings: &[(&str, Variables)] = &[
        ("no home", &[("HOME", None), ("WASHOUT_STATE", None), ("XDG_STATE_HOME", None), ("XDG_CONFIG_HOME", None)]),
        ("a home that is not there", &[("HOME", Some("/nowhere")), ("WASHOUT_STATE", Some("/nowhere/state"))]),
        ("a state that is a file", &[("WASHOUT_STATE", Some("/dev/null"))]),
        ("no temporary folder", &[("TMPDIR", Some("/nowhere"))]),
        ("a dumb terminal", &[("TERM", Some("dumb")), ("COLUMNS", None), ("LINES", None)]),
        ("no terminal", &[("TERM", None), ("COLUMNS", Some("")), ("LINES", Some("x"))]),
        ("no columns", &[("COLUMNS", Some("0")), ("LINES", Some("0"))]),
        ("one column", &[("COLUMNS", Some("1")), ("LINES", Some("1"))]),
        ("columns without end", &[("COLUMNS", Some("99999999999999999999")), ("LINES", Some("65536"))]),
        ("no words of any language", &[("LC_ALL", Some("C")), ("LANG", None)]),
        ("an odd time zone", &[("TZ", Some("Nowhere/Marrow_Point"))]),
        ("threads without a number", &[("RAYON_NUM_THREADS", Some("many"))]),
        ("no path to programs", &[("PATH", Some(""))]),
    ];
    for (about, variables) in surroundings {
        for (args, status) in LOOKING {
            let mut command = command(&desk, args);
            for (name, value) in *variables {
                match value {
                    Some(value) => command.env(name, value),
                    None => command.env_remove(name),
                };
            }
            let output = output(&desk, command, about);
            assert_eq!(output.status.code(), Some(*status), "{about}: {args:?}\n{output:?}");
            assert!(!output.stdout.is_empty(), "{about}: {args:?} says nothing");
        }
    }
}

#[test]
fn an_output_that_cannot_be_written_is_said_and_one_that_nobody_reads_is_no_error() {
    let desk = desk();
    for (args, usual) in LOOKING {
        let mut full = command(&desk, args);
        full.stdout(File::options().write(true).open("/dev/full").expect("the device that is always full"));
        let ended = output(&desk, full, "a full disk");
        let said = String::from_utf8_lossy(&ended.stderr);
        assert_eq!(ended.status.code(), Some(3), "{args:?}\n{said}");
        assert!(said.contains("no space left"), "{args:?}\n{said}");
        // A reader that has read enough.
        let (reader, writer) = std::io::pipe().expect("a pipe");
        drop(reader);
        let mut closed = command(&desk, args);
        closed.stdout(writer);
        let ended = output(&desk, closed, "a closed pipe");
        assert!([Some(0), Some(*usual)].contains(&ended.status.code()), "{args:?}\n{ended:?}");
        assert!(ended.stderr.is_empty() || *usual == 1 || args[0] == "learn", "{args:?}\n{ended:?}");
        // No one to complain to.
        let mut mute = command(&desk, args);
        mute.stderr(File::options().write(true).open("/dev/full").expect("the device that is always full"));
        let ended = output(&desk, mute, "a full disk for what is wrong");
        assert!(ended.status.code().is_some_and(|status| status == *usual || status == 3), "{args:?}\n{ended:?}");
    }
}

#[test]
fn streams_that_are_closed_or_folders_that_are_gone_end_in_words() {
    let desk = desk();
    let program = env!("CARGO_BIN_EXE_washout");
    for (args, _) in LOOKING {
        let rules = if WITH_RULES.contains(&args[0]) && !args.contains(&"--help") { RULES.as_slice() } else { &[] };
        let line: Vec<String> = args.iter().chain(rules).map(|word| format!("'{word}'")).collect();
        let line = line.join(" ");
        for (about, script) in [
            ("no standard input", format!("exec '{program}' {line} <&-")),
            ("no standard output", format!("exec '{program}' {line} >&-")),
            ("no standard error", format!("exec '{program}' {line} 2>&-")),
            ("no streams", format!("exec '{program}' {line} <&- >&- 2>&-")),
            ("no working folder", format!("mkdir gone && cd gone && rmdir ../gone && exec '{program}' {line}")),
        ] {
            let mut shell = desk.command_of("sh");
            shell.args(["-c", &script]);
            let ended = output(&desk, shell, about);
            assert!(
                ended.status.code().is_some_and(|status| (0..=3).contains(&status)),
                "{about}: {args:?}\n{ended:?}"
            );
        }
    }
}
