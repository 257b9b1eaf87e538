//! The full-screen view, in a pseudo-terminal.

mod support;
#[path = "support/terminal.rs"]
mod terminal;

use std::fs;

use proptest::prelude::*;
use support::TestDir;
use terminal::TestTerminal;

const ESC: &str = "\x1b";
const UP: &str = "\x1b[A";
const RIGHT: &str = "\x1b[C";

fn desk() -> TestDir {
    TestDir::with(&[
        (
            "log.wash.toml",
            "# kept\n[[rule]]\nlabel = 'no marks'\nremove.chars = '#'\n[[rule]]\nremove = { words_from = 'litter.txt' }\n",
        ),
        ("litter.txt", "um\n"),
        ("log.txt", "# fog, um, at noon \nlamp lit\n# horn\n"),
        ("second.txt", "quiet\n"),
    ])
}

#[test]
fn the_screen_shows_both_texts_in_step_and_what_each_rule_did() {
    let desk = desk();
    let terminal = TestTerminal::start(&desk, (100, 14), &["live", "-r", "log.wash.toml", "log.txt"]);
    let screen = terminal.see_that("sizes", |screen| screen.contains("34 → 31"));
    let want = "\
log.txt                                                                 2 of 3 lines change · at 1
before  3 lines, 36 characters                    │after  3 lines, 31 characters
  1 × # fog,·um, at noon·                         │  1    fog,, at noon·
  2   lamp lit                                    │  2   lamp lit
  3 × # horn                                      │  3    horn";
    for (line, want) in screen.lines().zip(want.lines()).skip(1) {
        assert_eq!(
            line.split_whitespace().collect::<Vec<_>>(),
            want.split_whitespace().collect::<Vec<_>>(),
            "{screen}"
        );
    }
    assert!(screen.contains("› 1  no marks") && screen.contains("36 → 34"), "{screen}");
}

#[test]
fn a_rule_acts_while_it_is_typed_and_goes_into_the_file_or_nowhere() {
    let desk = desk();
    let before = desk.read("log.wash.toml");
    let args = ["live", "-r", "log.wash.toml", "--save-rules", "kept.wash.toml", "log.txt"];
    let mut terminal = TestTerminal::start(&desk, (120, 30), &args);
    terminal.see("no marks");
    terminal.press("aremove.words = hor");
    terminal.see("remove words “hor”");
    terminal.press("n");
    terminal.see_that("the horn goes", |screen| {
        screen.lines().any(|line| line.contains("× #·horn") || line.contains("× # horn") && !line.contains('^'))
            && screen.contains("“horn”")
    });
    // What is not a rule yet says what is missing, and the last good result stays.
    terminal.press("\x15remov.chars = x");
    terminal.see("did you mean `remove`");
    terminal.press(ESC);
    terminal.see_that("the view", |screen| !screen.contains("remov.") && screen.contains("? keys"));
    assert_eq!(desk.read("log.wash.toml"), before, "Esc drops it");
    terminal.press("aremove.pattern = \\d+\r");
    terminal.see("added to log.wash.toml");
    assert_eq!(desk.read("log.wash.toml"), format!("{before}\n[[rule]]\nremove.pattern = '\\d+'\n"));
    terminal.see("remove pattern");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    assert_eq!(desk.read("kept.wash.toml"), before, "saved once, however often rules are read");
    // It is remembered in other sessions. Without a set it is for this view, until it is saved.
    let mut terminal = TestTerminal::start(&desk, (120, 30), &["live", "log.txt"]);
    terminal.see("no rule yet");
    terminal.press(&format!("a{UP}"));
    terminal.see("rule: remove.pattern = \\d+");
    terminal.press("\r");
    terminal.see("added to the rules of this view");
    terminal.press("s\x15digits.wash.toml\r");
    terminal.see("the rules are in");
    assert_eq!(desk.read("digits.wash.toml"), "[[rule]]\nremove.pattern = '\\d+'\n");
    terminal.press("s\x15log.txt\r");
    terminal.see("log.txt");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    assert_eq!(desk.read("log.txt"), "# fog, um, at noon \nlamp lit\n# horn\n", "nothing is overwritten");
}

