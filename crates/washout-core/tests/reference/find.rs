//! Finding what a rule looks for, by trying every place.

use std::collections::HashMap;
use std::sync::{LazyLock, Mutex};

use regex::bytes::Regex;
use washout_core::rules::{At, BetweenTarget, Case, Hyphen, Marks, PositionsTarget, Search, Target};
use washout_core::stock::Stock;

use super::units::{Unit, Units, lines, to_bytes, to_units};

/// A match: units `start..end`.
#[derive(Clone, Debug)]
pub struct Found {
    pub start: usize,
    pub end: usize,
    /// For patterns, what each group took.
    pub groups: Vec<Option<Vec<u8>>>,
    /// And where.
    pub group_places: Vec<Option<(usize, usize)>>,
}

impl Found {
    fn new(start: usize, end: usize) -> Self {
        Self { start, end, groups: Vec::new(), group_places: Vec::new() }
    }
}

/// All matches, in order, after `at` and `except`.
pub fn find(search: &Search, units: &Units) -> Vec<Found> {
    let found = match &search.target {
        Target::Chars(_) => find_chars(search, units),
        Target::Pattern(pattern) => {
            // A look-around that asks for nothing sends a pattern to the other engine, and means nothing.
            let source = pattern.source().replace("(?=)", "");
            let looks = pattern.looks_around();
            if pattern.across_lines() {
                find_across(&source, looks, search, units)
            } else {
                find_pattern(&source, looks, search, units)
            }
        }
        Target::Stock(target) if target.stock == Stock::LineNumber => find_line_numbers(search.at, units),
        Target::Between(between) => find_between(between, search, units),
        Target::Positions(range) => find_positions(*range, search.at, units),
        Target::Text(_) | Target::Words(_) | Target::Stock(_) => find_by_trying(search, units),
    };
    found.into_iter().filter(|found| !is_excepted(search, &units[found.start..found.end])).collect()
}

/// Whether the whole of a match is excepted. For lists and sets the entries are gone already.
fn is_excepted(search: &Search, found: &Units) -> bool {
    let except = &search.except;
    let ignore = search.case == Case::Ignore;
    let all_chars = !found.is_empty() && found.iter().all(|unit| is_in(&except.chars.set, *unit, ignore));
    let whole = |entry: &String, words: bool| {
        entry_end(&to_units(entry.as_bytes()), found, 0, ignore, words) == Some(found.len())
    };
    let chars_target = matches!(search.target, Target::Chars(_));
    (all_chars && !chars_target)
        || except.words.iter().any(|entry| whole(entry, true))
        || except.text.iter().any(|entry| whole(entry, false))
}

// --- letter case ---------------------------------------------------------------------------------------------------

pub fn same(one: char, other: char, ignore_case: bool) -> bool {
    static FOLDED: LazyLock<Mutex<HashMap<char, Regex>>> = LazyLock::new(Mutex::default);
    if one == other || !ignore_case {
        return one == other;
    }
    let mut folded = FOLDED.lock().unwrap();
    let regex =
        folded.entry(one).or_insert_with(|| Regex::new(&format!(r"^(?i:\x{{{:X}}})$", u32::from(one))).unwrap());
    regex.is_match(other.to_string().as_bytes())
}

fn is_in(set: &washout_core::class::CharSet, unit: Unit, ignore_case: bool) -> bool {
    match unit {
        Unit::End(end) => set.contains_line_end(end.as_bytes()),
        Unit::Broken(_) => set.has_broken(),
        Unit::Char(character) => {
            set.contains(character) || (ignore_case && cased_kin(character).iter().any(|kin| set.contains(*kin)))
        }
    }
}

/// Characters that differ from this one by case only.
fn cased_kin(character: char) -> Vec<char> {
    let likely = character.to_lowercase().chain(character.to_uppercase()).chain("K\u{212A}sſßẞσςΣ".chars());
    likely.filter(|other| same(character, *other, true)).collect()
}

// --- characters ----------------------------------------------------------------------------------------------------

