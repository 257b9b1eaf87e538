//! Rules that act on records and fields of a table, against a plain model of it.

use proptest::prelude::*;
use proptest::sample::select;
use washout_core::observe::{Detail, Hunk, Observer};
use washout_core::table::{AnyWasher, Cells, Column, Form, OutField, TableFormat, WashedCells};
use washout_core::{Program, RuleSet};

fn program(rules: &str) -> Program {
    Program::compile([&RuleSet::read("rules", rules).unwrap_or_else(|error| panic!("{error}\n{rules}"))])
}

#[derive(Default)]
struct ChangeLog {
    is_active: bool,
    hunks: Vec<Hunk>,
}

impl Observer for ChangeLog {
    fn cell(&mut self, hunk: Hunk) {
        self.hunks.push(hunk);
    }

    fn detail(&self) -> Detail {
        Detail::All
    }

    fn is_active(&self) -> bool {
        self.is_active
    }
}

/// What a run gives: the table, the changes of each rule, and what is told if `is_active`. The numbers are the size of
/// pieces and that of blocks, in bytes, and how many threads there are.
fn washed(
    program: &Program,
    format: TableFormat,
    table: &str,
    (piece, block, threads): (usize, usize, usize),
    is_active: bool,
) -> Result<(String, Vec<u64>, Vec<Hunk>), String> {
    let washer = program.washer_of(Form::Table(format), ChangeLog { is_active, hunks: Vec::new() });
    let AnyWasher::Table(washer) = washer.map_err(|error| error.to_string())? else { panic!("taken for no table") };
    let mut washer = washer.with_block_size(block).with_threads(threads);
    let mut result = Vec::new();
    for piece in table.as_bytes().chunks(piece) {
        washer.push(piece, &mut result).map_err(|error| error.to_string())?;
    }
    washer.finish(&mut result).map_err(|error| error.to_string())?;
    let (changes, any_change) = (washer.changes().to_vec(), washer.any_change());
    let result = String::from_utf8(result).expect("what came in is UTF-8");
    assert_eq!(any_change, result != table, "whether anything changed");
    Ok((result, changes, washer.into_observer().hunks))
}

/// Rules, a table, and what becomes of it: a table and the changes of each rule, or a message that holds these words.
type Case = (TableFormat, &'static str, &'static str, Result<(&'static str, &'static [u64]), &'static [&'static str]>);