#[test]
fn it_follows_what_is_saved_however_that_is_done() {
    let desk = desk();
    let mut terminal = TestTerminal::start(&desk, (120, 30), &["live", "-r", "log.wash.toml", "log.txt"]);
    terminal.see("no marks");
    let good = desk.read("log.wash.toml");
    // In place, with a mistake: it is shown, and the last result stays.
    desk.write("log.wash.toml", good.replace("remove.chars", "remov.chars").as_bytes());
    let screen = terminal.see("did you mean `remove`");
    assert!(screen.contains("log.wash.toml:4:1") && screen.contains("lamp lit"), "{screen}");
    // Renamed over.
    desk.write("new", good.replace("no marks", "no hashes").as_bytes());
    fs::rename(desk.path("new"), desk.path("log.wash.toml")).expect("a renamed file");
    terminal.see("no hashes");
    // Deleted, and back.
    fs::remove_file(desk.path("log.wash.toml")).expect("a file");
    terminal.see("no such file");
    desk.write("log.wash.toml", good.as_bytes());
    terminal.see_that("no marks, no message", |screen| screen.contains("no marks") && !screen.contains("no such file"));
    // A list that the set names, and the text itself.
    desk.write("litter.txt", b"lamp\n");
    terminal.see_that("another word goes", |screen| screen.contains("× lamp"));
    desk.write("log.txt", b"# dawn\n");
    terminal.see_that("another text", |screen| screen.contains("dawn") && !screen.contains("lamp lit"));
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn keys_move_choose_and_look_closely() {
    let desk = desk();
    let text: String = (1..=60)
        .map(|line| if line % 20 == 0 { format!("# line {line}\n") } else { format!("line {line}\n") })
        .collect();
    desk.write("long.txt", (text + "a\u{200B}\u{1b}[2Jb\n").as_bytes());
    let mut terminal =
        TestTerminal::start(&desk, (120, 20), &["live", "-r", "log.wash.toml", "long.txt", "second.txt"]);
    terminal.see("3 of 61 lines change");
    terminal.press("n");
    terminal.see("# line 20");
    terminal.press("nn");
    terminal.see("# line 60");
    terminal.press("n");
    terminal.see("no change after this");
    terminal.press("p");
    terminal.see("# line 40");
    terminal.press("c");
    terminal.see_that("changes only", |screen| {
        screen.contains("changes only") && screen.contains("# line 60") && !screen.contains("line 59")
    });
    terminal.press("c ");
    terminal.see_that("the first rule off", |screen| screen.contains("off") && screen.contains("0 of 61 lines change"));
    terminal.press(" ");
    terminal.see("3 of 61 lines change");
    terminal.press("\tu");
    terminal.see("after rule 2");
    terminal.press("\x1b[F");
    let screen = terminal.see("a⟨U+200B⟩␛[2Jb");
    assert!(screen.contains("3 of 61"), "text does not drive the terminal: {screen}");
    terminal.press(&format!("\x1b[H{}l{RIGHT}", "\x1b[6~".repeat(9)));
    terminal.see("U+200B  ZERO WIDTH SPACE");
    terminal.press(RIGHT);
    terminal.see("U+001B  ESCAPE");
    terminal.press(ESC);
    terminal.see("? keys");
    terminal.press("f");
    terminal.see("2 of 2 files");
    terminal.press("?");
    terminal.see("keys (any key closes this)");
    terminal.press("xq");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn every_size_works_and_so_does_a_change_of_it() {
    let desk = TestDir::new();
    desk.run(&["demo", "--into", "."]).status(0);
    for (columns, rows) in [(80, 24), (200, 60), (40, 12), (20, 5), (1, 1)] {
        for args in [
            &["live", "-r", "radio.wash.toml", "radio"][..],
            &["live", "-r", "logbook.wash.toml", "logbook"],
            &["live", "-r", "notices.wash.toml", "notices"],
            &["live", "-r", "stores.wash.toml", "stores"],
            &["live", "-r", "scans.wash.toml", "--names", "scans"],
        ] {
            let mut terminal = TestTerminal::start(&desk, (columns, rows), args);
            if columns >= 40 {
                terminal.see("before");
                terminal.see_that("rows", |screen| screen.contains('×'));
            }
            terminal.resize(77, 19);
            terminal.see("? keys");
            terminal.press("wbm\x1b[6~cnp");
            terminal.see_that("marks", |screen| screen.contains('×') || screen.contains("left alone"));
            terminal.press("q");
            assert_eq!(terminal.end(), 0, "{args:?} at {columns} x {rows}");
        }
    }
}

#[test]
fn tables_and_names_stand_in_step() {
    let desk = TestDir::with(&[
        (
            "t.wash.toml",
            "[[rule]]\nfields = 'b'\nto_field = 'c'\nremove.chars = '#'\n[[rule]]\nfields = 'b'\nrows = { a = { text = '2' } }\ndrop_records = {}\n",
        ),
        ("t.csv", "a,b\n1,\"x#\ny\"\n2,z\n3,w\n"),
        ("n.wash.toml", "[[rule]]\nreplace = { chars = '_', with = ' ' }\n"),
        ("scans/a_b.txt", ""),
        ("scans/c_d.txt", ""),
        ("scans/c d.txt", ""),
    ]);
    let mut terminal = TestTerminal::start(&desk, (120, 20), &["live", "-r", "t.wash.toml", "t.csv"]);
    let screen = terminal.see("of 3 records change");
    assert!(screen.contains("x#␊y") || screen.contains("x#"), "{screen}");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    let mut terminal = TestTerminal::start(&desk, (120, 20), &["live", "-r", "n.wash.toml", "--names", "scans"]);
    let screen = terminal.see("is there already");
    assert!(screen.contains("a b.txt") || screen.contains("a·b.txt"), "{screen}");
    terminal.press("Wy");
    terminal.see("1 name renamed (run 1; U undoes it)");
    assert!(desk.path("scans/a b.txt").exists());
    terminal.press("U");
    terminal.see("1 name restored");
    assert!(desk.path("scans/a_b.txt").exists());
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    // What a project says is for what is in files.
    desk.write("washout.toml", b"[[apply]]\nrules = ['n.wash.toml']\n");
    let mut terminal = TestTerminal::start(&desk, (120, 20), &["live", "--names", "scans"]);
    terminal.see("no rule yet");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn only_writing_writes_and_it_can_be_undone() {
    let desk = desk();
    let before = desk.read("log.txt");
    let mut terminal = TestTerminal::start(&desk, (120, 20), &["live", "-r", "log.wash.toml", "log.txt", "second.txt"]);
    terminal.see("no marks");
    terminal.press("\t\x1b[Z ");
    terminal.see_that("the first rule off", |screen| screen.contains("1 of 3 lines change") && screen.contains(" off"));
    terminal.press("Wn");
    terminal.see("nothing was written");
    assert_eq!(desk.read("log.txt"), before);
    terminal.press("W");
    terminal.see("(1 rule off)");
    terminal.press("y");
    terminal.see("1 file changed (run 1; U undoes it)");
    assert_eq!(desk.read("log.txt"), "# fog,, at noon \nlamp lit\n# horn\n", "the rule that is off did nothing");
    terminal.see("0 of 3 lines change");
    terminal.press("U");
    terminal.see("1 file restored");
    assert_eq!(desk.read("log.txt"), before);
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    desk.run(&["history"]).status(0).says(&["undo of run 1"]);
    // The rules of that run are those that were on, and the file is the one that was seen.
    desk.run(&["history", "1", "--rules"]).status(0).says(&["[[rule]]\noff = true\n"]);
    desk.run(&["again", "1", "--write"]).status(0).says(&["1 file changed"]);
    assert_eq!(desk.read("log.txt"), "# fog,, at noon \nlamp lit\n# horn\n");
}

#[test]
fn the_terminal_is_as_it_was_whatever_ends_the_view() {
    let desk = desk();
    for end in ["q", "\x03", "TERM", "HUP"] {
        let mut terminal = TestTerminal::start(&desk, (100, 20), &["live", "-r", "log.wash.toml", "log.txt"]);
        let modes = {
            // A terminal that no one has touched.
            let other = TestTerminal::start(&desk, (100, 20), &["stock"]);
            other.modes()
        };
        terminal.see("no marks");
        assert_ne!(terminal.modes(), modes, "keys come one by one");
        match end {
            "TERM" | "HUP" => {
                let id = terminal.child.process_id().expect("an id").to_string();
                let sent = std::process::Command::new("kill").args([&format!("-{end}"), &id]).status();
                assert!(sent.expect("kill").success());
            }
            keys => terminal.press(keys),
        }
        assert_eq!(terminal.end(), 0, "{end}");
        assert_eq!(terminal.modes(), modes, "{end}");
        assert!(terminal.shows_cursor(), "{end}");
        let sent = terminal.sent();
        let last = |code: &str| sent.rfind(code).unwrap_or_else(|| panic!("{end}: no {code:?}"));
        assert!(last("\x1b[?1049l") > last("\x1b[?1049h"), "{end}: {sent:?}");
        assert!(last("\x1b[?1000l") > last("\x1b[?1000h"), "{end}: the mouse");
    }
}

#[test]
fn the_terminal_is_as_it_was_after_a_kill() {
    let desk = desk();
    // As from a shell, which stays. It sees its screen again once the terminal has its modes.
    let script = "stty -g > modes; sh -c 'echo $$ > id; exec \"$@\"' sh \"$@\"
        until [ \"$(stty -g)\" = \"$(cat modes)\" ]; do sleep 0.02; done; echo as it was; read -r line";
    let view = [env!("CARGO_BIN_EXE_washout"), "live", "-r", "log.wash.toml", "log.txt"];
    let mut terminal =
        TestTerminal::start_program(&desk, (100, 20), "sh", &[&["-c", script, "sh"][..], &view].concat(), &[]);
    terminal.see("no marks");
    assert!(!terminal.shows_cursor());
    let id = desk.read("id");
    assert!(std::process::Command::new("kill").args(["-KILL", id.trim()]).status().expect("kill").success());
    terminal.see_that("the screen of the shell", |screen| screen.contains("as it was") && !screen.contains("no marks"));
    assert!(terminal.shows_cursor() && terminal.sent().ends_with("as it was\r\n"), "{:?}", terminal.sent());
    terminal.press("\r");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn it_ends_when_its_terminal_is_gone() {
    let desk = desk();
    let args = ["live", "-r", "log.wash.toml", "log.txt"];
    let mut child = TestTerminal::start_in_vanishing(&desk, &args, "no marks");
    let start = std::time::Instant::now();
    while child.try_wait().expect("a child").is_none() {
        assert!(start.elapsed() < std::time::Duration::from_secs(20), "it goes on without a terminal");
        std::thread::sleep(std::time::Duration::from_millis(10));
    }
}

#[test]
fn it_can_be_stopped_and_continued() {
    let desk = desk();
    let mut terminal = TestTerminal::start(&desk, (100, 20), &["live", "-r", "log.wash.toml", "log.txt"]);
    terminal.see("no marks");
    let raw = terminal.modes();
    let id = terminal.child.process_id().expect("an id").to_string();
    let signal = |name: &str| {
        assert!(std::process::Command::new("kill").args([name, &id]).status().expect("kill").success());
    };
    terminal.press("\x1a");
    terminal.see_that("the screen from before", |screen| !screen.contains("no marks"));
    assert_ne!(terminal.modes(), raw);
    desk.write("log.txt", b"# dawn\n");
    signal("-CONT");
    terminal.see("dawn");
    assert_eq!(terminal.modes(), raw);
    signal("-STOP");
    signal("-CONT");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn a_large_file_shows_a_part_of_it_and_takes_little_memory() {
    let desk = desk();
    desk.write_parts(
        "large.txt",
        (0..200).map(|part| format!("# part {part} of the log\nlamp lit, fog at noon\n").repeat(20_000)),
    );
    let mut terminal = TestTerminal::start(&desk, (100, 20), &["live", "-r", "log.wash.toml", "large.txt:6000001"]);
    let screen = terminal.see("part 150");
    assert!(screen.contains("only lines 5,999,801 to"), "{screen}");
    terminal.see("lines change");
    let id = terminal.child.process_id().expect("an id");
    let status = fs::read_to_string(format!("/proc/{id}/status")).expect("what the system knows of it");
    let peak = status.lines().find_map(|line| line.strip_prefix("VmHWM:")).expect("a peak");
    let peak: u64 = peak.split_whitespace().next().and_then(|kib| kib.parse().ok()).expect("a number");
    assert!(peak < 128 << 10, "{} MiB", peak >> 10);
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn without_colours_changes_have_marks_and_without_a_terminal_there_is_a_message() {
    let desk = desk();
    let args = ["live", "-r", "log.wash.toml", "log.txt"];
    let mut terminal = TestTerminal::start_with(&desk, (100, 20), &args, &[("NO_COLOR", "1")]);
    terminal.see("×     ×××");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    assert!(!terminal.sent().contains("\x1b[33") && !terminal.sent().contains("38;5"), "no colour is sent");
    desk.run(&args).status(2).warns(&["needs a terminal", "clean"]);
    let mut terminal = TestTerminal::start(&desk, (100, 20), &["live", "-r", "gone.wash.toml", "log.txt"]);
    assert_eq!(terminal.end(), 2);
    assert!(terminal.text().contains("no such file"), "{}", terminal.text());
}

#[test]
fn the_line_is_edited_where_the_cursor_is_and_takes_what_is_pasted() {
    let desk = desk();
    let mut terminal = TestTerminal::start(&desk, (120, 30), &["live", "-r", "log.wash.toml", "log.txt"]);
    terminal.see("no marks");
    terminal.press("aremove.words = lit");
    terminal.see("remove words “lit”");
    // To the start, past a character, and back; what is pasted may have line ends.
    terminal.press("\x1b[H\x1b[C\x1b[D\x1b[3~");
    terminal.see("rule: emove.words = lit");
    terminal.press("\x1b[200~r\x1b[201~\x1b[F\x17\x1b[200~[\"lit\",\n\"lamp\"]\x1b[201~");
    terminal.see("rule: remove.words = [\"lit\", \"lamp\"]");
    terminal.see_that("both words go", |screen| screen.contains("3 of 3 lines change"));
    terminal.press("\x01x\x05y\x7f\x7f");
    terminal.see("rule: xremove.words = [\"lit\", \"lamp\"");
    // What was typed comes back after those from earlier.
    terminal.press(ESC);
    terminal.see("? keys");
    terminal.press("atrim = {}\r");
    terminal.see("added to log.wash.toml");
    terminal.press(&format!("acolla{UP}"));
    terminal.see("rule: trim = {}");
    terminal.press("\x1b[B");
    terminal.see("rule: colla");
    terminal.press(ESC);
    terminal.see("? keys");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn an_editor_opens_the_rule_set_and_the_view_comes_back() {
    let desk = desk();
    desk.write("editor", b"#!/bin/sh\nprintf 'the editor has %s\\n' \"$1\"\nread -r key\ncat more.toml >> \"$1\"\n");
    desk.write("more.toml", b"[[rule]]\nlabel = 'no lamps'\nremove.words = 'lamp'\n");
    let args = ["live", "-r", "log.wash.toml", "log.txt"];
    let editor = [("VISUAL", "sh editor")];
    let mut terminal = TestTerminal::start_with(&desk, (120, 30), &args, &editor);
    terminal.see("no marks");
    terminal.press("e");
    terminal.see_that("the editor alone", |screen| {
        screen.contains("the editor has log.wash.toml") && !screen.contains("no marks")
    });
    terminal.press("x\r");
    terminal.see_that("what it has saved", |screen| screen.contains("no lamps") && !screen.contains("the editor"));
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    let failing = [("VISUAL", ""), ("EDITOR", "false")];
    let mut terminal = TestTerminal::start_with(&desk, (120, 30), &args, &failing);
    terminal.see("no marks");
    terminal.press("e");
    terminal.see("the editor (false) did not end well");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    // Rules that are in no file yet.
    let mut terminal = TestTerminal::start_with(&desk, (120, 30), &["live", "log.txt"], &failing);
    terminal.see("no rule yet");
    terminal.press("e");
    terminal.see("these rules are in no file yet");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn keys_and_the_mouse_scroll_and_a_rule_that_was_typed_is_saved_as_it_is() {
    let desk = desk();
    let line = |line: usize| format!("line {line} {}\n", "of the log ".repeat(20));
    let lines = (1..=300).map(line).collect::<Vec<_>>().concat();
    desk.write("long.txt", lines.as_bytes());
    let mut terminal = TestTerminal::start(&desk, (120, 24), &["live", "--rule", "remove.chars = '#'", "long.txt"]);
    terminal.see("line 1 ");
    let first = |line: usize| {
        move |screen: &str| {
            screen.lines().nth(2).is_some_and(|row| row.split_whitespace().next() == Some(&line.to_string()))
        }
    };
    for (keys, line) in
        [("\x1b[B\x1b[B\x1b[A", 2), ("\x1b[<65;10;5M", 5), ("\x1b[<64;10;5M", 2), ("\x1b[6~\x1b[5~", 2), ("\x1b[H", 1)]
    {
        terminal.press(keys);
        terminal.see_that(&format!("line {line} first after {keys:?}"), first(line));
    }
    terminal.press("\x1b[F");
    terminal.see("line 300 ");
    terminal.press("\x1b[H\x1b[C");
    terminal.see_that("eight columns to the right", |screen| !screen.contains("line 1 ") && screen.contains("the log"));
    terminal.press("\x1b[D\x0c");
    terminal.see("line 1 ");
    // A second rule; the first is turned off.
    terminal.press("aremove.words = of\r");
    terminal.see("added to the rules of this view");
    terminal.see("300 of 300 lines change");
    terminal.press("\x1b[Z\x1b[Z ");
    terminal.see(" off");
    terminal.press("s\x15kept.wash.toml\r");
    terminal.see("the rules are in");
    let kept = desk.read("kept.wash.toml");
    assert_eq!(kept, "[[rule]]\noff = true\nremove.chars = '#'\n\n[[rule]]\nremove.words = 'of'\n", "{kept}");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
}

#[test]
fn all_files_are_written_at_once_if_the_rules_allow_it() {
    let desk = desk();
    let args = ["live", "--rule", "{ remove.chars = '#', expect = 2 }", "log.txt", "second.txt"];
    let mut terminal = TestTerminal::start(&desk, (120, 24), &args);
    terminal.see("2 of 3 lines change");
    terminal.press("U");
    terminal.see("nothing was written in this view");
    terminal.press("Wa");
    terminal.see("1 file changed (run 1; U undoes it)");
    assert_eq!(desk.read("log.txt"), " fog, um, at noon \nlamp lit\n horn\n");
    // There is nothing left of what the rule expects.
    terminal.see("0 of 3 lines change");
    terminal.press("W");
    terminal.see("clean this file");
    terminal.press("y");
    terminal.see("is to make 2 changes, and makes 0; nothing was written");
    terminal.press("f");
    terminal.see("second.txt");
    terminal.press("F");
    terminal.see("lamp lit");
    terminal.press("q");
    assert_eq!(terminal.end(), 0);
    desk.run(&["again", "1", "--write"]).status(4).warns(&["expects 2 changes, and makes none"]);
}

const ODD_KEYS: [&str; 15] = [
    "\r", "\t", "\x7f", ESC, UP, RIGHT, "\x1b[B", "\x1b[D", "\x1b[5~", "\x1b[6~", "\x1b[H", "\x1b[F", "\x1b[3~",
    "\x01", "\x0b",
];

/// What is pressed without a plan: keys, pastes, the mouse. Nothing of it writes.
fn keys() -> impl Strategy<Value = Vec<String>> {
    let mouse = (0..3_u8, 1..120_u8, 1..40_u8)
        .prop_map(|(button, column, row)| format!("\x1b[<{};{column};{row}M", [0, 64, 65][usize::from(button)]));
    prop::collection::vec(
        prop_oneof![
            4 => "[ -VX-prt-vx-~]",
            4 => prop::sample::select(&ODD_KEYS[..]).prop_map(str::to_owned),
            // An Esc right before takes the start of a paste with it, and the rest is keys.
            1 => "[a-prt-z.='é𝄞]{1,9}".prop_map(|text| format!("\x1b[200~{text}\x1b[201~")),
            1 => mouse,
        ],
        1..150,
    )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 30, max_shrink_iters: 60, ..ProptestConfig::default() })]

    #[test]
    fn whatever_is_pressed_it_ends_well_and_writes_nothing(keys in keys(), narrow in 1..60_u16) {
        let desk = desk();
        let before = desk.files().into_iter().map(|file| (desk.read(&file), file)).collect::<Vec<_>>();
        let args = ["live", "-r", "log.wash.toml", "log.txt", "second.txt"];
        let mut terminal = TestTerminal::start_with(&desk, (100, 20), &args, &[("EDITOR", "true"), ("VISUAL", "true")]);
        terminal.see("no marks");
        for (at, key) in keys.iter().enumerate() {
            terminal.press(key);
            match at % 40 {
                20 => terminal.resize(narrow, 3 + narrow / 4),
                39 => terminal.resize(100, 20),
                _ => {}
            }
        }
        terminal.resize(100, 20);
        terminal.press("\x03");
        let status = terminal.end();
        let sent = terminal.sent();
        prop_assert!(status == 0 && !sent.contains("panicked"), "{status}: {}", terminal.text());
        prop_assert!(terminal.shows_cursor());
        let after = desk.files().into_iter().map(|file| (desk.read(&file), file)).collect::<Vec<_>>();
        prop_assert_eq!(after, before);
    }
}
