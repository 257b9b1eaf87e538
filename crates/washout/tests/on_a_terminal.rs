//! What commands show on a terminal and nowhere else.

mod support;
#[path = "support/terminal.rs"]
#[expect(dead_code, reason = "the other tests on a terminal use the rest")]
mod terminal;

use support::TestDir;
use terminal::TestTerminal;

#[test]
fn a_long_run_shows_how_far_it_is_and_takes_that_away_again() {
    let desk = TestDir::new();
    let rule = |to: &str| format!("[[rule]]\nrecase.to = '{to}'\n");
    desk.write("slow.wash.toml", [rule("upper"), rule("lower")].concat().repeat(8).as_bytes());
    desk.write_parts("long.txt", (0..60).map(|part| format!("fog and horn {part} at noon\n").repeat(20_000)));
    let args = ["clean", "-r", "slow.wash.toml", "--into", "out", "--jobs", "1", "long.txt"];
    let mut terminal = TestTerminal::start(&desk, (90, 30), &args);
    terminal.see_that("a bar", |screen| screen.contains("0 of 1 files") && screen.contains("left"));
    let screen = terminal.see_that("the end", |screen| screen.contains("1 file changed"));
    assert!(!screen.contains("of 1 files") && !screen.contains('▬'), "{screen}");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn a_patch_of_a_text_that_would_drive_the_terminal_is_drawn() {
    let text = "# \u{1b}[31mred\u{7}\u{202e}\n";
    let desk = TestDir::with(&[("a.txt", text)]);
    let args = ["clean", "--rule", "remove.chars = '#'", "--patch", "a.txt"];
    let mut terminal = TestTerminal::start(&desk, (90, 30), &args);
    terminal.see("+ ␛[31mred␇⟨U+202E⟩");
    assert_eq!(terminal.end(), 0);
    let sent = terminal.sent();
    assert!(!sent.contains('\u{1b}') && !sent.contains('\u{7}') && !sent.contains('\u{202e}'), "{sent:?}");
    // Into a file it goes byte for byte.
    let patch = desk.run(&args).status(0).out();
    assert!(patch.contains(&format!("-{text}+{}", &text[1..])), "{patch:?}");
}

#[test]
fn colours_are_for_terminals_and_for_who_asks_for_them() {
    let desk = TestDir::with(&[("a.txt", "# fog\n")]);
    let args = ["clean", "--rule", "remove.chars = '#'", "a.txt"];
    let coloured = |variables: &[(&str, &str)], more: &[&str]| {
        let mut terminal = TestTerminal::start_with(&desk, (90, 30), &[&args[..], more].concat(), variables);
        terminal.see("1 file would change");
        assert_eq!(terminal.end(), 0);
        terminal.sent().contains("\u{1b}[")
    };
    assert!(coloured(&[], &[]));
    assert!(!coloured(&[("NO_COLOR", "1")], &[]));
    assert!(!coloured(&[], &["--color", "never"]));
    let always = desk.run(&[&args[..], &["--color", "always", "--all"]].concat()).status(0).out();
    let never = desk.run(&[&args[..], &["--all"]].concat()).status(0).out();
    assert!(always.contains("\u{1b}[1m") && !never.contains('\u{1b}'));
    // What to type next has the option.
    let changes = |said: &str| said.split("Nothing was written").next().map(str::to_owned);
    assert_eq!(changes(&anstream::adapter::strip_str(&always).to_string()), changes(&never));
}
