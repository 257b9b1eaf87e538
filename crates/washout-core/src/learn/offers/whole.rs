//! Rules that need no target: they are offered whatever differs.

use super::offer::Offer;

/// What each costs over the price of a rule.
const RULES: &[(u32, &str)] = &[
    (4, "trim = {}"),
    (6, r#"trim = { at = "start" }"#),
    (6, r#"trim = { at = "end" }"#),
    (8, r#"trim = { class = "whitespace" }"#),
    (6, r#"recase = { to = "lower" }"#),
    (6, r#"recase = { to = "upper" }"#),
    (6, r#"recase = { to = "title" }"#),
    (8, r#"recase = { to = "sentence" }"#),
    (9, r#"recase = { to = "title", rest = "keep" }"#),
    (9, r#"recase = { to = "sentence", rest = "keep" }"#),
    (6, r#"normalize = { form = "NFC" }"#),
    (10, r#"normalize = { form = "NFKC" }"#),
    (12, r#"normalize = { form = "NFD" }"#),
    (6, "plain_letters = {}"),
    (5, r#"decode = { what = "html-entities" }"#),
    (5, r#"decode = { what = "percent" }"#),
    (5, r#"decode = { what = "double-utf8" }"#),
    (5, r#"decode = { what = "digits" }"#),
    (6, r#"collapse = { class = "blank", with = " " }"#),
    (7, r#"collapse = { class = "whitespace", with = " " }"#),
    (8, r#"collapse = { chars = " " }"#),
    (12, r#"collapse = { class = "punctuation" }"#),
    (9, r#"tabs = { to = "spaces", width = 4 }"#),
    (9, r#"tabs = { to = "spaces", width = 8 }"#),
    // A word that is written twice; figures in groups of three; zeros before a number, and after a decimal point.
    (14, r"replace = { pattern = '\b(\w+)(?: \1\b)+', with = '$1' }"),
    (16, r"replace = { pattern = '(\d)(?=(?:\d{3})+(?!\d))', with = '$1,' }"),
    (18, r"replace = { pattern = '(\d)(?=(?:\d{3})+(?!\d))', with = '$1 ' }"),
    (18, r"replace = { pattern = '(\d)(?=(?:\d{3})+(?!\d))', with = '$1.' }"),
    (16, r"replace = { pattern = '(\p{Ll})(\p{Lu})', with = '$1 $2' }"),
    (16, r"remove = { pattern = '^0+(?=\d)' }"),
    (18, r"remove = { pattern = '\b0+(?=\d)' }"),
    (20, r"remove = { pattern = '(?<=\d)[.,]0+$' }"),
];

/// Those that make other lines, drop some, or make all line ends alike.
const OF_LINES: &[(u32, &str)] = &[
    (4, r#"drop_lines = { empty = "all" }"#),
    (6, r#"drop_lines = { empty = "extra" }"#),
    (8, "drop_repeats = {}"),
    (9, r#"drop_repeats = { scope = "file" }"#),
    (14, r#"drop_repeats = { scope = "file", case = "ignore" }"#),
    (14, r#"drop_repeats = { scope = "file", ignore_edges = true }"#),
    (6, "join_lines = {}"),
    (9, r#"join_lines = { hyphens = "rejoin" }"#),
    (9, r#"join_lines = { paragraphs = "join" }"#),
    (10, r#"join_lines = { with = "" }"#),
    (12, r#"join_lines = { with = "", paragraphs = "join" }"#),
    (12, r#"join_lines = { with = ", ", paragraphs = "join" }"#),
    (12, r#"join_lines = { hyphens = "rejoin", paragraphs = "join" }"#),
    (8, r#"break_lines = { stock = "sentence-end" }"#),
    (12, r#"break_lines = { chars = ".?!" }"#),
    (14, r#"replace = { chars = "\n", with = " " }"#),
    (8, r#"line_ends = { to = "lf" }"#),
    (8, r#"line_ends = { final = "one" }"#),
    (8, r#"line_ends = { final = "none" }"#),
];

pub(super) fn offers(of_lines: bool) -> Vec<Offer> {
    let of_lines = if of_lines { OF_LINES } else { &[] };
    RULES.iter().chain(of_lines).map(|(price, rule)| Offer::new(*rule, *price)).collect()
}
