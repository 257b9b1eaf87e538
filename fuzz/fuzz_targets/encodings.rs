//! Any bytes read as any encoding: where no rule matches they come back as they were, or are refused.

#![no_main]

use std::io::Cursor;

use libfuzzer_sys::fuzz_target;
use washout_core::table::Form;
use washout_core::{Program, RuleSet};
use washout_files::{Charsets, Incoming, Label, Threads, wash_stream};

const LABELS: &[&str] = &[
    "utf-8", "utf-16le", "utf-16be", "windows-1252", "iso-8859-2", "shift_jis", "gb18030", "euc-jp", "iso-2022-jp", "big5",
    "euc-kr", "koi8-r", "macintosh",
];

fuzz_target!(|input: &[u8]| {
    let Some((choice, text)) = input.split_first() else { return };
    let from = LABELS.get(usize::from(*choice & 63)).and_then(|label| Label::named(label));
    let set = RuleSet::read("set", "[[rule]]\nremove.text = 'no such words anywhere'\n").expect("a good rule");
    let program = Program::compile([&set]);
    let mut result = Vec::new();
    let charsets = Charsets { from, to: None };
    let len = (choice & 64 != 0).then_some(text.len() as u64);
    let incoming = Incoming { form: Form::Text, most_records: None, charsets, len, threads: Threads::new(None) };
    if wash_stream(&program, incoming, Cursor::new(text.to_vec()), &mut result).is_ok() {
        assert_eq!(result, text);
    }
});
