//! Tables, driven as a user would.

mod support;

use support::TestDir;

const RULES: &str = "[[rule]]\nlabel = 'no titles'\nfields = 'Keeper'\nremove.stock = 'name-title'\n\
    [[rule]]\nlabel = 'order number'\nfields = 'Remarks'\nto_field = 'Order'\nkeep.pattern = 'MP-\\d+'\n";

const LEDGER: &str =
    "\u{FEFF}Item,Keeper,Remarks\r\n\"Rope 3/4\"\"\",Mr. Hale,\"as ordered,\nMP-0412\"\r\n tea ,Vey,\r\n";
const CLEANED: &str =
    "\u{FEFF}Item,Keeper,Remarks,Order\r\n\"Rope 3/4\"\"\",Hale,\"as ordered,\nMP-0412\",MP-0412\r\n tea ,Vey,,\r\n";

fn desk() -> TestDir {
    TestDir::with(&[("stores.wash.toml", RULES), ("ledger.csv", LEDGER), ("notes.txt", "Mr. Hale\n")])
}

#[test]
fn a_table_is_looked_at_cleaned_and_put_back() {
    let desk = desk();
    let clean = ["clean", "-r", "stores.wash.toml", "ledger.csv"];
    desk.run(&clean).status(0).says(&[
        "ledger.csv  2 cells in 2 records change",
        "     1  Keeper\n        before  Mr.·Hale\n",
        "     1  Order\n        from    Remarks: as ordered,␊MP-0412\n        before  (empty)\n        after   MP-0412\n",
        "--write",
    ]);
    desk.run(&["check", "-r", "stores.wash.toml", "ledger.csv"])
        .status(1)
        .says(&["ledger.csv:1:Keeper: rule 1: no titles\nledger.csv:1:Order: rule 2: order number\n"]);
    desk.run(&[&clean[..], &["--write", "--report", "all.jsonl", "--report", "all.html"]].concat()).status(0);
    assert_eq!(desk.read("ledger.csv"), CLEANED);
    assert!(desk.read("all.jsonl").contains("\"record\":1,\"field\":\"Keeper\",\"line\":1,\"column\":1"));
    assert!(desk.read("all.html").contains("1 Keeper"));
    desk.run(&["check", "-r", "stores.wash.toml", "ledger.csv"]).status(0);
    desk.run(&["undo"]).status(0);
    assert_eq!(desk.read("ledger.csv"), LEDGER);
    let ran = desk.run_with(&["clean", "-r", "stores.wash.toml", "--table", "csv"], LEDGER.as_bytes()).status(0);
    assert_eq!(ran.silent_err().out(), CLEANED);
    let patch = desk.run(&[&clean[..], &["--patch"]].concat()).status(0);
    patch.says(&["@@ -1,4 +1,4 @@", "-\"Rope 3/4\"\"\",Mr. Hale,\"as ordered,\n", "+MP-0412\",MP-0412\r\n"]);
}

#[test]
fn one_cell_is_traced_and_spelled_out() {
    let desk = desk();
    desk.run(&["trace", "-r", "stores.wash.toml", "ledger.csv:1:Keeper"])
        .status(0)
        .says(&["ledger.csv:1:Keeper", "1 of 1 rule did something"]);
    desk.run(&["trace", "-r", "stores.wash.toml", "ledger.csv:1:Item"]).status(2).warns(&["no rule is for"]);
    desk.run(&["trace", "-r", "stores.wash.toml", "ledger.csv:9:Keeper"]).status(2).warns(&["in record 9"]);
    let ran = desk.run(&["trace", "-r", "stores.wash.toml", "ledger.csv:1:Remarks"]).status(0).silent_err();
    ran.says(&[
        "1 of 1 rule did something",
        "     1  Order\n        from    Remarks: as ordered,",
        "made from it: Order\n  MP-0412\n",
    ]);
    desk.run(&["spellout", "ledger.csv:2:Item"]).status(0).says(&["ledger.csv:2:Item", "5 characters", "U+0074"]);
    desk.run(&["spellout", "ledger.csv:2:tea"]).status(2).warns(&["`Item`, `Keeper`, `Remarks`"]);
}

