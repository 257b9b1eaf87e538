//! A rule in a few plain words, for tables and lists.

use super::search::{CharsTarget, Marks, PositionsTarget, Search, StockTarget, Target, WordsTarget};
use super::verb::{
    BreakLines, BreakPlace, Collapse, Decode, DropFields, DropLines, DropRecords, DropRepeats, EmptyLines,
    FinalLineEnd, Include, JoinLines, Keep, KeepLines, LetterCase, LineEnds, Normalize, Number, NumberPlace, Pad,
    Paragraphs, Recase, Remove, RenameFields, RepeatScope, Replace, Replacement, Tabs, Trim, TrimAt, Verb, WrapLines,
};
use super::{Field, Rule, Which};
use crate::stock::Stock;
use crate::text::shown::{quoted, visible};
use crate::text::{At, LineEnd};

/// Entries of a list that a caption names before it only counts them.
const NAMED_ENTRIES: usize = 3;

impl Rule {
    /// The rule's label or, if it has none, what it does in a few words.
    pub fn caption(&self) -> String {
        self.label.clone().unwrap_or_else(|| verb(&self.verb))
    }
}

fn verb(verb: &Verb) -> String {
    match verb {
        Verb::Remove(Remove { search, which, .. }) => format!("remove {}{}", which_words(*which), found(search)),
        Verb::Replace(Replace { search, which, with }) => {
            format!("replace {}{}", which_words(*which), replaced(search, with))
        }
        Verb::Include(Include { path, .. }) => format!("the rules of {path}"),
        Verb::Keep(Keep { search, which, .. }) => format!("keep only {}{}", which_words(*which), found(search)),
        Verb::Collapse(Collapse { search, which, with: None }) => {
            format!("collapse {}repeated {}", which_words(*which), found(search))
        }
        Verb::Collapse(Collapse { search, which, with: Some(with) }) => {
            format!("collapse {}runs of {} to {}", which_words(*which), found(search), quoted(with))
        }
        Verb::Recase(Recase { to, within, .. }) => recase(*to, within.as_ref()),
        Verb::Trim(Trim { at, class }) => {
            let edges = match at {
                TrimAt::Start => "line starts",
                TrimAt::End => "line ends",
                TrimAt::Edges => "both edges",
            };
            format!("trim {} at {edges}", class.name())
        }
        Verb::DropLines(DropLines::Holding(search)) => format!("drop lines with {}", found(search)),
        Verb::DropLines(DropLines::Empty(EmptyLines::All)) => "drop empty lines".to_owned(),
        Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => "drop extra empty lines".to_owned(),
        Verb::DropLines(DropLines::Scope) => "drop these lines".to_owned(),
        Verb::KeepLines(KeepLines { search: None }) => "keep only these lines".to_owned(),
        Verb::KeepLines(KeepLines { search: Some(search) }) => format!("keep only lines with {}", found(search)),
        Verb::Normalize(Normalize { form }) => format!("normalize to {}", form.name()),
        Verb::Decode(Decode { what }) => format!("decode {}", what.name()),
        Verb::PlainLetters => "Latin letters without their marks".to_owned(),
        Verb::DropRepeats(DropRepeats { scope: RepeatScope::Neighbours, .. }) => "drop repeated neighbours".to_owned(),
        Verb::DropRepeats(DropRepeats { scope: RepeatScope::File, .. }) => "drop repeated lines".to_owned(),
        Verb::DropRecords(DropRecords::Empty(_)) => "drop empty records".to_owned(),
        Verb::DropRecords(DropRecords::Repeated(_)) => "drop repeated records".to_owned(),
        Verb::DropRecords(DropRecords::Rows) => "drop these records".to_owned(),
        Verb::DropFields(DropFields { fields }) => format!("drop {}", some(fields, Field::to_string)),
        Verb::RenameFields(RenameFields { names }) => {
            format!("rename {}", some(names, |(from, to)| format!("{} to {}", quoted(from), quoted(to))))
        }
        Verb::LineEnds(ends) => line_ends(*ends),
        Verb::Tabs(Tabs { width: 1 }) => "tabs to spaces, 1 column apart".to_owned(),
        Verb::Tabs(Tabs { width }) => format!("tabs to spaces, {width} columns apart"),
        Verb::Pad(Pad { width, within: None, which }) => {
            format!("pad {}numbers to {width} digits", which_words(*which))
        }
        Verb::Pad(Pad { width, within: Some(search), which }) => {
            format!("pad numbers to {width} digits in {}{}", which_words(*which), found(search))
        }
        Verb::Number(Number { instead_of: None, place: NumberPlace::Start, .. }) => "number at the start".to_owned(),
        Verb::Number(Number { instead_of: None, place: NumberPlace::End, .. }) => "number at the end".to_owned(),
        Verb::Number(Number { instead_of: Some((search, which)), .. }) => {
            format!("number in place of {}{}", which_words(*which), found(search))
        }
        Verb::JoinLines(JoinLines { paragraphs: Paragraphs::Keep, .. }) => {
            "join the lines of each paragraph".to_owned()
        }
        Verb::JoinLines(JoinLines { paragraphs: Paragraphs::Join, .. }) => "join all lines".to_owned(),
        Verb::WrapLines(WrapLines { width }) => format!("wrap lines at {width} columns"),
        Verb::BreakLines(BreakLines { search, which, place, .. }) => {
            let side = match place {
                BreakPlace::After => "after",
                BreakPlace::Before => "before",
            };
            format!("break lines {side} {}{}", which_words(*which), found(search))
        }
    }
}