fn find_chars(search: &Search, units: &Units) -> Vec<Found> {
    let Target::Chars(target) = &search.target else { return Vec::new() };
    let ignore = search.case == Case::Ignore;
    let member =
        |at: usize| is_in(&target.set, units[at], ignore) && !is_in(&search.except.chars.set, units[at], ignore);
    let mut found = Vec::new();
    if search.at == At::Anywhere {
        return (0..units.len()).filter(|at| member(*at)).map(|at| Found::new(at, at + 1)).collect();
    }
    for (start, end) in lines(units) {
        let stray_blank = |at: usize| units[at].is_blank() && !member(at);
        let own_end = |at: usize| units[at].line_end().is_some() && !member(at);
        let mut from = start;
        if matches!(search.at, At::Start | At::Edges) {
            let first = (start..end).find(|at| !stray_blank(*at)).unwrap_or(end);
            let last = (first..end).find(|at| !member(*at)).unwrap_or(end);
            if last > first {
                found.push(Found::new(first, last));
                from = last;
            }
        }
        if matches!(search.at, At::End | At::Edges) {
            let body = end - usize::from(own_end(end - 1));
            let last = (from..body).rev().find(|at| !stray_blank(*at)).map_or(from, |at| at + 1);
            let first = (from..last).rev().find(|at| !member(*at)).map_or(from, |at| at + 1);
            if last > first {
                found.push(Found::new(first, last));
            }
        }
        if search.at == At::WholeLine && (start..end).all(|at| member(at) || stray_blank(at) || own_end(at)) {
            let members: Vec<usize> = (start..end).filter(|at| member(*at)).collect();
            if let (Some(first), Some(last)) = (members.first(), members.last()) {
                found.push(Found::new(*first, last + 1));
            }
        }
    }
    found
}

// --- strings, words, timestamps ------------------------------------------------------------------------------------

/// Where an entry that starts at `at` ends. For words, a blank stands for any run of blanks and ’ for '.
pub fn entry_end(entry: &Units, units: &Units, at: usize, ignore_case: bool, words: bool) -> Option<usize> {
    let plain = |character: char| if words && character == '’' { '\'' } else { character };
    let (mut at, mut from) = (at, 0);
    while from < entry.len() {
        if words && entry[from].is_blank() {
            let run = units[at..].iter().take_while(|unit| unit.is_blank()).count();
            from += entry[from..].iter().take_while(|unit| unit.is_blank()).count();
            if run == 0 {
                return None;
            }
            at += run;
            continue;
        }
        let matches = match (entry[from], units.get(at)?) {
            (Unit::Char(one), Unit::Char(other)) => same(plain(one), plain(*other), ignore_case),
            (Unit::End(one), Unit::End(other)) => {
                other.as_bytes() == one.as_bytes() || (other.as_bytes().len() == 2 && one.as_bytes().len() == 1)
            }
            _ => false,
        };
        if !matches {
            return None;
        }
        at += 1;
        from += 1;
    }
    Some(at)
}

pub fn is_word(character: char) -> bool {
    static WORD: LazyLock<Regex> = LazyLock::new(|| Regex::new(r"^[\p{L}\p{M}\p{Nd}]$").unwrap());
    WORD.is_match(character.to_string().as_bytes())
}

pub fn is_mark(character: char) -> bool {
    static MARK: LazyLock<Regex> = LazyLock::new(|| Regex::new(r"^\p{M}$").unwrap());
    MARK.is_match(character.to_string().as_bytes())
}

pub fn is_lower(character: char) -> bool {
    static LOWER: LazyLock<Regex> = LazyLock::new(|| Regex::new(r"^\p{Ll}$").unwrap());
    LOWER.is_match(character.to_string().as_bytes())
}

pub fn is_latin(character: char) -> bool {
    static LATIN: LazyLock<Regex> = LazyLock::new(|| Regex::new(r"^[\p{Latin}&&\p{L}]$").unwrap());
    LATIN.is_match(character.to_string().as_bytes())
}

pub fn is_letter(character: char) -> bool {
    is_word(character) && !character.is_numeric()
}

