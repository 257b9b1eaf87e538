//! The slips people make, each with its own message.

use std::ops::Range;

use toml::de::Error as SyntaxError;

use super::cells::CELL_KEYS;
use super::problem::Problem;
use super::rule::RULE_KEYS;
use super::scope::SCOPE_KEYS;
use super::verbs::example;
use crate::rules::Verb;

/// Keys that belong before the first `[[rule]]`, with what they take.
const TOP_KEYS: &[(&str, &str)] = &[("title", "a string"), ("about", "a string"), ("protect", "a list of targets")];

/// Words for verbs that have another name here.
const OTHER_VERBS: &[(&[&str], &str)] = &[
    (&["delete", "erase", "drop", "strip_chars", "cut"], "remove"),
    (&["strip", "trim_end", "trim_start", "rstrip", "lstrip"], "trim"),
    (&["sub", "substitute", "rename", "map", "translate"], "replace"),
    (&["squeeze", "squash"], "collapse"),
    (&["lower", "upper", "lowercase", "uppercase", "titlecase", "capitalize", "case"], "recase"),
    (&["dedupe", "dedup", "unique", "uniq", "distinct"], "drop_repeats"),
    (&["filter", "grep", "select"], "keep_lines"),
    (&["unwrap", "join"], "join_lines"),
    (&["split"], "break_lines"),
    (&["wrap", "fold", "reflow"], "wrap_lines"),
    (&["unescape", "unquote"], "decode"),
    (&["unaccent", "transliterate", "ascii_fold"], "plain_letters"),
    (&["newlines", "eol", "line_endings"], "line_ends"),
    (&["expand_tabs", "untabify"], "tabs"),
    (&["enumerate", "count"], "number"),
    (&["drop_rows", "remove_records", "remove_rows", "drop_duplicates"], "drop_records"),
    (&["drop_columns", "drop_column", "remove_fields", "remove_columns", "drop_field"], "drop_fields"),
    (&["rename_columns", "rename_column", "rename_field"], "rename_fields"),
];

/// Keys that go inside a verb's table.
const VERB_KEYS: &[(&str, &str)] = &[
    ("chars", "remove"),
    ("class", "remove"),
    ("text", "remove"),
    ("words", "remove"),
    ("words_from", "remove"),
    ("heading", "replace"),
    ("comments", "replace"),
    ("stopwords", "remove"),
    ("pattern", "remove"),
    ("stock", "remove"),
    ("at", "remove"),
    ("case", "remove"),
    ("which", "remove"),
    ("except", "remove"),
    ("hyphen", "remove"),
    ("between", "remove"),
    ("positions", "remove"),
    ("marks", "remove"),
    ("across_lines", "remove"),
    ("rising", "remove"),
    ("number", "remove"),
    ("gap", "remove"),
    ("with", "replace"),
    ("pairs", "replace"),
    ("pairs_from", "replace"),
    ("heading", "replace"),
    ("comments", "replace"),
    ("whole_words", "replace"),
    ("follow_case", "replace"),
    ("joined_with", "keep"),
    ("group", "keep"),
    ("unmatched", "keep"),
    ("to", "recase"),
    ("rest", "recase"),
    ("form", "normalize"),
    ("what", "decode"),
    ("scope", "drop_repeats"),
    ("ignore_edges", "drop_repeats"),
    ("repeated", "drop_records"),
    ("final", "line_ends"),
    ("bom", "line_ends"),
    ("width", "pad"),
    ("start", "number"),
    ("step", "number"),
    ("empty", "drop_lines"),
    ("paragraphs", "join_lines"),
    ("hyphens", "join_lines"),
    ("place", "break_lines"),
    ("tight", "break_lines"),
];

/// Message and help for a key that stands in a rule but belongs elsewhere.
pub(super) fn explain_rule_key(key: &str) -> Option<(String, String)> {
    if let Some((_, verb)) = OTHER_VERBS.iter().find(|(words, _)| words.contains(&key)) {
        return Some((format!("there is no verb `{key}`: ours is `{verb}`"), format!("write {}", example(verb))));
    }
    if let Some((key, takes)) = TOP_KEYS.iter().find(|(top, _)| *top == key) {
        return Some((
            format!("`{key}` belongs to the whole set, and here it is read as a key of the rule above"),
            format!("move `{key}` ({takes}) up, before the first [[rule]]"),
        ));
    }
    let (key, verb) = VERB_KEYS.iter().find(|(inner, _)| *inner == key)?;
    Some((format!("`{key}` belongs inside the braces of a verb"), format!("write {verb} = {{ …, {key} = … }}")))
}

