//! The program in a pseudo-terminal, and what is to be seen there.

use std::io::{Read, Write};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use portable_pty::{Child, CommandBuilder, MasterPty, PtySize, native_pty_system};

use super::TestDir;

/// How long anything may take to be seen.
const LONG: Duration = Duration::from_secs(30);

/// A terminal in which the program runs.
pub(crate) struct TestTerminal {
    master: Box<dyn MasterPty + Send>,
    keyboard: Box<dyn Write + Send>,
    pub child: Box<dyn Child + Send + Sync>,
    _ends: EndsWithTest,
    screen: Arc<Mutex<vt100::Parser>>,
    /// Everything that was sent to the terminal.
    sent: Arc<Mutex<Vec<u8>>>,
}

/// Ends the program if the test fails.
struct EndsWithTest(Box<dyn portable_pty::ChildKiller + Send + Sync>);

impl Drop for EndsWithTest {
    fn drop(&mut self) {
        if std::thread::panicking() {
            let _ = self.0.kill();
        }
    }
}

fn size(columns: u16, rows: u16) -> PtySize {
    PtySize { rows, cols: columns, pixel_width: 0, pixel_height: 0 }
}

impl TestTerminal {
    /// Starts the program there.
    pub(crate) fn start(desk: &TestDir, (columns, rows): (u16, u16), args: &[&str]) -> Self {
        Self::start_with(desk, (columns, rows), args, &[])
    }

    /// The same with these variables of the environment.
    pub(crate) fn start_with(
        desk: &TestDir,
        (columns, rows): (u16, u16),
        args: &[&str],
        variables: &[(&str, &str)],
    ) -> Self {
        Self::start_program(desk, (columns, rows), env!("CARGO_BIN_EXE_washout"), args, variables)
    }

    /// The same with another program.
    pub(crate) fn start_program(
        desk: &TestDir,
        (columns, rows): (u16, u16),
        program: &str,
        args: &[&str],
        variables: &[(&str, &str)],
    ) -> Self {
        let pair = native_pty_system().openpty(size(columns, rows)).expect("a pseudo-terminal");
        let mut command = CommandBuilder::new(program);
        command.args(args);
        command.cwd(desk.path(""));
        command.env("TERM", "xterm-256color");
        command.env("WASHOUT_STATE", desk.state.path());
        ["NO_COLOR", "CLICOLOR", "CLICOLOR_FORCE", "COLUMNS", "LINES"].iter().for_each(|name| command.env_remove(name));
        variables.iter().for_each(|(name, value)| command.env(name, value));
        let child = pair.slave.spawn_command(command).expect("the built program");
        let mut output = pair.master.try_clone_reader().expect("what is sent");
        let keyboard = pair.master.take_writer().expect("a keyboard");
        let screen = Arc::new(Mutex::new(vt100::Parser::new(rows, columns, 0)));
        let sent = Arc::new(Mutex::new(Vec::new()));
        let (parser, all) = (Arc::clone(&screen), Arc::clone(&sent));
        std::thread::spawn(move || {
            let mut buffer = vec![0; 64 << 10];
            while let Ok(len @ 1..) = output.read(&mut buffer) {
                parser.lock().expect("a screen").process(&buffer[..len]);
                all.lock().expect("what was sent").extend_from_slice(&buffer[..len]);
            }
        });
        let ends = EndsWithTest(child.clone_killer());
        Self { master: pair.master, keyboard, child, _ends: ends, screen, sent }
    }

    /// Starts the program in a terminal that goes away as soon as this is seen there; gives the program.
    pub(crate) fn start_in_vanishing(desk: &TestDir, args: &[&str], seen: &str) -> Box<dyn Child + Send + Sync> {
        let pair = native_pty_system().openpty(size(100, 20)).expect("a pseudo-terminal");
        let mut command = CommandBuilder::new(env!("CARGO_BIN_EXE_washout"));
        command.args(args);
        command.cwd(desk.path(""));
        command.env("TERM", "xterm-256color");
        let child = pair.slave.spawn_command(command).expect("the built program");
        drop(pair.slave);
        let mut output = pair.master.try_clone_reader().expect("what is sent");
        let (mut screen, mut buffer) = (vt100::Parser::new(20, 100, 0), [0; 4096]);
        while !screen.screen().contents().contains(seen) {
            let len = output.read(&mut buffer).expect("a terminal");
            screen.process(&buffer[..len]);
        }
        child
    }

    /// What is to be seen.
    pub(crate) fn text(&self) -> String {
        self.screen.lock().expect("a screen").screen().contents()
    }

    pub(crate) fn shows_cursor(&self) -> bool {
        !self.screen.lock().expect("a screen").screen().hide_cursor()
    }

    /// Everything that was sent to the terminal so far.
    pub(crate) fn sent(&self) -> String {
        String::from_utf8_lossy(&self.sent.lock().expect("what was sent")).into_owned()
    }

    /// Presses keys.
    pub(crate) fn press(&mut self, keys: &str) {
        self.keyboard.write_all(keys.as_bytes()).and_then(|()| self.keyboard.flush()).expect("a terminal");
    }

    pub(crate) fn resize(&self, columns: u16, rows: u16) {
        self.screen.lock().expect("a screen").screen_mut().set_size(rows, columns);
        self.master.resize(size(columns, rows)).expect("another size");
    }

    /// Waits until this is to be seen; gives the screen.
    #[track_caller]
    pub(crate) fn see(&self, text: &str) -> String {
        self.see_that(text, |screen| screen.contains(text))
    }

    /// Waits until what is to be seen is so.
    #[track_caller]
    pub(crate) fn see_that(&self, what: &str, is_so: impl Fn(&str) -> bool) -> String {
        let start = Instant::now();
        loop {
            let screen = self.text();
            if is_so(&screen) {
                return screen;
            }
            assert!(start.elapsed() < LONG, "never seen: {what}\n{screen}");
            std::thread::sleep(Duration::from_millis(5));
        }
    }

    /// How the terminal is set: its modes, as the system has them.
    pub(crate) fn modes(&self) -> String {
        format!(
            "{:?}",
            self.master.get_termios().map(|modes| (modes.input_flags, modes.local_flags, modes.output_flags))
        )
    }

    /// Waits for the program to end; gives its exit status.
    #[track_caller]
    pub(crate) fn end(&mut self) -> u32 {
        let start = Instant::now();
        loop {
            if let Some(status) = self.child.try_wait().expect("a child") {
                // What it sent last is on its way.
                std::thread::sleep(Duration::from_millis(100));
                return status.exit_code();
            }
            assert!(start.elapsed() < LONG, "it does not end:\n{}", self.text());
            std::thread::sleep(Duration::from_millis(5));
        }
    }
}
