//! Tables: rules see cells, and every other byte stays.

mod random;
mod reference;

use proptest::prelude::*;
use proptest::sample::select;
use random::{rules, text};
use washout_core::observe::{Detail, Hunk, NoObserver, Observer};
use washout_core::table::{
    AnyWasher, Cells, Column, Form, Ragged, TableFormat, TableSettings, TableSurveyor, WashedCells,
};
use washout_core::{Program, RuleSet};

/// What a whole run gives, in pieces of this size, on that many threads.
fn washed(
    program: &Program,
    format: TableFormat,
    table: &[u8],
    (piece, block, threads): (usize, usize, usize),
) -> Result<(Vec<u8>, Vec<u64>), String> {
    let washer = program.washer_of(Form::Table(format), NoObserver).map_err(|error| error.to_string())?;
    let AnyWasher::Table(washer) = washer else { return Err("taken for no table".to_owned()) };
    let mut washer = washer.with_block_size(block).with_threads(threads);
    let mut result = Vec::new();
    for piece in table.chunks(piece.max(1)) {
        washer.push(piece, &mut result).map_err(|error| error.to_string())?;
    }
    washer.finish(&mut result).map_err(|error| error.to_string())?;
    let changes = washer.changes().to_vec();
    assert_eq!(washer.any_change(), result != table, "whether anything changed");
    Ok((result, changes))
}

#[derive(Default)]
struct FollowedCells(Vec<Hunk>);

impl Observer for FollowedCells {
    fn cell(&mut self, hunk: Hunk) {
        self.0.push(hunk);
    }

    fn detail(&self) -> Detail {
        Detail::All
    }
}

fn told(program: &Program, format: TableFormat, table: &[u8]) -> (Vec<u8>, Vec<u64>, Vec<Hunk>) {
    let mut washer = program.washer_of(Form::Table(format), FollowedCells::default()).expect("rules for tables");
    let mut result = Vec::new();
    washer.push(table, &mut result).and_then(|()| washer.finish(&mut result)).expect("a good table");
    let changes = washer.changes().to_vec();
    (result, changes, washer.into_observer().0)
}

fn program(rules: &str) -> Program {
    Program::compile([&RuleSet::read("rules", rules).unwrap_or_else(|error| panic!("{error}"))])
}

const TITLE: &str = "[[rule]]\nfields = 'Keeper'\nremove.stock = 'name-title'\n";

/// Rules, a table, and what becomes of it: a table, or a message that holds these words.
type Case = (&'static str, TableFormat, &'static str, &'static str, Result<&'static str, &'static [&'static str]>);

