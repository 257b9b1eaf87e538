//! Random regular expressions over random texts: a rule finds what the plain library finds in each line by itself.

#[allow(dead_code, reason = "only the keys of rules are used")]
mod random;
mod reference;
mod support;

use fancy_regex::Regex as FancyRegex;
use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::select;
use regex::{Captures, Regex, RegexBuilder};
use washout_core::observe::NoObserver;
use washout_core::{Program, RuleSet};

/// Characters and sets of them, as patterns write them.
const ATOMS: &[&str] = &[
    "a",
    "b",
    "ab",
    "1",
    " ",
    "#",
    "é",
    "ß",
    "K",
    "\u{212A}",
    ".",
    r"\d",
    r"\D",
    r"\w",
    r"\W",
    r"\s",
    r"\S",
    "[ab]",
    "[^a]",
    "[^ab1]",
    "[a-c1-9é]",
    r"\pL",
    r"\p{Lu}",
    r"[^\W\d]",
    "(?i:k)",
    "(?i:ß)",
    r"(?-u:\w)",
    "[[:punct:]]",
];
/// Places.
const PLACES: &[&str] = &["^", "$", r"\b", r"\B", r"\A", r"\z", r"\b{start}", r"\b{end}"];
const REPEATS: &[&str] = &["", "", "", "?", "*", "+", "*?", "+?", "{2}", "{1,3}", "{2,}?", "{0,2}"];

/// What texts are made of: what patterns look for, and what they may take for it.
const PIECES: &[&str] = &[
    "a", "a", "b", "ab", "1", "12", " ", "#", "é", "e\u{301}", "ß", "ẞ", "k", "K", "\u{212A}", "_", ".", "\t",
    "\u{A0}", "\u{2028}", "\u{85}", "\u{B}", "٣", "lamp",
];
const LINE_ENDS: &[&str] = &["\n", "\n", "\r\n", "\r"];

/// A pattern that looks neither around nor back.
fn pattern() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![5 => select(ATOMS), 1 => select(PLACES)].prop_map(str::to_owned);
    let repeated = |inner: String, repeat: &str| format!("(?:{inner}){repeat}");
    leaf.prop_recursive(4, 24, 4, move |inner| {
        prop_oneof![
            4 => vec(inner.clone(), 1..5).prop_map(|parts| parts.concat()),
            2 => vec(inner.clone(), 2..4).prop_map(|ways| format!("(?:{})", ways.join("|"))),
            3 => (inner.clone(), select(REPEATS)).prop_map(move |(inner, repeat)| repeated(inner, repeat)),
            1 => inner.prop_map(|inner| format!("({inner})")),
        ]
    })
}

/// A pattern that looks around, refers back to its only group, or keeps what it took; alone or within others.
fn looking_pattern() -> impl Strategy<Value = String> {
    let around = || (select(&["(?=", "(?!"][..]), pattern()).prop_map(|(open, inner)| format!("{open}{inner})"));
    let behind = (select(&["(?<=", "(?<!"][..]), select(&["a", "ab", r"\d", " ", "[^a]", "^", r"\b", "a|b"][..]));
    let behind = behind.prop_map(|(open, inner)| format!("{open}{inner})"));
    let back = pattern().prop_filter("one group", |inner| !groups(inner));
    let back = (back, pattern()).prop_filter("one group", |(_, after)| !groups(after));
    let back = (back, select(&[r"\1", r"(?:\1)+", r"(?i:\1)", r"(?(1)a|b)", r"\1?"][..]), select(&["", "?", "*"][..]));
    let back = back.prop_map(|((inner, after), again, times)| format!(r"({inner}){times}(?:{after})?{again}"));
    let atomic = (pattern(), pattern()).prop_map(|(inner, after)| format!("(?>{inner})(?:{after})"));
    let alone = prop_oneof![
        2 => (pattern(), around()).prop_map(|(before, around)| format!("(?:{before}){around}")),
        2 => (around(), pattern()).prop_map(|(around, after)| format!("{around}(?:{after})")),
        2 => (behind, pattern()).prop_map(|(behind, after)| format!("{behind}(?:{after})")),
        4 => back,
        1 => atomic,
    ];
    let wrapped = ["@", "@", "@|ab", "b|@", "(?:@)+", "(?:@){1,2}?", "a?@", "^@", "@$", "(?i)@", "(?:@)?b"];
    (alone, select(wrapped.to_vec())).prop_map(|(alone, wrapped)| wrapped.replace('@', &alone))
}

