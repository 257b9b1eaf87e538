//! Random rules and texts: for the property tests, and for the fuzz targets.

#![allow(unreachable_pub, reason = "shared by tests")]

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;

/// Pieces that texts are made of: what rules look for, all line ends, broken bytes, and what could be taken for them.
const PIECES: &[&[u8]] = &[
    b"a",
    b"b",
    b"um",
    b"Um",
    b"lamp",
    b"the",
    b"x",
    b"X",
    b" ",
    b" ",
    b"  ",
    b"\t",
    b"\n",
    b"\n",
    b"\r\n",
    b"\r",
    b"-",
    b"#",
    b".",
    b",",
    b";",
    b"?",
    b"'",
    "’".as_bytes(),
    b"\"",
    b"(",
    b")",
    b"[",
    b"]",
    b"1",
    b"12",
    b"1.2",
    "٠٥.١".as_bytes(),
    b"0:14",
    b"7:45 pm",
    b"[01:02]",
    b"|",
    "é".as_bytes(),
    "ß".as_bytes(),
    "ẞ".as_bytes(),
    "\u{200B}".as_bytes(),
    "\u{200D}".as_bytes(),
    "\u{A0}".as_bytes(),
    "\u{2028}".as_bytes(),
    "e\u{301}".as_bytes(),
    "\u{AD}".as_bytes(),
    b"\xFF",
    b"\xC3",
    b"\xE2\x82",
    b"\x80",
    b"\x07",
    b"um um",
    b"um,",
    "Σ".as_bytes(),
    "\u{301}".as_bytes(),
    "\u{345}\u{300}".as_bytes(),
    "\u{323}".as_bytes(),
    "가".as_bytes(),
    "\u{1100}\u{1161}".as_bytes(),
    "\u{11A8}".as_bytes(),
    "\u{F73}\u{F80}".as_bytes(),
    "ﬁ²".as_bytes(),
    "ø".as_bytes(),
    "\u{212B}".as_bytes(),
    "ΣΣ".as_bytes(),
    b"lamp-\nroom",
    b"&amp;",
    b"&#10;",
    "&eacute;".as_bytes(),
    b"%20",
    b"%C3%A9%FF",
    b"%",
    "â€™".as_bytes(),
    "Ã©".as_bytes(),
    "Ã".as_bytes(),
    "٣".as_bytes(),
];

pub fn text() -> impl Strategy<Value = Vec<u8>> {
    let body = vec(select(PIECES), 0..40).prop_map(|pieces| pieces.concat());
    (prop::bool::weighted(0.1), body)
        .prop_map(|(bom, body)| [if bom { &b"\xEF\xBB\xBF"[..] } else { b"" }, &body].concat())
}

fn one_of(values: &'static [&'static str]) -> impl Strategy<Value = String> {
    select(values).prop_map(str::to_owned)
}

/// Characters and literal text: what runs are made of.
fn characters_or_text() -> impl Strategy<Value = String> {
    one_of(&[
        "chars = '#-'",
        "chars = ' .'",
        "chars = 'umx'",
        "chars = \"\\n\"",
        "chars = \"\\r#\"",
        "chars = \"ßa\"",
        "class = 'control'",
        "class = ['invisible', 'dash']",
        "class = 'whitespace'",
        "class = 'blank'",
        "class = ['line-end', 'blank']",
        "class = 'broken'",
        "class = 'letter'",
        "class = 'non-ascii'",
        "text = 'um'",
        "text = ['a', 'ab', 'lamp', 'é']",
        "text = [' ', '  ']",
        "text = \"\\n\"",
        "text = \"m\\n\"",
        "text = [\"\\n\\n\", \"a\\n b\", \"\\r\\n#\"]",
        "text = 'ß'",
    ])
}

fn target() -> impl Strategy<Value = String> {
    let others = one_of(&[
        "words = ['um', 'uh']",
        "words = ['um', 'um um', 'the lamp', '12']",
        "words = ['lamp', \"a'b\", '# x', '.']",
        "words = ['um', 'lamp', 'b'], hyphen = 'joins'",
        "stock = 'timestamp'",
        "between = ['[', ']']",
        "between = ['(', ')'], marks = 'keep'",
        "between = ['\"', '\"']",
        "between = ['um', 'x']",
        "between = ['-', '--'], marks = 'keep'",
        "positions = '2..4'",
        "positions = '3..'",
        "positions = '1'",
        "stock = 'line-number'",
        "stock = 'sentence-end'",
    ]);
    prop_oneof![characters_or_text(), others]
}

