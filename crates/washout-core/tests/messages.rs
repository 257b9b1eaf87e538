//! Every way a rule set can be wrong, and what is said about it.

use washout_core::ready::ReadySet;
use washout_core::rules::Verb;
use washout_core::stock::Stock;
use washout_core::{Files, NamedFile, RuleSet};

/// Name of the case, the rule set, and each message as `line:column: what is wrong (what to do)`.
type Case = (&'static str, &'static str, &'static [&'static str]);

/// The files the cases name.
struct TestFiles;

impl Files for TestFiles {
    fn open(&self, _from: &str, path: &str, _most: u64) -> Result<NamedFile, String> {
        let bytes: &[u8] = match path {
            "empty.txt" => b"\n \r\n",
            "broken.txt" => b"fog\nlamp \xFF\n",
            "pairs.csv" => b"colour,color\n\"grey\",\"gray\"\n",
            "ok.wash.toml" => b"[[rule]]\ntrim = {}\n",
            "three.csv" => b"a,b\nc,d,e\n",
            "broken.csv" => b"a,b\nc,\xFF\n",
            "nothing.csv" => b",x\n",
            "unclosed.csv" => "a,b\n“,\"\n”,'\n".as_bytes(),
            "behind.csv" => b"a,b\n\"c\nd\",e\n\"f\"g,h\n",
            "fillers.txt" => b"um\n",
            "bad.wash.toml" => b"[[rule]]\nremov = {}\n",
            "circle.wash.toml" => b"[[rule]]\ninclude = 'round.wash.toml'\n",
            "round.wash.toml" => b"[[rule]]\ninclude = 'circle.wash.toml'\n",
            _ => return Err("there is no such file".to_owned()),
        };
        Ok(NamedFile { name: path.to_owned(), bytes: bytes.to_vec() })
    }
}

/// Lists that grow with the language, by their names.
fn with_lists(message: &str) -> String {
    let list = |names: &[&str]| names.iter().map(|name| format!("`{name}`")).collect::<Vec<_>>().join(", ");
    let verbs = Verb::NAMES;
    let scope = ["only_lines", "skip_lines", "lines", "from_line", "to_line", "unclosed", "spare"];
    let cells = ["fields", "rows", "to_field", "cell_lines"];
    message
        .replace(
            "{quotes}",
            "(a cell with a comma, a quotation mark or a line end in it stands in quotation marks, and a quotation mark in \
             it is written twice: \"say \"\"fog\"\"\")",
        )
        .replace("{verbs}", &list(verbs))
        .replace("{rule keys}", &list(&[&["label", "off"], verbs, &scope, &cells, &["expect", "expect_each", "expect_sections"]].concat()))
        .replace("{stock}", &list(&Stock::ALL.iter().map(|stock| stock.name()).collect::<Vec<_>>()))
        .replace("{ready}", &list(&ReadySet::ALL.iter().map(|set| set.name).collect::<Vec<_>>()))
        .replace("{languages}", &list(&washout_core::read::stop_word_lists().collect::<Vec<_>>().iter().map(String::as_str).collect::<Vec<_>>()))
        .replace("{set keys}", &list(&["title", "about", "protect", "names", "table", "rule", "example"]))
        .replace(
            "{targets}",
            &list(&[
                "chars",
                "class",
                "text",
                "words",
                "words_from",
                "stopwords",
                "pattern",
                "stock",
                "between",
                "positions",
            ]),
        )
}

fn check(cases: &[Case]) {
    let mut failed = Vec::new();
    for (name, source, want) in cases {
        let said: Vec<String> = match RuleSet::read_with("set", source, &TestFiles) {
            Ok(_) => Vec::new(),
            Err(error) => error.to_string().lines().map(|line| line.replacen("set:", "", 1)).collect(),
        };
        let want: Vec<String> = want.iter().map(|message| with_lists(message)).collect();
        if said != want {
            failed.push(format!("{name}\n  want {want:#?}\n  said {said:#?}"));
        }
    }
    assert!(failed.is_empty(), "{}", failed.join("\n"));
}

#[test]
fn tables() {
    check(&[
        (
            "keys of [table]",
            "[table]\nformat = 'xls'\ndelimiter = 'ab'\nheader = 1\nfields = []\nquote = '\"'",
            &[
                "2:10: `format` cannot be `xls` (`format` is one of `csv`, `tsv`, `jsonl`, `json`, `text`)",
                "3:13: a delimiter is one ASCII character, and no quotation mark, letter or digit (write delimiter = \";\" or delimiter = \"\\t\")",
                "4:10: `header` has to be true or false, not a whole number (write true or false, without quotes)",
                "5:10: `fields` is empty (to take all fields, leave it out)",
                "6:1: `table` has no key `quote` (`table` takes `format`, `fields`, `header`, `delimiter`)",
            ],
        ),
        (
            "fields that are none",
            "[[rule]]\nfields = ['A', 0]\nto_field = true\ntrim = {}",
            &[
                "2:16: a field is a name, or a number from 1 (write fields = \"Keeper\" for a field by its name, fields = 2 for the second)",
                "3:12: a field is a name, or a number from 1 (write to_field = \"Keeper\" for a field by its name, to_field = 2 for the second)",
            ],
        ),
        (
            "rows without a field, or without anything to hold",
            "[[rule]]\nrows = [{ text = 'oil' }, { field = 'Kind' }, 'x']\ntrim = {}",
            &[
                "2:9: `rows` needs `field` (write rows = { field = \"Kind\", text = \"oil\" })",
                "2:27: this rule looks for nothing (say what to look for with one of {targets})",
                "2:47: `rows` is a field and what it has to hold (write rows = { field = \"Kind\", text = \"oil\" })",
            ],
        ),
        (
            "where the result of many rules goes",
            "[[rule]]\ninclude = 'ready:people'\nto_field = 'x'",
            &["3:1: `to_field` is about one rule, and `include` is many (write it on the rules of that set)"],
        ),
        (
            "a key of the rule within the verb",
            "[[rule]]\ntrim = { fields = 'a' }",
            &[
                "2:10: `fields` belongs to the rule, not inside `trim` (write it on a line of its own, above trim = { at = \"end\" })",
            ],
        ),
    ]);
}

