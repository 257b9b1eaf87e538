//! Texts that come in pieces: in any encoding, cut anywhere, from readers and into writers that fail.
#![allow(clippy::unwrap_used, reason = "a test that cannot go on has failed")]

use std::io::{self, Read, Write};

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use washout_core::table::{Form, TableFormat};
use washout_core::{Program, RuleSet};
use washout_files::{Charsets, Incoming, Label, StreamError, Threads, wash_stream};

const RULES: &str =
    "[[rule]]\nremove.chars = '#'\n[[rule]]\nreplace = { text = 'um', with = 'fog' }\n[[rule]]\ntrim.at = 'end'\n";

fn program(rules: &str) -> Program {
    Program::compile([&RuleSet::read("set", rules).unwrap()])
}

/// Gives its bytes in pieces of one size, and fails after a number of them.
struct Pieces {
    bytes: Vec<u8>,
    at: usize,
    size: usize,
    fails_at: Option<usize>,
}

impl Read for Pieces {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.fails_at.is_some_and(|fails_at| self.at >= fails_at) {
            return Err(io::Error::other("the line was cut"));
        }
        let end =
            (self.at + self.size.min(buffer.len())).min(self.fails_at.unwrap_or(usize::MAX)).min(self.bytes.len());
        let len = end - self.at;
        buffer[..len].copy_from_slice(&self.bytes[self.at..end]);
        self.at = end;
        Ok(len)
    }
}

/// Takes a number of bytes, and then no more.
struct Full {
    taken: Vec<u8>,
    room: usize,
}

impl Write for Full {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        let len = bytes.len().min(self.room - self.taken.len());
        if len == 0 && !bytes.is_empty() {
            return Err(io::Error::from(io::ErrorKind::StorageFull));
        }
        self.taken.extend_from_slice(&bytes[..len]);
        Ok(len)
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

fn incoming(charsets: Charsets, threads: usize) -> Incoming {
    let threads = Threads::new(std::num::NonZeroUsize::new(threads));
    Incoming { form: Form::Text, most_records: None, charsets, len: None, threads }
}

fn encoded(label: &str, text: &str) -> Vec<u8> {
    match label {
        "utf-16le" => text.encode_utf16().flat_map(u16::to_le_bytes).collect(),
        "utf-16be" => text.encode_utf16().flat_map(u16::to_be_bytes).collect(),
        _ => encoding_rs::Encoding::for_label(label.as_bytes()).unwrap().encode(text).0.into_owned(),
    }
}

/// Encodings, each with characters that it has and that take one, two or four bytes in it.
const ENCODINGS: &[(&str, &[&str])] = &[
    ("windows-1252", &["é", "ß", "€", "’"]),
    ("iso-8859-2", &["ł", "č", "ő"]),
    ("shift_jis", &["灯", "台", "ｱ", "ソ"]),
    ("euc-kr", &["등", "대"]),
    ("gb18030", &["灯", "塔", "é", "😀"]),
    ("big5", &["燈", "塔"]),
    ("utf-16le", &["é", "灯", "😀"]),
    ("utf-16be", &["é", "灯", "😀"]),
];

fn text_in(own: &'static [&'static str]) -> impl Strategy<Value = String> {
    let common = select(&["a", "um", "#", " ", "\n", "\r\n", "lamp"][..]);
    vec(prop_oneof![common, select(own)], 0..80).prop_map(|parts| parts.concat())
}

proptest! {
    #[test]
    fn a_text_in_any_encoding_is_washed_as_its_characters_are(
        (label, text) in select(ENCODINGS).prop_flat_map(|(label, own)| (Just(label), text_in(own))),
        size in 1..9_usize,
        threads in 1..3_usize,
    ) {
        let program = program(RULES);
        let bytes = encoded(label, &text);
        let from = Charsets { from: Label::named(label), to: None };
        let mut out = Vec::new();
        let pieces = Pieces { bytes, at: 0, size, fails_at: None };
        let washed = wash_stream(&program, incoming(from, threads), pieces, &mut out).unwrap();
        let want = program.apply(text.as_bytes()).unwrap();
        let want_text = std::str::from_utf8(want.text()).unwrap();
        prop_assert_eq!(&out, &encoded(label, want_text), "{} {:?}", label, text);
        prop_assert_eq!(&washed.changes, want.changes());

        // To another encoding: the same characters.
        let to = Charsets { to: Some(Label::Utf8), ..from };
        let mut out = Vec::new();
        let pieces = Pieces { bytes: encoded(label, &text), at: 0, size, fails_at: None };
        wash_stream(&program, incoming(to, threads), pieces, &mut out).unwrap();
        prop_assert_eq!(out.escape_ascii().to_string(), want.text().escape_ascii().to_string());
    }

    /// What a table has to hold between pieces: a quoted cell, a CRLF, the header.
    #[test]
    fn a_table_is_washed_the_same_however_it_comes_in(
        cells in vec(select(&["um", "a#", "\"a, um\"", "\"\"\"#\"", " ", ""][..]), 4..40),
        size in 1..9_usize,
        crlf in any::<bool>(),
    ) {
        let program = program("[[rule]]\nfields = 'Note'\nremove.text = ['um', '#']\n");
        let end = if crlf { "\r\n" } else { "\n" };
        let rows = cells.chunks_exact(2).map(|pair| pair.join(",") + end);
        let table = format!("Keeper,Note{end}") + &rows.collect::<String>();
        let form = Form::Table(TableFormat::Csv);
        let want = program.apply_as(form, table.as_bytes()).unwrap();
        let mut out = Vec::new();
        let pieces = Pieces { bytes: table.into_bytes(), at: 0, size, fails_at: None };
        let incoming = Incoming { form, ..incoming(Charsets::default(), 1) };
        wash_stream(&program, incoming, pieces, &mut out).unwrap();
        prop_assert_eq!(out.escape_ascii().to_string(), want.escape_ascii().to_string());
    }
}

