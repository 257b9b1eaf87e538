//! The requirements of a rule.

use std::sync::Arc;

use regex_syntax::ParserBuilder;
use regex_syntax::hir::{Hir, HirKind, Literal, Repetition};

use super::bytes::ByteSet;
use super::profile::{Profile, required_rows};
use super::requirement::{MatchStart, Requirement, WINDOW};
use crate::class::{CharSet, CharTable};
use crate::rules::{
    BetweenTarget, Case, CharsTarget, Collapse, DropLines, EmptyLines, Encoded, Pad, Search, StockTarget, Target, Trim,
    TrimAt, TrimClass, Verb,
};
use crate::stock::Stock;
use crate::text::At;

/// More entries than this are looked up in their own way: each has a requirement.
const MOST_ENTRIES: usize = 24;

/// More requirements than this say too little together.
const MOST_PROBES: usize = 32;

/// A match that may start at more places before its requirement is better looked for in the whole line.
const MOST_STARTS: usize = 16;

/// A rule whose requirements are found more often than this in a million bytes is better off without them.
const TOO_OFTEN: u64 = 35_000;

/// What a line must hold for this rule to act on it: one of the requirements. `None` if no such thing is known, or if most
/// lines hold it.
///
/// The rule must be one that acts on each line by itself.
pub(crate) fn requirements_of(verb: &Verb) -> Option<Vec<Requirement>> {
    let requirements = match verb {
        Verb::Remove(remove) => of_search(&remove.search),
        Verb::Replace(replace) => of_search(&replace.search),
        Verb::BreakLines(breaks) => of_search(&breaks.search),
        Verb::DropLines(DropLines::Holding(search)) | Verb::Pad(Pad { within: Some(search), .. }) => of_search(search),
        Verb::DropLines(DropLines::Empty(EmptyLines::All)) => Some(vec![Requirement::empty_line()]),
        Verb::Collapse(collapse) => of_collapse(collapse),
        Verb::Recase(recase) => of_search(&recase.within.as_ref()?.0),
        Verb::Trim(trim) => of_trim(*trim),
        Verb::Pad(Pad { within: None, .. }) => Some(vec![Requirement::row(&[ByteSet::of(*b"0123456789")])]),
        Verb::Tabs(_) => Some(vec![Requirement::row(&[ByteSet::of(*b"\t")])]),
        Verb::Decode(decode) => match decode.what {
            Encoded::HtmlEntities => Some(vec![Requirement::row(&[ByteSet::of(*b"&")])]),
            Encoded::Percent => {
                let hex = ByteSet::of((0..=u8::MAX).filter(u8::is_ascii_hexdigit));
                Some(vec![Requirement::row(&[ByteSet::of(*b"%"), hex, hex])])
            }
            Encoded::DoubleUtf8 | Encoded::Digits => None,
        },
        Verb::Keep(_)
        | Verb::Normalize(_)
        | Verb::PlainLetters
        | Verb::KeepLines(_)
        | Verb::DropLines(_)
        | Verb::DropRepeats(_)
        | Verb::JoinLines(_)
        | Verb::WrapLines(_)
        | Verb::LineEnds(_)
        | Verb::Number(_)
        | Verb::DropRecords(_)
        | Verb::DropFields(_)
        | Verb::RenameFields(_)
        | Verb::Include(_) => None,
    }?;
    let often: u64 = requirements.iter().map(Requirement::per_million).sum();
    (requirements.len() <= MOST_PROBES && often <= TOO_OFTEN).then_some(requirements)
}

fn of_search(search: &Search) -> Option<Vec<Requirement>> {
    let ignore_case = search.case == Case::Ignore;
    match &search.target {
        Target::Chars(chars) => Some(of_chars(chars, ignore_case, search.at)),
        Target::Text(entries) => {
            let requirements = few(entries)?.iter().map(|entry| of_literal(entry, ignore_case));
            requirements.map(|requirement| Some(requirement?.with_starts(MatchStart::There))).collect::<Option<_>>()
        }
        Target::Words(words) => {
            let requirements = few(&words.entries)?.iter().map(|entry| of_word(entry, ignore_case));
            requirements.map(|requirement| Some(requirement?.with_starts(MatchStart::There))).collect::<Option<_>>()
        }
        Target::Pattern(pattern) => of_expression(pattern.hir()?),
        Target::Stock(target) => of_stock(*target, search.at),
        Target::Between(BetweenTarget { open, .. }) => Some(vec![of_literal(open, ignore_case)?]),
        Target::Positions(_) => None,
    }
}

