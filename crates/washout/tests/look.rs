//! Looking before cleaning: `survey`, `spellout` and `trace`.

mod support;

use support::TestDir;

const PAGES: &str = "LOG OF MARROW POINT page 1\n 1  Lamp lit  \n 2  Fog\n\x0cLOG OF MARROW POINT page 2\n 3  Horn\n\
                     \x0cLOG OF MARROW POINT page 13\n 4  “Out”\n";

#[test]
fn a_survey_tells_what_is_there_and_drafts_rules_that_take_it() {
    let desk = TestDir::with(&[("log/1.txt", PAGES), ("log/2.txt", "fog\u{200B}\r\n"), ("log/.hidden", "\x07")]);
    desk.write("log/3.txt", b"caf\xE9, tr\xE8s bien, une f\xEAte \xE0 la mer\n");
    desk.write("log/4.bin", b"\x7FELF\x02\x01\x01\0\0\0\0\0");
    let ran = desk.run(&["survey", "log"]).status(0).silent_err();
    ran.says(&[
        "3 files, 9 lines, 167 characters (173 bytes)",
        "left out   1 file (binary; --with-binary includes them)",
        "UTF-8 (2 files), not UTF-8, perhaps windows-1252 (1 file)",
        "8 LF, 1 CRLF",
        "the longest has 34 characters, log/3.txt:1; 0 empty",
        "U+000C   ␌   FORM FEED",
        "ZERO WIDTH SPACE",
        "xE9          byte E9, no valid UTF-8",
        "log/3.txt:1:4",
        "      4  line numbers, left edge  in 1 file",
        "log/1.txt:2:1  ▸·1·◂ Lamp lit",
        "      3  repeated line  in 1 file",
        "drop_lines = { pattern = '^[\\x00-\\x20]*LOG OF MARROW POINT page \\d+[\\x00-\\x20]*$' }",
        "survey log --draft draft.wash.toml",
    ]);
    let ran = desk.run(&["survey", "log/1.txt", "log/2.txt", "--draft", "draft.wash.toml"]).status(0);
    ran.says(&["The rules are in draft.wash.toml. To look at what they change:", "clean -r draft.wash.toml log/1.txt"]);
    desk.run(&["clean", "-r", "draft.wash.toml", "log/1.txt", "log/2.txt", "--into", "cleaned"]).status(0);
    assert_eq!(desk.read("cleaned/log/1.txt"), " Lamp lit\n Fog\n Horn\n “Out”\n");
    assert_eq!(desk.read("cleaned/log/2.txt"), "fog\r\n", "it keeps its line ends");
    desk.run(&["survey", "cleaned/log/1.txt"]).status(0).says(&["No litter found"]);
    desk.run_with(&["survey", "--all-chars"], b"ab b").status(0).says(&["LATIN SMALL LETTER B", "No litter found"]);
    desk.run(&["survey", "nowhere"]).status(2).warns(&["nowhere"]);
}

#[test]
fn a_survey_marks_what_a_draft_will_have_off() {
    let tides: Vec<String> = (1..60).map(|day| format!("Day {day}: HIGH 1.7 m, LOW 0.3 m\n")).collect();
    let desk = TestDir::with(&[("tides.txt", &tides.concat()), ("crlf.txt", "fog\r\n")]);
    let ran = desk.run(&["survey", "tides.txt", "crlf.txt", "--draft", "draft.wash.toml"]).status(0);
    ran.says(&[
        "line_ends = { to = \"lf\" }\n         off in a draft: it also changes files whose line ends are all of one kind",
        "$' }\n         off in a draft: it drops lines that may not be headings or footers of pages\n",
    ]);
    assert!(desk.read("draft.wash.toml").contains("# Off, because it drops lines that may not be headings"));
    desk.run(&["clean", "-r", "draft.wash.toml", "tides.txt"]).status(2).warns(&["there is no rule that is on"]);
}

#[test]
fn names_are_surveyed_like_texts() {
    let lists = ["scans/list 1.txt", "scans/list 2.txt", "scans/list 3.txt"].map(|path| (path, ""));
    let desk =
        TestDir::with(&[&[("scans/page [old]  1.txt", ""), ("scans/page 2\u{A0}.txt", "")], &lists[..]].concat());
    let ran = desk.run(&["survey", "--names", "scans"]).status(0);
    assert!(!ran.out().contains("drop_lines"), "a name has no lines: {ran}");
    ran.says(&[
        "5 names, 58 characters (59 bytes)\n\n",
        "NO-BREAK SPACE",
        "bracketed groups",
        "page [old]  1.txt:1:6  page ▸[old]··◂1.txt",
    ]);
}