#[test]
fn verbs_and_keys_that_do_not_belong() {
    check(&[
        (
            "no such verb",
            "[[rule]]\nremov = { chars = '#' }",
            &["2:1: a rule has no key `remov`; did you mean `remove`? (a rule takes {rule keys})"],
        ),
        ("no verb", "[[rule]]\nlabel = 'x'", &["1:1: this rule does nothing (a rule has one of {verbs})"]),
        (
            "two verbs, each with faults of its own",
            "[[rule]]\nremove = { chars = '#', gaps = 'close' }\ntrim = { at = 'ends' }",
            &[
                "2:25: `remove` has no key `gaps`; did you mean `gap`? (`remove` takes `which`, `gap`, `at`, `case`, `except`, `hyphen`, {targets}, `rising`, `number`)",
                "3:1: two verbs in one rule: `remove` and `trim` (put `trim` under a [[rule]] of its own; rules run in the order written)",
                "3:15: `at` cannot be `ends`; did you mean `end`? (`at` is one of `start`, `end`, `edges`)",
            ],
        ),
        (
            "a key of another verb",
            "[[rule]]\nreplace = { chars = '#', with = '', gap = 'close' }",
            &["2:37: `gap` means nothing for `replace` (it goes with `remove`, as in remove = { chars = \"#-\" })"],
        ),
        (
            "which for lines",
            "[[rule]]\ndrop_lines = { chars = '#', which = 'first' }",
            &["2:29: `which` means nothing for `drop_lines` (one match is enough for a line)"],
        ),
        (
            "a target for trim",
            "[[rule]]\ntrim = { chars = '#' }",
            &[
                "2:10: `chars` means nothing for `trim` (to take other things at the edges, use `remove` with `at = \"edges\"`)",
            ],
        ),
        (
            "a label inside the verb",
            "[[rule]]\ntrim = { label = 'x' }",
            &[
                "2:10: `label` belongs to the rule, not inside `trim` (write it on a line of its own, above trim = { at = \"end\" })",
            ],
        ),
        (
            "a modifier outside the verb",
            "[[rule]]\nremove.chars = '#'\nat = 'start'",
            &["3:1: `at` belongs inside the braces of a verb (write remove = { …, at = … })"],
        ),
        (
            "the title after a rule",
            "[[rule]]\ntrim = {}\ntitle = 'late'",
            &[
                "3:1: `title` belongs to the whole set, and here it is read as a key of the rule above (move `title` (a string) up, before the first [[rule]])",
            ],
        ),
        (
            "a verb outside any rule",
            "remove.chars = '#'",
            &["1:1: `remove` stands outside any rule (put [[rule]] on a line of its own before it)"],
        ),
        (
            "single brackets",
            "[rule]\nremove.chars = '#'",
            &["1:2: `rule` has to be written in double brackets (write [[rule]], once for each rule)"],
        ),
        (
            "an unknown table",
            "[[rules]]\ntrim = {}",
            &["1:3: a rule set has no key `rules`; did you mean `rule`? (a rule set takes {set keys})"],
        ),
        (
            "a verb that is not a table",
            "[[rule]]\nremove = 'um'",
            &["2:10: `remove` has to be a table, not a string (write remove = { text = \"um\" })"],
        ),
        (
            "an example without its result",
            "[[example]]\ngiven = 'x'",
            &["1:1: an example needs `gives`, the text after"],
        ),
        (
            "an example of a rule that is not there",
            "[[rule]]\nlabel = 'a'\ntrim = {}\n[[example]]\nrule = 2\ngiven = ''\ngives = ''\n[[example]]\nrule = 'b'\ngiven = ''\ngives = ''",
            &[
                "5:8: there is no rule number 2 (`rule` is the number of a rule of this set, from 1, or its label)",
                "9:8: there is no rule labelled “b” (`rule` is the number of a rule of this set, from 1, or its label)",
            ],
        ),
    ]);
}