fn few(entries: &[String]) -> Option<&[String]> {
    (entries.len() <= MOST_ENTRIES).then_some(entries)
}

fn of_chars(chars: &CharsTarget, ignore_case: bool, at: At) -> Vec<Requirement> {
    let mut set = chars.set.clone();
    if ignore_case {
        set.fold_case();
    }
    let ascii = set.ranges().all(|(_, last)| last.is_ascii()) && !set.has_broken() && !set.has_line_ends();
    if ascii && at != At::Anywhere {
        let bytes = ByteSet::of((0..0x80).filter(|byte| set.contains(char::from(*byte))));
        let start = Requirement::at_line_start(bytes);
        // A run of members ends at the end of the line, blanks aside, which may be members too.
        let end = Requirement::at_line_end(bytes);
        return match at {
            At::Start | At::WholeLine => vec![start],
            At::End => vec![end],
            At::Anywhere | At::Edges => vec![start, end],
        };
    }
    let requirements = of_set(&set);
    if at == At::Anywhere {
        requirements.into_iter().map(|requirement| requirement.with_starts(MatchStart::There)).collect()
    } else {
        requirements
    }
}

/// A requirement for each first byte and length of members; members of one byte share one.
fn of_set(set: &CharSet) -> Vec<Requirement> {
    let table = Arc::new(CharTable::new(set.clone()));
    let mut windows: Vec<(u8, usize, [ByteSet; WINDOW])> = Vec::new();
    let mut add = |key: u8, length: usize, row: &[ByteSet]| {
        let place = windows.iter().position(|(other, other_length, _)| (*other, *other_length) == (key, length));
        let index = place.unwrap_or_else(|| {
            windows.push((key, length, [ByteSet::default(); WINDOW]));
            windows.len() - 1
        });
        for (position, set) in windows[index].2.iter_mut().enumerate() {
            *set = set.or(row.get(position).copied().unwrap_or(ByteSet::ALL));
        }
    };
    for (first, last) in set.ranges() {
        for sequence in regex_syntax::utf8::Utf8Sequences::new(first, last) {
            let ranges = sequence.as_slice();
            let row: Vec<ByteSet> = ranges.iter().map(|range| ByteSet::of(range.start..=range.end)).collect();
            if row.len() == 1 {
                add(0, 1, &row);
            } else {
                for lead in ranges[0].start..=ranges[0].end {
                    add(lead, row.len(), &[&[ByteSet::of([lead])], &row[1..]].concat());
                }
            }
        }
    }
    if set.has_broken() {
        add(0, 0, &[ByteSet::of(0x80..=u8::MAX)]);
    }
    if set.has_line_ends() {
        add(0, 0, &[ByteSet::line_ends()]);
    }
    windows.into_iter().map(|(_, _, window)| Requirement::member(window, Arc::clone(&table))).collect()
}

fn of_literal(text: &str, ignore_case: bool) -> Option<Requirement> {
    if text.is_empty() || text.contains(['\n', '\r']) {
        return None;
    }
    Some(Requirement::of_profile(&literal_profile(text, ignore_case)?, false))
}

fn literal_profile(text: &str, ignore_case: bool) -> Option<Profile> {
    if !ignore_case {
        return Some(Profile::literal(text.as_bytes()));
    }
    let hir = ParserBuilder::new().case_insensitive(true).build().parse(&regex_syntax::escape(text)).ok()?;
    Some(Profile::of(&hir))
}

/// An entry that begins with letters or digits of ASCII is found at the start of a word only if the whole row of such
/// letters there is the one it begins with. What an entry has besides is looked at up to what may be spelled otherwise.
fn of_word(entry: &str, ignore_case: bool) -> Option<Requirement> {
    let in_word = ByteSet::of((0..=u8::MAX).filter(u8::is_ascii_alphanumeric));
    let no_word = ByteSet::ALL.except(in_word);
    let row = entry.find(|character: char| !character.is_ascii_alphanumeric()).unwrap_or(entry.len());
    if row > 0 {
        let word = literal_profile(&entry[..row], ignore_case)?;
        let whole = Profile::one(no_word).then(&word).then(&Profile::one(no_word));
        return Some(Requirement::of_profile(&whole, true));
    }
    let certain =
        entry.find(|character: char| matches!(character, '\'' | '’' | '\n' | '\r') || character.is_whitespace());
    of_literal(&entry[..certain.unwrap_or(entry.len())], ignore_case)
}