#[test]
fn a_survey_keeps_as_much_of_cells_as_it_may() {
    let desk = TestDir::new();
    let cells: String = (0..20_000).flat_map(|cell| [format!("Fog {cell}\n"), format!("fog  {cell}\n")]).collect();
    desk.write("log.csv", format!("Note\n{cells}").as_bytes());
    desk.run(&["survey", "log.csv"]).status(0).says(&["alike  1 × “Fog 0”"]);
    let ran = desk.run(&["survey", "--max-memory", "64KiB", "log.csv"]).status(0);
    assert!(!ran.out().contains("alike") && ran.out().contains("many"), "{ran}");
}

#[test]
fn the_first_records_are_counted_alone() {
    let desk = desk();
    let first = ["clean", "-r", "stores.wash.toml", "ledger.csv", "--first", "1"];
    desk.run(&first).status(0).says(&["ledger.csv  2 cells in 1 record change", "characters  67 → 77    lines  3 → 3"]);
}

#[test]
fn records_are_traced_to_what_the_run_makes_of_them() {
    // A rule by number after a new column, one for the new column, and several rules in a row for one.
    let rules = format!(
        "{RULES}[[rule]]\nfields = 'Order'\nremove.text = 'MP-'\n[[rule]]\nfields = 3\ncell_lines = true\n\
         join_lines = {{}}\n[[rule]]\nrecase = {{ to = 'upper' }}\n"
    );
    let desk = TestDir::with(&[
        ("stores.wash.toml", &*rules),
        ("ledger.csv", LEDGER),
        (
            "ledger.jsonl",
            "{\"Keeper\": \"Mr. Hale\", \"Remarks\": \"as\\nMP-7\"}\n{\"Keeper\": \"Vey\", \"Remarks\": \"\"}\n",
        ),
    ]);
    let jsonl = rules.replace("fields = 3", "fields = 'Remarks'");
    desk.write("json.wash.toml", jsonl.as_bytes());
    for (set, file) in [("stores.wash.toml", "ledger.csv"), ("json.wash.toml", "ledger.jsonl")] {
        let run = desk.run(&["clean", "-r", set, "--stdout", file]).status(0).out();
        for (place, from) in [(file.to_owned(), 0), (format!("{file}:2"), 1), (format!("{file}:1..2"), 0)] {
            let traced = desk.run(&["trace", "-r", set, &place, "--json"]).status(0).out();
            let value: serde_json::Value = serde_json::from_str(&traced).expect("JSON");
            let way = &value["ways"][0];
            let (result, run) = (way["result"].as_str().expect("a text"), run.trim_start_matches('\u{FEFF}'));
            let (header, records) =
                run.split_at(if set == "json.wash.toml" { 0 } else { run.find('\n').expect("a line") + 1 });
            let wanted: String = [header, &records.split_inclusive('\n').skip(from).collect::<String>()].concat();
            assert_eq!(result, wanted, "{place}");
            assert_eq!(way["steps"].as_array().expect("steps").len(), 5);
        }
    }
    let ran = desk.run(&["trace", "-r", "stores.wash.toml", "ledger.csv:2"]).status(0).silent_err();
    ran.says(&["no titles  ← nothing", "     2  Item\n        before   tea·\n", "1 of 5 rules did something"]);
    desk.write("twice.csv", b"Item,Keeper,Remarks,Order\nfog,Vey,MP-1,\n");
    desk.write("twice.jsonl", b"{\"Keeper\": \"Vey\", \"Remarks\": \"MP-1\", \"Order\": \"x\"}\n");
    let ran = desk.run(&["clean", "-r", "json.wash.toml", "twice.csv", "twice.jsonl", "ledger.csv"]).status(0);
    let there = |file: &str| format!("{file}: `Order` is there already; the result of a rule takes the place");
    assert!(!ran.err.contains("ledger.csv"), "{ran}");
    ran.warns(&[&there("twice.csv"), &there("twice.jsonl")]);
    desk.run(&["trace", "-r", "stores.wash.toml", "ledger.csv:7..9"]).status(2).warns(&["ledger.csv has no record 7"]);
    let typed =
        ["trace", "-r", "stores.wash.toml", "--table", "csv", "--text", "Item,Keeper,Remarks\noil,Mr. Hale,MP-1\n"];
    desk.run(&typed).status(0).says(&["OIL,HALE,MP-1,1\n"]);
}