const CASES: &[Case] = &[
    (
        "all else stays to the byte: quotes, blanks, line ends, a missing final one",
        TableFormat::Csv,
        TITLE,
        "Date, Item ,Keeper\r\n1,\"a, \"\"b\"\"\",Mr. Hale\n\n2, x ,\"Vey\"\r\r\n3,\"y\",Miss Vey",
        Ok("Date, Item ,Keeper\r\n1,\"a, \"\"b\"\"\",Hale\n\n2, x ,\"Vey\"\r\r\n3,\"y\",Vey"),
    ),
    (
        "the byte order mark is not part of the first name",
        TableFormat::Csv,
        TITLE,
        "\u{FEFF}Keeper,x\nMr. Hale,\u{FEFF}Mr. X\n",
        Ok("\u{FEFF}Keeper,x\nHale,\u{FEFF}Mr. X\n"),
    ),
    (
        "a cell that a rule leaves empty is an empty line to the next, in quotes or not",
        TableFormat::Csv,
        "[[rule]]\nremove.chars = '-'\n[[rule]]\nreplace = { pattern = '^$', with = '?' }\n",
        "x,y\n-,1\n\"-\",\"-\n-\"\n",
        Ok("x,y\n?,1\n\"?\",\"?\n\"\n"),
    ),
    (
        "quotes come where they are needed, and stay where they were",
        TableFormat::Csv,
        "[[rule]]\nreplace = { pairs = [['a', ','], ['b', '\"'], ['c', 'd']] }\n",
        "x,y,z\na,b,c\n\"c\",5\" c,\"\"\n",
        Ok("x,y,z\n\",\",\"\"\"\",d\n\"d\",\"5\"\" d\",\"\"\n"),
    ),
    (
        "the only cell of a record that becomes empty is still a record",
        TableFormat::Csv,
        "[[rule]]\nremove.text = 'a'\n",
        "x\na\nb\n",
        Ok("x\n\"\"\nb\n"),
    ),
    (
        "an empty cell is an empty line",
        TableFormat::Csv,
        "[[rule]]\nreplace = { pattern = '^$', with = 'none' }\n",
        "x,y\n,1\n\"\",2\n",
        Ok("x,y\nnone,1\n\"none\",2\n"),
    ),
    (
        "a result goes to a field of its own, after its source and what came from there before",
        TableFormat::Csv,
        "[[rule]]\nfields = 'a'\nto_field = 'one'\nkeep = { pattern = '\\d+', which = 'first' }\n\
         [[rule]]\nfields = 'a'\nto_field = 'two'\nkeep = { pattern = '[a-z]+', which = 'first' }\n\
         [[rule]]\nfields = 'one'\nremove.chars = '0'\n[[rule]]\nfields = 'b'\nto_field = 'a'\nremove.chars = 'q'\n",
        "a,b\nx 10 20,qr\n\"-\n7\",s\n",
        Ok("a,one,two,b\nr,1,x,qr\n\"s\",7,,s\n"),
    ),
    (
        "rows: only records whose field holds a match, as it is when the rule runs",
        TableFormat::Csv,
        "[[rule]]\nfields = 'kind'\nrecase.to = 'lower'\n\
         [[rule]]\nfields = 'n'\nrows = { field = 'kind', words = 'oil' }\nremove.chars = '1'\n\
         [[rule]]\nfields = 'n'\nrows = { field = 'kind', pattern = '^$' }\nreplace = { pattern = '$', with = '!' }\n",
        "kind,n\nOil,11\ntea,11\n,11\n",
        Ok("kind,n\noil,\ntea,11\n,11!\n"),
    ),
    (
        "fields by number where there is no header",
        TableFormat::Tsv,
        "[table]\nheader = false\n[[rule]]\nfields = [2]\nremove.chars = 'a'\n[[rule]]\nfields = '1'\nremove.chars = 'b'\n",
        "ab\tab\nab\tab\n",
        Ok("a\tb\na\tb\n"),
    ),
    (
        "keep means the cell, however many lines it has",
        TableFormat::Csv,
        "[[rule]]\nkeep = { pattern = '\\d+', which = 'last' }\n",
        "x,y\n\"a1\nb2\nc\",3\n",
        Ok("x,y\n\"2\",3\n"),
    ),
    (
        "the lines of a cell, where they are meant",
        TableFormat::Csv,
        "[[rule]]\ncell_lines = true\ndrop_lines.text = 'x'\n[[rule]]\ncell_lines = true\njoin_lines.with = '; '\n",
        "a,b\n\"p\r\nx\r\nq\",x\n",
        Ok("a,b\n\"p; q\",\n"),
    ),
    (
        "whole lines of a cell go, and the record stays",
        TableFormat::Csv,
        "[[rule]]\nremove = { text = 'n/a', at = 'whole-line' }\n",
        "a,b\n n/a ,1\n\"n/a\nx\",2\n",
        Ok("a,b\n,1\n\"x\",2\n"),
    ),
    (
        "JSON: order of keys, spelling of numbers, blanks and escapes stay",
        TableFormat::JsonLines,
        "[[rule]]\nfields = ['person.name', 'tags']\nremove.chars = '#é'\n",
        "{\"n\": 1.50e3,\"person\" : {\"name\":\"\\u00e9#\\n\", \"x\":\"#\"} , \"tags\":[\"#a\",2,\"b\"],\"s\":\"\\u00e9\"}\r\n\n{}\n",
        Ok(
            "{\"n\": 1.50e3,\"person\" : {\"name\":\"\\n\", \"x\":\"#\"} , \"tags\":[\"a\",2,\"b\"],\"s\":\"\\u00e9\"}\r\n\n{}\n",
        ),
    ),
    (
        "JSON: without fields, every string at any depth",
        TableFormat::JsonLines,
        "[[rule]]\nremove.chars = '#'\n",
        "{\"a#\":\"#\",\"b\":{\"c\":[\"#\",{\"d\":\"x#\"}]}}",
        Ok("{\"a#\":\"\",\"b\":{\"c\":[\"\",{\"d\":\"x\"}]}}"),
    ),
    (
        "JSON: a result goes after its source, or into the field that is there",
        TableFormat::JsonLines,
        "[[rule]]\nfields = 'p.a'\nto_field = 'p.code'\nkeep.pattern = '\\d+'\n",
        "{\"p\": {\"a\": \"x 7\", \"b\": 1}}\n{\"p\":{\"code\":\"?\",\"a\":\"8\"}}\n{\"q\":1}\n",
        Ok("{\"p\": {\"a\": \"x 7\", \"code\": \"7\", \"b\": 1}}\n{\"p\":{\"code\":\"8\",\"a\":\"8\"}}\n{\"q\":1}\n"),
    ),
    ("an empty file", TableFormat::Csv, TITLE, "", Ok("")),
    ("nothing but empty lines", TableFormat::Csv, TITLE, "\r\n\n", Ok("\r\n\n")),
    ("a header alone", TableFormat::Csv, TITLE, "a,Keeper", Ok("a,Keeper")),
    (
        "a field that is not there",
        TableFormat::Csv,
        TITLE,
        "a,b\n1,2\n",
        Err(&["there is no field `Keeper`", "rule 1", "there are `a`, `b`"]),
    ),
    (
        "a delimiter that is another",
        TableFormat::Csv,
        TITLE,
        "a;Keeper\n1;2\n",
        Err(&["there is no field `Keeper`", "`a;Keeper`", "--delimiter"]),
    ),
    (
        "a name that two fields have",
        TableFormat::Csv,
        TITLE,
        "Keeper,a,Keeper\n1,2,3\n",
        Err(&["several fields are called `Keeper`", "at 1, 3", "such as 1"]),
    ),
    (
        "a JSON field that no record has",
        TableFormat::JsonLines,
        TITLE,
        "{\"a\":1,\"b\":{\"c\":[{\"d\":1}]}}\n{\"b\":2}\n",
        Err(&["there is no field `Keeper`", "there are `a`, `b`, `b.c`, `b.c.d`"]),
    ),
    (
        "a record with fields missing",
        TableFormat::Csv,
        TITLE,
        "a,Keeper\n\"x\ny\",1\n\n2\n",
        Err(&["record 2 (line 5)", "has 1 field, not 2", "--ragged keep"]),
    ),
    (
        "a quotation mark that is never closed",
        TableFormat::Csv,
        TITLE,
        "a,Keeper\n1,2\n\"3,4\n5,6\n",
        Err(&["record 2 (line 3)", "nothing closes"]),
    ),
    (
        "text after a closing quotation mark",
        TableFormat::Csv,
        TITLE,
        "a,Keeper\n1,\"2\" x\n",
        Err(&["record 1 (line 2)", "after a closing quotation mark"]),
    ),
    (
        "a line that is not JSON",
        TableFormat::JsonLines,
        "[[rule]]\ntrim = {}\n",
        "{\"a\":1}\n{\"a\":}\n",
        Err(&["record 2 (line 2)", "column 6"]),
    ),
    (
        "a list is not a record",
        TableFormat::JsonLines,
        "[[rule]]\ntrim = {}\n",
        "[1]\n",
        Err(&["record 1 (line 1)", "not a JSON object"]),
    ),
    (
        "rules about lines",
        TableFormat::Csv,
        "[[rule]]\ntrim = {}\n[[rule]]\njoin_lines = {}\n",
        "a\n",
        Err(&["rule 2", "`join_lines`", "cell_lines = true", "--table text"]),
    ),
    (
        "a result of several fields for one",
        TableFormat::Csv,
        "[[rule]]\nto_field = 'c'\ntrim = {}\n",
        "a,b\n",
        Err(&["rule 1", "one field", "from 2"]),
    ),
];