fn pattern() -> impl Strategy<Value = String> {
    let across = one_of(&[
        r"pattern = '\n\s*', across_lines = true",
        r"pattern = '^$\n', across_lines = true",
        r"pattern = '[^a]*b', across_lines = true",
        r"pattern = 'um.|$', across_lines = true",
        r"pattern = '(?s)a.*?m|\z', across_lines = true",
        r"pattern = 'm?\n(?:)', across_lines = true",
        r"pattern = '[^m]{1,300}m', across_lines = true",
    ]);
    // What looks around, if only for nothing, runs on another engine.
    let looking = |pattern: String, looks: bool| if looks { pattern.replacen('\'', "'(?=)", 1) } else { pattern };
    (prop_oneof![3 => within_lines(), 1 => across], prop::bool::weighted(0.2))
        .prop_map(move |(pattern, looks)| looking(pattern, looks))
}

fn within_lines() -> impl Strategy<Value = String> {
    one_of(&[
        r"pattern = 'x*'",
        r"pattern = '\s+'",
        r"pattern = '\d+'",
        r"pattern = 'a|ab|um'",
        r"pattern = '^.'",
        r"pattern = '.$'",
        r"pattern = '\b'",
        r"pattern = '[^a]'",
        r"pattern = '(?s:.)um'",
        r"pattern = '.*[^A-Z]|[A-Z]'",
        r"pattern = '(?m)^|$'",
        r"pattern = '\w+?'",
        r"pattern = '\PL+'",
        r"pattern = '\w\.\w'",
        r"pattern = '\d{2}[-.]'",
        r"pattern = '[^a]um'",
        r"pattern = '\w{1,2}\.'",
        r"pattern = '\w{2}-.'",
        r"pattern = '(?:)'",
        r"pattern = 'u?[a-z ]{1,300}m'",
        r"pattern = '[^m]{0,300}um'",
        r"pattern = ' {2,}'",
    ])
}

pub fn at() -> impl Strategy<Value = String> {
    one_of(&["", "", ", at = 'anywhere'", ", at = 'start'", ", at = 'end'", ", at = 'edges'", ", at = 'whole-line'"])
}

pub fn case() -> impl Strategy<Value = String> {
    one_of(&["", "", ", case = 'ignore'"])
}

fn which() -> impl Strategy<Value = String> {
    one_of(&["", "", "", ", which = 'first'", ", which = 'last'", ", which = 2"])
}

fn except() -> impl Strategy<Value = String> {
    one_of(&[
        "",
        "",
        "",
        ", except = { chars = 'a#' }",
        ", except = { class = 'upper', words = ['um', '12'] }",
        ", except = { text = ['a', '0:14', ' '] }",
    ])
}

/// A target with the modifiers every search may have.
fn search() -> impl Strategy<Value = String> {
    let takes_case = |target: &str| !["stock", "positions"].iter().any(|kind| target.starts_with(kind));
    let cased =
        (target(), case()).prop_map(move |(target, case)| if takes_case(&target) { target + &case } else { target });
    let target = prop_oneof![3 => cased, 1 => (pattern(), case()).prop_map(|(pattern, case)| pattern + &case)];
    (target, at(), except()).prop_map(|(target, at, except)| {
        // Over the whole text the reference knows the start of lines only.
        let at = match target.contains("across") {
            true if target.contains("(?=)") || at.is_empty() => String::new(),
            true => ", at = 'start'".to_owned(),
            false => at,
        };
        target + &at + &except
    })
}

/// Whether a search takes no line ends.
fn within_line(search: &str) -> bool {
    !["\\n", "\\r", "line-end", "across"].iter().any(|taken| search.contains(taken))
}