/// Whether the units left and right of the place `at` are parts of one word.
pub fn in_one_word(units: &Units, at: usize, hyphen: Hyphen) -> bool {
    let character = |at: Option<usize>| at.and_then(|at| units.get(at)).and_then(|unit| unit.character());
    let part = |at: Option<usize>| {
        let (before, here, after) =
            (character(at.and_then(|at| at.checked_sub(1))), character(at), character(at.map(|at| at + 1)));
        match (before, here, after) {
            (_, Some(here), _) if is_word(here) => true,
            (Some(before), Some('\'' | '’'), Some(after)) => is_letter(before) && is_letter(after),
            (Some(before), Some('-' | '\u{2010}'), Some(after)) => {
                hyphen == Hyphen::Joins && is_word(before) && is_word(after)
            }
            _ => false,
        }
    };
    part(at.checked_sub(1)) && part(Some(at))
}

fn word_end(entry: &str, units: &Units, at: usize, ignore_case: bool, hyphen: Hyphen) -> Option<usize> {
    let end = entry_end(&to_units(entry.as_bytes()), units, at, ignore_case, true)?;
    let (first, last) = (entry.chars().next()?, entry.chars().last()?);
    let starts = !is_word(first) || !in_one_word(units, at, hyphen);
    let ends = !is_word(last) || !in_one_word(units, end, hyphen);
    (starts && ends).then_some(end)
}

/// The ends of all matches that start at `at`.
fn ends_at(search: &Search, units: &Units, at: usize) -> Vec<usize> {
    let ignore = search.case == Case::Ignore;
    let spared = |entry: &str, excepted: &[String], words: bool| {
        let entry = to_units(entry.as_bytes());
        excepted
            .iter()
            .any(|other| entry_end(&to_units(other.as_bytes()), &entry, 0, ignore, words) == Some(entry.len()))
    };
    match &search.target {
        Target::Text(entries) => {
            let entries = entries.iter().filter(|entry| !spared(entry, &search.except.text, false));
            entries.filter_map(|entry| entry_end(&to_units(entry.as_bytes()), units, at, ignore, false)).collect()
        }
        Target::Words(words) => {
            let entries = words.entries.iter().filter(|entry| !spared(entry, &search.except.words, true));
            entries.filter_map(|entry| word_end(entry, units, at, ignore, words.hyphen)).collect()
        }
        Target::Stock(target) if target.stock.expression().is_some() => super::stock::ends(target.stock, units, at),
        _ => (at + 1..=units.len().min(at + 24)).filter(|end| is_timestamp(units, at, *end)).collect(),
    }
}

fn is_timestamp(units: &Units, start: usize, end: usize) -> bool {
    static TIME: LazyLock<Regex> = LazyLock::new(|| {
        let time = r"[0-9]{1,2}:[0-5][0-9](?::[0-5][0-9])?(?:[.,][0-9]{1,9})?(?:[ \t]?(?i:[ap]m|[ap]\.m\.))?";
        Regex::new(&format!(r"^(?:{time}|\[[ \t]?{time}[ \t]?\]|\([ \t]?{time}[ \t]?\))$")).unwrap()
    });
    if !TIME.is_match(&to_bytes(&units[start..end])) {
        return false;
    }
    let bracketed = matches!(units[start], Unit::Char('[' | '('));
    let inside = |start: usize, end: usize| {
        let character = |at: Option<usize>| at.and_then(|at| units.get(at)).and_then(|unit| unit.character());
        let before = character(start.checked_sub(1));
        let before_that = character(start.checked_sub(2));
        let (after, after_that) = (character(Some(end)), character(Some(end + 1)));
        let digit = |character: Option<char>| character.is_some_and(|character| character.is_ascii_digit());
        let starts = match before {
            Some('.' | ',') => !digit(before_that),
            Some(before) => !is_word(before) && !matches!(before, ':' | '_'),
            None => true,
        };
        let ends = match after {
            Some('.' | ',') => !digit(after_that),
            Some(':') => !after_that.is_some_and(is_word),
            Some(after) => !is_word(after) && after != '_',
            None => true,
        };
        starts && ends
    };
    if !bracketed {
        return inside(start, end);
    }
    let inner_start = start + 1 + usize::from(units[start + 1].is_blank());
    let inner_end = end - 1 - usize::from(units[end - 2].is_blank());
    inside(inner_start, inner_end)
}