#[test]
fn each_case_holds_however_the_table_is_cut() {
    for (name, format, rules, given, want) in CASES {
        let program = program(rules);
        for way in [(1 << 20, 1 << 20, 1), (1, 1, 1), (1 << 20, 1, 2), (3, 7, 2)] {
            let got = washed(&program, *format, given.as_bytes(), way);
            match (&got, want) {
                (Ok((got, _)), Ok(want)) => assert_eq!(String::from_utf8_lossy(got), *want, "{name}, {way:?}"),
                (Err(got), Err(words)) => {
                    words.iter().for_each(|word| assert!(got.contains(word), "{name}: {got} holds no “{word}”"));
                }
                _ => panic!("{name}, {way:?}: {got:?}, not {want:?}"),
            }
        }
    }
}

/// Every place where a field is named, and what becomes of the names of two fields and of a record that has `#` in both.
/// `None`: the record goes.
type PlaceOfField = (&'static str, &'static str, [&'static str; 2], Option<[&'static str; 2]>);

const PLACES_OF_FIELDS: &[PlaceOfField] = &[
    ("a rule", "[[rule]]\nfields = 'note'\nremove.chars = '#'\n", ["note", "kind"], Some(["", "#"])),
    ("a set", "[table]\nfields = ['note']\n[[rule]]\nremove.chars = '#'\n", ["note", "kind"], Some(["", "#"])),
    (
        "a set, under a new name",
        "[table]\nfields = ['text']\n[[rule]]\nrename_fields = { note = 'text' }\n[[rule]]\nremove.chars = '#'\n",
        ["text", "kind"],
        Some(["", "#"]),
    ),
    (
        "a set that drops records",
        "[table]\nfields = ['note']\n[[rule]]\nremove.chars = '#'\n[[rule]]\ndrop_records = { empty = 'all' }\n",
        ["note", "kind"],
        None,
    ),
    (
        "rows",
        "[[rule]]\nfields = 'note'\nrows = { field = 'kind', text = 'x' }\nremove.chars = '#'\n",
        ["note", "kind"],
        Some(["#", "#"]),
    ),
    (
        "a target",
        "[[rule]]\nfields = 'note'\nto_field = 'kind'\nreplace = { chars = '#', with = '+' }\n",
        ["note", "kind"],
        Some(["#", "+"]),
    ),
];

