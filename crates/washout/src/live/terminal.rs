//! The terminal: taken for the view, and given back as it was, whatever ends it.

use std::io::{self, IsTerminal, Write};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Duration;

use crossterm::event::{DisableBracketedPaste, DisableMouseCapture, EnableBracketedPaste, EnableMouseCapture};
use crossterm::terminal::{
    Clear, ClearType, EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode,
};
use crossterm::{cursor, execute};
use ratatui_core::terminal::Terminal;
use signal_hook::consts::{SIGCONT, SIGHUP, SIGINT, SIGTERM, SIGTSTP};

use super::backend::TerminalBackend;
use super::guard::TerminalGuard;
use crate::exit::Trouble;

/// Signals that were received.
pub(super) struct Signals {
    end: Arc<AtomicBool>,
    stop: Arc<AtomicBool>,
    go_on: Arc<AtomicBool>,
}

impl Signals {
    fn register() -> io::Result<Self> {
        let signals = Self { end: Arc::default(), stop: Arc::default(), go_on: Arc::default() };
        for signal in [SIGTERM, SIGHUP, SIGINT] {
            signal_hook::flag::register(signal, Arc::clone(&signals.end))?;
        }
        signal_hook::flag::register(SIGTSTP, Arc::clone(&signals.stop))?;
        signal_hook::flag::register(SIGCONT, Arc::clone(&signals.go_on))?;
        Ok(signals)
    }

    /// A request to end.
    pub(super) fn end(&self) -> bool {
        self.end.load(Ordering::Relaxed)
    }

    /// A request to stop for a while.
    pub(super) fn stop(&self) -> bool {
        self.stop.swap(false, Ordering::Relaxed)
    }

    /// The program was stopped without a way to say so, and goes on.
    pub(super) fn go_on(&self) -> bool {
        self.go_on.swap(false, Ordering::Relaxed)
    }
}

/// How often the terminal is looked at, and how long the view has to end by itself once it is gone.
const WATCH: Duration = Duration::from_millis(200);

/// Ends the program once its terminal is gone: whoever waits for keys then may wait for ever.
fn watch_terminal(end: Arc<AtomicBool>) {
    std::thread::spawn(move || {
        loop {
            std::thread::sleep(WATCH);
            if end.load(Ordering::Relaxed) || !io::stdout().is_terminal() {
                end.store(true, Ordering::Relaxed);
                std::thread::sleep(WATCH);
                give_back();
                std::process::exit(0);
            }
        }
    });
}

/// The screen of the view. The terminal is as it was once this is gone.
pub(super) struct Screen {
    pub(super) terminal: Terminal<TerminalBackend>,
    pub(super) signals: Signals,
    /// Where it cannot be started, all but a kill is taken care of.
    _guard: Option<TerminalGuard>,
}

impl Screen {
    pub(super) fn open() -> Result<Self, Trouble> {
        if !io::stdout().is_terminal() || std::env::var_os("TERM").is_some_and(|term| term == "dumb") {
            return Err(Trouble::Usage(
                "live needs a terminal that can show a full screen\nTo print the changes: the same with `clean`"
                    .to_owned(),
            ));
        }
        // A panic on any thread gives the terminal back before it says anything.
        let report = std::panic::take_hook();
        std::panic::set_hook(Box::new(move |panic| {
            give_back();
            report(panic);
        }));
        let signals = Signals::register().map_err(Trouble::Output)?;
        let guard = TerminalGuard::start().ok();
        let taken = take().and_then(|()| Terminal::new(TerminalBackend(io::stdout())));
        match taken {
            Ok(terminal) => {
                watch_terminal(Arc::clone(&signals.end));
                Ok(Self { terminal, signals, _guard: guard })
            }
            Err(error) => {
                give_back();
                Err(Trouble::Output(error))
            }
        }
    }

    /// Gives the terminal away for as long as this takes.
    pub(super) fn aside<T>(&mut self, work: impl FnOnce() -> T) -> io::Result<T> {
        give_back();
        let done = work();
        self.take_again()?;
        Ok(done)
    }

    /// Stops the program until it is continued, as Ctrl-Z does.
    pub(super) fn suspend(&mut self) -> io::Result<()> {
        self.aside(|| signal_hook::low_level::emulate_default_handler(SIGTSTP))??;
        self.signals.stop();
        self.signals.go_on();
        Ok(())
    }

    /// Makes the screen new from the ground up.
    pub(super) fn take_again(&mut self) -> io::Result<()> {
        take()?;
        execute!(io::stdout(), Clear(ClearType::All))?;
        // To clear the one there is would ask the terminal for the place of its cursor, and wait for the answer.
        self.terminal = Terminal::new(TerminalBackend(io::stdout()))?;
        Ok(())
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        give_back();
    }
}

fn take() -> io::Result<()> {
    enable_raw_mode()?;
    execute!(io::stdout(), EnterAlternateScreen, EnableMouseCapture, EnableBracketedPaste, cursor::Hide)
}

/// Writes what gives a terminal its own screen, cursor and mouse back.
pub(super) fn write_way_back(out: &mut impl Write) -> io::Result<()> {
    execute!(out, DisableBracketedPaste, DisableMouseCapture, LeaveAlternateScreen, cursor::Show)
}

/// Nothing is left to be done where this fails: the terminal is gone then.
fn give_back() {
    let _ = write_way_back(&mut io::stdout());
    let _ = disable_raw_mode();
}