fn rule() -> impl Strategy<Value = String> {
    let gap = one_of(&["", "", ", gap = 'leave'", ", gap = 'close'", ", gap = 'mend'"]);
    let with = one_of(&["''", "'X'", "' um '", "\"\\n\"", "\"\\r\"", "'a-'"]);
    let remove = (search(), which(), gap).prop_map(|(search, which, gap)| {
        let line_ends = ["\\n", "\\r", "line-end", "across", "whole-line"].iter().any(|taken| search.contains(taken));
        let gap = if line_ends { String::new() } else { gap };
        format!("remove = {{ {search}{which}{gap} }}")
    });
    let replace = (search(), which(), with)
        .prop_map(|(search, which, with)| format!("replace = {{ {search}{which}, with = {with} }}"));
    let patterns = one_of(&["(u|l)?(?<x>[ma]+)", r"(\w)\.(?<x>\w)", r"(\d{2})(?<x>.)", "(?<x>u)(m)"]);
    let grouped =
        (patterns, at(), which(), one_of(&["'<$1>'", "'$2$1'", "'${x}.$0'"])).prop_map(|(pattern, at, which, with)| {
            format!("replace = {{ pattern = '{pattern}'{at}{which}, with = {with} }}")
        });
    let joins = (one_of(&["''", "' '", "', '"]), one_of(&["keep", "join"]), one_of(&["leave", "rejoin"])).prop_map(
        |(with, paragraphs, hyphens)| {
            format!("join_lines = {{ with = {with}, paragraphs = '{paragraphs}', hyphens = '{hyphens}' }}")
        },
    );
    let breaks = (search(), which(), one_of(&["after", "before"]), any::<bool>())
        .prop_filter("a line is not broken at its own end", |(search, ..)| within_line(search))
        .prop_map(|(search, which, place, tight)| {
            format!("break_lines = {{ {search}{which}, place = '{place}', tight = {tight} }}")
        });
    let keep = (search(), which(), one_of(&["", ", joined_with = '+'"]), one_of(&["empty", "leave", "drop"]))
        .prop_filter("keep works within a line", |(search, ..)| within_line(search))
        .prop_map(|(search, which, joined, unmatched)| {
            format!("keep = {{ {search}{which}{joined}, unmatched = '{unmatched}' }}")
        });
    let keep_group = (at(), which(), 0..3_usize).prop_map(|(at, which, group)| {
        format!(r"keep = {{ pattern = '(u|l)?(?<x>[ma]+)'{at}{which}, group = {group} }}")
    });
    let collapse =
        (characters_or_text(), case(), at(), except(), which(), one_of(&["", "", ", with = ' '", ", with = ''"]))
            .prop_map(|(target, case, at, except, which, with)| {
                format!("collapse = {{ {target}{case}{at}{except}{which}{with} }}")
            });
    let recase = (
        one_of(&["lower", "upper", "title", "sentence"]),
        one_of(&["", ", rest = 'keep'"]),
        prop::option::of((search(), which())),
    )
        .prop_map(|(to, rest, within)| {
            let rest = if to.len() > 5 || to == "title" { rest } else { String::new() };
            let within = within.map_or(String::new(), |(search, which)| format!(", {search}{which}"));
            format!("recase = {{ to = '{to}'{rest}{within} }}")
        });
    let pairs = (at(), case(), which(), except(), one_of(&["", ", whole_words = true", ", follow_case = true, case = 'ignore'"]))
        .prop_filter("case once", |(_, case, _, _, words)| case.is_empty() || !words.contains("case"))
        .prop_map(|(at, case, which, except, words)| {
            let pairs = if words.contains("whole") {
                "[['um', 'X'], ['um um', ''], ['lamp', 'x'], ['the lamp', 'lamp'], ['.', '!']]"
            } else {
                "[['a', 'b'], ['b', 'a'], ['um', 'ab'], ['ß', 'ss'], [' ', ''], [\"\\n\", '|'], ['x', 'x'], ['um,', 'é']]"
            };
            format!("replace = {{ pairs = {pairs}{at}{case}{which}{except}{words} }}")
        });
    prop_oneof![
        2 => pairs,
        2 => keep,
        1 => keep_group,
        2 => collapse,
        2 => recase,
        5 => remove,
        4 => replace,
        1 => grouped,
        1 => one_of(&["trim = {}", "trim = { at = 'start' }", "trim = { at = 'end', class = 'whitespace' }"]),
        1 => search().prop_map(|search| format!("drop_lines = {{ {search} }}")),
        1 => search().prop_map(|search| format!("keep_lines = {{ {search} }}")),
        1 => one_of(&["drop_lines = { empty = 'all' }", "drop_lines = { empty = 'extra' }"]),
        2 => one_of(&[
            "normalize = { form = 'NFC' }",
            "normalize = { form = 'NFD' }",
            "normalize = { form = 'NFKC' }",
            "normalize = { form = 'NFKD' }",
            "plain_letters = {}",
            "decode = { what = 'html-entities' }",
            "decode = { what = 'percent' }",
            "decode = { what = 'double-utf8' }",
            "decode = { what = 'digits' }",
            "drop_repeats = {}",
            "drop_repeats = { scope = 'file' }",
            "drop_repeats = { scope = 'file', case = 'ignore', ignore_edges = true }",
            "drop_repeats = { ignore_edges = true }",
            "line_ends = { to = 'lf' }",
            "line_ends = { to = 'crlf', final = 'one' }",
            "line_ends = { final = 'one', bom = 'drop' }",
            "line_ends = { to = 'lf', final = 'none' }",
            "tabs = { to = 'spaces', width = 4 }",
            "tabs = { width = 1 }",
            "wrap_lines = { width = 1 }",
            "wrap_lines = { width = 5 }",
            "wrap_lines = { width = 12 }",
            "pad = { width = 4 }",
            "pad = { width = 3, which = 'last' }",
            "pad = { width = 2, which = 2 }",
            "number = {}",
            "number = { start = 8, step = 3, width = 2, place = 'end', joined_with = '#' }",
        ]),
        1 => (search(), which()).prop_map(|(search, which)| format!("pad = {{ width = 3, {search}{which} }}")),
        1 => (search(), which()).prop_map(|(search, which)| format!("number = {{ start = 0, width = 2, {search}{which} }}")),
        1 => joins,
        2 => breaks,
    ]
}