#[test]
fn a_field_is_found_wherever_it_is_named_in_tables_of_every_format() {
    let table = |format, names: [&str; 2], record: Option<[&str; 2]>| match format {
        TableFormat::Csv | TableFormat::Tsv => {
            let line = |cells: [&str; 2]| cells.join(if format == TableFormat::Csv { "," } else { "\t" }) + "\n";
            line(names) + &record.map_or_else(String::new, line)
        }
        _ => {
            let object =
                |cells: [&str; 2]| format!("{{\"{}\":\"{}\",\"{}\":\"{}\"}}", names[0], cells[0], names[1], cells[1]);
            let record = record.map_or_else(String::new, object);
            if format == TableFormat::Json { format!("[{record}]") } else { record }
        }
    };
    for (place, rules, names, record) in PLACES_OF_FIELDS {
        for format in [TableFormat::Csv, TableFormat::Tsv, TableFormat::JsonLines, TableFormat::Json] {
            let given = table(format, ["note", "kind"], Some(["#", "#"]));
            let got = washed(&program(rules), format, given.as_bytes(), (1 << 20, 1 << 20, 1));
            let got = got.map(|(table, _)| String::from_utf8_lossy(&table).into_owned());
            assert_eq!(got, Ok(table(format, *names, *record)), "{place}, {format:?}");
        }
    }
}

#[test]
fn records_that_are_no_good_may_pass_as_they_are() {
    let keep = TableSettings { ragged: Some(Ragged::Keep), ..TableSettings::default() };
    let program = program(TITLE).with_table(keep);
    let given = b"a,Keeper\nMr. X\n1,Mr. Hale\n1,2,Mr. X\n1,\"Mr. X\" x\n2,Miss Vey\n\"Mr. X,Mr. X\n";
    let want = "a,Keeper\nMr. X\n1,Hale\n1,2,Mr. X\n1,\"Mr. X\" x\n2,Vey\n\"Mr. X,Mr. X\n";
    let (got, changes) = washed(&program, TableFormat::Csv, given, (5, 3, 2)).expect("they pass");
    assert_eq!((String::from_utf8_lossy(&got).as_ref(), &changes[..]), (want, &[2][..]));
}

#[test]
fn what_never_ends_is_an_error_and_not_held_without_bound() {
    const MEBIBYTE: usize = 1 << 20;
    let program = program("[[rule]]\nremove.chars = '#'\n");
    let piece = vec![b'x'; MEBIBYTE];
    let pieces = |start: &'static [u8]| std::iter::once(start).chain(std::iter::repeat_n(&piece[..], 70));
    let csv = TableFormat::Csv;
    for (format, start, said) in [
        (csv, &b"a,b\n1,\"2"[..], "record 1 (line 2) is longer than 64 MiB"),
        (csv, b"\"a,b", "the header (line 1) is longer than 64 MiB"),
        (TableFormat::JsonLines, b"{\"a\": \"", "record 1 (line 1) is longer than 64 MiB"),
    ] {
        let mut out = Vec::new();
        let mut washer = program.washer_of(Form::Table(format), NoObserver).expect("rules for cells");
        let error = pieces(start).find_map(|piece| washer.push(piece, &mut out).err()).expect("a bound");
        assert!(error.to_string().starts_with(said), "{error}");
        let mut surveyor = TableSurveyor::new(&TableSettings::default(), format);
        let error = pieces(start).find_map(|piece| surveyor.push(piece).err()).expect("a bound");
        assert!(error.to_string().starts_with(said), "of the survey: {error}");
    }
}