/// The first of these in words, and how many more there are.
fn some<T>(all: &[T], word: impl Fn(&T) -> String) -> String {
    let named = all.iter().take(NAMED_ENTRIES).map(word).collect::<Vec<_>>().join(", ");
    match all.len().saturating_sub(NAMED_ENTRIES) {
        0 => named,
        more => format!("{named} and {more} more"),
    }
}

fn line_ends(ends: LineEnds) -> String {
    let to = ends.to.map(|to| match to {
        LineEnd::Lf => "line ends to LF",
        LineEnd::CrLf => "line ends to CRLF",
        LineEnd::Cr => "line ends to CR",
    });
    let at_end = ends.at_end.map(|at_end| match at_end {
        FinalLineEnd::One => "one line end at the end",
        FinalLineEnd::None => "no line end at the end",
    });
    let bom = ends.drops_bom.then_some("no byte order mark");
    to.into_iter().chain(at_end).chain(bom).collect::<Vec<_>>().join(", ")
}

fn recase(to: LetterCase, within: Option<&(Search, Which)>) -> String {
    let case = match to {
        LetterCase::Lower => "lower case",
        LetterCase::Upper => "upper case",
        LetterCase::Title => "title case",
        LetterCase::Sentence => "sentence case",
    };
    match within {
        None => format!("put all in {case}"),
        Some((search, which)) => format!("put {}{} in {case}", which_words(*which), found(search)),
    }
}

fn found(search: &Search) -> String {
    let place = match search.at {
        At::Anywhere => "",
        At::Start => " at line starts",
        At::End => " at line ends",
        At::Edges => " at both edges",
        At::WholeLine => " on lines of their own",
    };
    format!("{}{place}", target(&search.target))
}

fn target(target: &Target) -> String {
    match target {
        Target::Chars(chars) => characters(chars),
        Target::Text(entries) => format!("text {}", listed(entries)),
        Target::Words(words) => words_of(words),
        Target::Pattern(pattern) => format!("pattern {}", pattern.source()),
        Target::Stock(stock) => stock_words(*stock),
        Target::Between(between) => {
            let what = if between.marks == Marks::Take { "stretches" } else { "what is" };
            format!("{what} between {} and {}", quoted(&between.open), quoted(&between.close))
        }
        Target::Positions(PositionsTarget { first, last: None }) => format!("positions {first} to the end"),
        Target::Positions(PositionsTarget { first, last: Some(last) }) if first == last => format!("position {first}"),
        Target::Positions(PositionsTarget { first, last: Some(last) }) => format!("positions {first} to {last}"),
    }
}

fn characters(target: &CharsTarget) -> String {
    let classes = target.classes.join(", ");
    match (target.chars.is_empty(), classes.is_empty()) {
        (false, true) => format!("characters {}", visible(&target.chars)),
        (false, false) => format!("characters {} and class {classes}", visible(&target.chars)),
        (true, _) => format!("class {classes}"),
    }
}

fn stock_words(target: StockTarget) -> String {
    let name = target.stock.name();
    let plural = match target.stock {
        Stock::Bracketed => "what is in brackets".to_owned(),
        Stock::Email => "e-mail addresses".to_owned(),
        Stock::Url => "web addresses".to_owned(),
        Stock::CopySuffix => "copy-suffixes".to_owned(),
        _ => format!("{name}s"),
    };
    match target {
        StockTarget { rising: true, .. } => format!("{plural} that go up"),
        StockTarget { number: true, .. } => format!("{plural} with the line before"),
        _ => plural,
    }
}

fn words_of(words: &WordsTarget) -> String {
    let written = &words.entries[..words.written];
    let written = (!written.is_empty()).then(|| format!("words {}", listed(written)));
    let files = words.files.iter().map(|file| format!("the words of {file}"));
    let stopwords = (!words.stopwords.is_empty()).then(|| format!("stop words ({})", words.stopwords.join(", ")));
    written.into_iter().chain(files).chain(stopwords).collect::<Vec<_>>().join(", ")
}

fn replaced(search: &Search, with: &Replacement) -> String {
    match with {
        Replacement::Template(with) if with.source().is_empty() => format!("{} with nothing", found(search)),
        Replacement::Template(with) => format!("{} with {}", found(search), quoted(with.source())),
        Replacement::Pairs(pairs) => {
            let first = pairs
                .list
                .first()
                .map_or_else(String::new, |(from, to)| format!("{} with {}", quoted(from), quoted(to)));
            match pairs.list.len().saturating_sub(1) {
                0 => first,
                1 => format!("{first} and one more pair"),
                more => format!("{first} and {more} more pairs"),
            }
        }
    }
}

fn listed(entries: &[String]) -> String {
    let named: Vec<String> = entries.iter().take(NAMED_ENTRIES).map(|entry| quoted(entry)).collect();
    match entries.len().saturating_sub(NAMED_ENTRIES) {
        0 => named.join(", "),
        more => format!("{} and {more} more", named.join(", ")),
    }
}

fn which_words(which: Which) -> String {
    match which {
        Which::All => String::new(),
        Which::First => "the line's first of ".to_owned(),
        Which::Last => "the line's last of ".to_owned(),
        Which::Nth(nth) => format!("match {nth} of a line of "),
    }
}