#[test]
fn targets_that_name_nothing() {
    check(&[
        (
            "no target",
            "[[rule]]\nremove = { at = 'end' }",
            &["2:1: this rule looks for nothing (say what to look for with one of {targets})"],
        ),
        (
            "two kinds",
            "[[rule]]\nremove = { chars = '#', words = 'um' }",
            &[
                "2:25: `chars` and `words` are two kinds of target (one kind per rule (`chars` and `class` go together, and so do lists of words): make two rules of it)",
            ],
        ),
        (
            "no such class",
            "[[rule]]\nremove.class = ['contrl', 'Cc']",
            &["2:17: no class `contrl`; did you mean `control`? (for the single characters c, o, n, … use `chars`)"],
        ),
        (
            "a range that is swapped",
            "[[rule]]\nremove.class = 'U+200A..U+2000'",
            &["2:16: the range `U+200A..U+2000` ends before it begins (write U+2000..U+200A)"],
        ),
        (
            "a surrogate",
            "[[rule]]\nremove.class = 'U+D800'",
            &[
                "2:16: `U+D800` is not a code point (code points are written U+0000 to U+10FFFF (but not U+D800 to U+DFFF), ranges U+2000..U+200A)",
            ],
        ),
        (
            "a line end as a code point",
            "[[rule]]\nremove.class = 'U+000A'",
            &[
                "2:16: `U+000A` is a line end, which code points leave alone (write class = \"line-end\", or chars = \"\\n\")",
            ],
        ),
        (
            "a class in chars",
            "[[rule]]\nremove.chars = 'digit'",
            &[
                "2:16: `digit` is a class, and `chars` takes single characters (write class = \"digit\"; for the letters themselves, write each once and in another order)",
            ],
        ),
        (
            "a letter with a mark of its own",
            "[[rule]]\nremove.chars = 'xe\u{301}'",
            &[
                "2:16: “e\u{301}” is two characters: a letter and a mark of its own (U+0301) (to find the two together, write text = \"e\u{301}\")",
            ],
        ),
        ("no characters", "[[rule]]\nremove.chars = ''", &["2:8: this rule looks for no character at all"]),
        (
            "no such stock pattern",
            "[[rule]]\nremove.stock = 'timestamps'",
            &["2:16: no stock pattern `timestamps`; did you mean `timestamp`? (there are {stock})"],
        ),
        (
            "an empty entry and an empty list",
            "[[rule]]\nremove.text = ['a', '']\n[[rule]]\nremove.words = []",
            &["2:21: an entry of `text` is empty", "4:16: `words` is empty"],
        ),
        (
            "words with blanks at the edge or line ends",
            "[[rule]]\nremove.words = ['um ', \"a\\nb\"]",
            &[
                "2:17: the entry “um ” begins or ends with a blank (leave the blank out: words are found whole, and the gap they leave is closed)",
                "2:24: words do not reach over line ends (to find text over line ends, use `text`)",
            ],
        ),
        (
            "case for a stock pattern",
            "[[rule]]\nremove = { stock = 'timestamp', case = 'ignore' }",
            &["2:33: `case` means nothing for the stock pattern `timestamp` (leave it out)"],
        ),
        (
            "hyphen without words",
            "[[rule]]\nremove = { text = 'a', hyphen = 'joins' }",
            &["2:24: `hyphen` means nothing for `text` (`hyphen` goes with `words`)"],
        ),
        (
            "an exception that is not a target",
            "[[rule]]\nremove = { class = 'digit', except = { pattern = '1' } }",
            &["2:40: `except` has no key `pattern` (`except` takes `chars`, `class`, `words`, `text`)"],
        ),
    ]);
}

#[test]
fn patterns_and_what_takes_their_place() {
    check(&[
        (
            "a pattern that is not closed",
            "[[rule]]\nremove.pattern = 'a(b'",
            &[
                "2:20: the pattern cannot be read: unclosed group (patterns are in the syntax of the Rust regex crate; for plain characters use `text` or `chars`)",
            ],
        ),
        (
            "look-around that is not closed, a reference back to nothing",
            "[[rule]]\nremove.pattern = '(?=a)(b'\n[[rule]]\nremove.pattern = '(a)\\2'",
            &[
                "2:26: the pattern cannot be read: opening parenthesis without closing parenthesis (patterns are in the syntax of the Rust regex crate; for plain characters use `text` or `chars`)",
                "4:18: the pattern cannot be used: invalid back reference to group 2 (patterns are in the syntax of the Rust regex crate; for plain characters use `text` or `chars`)",
            ],
        ),
        (
            "across_lines without a pattern",
            "[[rule]]\nremove = { text = 'a', across_lines = true }",
            &["2:24: `across_lines` means nothing for `text` (`across_lines` goes with `pattern`)"],
        ),
        (
            "a pattern too large",
            "[[rule]]\nremove.pattern = '(\\w{500}){500}'",
            &[
                "2:18: the pattern is too large: compiled it would take over 20 MiB (make its repeat counts smaller, or use ASCII classes such as [0-9] and [A-Za-z])",
            ],
        ),
        ("a pattern of nothing", "[[rule]]\nremove.pattern = ''", &["2:18: the pattern is empty"]),
        (
            "a group that is not there",
            "[[rule]]\nreplace = { pattern = '(?<day>a)(b)', with = '$month $3' }",
            &["2:47: the pattern has no group `month` (its groups are `day`, `2`; write $$ for a dollar sign)"],
        ),
        (
            "a group name that goes on too long",
            "[[rule]]\nreplace = { pattern = '(a)', with = '$1_x' }",
            &["2:38: the pattern has no group `1_x` (write ${1}_x)"],
        ),
        (
            "a reference without groups",
            "[[rule]]\nreplace = { pattern = 'a', with = '$1' }",
            &["2:36: the pattern has no group `1` (put the part you mean in parentheses; write $$ for a dollar sign)"],
        ),
        (
            "a reference that is not closed",
            "[[rule]]\nreplace = { pattern = '(a)', with = '${1' }",
            &["2:38: `${` is not closed (write ${name}, or $$ for a dollar sign)"],
        ),
        (
            "nothing to put there",
            "[[rule]]\nreplace = { text = 'a' }",
            &["2:1: `replace` needs `with`, what to put in place of each match (to put nothing there, use `remove`)"],
        ),
    ]);
}