fn find_by_trying(search: &Search, units: &Units) -> Vec<Found> {
    // The number of a page is one only where it stands alone.
    let alone = matches!(&search.target, Target::Stock(target) if target.stock == Stock::PageNumber);
    let search = &Search { at: if alone { At::WholeLine } else { search.at }, ..search.clone() };
    let content_end = |at: usize| (at..units.len()).find(|at| units[*at].line_end().is_some()).unwrap_or(units.len());
    let line_start = |at: usize| (0..at).rev().find(|at| units[*at].line_end().is_some()).map_or(0, |at| at + 1);
    let at_start = |at: usize| units[line_start(at)..at].iter().all(|unit| unit.is_blank());
    let at_end = |end: usize| {
        units[end - 1].line_end().is_some() || units[end..content_end(end)].iter().all(|unit| unit.is_blank())
    };
    let longest = |at: usize, accept: &dyn Fn(usize) -> bool| {
        ends_at(search, units, at).into_iter().filter(|end| accept(*end)).max()
    };
    let mut found: Vec<Found> = Vec::new();
    let mut at = 0;
    while at < units.len() {
        let opens = search.at == At::Edges && at_start(at) && !started(&found, line_start(at));
        let end = match search.at {
            At::Anywhere => longest(at, &|_| true),
            At::Start => longest(at, &|_| true).filter(|_| at_start(at)),
            At::Edges if opens => longest(at, &|_| true),
            At::End | At::Edges => longest(at, &at_end),
            At::WholeLine => longest(at, &at_end).filter(|_| at_start(at)),
        };
        match end {
            Some(end) => {
                found.push(Found::new(at, end));
                at = end;
                let one_per_edge = search.at != At::Anywhere && !opens;
                if one_per_edge && units[at - 1].line_end().is_none() {
                    at = (content_end(at) + 1).min(units.len());
                }
            }
            None => at += 1,
        }
    }
    found
}

fn started(found: &[Found], line_start: usize) -> bool {
    found.last().is_some_and(|last| last.start >= line_start)
}

// --- patterns ------------------------------------------------------------------------------------------------------

/// What a pattern sees at once: where it looks around, broken bytes part it.
fn stretches(content: &Units, looks: bool) -> Vec<(usize, usize)> {
    let broken = (0..content.len()).filter(|at| looks && matches!(content[*at], Unit::Broken(_)));
    let mut stretches = Vec::new();
    let mut start = 0;
    for at in broken {
        stretches.push((start, at));
        start = at + 1;
    }
    stretches.push((start, content.len()));
    stretches
}

fn shifted(found: Found, by: usize) -> Found {
    let shift = |place: (usize, usize)| (place.0 + by, place.1 + by);
    let group_places = found.group_places.iter().map(|place| place.map(shift)).collect();
    Found { start: found.start + by, end: found.end + by, group_places, ..found }
}

fn find_pattern(source: &str, looks: bool, search: &Search, units: &Units) -> Vec<Found> {
    let flags = if search.case == Case::Ignore { "(?i)" } else { "" };
    let at_start = Regex::new(&format!(r"{flags}\A[ \t]*?(?P<it>{source})")).unwrap();
    let at_end = Regex::new(&format!(r"{flags}(?P<it>{source})[ \t]*\z")).unwrap();
    let whole = Regex::new(&format!(r"{flags}\A[ \t]*?(?P<it>{source})[ \t]*\z")).unwrap();
    let anywhere = Regex::new(&format!(r"{flags}(?P<it>{source})")).unwrap();
    let mut found = Vec::new();
    for (start, end) in lines(units) {
        let content = &units[start..end - usize::from(units[end - 1].line_end().is_some())];
        let parts = stretches(content, looks);
        let mut push = |part: usize, matches: Vec<Found>| {
            found.extend(matches.into_iter().map(|found| shifted(found, start + parts[part].0)));
        };
        let seen = |part: usize| &content[parts[part].0..parts[part].1];
        let first = |regex: &Regex, part: usize, from: Option<usize>| {
            matches_of(regex, seen(part), from).into_iter().take(1).collect::<Vec<_>>()
        };
        let last = parts.len() - 1;
        match search.at {
            At::Anywhere => (0..=last).for_each(|part| push(part, matches_of(&anywhere, seen(part), None))),
            At::Start => push(0, first(&at_start, 0, None)),
            At::End => push(last, first(&at_end, last, None)),
            At::WholeLine if last > 0 => {}
            At::WholeLine => push(0, first(&whole, 0, None)),
            At::Edges => {
                let opening = first(&at_start, 0, None);
                let rest = opening.first().map(|found| found.end).filter(|_| last == 0);
                push(0, opening);
                push(last, first(&at_end, last, rest));
            }
        }
    }
    found
}