#[test]
fn records_and_fields_are_dropped_and_renamed_and_can_be_put_back() {
    let rules = "[[rule]]\nfields = 'Item'\ndrop_records = { repeated = 'file', ignore_edges = true }\n\
                 [[rule]]\nrename_fields = { Remarks = 'Notes' }\n[[rule]]\ndrop_fields = 'Keeper'\n";
    let desk = TestDir::with(&[("shape.wash.toml", rules)]);
    let given = "Item,Keeper,Remarks\nrope,Hale,\"two\nlines\"\n rope,Vey,again\noil,Vey,\n";
    desk.write("ledger.csv", given.as_bytes());
    let array = "[\n  {\"Item\": \"rope\", \"Keeper\": 1, \"Remarks\": null},\n  {\"Item\": \"rope\", \"Keeper\": {}, \"Remarks\": 2}\n]\n";
    desk.write("ledger.json", array.as_bytes());
    let clean = ["clean", "-r", "shape.wash.toml", "ledger.csv"];
    desk.run(&clean).status(0).says(&[
        "ledger.csv  1 of 3 records goes, 2 fields of the header change\n",
        "header  Remarks\n        before  Remarks\n",
        "     2  whole record\n        before  ·rope,Vey,again\n",
        "after   (nothing left)",
    ]);
    desk.run(&["check", "-r", "shape.wash.toml", "ledger.csv"]).status(1).says(&[
        "ledger.csv:header:Remarks: rule 2: rename “Remarks” to “Notes”\nledger.csv:header:Keeper: rule 3",
        "ledger.csv:2:whole record: rule 1: drop repeated records\n",
    ]);
    desk.run(&[&clean[..], &["--write", "--report", "all.html", "--report", "all.jsonl"]].concat()).status(0);
    assert_eq!(desk.read("ledger.csv"), "Item,Notes\nrope,\"two\nlines\"\noil,\n");
    assert!(desk.read("all.jsonl").contains("\"record\":2,\"field\":null"), "a record has no field");
    assert!(desk.read("all.html").contains("2 whole record"));
    desk.run(&["undo"]).status(0);
    assert_eq!(desk.read("ledger.csv"), given);
    // A file of JSON is a table with `--table json`, and a text without.
    desk.run(&["clean", "-r", "shape.wash.toml", "ledger.json", "--write"]).status(3).warns(&["this is not a table"]);
    let json = ["-r", "shape.wash.toml", "--table", "json", "ledger.json"];
    desk.run(&[&["clean"], &json[..], &["--write"]].concat()).status(0);
    assert_eq!(desk.read("ledger.json"), "[\n  {\"Item\": \"rope\", \"Notes\": null}\n]\n");
    desk.write("ledger.json", array.as_bytes());
    let traced = ["trace", "-r", "shape.wash.toml", "--table", "json", "ledger.json:2"];
    desk.run(&traced)
        .status(0)
        .says(&["rename “Remarks” to “Notes”  1 change", "  [{\"Item\": \"rope\", \"Notes\": 2}]\n"]);
    desk.run(&["survey", "--table", "json", "ledger.json"]).status(0).says(&["ledger.json  2 records, 1 field"]);
    desk.write("ledger.json", &array.as_bytes()[..40]);
    for args in [["clean", "--rule", "trim = {}"], ["survey", "--draft", "d.wash.toml"]] {
        let ran = desk.run(&[&args[..], &["--table", "json", "ledger.json"]].concat()).status(3);
        ran.warns(&["ledger.json: record 1 (line 2) is not valid JSON"]);
    }
    // Only some fields: what would be called otherwise has its old name, and rules for it find it.
    let more =
        format!("{rules}[[rule]]\nfields = 'Notes'\nremove.text = 'again'\n[[rule]]\nfields = 'Item'\ntrim = {{}}\n");
    desk.write("more.wash.toml", more.as_bytes());
    let some = ["clean", "-r", "more.wash.toml", "--fields", "Item", "--stdout", "ledger.csv"];
    assert_eq!(desk.run(&some).status(0).out(), "Item,Keeper,Remarks\nrope,Hale,\"two\nlines\"\noil,Vey,\n");
    desk.run(&["trace", "-r", "more.wash.toml", "ledger.csv:3:Item"]).status(0).says(&["0 of 1 rule did something"]);
    // A cell of a record that goes, and of a field that is called otherwise.
    desk.run(&["trace", "-r", "shape.wash.toml", "ledger.csv:1:Remarks"]).status(0).says(&["Notes", "two\n  lines"]);
}

