//! Any bytes as a rule set: it is read or refused, and what is read runs on a text.

#![no_main]

use libfuzzer_sys::fuzz_target;
use washout_core::{Program, RuleSet};

const TEXT: &[u8] = b"00:14\r\nMarrow Point um, this is  \n\n12 the \xFFrelief boat [sic]\r\xE2\x80\x9Cin\xE2\x80\x9D 3.5.1936\n";

fuzz_target!(|input: &[u8]| {
    let Ok(source) = std::str::from_utf8(input) else { return };
    if let Ok(set) = RuleSet::read("fuzzed", source) {
        let program = Program::compile([&set]);
        let _ = program.apply(TEXT);
        let _ = washout_core::explain::explain([&set]);
    }
});
