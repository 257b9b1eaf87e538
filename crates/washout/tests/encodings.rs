//! Files in other encodings than UTF-8, driven as a user would.

mod support;

use support::TestDir;

const TEXT: &str = "Leuchtfeuer um fünf, “sehr hell”\r\num die Öllampe\n";

fn utf16(text: &str, unit: fn(u16) -> [u8; 2]) -> Vec<u8> {
    format!("\u{FEFF}{text}").encode_utf16().flat_map(unit).collect()
}

/// A file: what it is called, its bytes, the label to type if one is needed, and the same with every “um ” gone.
type Kind = (&'static str, Vec<u8>, Option<&'static str>, Vec<u8>);

/// One in each encoding.
fn kinds() -> Vec<Kind> {
    let clean = TEXT.replace("um ", "");
    vec![
        ("mark.txt", format!("\u{FEFF}{TEXT}").into(), None, format!("\u{FEFF}{clean}").into()),
        ("little.txt", utf16(TEXT, u16::to_le_bytes), None, utf16(&clean, u16::to_le_bytes)),
        ("big.txt", utf16(TEXT, u16::to_be_bytes), None, utf16(&clean, u16::to_be_bytes)),
        (
            "western.txt",
            b"f\xFCnf um \x93hell\x94 \x80\x81\r\num".to_vec(),
            Some("windows-1252"),
            b"f\xFCnf \x93hell\x94 \x80\x81\r\num".to_vec(),
        ),
        ("central.txt", b"um \xB3\xF3d\xBC um ".to_vec(), Some("ISO-8859-2"), b"\xB3\xF3d\xBC ".to_vec()),
        (
            "japanese.txt",
            b"\x93\x94\x91\xE4 um \x96\xB3\x90\xFC\x5C\n".to_vec(),
            Some("Shift_JIS"),
            b"\x93\x94\x91\xE4 \x96\xB3\x90\xFC\x5C\n".to_vec(),
        ),
        (
            "chinese.txt",
            b"um \xB5\xC6\xCB\xFE\x81\x30\x89\x38".to_vec(),
            Some("gb18030"),
            b"\xB5\xC6\xCB\xFE\x81\x30\x89\x38".to_vec(),
        ),
    ]
}

const RULE: [&str; 2] = ["--rule", "remove.text = 'um '"];

#[test]
fn each_encoding_is_read_as_what_it_is_and_written_back_the_same() {
    for (name, bytes, label, clean) in kinds() {
        let desk = TestDir::new();
        desk.write(name, &bytes);
        let encoding: Vec<&str> = label.iter().flat_map(|label| ["--encoding", label]).collect();
        let run = |more: &[&str]| desk.run(&[&["clean"], &encoding[..], more, &[name]].concat());
        // Nothing matches: not a byte changes, also in a copy.
        run(&["--rule", "remove.text = 'nowhere'", "--into", "same"]).status(0).silent_err();
        assert_eq!(std::fs::read(desk.path("same").join(name)).expect("a copy"), bytes, "{name} comes back as it was");
        run(&[&RULE[..], &["--write"]].concat()).status(0).silent_err();
        assert_eq!(std::fs::read(desk.path(name)).expect("the file"), clean, "{name}");
        desk.run(&["undo"]).status(0);
        assert_eq!(std::fs::read(desk.path(name)).expect("the file"), bytes, "{name} is restored");
        let ran = desk.run_with(&[&["clean"], &encoding[..], &RULE].concat(), &bytes).status(0);
        assert_eq!(ran.out, clean, "{name} in a stream");
        desk.run(&[&["survey"], &encoding[..], &[name]].concat()).status(0);
    }
}

#[test]
fn a_result_may_be_in_another_encoding_and_what_that_has_not_is_an_error() {
    let desk = TestDir::with(&[("a.txt", "fünf\n"), ("b.txt", "łódź\n")]);
    let args = ["clean", "--rule", "remove.text = 'x'", "--to-encoding", "latin1", "a.txt", "b.txt"];
    desk.run(&args).status(3).says(&["a.txt  its encoding changes, and nothing else", "1 file would change, 1 failed"]);
    desk.run(&[&args[..], &["--write"]].concat())
        .status(3)
        .warns(&["b.txt: its result has “ł” (U+0142), which windows-1252 has not", "left as it was"]);
    assert_eq!(std::fs::read(desk.path("a.txt")).expect("a file"), b"f\xFCnf\n");
    assert_eq!(desk.read("b.txt"), "łódź\n");
    let back =
        ["clean", "--rule", "remove.text = 'x'", "--encoding", "latin1", "--to-encoding", "utf-8", "a.txt", "--write"];
    desk.run(&back).status(0);
    assert_eq!(desk.read("a.txt"), "fünf\n");
    desk.run(&["clean", "--rule", "trim = {}", "--encoding", "klingon", "a.txt"]).status(2).warns(&["WHATWG"]);
}