#[test]
fn json_that_is_nested_too_deep_is_an_error_of_its_record() {
    let nested = |depth: usize| format!("{{\"a\":{}\"#\"{}}}\n", "[".repeat(depth - 1), "]".repeat(depth - 1));
    let program = program("[[rule]]\nremove.chars = '#'\n");
    let washed = |text: &str| program.apply_as(Form::Table(TableFormat::JsonLines), text.as_bytes());
    assert_eq!(washed(&nested(128)).expect("not too deep"), nested(128).replace('#', "").into_bytes());
    for depth in [129, 100_000] {
        let error = washed(&(nested(1) + &nested(depth))).expect_err("too deep").to_string();
        assert!(
            error.starts_with("record 2 (line 2) is nested more than 128 objects and lists deep, at column 133"),
            "{error}"
        );
    }
    let keeps = TableSettings { ragged: Some(Ragged::Keep), ..TableSettings::default() };
    let text = nested(1) + &nested(6_000) + &nested(1);
    let kept = program.clone().with_table(keeps).apply_as(Form::Table(TableFormat::JsonLines), text.as_bytes());
    assert_eq!(kept.expect("the others").len(), text.len() - 2, "the others are cleaned");
}

#[test]
fn a_survey_tells_long_cells_apart_and_keeps_little_of_them() {
    let survey = |format, table: &[u8]| {
        let mut surveyor = TableSurveyor::new(&TableSettings::default(), format);
        surveyor.push(table).and_then(|()| surveyor.finish()).expect("a table")
    };
    let long = "fog ".repeat(100);
    let table = format!("Remarks\n{long}one\n{long}two\n{long}ONE\n{long}one\n");
    let column = &survey(TableFormat::Csv, table.as_bytes()).columns[0];
    assert_eq!(column.distinct, Some(3), "they differ after what is kept of them");
    let ways: Vec<u64> = column.alike.iter().flat_map(|group| &group.ways).map(|(_, count)| count.count).collect();
    assert_eq!(ways, [2, 1]);
    // A key of its own in each record: they are counted together once there are too many.
    let keys: Vec<String> = (0..5_000).map(|key| format!("{{\"key {key}\": \"fog\"}}\n")).collect();
    let columns = survey(TableFormat::JsonLines, keys.concat().as_bytes()).columns;
    assert_eq!((columns.len(), columns.last().map(|column| column.cells)), (4097, Some(5_000 - 4096)));
}

#[test]
fn rules_for_fields_are_not_run_over_a_text() {
    let set = RuleSet::read("set", "[[rule]]\nfields = 'a'\nremove.chars = '#'\n").expect("good rules");
    let error = Program::compile([&set]).apply(b"#a\n").expect_err("a text has no fields");
    assert!(error.to_string().contains("this is not a table, and rule 1"), "{error}");
}

#[test]
fn a_cell_may_get_a_line_end_that_was_written_in_another_way() {
    for (rule, cell) in [("decode.what = 'percent'", "a%0Ab%0D"), ("decode.what = 'html-entities'", "a&#10;b&#13;")] {
        let program = program(&format!("[[rule]]\n{rule}\n"));
        let table = format!("x,y\n1,{cell}\n2,plain\n");
        let washed = program.apply_as(Form::Table(TableFormat::Csv), table.as_bytes()).expect("a table");
        assert_eq!(String::from_utf8_lossy(&washed), "x,y\n1,\"a\nb\r\"\n2,plain\n", "{rule}");
    }
}

#[test]
fn a_command_line_narrows_the_fields_and_rules_keep_their_own() {
    let rules =
        "[table]\nfields = 'a'\n[[rule]]\nremove.chars = 'x'\n[[rule]]\nfields = ['b', 'c']\nremove.chars = 'y'\n";
    let only = |fields: &[&str]| {
        let fields = fields.iter().map(|field| washout_core::rules::Field::Name((*field).to_owned()));
        TableSettings { only: Some(fields.collect()), ..TableSettings::default() }
    };
    let given = b"a,b,c\nxy,xy,xy\n";
    for (program, want) in [
        (program(rules), "a,b,c\ny,x,x\n"),
        (program(rules).with_table(only(&["c"])), "a,b,c\nxy,xy,\n"),
        (program(rules).with_table(only(&["A", "2"])), "a,b,c\ny,,xy\n"),
    ] {
        let (got, _) = washed(&program, TableFormat::Csv, given, (99, 99, 1)).expect("fields that are there");
        assert_eq!(String::from_utf8_lossy(&got), want);
    }
}