fn groups(pattern: &str) -> bool {
    pattern.as_bytes().windows(2).any(|pair| pair[0] == b'(' && pair[1] != b'?')
}

fn line() -> impl Strategy<Value = String> {
    vec(select(PIECES), 0..12).prop_map(|pieces| pieces.concat())
}

/// Lines, each with its line end; the last may have none.
fn lines() -> impl Strategy<Value = Vec<(String, &'static str)>> {
    (vec((line(), select(LINE_ENDS)), 0..6), line()).prop_map(|(mut lines, last)| {
        // A CR before an LF would be one line end with it.
        for at in 1..lines.len() {
            if lines[at - 1].1 == "\r" && lines[at].0.is_empty() {
                lines[at - 1].1 = "\n";
            }
        }
        if !last.is_empty() {
            lines.push((last, ""));
        }
        lines
    })
}

fn whole(lines: &[(String, &str)]) -> String {
    lines.iter().flat_map(|(line, end)| [line.as_str(), end]).collect()
}

/// What a rule makes of a text, taken at once and in pieces.
fn washed(rule: &str, text: &str, piece: usize) -> Result<String, TestCaseError> {
    let set = RuleSet::read("random", &format!("[[rule]]\n{rule}")).map_err(|error| match error.to_string() {
        // What else the backtracking engine knows is not part of the language.
        message if message.contains("unrecognized flag") => TestCaseError::reject(message),
        message => TestCaseError::fail(message),
    })?;
    let program = Program::compile([&set]);
    let outcome = program.apply(text.as_bytes()).map_err(|error| TestCaseError::reject(error.to_string()))?;
    let (mut washer, mut in_pieces) = (program.washer(NoObserver), Vec::new());
    for piece in text.as_bytes().chunks(piece) {
        washer.push(piece, &mut in_pieces).map_err(|error| TestCaseError::fail(error.to_string()))?;
    }
    washer.finish(&mut in_pieces).map_err(|error| TestCaseError::fail(error.to_string()))?;
    prop_assert_eq!(in_pieces.escape_ascii().to_string(), outcome.text().escape_ascii().to_string());
    Ok(String::from_utf8(in_pieces).expect("what was UTF-8 is UTF-8"))
}