#[test]
fn tables_are_decoded_and_encoded_like_texts() {
    let desk = TestDir::new();
    let ledger = "Keeper;Remarks\r\n\"Mr. Öhm; sen.\";“Mr. Öhm”\r\n";
    let cleaned = ledger.replacen("Mr. ", "", 1);
    desk.write("utf16.csv", &utf16(ledger, u16::to_be_bytes));
    desk.write("western.csv", b"Keeper;Remarks\r\nMr. \xD6hm;\x93Mr.\x94\r\n");
    desk.write("strange.jsonl", b"{\"Keeper\":\"Mr. \xA3uk\"}\n");
    let rule = "{ fields = 'Keeper', remove = { stock = 'name-title' } }";
    let run = |args: &[&str]| desk.run(&[&["clean", "--rule", rule, "--write"], args].concat());
    run(&["--delimiter", ";", "utf16.csv"]).status(0).silent_err();
    assert_eq!(std::fs::read(desk.path("utf16.csv")).expect("a file"), utf16(&cleaned, u16::to_be_bytes));
    run(&["--delimiter", ";", "--encoding", "windows-1252", "western.csv"]).status(0).silent_err();
    assert_eq!(std::fs::read(desk.path("western.csv")).expect("a file"), b"Keeper;Remarks\r\n\xD6hm;\x93Mr.\x94\r\n");
    run(&["strange.jsonl"]).status(3).warns(&["record 1 (line 1) is not valid JSON at column 16: it is not UTF-8"]);
    run(&["--encoding", "ISO-8859-2", "strange.jsonl"]).status(0);
    assert_eq!(std::fs::read(desk.path("strange.jsonl")).expect("a file"), b"{\"Keeper\":\"\xA3uk\"}\n");
}

#[test]
fn what_is_broken_empty_or_no_text_is_left_as_it_is_and_said() {
    let desk = TestDir::new();
    desk.write("broken.txt", b"um caf\xE9 du phare, um d\xE9j\xE0 vu\n");
    desk.write("odd.txt", b"\xFF\xFEu\0m\0 \0\x00\xD8x\0");
    desk.write("binary.bin", b"um \0\x01\x02\0\x03");
    desk.write("empty.txt", b"");
    let ran = desk.run(&[&["clean"], &RULE[..], &["--write", "."]].concat()).status(3);
    let ran = ran.warns(&[
        "odd.txt: cannot be read: it is read as UTF-16LE, and holds bytes that mean nothing in it, at line 1",
        "broken.txt is not UTF-8, but perhaps windows-1252",
        "add --encoding windows-1252",
    ]);
    ran.says(&["1 file changed, 1 unchanged, 1 left out (binary; --with-binary includes them), 1 failed"]);
    assert_eq!(std::fs::read(desk.path("broken.txt")).expect("a file"), b"caf\xE9 du phare, d\xE9j\xE0 vu\n");
    assert_eq!(std::fs::read(desk.path("odd.txt")).expect("a file"), b"\xFF\xFEu\0m\0 \0\x00\xD8x\0");
    // Two ways to write a character: it would come back as the other.
    desk.write("twice.txt", b"um \x81\xCA \xEE\xF9\n");
    desk.run(&[&["clean"], &RULE[..], &["--write", "--encoding", "shift_jis", "twice.txt"]].concat())
        .status(3)
        .warns(&["would not come back as it was, to the byte, at line 1"]);
}

#[test]
fn long_texts_are_decoded_and_encoded_wherever_they_are_cut() {
    let desk = TestDir::new();
    let text = "łódź um 𝄞 灯台 “fog” umum \n".repeat(60_000);
    desk.write("long.txt", &utf16(&text, u16::to_le_bytes));
    desk.run(&[&["clean"], &RULE[..], &["--write", "long.txt"]].concat()).status(0);
    let clean = utf16(&text.replace("um ", ""), u16::to_le_bytes);
    assert!(std::fs::read(desk.path("long.txt")).expect("a file") == clean, "all of it, and nothing else");
    desk.run(&[&["check"], &RULE[..], &["long.txt"]].concat()).status(0);
    desk.run(&[&["clean"], &RULE[..], &["--patch", "long.txt"]].concat()).status(3).warns(&["only be made of UTF-8"]);
}
