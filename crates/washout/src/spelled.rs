//! A text character by character, and where two texts differ.

use std::time::{Duration, Instant};

use similar::{Algorithm, DiffOp, capture_diff_slices_deadline};
use unicode_segmentation::UnicodeSegmentation;
use washout_core::spell::{class_of, classes_of, describe};
use washout_core::survey::Surveyed;
use washout_core::{Program, RuleSet};

/// How long it may take to find the smallest differences; after that they may be larger.
const PATIENCE: Duration = Duration::from_secs(2);

/// One character of a text, spelled out.
#[derive(Clone, Debug)]
pub(crate) struct Spelled {
    pub(crate) character: Surveyed,
    /// From 1, on its line.
    pub(crate) column: usize,
    /// From 1.
    pub(crate) line: usize,
    pub(crate) bytes: Vec<u8>,
    /// Whether it is seen together with the character before it.
    pub(crate) joins: bool,
    /// Where it starts, in bytes.
    pub(crate) at: usize,
}

/// The characters of a text in order.
pub(crate) fn spelled(text: &[u8]) -> Vec<Spelled> {
    let mut all = Vec::new();
    let (mut at, mut line, mut column) = (0, 1, 1);
    let mut push = |character, bytes: &[u8], joins, next: Option<&u8>| {
        all.push(Spelled { character, column, line, bytes: bytes.to_vec(), joins, at });
        at += bytes.len();
        column += 1;
        if bytes == b"\n" || (bytes == b"\r" && next != Some(&b'\n')) {
            (line, column) = (line + 1, 1);
        }
    };
    let mut seen = 0;
    for chunk in text.utf8_chunks() {
        for cluster in chunk.valid().graphemes(true) {
            for (index, character) in cluster.chars().enumerate() {
                seen += character.len_utf8();
                let bytes = &mut [0; 4];
                let bytes = character.encode_utf8(bytes).as_bytes();
                push(Surveyed::Char(character), bytes, index > 0 && cluster != "\r\n", text.get(seen));
            }
        }
        for byte in chunk.invalid() {
            seen += 1;
            push(Surveyed::Broken(*byte), &[*byte], false, text.get(seen));
        }
    }
    all
}

pub(crate) fn code(character: Surveyed) -> String {
    match character {
        Surveyed::Char(character) => format!("U+{:04X}", u32::from(character)),
        Surveyed::Broken(_) => "broken".to_owned(),
    }
}

pub(crate) fn name(character: Surveyed) -> String {
    match character {
        Surveyed::Char(character) => describe(character),
        Surveyed::Broken(byte) => format!("byte {byte:02X}, no valid UTF-8"),
    }
}

pub(crate) fn class(character: Surveyed) -> &'static str {
    match character {
        Surveyed::Char(character) => class_of(character),
        Surveyed::Broken(_) => "broken",
    }
}

/// Every class a rule could name for it.
pub(crate) fn classes(character: Surveyed) -> Vec<&'static str> {
    match character {
        Surveyed::Char(character) => classes_of(character),
        Surveyed::Broken(_) => vec!["broken"],
    }
}

/// Stretches of two texts that differ.
pub(crate) struct Stretch {
    pub(crate) one: Vec<Spelled>,
    pub(crate) other: Vec<Spelled>,
}

/// Where two texts differ, character by character.
pub(crate) fn differences(one: &[u8], other: &[u8]) -> Vec<Stretch> {
    let (one, other) = (spelled(one), spelled(other));
    let keys = |all: &[Spelled]| all.iter().map(|spelled| spelled.bytes.clone()).collect::<Vec<_>>();
    let end = Instant::now().checked_add(PATIENCE);
    let ops = capture_diff_slices_deadline(Algorithm::Myers, &keys(&one), &keys(&other), end);
    let stretch = |op: DiffOp| {
        let (old, new) = (op.old_range(), op.new_range());
        (!matches!(op, DiffOp::Equal { .. })).then(|| Stretch { one: one[old].to_vec(), other: other[new].to_vec() })
    };
    ops.into_iter().filter_map(stretch).collect()
}

/// What makes two texts the same, if a rule of one line does.
pub(crate) fn made_same_by(one: &[u8], other: &[u8]) -> Option<&'static str> {
    const RULES: &[&str] = &[
        "remove.class = \"invisible\"",
        "normalize.form = \"NFC\"",
        "normalize.form = \"NFKC\"",
        "replace = { class = \"odd-space\", with = \" \" }",
        "replace = { class = \"double-quote\", with = '\"' }",
        "replace = { class = \"single-quote\", with = \"'\" }",
        "replace = { class = \"dash\", with = \"-\" }",
        "line_ends.to = \"lf\"",
        "trim = {}",
        "recase.to = \"lower\"",
        "plain_letters = true",
    ];
    RULES.iter().copied().find(|rule| {
        let program = RuleSet::read_one_rule("rule", rule).map(|set| Program::compile([&set]));
        let washed = |text: &[u8]| {
            let program = program.as_ref().ok()?;
            program.apply(text).ok().map(|outcome| outcome.into_text().into_owned())
        };
        washed(one).is_some_and(|one| washed(other).is_some_and(|other| one == other))
    })
}
