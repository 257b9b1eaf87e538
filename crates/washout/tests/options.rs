//! Every option of every command, with values that mean nothing: an answer in words, and nothing changes.

mod support;

use std::io::Read;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use support::TestDir;

/// How long a command line that is wrong may be thought about.
const LONG: Duration = Duration::from_secs(20);

/// Values that hardly any option takes. Those that take any text take them too, and then the command does its work.
const ODD: [&str; 5] = ["", "-1", "99999999999999999999999", "no\u{1b}such/\u{2028}thing", "[[rule]]"];

/// Commands that go on until they are told to end, and what makes them end at once: a file that is not there.
const STAYING: [&str; 3] = ["live", "watch", "lsp"];

fn desk() -> TestDir {
    TestDir::with(&[
        ("a.wash.toml", "[[rule]]\nremove.chars = '#'\n[[example]]\ngiven = '#'\ngives = ''\n"),
        ("log.txt", "# fog\n"),
        ("stores.csv", "Item,Keeper\noil #,Vey\n"),
    ])
}

/// The commands, and the options of each with whether they take a value, as its help lists them.
fn commands(desk: &TestDir) -> Vec<(String, Vec<(String, bool)>)> {
    let help = |args: &[&str]| desk.run(args).status(0).out();
    let all = help(&["--help"]);
    let names: Vec<&str> = all
        .lines()
        .filter_map(|line| line.strip_prefix("  "))
        .filter(|line| line.starts_with(|first: char| first.is_ascii_lowercase()) && !line.starts_with("washout "))
        .filter_map(|line| line.split_once("  ").map(|(name, _)| name.trim()))
        .filter(|name| *name != "help")
        .collect();
    assert!(names.contains(&"clean") && names.contains(&"demo"), "{names:?}");
    let options = |name: &str| {
        let text = help(&[name, "--help"]);
        let lines = text.lines().map(str::trim_start).filter(|line| line.starts_with('-'));
        let option = |line: &str| {
            let long = line.split([' ', ',', '=', '[']).find(|word| word.starts_with("--"))?;
            let behind = &line[line.find(long)? + long.len()..];
            Some((long.to_owned(), behind.trim_start_matches([' ', '=', '[']).starts_with('<')))
        };
        lines.filter_map(option).collect::<Vec<_>>()
    };
    names.into_iter().map(|name| (name.to_owned(), options(name))).collect()
}

/// Runs a command line that must end soon, without a panic; gives its exit status and what it says.
fn answer(mut command: Command, args: &[String]) -> (i32, String) {
    let mut child = command
        .args(args)
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the built program");
    let start = Instant::now();
    let status = loop {
        if let Some(status) = child.try_wait().expect("a child") {
            break status;
        }
        if start.elapsed() > LONG {
            child.kill().expect("a child");
            panic!("{args:?} does not end");
        }
        std::thread::sleep(Duration::from_millis(2));
    };
    let mut said = Vec::new();
    child.stderr.take().expect("a pipe").read_to_end(&mut said).expect("what it says");
    let said = String::from_utf8(said).unwrap_or_else(|_| panic!("{args:?} does not say it in UTF-8"));
    (status.code().unwrap_or_else(|| panic!("{args:?} ended by a signal\n{said}")), said)
}

#[test]
fn odd_values_are_answered_in_words_and_change_nothing() {
    let desk = desk();
    let contents = |desk: &TestDir| {
        let kept = ["a.wash.toml", "log.txt", "stores.csv"];
        kept.map(|file| desk.read(file))
    };
    let before = contents(&desk);
    let commands = commands(&desk);
    let tried = commands.iter().flat_map(|(name, options)| {
        let with_value = options.iter().filter(|(_, takes_value)| *takes_value);
        with_value.flat_map(move |(option, _)| ODD.map(|odd| (name, format!("{option}={odd}"))))
    });
    let tried: Vec<(&String, String)> = tried.collect();
    assert!(tried.len() > 400, "the options were found: {}", tried.len());
    let next = std::sync::atomic::AtomicUsize::new(0);
    let work = || {
        while let Some((name, option)) = tried.get(next.fetch_add(1, std::sync::atomic::Ordering::Relaxed)) {
            let mut args = vec![(*name).clone(), option.clone()];
            if STAYING.contains(&name.as_str()) {
                args.push("not-there.txt".to_owned());
            }
            let (status, said) = answer(desk.command(), &args);
            assert!((0..=3).contains(&status), "{args:?}: {status}\n{said}");
            assert!(!said.contains("panicked"), "{args:?}\n{said}");
            assert!(status == 0 || status == 1 || !said.trim().is_empty(), "{args:?}: {status} without a word");
            // What was typed must not drive the terminal.
            assert!(!said.replace("\u{1b}[", "").contains('\u{1b}'), "{args:?}\n{said:?}");
        }
    };
    std::thread::scope(|scope| (0..4).for_each(|_| drop(scope.spawn(work))));
    assert_eq!(contents(&desk), before);
}

#[test]
fn an_option_without_its_value_or_with_one_too_many_is_refused() {
    let desk = desk();
    for (name, options) in commands(&desk) {
        for (option, takes_value) in
            options.into_iter().filter(|(option, _)| !["--help", "--version"].contains(&&option[..]))
        {
            let args =
                if takes_value { vec![name.clone(), option] } else { vec![name.clone(), format!("{option}=value")] };
            let (status, said) = answer(desk.command(), &args);
            assert_eq!(status, 2, "{args:?}\n{said}");
            assert!(said.contains(&args[1][..args[1].find('=').unwrap_or(args[1].len())]), "{args:?}\n{said}");
        }
    }
}