#[test]
fn changes_are_told_by_record_and_field() {
    let program = program(
        "[[rule]]\nfields = 'b'\nremove.chars = '#'\n[[rule]]\nfields = 'b'\nto_field = 'n'\nkeep.pattern = '\\d'\n\
         [[rule]]\nreplace = { pattern = '^$', with = '?' }\n[[rule]]\nfields = 'n'\nreplace = { chars = '7', with = 'seven' }\n",
    );
    let (_, changes, hunks) = told(&program, TableFormat::Csv, b"a,b\n1,\"x\n#7\"\n,y\n");
    let places: Vec<_> = hunks
        .iter()
        .flat_map(|hunk| {
            let cell = hunk.cell.as_ref().expect("a cell");
            let place = move |change: washout_core::observe::PlacedChange<'_>| {
                let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
                format!(
                    "{}:{}:{}:{} rule {} {:?} {:?}",
                    cell.record,
                    cell.field.as_deref().unwrap_or("whole record"),
                    change.line,
                    change.column,
                    change.rule.0 + 1,
                    text(&change.before),
                    text(&change.after)
                )
            };
            hunk.changes().map(place)
        })
        .collect();
    assert_eq!(
        places,
        [
            "1:b:2:1 rule 1 \"#\" \"\"",
            "1:n:1:1 rule 4 \"\" \"seven\"",
            "2:a:1:1 rule 3 \"\" \"?\"",
            "2:n:1:1 rule 3 \"\" \"?\"",
        ]
    );
    assert_eq!(changes, [1, 1, 2, 1]);
}

#[test]
fn formulas_are_found_and_signed_numbers_are_none() {
    let settings = TableSettings { guards_formulas: true, ..TableSettings::default() };
    let program = program("[[rule]]\nfields = 'b'\ntrim = {}\n").with_table(settings);
    let mut washer = program.washer_of(Form::Table(TableFormat::Csv), NoObserver).expect("rules for tables");
    let table = "=a,b\n-12.5,\" =SUM(A1)\"\n+x,-\n@y,a=b\n\"\t=1\",x\n\"\r\n＝1\",＋1\n".as_bytes();
    washer.push(table, &mut Vec::new()).and_then(|()| washer.finish(&mut Vec::new())).expect("a good table");
    let formulas = washer.about_table().expect("a table").formulas;
    let places: Vec<_> =
        formulas.places.iter().map(|(place, _)| (place.record, place.field.as_deref().unwrap_or_default())).collect();
    assert_eq!((formulas.count, places), (7, vec![(0, "=a"), (1, "b"), (2, "=a"), (2, "b"), (3, "=a")]));
}

/// A cell as a table has it: its text, and whether in quotes though it needs none.
type OutputChunks = (Vec<u8>, bool);

fn cell() -> impl Strategy<Value = OutputChunks> {
    let text = prop_oneof![text(), Just(Vec::new())]
        .prop_filter("no mark that a file may begin with", |text| !text.starts_with("\u{FEFF}".as_bytes()));
    (text, any::<bool>())
}

fn written(text: &[u8], quoted: bool) -> Vec<u8> {
    let needed = text.iter().any(|byte| b",\"\r\n".contains(byte));
    if !quoted && !needed {
        return text.to_vec();
    }
    let inner: Vec<u8> = text.iter().flat_map(|byte| if *byte == b'"' { vec![b'"'; 2] } else { vec![*byte] }).collect();
    [b"\"", &inner[..], b"\""].concat()
}

/// What the rules for a column make of a cell: an empty cell is an empty line.
fn of_cell(set: &RuleSet, text: &[u8]) -> (Vec<u8>, Vec<u64>) {
    if !text.is_empty() {
        return reference::apply(set, text);
    }
    let (mut got, changes) = reference::apply(set, b"\n");
    match got.pop() {
        Some(b'\n') => (got, changes),
        Some(other) => ([&got[..], &[other]].concat(), changes),
        // The reference has a line end to take, the cell has not: nothing of it changes.
        None => (got, reference::apply(set, b"").1),
    }
}

/// A rule set of random rules, each of them for some of the columns A, B and C.
fn for_fields(rules: &str, fields: &[&str]) -> RuleSet {
    let mut parts = rules.split("[[rule]]\n");
    let mut source = parts.next().unwrap_or_default().to_owned();
    for (part, fields) in parts.zip(fields.iter().cycle()) {
        source.extend(["[[rule]]\ncell_lines = true\n", fields, part]);
    }
    RuleSet::read("random", &source).unwrap_or_else(|error| panic!("{error}"))
}