#[test]
fn what_does_not_fit_is_said_and_nothing_is_written() {
    let desk = desk();
    desk.write("bad.csv", b"Keeper,Remarks\nMr. Hale,1\nMr. Vey\n");
    desk.write("lines.wash.toml", b"[[rule]]\ntrim = {}\n[[rule]]\njoin_lines = {}\n");
    desk.write("fields.wash.toml", b"[table]\nfields = 'Keeper'\n[[rule]]\ntrim = {}\n");
    desk.run(&["names", "-r", "stores.wash.toml", "."]).status(2).warns(&["rule 1 (no titles)", "names have none"]);
    let rows: &[(&[&str], i32, &[&str])] = &[
        (&["-r", "stores.wash.toml", "bad.csv", "--write"], 3, &["bad.csv", "record 2 (line 3) has 1 field, not 2"]),
        (
            &["-r", "stores.wash.toml", "notes.txt", "--write"],
            3,
            &["notes.txt", "this is not a table", "rule 1 (no titles)"],
        ),
        (&["-r", "lines.wash.toml", "ledger.csv", "--write"], 3, &["rule 2", "`join_lines`", "--table text"]),
        (&["--rule", "trim = {}", "--fields", "Keper", "ledger.csv", "--write"], 3, &["no field `Keper`", "`Keeper`"]),
        (&["-r", "stores.wash.toml", "ledger.csv", "--write", "--ask"], 2, &["--ask is about the lines", "--fields"]),
        (&["--rule", "trim = {}", "--delimiter", "ab", "ledger.csv"], 2, &["one ASCII character"]),
        (&["-r", "fields.wash.toml", "notes.txt"], 3, &["this is not a table"]),
    ];
    for (args, status, words) in rows {
        desk.run(&[&["clean"], *args].concat()).status(*status).warns(words);
    }
    assert_eq!(
        (desk.read("bad.csv").as_str(), desk.read("ledger.csv").as_str()),
        ("Keeper,Remarks\nMr. Hale,1\nMr. Vey\n", LEDGER)
    );
    desk.run(&["clean", "-r", "stores.wash.toml", "bad.csv", "--ragged", "keep", "--write"]).status(0);
    assert_eq!(desk.read("bad.csv"), "Keeper,Remarks,Order\nHale,1,\nMr. Vey\n");
    desk.run(&["clean", "-r", "lines.wash.toml", "ledger.csv", "--table", "text", "--write"]).status(0);
    assert!(!desk.read("ledger.csv").contains("Hale,\"as ordered,\n"), "its lines were joined");
}