#[test]
fn modifiers_that_make_no_sense() {
    check(&[
        (
            "match number 0",
            "[[rule]]\nremove = { text = 'a', which = 0 }",
            &["2:32: matches are counted from 1 (`which` is \"all\", \"first\", \"last\" or a number from 1)"],
        ),
        (
            "a gap where the line goes",
            "[[rule]]\nremove = { text = 'a', at = 'whole-line', gap = 'close' }",
            &["2:43: `gap` means nothing where the whole line goes (leave out `gap`, or `at = \"whole-line\"`)"],
        ),
        (
            "a gap where line ends go",
            "[[rule]]\nremove = { class = 'line-end', gap = 'close' }",
            &[
                "2:32: a gap is closed within a line, and here line ends go (leave out `gap`; to join lines with one blank between them, use `join_lines`)",
            ],
        ),
        (
            "empty lines with a target",
            "[[rule]]\ndrop_lines = { empty = 'all', text = 'a' }",
            &["2:16: `empty` stands alone: empty lines hold no match (make two rules of it)"],
        ),
        (
            "a break at a line end",
            "[[rule]]\nbreak_lines = { chars = \"\\n\" }",
            &["2:1: a line is broken within, not at its own end"],
        ),
        (
            "true in quotes",
            "[[rule]]\noff = 'true'\ntrim = {}",
            &["2:7: `off` has to be true or false, not a string (write true or false, without quotes)"],
        ),
    ]);
}

#[test]
fn keep_collapse_and_recase() {
    check(&[
        (
            "a group without a pattern",
            "[[rule]]\nkeep = { words = 'fog', group = 1 }",
            &["2:33: `group` goes with a pattern, which alone has groups (leave it out)"],
        ),
        (
            "a group the pattern does not have",
            "[[rule]]\nkeep = { pattern = '(?<day>a)', group = 'month' }",
            &["2:41: the pattern has no group `month` (its groups are `day`)"],
        ),
        (
            "a run of words",
            "[[rule]]\ncollapse = { words = 'fog' }",
            &[
                "2:1: `collapse` is for characters and literal text (it takes `chars`, `class` and `text`; for other runs use `replace` with a pattern)",
            ],
        ),
        (
            "no case",
            "[[rule]]\nrecase = { words = 'fog' }",
            &[
                "2:1: `recase` needs `to`, the case to put letters in (write to = \"lower\", \"upper\", \"title\" or \"sentence\")",
            ],
        ),
        (
            "a modifier without a target",
            "[[rule]]\nrecase = { to = 'upper', which = 'first' }",
            &["2:26: without a target the whole of each line is recased (add a target, or leave it out)"],
        ),
        (
            "a key of recase elsewhere",
            "[[rule]]\nremove = { text = 'a', to = 'upper' }",
            &[
                "2:24: `to` means nothing for `remove` (it goes with `recase`, `line_ends` and `tabs`, as in recase = { to = \"lower\" })",
            ],
        ),
    ]);
}

#[test]
fn marks_and_positions() {
    check(&[
        (
            "one mark",
            "[[rule]]\nremove.between = '['",
            &["2:8: `between` takes two marks: what opens and what closes (write between = [\"[\", \"]\"])"],
        ),
        (
            "a mark over line ends",
            "[[rule]]\nremove.between = ['[', \"\\n\"]",
            &["2:8: what is between two marks is found within a line"],
        ),
        (
            "marks without between",
            "[[rule]]\nremove = { text = 'a', marks = 'keep' }",
            &["2:24: `marks` means nothing for `text` (`marks` goes with `between`)"],
        ),
        (
            "positions that are none",
            "[[rule]]\nremove.positions = '0..3'\n[[rule]]\nremove.positions = '9..2'\n[[rule]]\nremove.positions = 'x'",
            &[
                "2:20: `0..3` is not a range of positions (positions are written \"3\", \"1..12\" or \"5..\", counted from 1)",
                "4:20: the range `9..2` ends before it begins (write \"2..9\")",
                "6:20: `x` is not a range of positions (positions are written \"3\", \"1..12\" or \"5..\", counted from 1)",
            ],
        ),
    ]);
}