fn of_each_line(lines: &[(String, &str)], line: impl Fn(&str) -> String) -> String {
    lines.iter().map(|(text, end)| line(text) + end).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1000, max_global_rejects: 20_000, ..ProptestConfig::default() })]

    #[test]
    fn a_pattern_finds_in_each_line_what_the_library_finds_there(
        pattern in pattern(), ignore_case in any::<bool>(), lines in lines(), piece in 1..30_usize,
    ) {
        let plain = RegexBuilder::new(&pattern).case_insensitive(ignore_case).build();
        let plain: Regex = plain.map_err(|error| TestCaseError::reject(error.to_string()))?;
        let text = whole(&lines);
        let case = if ignore_case { "ignore" } else { "exact" };
        let target = format!("pattern = '''{pattern}''', case = '{case}'");
        let replaced = of_each_line(&lines, |line| plain.replace_all(line, "<$0>").into_owned());
        prop_assert_eq!(washed(&format!("replace = {{ {target}, with = '<$0>' }}"), &text, piece)?, replaced);
        let kept: String = lines.iter().filter(|(line, _)| plain.is_match(line)).map(|(line, end)| line.clone() + end).collect();
        prop_assert_eq!(washed(&format!("keep_lines = {{ {target} }}"), &text, piece)?, kept);
    }

    #[test]
    fn a_pattern_that_looks_around_or_back_finds_in_each_line_what_the_library_finds_there(
        pattern in looking_pattern(), lines in lines(), piece in 1..30_usize,
    ) {
        let plain = FancyRegex::new(&pattern).map_err(|error| TestCaseError::reject(error.to_string()))?;
        let mut replaced = String::new();
        for (line, end) in &lines {
            let line = plain.try_replacen(line, 0, "<$0>").map_err(|error| TestCaseError::reject(error.to_string()))?;
            replaced.extend([&*line, *end]);
        }
        let rule = format!("replace = {{ pattern = '''{pattern}''', with = '<$0>' }}");
        prop_assert_eq!(washed(&rule, &whole(&lines), piece)?, replaced);
    }

    #[test]
    fn a_pattern_across_lines_finds_what_the_library_finds_in_the_whole_text(
        pattern in pattern(), breaks in select(&["", r"\n", r"\n+", r"\s*"][..]), after in pattern(), lines in lines(), piece in 1..30_usize,
    ) {
        let pattern = format!("(?:{pattern}){breaks}(?:{after})");
        let plain = RegexBuilder::new(&pattern).multi_line(true).build();
        let plain: Regex = plain.map_err(|error| TestCaseError::reject(error.to_string()))?;
        let text = of_each_line(&lines, str::to_owned).replace("\r\n", "\n").replace('\r', "\n");
        let replaced = plain.replace_all(&text, |found: &Captures<'_>| {
            // No line starts after the last line end, so nothing matches there.
            let is_after_all = found[0].is_empty() && found.get_match().start() == text.len();
            if is_after_all && (text.is_empty() || text.ends_with('\n')) { String::new() } else { format!("<{}>", &found[0]) }
        });
        let rule = format!("replace = {{ pattern = '''{pattern}''', across_lines = true, with = '<$0>' }}");
        prop_assert_eq!(washed(&rule, &text, piece)?, replaced);
    }
    #[test]
    fn a_pattern_that_looks_around_or_back_across_lines_finds_what_the_library_finds_in_the_whole_text(
        pattern in looking_pattern(), breaks in select(&["", r"\n", r"\n?"][..]), lines in lines(), piece in 1..30_usize,
    ) {
        let pattern = format!("(?:{pattern}){breaks}");
        let plain = FancyRegex::new(&format!("(?m){pattern}")).map_err(|error| TestCaseError::reject(error.to_string()))?;
        let text = of_each_line(&lines, str::to_owned).replace("\r\n", "\n").replace('\r', "\n");
        let replaced = plain.try_replacen(&text, 0, |found: &fancy_regex::Captures<'_, str>| {
            let whole = found.get(0).expect("group 0 is the match");
            let is_after_all = whole.as_str().is_empty() && whole.start() == text.len();
            let is_nowhere = is_after_all && (text.is_empty() || text.ends_with('\n'));
            if is_nowhere { String::new() } else { format!("<{}>", whole.as_str()) }
        });
        let replaced = replaced.map_err(|error| TestCaseError::reject(error.to_string()))?;
        let rule = format!("replace = {{ pattern = '''{pattern}''', across_lines = true, with = '<$0>' }}");
        prop_assert_eq!(washed(&rule, &text, piece)?, replaced.into_owned());
    }
}

/// A rule of some verb that looks for a pattern.
fn pattern_rule() -> impl Strategy<Value = String> {
    let which = select(&["", "", ", which = 'first'", ", which = 'last'", ", which = 2"][..]);
    let gap = select(&["", ", gap = 'close'", ", gap = 'mend'"][..]);
    (pattern(), random::at(), random::case(), which, gap, 0..9_usize).prop_map(
        |(pattern, at, case, which, gap, verb)| {
            let target = format!("pattern = '''{pattern}'''{at}{case}");
            match verb {
                0 => format!("remove = {{ {target}{which}{gap} }}"),
                1 => format!("replace = {{ {target}{which}, with = '<$0>' }}"),
                2 => format!("keep = {{ {target}{which}, joined_with = '|', unmatched = 'leave' }}"),
                3 => format!("drop_lines = {{ {target} }}"),
                4 => format!("recase = {{ to = 'upper', {target}{which} }}"),
                5 => format!("break_lines = {{ {target}{which}, tight = true }}"),
                6 => format!("number = {{ {target}{which} }}"),
                7 => format!("remove = {{ chars = 'ab# ' }}\nspare = [{{ {target} }}]"),
                _ => format!("remove = {{ chars = 'ab# ' }}\nonly_lines = {{ {target} }}"),
            }
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn whatever_a_rule_does_with_a_pattern_is_what_the_reference_does(rule in pattern_rule(), lines in lines()) {
        let set = RuleSet::read("random", &format!("[[rule]]\n{rule}\n"));
        let set = set.map_err(|error| TestCaseError::reject(error.to_string()))?;
        let text = whole(&lines);
        let (want, changes) = reference::apply(&set, text.as_bytes());
        support::check_all_ways(&set, text.as_bytes(), &want, &changes).map_err(TestCaseError::fail)?;
    }
}