fn of_expression(hir: &Hir) -> Option<Vec<Requirement>> {
    if let Some(run) = of_run(hir) {
        return Some(vec![run]);
    }
    let rows = required_rows(hir);
    let sets = Profile::of(hir).sets();
    let first = [sets[0], sets[1], sets[2]];
    let requirements = rows.iter().map(|row| {
        let starts = match (row.behind, row.characters) {
            (Some((_, 0)), _) => MatchStart::There,
            (_, Some(characters)) if characters <= MOST_STARTS => MatchStart::Characters(characters),
            (Some((least, most)), _) if most <= MOST_STARTS => MatchStart::Before { least, most, first },
            _ => MatchStart::Somewhere,
        };
        Requirement::of_profile(&row.profile, row.starts_outside).with_starts(starts)
    });
    Some(vec![requirements.min_by_key(Requirement::per_million)?])
}

/// This many or more of one byte of ASCII start after another byte.
fn of_run(hir: &Hir) -> Option<Requirement> {
    let HirKind::Repetition(Repetition { min: least @ 1.., max: None, greedy: true, sub }) = hir.kind() else {
        return None;
    };
    let HirKind::Literal(Literal(bytes)) = sub.kind() else { return None };
    let [byte @ 0..0x80] = **bytes else { return None };
    let one = ByteSet::of([byte]);
    let before = Profile::one(ByteSet::ALL.except(one));
    let run = (0..*least).take(WINDOW).fold(before, |row, _| row.then(&Profile::one(one)));
    Some(Requirement::of_profile(&run, true).with_starts(MatchStart::There))
}

fn of_stock(target: StockTarget, at: At) -> Option<Vec<Requirement>> {
    let digits = || ByteSet::of(b'0'..=b'9');
    if let Some(shape) = target.stock.shape() {
        let parsed = ParserBuilder::new().utf8(false).build().parse(shape.expression).ok()?;
        return of_expression(&parsed);
    }
    match target.stock {
        Stock::LineNumber => {
            let start = Requirement::at_line_start(digits().or(ByteSet::of(*b"[")));
            let end = Requirement::at_line_end(digits().or(ByteSet::of(*b"]")));
            Some(match at {
                At::Start | At::WholeLine => vec![start],
                At::End => vec![end],
                At::Anywhere | At::Edges => vec![start, end],
            })
        }
        Stock::Bracketed => Some(vec![Requirement::row(&[ByteSet::of(*b"([{")])]),
        Stock::Timestamp => Some(vec![Requirement::row(&[digits(), ByteSet::of(*b":"), ByteSet::of(b'0'..=b'5')])]),
        _ => None,
    }
}

/// Two members in a row, or with something to put in their place, any.
fn of_collapse(collapse: &Collapse) -> Option<Vec<Requirement>> {
    let Target::Chars(chars) = &collapse.search.target else { return of_search(&collapse.search) };
    let single_bytes = chars.set.ranges().all(|(_, last)| last.is_ascii()) && !chars.set.has_broken();
    if (collapse.with.is_some() && !collapse.leaves_one()) || !single_bytes || collapse.search.case == Case::Ignore {
        return of_search(&Search { at: At::Anywhere, ..collapse.search.clone() });
    }
    let members = ByteSet::of((0..0x80).filter(|byte| chars.set.contains(char::from(*byte))));
    if members.members().count() > 4 {
        return Some(vec![Requirement::row(&[members, members])]);
    }
    Some(members.members().map(|byte| Requirement::row(&[ByteSet::of([byte]); 2])).collect())
}

fn of_trim(trim: Trim) -> Option<Vec<Requirement>> {
    if trim.class != TrimClass::Blank {
        return None;
    }
    let start = || {
        let row = Profile::one(ByteSet::line_ends()).then(&Profile::one(ByteSet::blanks()));
        Requirement::of_profile(&row, true)
    };
    let end = || Requirement::row(&[ByteSet::blanks(), ByteSet::line_ends()]);
    Some(match trim.at {
        TrimAt::Start => vec![start()],
        TrimAt::End => vec![end()],
        TrimAt::Edges => vec![start(), end()],
    })
}
