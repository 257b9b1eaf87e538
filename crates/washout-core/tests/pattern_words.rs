//! Regular expressions in plain words, piece by piece.

use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use washout_core::explain::pattern_pieces;

/// Patterns, each with the words for its pieces: in their order, those within a group below it.
const TOLD: &[(&str, &[&str])] = &[
    ("lamp", &["lamp → the text “lamp”"]),
    ("a", &["a → the text “a”"]),
    (" ", &["  → the text “ ”"]),
    (r"\t", &[r"\t → a tab"]),
    (r"\n", &[r"\n → a line end"]),
    (r"\x{200B}", &[r"\x{200B} → the character U+200B “\u{200b}”"]),
    ("é+", &["é+ → the text “é”, once or more, as many as there are"]),
    ("a?", &["a? → the text “a”, once or not at all"]),
    ("a*", &["a* → the text “a”, any number of times or not at all, as many as there are"]),
    ("a+", &["a+ → the text “a”, once or more, as many as there are"]),
    ("a*?", &["a*? → the text “a”, any number of times or not at all, as few as will do"]),
    ("a{3}", &["a{3} → the text “a”, 3 times"]),
    ("a{2,}", &["a{2,} → the text “a”, 2 times or more, as many as there are"]),
    ("a{2,5}", &["a{2,5} → the text “a”, 2 to 5 times, as many as there are"]),
    ("a{2,5}?", &["a{2,5}? → the text “a”, 2 to 5 times, as few as will do"]),
    ("(ab)+", &["(ab)+ → group 1, once or more, as many as there are:", "  ab → the text “ab”"]),
    ("(?:ab)+?", &["(?:ab)+? → together, once or more, as few as will do:", "  ab → the text “ab”"]),
    ("fog|mist", &["fog → either the text “fog”", "mist → or the text “mist”"]),
    (
        "(fog|mist) rolls",
        &[
            "(fog|mist) → group 1:",
            "  fog → either the text “fog”",
            "  mist → or the text “mist”",
            " rolls → the text “ rolls”",
        ],
    ),
    (
        "(?<kind>fog|mist)",
        &["(?<kind>fog|mist) → group 1, called kind:", "  fog → either the text “fog”", "  mist → or the text “mist”"],
    ),
    ("[abc]", &["[abc] → one of a, b, c"]),
    ("[^abc]", &["[^abc] → any character but a, b, c"]),
    ("[a-z]", &["[a-z] → one of a to z"]),
    ("[a-zA-Z0-9_]", &["[a-zA-Z0-9_] → one of a to z, A to Z, 0 to 9, _"]),
    (r"[^\s,;]", &[r"[^\s,;] → any character but a blank or other white space, a comma, ;"]),
    (r"\d", &[r"\d → a digit"]),
    (r"\D+", &[r"\D+ → any character but a digit, once or more, as many as there are"]),
    (r"\w{2}", &[r"\w{2} → a letter, mark, digit or _, 2 times"]),
    (r"\s*", &[r"\s* → a blank or other white space, any number of times or not at all, as many as there are"]),
    (".", &[". → any character"]),
    (".*", &[".* → any character, any number of times or not at all, as many as there are"]),
    (".+?", &[".+? → any character, once or more, as few as will do"]),
    (r"\pL", &[r"\pL → a character of L"]),
    (
        r"\p{Lu}\p{Ll}*",
        &[
            r"\p{Lu} → a character of Lu",
            r"\p{Ll}* → a character of Ll, any number of times or not at all, as many as there are",
        ],
    ),
    (r"\P{N}", &[r"\P{N} → any character but those of N"]),
    (r"\p{Greek}", &[r"\p{Greek} → a character of Greek"]),
    ("[[:alpha:]]", &["[[:alpha:]] → one of the class alpha"]),
    ("[[:^digit:]]", &["[[:^digit:]] → one of any character but the class digit"]),
    ("^", &["^ → the start of the line"]),
    ("$", &["$ → the end of the line"]),
    ("^lamp$", &["^ → the start of the line", "lamp → the text “lamp”", "$ → the end of the line"]),
    (r"\blamp\b", &[r"\b → the edge of a word", "lamp → the text “lamp”", r"\b → the edge of a word"]),
    (r"\Blamp", &[r"\B → a place that is not an edge of a word", "lamp → the text “lamp”"]),
    (r"\A", &[r"\A → the start of what the pattern sees"]),
    (r"\z", &[r"\z → the end of what the pattern sees"]),
    (r"\b{start}a", &[r"\b{start} → the start of a word", "a → the text “a”"]),
    ("(?i)lamp", &["(?i) → letter case does not count, from here on", "lamp → the text “lamp”"]),
    (
        "(?i:lamp) room",
        &["(?i:lamp) → letter case does not count, within:", "  lamp → the text “lamp”", " room → the text “ room”"],
    ),
    ("(?s:.)", &["(?s:.) → . takes line ends, within:", "  . → any character"]),
    (
        "(?m)^a",
        &["(?m) → ^ and $ hold at every line edge, from here on", "^ → the start of the line", "a → the text “a”"],
    ),
    ("(?x) a b # note", &["(?x) → blanks in the pattern mean nothing, from here on", "ab → the text “ab”"]),
    (
        r"(\d\d)\.(\d\d)\.(\d{4})",
        &[
            r"(\d\d) → group 1:",
            r"  \d → a digit",
            r"  \d → a digit",
            r"\. → the text “.”",
            r"(\d\d) → group 2:",
            r"  \d → a digit",
            r"  \d → a digit",
            r"\. → the text “.”",
            r"(\d{4}) → group 3:",
            r"  \d{4} → a digit, 4 times",
        ],
    ),
    ("(?=a)", &["(?=a) → only where this follows:", "  a → the text “a”"]),
    ("(?!a)b", &["(?!a) → only where this does not follow:", "  a → the text “a”", "b → the text “b”"]),
    ("(?<=a)b", &["(?<=a) → only where this stands before:", "  a → the text “a”", "b → the text “b”"]),
    ("(?<!a)b", &["(?<!a) → only where this does not stand before:", "  a → the text “a”", "b → the text “b”"]),
    (
        r"(\w+) \1",
        &[
            r"(\w+) → group 1:",
            r"  \w+ → a letter, mark, digit or _, once or more, as many as there are",
            "  → the text “ ”",
            r"\1 → the same again as group 1 took",
        ],
    ),
    (
        r"(?<w>a)\k<w>",
        &["(?<w>a) → group 1, called w:", "  a → the text “a”", r"\k<w> → the same again as group w took"],
    ),
    ("[a&&b]", &["[a&&b] → one of a, of these only b"]),
    ("[a-z--[aeiou]]", &["[a-z--[aeiou]] → one of a to z, of these without (one of a, e, i, o, u)"]),
    (r"[\d.-]", &[r"[\d.-] → one of a digit, ., -"]),
    ("()", &["() → group 1, of nothing"]),
    ("(?:)", &["(?:) → together, of nothing"]),
    ("a|", &["a → either the text “a”", " → or nothing"]),
    (r"\.", &[r"\. → the text “.”"]),
    (
        r"\[.*?\]",
        &[
            r"\[ → the text “[”",
            ".*? → any character, any number of times or not at all, as few as will do",
            r"\] → the text “]”",
        ],
    ),
    (
        "“[^”]*”",
        &[
            "“ → the text ““”",
            "[^”]* → any character but ”, any number of times or not at all, as many as there are",
            "” → the text “””",
        ],
    ),
    (r"[\x00-\x1F]", &[r"[\x00-\x1F] → one of the character U+0000 “\0” to the character U+001F “\u{1f}”"]),
    (r"(?-u:\w)", &[r"(?-u:\w) → Unicode (off), within:", r"  \w → a letter, mark, digit or _"]),
    (r"\u{41}", &[r"\u{41} → the character U+0041 “A”"]),
    (
        "((a)(b))c",
        &[
            "((a)(b)) → group 1:",
            "  (a) → group 2:",
            "    a → the text “a”",
            "  (b) → group 3:",
            "    b → the text “b”",
            "c → the text “c”",
        ],
    ),
    (
        r"^[ \t]*#",
        &[
            "^ → the start of the line",
            r"[ \t]* → one of a space, a tab, any number of times or not at all, as many as there are",
            "# → the text “#”",
        ],
    ),
    ("a{0}", &["a{0} → the text “a”, 0 times"]),
    ("x{1}", &["x{1} → the text “x”, once"]),
    (r"\$\d+", &[r"\$ → the text “$”", r"\d+ → a digit, once or more, as many as there are"]),
    ("[]a]", &["[]a] → one of ], a"]),
    (
        "(?>a+)b",
        &[
            "(?>a+) → together, and once found not tried again:",
            "  a+ → the text “a”, once or more, as many as there are",
            "b → the text “b”",
        ],
    ),
    ("a++", &["a++ → the text “a”, once or more, as many as there are, once or more, as many as there are"]),
    (
        "a++(?=b)",
        &[
            "a++ → the text “a”, once or more, all there are, giving none back",
            "(?=b) → only where this follows:",
            "  b → the text “b”",
        ],
    ),
    (r"\D{2}+", &[r"\D{2}+ → any character but a digit, 2 times, once or more, as many as there are"]),
    (r"\v|\a|\f", &[r"\v → either a vertical tab", r"\a → or a bell character", r"\f → or a form feed"]),
    (
        r"\b{start-half}a\b{end-half}",
        &[
            r"\b{start-half} → a place with no letter, mark, digit or _ before",
            "a → the text “a”",
            r"\b{end-half} → a place with no letter, mark, digit or _ after",
        ],
    ),
    (
        r"(?=a)\N",
        &["(?=a) → only where this follows:", "  a → the text “a”", r"\N → what the backtracking engine takes for \N"],
    ),
    (
        "(?ix) a | b  # or",
        &[
            "(?ix) → letter case does not count, blanks in the pattern mean nothing, from here on",
            "a → either the text “a”",
            "b → or the text “b”",
        ],
    ),
    (
        "a b(?x) c # d",
        &["a b → the text “a b”", "(?x) → blanks in the pattern mean nothing, from here on", "c → the text “c”"],
    ),
    (
        "(?x: a b )c",
        &["(?x: a b ) → blanks in the pattern mean nothing, within:", "  ab → the text “ab”", "c → the text “c”"],
    ),
    ("[a-f~~d-k]", &["[a-f~~d-k] → one of a to f, or else, but not both, d to k"]),
    (r"[\w--\d,]", &[r"[\w--\d,] → one of a letter, mark, digit or _, of these without a digit, a comma"]),
    ("(?R)$", &["(?R) → CRLF is one line end too, from here on", "$ → the end of the line"]),
    (r"\<fog\>", &[r"\< → the start of a word", "fog → the text “fog”", r"\> → the end of a word"]),
    (
        "(a|(b|c)d)e",
        &[
            "(a|(b|c)d) → group 1:",
            "  a → either the text “a”",
            "  (b|c)d → or this:",
            "    (b|c) → group 2:",
            "      b → either the text “b”",
            "      c → or the text “c”",
            "    d → the text “d”",
            "e → the text “e”",
        ],
    ),
    (r"[^a-z\]\d ]?", &[r"[^a-z\]\d ]? → any character but a to z, ], a digit, a space, once or not at all"]),
    (
        "(?is-m)a",
        &[
            "(?is-m) → letter case does not count, . takes line ends, ^ and $ hold at every line edge (off), from here on",
            "a → the text “a”",
        ],
    ),
    (r"\p{Script=Greek}", &[r"\p{Script=Greek} → a character of Script=Greek"]),
    (
        r"(?<n>\d+)-(?<m>\d+)",
        &[
            r"(?<n>\d+) → group 1, called n:",
            r"  \d+ → a digit, once or more, as many as there are",
            "- → the text “-”",
            r"(?<m>\d+) → group 2, called m:",
            r"  \d+ → a digit, once or more, as many as there are",
        ],
    ),
    (
        r"^(?!#)\s*$",
        &[
            "^ → the start of the line",
            "(?!#) → only where this does not follow:",
            "  # → the text “#”",
            r"\s* → a blank or other white space, any number of times or not at all, as many as there are",
            "$ → the end of the line",
        ],
    ),
];

