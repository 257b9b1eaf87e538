//! How long a key takes to be seen in `washout live`: the real program in a pseudo-terminal, on 1 MiB and twelve rules.
//!
//! `cargo run --profile dist -p washout-bench --bin live -- target/dist/washout`

use std::io::{Read, Write};
use std::sync::{Arc, Condvar, Mutex};
use std::time::{Duration, Instant};

use portable_pty::{CommandBuilder, PtySize, native_pty_system};
use washout_bench::{Dirt, log};

const ROWS: u16 = 50;
const COLUMNS: u16 = 160;

/// Rules of a log, and more to make them twelve.
const RULES: &str = r##"
[[rule]]
remove.class = ["control", "invisible"]
[[rule]]
replace = { class = "odd-space", with = " " }
[[rule]]
replace = { class = "double-quote", with = '"' }
[[rule]]
replace = { class = "single-quote", with = "'" }
[[rule]]
remove = { words = ["um", "uh", "er"], case = "ignore", gap = "mend" }
[[rule]]
replace = { pattern = '(\d{2}):(\d{2})', with = "$1.$2" }
[[rule]]
remove = { text = ["[sic]", "(draft)"] }
[[rule]]
remove.chars = "#~"
[[rule]]
replace = { text = "--", with = "-" }
[[rule]]
collapse = { class = "blank" }
[[rule]]
drop_lines = { empty = "extra" }
[[rule]]
trim.at = "end"
"##;

struct Screen {
    parser: Mutex<vt100::Parser>,
    is_new: Condvar,
}

impl Screen {
    /// Waits until this is seen; gives when.
    fn see(&self, is_so: impl Fn(&str) -> bool) -> Instant {
        let mut parser = self.parser.lock().expect("a screen");
        loop {
            if is_so(&parser.screen().contents()) {
                return Instant::now();
            }
            let (next, timeout) = self.is_new.wait_timeout(parser, Duration::from_secs(20)).expect("a screen");
            assert!(!timeout.timed_out(), "never seen:\n{}", next.screen().contents());
            parser = next;
        }
    }
}

fn main() {
    let program = std::env::args().nth(1).expect("the path of the program");
    let folder = tempfile::tempdir().expect("a folder");
    std::fs::write(folder.path().join("rules.wash.toml"), RULES).expect("a rule set");
    println!("1 MiB, 12 rules, {COLUMNS} x {ROWS}; milliseconds");
    println!("{:<24}{:>10}{:>10}{:>10}", "", "median", "95 %", "worst");
    for dirt in [Dirt::None, Dirt::Some, Dirt::All] {
        std::fs::write(folder.path().join("log.txt"), &log(1 << 20, dirt)[..1 << 20]).expect("a text");
        let size = PtySize { rows: ROWS, cols: COLUMNS, pixel_width: 0, pixel_height: 0 };
        let pair = native_pty_system().openpty(size).expect("a pseudo-terminal");
        let mut command = CommandBuilder::new(&program);
        command.args(["live", "-r", "rules.wash.toml", "log.txt"]);
        command.cwd(folder.path());
        command.env("TERM", "xterm-256color");
        command.env("WASHOUT_STATE", folder.path());
        let mut child = pair.slave.spawn_command(command).expect("the program");
        let screen =
            Arc::new(Screen { parser: Mutex::new(vt100::Parser::new(ROWS, COLUMNS, 0)), is_new: Condvar::new() });
        let theirs = Arc::clone(&screen);
        let mut output = pair.master.try_clone_reader().expect("what is sent");
        std::thread::spawn(move || {
            let mut buffer = vec![0; 64 << 10];
            while let Ok(len @ 1..) = output.read(&mut buffer) {
                theirs.parser.lock().expect("a screen").process(&buffer[..len]);
                theirs.is_new.notify_all();
            }
        });
        let mut keyboard = pair.master.take_writer().expect("a keyboard");
        screen.see(|text| text.contains("lines change"));
        let mut press =
            |keys: &str| keyboard.write_all(keys.as_bytes()).and_then(|()| keyboard.flush()).expect("a terminal");
        press("aremove.words = x");
        screen.see(|text| text.contains("remove words “x”"));
        let (mut echoes, mut results) = (Vec::new(), Vec::new());
        let mut word = "x".to_owned();
        for key in "abcdefghijklmnopqrstuvwxyz".chars().cycle().take(100) {
            // What a person does between two keys.
            std::thread::sleep(Duration::from_millis(60));
            word.push(key);
            let start = Instant::now();
            press(key.encode_utf8(&mut [0; 4]));
            let line = format!("rule: remove.words = {word}");
            echoes.push(screen.see(|text| text.contains(&line)) - start);
            // The list of rules shows the word once the text has gone through them.
            let caption = format!("remove words “{word}”");
            results.push(screen.see(|text| text.contains(&caption)) - start);
        }
        for (what, mut times) in [("key", echoes), ("result", results)] {
            times.sort();
            let at = |part: usize| times[(times.len() - 1) * part / 100].as_secs_f64() * 1000.0;
            println!("{:<24}{:>10.1}{:>10.1}{:>10.1}", format!("{dirt:?} dirty, {what}"), at(50), at(95), at(100));
        }
        press("\x1b");
        std::thread::sleep(Duration::from_millis(100));
        press("q");
        child.wait().expect("it ended");
    }
}