const CASES: &[Case] = &[
    // Blanks and line ends are nothing, and quotes are ignored; a missing field of JSON is empty, a number is not.
    (
        TableFormat::Csv,
        "[[rule]]\nfields = ['a', 'b']\ndrop_records = { empty = 'all' }\n",
        "a,b,c\n1,,x\n \t,\"\n\",y\n\"\",,z",
        Ok(("a,b,c\n1,,x\n", &[2])),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\nfields = ['a', 'b']\ndrop_records = { empty = 'any' }\n",
        "{\"a\":1,\"b\":\"x\"}\n{\"a\":\" \",\"b\":2}\r\n{\"b\":\"x\"}\n{\"a\":[],\"b\":1}\n{\"a\":null,\"b\":1}\n{\"a\":{},\"b\":false}\n",
        Ok(("{\"a\":1,\"b\":\"x\"}\n{\"a\":{},\"b\":false}\n", &[4])),
    ),
    // Records that are empty in these fields are not repeated, and a text never equals a number.
    (
        TableFormat::JsonLines,
        "[[rule]]\nfields = 'n'\ndrop_records = { repeated = 'file' }\n",
        "{\"n\":1}\n{\"n\":\"1\"}\n{\"n\":1,\"x\":2}\n{}\n{\"n\":\"\"}\n{\"n\":\"\"}\n{\"n\":[1,2]}\n{\"n\":[1, 2]}\n{\"n\":[12]}\n",
        Ok(("{\"n\":1}\n{\"n\":\"1\"}\n{}\n{\"n\":\"\"}\n{\"n\":\"\"}\n{\"n\":[1,2]}\n{\"n\":[12]}\n", &[2])),
    ),
    (
        TableFormat::Csv,
        "[[rule]]\nfields = 'k'\ntrim = {}\n[[rule]]\nfields = ['k', 'n']\n\
         drop_records = { repeated = 'neighbours', case = 'ignore' }\n[[rule]]\nfields = 'k'\nremove.chars = 'o'\n",
        "n,k\n1,Oil\n1, oil\n2,oil\n1,oil \n",
        Ok(("n,k\n1,Oil\n2,il\n1,il\n", &[2, 1, 2])),
    ),
    // Cells that would join to the same text are not the same.
    (
        TableFormat::Csv,
        "[[rule]]\ndrop_records = { repeated = 'file' }\n",
        "a,b\nx,yz\nxy,z\n\"x\",yz\n\n",
        Ok(("a,b\nx,yz\nxy,z\n\n", &[1])),
    ),
    (
        TableFormat::Csv,
        "protect = [{ text = 'keep' }]\n[[rule]]\nrows = { field = 'a', chars = '#' }\ndrop_records = {}\n",
        "a,b\n#,1\n#,keep\n1,2\n",
        Ok(("a,b\n#,keep\n1,2\n", &[1])),
    ),
    // Columns go with one delimiter, names that need quotes get them, and a record of one empty field is still a record.
    (
        TableFormat::Csv,
        "[[rule]]\ndrop_fields = ['a', 3]\n[[rule]]\nrename_fields = { b = 'x,y' }\n[[rule]]\nfields = 'x,y'\nremove.chars = '#'\n",
        "a,\"b\",c\r\n1,#,\"3,\"\r\n\r\n4,\"5\",6",
        Ok(("\"x,y\"\r\n\"\"\r\n\r\n\"5\"", &[2, 1, 1])),
    ),
    // Names change places; what an earlier rule made can be renamed and dropped; a name that is free again is made again.
    (
        TableFormat::Csv,
        "[[rule]]\nfields = 'a'\nto_field = 'm'\nremove.chars = 'x'\n[[rule]]\nrename_fields = { a = 'b', b = 'a' }\n\
         [[rule]]\nrename_fields = { m = 'n' }\n[[rule]]\ndrop_fields = 'a'\n\
         [[rule]]\nfields = 'b'\nto_field = { field = 'a', at = 'start' }\nremove.chars = 'y'\n[[rule]]\ndrop_fields = 'n'\n",
        "a,b\nxy,z\n",
        Ok(("a,b\nx,xy\n", &[1, 2, 1, 1, 1, 1])),
    ),
    (
        TableFormat::Csv,
        "[[rule]]\nfields = 'b'\nto_field = { field = 'p', before = 'a' }\nkeep.chars = '1'\n\
         [[rule]]\nfields = 'b'\nto_field = { field = 'q', after = 'a' }\nkeep.chars = '2'\n\
         [[rule]]\nfields = 'b'\nto_field = { field = 'r', after = 'a' }\nkeep.chars = '3'\n\
         [[rule]]\nfields = 'q'\nto_field = { field = 's', at = 'end' }\nkeep.chars = '2'\n",
        "a,b,c\nx,123,\"\"\n",
        Ok(("p,a,q,r,b,c,s\n1,x,2,3,123,\"\",2\n", &[1, 1, 1, 1])),
    ),
    (
        TableFormat::Tsv,
        "[table]\nheader = false\n[[rule]]\ndrop_fields = 2\n[[rule]]\nfields = 3\nremove.chars = '#'\n",
        "a\tb\t#c\n",
        Ok(("a\tc\n", &[1, 1])),
    ),
    // JSON: wherever the field stands, with the blanks there are; what is made of it stays; a number gives way to a result.
    (
        TableFormat::JsonLines,
        "[[rule]]\nfields = 'a'\nto_field = 'm'\nkeep.chars = '1'\n[[rule]]\ndrop_fields = 'a'\n",
        "{ \"a\": \"x1\", \"b\": 2 }\n{\"b\":2,\"a\":[\"x1\",3]}\n{\"a\":\"1\"}\n{\"m\":5,\"a\":\"1\"}\n{\"b\":{\"a\":1}}\n",
        Ok((
            "{ \"m\": \"1\", \"b\": 2 }\n{\"b\":2,\"m\":\"1\"}\n{\"m\":\"1\"}\n{\"m\":\"1\"}\n{\"b\":{\"a\":1}}\n",
            &[4, 4],
        )),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\nfields = 'p.a'\nto_field = 'p.m'\ntrim = {}\n[[rule]]\nfields = 'b'\nto_field = 'm'\ntrim = {}\n",
        "{\"b\":\"x\",\"p\":{\"a\":1}}\n",
        Ok(("{\"b\":\"x\",\"m\":\"x\",\"p\":{\"a\":1,\"m\":\"\"}}\n", &[0, 1])),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\nrename_fields = { 'p.n' = 'p.name', q = 'r' }\n[[rule]]\nrename_fields = { p = 'person' }\n\
         [[rule]]\nfields = ['person.name', 'r']\nremove.chars = '#'\n[[rule]]\nfields = 'r'\ndrop_records = { repeated = 'file' }\n",
        "{\"p\" : {\"n\" :\"#\"},\"q\\u0022\":1,\"q\":\"#x\"}\n{\"person\":{\"name\":\"#\"},\"r\":\"x\"}\n",
        Ok(("{\"person\" : {\"name\" :\"\"},\"q\\u0022\":1,\"r\":\"x\"}\n", &[2, 1, 3, 1])),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\ndrop_fields = ['a', 'c.d']\n[[rule]]\ndrop_fields = 'c'\n[[rule]]\nremove.chars = '#'\n",
        "{\"a\":{\"x\":\"#\"} , \"b\" : \"#\", \"c\":[{\"d\":1,\"e\":\"#\"}]}\n{\"a\":1,\"c\":{\"d\":\"#\"}}\n",
        Ok(("{\"b\" : \"\"}\n{}\n", &[4, 2, 1])),
    ),
    // Arrays: what parts records goes with them, in whatever block they are.
    (
        TableFormat::Json,
        "[[rule]]\nfields = 'a'\nto_field = 'm'\nkeep.chars = '#'\n[[rule]]\nfields = 'a'\ndrop_records = { empty = 'all' }\n",
        " [\n  {\"a\": \"\"},\n  {\n    \"a\": \"#1\",\n    \"b\": 2\n  } ,\n  {\"x\": \"[]},\"},{\"a\":\"3\"}\n]\n",
        Ok((
            " [\n  {\n    \"a\": \"#1\",\n    \"m\": \"#\",\n    \"b\": 2\n  },{\"a\":\"3\",\"m\":\"\"}\n]\n",
            &[1, 2],
        )),
    ),
    (TableFormat::Json, "[[rule]]\ndrop_records = { empty = 'any' }\n", "[{\"a\":\"\"}]", Ok(("[]", &[1]))),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", " [ ] ", Ok((" [ ] ", &[0]))),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "", Ok(("", &[0]))),
    (
        TableFormat::Json,
        "[[rule]]\ntrim = {}\n",
        "{\"a\": 1}",
        Err(&["line 1", "not an array of JSON objects", "--table jsonl"]),
    ),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "[{\"a\":1}\n{\"a\":2}]", Err(&["record 2 (line 2)", "comma"])),
    (
        TableFormat::Json,
        "[[rule]]\ntrim = {}\n",
        "[{\"a\":1},\n ,{\"a\":2}]",
        Err(&["record 2 (line 2)", "not valid JSON"]),
    ),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "[\n{\"a\":1\n,\"b\"}\n]", Err(&["record 1 (line 3)", "column 5"])),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "[{\"a\":1},\n5]", Err(&["record 2 (line 2)", "not a JSON object"])),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "[{\"a\":1}] \n x", Err(&["(line 2)", "after the array"])),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "[{\"a\":1}", Err(&["nothing closes"])),
    (TableFormat::Json, "[[rule]]\ntrim = {}\n", "[{\"a\":1},", Err(&["nothing closes"])),
    // What cannot be done is an error that names what to do.
    (TableFormat::Csv, "[[rule]]\ndrop_fields = ['a', 'b']\n", "a,b\n", Err(&["rule 1", "every field"])),
    (TableFormat::Csv, "[[rule]]\nrename_fields = { a = 'b' }\n", "a,b\n", Err(&["`a`", "a field `b` already"])),
    (
        TableFormat::Csv,
        "[[rule]]\nrename_fields = { a = 'c' }\n[[rule]]\nfields = 'a'\ntrim = {}\n",
        "a,b\n",
        Err(&["no field `a`", "there are `c`, `b`"]),
    ),
    (
        TableFormat::Csv,
        "[[rule]]\ndrop_fields = 2\n[[rule]]\nfields = 2\ntrim = {}\n",
        "a,b\n",
        Err(&["no field `2`", "there are `a`"]),
    ),
    (
        TableFormat::Csv,
        "[table]\nheader = false\n[[rule]]\nrename_fields = { 1 = 'b' }\n",
        "a,b\n",
        Err(&["rule 1", "have no names"]),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\nrename_fields = { a = 'b' }\n",
        "{\"a\":1}\n{\"b\":1,\"a\":2}\n",
        Err(&["record 2 (line 2)", "`a`", "a `b` too"]),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\nrename_fields = { 'p.a' = 'a' }\n",
        "{}\n",
        Err(&["rule 1", "stays in its object"]),
    ),
    (
        TableFormat::JsonLines,
        "[[rule]]\ndrop_fields = 'a'\n[[rule]]\nfields = 'a.b'\ntrim = {}\n",
        "{\"a\":{\"b\":1}}\n",
        Err(&["no field `a.b`"]),
    ),
];