#[test]
fn numbers_and_names() {
    check(&[
        (
            "no width, and a modifier of nothing",
            "[[rule]]\npad = {}\n[[rule]]\npad = { width = 3, at = 'end' }",
            &[
                "2:1: `pad` needs `width`, how many digits a number has at least (write width = 3: 7 becomes 007)",
                "4:20: without a target every number is padded, and `at` means nothing (add a target, or leave it out)",
            ],
        ),
        (
            "what means nothing without a target, or beside one",
            "[[rule]]\nnumber = { which = 'first' }\n[[rule]]\nnumber = { text = '#', place = 'end', step = 0 }",
            &[
                "2:12: without a target each line gets a number, and `which` means nothing (add a target, or leave it out)",
                "4:24: with a target the number stands in its place, and `place` means nothing (leave out the target, or this)",
                "4:46: `step` has to be from 1 to 1000000000",
            ],
        ),
        (
            "parts and blanks of names that there are not",
            "[names]\npart = 'stems'\nblanks = ' é'\nfolder = true",
            &[
                "2:8: `part` cannot be `stems`; did you mean `stem`? (`part` is one of `stem`, `extension`, `whole`)",
                "3:10: `\\u{e9}` cannot count as a blank (blanks are ASCII marks such as _ + -; replace others by a blank with a rule first)",
                "4:1: `names` has no key `folder` (`names` takes `part`, `blanks`)",
            ],
        ),
    ]);
}

#[test]
fn records_and_fields() {
    check(&[
        (
            "nothing that says which records go, or too much",
            "[[rule]]\ndrop_records = {}\n[[rule]]\ndrop_records = { repeated = 'file', empty = 'all' }\n\
             [[rule]]\ndrop_records = { empty = 'any', case = 'ignore' }\n[[rule]]\ndrop_records = 'empty'",
            &[
                "2:1: this would drop every record (write empty = \"all\" or \"any\", or repeated = \"file\" or \"neighbours\"; \
                 or say with `rows` which records go)",
                "4:18: records are dropped as `empty` or as `repeated` (make two rules of it)",
                "6:33: `case` compares nothing here (it goes with `repeated`, and says how records are compared)",
                "8:16: `drop_records` has to be a table, not a string (write drop_records = { empty = \"all\" })",
            ],
        ),
        (
            "what means nothing for whole records and fields",
            "[[rule]]\nlines = '1'\nto_field = 'a'\ndrop_records = { empty = 'all' }\n\
             [[rule]]\nrows = { field = 'a', text = 'b' }\ndrop_fields = 'a'\n[[rule]]\ndrop_fields = []",
            &[
                "2:1: `drop_records` acts on whole records, and `lines` means nothing for it (`fields` and \
                 `rows` say which records go)",
                "3:1: `drop_records` acts on whole records, and `to_field` means nothing for it (`fields` and \
                 `rows` say which records go)",
                "6:1: `drop_fields` acts on whole fields, the same in every record, and `rows` means nothing for it (the \
                 fields are named in the verb itself)",
                "9:15: `drop_fields` is empty (name one at least)",
            ],
        ),
        (
            "names that cannot be, and places for a new field",
            "[[rule]]\nrename_fields = { a = 'x', b = 'x', c = 3, d = '' }\n[[rule]]\nrename_fields = {}\n\
             [[rule]]\nto_field = { after = 'a', at = 'end' }\ntrim = {}",
            &[
                "2:32: two fields would be called `x` (give each a name of its own)",
                "2:41: the new name of a field is a string (write rename_fields = { Rmks = \"Remarks\" }; a name with dots or \
                 blanks in it stands in quotes)",
                "2:48: a field has a name of at least one character (to drop a field, use `drop_fields`)",
                "4:17: `rename_fields` is empty (write rename_fields = { Rmks = \"Remarks\" })",
                "6:12: `to_field` needs `field`, the name of the field (write to_field = { field = \"Order\", after = \"Kind\" })",
                "6:27: a new field is made at one place: `before` a field, `after` one, or `at` the start or end (leave out `at` or \
                 the other)",
            ],
        ),
    ]);
}

#[test]
fn line_ends_and_tabs() {
    check(&[
        (
            "no form",
            "[[rule]]\nnormalize = {}\n[[rule]]\nplain_letters = { form = 'NFC' }",
            &[
                "2:1: `normalize` needs `form`, the normalization form (write form = \"NFC\", \"NFD\", \"NFKC\" or \"NFKD\")",
                "4:19: `form` means nothing for `plain_letters` (it goes with `normalize`, as in normalize = { form = \"NFC\" })",
            ],
        ),
        (
            "nothing to do",
            "[[rule]]\nline_ends = {}",
            &[
                "2:1: this rule changes no line end (write to = \"lf\" or \"crlf\", final = \"one\" or \"none\", bom = \"drop\")",
            ],
        ),
        (
            "no such line end",
            "[[rule]]\nline_ends = { to = 'LF' }",
            &["2:20: `to` cannot be `LF`; did you mean `lf`? (`to` is one of `lf`, `crlf`)"],
        ),
        (
            "no width",
            "[[rule]]\ntabs = { to = 'spaces' }",
            &["2:1: `tabs` needs `width`, the columns from one tab stop to the next (write width = 4, or 8)"],
        ),
        (
            "a width out of bounds, and one that is not a number",
            "[[rule]]\ntabs = { width = 0 }\n[[rule]]\ntabs = { width = '4' }",
            &[
                "2:18: `width` has to be from 1 to 64",
                "4:18: `width` has to be a whole number, not a string (write it without quotes)",
            ],
        ),
    ]);
}

