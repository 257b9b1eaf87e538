//! Targets and the modifiers that go with them.

use std::ops::Range;

use toml::de::DeValue;

use super::fields::{At as Placed, Fields};
use super::nearest::{did_you_mean, list};
use super::problem::{Problem, Problems};
use crate::class::{CharSet, ClassError, NamedClass, class_item, class_names};
use crate::model::{
    At, BetweenTarget, Case, CharsTarget, Except, Gap, Marks, Pattern, PositionsTarget, Search, Target, Template,
    TemplateError, Which, WordsTarget,
};
use crate::stock::Stock;
use crate::words::Hyphen;

/// Kinds of target, by the keys that give them. `chars` and `class` are one kind.
const TARGET_KEYS: &[&str] = &["chars", "class", "text", "words", "pattern", "stock", "between", "positions"];

/// Whether any target is given.
pub(super) fn reads_target(fields: &mut Fields<'_>) -> bool {
    !fields.present(TARGET_KEYS).is_empty()
}

/// Makes the keys of a search known where it is left out.
pub(super) fn search_keys(fields: &mut Fields<'_>) {
    fields.present(&["at", "case", "except", "hyphen"]);
}

/// A group of a pattern, as a rule names it.
#[derive(Clone, Debug)]
pub(super) enum GroupRef {
    Number(usize),
    Name(String),
}

impl std::fmt::Display for GroupRef {
    fn fmt(&self, formatter: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Number(number) => write!(formatter, "{number}"),
            Self::Name(name) => formatter.write_str(name),
        }
    }
}