/// Message and help for a verb or target that stands at the top, without its `[[rule]]`.
pub(super) fn explain_top_key(key: &str) -> Option<(String, String)> {
    let is_verb = Verb::NAMES.contains(&key);
    (is_verb || is_rule_key(key))
        .then(|| (format!("`{key}` stands outside any rule"), "put [[rule]] on a line of its own before it".to_owned()))
}

fn is_rule_key(key: &str) -> bool {
    RULE_KEYS.contains(&key) || CELL_KEYS.contains(&key) || SCOPE_KEYS.contains(&key)
}

/// Message and help for a key that is known elsewhere and means nothing for this verb.
pub(super) fn explain_verb_key(verb: &str, key: &str) -> Option<(String, String)> {
    if is_rule_key(key) {
        let help = format!("write it on a line of its own, above {}", example(verb));
        return Some((format!("`{key}` belongs to the rule, not inside `{verb}`"), help));
    }
    let (key, owner) = VERB_KEYS.iter().find(|(known, _)| *known == key)?;
    let help = match (verb, *key) {
        (
            "trim",
            "chars" | "text" | "words" | "words_from" | "stopwords" | "pattern" | "stock" | "between" | "positions",
        ) => "to take other things at the edges, use `remove` with `at = \"edges\"`".to_owned(),
        ("keep_lines", "empty") => "to drop empty lines, use `drop_lines`".to_owned(),
        ("drop_lines" | "keep_lines", "which") => "one match is enough for a line".to_owned(),
        ("join_lines", "text" | "chars" | "words" | "pattern" | "class" | "stock") => {
            "`join_lines` joins every line; to take line ends out one by one, use `remove` with class = \"line-end\""
                .to_owned()
        }
        (_, "heading" | "comments") => "it says how the files of `words_from` or `pairs_from` are written".to_owned(),
        _ => format!("it goes with {}, as in {}", owners(key, owner), example(owner)),
    };
    Some((format!("`{key}` means nothing for `{verb}`"), help))
}

fn owners(key: &str, owner: &str) -> String {
    match key {
        "which" => "verbs that act on matches".to_owned(),
        "to" => "`recase`, `line_ends` and `tabs`".to_owned(),
        "width" => "`tabs`, `wrap_lines`, `pad` and `number`".to_owned(),
        "place" => "`break_lines` and `number`".to_owned(),
        "joined_with" => "`keep` and `number`".to_owned(),
        "with" => "`replace`, `collapse` and `join_lines`".to_owned(),
        "empty" => "`drop_lines` and `drop_records`".to_owned(),
        "ignore_edges" => "`drop_repeats` and `drop_records`".to_owned(),
        "gap" | "pairs" | "pairs_from" | "whole_words" | "follow_case" | "group" | "unmatched" | "form" | "what"
        | "scope" | "final" | "bom" | "start" | "step" | "paragraphs" | "hyphens" | "tight" | "rest" | "repeated" => {
            format!("`{owner}`")
        }
        _ => "verbs that look for something".to_owned(),
    }
}

/// The problems of TOML's own syntax, one for each line, with the mended line where the slip is a common one.
pub(super) fn explain_syntax(source: &str, errors: &[SyntaxError]) -> Vec<Problem> {
    let mut problems: Vec<(usize, Problem)> = Vec::new();
    for error in errors {
        let place = error.span().unwrap_or(0..0);
        let (line_start, line) = line_around(source, place.start);
        // The second error of a line is nearly always the parser losing its way after the first.
        if problems.iter().all(|(known, _)| *known != line_start) {
            problems.push((line_start, explain_line(line, place, error.message().trim())));
        }
    }
    problems.into_iter().map(|(_, problem)| problem).collect()
}

/// The line around a byte, and where it starts.
fn line_around(source: &str, at: usize) -> (usize, &str) {
    let at = source.floor_char_boundary(at.min(source.len()));
    let start = source[..at].rfind('\n').map_or(0, |found| found + 1);
    let end = source[at..].find('\n').map_or(source.len(), |found| at + found);
    (start, source[start..end].trim_end())
}