#[test]
fn files_that_give_nothing() {
    check(&[
        (
            "lists that are missing, empty, no UTF-8, elsewhere",
            "[[rule]]\nremove.words_from = ['none.txt', 'empty.txt', 'broken.txt', '../up.txt', '/etc/words']",
            &[
                "2:22: `none.txt` cannot be read: there is no such file (paths start in the folder of this set)",
                "2:34: `empty.txt` holds no words (write one word or phrase on each line)",
                "2:47: `broken.txt` is not UTF-8 in line 2 (save the file as UTF-8)",
                "2:61: `../up.txt` leaves the folder of this rule set (a set names files beside it or in folders below it; put a copy there)",
                "2:74: `/etc/words` leaves the folder of this rule set (a set names files beside it or in folders below it; put a copy there)",
            ],
        ),
        (
            "tables of pairs with a wrong line",
            "[[rule]]\nreplace.pairs_from = ['three.csv', 'broken.csv', 'nothing.csv', 'empty.txt']",
            &[
                "2:23: line 2 of `three.csv` has 3 columns, not two (a table of pairs has two columns: what is looked for, and what takes its place)",
                "2:36: `broken.csv` is not UTF-8 in line 2 (save the file as UTF-8)",
                "2:50: a pair in line 1 of `nothing.csv` looks for nothing (the first of the two is what is looked for)",
                "2:65: line 2 of `empty.txt` has 1 columns, not two (a table of pairs has two columns: what is looked for, and what takes its place)",
            ],
        ),
        (
            "tables of pairs with broken quotation marks",
            "[[rule]]\nreplace.pairs_from = ['unclosed.csv', 'behind.csv']",
            &[
                "2:23: line 2 of `unclosed.csv` opens a quotation mark that nothing closes {quotes}",
                "2:39: line 4 of `behind.csv` goes on after a closing quotation mark; a quotation mark within quotes is written twice {quotes}",
            ],
        ),
        (
            "what goes with files, without any; a mark for comments that is none",
            "[[rule]]\nremove = { words = 'um', heading = true }\n[[rule]]\nremove = { words_from = 'fillers.txt', comments = ' ' }",
            &[
                "2:26: `heading` means nothing for `remove` (it says how the files of `words_from` or `pairs_from` are written)",
                "4:51: `comments` is a mark, not a blank (write the mark that comment lines start with, such as comments = \"#\")",
            ],
        ),
        (
            "a set within a set that is wrong, missing, unknown",
            "[[rule]]\ninclude = 'bad.wash.toml'\n[[rule]]\ninclude = 'none.wash.toml'\n[[rule]]\ninclude = 'ready:none'",
            &[
                "2:11: the rule set `bad.wash.toml` cannot be used (what is wrong with it is said below)",
                "4:11: `none.wash.toml` cannot be read: there is no such file (paths start in the folder of this set)",
                "6:11: no ready set `none` (there are {ready})",
                "bad.wash.toml:2:1: a rule has no key `remov`; did you mean `remove`? (a rule takes {rule keys})",
            ],
        ),
        (
            "a circle",
            "[[rule]]\ninclude = 'circle.wash.toml'",
            &[
                "2:11: the rule set `circle.wash.toml` cannot be used (what is wrong with it is said below)",
                "circle.wash.toml:2:11: the rule set `round.wash.toml` cannot be used (what is wrong with it is said below)",
                "round.wash.toml:2:11: rule sets include each other in a circle: circle.wash.toml → round.wash.toml → circle.wash.toml (take one of these includes out)",
            ],
        ),
        (
            "an example given twice, and one without its text",
            "[[example]]\ngiven = ''\ngiven_file = 'pairs.csv'\ngives_file = 'none'",
            &[
                "2:1: `given` and `given_file` are one text twice (keep one)",
                "4:14: `none` cannot be read: there is no such file (paths start in the folder of this set)",
            ],
        ),
        (
            "a language without stop words",
            "[[rule]]\nremove.stopwords = 'english'",
            &["2:20: no stop words for `english` (languages are written by their ISO 639 codes: {languages})"],
        ),
    ]);
}

#[test]
fn quotes_and_braces_that_are_missing() {
    check(&[
        (
            "a mark that begins a comment, an open quote, quotes of books",
            "[[rule]]\nremove.chars = #-\n[[rule]]\nremove.chars = \"#-\n[[rule]]\nremove.chars = “#-”",
            &[
                "2:16: # begins a comment here (a value that holds it stands in quotes: remove.chars = '#-')",
                "4:19: the closing quotation mark is missing (write remove.chars = \"#-\")",
                "6:16: typographic quotation marks are no quotes here (write remove.chars = '#-')",
            ],
        ),
        (
            "a word in place of a table",
            "[[rule]]\nrecase = 'upper'\n[[rule]]\nremove = 'um'\n[[rule]]\nremove = { text = 'um', which = 'two' }",
            &[
                "2:10: `recase` has to be a table, not a string (write recase = { to = \"upper\" })",
                "4:10: `remove` has to be a table, not a string (write remove = { text = \"um\" })",
                "6:33: `which` cannot be `two` (write the number: which = 2)",
            ],
        ),
        (
            "verbs by other words",
            "[[rule]]\ndelete.chars = '#'",
            &["2:1: there is no verb `delete`: ours is `remove` (write remove = { chars = \"#-\" })"],
        ),
    ]);
}