#[test]
fn fields_are_chosen_and_odd_names_and_formulas_are_warned_of() {
    let desk = desk();
    desk.write("t.tsv", b"a \tb\n#1\t =#1\n#2\t-2.5\n");
    let ran =
        desk.run(&["clean", "--rule", "remove.chars = # ", "--fields", "A,2", "--guard-formulas", "t.tsv", "--stdout"]);
    assert_eq!(
        ran.status(0)
            .warns(&[
                "caution, -: `A` is taken for its field `a `",
                "a spreadsheet would take 1 cell for a formula",
                "-:1:b: =1",
            ])
            .out(),
        "a \tb\n1\t=1\n2\t-2.5\n"
    );
    let ran = desk.run(&["clean", "--rule", "remove.chars = #", "--no-header", "--fields", "1", "t.tsv", "--stdout"]);
    assert_eq!(ran.status(0).out(), "a \tb\n1\t =#1\n2\t-2.5\n");
    desk.write("e.wash.toml", b"[[rule]]\nexpect = 1\nfields = 'b'\nremove.chars = '#1'\n");
    desk.run(&["clean", "-r", "e.wash.toml", "t.tsv", "--write"]).status(4).warns(&["  t.tsv:1:b\n"]);
    let ran = desk.run(&["clean", "--rule", "remove.chars = #", "t.tsv", "--first", "1"]).status(0);
    ran.says(&["t.tsv  2 cells in 1 record change"]);
}

#[test]
fn a_survey_of_many_different_cells_takes_little_memory_and_still_finds_those_that_look_equal() {
    let desk = desk();
    let record = |at: usize| {
        let keeper = ["Hale", "Vey", "hale "][at % 3];
        format!(
            "{at},{keeper},\"remark {at} of many, each longer than the one before it {}\"\n",
            "fog ".repeat(at % 40)
        )
    };
    desk.write_parts("large.csv", std::iter::once("id,Keeper,Remarks\n".to_owned()).chain((0..300_000).map(record)));
    let peak = desk.peak_memory(&["survey", "large.csv"]);
    assert!(peak < 80 << 20, "{} MiB", peak >> 20);
    desk.run(&["survey", "large.csv"]).status(0).says(&[
        " id        300,000       —        many ",
        "alike  100,000 × “Hale”  100,000 × “hale·”  except for blanks, letter case",
    ]);
}

#[test]
fn a_survey_tells_of_columns_what_breaks_look_ups() {
    let desk = desk();
    desk.write("s.csv", "Item,n\nTea,1\ntea ,2\nT\u{200B}ea,\nOil,3\nx\n".as_bytes());
    desk.run(&["survey", "s.csv"]).status(0).says(&[
        "s.csv  5 records, 2 fields",
        "1 record with too few or too many fields",
        "1  characters nobody sees  first in record 3  remove.class = [\"control\", \"invisible\"]",
        "1  white space at an edge  first in record 2  trim.class = \"whitespace\"",
        "alike  1 × “Tea”  1 × “tea·”  1 × “T⟨U+200B⟩ea”  except for characters nobody sees, blanks,",
        "U+200B  ZERO WIDTH SPACE, invisible  first in record 3",
    ]);
    desk.run(&["survey", "s.csv", "--draft", "d.wash.toml", "--report", "s.html"]).status(0);
    assert!(desk.read("s.html").contains("Look equal, except for"));
    desk.run(&["clean", "-r", "d.wash.toml", "s.csv", "--ragged", "keep", "--write"]).status(0);
    assert_eq!(desk.read("s.csv"), "Item,n\nTea,1\ntea,2\nTea,\nOil,3\nx\n");
    desk.run(&["survey", "s.csv", "notes.txt", "--draft", "e.wash.toml"]).status(2).warns(&["texts or for tables"]);
    desk.write("k.jsonl", b"{\"p\":{\"a\":\"x \"},\"n\":1}\n{\"p\":{\"a\":\"X\"}}\n");
    desk.run(&["survey", "k.jsonl"]).status(0).says(&["2 records, 1 field", "p.a", "except for blanks, letter case"]);
}