fn explain_line(line: &str, place: Range<usize>, toml_says: &str) -> Problem {
    let place = place.start..place.end.max(place.start + 1);
    let (message, label, help) = match slip(line, toml_says) {
        Some((message, help)) => (message.to_owned(), "here", Some(help)),
        None => (format!("this is not TOML: {toml_says}"), "here", unquoted(line)),
    };
    Problem { message, place, label: label.to_owned(), help }
}

/// What is wrong with the line, and the line as it was probably meant.
fn slip(line: &str, toml_says: &str) -> Option<(&'static str, String)> {
    if Verb::NAMES.contains(&line.trim()) {
        return Some(("a verb needs a table, even an empty one", format!("write {}", example(line.trim()))));
    }
    let (key, value) = line.split_once('=')?;
    let (key, value) = (key.trim(), value.trim());
    if let Some(inner) = in_typographic_quotes(value) {
        return Some(("typographic quotation marks are no quotes here", format!("write {key} = '{inner}'")));
    }
    if value.starts_with('#') {
        let help = format!("a value that holds it stands in quotes: {key} = '{value}'");
        return Some(("# begins a comment here", help));
    }
    if let Some(mark) =
        value.chars().next().filter(|mark| matches!(mark, '"' | '\'') && value.matches(*mark).count() == 1)
    {
        return Some(("the closing quotation mark is missing", format!("write {key} = {value}{mark}")));
    }
    if let Some(help) = verb_without_braces(key, value) {
        return Some(("a verb has its keys in braces", help));
    }
    if toml_says.contains("escape") && value.contains('\\') {
        let mended = format!("write {key} = {}", value.replace('"', "'"));
        return Some((
            "in \"…\" a backslash has a meaning of its own",
            format!("in '…' it stands for itself: {mended}"),
        ));
    }
    if value.contains("..") && value.bytes().all(|byte| byte.is_ascii_digit() || b".-".contains(&byte)) {
        return Some(("a range has to be in quotes", format!("write {key} = \"{value}\"")));
    }
    let (verb, inner) = key.split_once('.').filter(|(verb, _)| Verb::NAMES.contains(verb))?;
    if toml_says.contains("duplicate") || toml_says.contains("extend") {
        let help = format!("put it inside the braces: {verb} = {{ …, {inner} = {value} }}");
        return Some(("this verb is closed already, by its braces", help));
    }
    let (first, rest) = value.split_once(',').filter(|(_, rest)| rest.contains('='))?;
    let rest = rest.trim().trim_start_matches(&format!("{verb}."));
    let help = format!("several keys go into braces: {verb} = {{ {inner} = {}, {rest} }}", first.trim());
    Some(("there can be only one key on a line", help))
}

/// What stands in quotation marks of the kind that books have.
fn in_typographic_quotes(value: &str) -> Option<&str> {
    let inner = value.strip_prefix(['“', '”', '„', '‘', '’', '‚', '«', '»'])?;
    inner.strip_suffix(['“', '”', '‘', '’', '«', '»']).filter(|inner| !inner.is_empty())
}

/// Help where a verb has a word in place of its table: `recase = upper`, `remove = "um"`.
pub(super) fn verb_without_braces(key: &str, value: &str) -> Option<String> {
    let word = value.trim_matches(['"', '\'']);
    let is_word = !word.is_empty() && !word.contains(['{', '}', '[', '=', '"', '\'']);
    match key {
        "recase" if ["lower", "upper", "title", "sentence"].contains(&word) => {
            Some(format!("write recase = {{ to = \"{word}\" }}"))
        }
        "normalize" if is_word => Some(format!("write normalize = {{ form = \"{word}\" }}")),
        "drop_records" if word == "empty" => Some("write drop_records = { empty = \"all\" }".to_owned()),
        "drop_records" if word == "repeated" => Some("write drop_records = { repeated = \"file\" }".to_owned()),
        "decode" if is_word => Some(format!("write decode = {{ what = \"{word}\" }}")),
        "remove" | "drop_lines" | "keep_lines" | "keep" if is_word => {
            Some(format!("write {key} = {{ text = \"{word}\" }}"))
        }
        _ => None,
    }
}

/// Help for a value that may just lack its quotes.
fn unquoted(line: &str) -> Option<String> {
    let (key, value) = line.split_once('=')?;
    let value = value.trim();
    let bare = !value.is_empty() && !value.starts_with(['"', '\'', '[', '{']) && !value.contains('\'');
    bare.then(|| format!("put the value in quotes: {} = '{value}'", key.trim()))
}