#[test]
fn each_case_holds_however_the_table_is_cut() {
    for (format, rules, given, want) in CASES {
        let program = program(rules);
        for way in [(1 << 20, 1 << 20, 1), (1, 1, 1), (1 << 20, 1, 2), (3, 7, 2)] {
            for is_active in [false, true] {
                let got = washed(&program, *format, given, way, is_active);
                match (&got, want) {
                    (Ok((got, changes, _)), Ok((want, counts))) => {
                        assert_eq!((got.as_str(), &changes[..]), (*want, *counts), "{rules}{given}, {way:?}");
                    }
                    (Err(got), Err(words)) => {
                        words.iter().for_each(|word| assert!(got.contains(word), "{rules}: {got} holds no “{word}”"));
                    }
                    _ => panic!("{rules}{given}, {way:?}: {got:?}, not {want:?}"),
                }
            }
        }
    }
}

#[test]
fn dropped_records_and_fields_are_told_whole() {
    let rules = "[[rule]]\nfields = 'a'\nremove.chars = '#'\n[[rule]]\nfields = 'a'\ndrop_records = { empty = 'all' }\n\
                 [[rule]]\ndrop_fields = 'b'\n[[rule]]\nrename_fields = { a = 'c' }\n";
    let places = |format, table: &str| -> Vec<String> {
        let (.., hunks) = washed(&program(rules), format, table, (99, 99, 1), true).expect("a good table");
        let told = |hunk: &Hunk| {
            let place = hunk.cell.as_ref().expect("a cell");
            let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
            let field = place.field.as_deref().unwrap_or("-");
            let changes = hunk.changes().map(|change| (change.rule.0 + 1, text(&change.before), text(&change.after)));
            format!("{} {field} {:?}", place.record, changes.collect::<Vec<_>>())
        };
        hunks.iter().map(told).collect()
    };
    assert_eq!(
        places(TableFormat::Csv, "a,b\n#,1\n#2,3\n"),
        [r#"0 b [(3, "b", "")]"#, r#"0 a [(4, "a", "c")]"#, r##"1 - [(2, "#,1", "")]"##, r##"2 a [(1, "#", "")]"##]
    );
    assert_eq!(
        places(TableFormat::Json, "[{\"a\":\"#\"},{\"a\":\"#2\",\"b\":[3]}]"),
        [
            r##"1 - [(2, "{\"a\":\"#\"}", "")]"##,
            r#"2 a [(4, "a", "c")]"#,
            r##"2 a [(1, "#", "")]"##,
            r#"2 b [(3, "[3]", "")]"#
        ]
    );
}

#[test]
fn what_is_missing_in_memory_stays_missing_and_other_values_stay_as_they_are() {
    let rules = "[[rule]]\ntrim = {}\n[[rule]]\nfields = 'a'\nto_field = 'c'\nremove.text = 'x'\n\
                 [[rule]]\nfields = ['a', 'n']\ndrop_records = { repeated = 'file' }\n";
    let program = program(rules);
    let mut washer = program.record_washer(["a", "n"]).expect("rules for tables");
    assert!(washer.remembers());
    assert_eq!((washer.named_by(0).map(|rule| rule.0), washer.named_by(1)), (Some(1), None));
    let texts = [None, Some(&b" x "[..]), Some(b"x"), None, Some(b"")];
    let numbers = [Some(&b" 1"[..]), Some(b"1"), Some(b"1"), Some(b" 1"), None];
    let (texts, numbers) = (&texts[..], &numbers[..]);
    let washed = washer.wash(&[Some(Column::of_texts(&texts)), Some(Column::of_values(&numbers))], 5);
    let washed = washed.expect("nothing fails");
    let all = |cells: &Option<WashedCells>| {
        let cells = cells.as_ref()?;
        Some((0..cells.count()).map(|cell| cells.cell(cell).map(<[u8]>::to_vec)).collect::<Vec<_>>())
    };
    let text = |text: &str| Some(text.as_bytes().to_vec());
    assert_eq!(washed.kept, Some(vec![0, 1, 4]), "equal after cleaning, and a missing one equals a missing one");
    assert_eq!(all(&washed.columns[0]), Some(vec![None, text("x"), text("")]));
    assert_eq!(all(&washed.columns[1]), Some(vec![None, text(""), text("")]), "made of what is missing: missing");
    assert_eq!(washed.columns[2], None);
    assert_eq!(washer.changes(), [2, 0, 2]);
}

/// A table of plain texts, with what rules have made of it.
#[derive(Clone, Debug)]
struct Model {
    /// What each field is called.
    names: Vec<String>,
    records: Vec<Vec<String>>,
    changes: Vec<u64>,
}

/// A rule, as it is written and as the model does it.
#[derive(Clone, Debug)]
enum Act {
    Strip(usize),
    Empty(bool, Vec<usize>),
    Repeated(bool, Vec<usize>),
    Drop(usize),
    Rename(usize, &'static str),
    Make(usize, &'static str, Option<usize>),
}

impl Model {
    fn quoted(&self, fields: &[usize]) -> String {
        let names: Vec<String> =
            fields.iter().map(|field| format!("'{}'", self.names[field % self.names.len()])).collect();
        names.join(", ")
    }

    /// Does it, and gives the rule. `None`: it cannot be done to this table.
    fn act(&mut self, act: &Act) -> Option<String> {
        let field = |field: &usize| field % self.names.len();
        let fields = |named: &[usize]| -> Vec<usize> { named.iter().map(field).collect() };
        let (rule, count) = match act {
            Act::Strip(named) => {
                let column = field(named);
                let count: usize = self.records.iter().map(|record| record[column].matches('#').count()).sum();
                self.records.iter_mut().for_each(|record| record[column] = record[column].replace('#', ""));
                (format!("fields = {}\nremove.chars = '#'", self.quoted(&[column])), count)
            }
            Act::Empty(all, named) => {
                let columns = fields(named);
                let rule = format!(
                    "fields = [{}]\ndrop_records = {{ empty = '{}' }}",
                    self.quoted(&columns),
                    if *all { "all" } else { "any" }
                );
                let before = self.records.len();
                self.records.retain(|record| {
                    let mut empty = columns.iter().map(|column| record[*column].trim().is_empty());
                    if *all { !empty.all(|empty| empty) } else { !empty.any(|empty| empty) }
                });
                (rule, before - self.records.len())
            }
            Act::Repeated(file, named) => {
                let columns = fields(named);
                let rule = format!(
                    "fields = [{}]\ndrop_records = {{ repeated = '{}' }}",
                    self.quoted(&columns),
                    if *file { "file" } else { "neighbours" }
                );
                let mut seen: Vec<Vec<String>> = Vec::new();
                let before = self.records.len();
                self.records.retain(|record| {
                    let key: Vec<String> = columns.iter().map(|column| record[*column].clone()).collect();
                    if key.iter().all(|value| value.trim().is_empty()) {
                        return true;
                    }
                    let is_repeated = if *file { seen.contains(&key) } else { seen.last() == Some(&key) };
                    seen.push(key);
                    !is_repeated
                });
                (rule, before - self.records.len())
            }
            Act::Drop(named) => {
                let column = field(named);
                let rule = format!("drop_fields = {}", self.quoted(&[column]));
                (self.names.len() > 1).then(|| self.names.remove(column))?;
                self.records.iter_mut().for_each(|record| drop(record.remove(column)));
                (rule, 1)
            }
            Act::Rename(named, new) => {
                let column = field(named);
                (!self.names.iter().any(|name| name == new)).then_some(())?;
                let old = std::mem::replace(&mut self.names[column], (*new).to_owned());
                (format!("rename_fields = {{ '{old}' = '{new}' }}"), 1)
            }
            Act::Make(named, new, place) => {
                let source = field(named);
                (!self.names.iter().any(|name| name == new)).then_some(())?;
                let at = place.map_or(self.names.len(), |other| other % self.names.len());
                let said = match place {
                    None => "at = 'end'".to_owned(),
                    Some(_) => format!("before = {}", self.quoted(&[at])),
                };
                let rule = format!(
                    "fields = {}\nto_field = {{ field = '{new}', {said} }}\nremove.chars = '#'",
                    self.quoted(&[source])
                );
                self.names.insert(at, (*new).to_owned());
                let mut count = 0;
                for record in &mut self.records {
                    let value = record[source].replace('#', "");
                    count += usize::from(!value.is_empty());
                    record.insert(at, value);
                }
                (rule, count)
            }
        };
        self.changes.push(count as u64);
        Some(format!("[[rule]]\n{rule}\n"))
    }
}

/// What becomes of a table whose columns are in memory and come in parts of `part` records.
fn in_memory(program: &Program, table: &Model, part: usize) -> (Vec<String>, Vec<Vec<String>>, Vec<u64>) {
    let washer = program.record_washer(table.names.iter().map(String::as_str)).expect("rules for tables");
    let mut washer = washer.into_owned();
    let mut after: Vec<Vec<String>> = Vec::new();
    // The second time nothing may be left of the first.
    for records in table.records.chunks(part).chain([&[][..]]).chain(table.records.chunks(part)) {
        if records.is_empty() {
            after.clear();
            washer.start_again();
            continue;
        }
        let column = |column: usize| records.iter().map(|record| Some(record[column].as_bytes())).collect();
        let columns: Vec<Vec<Option<&[u8]>>> = (0..table.names.len()).map(column).collect();
        let columns: Vec<&[Option<&[u8]>]> = columns.iter().map(Vec::as_slice).collect();
        let given = |column| washer.sees(column).then(|| Column::of_texts(&columns[column]));
        let given: Vec<Option<Column<'_>>> = (0..columns.len()).map(given).collect();
        let washed = washer.wash(&given, records.len()).expect("nothing fails");
        let kept = washed.kept.unwrap_or_else(|| (0..records.len()).collect());
        for (place, record) in kept.into_iter().enumerate() {
            let cell = |(field, cells): (&OutField, &Option<WashedCells>)| match (cells, field.source) {
                (Some(cells), _) => String::from_utf8_lossy(cells.cell(place).expect("none is missing")).into_owned(),
                (None, source) => records[record][source.expect("what is made is given")].clone(),
            };
            after.push(washer.fields().iter().zip(&washed.columns).map(cell).collect());
        }
    }
    let names = washer.fields().iter().map(|field| field.name.to_string()).collect();
    (names, after, washer.changes().to_vec())
}

fn acts() -> impl Strategy<Value = Vec<Act>> {
    let field = || 0..6_usize;
    let named = || prop::collection::vec(field(), 1..3);
    let name = || select(&["A", "B", "C", "D", "E"][..]);
    let act = prop_oneof![
        field().prop_map(Act::Strip),
        (any::<bool>(), named()).prop_map(|(all, fields)| Act::Empty(all, fields)),
        (any::<bool>(), named()).prop_map(|(file, fields)| Act::Repeated(file, fields)),
        field().prop_map(Act::Drop),
        (field(), name()).prop_map(|(field, new)| Act::Rename(field, new)),
        (field(), name(), prop::option::of(field())).prop_map(|(source, new, place)| Act::Make(source, new, place)),
    ];
    prop::collection::vec(act, 1..8)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn rules_in_a_row_do_what_the_model_does(
        acts in acts(),
        records in prop::collection::vec(prop::collection::vec(select(&["", " ", "#", "x", "#x", "y#"][..]), 3), 0..9),
        way in (1..40_usize, 1..60_usize, 1..3_usize),
        is_active in any::<bool>(),
    ) {
        let records: Vec<Vec<String>> =
            records.into_iter().map(|record| record.into_iter().map(str::to_owned).collect()).collect();
        let names = ["A", "B", "C"].map(str::to_owned).to_vec();
        let csv = |model: &Model| {
            // An empty line would not be a record.
            let line = |cells: &Vec<String>| if cells == &[""] { "\"\"".to_owned() } else { cells.join(",") };
            let lines = std::iter::once(&model.names).chain(&model.records).map(|cells| line(cells) + "\n");
            lines.collect::<String>()
        };
        let objects = |model: &Model| -> Vec<String> {
            let object = |cells: &Vec<String>| {
                let members = model.names.iter().zip(cells).map(|(name, cell)| format!("\"{name}\":\"{cell}\""));
                format!("{{{}}}", members.collect::<Vec<_>>().join(","))
            };
            model.records.iter().map(object).collect()
        };
        let before = Model { names, records, changes: Vec::new() };
        let mut model = before.clone();
        let rules: String = acts.iter().filter_map(|act| model.act(act)).collect();
        let program = program(&rules);
        let (got, changes, _) = washed(&program, TableFormat::Csv, &csv(&before), way, is_active).map_err(TestCaseError::fail)?;
        prop_assert_eq!(got, csv(&model), "{}", rules);
        prop_assert_eq!(changes, model.changes.clone(), "{}", rules);

        prop_assert_eq!(in_memory(&program, &before, way.0), (model.names.clone(), model.records.clone(), model.changes.clone()), "{}", rules);

        // In JSON the order of keys means nothing.
        let sorted = |objects: Vec<String>| -> Vec<Vec<String>> {
            let sorted = |object: String| {
                let mut members: Vec<String> = object[1..object.len() - 1].split(',').map(str::to_owned).collect();
                members.sort();
                members
            };
            objects.into_iter().map(sorted).collect()
        };
        let lines = |objects: Vec<String>| objects.into_iter().map(|object| object + "\n").collect::<String>();
        let (got, ..) = washed(&program, TableFormat::JsonLines, &lines(objects(&before)), way, is_active).map_err(TestCaseError::fail)?;
        prop_assert_eq!(sorted(got.lines().map(str::to_owned).collect()), sorted(objects(&model)), "{}", rules);
        let array = |objects: Vec<String>| format!("[{}]", objects.join(", "));
        let (got, ..) = washed(&program, TableFormat::Json, &array(objects(&before)), way, is_active).map_err(TestCaseError::fail)?;
        let objects_of = |array: &str| array[1..array.len() - 1].split(", ").filter(|object| !object.is_empty()).map(str::to_owned).collect();
        prop_assert_eq!(sorted(objects_of(&got)), sorted(objects(&model)), "{}", rules);
    }
}
