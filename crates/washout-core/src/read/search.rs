//! Targets and the modifiers that go with them.

use std::num::NonZeroUsize;
use std::ops::Range;

use toml::de::DeValue;

use super::characters::characters;
use super::fields::Fields;
use super::lists::{WORD_KEYS, word_entries, words};
use super::nearest::{did_you_mean, list};
use super::patterns::pattern;
use super::problem::Problems;
use crate::rules::{
    BetweenTarget, Case, CharsTarget, Except, Gap, Marks, PositionsTarget, Search, StockTarget, Target, Which,
};
use crate::stock::Stock;
use crate::text::At;
use crate::words::Hyphen;

/// Kinds of target, by the keys that give them. `chars` and `class` are one kind.
pub(super) const TARGET_KEYS: &[&str] =
    &["chars", "class", "text", "words", "words_from", "stopwords", "pattern", "stock", "between", "positions"];

/// Whether any target is given.
pub(super) fn reads_target(fields: &mut Fields<'_>) -> bool {
    !fields.present(TARGET_KEYS).is_empty()
}

/// Makes the keys of a search known where it is left out.
pub(super) fn search_keys(fields: &mut Fields<'_>) {
    fields.present(&["at", "case", "except", "hyphen", "across_lines", "rising", "number"]);
}