#[test]
fn keys_that_are_about_something_else() {
    check(&[
        (
            "letters that no case raises",
            "[[rule]]\nrecase = { to = 'upper', rest = 'keep' }",
            &[
                "2:26: `rest` is about what `title` and `sentence` do not raise (write to = \"title\" or \"sentence\", or leave it out)",
            ],
        ),
        (
            "sections without an end, and none at all",
            "[[rule]]\ntrim = {}\nfrom_line.text = 'a'\nunclosed = 'leave'\n[[rule]]\ntrim = {}\nexpect_sections = 3",
            &[
                "4:1: `unclosed` is about sections that should close (it goes with `to_line`, the line with which a section closes)",
                "7:1: `expect_sections` is about sections (it goes with `from_line` and `to_line`, which say where they are)",
            ],
        ),
        (
            "sections of cells",
            "[[rule]]\ntrim = {}\nfrom_line.text = 'a'\ncell_lines = true\nexpect_sections = 3",
            &[
                "5:1: `expect_sections` counts the sections of a text, not those of cells (use `expect`, which counts changes)",
            ],
        ),
    ]);
}

#[test]
fn pairs_that_mean_nothing() {
    check(&[
        (
            "no pair, three strings, and nothing to look for",
            "[[rule]]\nreplace.pairs = ['a', ['a', 'b', 'c'], ['', 'x']]\n[[rule]]\nreplace.pairs = 'a'",
            &[
                "2:18: a pair is a list of two strings (write pairs = [[\"colour\", \"color\"], [\"grey\", \"gray\"]])",
                "2:23: a pair is a list of two strings (write pairs = [[\"colour\", \"color\"], [\"grey\", \"gray\"]])",
                "2:40: a pair looks for nothing (the first of the two is what is looked for)",
                "4:17: `pairs` is a list of pairs (write pairs = [[\"colour\", \"color\"], [\"grey\", \"gray\"]])",
            ],
        ),
        (
            "one text that is to become two",
            "[[rule]]\nreplace = { pairs = [['Colour', 'color']], pairs_from = 'pairs.csv', case = 'ignore' }\n[[rule]]\nreplace = { pairs = [['colour', 'hue']], pairs_from = 'pairs.csv' }",
            &["4:55: “colour” is to become “hue”, and “color” in line 1 of `pairs.csv` (keep one of the two pairs)"],
        ),
        (
            "with beside pairs, exact case beside follow_case, a target beside pairs",
            "[[rule]]\nreplace = { pairs = [['a', 'b']], with = 'x', follow_case = true, case = 'exact', text = 'a' }\n[[rule]]\nreplace = { text = 'a', with = 'b', whole_words = true }",
            &[
                "2:35: `with` means nothing beside pairs (each pair says itself what takes the place of what; leave `with` out)",
                "2:67: `follow_case` needs `case = \"ignore\"` (leave `case` out: what follows the case it finds has to find every case)",
                "2:83: `text` means nothing beside pairs (each pair says what is looked for)",
                "4:37: `whole_words` goes with `pairs` (to find whole words, use `words`)",
            ],
        ),
    ]);
}