/// What the rules of a set make of cells, one by one.
struct Judge<'s> {
    set: &'s RuleSet,
    /// The numbers of its rules, and how many changes each has made.
    counts: Vec<(usize, u64)>,
}

impl<'s> Judge<'s> {
    fn new(set: &'s RuleSet) -> Self {
        Self { set, counts: set.rules.iter().filter(|rule| !rule.off).map(|rule| (rule.number, 0)).collect() }
    }

    fn cell(&mut self, column: usize, text: &[u8]) -> Vec<u8> {
        let is_here = |rule: &&washout_core::rules::Rule| {
            let fields = rule.cells.fields.as_deref().unwrap_or_default();
            fields.is_empty()
                || fields.iter().any(|field| match field {
                    washout_core::rules::Field::Name(name) => ["A", "B", "C"][column] == name,
                    washout_core::rules::Field::Place(place) => *place == column + 1,
                })
        };
        let on = |rule: &&washout_core::rules::Rule| !rule.off;
        let mut text = text.to_vec();
        for rule in self.set.rules.iter().filter(is_here).filter(on) {
            let (got, changes) = of_cell(&RuleSet { rules: vec![rule.clone()], ..self.set.clone() }, &text);
            let (_, count) =
                self.counts.iter_mut().find(|(number, _)| *number == rule.number).expect("a rule of the set");
            *count += changes.iter().sum::<u64>();
            text = got;
        }
        text
    }

    fn counts(&self) -> Vec<u64> {
        self.counts.iter().map(|(_, count)| *count).collect()
    }
}

/// Compares what comes of a table with what is wanted, however it is cut, and observed.
fn compare(
    set: &RuleSet,
    format: TableFormat,
    (given, want, counts): (&[u8], &[u8], Vec<u64>),
    way: (usize, usize, usize),
) -> Result<Vec<Hunk>, TestCaseError> {
    let program = Program::compile([set]);
    let shown = |bytes: &[u8]| bytes.escape_ascii().to_string();
    for way in [way, (1 << 20, 1 << 20, 1)] {
        let (got, changes) = washed(&program, format, given, way).map_err(TestCaseError::fail)?;
        prop_assert_eq!(shown(&got), shown(want), "{:?}", way);
        prop_assert_eq!(&changes, &counts, "{:?}", way);
    }
    let (got, changes, hunks) = told(&program, format, given);
    prop_assert_eq!(shown(&got), shown(want), "told");
    prop_assert_eq!(changes, counts, "told");
    Ok(hunks)
}

/// Compares what comes of columns that are in memory with what is wanted; those of rules for all fields one by one too, in
/// parts of `part` cells.
fn in_memory(
    set: &RuleSet,
    before: &[Vec<Option<&[u8]>>; 3],
    after: &[Vec<Vec<u8>>; 3],
    counts: &[u64],
    part: usize,
) -> Result<(), TestCaseError> {
    let program = Program::compile([set]);
    let same = |cells: Option<&WashedCells>, column: usize, range: std::ops::Range<usize>| {
        let cells: Vec<_> = match cells {
            Some(cells) => (0..cells.count()).map(|cell| cells.cell(cell)).collect(),
            None => before[column][range.clone()].to_vec(),
        };
        prop_assert_eq!(cells, after[column][range].iter().map(|cell| Some(&cell[..])).collect::<Vec<_>>());
        Ok(())
    };
    let mut washer = program.record_washer(["A", "B", "C"]).expect("rules for cells");
    let columns = before.each_ref().map(Vec::as_slice);
    let given = columns.each_ref().map(|cells| Some(Column::of_texts(cells)));
    let records = before[0].len();
    let washed = washer.wash(&given, records).map_err(|error| TestCaseError::fail(error.to_string()))?;
    for (column, cells) in washed.columns.iter().enumerate() {
        same(cells.as_ref(), column, 0..records)?;
    }
    prop_assert_eq!(washer.changes(), counts);
    let Ok(washer) = program.column_washer() else { return Ok(()) };
    let mut changes = vec![0; counts.len()];
    for (column, cells) in columns.into_iter().enumerate() {
        for start in (0..records).step_by(part) {
            let range = start..records.min(start + part);
            let washed = washer.wash(cells, range.clone());
            let washed = washed.map_err(|error| TestCaseError::fail(error.to_string()))?;
            same(washed.cells.as_ref(), column, range)?;
            changes.iter_mut().zip(washed.changes).for_each(|(total, made)| *total += made);
        }
    }
    prop_assert_eq!(changes, counts);
    Ok(())
}