#[test]
fn a_text_is_spelled_out_with_the_rule_that_takes_each_character() {
    let desk = TestDir::with(&[("log.txt", "one\r\nfo\u{200B}g e\u{301}\rlast\n")]);
    let ran = desk.run(&["spellout", "log.txt:2", "--rule", "remove.class = \"invisible\""]).status(0);
    ran.says(&[
        "log.txt:2  8 characters, 11 bytes; seen as 7",
        " 3   U+200B       ZERO WIDTH SPACE",
        "E2 80 8B   rule 1",
        "+7   U+0301",
        " 8   U+000D   ␍   CARRIAGE RETURN",
    ]);
    let typed = desk.run(&["spellout", "--text", "a", "--against", "а"]).status(0);
    typed.says(&["They differ in 1 place", "LATIN SMALL LETTER A", "CYRILLIC SMALL LETTER A"]);
    let marks = desk.run(&["spellout", "--text", "é", "--against", "e\u{301}"]).status(0);
    marks.says(&["This rule makes them the same:  normalize.form = \"NFC\""]);
    desk.run(&["spellout", "log.txt:2..3", "--against", "log.txt:2..3"]).status(0).says(&["The same, to the byte"]);
    desk.run_with(&["spellout"], b"\xFF").status(0).says(&["byte FF, no valid UTF-8"]);
    desk.run(&["spellout", "log.txt:9"]).status(2).warns(&["log.txt has no line 9"]);
    desk.run(&["spellout", "none.txt:1"]).status(2).warns(&["none.txt cannot be read"]);
}

#[test]
fn a_survey_of_cells_names_what_is_there_with_rules_that_take_it() {
    let desk = TestDir::with(&[(
        "log.csv",
        "Item,Note\n\"oil\t\",\"a <b>lamp</b> &amp; wick\"\n\"\nfog\",\"x\ty\"\n\"tea \",\"two\nlines\"\n\"caf\u{e9}\u{200b}\",\"\u{1b}[31mred\"\n",
    )]);
    let ran = desk.run(&["survey", "log.csv", "--draft", "draft.wash.toml"]).status(0).silent_err();
    ran.says(&[
        "1  line ends at an edge  first in record 2",
        "2  white space at an edge  first in record 1",
        "1  tabs  first in record 2",
        "1  line ends within  first in record 3",
        "1  terminal colours and moves",
        "1  tags",
        "1  HTML entities",
        "1  U+200B  ZERO WIDTH SPACE, invisible  first in record 4\n      1  U+0009",
    ]);
    let cleaned =
        "Item,Note\n\"oil\",\"a lamp & wick\"\n\"fog\",\"x y\"\n\"tea\",\"two lines\"\n\"caf\u{e9}\",\"red\"\n";
    assert_eq!(desk.run(&["clean", "-r", "draft.wash.toml", "log.csv", "--stdout"]).status(0).out(), cleaned);
    let many: String = ('à'..='ö').flat_map(|letter| [letter, '\n']).collect();
    desk.write("many.csv", format!("Item\n{many}").as_bytes());
    desk.run(&["survey", "many.csv"]).status(0).says(&["more characters; --all shows them"]);
    let ran = desk.run(&["survey", "--all", "many.csv"]).status(0);
    assert!(ran.out().contains("U+00F6") && !ran.out().contains("--all"), "{ran}");
}

#[test]
fn a_rule_that_is_shown_can_be_copied_and_works_in_a_draft_too() {
    let page = |page: char| {
        let line = |line: char| format!("what {page}{line} wrote\n");
        format!("MARROW\u{a0}POINT\u{200b} LOG\u{202e}\n{}", ('a'..='y').map(line).collect::<Vec<_>>().concat())
    };
    let desk = TestDir::with(&[("log.txt", &*('a'..='f').map(page).collect::<Vec<_>>().concat())]);
    let said = desk.run(&["survey", "log.txt", "--draft", "draft.wash.toml"]).status(0).silent_err().out();
    let rule = said.lines().find(|line| line.contains("MARROW") && line.contains("drop_lines")).expect("a rule").trim();
    assert!(rule.is_ascii(), "{rule}");
    desk.run(&["clean", "--rule", rule, "log.txt"]).status(0).says(&["lines  156 → 150"]);
    desk.run(&["clean", "-r", "draft.wash.toml", "log.txt"]).status(0).silent_err().says(&["lines  156 → 150"]);
}

