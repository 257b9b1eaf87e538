//! `pairs` and `pairs_from`: many replacements in one rule.

use std::collections::HashMap;
use std::ops::Range;

use toml::Spanned;
use toml::de::DeValue;

use super::fields::{Fields, Placed};
use super::files::{not_utf8, open};
use super::lists::{ListForm, check_word};
use super::problem::Problems;
use super::search::{TARGET_KEYS, hyphen, modified};
use crate::rules::{Case, Pairs, PossibleHeading, Replace, Replacement, Target, Which, WordsTarget};
use crate::text::csv::table_records;
use crate::words::Spelling;

/// The keys that give pairs.
pub(super) const PAIR_KEYS: &[&str] = &["pairs", "pairs_from"];

/// A pair, where it stands in the rule set, and how messages call that place.
struct Pair {
    from: String,
    to: String,
    place: Range<usize>,
    whence: String,
}

pub(super) fn replace_pairs(fields: &mut Fields<'_>, which: Which, problems: &mut Problems) -> Replace {
    if let Some(place) = fields.place_of("with") {
        fields.present(&["with"]);
        let help = "each pair says itself what takes the place of what; leave `with` out";
        problems.add_helped(place, "`with` means nothing beside pairs", "not with pairs", help);
    }
    for (key, place) in fields.present(TARGET_KEYS) {
        let message = format!("`{key}` means nothing beside pairs");
        problems.add_helped(place, message, "not with pairs", "each pair says what is looked for");
    }
    let whole_words = fields.boolean("whole_words", problems).unwrap_or(false);
    let follow_case = fields.boolean("follow_case", problems).unwrap_or(false);
    let PairList { pairs, headings } = all(fields, problems);
    let entries: Vec<String> = pairs.iter().map(|pair| pair.from.clone()).collect();
    let target = if whole_words {
        Target::Words(WordsTarget {
            written: entries.len(),
            entries,
            hyphen: hyphen(fields, problems),
            ..WordsTarget::default()
        })
    } else {
        Target::Text(entries)
    };
    let search = modified(target, if follow_case { Case::Ignore } else { Case::Exact }, fields, problems);
    if let (true, Case::Exact, Some(place)) = (follow_case, search.case, fields.place_of("case")) {
        let help = "leave `case` out: what follows the case it finds has to find every case";
        problems.add_helped(place, "`follow_case` needs `case = \"ignore\"`", "exact case", help);
    }
    let spelling = Spelling { ignore_case: search.case == Case::Ignore, as_words: whole_words };
    refuse_contradictions(&pairs, spelling, problems);
    for pair in pairs.iter().filter(|_| whole_words) {
        check_word(&Placed { value: pair.from.clone(), place: pair.place.clone() }, "pairs", problems);
    }
    let list = pairs.into_iter().map(|pair| (pair.from, pair.to)).collect();
    Replace { search, which, with: Replacement::Pairs(Pairs { list, whole_words, follow_case, headings }) }
}

/// All pairs of a rule, and first rows of files that read as headings.
#[derive(Default)]
struct PairList {
    pairs: Vec<Pair>,
    headings: Vec<PossibleHeading>,
}

fn all(fields: &mut Fields<'_>, problems: &mut Problems) -> PairList {
    let mut list = PairList::default();
    if let Some((_, value)) = fields.take("pairs") {
        let help = r#"write pairs = [["colour", "color"], ["grey", "gray"]]"#;
        if let DeValue::Array(items) = value.get_ref() {
            for item in items {
                match written(item) {
                    Some(pair) => list.pairs.push(pair),
                    None => problems.add_helped(item.span(), "a pair is a list of two strings", "no pair", help),
                }
            }
        } else {
            problems.add_helped(value.span(), "`pairs` is a list of pairs", "no list", help);
        }
    }
    if let Some(paths) = fields.strings("pairs_from", problems) {
        let form = ListForm::read(fields, problems);
        paths.iter().for_each(|path| from_table(path, &form, &mut list, problems));
    }
    for empty in list.pairs.iter().filter(|pair| pair.from.is_empty()) {
        let message = format!("a pair{} looks for nothing", empty.whence);
        problems.add_helped(empty.place.clone(), message, "empty", "the first of the two is what is looked for");
    }
    list
}