fn told(pattern: &str) -> Vec<String> {
    let pieces = pattern_pieces(pattern);
    pieces.iter().map(|piece| format!("{}{} → {}", "  ".repeat(piece.depth), piece.source, piece.means)).collect()
}

#[test]
fn patterns_are_told_piece_by_piece() {
    let wrong = TOLD.iter().filter(|(pattern, want)| told(pattern) != *want);
    let wrong: Vec<String> = wrong.map(|(pattern, _)| format!("{pattern}\n  {}", told(pattern).join("\n  "))).collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// What patterns are made of, whole or cut off.
const PARTS: &[&str] = &[
    "a", "é", "😀", " ", "#", "|", "(", ")", "(?", "(?:", "(?i)", "(?x)", "(?P<", "?<n>", "?=", "?<!", "[", "]", "[^",
    "-", "--", "&&", "[:", ":]", "{", "}", "{2", "{2,5}", "*", "+", "?", "^", "$", ".", "\\", "\\d", "\\x", "\\x{",
    "\\u", "\\U", "\\p", "\\p{", "\\k<", "\\b{", "\\1", "\n", ",",
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 2000, ..ProptestConfig::default() })]

    #[test]
    fn a_pattern_that_is_wrong_is_told_without_a_panic_and_a_good_one_whole(parts in vec(select(PARTS), 0..10)) {
        let pattern = parts.concat();
        let pieces = pattern_pieces(&pattern);
        prop_assert!(pieces.iter().all(|piece| !piece.means.is_empty()), "{pieces:?}");
        let is_plain = regex_syntax::parse(&pattern).is_ok() && !pattern.contains('|') && !pattern.contains("(?x");
        if is_plain {
            let whole: String = pieces.iter().filter(|piece| piece.depth == 0).map(|piece| piece.source.as_str()).collect();
            prop_assert_eq!(whole, pattern);
        }
    }
}