/// The whole text is one haystack, in which each line end is `\n`.
fn find_across(source: &str, looks: bool, search: &Search, units: &Units) -> Vec<Found> {
    let flags = if search.case == Case::Ignore { "(?im)" } else { "(?m)" };
    let before = if search.at == At::Start { r"^[ \t]*?" } else { "" };
    let regex = Regex::new(&format!("{flags}{before}(?P<it>{source})")).unwrap();
    let flat: Vec<Unit> = units.iter().map(|unit| unit.line_end().map_or(*unit, |_| Unit::Char('\n'))).collect();
    let mut found = Vec::new();
    for (start, end) in stretches(&flat, looks) {
        found.extend(matches_of(&regex, &flat[start..end], None).into_iter().map(|found| shifted(found, start)));
    }
    let ends_in_line_end = units.last().is_some_and(|unit| unit.line_end().is_some());
    found.retain(|found| !(found.start == units.len() && (ends_in_line_end || units.is_empty())));
    for found in &mut found {
        let original = |place: &Option<(usize, usize)>| place.map(|(start, end)| to_bytes(&units[start..end]));
        found.groups = found.group_places.iter().map(original).collect();
    }
    found
}

/// The matches of group `it` in one line. After `from`, where a match has ended, an empty match there does not count.
fn matches_of(regex: &Regex, content: &Units, from: Option<usize>) -> Vec<Found> {
    let bytes = to_bytes(content);
    // Byte offsets of unit boundaries: no empty match may stand elsewhere.
    let places: Vec<usize> = (0..=content.len()).map(|at| to_bytes(&content[..at]).len()).collect();
    let unit_at = |offset: usize| places.iter().position(|place| *place == offset);
    let mut found = Vec::new();
    let mut at = from.map_or(0, |from| places[from]);
    let mut last_end = from.map(|from| places[from]);
    while at <= bytes.len() {
        let Some(captures) = regex.captures_at(&bytes, at) else { break };
        let it = captures.name("it").unwrap();
        let (start, end) = (unit_at(it.start()), unit_at(it.end()));
        let skipped = it.is_empty() && (last_end == Some(it.end()) || start.is_none());
        if skipped {
            at = it.end() + 1;
            continue;
        }
        let groups: Vec<_> =
            std::iter::once(Some(it)).chain((2..captures.len()).map(|group| captures.get(group))).collect();
        found.push(Found {
            start: start.unwrap(),
            end: end.unwrap(),
            groups: groups.iter().map(|group| group.map(|group| group.as_bytes().to_vec())).collect(),
            group_places: groups
                .iter()
                .map(|group| group.and_then(|group| unit_at(group.start()).zip(unit_at(group.end()))))
                .collect(),
        });
        at = it.end();
        last_end = Some(it.end());
    }
    found
}

// --- marks and positions -------------------------------------------------------------------------------------------

/// Whether a match found anywhere stands where `at` says.
fn is_at(at: At, units: &Units, line: (usize, usize), start: usize, end: usize) -> bool {
    let blank = |from: usize, to: usize| units[from..to].iter().all(|unit| unit.is_blank());
    match at {
        At::Anywhere => true,
        At::Start => blank(line.0, start),
        At::End => blank(end, line.1),
        At::Edges => blank(line.0, start) || blank(end, line.1),
        At::WholeLine => blank(line.0, start) && blank(end, line.1),
    }
}

/// The lines without their line ends.
fn contents(units: &Units) -> Vec<(usize, usize)> {
    let content = |(start, end): (usize, usize)| (start, end - usize::from(units[end - 1].line_end().is_some()));
    lines(units).into_iter().map(content).collect()
}

