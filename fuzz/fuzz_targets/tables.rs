//! Any bytes as a table: where no rule matches it comes back as it was, or is refused; however it is cut, the same.

#![no_main]

use libfuzzer_sys::fuzz_target;
use washout_core::table::{AnyWasher, Form, Ragged, TableFormat, TableSettings};
use washout_core::observe::NoObserver;
use washout_core::{Program, RuleSet};

fn washed(program: &Program, format: TableFormat, table: &[u8], way: (usize, usize, usize)) -> Result<Vec<u8>, String> {
    let washer = program.washer_of(Form::Table(format), NoObserver).map_err(|error| error.to_string())?;
    let AnyWasher::Table(washer) = washer else { return Err("no table".to_owned()) };
    let (piece, block, threads) = way;
    let mut washer = washer.with_block_size(block).with_threads(threads);
    let mut result = Vec::new();
    for piece in table.chunks(piece) {
        washer.push(piece, &mut result).map_err(|error| error.to_string())?;
    }
    washer.finish(&mut result).map_err(|error| error.to_string())?;
    Ok(result)
}

fuzz_target!(|input: &[u8]| {
    let [choice, table @ ..] = input else { return };
    let format = [TableFormat::Csv, TableFormat::JsonLines, TableFormat::Json][usize::from(choice & 0xF) % 3];
    let ragged = Some(if choice & 0x10 == 0 { Ragged::Refuse } else { Ragged::Keep });
    let program = |rules: &str| {
        let set = RuleSet::read("set", rules).expect("good rules");
        Program::compile([&set]).with_table(TableSettings { ragged, ..TableSettings::default() })
    };
    let idle = program("[[rule]]\nremove.text = 'no such words anywhere'\n");
    if let Ok(result) = washed(&idle, format, table, (1 << 20, 1 << 20, 1)) {
        assert_eq!(result, table, "nothing matches");
    }
    let busy = program(match choice >> 6 {
        0 => {
            "[[rule]]\nremove.chars = 'ae\\r'\n[[rule]]\nreplace = { chars = 'io', with = '\"' }\n[[rule]]\ntrim = {}\n"
        }
        1 => {
            "[[rule]]\nremove.chars = 'ae'\n[[rule]]\ndrop_records = { repeated = 'file', ignore_edges = true }\n\
              [[rule]]\ndrop_records = { empty = 'any' }\n[[rule]]\ntrim = {}\n"
        }
        2 => {
            "[[rule]]\ntrim = {}\n[[rule]]\ndrop_fields = ['a', 'b.c']\n[[rule]]\nrename_fields = { b = 'a', c = 'b' }\n\
              [[rule]]\nfields = 'a'\nto_field = { field = 'c', at = 'start' }\nremove.chars = 'x'\n\
              [[rule]]\nfields = 'c'\ndrop_records = { empty = 'all' }\n"
        }
        _ => {
            "[table]\nheader = false\n[[rule]]\nfields = 1\nto_field = 'n'\nkeep.chars = 'ab'\n[[rule]]\ndrop_fields = 1\n\
              [[rule]]\nfields = 'n'\ndrop_records = { repeated = 'neighbours' }\n"
        }
    });
    let whole = washed(&busy, format, table, (1 << 20, 1 << 20, 1));
    for way in [(1, 1, 1), (7, 3, 2), (1 << 20, 5, 2)] {
        // Where several things are wrong, which of them is told may depend on how far was read.
        let got = washed(&busy, format, table, way);
        assert_eq!(got.is_ok(), whole.is_ok(), "{way:?}: {got:?} {whole:?}");
        if let (Ok(got), Ok(whole)) = (got, &whole) {
            assert_eq!(&got, whole, "{way:?}");
        }
    }
});