/// The target, `at`, `case` and `except`.
pub(super) fn search(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Search> {
    let at = at(fields, problems);
    // Ready-made stop words are all small, and are meant at the start of a sentence too.
    let default = if fields.place_of("stopwords").is_some() { Case::Ignore } else { Case::Exact };
    let case_is_written = fields.place_of("case").is_some();
    let case = case(default, fields, problems);
    let except = except(fields, problems);
    let target = target(at, case, fields, problems)?;
    refuse_needless_case(&target, fields, problems);
    Some(Search { target, at, case, case_is_written, except })
}

/// A search for a target that is known already: `at`, `case` and `except`.
pub(super) fn modified(target: Target, default: Case, fields: &mut Fields<'_>, problems: &mut Problems) -> Search {
    let at = at(fields, problems);
    let case_is_written = fields.place_of("case").is_some();
    let case = case(default, fields, problems);
    let except = except(fields, problems);
    Search { target, at, case, case_is_written, except }
}

fn at(fields: &mut Fields<'_>, problems: &mut Problems) -> At {
    fields.choice("at", At::NAMED, problems).unwrap_or(At::Anywhere)
}

pub(super) fn case(default: Case, fields: &mut Fields<'_>, problems: &mut Problems) -> Case {
    fields.choice("case", Case::NAMED, problems).unwrap_or(default)
}

pub(super) fn hyphen(fields: &mut Fields<'_>, problems: &mut Problems) -> Hyphen {
    fields.choice("hyphen", &[("parts", Hyphen::Parts), ("joins", Hyphen::Joins)], problems).unwrap_or_default()
}

fn target(at: At, case: Case, fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Target> {
    let hyphen_place = fields.place_of("hyphen");
    let hyphen = hyphen(fields, problems);
    let marks_place = fields.place_of("marks");
    let across_place = fields.place_of("across_lines");
    let present = fields.present(TARGET_KEYS);
    let Some((first, first_place)) = present.first() else {
        if fields.has_slip_of(TARGET_KEYS) {
            return None; // the unknown key is reported, and enough
        }
        let help = format!("say what to look for with one of {}", list(TARGET_KEYS.iter().copied()));
        problems.add_helped(fields.place(), "this rule looks for nothing", "no target", help);
        return None;
    };
    let kind = |key: &'static str| match key {
        "class" => "chars",
        "words_from" | "stopwords" => "words",
        _ => key,
    };
    if let Some((other, place)) = present.iter().find(|(key, _)| kind(key) != kind(first)) {
        let message = format!("`{first}` and `{other}` are two kinds of target");
        let help =
            "one kind per rule (`chars` and `class` go together, and so do lists of words): make two rules of it";
        problems.add_helped(place.clone(), message, "a second kind", help);
        return None;
    }
    if let Some(place) = hyphen_place.filter(|_| kind(first) != "words") {
        problems.add_helped(
            place,
            format!("`hyphen` means nothing for `{first}`"),
            "not here",
            "`hyphen` goes with `words`",
        );
    }
    for option in OPTIONS.into_iter().filter(|_| *first != "stock") {
        if let Some((_, place)) = fields.present(&[option]).pop() {
            let message = format!("`{option}` means nothing for `{first}`");
            problems.add_helped(place, message, "not here", option_help(option));
        }
    }
    if let Some(place) = across_place.filter(|_| *first != "pattern") {
        fields.present(&["across_lines"]);
        let message = format!("`across_lines` means nothing for `{first}`");
        problems.add_helped(place, message, "not here", "`across_lines` goes with `pattern`");
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
        key if WORD_KEYS.contains(&key) => words(fields, hyphen, problems).map(Target::Words),
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
        Target::Stock(target) => format!("the stock pattern `{}`", target.stock.name()),
        Target::Positions(_) => "`positions`".to_owned(),
        _ => return,
    };
    if let Some(place) = fields.place_of("case") {
        problems.add_helped(place, format!("`case` means nothing for {what}"), "not here", "leave it out");
    }
}

/// Entries of `text`: none may be empty.
fn entries(fields: &mut Fields<'_>, key: &'static str, problems: &mut Problems) -> Option<Vec<String>> {
    let entries = fields.strings(key, problems)?;
    for empty in entries.iter().filter(|entry| entry.value.is_empty()) {
        problems.add(empty.place.clone(), format!("an entry of `{key}` is empty"), "nothing to look for");
    }
    Some(entries.into_iter().map(|entry| entry.value).collect())
}

fn stock(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<StockTarget> {
    let places = OPTIONS.map(|option| fields.place_of(option));
    let [rising, number] = OPTIONS.map(|option| fields.boolean(option, problems).unwrap_or(false));
    let name = fields.string_at("stock", problems)?;
    let found = Stock::find(&name.value);
    if found.is_none() {
        let names = || Stock::ALL.iter().map(|stock| stock.name());
        let message = format!("no stock pattern `{}`{}", name.value, did_you_mean(&name.value, names()));
        problems.add_helped(name.place, message, "unknown", format!("there are {}", list(names())));
    }
    let stock = found?;
    for (option, place) in OPTIONS.iter().zip(places).filter(|(option, _)| !stock.options().contains(*option)) {
        if let Some(place) = place {
            let message = format!("`{option}` means nothing for the stock pattern `{}`", stock.name());
            problems.add_helped(place, message, "not here", option_help(option));
        }
    }
    Some(StockTarget { stock, rising, number })
}

/// Refuses options of a search that follow the text from line to line: only a verb's own target does that.
pub(super) fn refuse_following(search: &Search, place: Range<usize>, problems: &mut Problems) {
    if let Target::Stock(StockTarget { rising: true, .. } | StockTarget { number: true, .. }) = &search.target {
        let help = "leave it out; only the target of a verb follows the text from line to line";
        problems.add_helped(place, "`rising` and `number` mean nothing here", "follows the text", help);
    }
}

/// Options of stock patterns.
const OPTIONS: [&str; 2] = ["rising", "number"];

fn option_help(option: &str) -> String {
    let owners = Stock::ALL.iter().filter(|stock| stock.options().contains(&option)).map(|stock| stock.name());
    format!("`{option}` goes with {}", list(owners))
}

/// Two marks, and whether they are spared.
fn between(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<BetweenTarget> {
    let marks = fields.choice("marks", Marks::NAMED, problems).unwrap_or(Marks::Take);
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
            format!("`{}` is not a range of positions", written.value),
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

/// Numbers that are written as words.
const NUMBERS: [&str; 10] = ["one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"];

pub(super) fn which(fields: &mut Fields<'_>, problems: &mut Problems) -> Which {
    let help = "`which` is \"all\", \"first\", \"last\" or a number from 1";
    let Some((_, value)) = fields.take("which") else { return Which::All };
    if let DeValue::Integer(number) = value.get_ref() {
        let nth = usize::from_str_radix(number.as_str(), number.radix()).unwrap_or(0);
        let Some(nth) = NonZeroUsize::new(nth) else {
            problems.add_helped(value.span(), "matches are counted from 1", "not a number from 1", help);
            return Which::All;
        };
        return Which::Nth(nth);
    }
    let names = [("all", Which::All), ("first", Which::First), ("last", Which::Last)];
    if let DeValue::String(word) = value.get_ref()
        && let number = NUMBERS.iter().position(|number| *number == word).map(|place| (place + 1).to_string())
        && let Some(number) = number.or_else(|| word.parse::<usize>().ok().map(|number| number.to_string()))
    {
        let message = format!("`which` cannot be `{word}`");
        problems.add_helped(value.span(), message, "a word", format!("write the number: which = {number}"));
        return Which::All;
    }
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
        // A gap is closed within a line.
        Target::Stock(target) if target.stock.leaves_gap() || target.number => Gap::Leave,
        Target::Words(_) | Target::Stock(_) | Target::Between(_) => Gap::Close,
        Target::Chars(_) | Target::Text(_) | Target::Pattern(_) | Target::Positions(_) => Gap::Leave,
    }
}