fn find_between(between: &BetweenTarget, search: &Search, units: &Units) -> Vec<Found> {
    let ignore = search.case == Case::Ignore;
    let mark_end = |mark: &str, at: usize| entry_end(&to_units(mark.as_bytes()), units, at, ignore, false);
    let same_marks = mark_end(&between.open, 0).is_some() == mark_end(&between.close, 0).is_some()
        && entry_end(&to_units(between.open.as_bytes()), &to_units(between.close.as_bytes()), 0, ignore, false)
            == Some(to_units(between.close.as_bytes()).len());
    let mut found = Vec::new();
    for line in contents(units) {
        let mut marks: Vec<(usize, usize, bool)> = Vec::new();
        let mut at = line.0;
        while at < line.1 {
            let (open, close) = (mark_end(&between.open, at), mark_end(&between.close, at));
            let closes = if same_marks { marks.len() % 2 == 1 } else { close > open };
            match open.max(close) {
                Some(end) => {
                    marks.push((at, end, closes));
                    at = end;
                }
                None => at += 1,
            }
        }
        // The partner of an opening mark is the first closing mark after it with everything between in balance.
        let partner = |index: usize| {
            let mut depth = 0_i64;
            (index..marks.len()).find(|other| {
                depth += if marks[*other].2 { -1 } else { 1 };
                depth == 0
            })
        };
        let mut index = 0;
        while index < marks.len() {
            match partner(index).filter(|_| !marks[index].2) {
                Some(close) => {
                    let kept = between.marks == Marks::Keep;
                    let (start, end) =
                        if kept { (marks[index].1, marks[close].0) } else { (marks[index].0, marks[close].1) };
                    if is_at(search.at, units, line, start, end) {
                        found.push(Found::new(start, end));
                    }
                    index = close + 1;
                }
                None => index += 1,
            }
        }
    }
    found
}

fn find_positions(range: PositionsTarget, at: At, units: &Units) -> Vec<Found> {
    let mut found: Vec<Found> = Vec::new();
    for line in contents(units) {
        let last = range.last.map_or(line.1, |last| line.1.min(line.0 + last));
        let mut stretches: Vec<(usize, usize)> = Vec::new();
        for (at, unit) in units.iter().enumerate().take(last).skip(line.0 + range.first - 1) {
            match (unit, stretches.last_mut()) {
                (Unit::Broken(_), _) => {}
                (_, Some(last)) if last.1 == at => last.1 = at + 1,
                _ => stretches.push((at, at + 1)),
            }
        }
        let placed = stretches.into_iter().filter(|(start, end)| is_at(at, units, line, *start, *end));
        found.extend(placed.map(|(start, end)| Found::new(start, end)));
    }
    found
}

// --- line numbers --------------------------------------------------------------------------------------------------

fn find_line_numbers(at: At, units: &Units) -> Vec<Found> {
    static OPENING: LazyLock<Regex> =
        LazyLock::new(|| Regex::new(r"^[ \t]*(?:\[[0-9]{1,7}\]|[0-9]{1,7}[.:)]?)(?:[ \t]*\|[ \t]?|[ \t]|$)").unwrap());
    static CLOSING: LazyLock<Regex> =
        LazyLock::new(|| Regex::new(r"(?:^|[ \t|])(\[[0-9]{1,7}\]|[0-9]{1,7})[ \t]*$").unwrap());
    let mut found = Vec::new();
    for (start, end) in lines(units) {
        let content = &units[start..end - usize::from(units[end - 1].line_end().is_some())];
        let bytes = to_bytes(content);
        let unit_at = |offset: usize| to_units(&bytes[..offset]).len();
        let opening = OPENING.find(&bytes).map(|number| unit_at(number.end()));
        if at == At::WholeLine {
            let alone = opening.filter(|end| content[*end..].iter().all(|unit| unit.is_blank()));
            found.extend(alone.map(|end| Found::new(start, start + end)));
            continue;
        }
        let opening = opening.filter(|_| at != At::End);
        found.extend(opening.map(|end| Found::new(start, start + end)));
        let rest = opening.unwrap_or(0);
        let closing = CLOSING.captures(&bytes).and_then(|captures| captures.get(1)).filter(|_| at != At::Start);
        if let Some(number) = closing.filter(|number| unit_at(number.start()) >= rest) {
            let mut first = unit_at(number.start());
            let blanks =
                |from: usize| from - content[rest..from].iter().rev().take_while(|unit| unit.is_blank()).count();
            first = blanks(first);
            if first > rest && content[first - 1] == Unit::Char('|') {
                first = blanks(first - 1);
            }
            found.push(Found::new(start + first, start + unit_at(number.end())));
        }
    }
    found
}