#[test]
fn a_reader_that_fails_anywhere_is_an_error_and_what_was_written_is_a_part_of_the_result() {
    let program = program(RULES);
    let text = "lamp um #lit  \r\nfog um\n\nthe gal#lery \n".repeat(20).into_bytes();
    let whole = program.apply(&text).unwrap().into_text().into_owned();
    for fails_at in (0..text.len()).step_by(7) {
        for threads in [1, 2] {
            let pieces = Pieces { bytes: text.clone(), at: 0, size: 5, fails_at: Some(fails_at) };
            let mut out = Vec::new();
            let error = wash_stream(&program, incoming(Charsets::default(), threads), pieces, &mut out).unwrap_err();
            assert!(matches!(&error, StreamError::Read(_)), "at {fails_at}: {error}");
            assert_eq!(error.to_string(), "the input cannot be read: the line was cut");
            assert!(whole.starts_with(&out), "at {fails_at}, on {threads} threads: something else was written");
        }
    }
}

#[test]
fn a_writer_that_is_full_is_an_error_and_has_the_start_of_the_result() {
    let program = program(RULES);
    let text = "lamp um #lit  \r\nfog um\n\nthe gal#lery \n".repeat(20).into_bytes();
    let whole = program.apply(&text).unwrap().into_text().into_owned();
    for room in (0..whole.len()).step_by(11) {
        let mut full = Full { taken: Vec::new(), room };
        let pieces = Pieces { bytes: text.clone(), at: 0, size: 64, fails_at: None };
        let error = wash_stream(&program, incoming(Charsets::default(), 1), pieces, &mut full).unwrap_err();
        assert!(matches!(&error, StreamError::Write(_)), "room for {room}: {error}");
        assert_eq!(full.taken, &whole[..room]);
    }
    let mut just = Full { taken: Vec::new(), room: whole.len() };
    let pieces = Pieces { bytes: text, at: 0, size: 64, fails_at: None };
    wash_stream(&program, incoming(Charsets::default(), 1), pieces, &mut just).unwrap();
    assert_eq!(just.taken, whole);
}

/// A large text goes through several threads, which have to end when one of them cannot go on.
#[test]
fn a_long_text_whose_reader_or_writer_fails_ends_on_every_number_of_threads() {
    let program = program(RULES);
    let text = "lamp um #lit  \r\nfog um on the gallery\n".repeat(60_000).into_bytes();
    let whole = program.apply(&text).unwrap().into_text().into_owned();
    for threads in [1, 2, 3] {
        for at in [300_000, 1_500_000] {
            let pieces = Pieces { bytes: text.clone(), at: 0, size: 70_000, fails_at: Some(at) };
            let mut out = Vec::new();
            let error = wash_stream(&program, incoming(Charsets::default(), threads), pieces, &mut out).unwrap_err();
            assert!(matches!(error, StreamError::Read(_)) && whole.starts_with(&out), "{threads} threads: {error}");

            let mut full = Full { taken: Vec::new(), room: at };
            let pieces = Pieces { bytes: text.clone(), at: 0, size: 70_000, fails_at: None };
            let error = wash_stream(&program, incoming(Charsets::default(), threads), pieces, &mut full).unwrap_err();
            assert!(matches!(error, StreamError::Write(_)) && full.taken == whole[..at], "{threads} threads: {error}");
        }
    }
}

#[test]
fn what_an_encoding_does_not_have_is_an_error_that_names_the_character() {
    let program = program("[[rule]]\nreplace = { text = 'lamp', with = '灯' }\n");
    let latin = Charsets { from: Label::named("windows-1252"), to: None };
    let mut out = Vec::new();
    let error = wash_stream(&program, incoming(latin, 1), &b"a lamp\n"[..], &mut out).unwrap_err().to_string();
    assert!(error.contains('灯') && error.contains("windows-1252"), "{error}");
    let pieces = Pieces { bytes: b"caf\xE9\n".to_vec(), at: 0, size: 1, fails_at: None };
    let mut out = Vec::new();
    let to = Charsets { from: None, to: Label::named("windows-1252") };
    let error = wash_stream(&program, incoming(to, 1), pieces, &mut out).unwrap_err().to_string();
    assert!(error.contains("not UTF-8"), "{error}");
}