fn written(item: &Spanned<DeValue<'_>>) -> Option<Pair> {
    let DeValue::Array(both) = item.get_ref() else { return None };
    let [from, to] = &both[..] else { return None };
    let (DeValue::String(from), DeValue::String(to)) = (from.get_ref(), to.get_ref()) else { return None };
    Some(Pair { from: from.to_string(), to: to.to_string(), place: item.span(), whence: String::new() })
}

/// A table of two columns: CSV (RFC 4180), or columns separated by tabs if its name ends in `.tsv`. It is read as strictly as
/// a table whose cells are cleaned.
fn from_table(path: &Placed<String>, form: &ListForm, list: &mut PairList, problems: &mut Problems) {
    let Some(file) = open(path, problems) else { return };
    let bytes = file.bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&file.bytes);
    let delimiter = if path.value.to_lowercase().ends_with(".tsv") { b'\t' } else { b',' };
    let before = list.pairs.len();
    let mut is_first = true;
    for record in table_records(bytes, delimiter, |line| form.is_comment(line)) {
        let (line, cells) = match record {
            Ok(record) => record,
            Err((line, why)) => {
                let message = format!("line {line} of `{}` {why}", path.value);
                let help = "a cell with a comma, a quotation mark or a line end in it stands in quotation marks, and a \
                            quotation mark in it is written twice: \"say \"\"fog\"\"\"";
                problems.add_helped(path.place.clone(), message, "not a table", help);
                return;
            }
        };
        let is_heading_place = std::mem::take(&mut is_first);
        let columns: Result<Vec<&str>, _> = cells.iter().map(|cell| std::str::from_utf8(cell)).collect();
        match columns.as_deref() {
            Ok([_, _]) if is_heading_place && form.heading == Some(true) => {}
            Ok([from, to]) => {
                if is_heading_place && form.heading.is_none() && reads_as_heading(from, to) {
                    let row = [(*from).to_owned(), (*to).to_owned()];
                    list.headings.push(PossibleHeading { file: path.value.clone(), row });
                }
                list.pairs.push(Pair {
                    from: (*from).to_owned(),
                    to: (*to).to_owned(),
                    place: path.place.clone(),
                    whence: format!(" in line {line} of `{}`", path.value),
                });
            }
            Ok(columns) => {
                let message = format!("line {line} of `{}` has {} columns, not two", path.value, columns.len());
                let help = "a table of pairs has two columns: what is looked for, and what takes its place";
                problems.add_helped(path.place.clone(), message, "not two columns", help);
                return;
            }
            Err(_) => return not_utf8(&path.value, usize::try_from(line).unwrap_or(0), path.place.clone(), problems),
        }
    }
    if list.pairs.len() == before {
        let message = format!("`{}` holds no pairs", path.value);
        problems.add_helped(path.place.clone(), message, "empty", "write two columns on each line");
    }
}

/// What columns of pairs are usually called.
const HEADINGS: [(&[&str], &[&str]); 2] = [
    (
        &["from", "old", "before", "find", "search", "given", "original", "wrong", "source", "pattern", "variant"],
        &["to", "new", "after", "replace", "gives", "result", "right", "correct", "target", "with", "standard"],
    ),
    (&["replace"], &["with", "by"]),
];

/// Whether a first row is more likely a heading than a pair: `from,to`, `Old name,New name`, `before,after`.
pub(crate) fn reads_as_heading(from: &str, to: &str) -> bool {
    let first_word = |cell: &str| cell.trim().to_lowercase().split([' ', '_', '-']).next().map(str::to_owned);
    let (Some(from), Some(to)) = (first_word(from), first_word(to)) else { return false };
    HEADINGS.iter().any(|(left, right)| {
        let replacement = to == "replacement" || right.contains(&to.as_str());
        left.contains(&from.as_str()) && replacement
    })
}

/// The same text cannot become two different ones.
fn refuse_contradictions(pairs: &[Pair], spelling: Spelling, problems: &mut Problems) {
    let mut seen: HashMap<Vec<u32>, &Pair> = HashMap::with_capacity(pairs.len());
    for pair in pairs {
        if let Some(first) = seen.insert(spelling.keys(&pair.from), pair).filter(|first| first.to != pair.to) {
            let message = format!(
                "“{}” is to become “{}”{}, and “{}”{}",
                pair.from, first.to, first.whence, pair.to, pair.whence
            );
            problems.add_helped(pair.place.clone(), message, "given twice", "keep one of the two pairs");
        }
    }
}