/// A string as JSON has it, plainly or with every character of it escaped.
fn json(text: &str, escaped: bool) -> String {
    let unit = |unit: u16| format!("\\u{unit:04x}");
    if escaped {
        return format!("\"{}\"", text.encode_utf16().map(unit).collect::<String>());
    }
    serde_json::to_string(text).expect("a string")
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn each_cell_becomes_what_the_reference_makes_of_it(
        rules in rules(),
        fields in prop::collection::vec(select(&["", "fields = 'A'\n", "fields = ['B', 3]\n", "fields = 2\n"][..]), 8),
        records in prop::collection::vec([cell(), cell(), cell()], 0..7),
        ends in prop::collection::vec(select(&["\n", "\r\n", "\r"][..]), 8),
        way in (1..40_usize, 1..60_usize, 1..3_usize),
    ) {
        let set = for_fields(&rules, &fields);
        let mut judge = Judge::new(&set);
        let mut given = b"A,B,C\n".to_vec();
        let mut want = given.clone();
        let mut changed = Vec::new();
        let mut after: [Vec<Vec<u8>>; 3] = Default::default();
        for ((number, record), end) in (1..).zip(&records).zip(ends.iter().cycle()) {
            for (column, (text, quoted)) in record.iter().enumerate() {
                let got = judge.cell(column, text);
                if column > 0 {
                    given.push(b',');
                    want.push(b',');
                }
                let raw = written(text, *quoted);
                let was_quoted = raw.first() == Some(&b'"');
                want.extend(if got == *text { raw.clone() } else { written(&got, was_quoted) });
                if got != *text {
                    changed.push((number, ["A", "B", "C"][column].to_owned()));
                }
                given.extend(raw);
                after[column].push(got);
            }
            given.extend_from_slice(end.as_bytes());
            want.extend_from_slice(end.as_bytes());
        }
        let before = [0, 1, 2].map(|column| records.iter().map(|record| Some(&record[column].0[..])).collect::<Vec<_>>());
        in_memory(&set, &before, &after, &judge.counts(), way.0)?;
        let hunks = compare(&set, TableFormat::Csv, (&given, &want, judge.counts()), way)?;
        let told: std::collections::BTreeSet<(u64, String)> =
            hunks.iter().filter_map(|hunk| hunk.cell.as_ref()).map(|cell| (cell.record, cell.field.as_deref().unwrap_or_default().to_owned())).collect();
        for place in changed {
            prop_assert!(told.contains(&place), "{:?} is not told", place);
        }
    }

    #[test]
    fn each_string_of_json_becomes_what_the_reference_makes_of_it(
        rules in rules(),
        fields in prop::collection::vec(select(&["", "fields = 'A'\n", "fields = ['B', 'C']\n", "fields = 'C'\n"][..]), 8),
        records in prop::collection::vec([cell(), cell(), cell()], 1..7),
        spaces in prop::collection::vec(select(&["", " ", "  "][..]), 8),
        way in (1..40_usize, 1..60_usize, 1..3_usize),
    ) {
        let set = for_fields(&rules, &fields);
        let mut judge = Judge::new(&set);
        let (mut given, mut want) = (String::new(), String::new());
        for (record, space) in records.iter().zip(spaces.iter().cycle()) {
            let mut both = |part: &str| {
                given.push_str(part);
                want.push_str(part);
            };
            both(&format!("{{\"n\":{space}1.50e3,"));
            for (column, (text, escaped)) in record.iter().enumerate() {
                let text = String::from_utf8_lossy(text);
                let got = judge.cell(column, text.as_bytes());
                // A list of two, the second of which is not a string.
                let (open, close) = if column == 2 { ("[", ", 2]") } else { ("", "") };
                let key = format!("{space}\"{}\"{space}:{open}", ["A", "B", "C"][column]);
                let end = format!("{close}{space}{}", if column == 2 { "}\r\n" } else { "," });
                let got = String::from_utf8(got).map_err(|error| TestCaseError::fail(error.to_string()))?;
                let raw = json(&text, *escaped);
                let made = if got == text { raw.clone() } else { json(&got, false) };
                given.extend([&key, &raw, &end].map(String::as_str));
                want.extend([&key, &made, &end].map(String::as_str));
            }
        }
        compare(&set, TableFormat::JsonLines, (given.as_bytes(), want.as_bytes(), judge.counts()), way)?;
    }
}