#[test]
fn scopes_that_pick_nothing() {
    check(&[
        (
            "a range of lines that is none, and one that is swapped",
            "[[rule]]\ntrim = {}\nlines = '0..3'\n[[rule]]\ntrim = {}\nlines = '9..2'\n[[rule]]\ntrim = {}\nlines = '..'\n[[rule]]\ntrim = {}\nlines = '-1..-3'",
            &[
                "3:9: `0..3` is not a range of lines (lines are written \"3\", \"1..5\", \"5..\", or from the end \"-3..\"; they are counted from 1)",
                "6:9: the range `9..2` ends before it begins (write \"2..9\")",
                "9:9: `..` is not a range of lines (lines are written \"3\", \"1..5\", \"5..\", or from the end \"-3..\"; they are counted from 1)",
                "12:9: the range `-1..-3` ends before it begins (write \"-3..-1\")",
            ],
        ),
        (
            "a line picked by its end",
            "[[rule]]\ntrim = {}\nonly_lines = { chars = \"\\n\" }",
            &[
                "3:1: `only_lines` looks at each line by itself (line by line, `\\n` and `line-end` are never found; leave them out)",
            ],
        ),
        (
            "nothing to protect, and a protected word",
            "protect = [{ at = 'start' }, 'um']\n[[rule]]\ntrim = {}",
            &[
                "1:12: this rule looks for nothing (say what to look for with one of {targets})",
                "1:30: `protect` is a list of targets (write protect = [{ text = \"lamp\" }])",
            ],
        ),
        (
            "protect in a rule, a scope in a verb, a scope outside any rule",
            "lines = '1'\n[[rule]]\ntrim = { lines = '1' }\nprotect = []",
            &[
                "1:1: `lines` stands outside any rule (put [[rule]] on a line of its own before it)",
                "3:10: `lines` belongs to the rule, not inside `trim` (write it on a line of its own, above trim = { at = \"end\" })",
                "4:1: `protect` belongs to the whole set, and here it is read as a key of the rule above (move `protect` (a list of targets) up, before the first [[rule]])",
            ],
        ),
        (
            "an expectation that cannot be read, one that is swapped, and one of many rules",
            "[[rule]]\ntrim = {}\nexpect = 'some'\n[[rule]]\ntrim = {}\nexpect_each = '5..2'\n[[rule]]\ninclude = 'ok.wash.toml'\nexpect = 1",
            &[
                "3:10: `expect` is a number of changes (write expect = 3, \"1..\" for one or more, or \"2..5\")",
                "6:15: the range `5..2` ends before it begins (write \"2..5\")",
                "9:1: `expect` is about one rule, and `include` is many (write it on the rules of that set)",
            ],
        ),
        (
            "options of stock patterns in the wrong place",
            "protect = [{ stock = 'line-number', rising = true }]\n[[rule]]\nremove = { stock = 'tag', number = true }\n[[rule]]\nremove = { text = 'a', rising = true }",
            &[
                "1:12: `rising` and `number` mean nothing here (leave it out; only the target of a verb follows the text from line to line)",
                "3:27: `number` means nothing for the stock pattern `tag` (`number` goes with `cue-range`)",
                "5:24: `rising` means nothing for `text` (`rising` goes with `line-number`)",
            ],
        ),
        (
            "lines without a section",
            "[[rule]]\nkeep_lines = {}\nspare = [{ chars = '#' }]",
            &["2:1: this rule looks for nothing (say what to look for with one of {targets})"],
        ),
    ]);
}

#[test]
fn slips_of_toml_with_the_mended_line() {
    check(&[
        (
            "a backslash in double quotes",
            "[[rule]]\nremove.pattern = \"\\d+\"",
            &[
                "2:20: in \"…\" a backslash has a meaning of its own (in '…' it stands for itself: write remove.pattern = '\\d+')",
            ],
        ),
        (
            "two dotted keys on one line",
            "[[rule]]\nremove.chars = '#', at = 'start'",
            &[
                "2:19: there can be only one key on a line (several keys go into braces: remove = { chars = '#', at = 'start' })",
            ],
        ),
        (
            "a dotted key after braces",
            "[[rule]]\nremove = { chars = '#' }\nremove.at = 'start'",
            &[
                "3:1: this verb is closed already, by its braces (put it inside the braces: remove = { …, at = 'start' })",
            ],
        ),
        (
            "a bare range",
            "[[rule]]\nremove.positions = 1..12",
            &["2:22: a range has to be in quotes (write remove.positions = \"1..12\")"],
        ),
        (
            "no quotes",
            "[[rule]]\nlabel = no fillers",
            &[
                "2:9: this is not TOML: string values must be quoted, expected literal string (put the value in quotes: label = 'no fillers')",
            ],
        ),
    ]);
}

#[test]
fn one_rule_from_a_command_line() {
    let message = |rule: &str| RuleSet::read_one_rule("--rule", rule).map(|_| ()).map_err(|error| error.to_string());
    assert_eq!(message("remove.pattern = \\d+$"), Ok(()));
    assert_eq!(message("replace = { text = 'a', with = 'b' }"), Ok(()));
    assert_eq!(message("{ fields = 'Keeper', remove.stock = 'name-title', }\n"), Ok(()));
    for (rule, start) in [
        ("{ field = 'Keeper', trim = {} }", "--rule:1:3: a rule has no key `field`; did you mean `fields`?"),
        ("{ trim = {} ", "--rule:1:12: this is not TOML: "),
        ("{ trim = {} } x", "--rule:1:14: this is not TOML: unexpected content"),
    ] {
        let message = message(rule).expect_err("a problem");
        assert!(message.starts_with(start), "{message}");
    }
    assert_eq!(
        message("[[rule]]\ntrim = {}"),
        Err("--rule:1:3: one rule is asked for here, without `[[rule]]`".to_owned())
    );
    assert_eq!(
        message("remove.chars = control"),
        Err("--rule:1:16: `control` is a class, and `chars` takes single characters (write class = \"control\"; for \
             the letters themselves, write each once and in another order)"
            .to_owned())
    );
    assert_eq!(
        message("trim"),
        Err("--rule:1:4: a verb needs a table, even an empty one (write trim = { at = \"end\" })".to_owned())
    );
}

#[test]
fn large_sets_are_fine() {
    let rules: String = (0..10_000).flat_map(|_| ["[[rule]]\nremove = { text = 'a', at = 'start' }\n"]).collect();
    let padding = "# the keepers' remarks\n".repeat(60_000);
    assert_eq!(RuleSet::read("large", &(padding + &rules)).map(|set| set.rules.len()).ok(), Some(10_000));
}