/// `group`: a number or a name.
pub(super) fn group(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Placed<GroupRef>> {
    let (_, value) = fields.take("group")?;
    if let DeValue::Integer(number) = value.get_ref() {
        let number = usize::from_str_radix(number.as_str(), number.radix()).unwrap_or(usize::MAX);
        return Some(Placed { value: GroupRef::Number(number), place: value.span() });
    }
    fields.string_at("group", problems).map(|name| Placed { value: GroupRef::Name(name.value), place: name.place })
}

/// The target, `at`, `case` and `except`.
pub(super) fn search(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Search> {
    let places = [
        ("anywhere", At::Anywhere),
        ("start", At::Start),
        ("end", At::End),
        ("edges", At::Edges),
        ("whole-line", At::WholeLine),
    ];
    let at = fields.choice("at", &places, problems).unwrap_or(At::Anywhere);
    let case =
        fields.choice("case", &[("exact", Case::Exact), ("ignore", Case::Ignore)], problems).unwrap_or(Case::Exact);
    let except = except(fields, problems);
    let target = target(at, case, fields, problems)?;
    refuse_needless_case(&target, fields, problems);
    Some(Search { target, at, case, except })
}

fn target(at: At, case: Case, fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Target> {
    let hyphen_place = fields.place_of("hyphen");
    let hyphen = fields.choice("hyphen", &[("parts", Hyphen::Parts), ("joins", Hyphen::Joins)], problems);
    let marks_place = fields.place_of("marks");
    let present = fields.present(TARGET_KEYS);
    let Some((first, first_place)) = present.first() else {
        if fields.has_slip_of(TARGET_KEYS) {
            return None; // the unknown key is reported, and enough
        }
        let help = format!("say what to look for with one of {}", list(TARGET_KEYS.iter().copied()));
        problems.add_helped(fields.place(), "this rule looks for nothing", "no target", help);
        return None;
    };
    let kind = |key: &str| if key == "class" { "chars" } else { key }.to_owned();
    if let Some((other, place)) = present.iter().find(|(key, _)| kind(key) != kind(first)) {
        let message = format!("`{first}` and `{other}` are two kinds of target");
        let help = "one kind per rule (only `chars` and `class` go together): make two rules of it";
        problems.add_helped(place.clone(), message, "a second kind", help);
        return None;
    }
    if let Some(place) = hyphen_place.filter(|_| *first != "words") {
        problems.add_helped(
            place,
            format!("`hyphen` means nothing for `{first}`"),
            "not here",
            "`hyphen` goes with `words`",
        );
    }
    if let Some(place) = marks_place.filter(|_| *first != "between") {
        fields.present(&["marks"]);
        problems.add_helped(
            place,
            format!("`marks` means nothing for `{first}`"),
            "not here",
            "`marks` goes with `between`",
        );
    }
    match *first {
        "text" => entries(fields, "text", problems).map(Target::Text),
        "words" => word_entries(fields, "words", problems)
            .map(|entries| Target::Words(WordsTarget { entries, hyphen: hyphen.unwrap_or_default() })),
        "pattern" => pattern(fields, case, at, problems).map(Target::Pattern),
        "stock" => stock(fields, problems).map(Target::Stock),
        "between" => between(fields, problems).map(Target::Between),
        "positions" => positions(fields, problems).map(Target::Positions),
        _ => {
            let chars = characters(fields, problems)?;
            refuse_empty(&chars, first_place.clone(), problems);
            Some(Target::Chars(chars))
        }
    }
}

fn refuse_empty(chars: &CharsTarget, place: Range<usize>, problems: &mut Problems) {
    if chars.set.is_empty() {
        problems.add(place, "this rule looks for no character at all", "empty");
    }
}

/// Stock patterns are made of digits and signs, or know the letters they take; positions have no letters at all.
fn refuse_needless_case(target: &Target, fields: &Fields<'_>, problems: &mut Problems) {
    let what = match target {
        Target::Stock(stock) => format!("the stock pattern `{}`", stock.name()),
        Target::Positions(_) => "`positions`".to_owned(),
        _ => return,
    };
    if let Some(place) = fields.place_of("case") {
        problems.add_helped(place, format!("`case` means nothing for {what}"), "not here", "leave it out");
    }
}

/// `chars` and `class`. `None` if one of them is there and means nothing.
fn characters(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<CharsTarget> {
    let mut target = CharsTarget::default();
    let mut good = true;
    if let Some(chars) = fields.string_at("chars", problems) {
        good &= single_characters(&chars, problems);
        target.set.add(&CharSet::of_chars(chars.value.chars()));
        target.chars = chars.value;
    } else {
        good &= fields.place_of("chars").is_none();
    }
    for item in fields.strings("class", problems).unwrap_or_default() {
        match class_item(&item.value) {
            Ok(set) => target.set.add(&set),
            Err(error) => {
                problems.push(class_problem(&item, error));
                good = false;
            }
        }
        target.classes.push(item.value);
    }
    good.then_some(target)
}

/// Whether every character of `chars` stands for itself, as the writer saw it.
fn single_characters(chars: &Placed<String>, problems: &mut Problems) -> bool {
    if NamedClass::find(&chars.value).is_some() {
        let message = format!("`{}` is a class, and `chars` takes single characters", chars.value);
        let help = format!(
            "write class = \"{}\"; for the letters themselves, write each once and in another order",
            chars.value
        );
        problems.add_helped(chars.place.clone(), message, "the name of a class", help);
        return false;
    }
    let is_mark = |character: char| {
        let marks = class_item("M").expect("OK because M is a general category");
        !character.is_ascii() && marks.contains(character)
    };
    let pairs = chars.value.chars().zip(chars.value.chars().skip(1));
    if let Some((base, mark)) = pairs.into_iter().find(|(base, mark)| is_mark(*mark) && !is_mark(*base)) {
        let message =
            format!("“{base}{mark}” is two characters: a letter and a mark of its own (U+{:04X})", u32::from(mark));
        let help = format!("to find the two together, write text = \"{base}{mark}\"");
        problems.add_helped(chars.place.clone(), message, "a letter with a separate mark", help);
        return false;
    }
    true
}

fn class_problem(item: &Placed<String>, error: ClassError) -> Problem {
    let written = &item.value;
    let (message, help) = match error {
        ClassError::Unknown => {
            (format!("no class `{written}`{}", did_you_mean(written, class_names())), Some(letters_help(written)))
        }
        ClassError::NoCodePoint(part) => (
            format!("`{part}` is no code point"),
            Some(
                "code points are written U+0000 to U+10FFFF (but not U+D800 to U+DFFF), ranges U+2000..U+200A"
                    .to_owned(),
            ),
        ),
        ClassError::Swapped => {
            let (first, last) = written.split_once("..").unwrap_or((written, written));
            (format!("the range `{written}` ends before it begins"), Some(format!("write {last}..{first}")))
        }
        ClassError::OnlyLineEnds => (
            format!("`{written}` is a line end, which code points leave alone"),
            Some("write class = \"line-end\", or chars = \"\\n\"".to_owned()),
        ),
    };
    Problem { message, place: item.place.clone(), label: "names no characters".to_owned(), help }
}

fn letters_help(written: &str) -> String {
    let mut letters: Vec<String> = written.chars().take(3).map(String::from).collect();
    if written.chars().count() > 3 {
        letters.push("…".to_owned());
    }
    format!("for the single characters {} use `chars`", letters.join(", "))
}

/// Entries of `text`: none may be empty.
fn entries(fields: &mut Fields<'_>, key: &'static str, problems: &mut Problems) -> Option<Vec<String>> {
    let entries = fields.strings(key, problems)?;
    for empty in entries.iter().filter(|entry| entry.value.is_empty()) {
        problems.add(empty.place.clone(), format!("an entry of `{key}` is empty"), "nothing to look for");
    }
    Some(entries.into_iter().map(|entry| entry.value).collect())
}

/// Entries of `words`: each must hold more than blanks and stand on one line.
fn word_entries(fields: &mut Fields<'_>, key: &'static str, problems: &mut Problems) -> Option<Vec<String>> {
    let entries = fields.strings(key, problems)?;
    for entry in &entries {
        if entry.value.trim().is_empty() {
            problems.add(entry.place.clone(), format!("an entry of `{key}` is empty"), "no word");
        } else if entry.value.contains(['\n', '\r']) {
            let help = "to find text over line ends, use `text`";
            problems.add_helped(entry.place.clone(), "words do not reach over line ends", "holds a line end", help);
        } else if entry.value.starts_with([' ', '\t']) || entry.value.ends_with([' ', '\t']) {
            let message = format!("the entry “{}” begins or ends with a blank", entry.value);
            let help = "leave the blank out: words are found whole, and the gap they leave is closed";
            problems.add_helped(entry.place.clone(), message, "a blank at the edge", help);
        }
    }
    Some(entries.into_iter().map(|entry| entry.value).collect())
}

fn stock(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Stock> {
    let name = fields.string_at("stock", problems)?;
    let found = Stock::find(&name.value);
    if found.is_none() {
        let names = || Stock::ALL.iter().map(|stock| stock.name());
        let message = format!("no stock pattern `{}`{}", name.value, did_you_mean(&name.value, names()));
        problems.add_helped(name.place, message, "unknown", format!("there are {}", list(names())));
    }
    found
}

/// Two marks, and whether they are spared.
fn between(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<BetweenTarget> {
    let marks =
        fields.choice("marks", &[("take", Marks::Take), ("keep", Marks::Keep)], problems).unwrap_or(Marks::Take);
    let place = fields.place_of("between").unwrap_or_else(|| fields.place());
    let given = entries(fields, "between", problems)?;
    let Ok([open, close]) = <[String; 2]>::try_from(given) else {
        let help = r#"write between = ["[", "]"]"#;
        problems.add_helped(place, "`between` takes two marks: what opens and what closes", "not two", help);
        return None;
    };
    if [&open, &close].iter().any(|mark| mark.contains(['\n', '\r'])) {
        problems.add(place, "what is between two marks is found within a line", "holds a line end");
        return None;
    }
    Some(BetweenTarget { open, close, marks })
}

/// `"3"`, `"1..12"` or `"5.."`.
fn positions(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<PositionsTarget> {
    let written = fields.string_at("positions", problems)?;
    let (first, last) = written.value.split_once("..").unwrap_or((&written.value, &written.value));
    let number = |text: &str| text.parse::<usize>().ok().filter(|number| *number > 0);
    let range = match (number(first), number(last), last) {
        (Some(first), None, "") => Some(PositionsTarget { first, last: None }),
        (Some(first), Some(last), _) => Some(PositionsTarget { first, last: Some(last) }),
        _ => None,
    };
    let Some(range) = range else {
        let help = "positions are written \"3\", \"1..12\" or \"5..\", counted from 1";
        problems.add_helped(
            written.place,
            format!("`{}` is no range of positions", written.value),
            "cannot be read",
            help,
        );
        return None;
    };
    if let Some(last) = range.last.filter(|last| *last < range.first) {
        let message = format!("the range `{}` ends before it begins", written.value);
        problems.add_helped(written.place, message, "swapped", format!("write \"{last}..{}\"", range.first));
        return None;
    }
    Some(range)
}

fn pattern(fields: &mut Fields<'_>, case: Case, at: At, problems: &mut Problems) -> Option<Pattern> {
    let written = fields.string_at("pattern", problems)?;
    if written.value.is_empty() {
        problems.add(written.place, "the pattern is empty", "matches nothing but the empty text");
        return None;
    }
    let error = match Pattern::parse(&written.value, case == Case::Ignore, at) {
        Ok(pattern) => return Some(pattern),
        Err(error) => error,
    };
    let Some(spot) = error.place else {
        let help = "make its repeat counts smaller, or use ASCII classes such as [0-9] and [A-Za-z]";
        problems.add_helped(written.place, error.message, "too large", help);
        return None;
    };
    problems.add_helped(
        within_string(&written, spot.start, spot.end),
        format!("the pattern cannot be read: {}", error.message),
        "here",
        pattern_help(&error.message),
    );
    None
}

fn pattern_help(message: &str) -> &'static str {
    if message.contains("look-around") || message.contains("backreferences") {
        return "this version has no look-around and no back references; often `at`, `except` or `which` says the same";
    }
    "patterns are in the syntax of the Rust regex crate; for plain characters use `text` or `chars`"
}

pub(super) fn template(with: &Placed<String>, pattern: &Pattern, problems: &mut Problems) -> Option<Template> {
    let error = match Template::parse(&with.value, pattern.groups()) {
        Ok(template) => return Some(template),
        Err(error) => error,
    };
    match error {
        TemplateError::Unclosed { at } => problems.add_helped(
            within_string(with, at, at + 2),
            "`${` is not closed",
            "no `}` follows",
            "write ${name}, or $$ for a dollar sign",
        ),
        TemplateError::NoGroup { at, name, meant } => {
            let groups = || format!("{}; write $$ for a dollar sign", groups_help(pattern));
            let help = meant.map_or_else(groups, |meant| format!("write {meant}"));
            problems.add_helped(
                within_string(with, at, at + 1 + name.len()),
                format!("the pattern has no group `{name}`"),
                "refers to no group",
                help,
            );
        }
    }
    None
}

/// Which groups a pattern has.
pub(super) fn groups_help(pattern: &Pattern) -> String {
    let groups = pattern.groups().iter().enumerate().skip(1);
    let names: Vec<String> = groups.map(|(index, name)| name.clone().unwrap_or_else(|| index.to_string())).collect();
    match &names[..] {
        [] => "put the part you mean in parentheses".to_owned(),
        _ => format!("its groups are {}", list(names.iter().map(String::as_str))),
    }
}

/// The place of a stretch of a string's value in the source: exact where the string is written without escapes.
fn within_string(string: &Placed<String>, start: usize, end: usize) -> Range<usize> {
    let written = string.place.len();
    let quotes = match written.checked_sub(string.value.len()) {
        Some(2) => 1,
        Some(6) => 3,
        _ => return string.place.clone(),
    };
    let first = string.place.start + quotes;
    first + start..(first + end).max(first + start + 1)
}

pub(super) fn which(fields: &mut Fields<'_>, problems: &mut Problems) -> Which {
    let help = "`which` is \"all\", \"first\", \"last\" or a number from 1";
    let Some((_, value)) = fields.take("which") else { return Which::All };
    if let DeValue::Integer(number) = value.get_ref() {
        let nth = usize::from_str_radix(number.as_str(), number.radix()).unwrap_or(0);
        if nth == 0 {
            problems.add_helped(value.span(), "matches are counted from 1", "not a number from 1", help);
        }
        return Which::Nth(nth);
    }
    let names = [("all", Which::All), ("first", Which::First), ("last", Which::Last)];
    fields.choice("which", &names, problems).unwrap_or(Which::All)
}

fn except(fields: &mut Fields<'_>, problems: &mut Problems) -> Except {
    let Some(mut table) = fields.table("except", r#"except = { words = ["lamp"] }"#, problems) else {
        return Except::default();
    };
    let except = Except {
        chars: characters(&mut table, problems).unwrap_or_default(),
        words: word_entries(&mut table, "words", problems).unwrap_or_default(),
        text: entries(&mut table, "text", problems).unwrap_or_default(),
    };
    table.refuse_rest(problems, |_| None);
    except
}

/// What `gap` is where it is not written: closed for what stands between blanks, left for what need not.
pub(super) fn default_gap(target: &Target) -> Gap {
    match target {
        Target::Words(_) | Target::Stock(Stock::Timestamp) | Target::Between(_) => Gap::Close,
        Target::Chars(_)
        | Target::Text(_)
        | Target::Pattern(_)
        | Target::Stock(Stock::LineNumber)
        | Target::Positions(_) => Gap::Leave,
    }
}