#[test]
fn tails_that_many_names_have_are_found() {
    let desk = TestDir::with(&[
        ("a-converted.txt", ""),
        ("b_2-converted.txt", ""),
        ("c-converted.png", ""),
        ("tides.txt", ""),
    ]);
    let ran = desk.run(&["survey", "--names", "."]).status(0).silent_err();
    let rule = "remove = { text = '-converted', at = \"end\" }";
    ran.says(&["3  common tail  in 3 files", "a▸-converted◂.txt", rule]);
    desk.run(&["names", "--rule", rule, "."]).status(0).says(&["3 names would change"]);
}

#[test]
fn a_name_is_traced_as_it_is_renamed() {
    let desk = TestDir::with(&[("in/lamp_[2]_um.tar.gz", "x"), ("in/um.txt", "y")]);
    let rules = ["--rule", "remove.between = ['[', ']']", "--rule", "remove.words = um", "--rule", "trim = {}"];
    let traced = |name: &str| desk.run(&[&["trace", "--names", name][..], &rules].concat()).status(0).silent_err();
    traced("in/lamp_[2]_um.tar.gz").says(&[
        "  before  lamp_[2]_um.tar.gz\n",
        "2 of 3 rules did something",
        "\n  lamp.tar.gz\n",
    ]);
    traced("in/um.txt").says(&["\n  um.txt\n\nThe name is left alone: nothing would be left of the name"]);
    desk.run(&[&["names", "--write", "in"][..], &rules].concat());
    assert_eq!(desk.files(), ["in/lamp.tar.gz", "in/um.txt"]);
    let whole =
        ["trace", "--names", "--part", "whole", "--rule", "replace = { text = '.', with = '-' }", "--text", "a.b"];
    desk.run(&whole).status(0).says(&["\n  a-b\n"]);
}

#[test]
fn a_sample_is_traced_rule_by_rule() {
    let desk = TestDir::with(&[
        ("log.txt", "um, fog\nhorn\n\n"),
        (
            "a.wash.toml",
            "[[rule]]\nlabel = 'no um'\nremove = { words = ['um'], gap = 'mend' }\n\
          [[rule]]\nremove.text = 'gale'\n[[rule]]\nlabel = 'one line'\njoin_lines = {}\n",
        ),
        ("b.wash.toml", "[[rule]]\nremove.text = 'um, '\n"),
    ]);
    let ran = desk.run(&["trace", "-r", "a.wash.toml", "log.txt"]).status(0).silent_err();
    ran.says(&[
        "log.txt  14 characters, 3 lines",
        "   1  no um  1 change  14 → 10 characters",
        "     1  before  um,·fog\n                ××××\n        after   fog",
        "   2  remove text “gale”  ← nothing",
        "   3  one line  1 change  10 → 10 characters, 3 → 2 lines",
        "2 of 3 rules did something  14 → 10 characters, 3 → 2 lines\n\n  fog horn\n",
    ]);
    let part =
        desk.run(&["trace", "-r", "a.wash.toml", "log.txt:1", "--from-rule", "2", "--up-to-rule", "2"]).status(0);
    part.says(&["1 rule before, 1 change by them", "← nothing", "1 of 2 rules did something"]);
    let ways =
        desk.run(&["trace", "-r", "a.wash.toml", "--against", "b.wash.toml", "--text", "um, fog\nx\n"]).status(0);
    ways.says(&["one", "two", "Where the results differ", "fog·x↵", "fog↵"]);
    desk.run(&["trace", "-r", "a.wash.toml", "--against", "b.wash.toml", "--text", "um, fog"])
        .status(0)
        .says(&["Both give the same text"]);
    desk.run(&["trace", "-r", "a.wash.toml", "--up-to-rule", "one lime", "--text", "x"])
        .status(2)
        .warns(&["there is no rule `one lime`; did you mean `one line`?", "1 to 3"]);
}