/// Which lines the rule is about.
fn lines() -> impl Strategy<Value = String> {
    one_of(&[
        "lines = '2..3'",
        "lines = '-2..'",
        "lines = '2..-2'",
        "lines = '..1'",
        "only_lines = { chars = '#-' }",
        "only_lines = { words = 'um', case = 'ignore' }",
        "skip_lines = { pattern = '^$' }",
        "skip_lines = { class = 'broken' }",
        "from_line = { text = 'a' }\nto_line = { text = 'b' }",
        "from_line = { text = 'a' }\nto_line = { text = 'b' }\nunclosed = 'take'",
        "from_line = { chars = '#-' }\nto_line = { chars = '#' }",
        "to_line = { text = 'b' }\nunclosed = 'leave'",
        "from_line = { chars = '#' }",
        "to_line = { words = 'lamp' }",
        "from_line = { class = 'blank', at = 'start' }\nto_line = { pattern = 'm$' }\nlines = '2..'",
    ])
}

/// Where the rule may act.
fn scope() -> impl Strategy<Value = String> {
    prop_oneof![4 => Just(String::new()), 1 => lines(), 1 => stretches().prop_map(|list| format!("spare = {list}"))]
}

/// Targets to be left alone.
fn stretches() -> impl Strategy<Value = String> {
    one_of(&[
        "[{ words = 'lamp' }]",
        "[{ chars = '#' , at = 'whole-line' }]",
        "[{ pattern = 'u.*', at = 'whole-line' }, { class = 'blank' }]",
        "[{ text = [\"a\\n\", \"m\\nu\", \"\\n\\n\"] }]",
        "[{ between = ['[', ']'] }, { text = ', ' }]",
        "[{ pattern = '.', at = 'whole-line' }]",
        "[{ class = 'broken' }, { class = 'line-end', at = 'whole-line' }]",
    ])
}

pub fn rules() -> impl Strategy<Value = String> {
    let scoped = (rule(), scope()).prop_map(|(rule, scope)| format!("[[rule]]\n{rule}\n{scope}\n"));
    let section = (one_of(&["drop_lines", "keep_lines"]), lines())
        .prop_map(|(verb, lines)| format!("[[rule]]\n{verb} = {{}}\n{lines}\n"));
    let protect =
        prop_oneof![4 => Just(String::new()), 1 => stretches().prop_map(|list| format!("protect = {list}\n"))];
    (protect, vec(prop_oneof![12 => scoped, 1 => section], 1..5)).prop_map(|(protect, rules)| protect + &rules.concat())
}
