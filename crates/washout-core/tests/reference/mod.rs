//! The meaning of a rule set, written to be read: each rule in turn over the whole text, nothing clever.
//!
//! A text is a list of units: a character, a line end (CRLF is one), or a broken byte. The engine works on bytes and
//! blocks and shares nothing with this but the model of the rules.

#![allow(
    clippy::unwrap_used,
    unreachable_pub,
    reason = "a test that cannot go on fails, and this module is shared by tests"
)]

mod decode;
mod find;
mod guard;
mod stock;
mod units;

use find::{Found, find};
use guard::{Guard, cores_of};
use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::canonical_combining_class;
use unicode_width::{UnicodeWidthChar, UnicodeWidthStr};
use units::{Unit, Units, lines, to_bytes, to_units};
use washout_core::RuleSet;
use washout_core::rules::{
    At, BreakLines, BreakPlace, Case, Collapse, DropLines, DropRepeats, EmptyLines, FinalLineEnd, Gap, Hyphen,
    HyphenAtLineEnd, JoinLines, Keep, KeepLines, LetterCase, LineEnds, NormalForm, Number, NumberPlace, Pad,
    Paragraphs, Part, Recase, RepeatScope, Replace, Replacement, Rule, Scope, Search, Tabs, Target, Template, Trim,
    TrimAt, TrimClass, Unmatched, Verb, Which,
};
use washout_core::text::LineEnd;

/// The text after all rules, and how many changes each rule made.
pub fn apply(rules: &RuleSet, text: &[u8]) -> (Vec<u8>, Vec<u64>) {
    let (bom, text) = match text.strip_prefix(b"\xEF\xBB\xBF") {
        Some(rest) => (&b"\xEF\xBB\xBF"[..], rest),
        None => (&b""[..], text),
    };
    let mut units = to_units(text);
    let first_line_end = units.iter().find_map(|unit| unit.line_end());
    let mut changes = Vec::new();
    let all = flat(rules, &[], &[]);
    for (rule, scopes, protects) in &all {
        let guard = Guard::new(scopes, protects, &units);
        let edits = edits(&rule.verb, &units, &guard, first_line_end);
        changes.push(edits.iter().filter(|edit| edit.changes(&units)).map(|edit| edit.matches).sum());
        // Through bytes and back: a rule may make a CRLF, or put line ends into the text.
        units = to_units(&carry_out(&units, &edits));
    }
    let drops_bom = |rule: &&Rule| matches!(&rule.verb, Verb::LineEnds(ends) if ends.drops_bom);
    let dropping = all.iter().position(|(rule, ..)| drops_bom(rule));
    match dropping.filter(|_| !bom.is_empty()) {
        Some(rule) => {
            changes[rule] += 1;
            (to_bytes(&units), changes)
        }
        None => ([bom, &to_bytes(&units)].concat(), changes),
    }
}

/// A rule with the scopes and protected targets around it.
type Placed<'r> = (&'r Rule, Vec<&'r Scope>, Vec<&'r Search>);

/// Every rule that is on, those of included sets in place.
fn flat<'r>(set: &'r RuleSet, scopes: &[&'r Scope], protects: &[&'r Search]) -> Vec<Placed<'r>> {
    let protects: Vec<&Search> = protects.iter().copied().chain(&set.protect).collect();
    let mut all = Vec::new();
    for rule in set.rules.iter().filter(|rule| !rule.off) {
        let scopes: Vec<&Scope> = scopes.iter().copied().chain([&rule.scope]).collect();
        match &rule.verb {
            Verb::Include(include) => all.extend(flat(&include.set, &scopes, &protects)),
            _ => all.push((rule, scopes, protects.clone())),
        }
    }
    all
}

/// Units `start..end` give way to `put`.
struct Edit {
    start: usize,
    end: usize,
    put: Vec<u8>,
    matches: u64,
}

impl Edit {
    fn remove(start: usize, end: usize) -> Self {
        Self { start, end, put: Vec::new(), matches: 1 }
    }

    fn changes(&self, units: &Units) -> bool {
        to_bytes(&units[self.start..self.end]) != self.put
    }
}

fn carry_out(units: &Units, edits: &[Edit]) -> Vec<u8> {
    let mut out = Vec::new();
    let mut from = 0;
    for edit in edits {
        out.extend(to_bytes(&units[from..edit.start]));
        out.extend(&edit.put);
        from = edit.end;
    }
    out.extend(to_bytes(&units[from..]));
    out
}

fn edits(verb: &Verb, units: &Units, guard: &Guard, first_line_end: Option<LineEnd>) -> Vec<Edit> {
    let allowed = |mut edits: Vec<Edit>| {
        edits.retain(|edit| guard.allows(edit.start, edit.end));
        edits
    };
    match verb {
        Verb::Remove(remove) if remove.search.at == At::WholeLine => {
            let matches = chosen(&remove.search, remove.which, guard, units);
            matches
                .iter()
                // A match that reaches over line ends takes all its lines.
                .map(|found| (line_with(units, found.start).0, line_with(units, found.end.max(found.start + 1) - 1).1))
                .filter(|line| guard.allows_line(*line))
                .map(|(start, end)| Edit::remove(start, end))
                .collect()
        }
        Verb::Remove(remove) => {
            let matches = chosen(&remove.search, remove.which, guard, units);
            remove_closing(units, guard, &matches, remove.gap)
        }
        Verb::Replace(replace) => {
            let put = |found: &Found| Edit {
                start: found.start,
                end: found.end,
                put: put_for(replace, found, &units[found.start..found.end]),
                matches: 1,
            };
            chosen(&replace.search, replace.which, guard, units).iter().map(put).collect()
        }
        Verb::Include(_) => unreachable!("its rules stand in its place"),
        Verb::DropRecords(_) | Verb::DropFields(_) | Verb::RenameFields(_) => unreachable!("they are for tables"),
        Verb::Keep(keep) => kept(keep, guard, units),
        Verb::Collapse(collapse) => collapsed(collapse, guard, units),
        Verb::Recase(recase) => recased(recase, guard, units),
        Verb::Trim(trim) => allowed(trimmed(*trim, units)),
        Verb::DropLines(DropLines::Holding(search)) => {
            let found = chosen(search, Which::All, guard, units);
            without_lines(units, guard, |line| holds(&found, units, line))
        }
        Verb::DropLines(DropLines::Scope) => without_lines(units, guard, |_| true),
        Verb::DropLines(DropLines::Empty(EmptyLines::All)) => without_lines(units, guard, |line| is_empty(units, line)),
        Verb::DropLines(DropLines::Empty(EmptyLines::Extra)) => without_lines(units, guard, |line| {
            is_empty(units, line) && line.0 > 0 && is_empty(units, line_with(units, line.0 - 1))
        }),
        Verb::KeepLines(KeepLines { search: Some(search) }) => {
            let found = chosen(search, Which::All, guard, units);
            without_lines(units, guard, |line| !holds(&found, units, line))
        }
        Verb::KeepLines(KeepLines { search: None }) => {
            let goes = |line: &(usize, usize)| !guard.in_scope(line.0, line.1) && !guard.has_core(*line);
            lines(units).into_iter().filter(goes).map(|(start, end)| Edit::remove(start, end)).collect()
        }
        Verb::Normalize(normalize) => allowed(normalized(normalize.form, units)),
        Verb::Decode(decode) => allowed(decode::decoded(decode.what, units)),
        Verb::PlainLetters => allowed(plain_letters(units)),
        Verb::DropRepeats(repeats) => repeated(*repeats, guard, units),
        Verb::LineEnds(ends) => allowed(line_ends(*ends, units, first_line_end)),
        Verb::Tabs(tabs) => allowed(untabbed(*tabs, units)),
        Verb::Pad(pad) => padded(pad, guard, units),
        Verb::Number(number) => numbered(number, guard, units),
        Verb::JoinLines(join) => joined(join, guard, units),
        Verb::BreakLines(breaks) => broken_up(breaks, guard, units, first_line_end),
        Verb::WrapLines(wrap) => wrapped(wrap.width.get(), guard, units, first_line_end),
    }
}

/// The matches of a search, after `except` and `which`.
fn chosen(search: &Search, which: Which, guard: &Guard, units: &Units) -> Vec<Found> {
    let mut found = find(search, units);
    found.retain(|found| guard.allows(found.start, found.end));
    let line_of = |found: &Found| line_with(units, found.start).0;
    let keep = |index: usize| {
        let same_line: Vec<usize> =
            (0..found.len()).filter(|other| line_of(&found[*other]) == line_of(&found[index])).collect();
        match which {
            Which::All => true,
            Which::First => same_line.first() == Some(&index),
            Which::Last => same_line.last() == Some(&index),
            Which::Nth(nth) => same_line.get(nth.get() - 1) == Some(&index),
        }
    };
    (0..found.len()).filter(|index| keep(*index)).map(|index| found[index].clone()).collect()
}

/// Start and end of the line that unit `at` is on, its line end included. At the end of the text: the last line.
fn line_with(units: &Units, at: usize) -> (usize, usize) {
    let all = lines(units);
    all.iter().copied().find(|(start, end)| (*start..*end).contains(&at)).unwrap_or_else(|| all[all.len() - 1])
}

fn content_end(units: &Units, line: (usize, usize)) -> usize {
    if line.1 > line.0 && units[line.1 - 1].line_end().is_some() { line.1 - 1 } else { line.1 }
}

fn is_empty(units: &Units, line: (usize, usize)) -> bool {
    units[line.0..content_end(units, line)].iter().all(|unit| unit.is_blank())
}

fn holds(found: &[Found], units: &Units, line: (usize, usize)) -> bool {
    // A match that reaches over line ends is held by each of its lines; an empty one by the line it stands on.
    let touches = |found: &Found| {
        if found.start == found.end {
            line_with(units, found.start) == line
        } else {
            found.start < line.1 && found.end > line.0
        }
    };
    found.iter().any(touches)
}

fn without_lines(units: &Units, guard: &Guard, drop: impl Fn((usize, usize)) -> bool) -> Vec<Edit> {
    let goes = |line: &(usize, usize)| drop(*line) && guard.allows_line(*line);
    lines(units).into_iter().filter(goes).map(|(start, end)| Edit::remove(start, end)).collect()
}

fn put_for(replace: &Replace, found: &Found, units: &Units) -> Vec<u8> {
    let pairs = match &replace.with {
        Replacement::Template(template) => return expand(template, found),
        Replacement::Pairs(pairs) => pairs,
    };
    let ignore = replace.search.case == Case::Ignore;
    let is = |from: &str| {
        find::entry_end(&to_units(from.as_bytes()), units, 0, ignore, pairs.whole_words) == Some(units.len())
    };
    let to = pairs.list.iter().find(|(from, _)| is(from)).map(|(_, to)| to.clone()).unwrap();
    let letters: Vec<char> =
        units.iter().filter_map(|unit| unit.character()).filter(|c| c.is_uppercase() || c.is_lowercase()).collect();
    let capital = letters.first().is_some_and(|first| first.is_uppercase());
    match (pairs.follow_case && capital, letters.len() > 1 && letters.iter().all(|letter| letter.is_uppercase())) {
        (true, true) => to.to_uppercase(),
        (true, false) => to.chars().take(1).flat_map(char::to_uppercase).chain(to.chars().skip(1)).collect(),
        (false, _) => to,
    }
    .into_bytes()
}

fn expand(template: &Template, found: &Found) -> Vec<u8> {
    let part = |part: &Part| match part {
        Part::Literal(literal) => literal.clone().into_bytes(),
        Part::Group(group) => found.groups[*group].clone().unwrap_or_default(),
    };
    template.parts().iter().flat_map(part).collect()
}

fn trimmed(trim: Trim, units: &Units) -> Vec<Edit> {
    let goes = |unit: &Unit| match trim.class {
        TrimClass::Blank => unit.is_blank(),
        TrimClass::Whitespace => unit.character().is_some_and(char::is_whitespace),
    };
    let mut edits = Vec::new();
    for line in lines(units) {
        let content = &units[line.0..content_end(units, line)];
        let left = if trim.at == TrimAt::End { 0 } else { content.iter().take_while(|unit| goes(unit)).count() };
        let rest = &content[left..];
        let right = if trim.at == TrimAt::Start { 0 } else { rest.iter().rev().take_while(|unit| goes(unit)).count() };
        edits.push(Edit::remove(line.0, line.0 + left));
        edits.push(Edit::remove(line.0 + content.len() - right, line.0 + content.len()));
    }
    edits
}

/// Every edit of a line but the kept stretches; a line is one change.
fn kept(keep: &Keep, guard: &Guard, units: &Units) -> Vec<Edit> {
    let in_runs = matches!(keep.search.target, Target::Chars(_));
    let mut stretches: Vec<(usize, usize)> = Vec::new();
    for found in chosen(&keep.search, keep.which, guard, units) {
        let place = if keep.group == 0 { Some((found.start, found.end)) } else { found.group_places[keep.group] };
        match (place.filter(|place| place.0 < place.1), stretches.last_mut()) {
            (Some((start, end)), Some(last)) if in_runs && last.1 == start => last.1 = end,
            (Some(place), _) => stretches.push(place),
            (None, _) => {}
        }
    }
    let mut edits = Vec::new();
    for line in lines(units).into_iter().filter(|line| guard.in_scope(line.0, line.1)) {
        let end = content_end(units, line);
        let mut inside: Vec<(usize, usize)> =
            stretches.iter().copied().filter(|place| place.0 >= line.0 && place.1 <= end).collect();
        inside.extend(cores_of(guard, units, line));
        inside.sort_unstable();
        let mut of_line = Vec::new();
        if inside.is_empty() {
            match keep.unmatched {
                Unmatched::Empty => of_line.push(Edit::remove(line.0, end)),
                Unmatched::Drop if !guard.has_core(line) => of_line.push(Edit::remove(line.0, line.1)),
                Unmatched::Drop | Unmatched::Leave => {}
            }
        }
        let mut from = line.0;
        for (index, (start, stop)) in inside.iter().enumerate() {
            let put = if index == 0 { Vec::new() } else { keep.joined_with.clone().into_bytes() };
            of_line.push(Edit { start: from, end: *start, put, matches: 1 });
            from = *stop;
        }
        if !inside.is_empty() {
            of_line.push(Edit::remove(from, end));
        }
        let first = of_line.iter().position(|edit| edit.changes(units));
        of_line.iter_mut().enumerate().for_each(|(index, edit)| edit.matches = u64::from(Some(index) == first));
        edits.extend(of_line);
    }
    edits
}

fn collapsed(collapse: &Collapse, guard: &Guard, units: &Units) -> Vec<Edit> {
    let all = find(&Search { at: At::Anywhere, ..collapse.search.clone() }, units);
    let mut runs: Vec<Vec<Found>> = Vec::new();
    for found in all {
        let same = |last: &Found| units[last.start..last.end] == units[found.start..found.end];
        match runs.last_mut() {
            Some(run) if run[run.len() - 1].end == found.start && (collapse.with.is_some() || same(&run[0])) => {
                run.push(found);
            }
            _ => runs.push(vec![found]),
        }
    }
    let starts = |run: &[Found]| at_line_start(units, blanks_before(units, run[0].start));
    let ends = |run: &[Found]| {
        let end = run[run.len() - 1].end;
        units[end - 1].line_end().is_some() || at_line_end(units, blanks_after(units, end))
    };
    runs.retain(|run| match collapse.search.at {
        At::Anywhere => true,
        At::Start => starts(run),
        At::End => ends(run),
        At::Edges => starts(run) || ends(run),
        At::WholeLine => starts(run) && ends(run),
    });
    runs.retain(|run| guard.allows(run[0].start, run[run.len() - 1].end));
    let line_of = |run: &[Found]| line_with(units, run[0].start).0;
    let mut edits = Vec::new();
    for run in &runs {
        let same_line: Vec<&Vec<Found>> = runs.iter().filter(|other| line_of(other) == line_of(run)).collect();
        let is = |other: Option<&&Vec<Found>>| other.is_some_and(|other| other[0].start == run[0].start);
        let taken = match collapse.which {
            Which::All => true,
            Which::First => is(same_line.first()),
            Which::Last => is(same_line.last()),
            Which::Nth(nth) => is(same_line.get(nth.get() - 1)),
        };
        let end = run[run.len() - 1].end;
        match &collapse.with {
            Some(with) if taken => {
                edits.push(Edit { start: run[0].start, end, put: with.clone().into_bytes(), matches: 1 });
            }
            None if taken => edits.push(Edit { start: run[0].end, end, put: Vec::new(), matches: 1 }),
            _ => {}
        }
    }
    edits
}

fn recased(recase: &Recase, guard: &Guard, units: &Units) -> Vec<Edit> {
    let one = |start: usize, end: usize, edits: &mut Vec<Edit>, together: bool| {
        let mut puts = Vec::new();
        let mut sentence = true;
        for at in start..end {
            puts.push(recased_unit(recase, units, at, &mut sentence));
        }
        if together {
            edits.push(Edit { start, end, put: puts.concat(), matches: 1 });
        } else {
            edits.extend(puts.into_iter().enumerate().map(|(index, put)| Edit {
                start: start + index,
                end: start + index + 1,
                put,
                matches: 1,
            }));
        }
    };
    let mut edits = Vec::new();
    match &recase.within {
        None => {
            lines(units).into_iter().for_each(|line| one(line.0, content_end(units, line), &mut edits, false));
            edits.retain(|edit| guard.allows(edit.start, edit.end));
        }
        Some((search, which)) => {
            chosen(search, *which, guard, units).iter().for_each(|found| one(found.start, found.end, &mut edits, true));
        }
    }
    edits
}

fn recased_unit(recase: &Recase, units: &Units, at: usize, sentence: &mut bool) -> Vec<u8> {
    let Some(character) = units[at].character() else { return to_bytes(&units[at..=at]) };
    let letter = |at: usize| units.get(at).and_then(|unit| unit.character()).is_some_and(char::is_alphabetic);
    let lower = || match character {
        _ if recase.keeps_rest => character.to_string(),
        'Σ' if at > 0 && letter(at - 1) && !letter(at + 1) => "ς".to_owned(),
        _ => character.to_lowercase().to_string(),
    };
    // Of what the tests use, only these have a title case of their own.
    let title = || match character {
        'ß' => "Ss".to_owned(),
        'ǆ' => "ǅ".to_owned(),
        'ﬁ' => "Fi".to_owned(),
        _ => character.to_uppercase().to_string(),
    };
    let word = find::is_word(character);
    let recased = match recase.to {
        LetterCase::Upper => character.to_uppercase().to_string(),
        LetterCase::Title if word && !find::in_one_word(units, at, Hyphen::Parts) => title(),
        LetterCase::Lower | LetterCase::Title => lower(),
        LetterCase::Sentence => {
            let first = word && *sentence;
            *sentence = (*sentence && !word) || stock::closes_sentence(units, at);
            if first { title() } else { lower() }
        }
    };
    recased.into_bytes()
}

/// The whole text at once says what the result is; the parts only say how many places that is.
fn normalized(form: NormalForm, units: &Units) -> Vec<Edit> {
    let normal = |text: &str| -> String {
        match form {
            NormalForm::Nfc => text.nfc().collect(),
            NormalForm::Nfd => text.nfd().collect(),
            NormalForm::Nfkc => text.nfkc().collect(),
            NormalForm::Nfkd => text.nfkd().collect(),
        }
    };
    let text = |from: usize, to: usize| String::from_utf8(to_bytes(&units[from..to])).unwrap();
    // Behind letters and syllables, a character that begins a part stays apart from them, and no mark moves over it.
    let begins = |at: usize| {
        let character = text(at, at + 1);
        let starter = canonical_combining_class(character.nfkd().next().unwrap()) == 0;
        starter
            && ["a", "\u{1100}", "\u{1100}\u{1161}"]
                .iter()
                .all(|before| normal(&format!("{before}{character}")) == normal(before) + &normal(&character))
    };
    let mut edits: Vec<Edit> = Vec::new();
    let is_text = |at: usize| units.get(at).is_some_and(|unit| unit.character().is_some());
    let mut start = 0;
    while start < units.len() {
        let end = (start + 1..units.len()).find(|at| !is_text(*at) || begins(*at)).unwrap_or(units.len());
        if is_text(start) {
            edits.push(Edit { start, end, put: normal(&text(start, end)).into_bytes(), matches: 1 });
            start = end;
        } else {
            start += 1;
        }
    }
    for stretch in units.split(|unit| unit.character().is_none()) {
        let whole = normal(&String::from_utf8(to_bytes(stretch)).unwrap());
        let put: Vec<u8> = edits.iter().flat_map(|edit| edit.put.clone()).collect();
        assert!(
            put.windows(whole.len().max(1)).any(|part| part == whole.as_bytes()) || whole.is_empty(),
            "{form:?} {whole}"
        );
    }
    edits
}

fn plain_letters(units: &Units) -> Vec<Edit> {
    let mut edits = Vec::new();
    let mut after_latin = false;
    for (at, unit) in units.iter().enumerate() {
        let Some(character) = unit.character() else {
            after_latin = false;
            continue;
        };
        if after_latin && find::is_mark(character) {
            edits.push(Edit::remove(at, at + 1));
            continue;
        }
        let base = character.nfd().next().unwrap();
        after_latin = find::is_latin(base);
        let plain = match base {
            'ß' => "ss".to_owned(),
            'ẞ' => "SS".to_owned(),
            'ø' => "o".to_owned(),
            'Ø' => "O".to_owned(),
            'æ' => "ae".to_owned(),
            'Æ' => "AE".to_owned(),
            'Ł' => "L".to_owned(),
            _ => base.to_string(),
        };
        if after_latin {
            edits.push(Edit { start: at, end: at + 1, put: plain.into_bytes(), matches: 1 });
        }
    }
    edits
}

fn repeated(repeats: DropRepeats, guard: &Guard, units: &Units) -> Vec<Edit> {
    let all = lines(units);
    let compared = |line: (usize, usize)| {
        let mut content = &units[line.0..content_end(units, line)];
        if repeats.ignore_edges {
            let left = blanks_after(content, 0);
            content = &content[left..];
            content = &content[..blanks_before(content, content.len())];
        }
        content.to_vec()
    };
    let alike = |one: usize, other: usize| {
        let (one, other) = (compared(all[one]), compared(all[other]));
        let same = |(one, other): (&Unit, &Unit)| match (one, other) {
            (Unit::Char(one), Unit::Char(other)) => find::same(*one, *other, repeats.case == Case::Ignore),
            _ => one == other,
        };
        one.len() == other.len() && one.iter().zip(&other).all(same)
    };
    let is_repeat = |index: usize| match repeats.scope {
        RepeatScope::Neighbours => index > 0 && alike(index - 1, index),
        RepeatScope::File => (0..index).any(|before| alike(before, index)),
    };
    let goes = |index: &usize| is_repeat(*index) && guard.allows_line(all[*index]);
    (0..all.len()).filter(goes).map(|index| Edit::remove(all[index].0, all[index].1)).collect()
}

fn line_ends(ends: LineEnds, units: &Units, first_line_end: Option<LineEnd>) -> Vec<Edit> {
    let closing = units.iter().rev().take_while(|unit| unit.line_end().is_some()).count();
    let body = if ends.at_end.is_some() { units.len() - closing } else { units.len() };
    let mut edits = Vec::new();
    if let Some(to) = ends.to {
        let places = (0..body).filter(|at| units[*at].line_end().is_some());
        edits.extend(places.map(|at| Edit { start: at, end: at + 1, put: to.as_bytes().to_vec(), matches: 1 }));
    }
    let first = units.get(body).and_then(|unit| unit.line_end());
    let one = ends.to.or(first).or(first_line_end).unwrap_or(LineEnd::Lf).as_bytes().to_vec();
    let put = match ends.at_end {
        Some(FinalLineEnd::One) if body > 0 => Some(one),
        Some(_) => Some(Vec::new()),
        None => None,
    };
    edits.extend(put.map(|put| Edit { start: body, end: units.len(), put, matches: 1 }));
    edits
}

fn untabbed(tabs: Tabs, units: &Units) -> Vec<Edit> {
    let mut edits = Vec::new();
    for line in lines(units) {
        let mut column = 0;
        for (at, unit) in units.iter().enumerate().take(line.1).skip(line.0) {
            let width = match *unit {
                Unit::Char('\t') => tabs.width - column % tabs.width,
                Unit::Char(character) => character.width().unwrap_or(0),
                _ => 1,
            };
            if *unit == Unit::Char('\t') {
                edits.push(Edit { start: at, end: at + 1, put: vec![b' '; width], matches: 1 });
            }
            column += width;
        }
    }
    edits
}

/// The numbers between two places: runs of digits, none after a decimal point.
fn numbers_in(units: &Units, start: usize, end: usize) -> Vec<(usize, usize)> {
    let digit = |at: usize| units.get(at).and_then(|unit| unit.character()).is_some_and(|c| c.is_ascii_digit());
    let point = |at: usize| matches!(units[at], Unit::Char('.' | ','));
    let starts = (start..end).filter(|at| digit(*at) && (*at == start || !digit(at - 1)));
    let whole = starts.filter(|at| *at < 2 || !(point(at - 1) && digit(at - 2)));
    whole.map(|at| (at, (at..end).find(|to| !digit(*to)).unwrap_or(end))).collect()
}

fn padded(pad: &Pad, guard: &Guard, units: &Units) -> Vec<Edit> {
    let put = |start: usize, end: usize| {
        let mut put = Vec::new();
        let mut from = start;
        for (first, last) in numbers_in(units, start, end) {
            put.extend(to_bytes(&units[from..first]));
            put.extend("0".repeat(pad.width.saturating_sub(last - first)).bytes());
            put.extend(to_bytes(&units[first..last]));
            from = last;
        }
        put.extend(to_bytes(&units[from..end]));
        Edit { start, end, put, matches: 1 }
    };
    if let Some(search) = &pad.within {
        return chosen(search, pad.which, guard, units).iter().map(|found| put(found.start, found.end)).collect();
    }
    let mut edits = Vec::new();
    for line in lines(units) {
        let mut all = numbers_in(units, line.0, content_end(units, line));
        all.retain(|(start, end)| guard.allows(*start, *end));
        let taken = match pad.which {
            Which::All => 0..all.len(),
            Which::First => 0..all.len().min(1),
            Which::Last => all.len().saturating_sub(1)..all.len(),
            Which::Nth(nth) => (nth.get() - 1).min(all.len())..nth.get().min(all.len()),
        };
        edits.extend(all[taken].iter().map(|(start, end)| put(*start, *end)));
    }
    edits
}

fn numbered(number: &Number, guard: &Guard, units: &Units) -> Vec<Edit> {
    let value = |index: usize| {
        let value = (number.start + number.step * index as u64).to_string();
        "0".repeat(number.width.saturating_sub(value.len())) + &value
    };
    if let Some((search, which)) = &number.instead_of {
        let found = chosen(search, *which, guard, units).into_iter().enumerate();
        let put = |(index, found): (usize, Found)| Edit {
            start: found.start,
            end: found.end,
            put: value(index).into_bytes(),
            matches: 1,
        };
        return found.map(put).collect();
    }
    let places = lines(units).into_iter().filter(|line| line.0 < line.1).map(|line| match number.place {
        NumberPlace::Start => line.0,
        NumberPlace::End => content_end(units, line),
    });
    let allowed = places.filter(|at| guard.allows(*at, *at)).enumerate();
    let put = |(index, at): (usize, usize)| Edit {
        start: at,
        end: at,
        put: match number.place {
            NumberPlace::Start => value(index) + &number.joined_with,
            NumberPlace::End => number.joined_with.clone() + &value(index),
        }
        .into_bytes(),
        matches: 1,
    };
    allowed.map(put).collect()
}

/// Joints are runs of blanks and line ends with at least one line end.
fn joined(join: &JoinLines, guard: &Guard, units: &Units) -> Vec<Edit> {
    let body_end = match join.paragraphs {
        Paragraphs::Keep => units.len(),
        Paragraphs::Join => units.len() - usize::from(units.last().is_some_and(|unit| unit.line_end().is_some())),
    };
    let body = &units[..body_end];
    let in_run = |unit: &Unit| unit.is_blank() || unit.line_end().is_some();
    let mut edits = Vec::new();
    let mut at = 0;
    while at < body.len() {
        let end = at + body[at..].iter().take_while(|unit| in_run(unit)).count();
        let line_ends = body[at..end].iter().filter(|unit| unit.line_end().is_some()).count();
        let at_edge = at == 0 || end == body.len();
        let is_joint = match join.paragraphs {
            Paragraphs::Keep => line_ends == 1 && !at_edge,
            Paragraphs::Join => line_ends > 0,
        };
        let both_in_scope = guard.in_scope(at, (end + 1).min(units.len()));
        if is_joint && at_edge {
            edits.push(Edit::remove(at, end));
        } else if is_joint && !both_in_scope {
            // it joins lines that are not both in scope
        } else if is_joint && join.hyphens == HyphenAtLineEnd::Rejoin && rejoins(body, at, end) {
            edits.push(Edit::remove(at - 1, end));
        } else if is_joint {
            edits.push(Edit { start: at, end, put: join.with.clone().into_bytes(), matches: 1 });
        }
        at = end.max(at + 1);
    }
    edits.retain(|edit| guard.allows(edit.start, edit.end));
    edits
}

fn rejoins(body: &Units, start: usize, end: usize) -> bool {
    let character = |at: usize| body.get(at).and_then(|unit| unit.character());
    start >= 2
        && character(start - 1).is_some_and(|hyphen| matches!(hyphen, '-' | '\u{2010}' | '\u{AD}'))
        && character(start - 2).is_some_and(find::is_letter)
        && character(end).is_some_and(find::is_lower)
}

fn broken_up(breaks: &BreakLines, guard: &Guard, units: &Units, first_line_end: Option<LineEnd>) -> Vec<Edit> {
    let is = |at: usize, marks: &str| units[at].character().is_some_and(|mark| marks.contains(mark));
    let mut edits: Vec<Edit> = Vec::new();
    for found in chosen(&breaks.search, breaks.which, guard, units) {
        let line = line_with(units, found.start);
        let (line_start, line_end) = (line.0, content_end(units, line));
        let (start, end) = match breaks.place {
            BreakPlace::After => {
                let marks = (found.end..line_end).take_while(|at| is(*at, "\"'”’»›«“)]}")).count();
                let start = found.end + marks;
                (start, start + (start..line_end).take_while(|at| units[*at].is_blank()).count())
            }
            BreakPlace::Before => {
                let marks = (line_start..found.start).rev().take_while(|at| is(*at, "\"'“‘„‚«‹»([{")).count();
                let end = found.start - marks;
                (end - (line_start..end).rev().take_while(|at| units[*at].is_blank()).count(), end)
            }
        };
        let makes_empty_line = blanks_after(units, end) == line_end || blanks_before(units, start) == line_start;
        let last_break = edits.last().map_or(0, |edit| edit.end);
        let needless = start == end && (!breaks.tight || end == last_break);
        if makes_empty_line || start < last_break || needless || !guard.allows(start, end) {
            continue;
        }
        let own = units[line.0..line.1].last().and_then(|unit| unit.line_end());
        let put = own.or(first_line_end).unwrap_or(LineEnd::Lf).as_bytes().to_vec();
        edits.push(Edit { start, end, put, matches: 1 });
    }
    edits
}

/// Each line is cut at the last of its gaps that leaves what is before it narrow enough, as long as the rest is too wide; at
/// the first gap, if none does.
fn wrapped(most: usize, guard: &Guard, units: &Units, first_line_end: Option<LineEnd>) -> Vec<Edit> {
    let mut edits = Vec::new();
    for line in lines(units) {
        let own = units[line.0..line.1].last().and_then(|unit| unit.line_end());
        let put = own.or(first_line_end).unwrap_or(LineEnd::Lf).as_bytes().to_vec();
        let last_word_end = blanks_before(units, content_end(units, line));
        let mut start = line.0;
        while columns(&units[start..last_word_end.max(start)]) > most {
            let gaps = (blanks_after(units, start)..last_word_end)
                .filter(|at| units[*at].is_blank() && !units[at - 1].is_blank())
                .map(|at| (at, blanks_after(units, at)))
                .filter(|gap| guard.allows(gap.0, gap.1));
            let gaps: Vec<(usize, usize)> = gaps.collect();
            let narrow = gaps.iter().rev().find(|gap| columns(&units[start..gap.0]) <= most);
            let Some((gap_start, gap_end)) = narrow.or(gaps.first()).copied() else { break };
            edits.push(Edit { start: gap_start, end: gap_end, put: put.clone(), matches: 1 });
            start = gap_end;
        }
    }
    edits
}

/// How wide a text is that starts at a line start, with tab stops eight columns apart.
fn columns(units: &Units) -> usize {
    let mut shown = String::new();
    for unit in units {
        match unit.character() {
            Some('\t') => shown.extend(vec![' '; 8 - shown.width() % 8]),
            Some(character) => shown.push(character),
            None => shown.push('?'),
        }
    }
    shown.width()
}

fn remove_closing(units: &Units, guard: &Guard, matches: &[Found], gap: Gap) -> Vec<Edit> {
    let mut stretches: Vec<Edit> = Vec::new();
    for found in matches.iter().filter(|found| found.start < found.end) {
        let only_blanks = |from: usize| {
            units[from..found.start].iter().all(|unit| unit.is_blank()) && guard.is_free(from, found.start)
        };
        match stretches.last_mut() {
            Some(last) if gap != Gap::Leave && only_blanks(last.end) => {
                last.end = found.end;
                last.matches += 1;
            }
            _ => stretches.push(Edit::remove(found.start, found.end)),
        }
        // What goes with the stretch counts as removed before the next one is looked at.
        if let (Gap::Mend, Some(last)) = (gap, stretches.last_mut()) {
            let more_to_come = matches.iter().any(|next| {
                next.start >= last.end
                    && next.start < next.end
                    && units[last.end..next.start].iter().all(|unit| unit.is_blank())
                    && guard.is_free(last.end, next.start)
            });
            if !more_to_come {
                let end = with_idle_comma(units, last.start, last.end);
                if guard.is_free(last.end, end) {
                    last.end = end;
                }
            }
        }
    }
    if gap != Gap::Leave {
        for stretch in &mut stretches {
            let (start, end) = (stretch.start, stretch.end);
            close(units, stretch);
            while !guard.is_free(stretch.start, start) && stretch.start < start {
                stretch.start += 1;
            }
            while !guard.is_free(end, stretch.end) && end < stretch.end {
                stretch.end -= 1;
            }
        }
    }
    stretches
}

fn blanks_before(units: &Units, at: usize) -> usize {
    at - units[..at].iter().rev().take_while(|unit| unit.is_blank()).count()
}

fn blanks_after(units: &Units, at: usize) -> usize {
    at + units[at..].iter().take_while(|unit| unit.is_blank()).count()
}

fn at_line_start(units: &Units, at: usize) -> bool {
    at == 0 || units[at - 1].line_end().is_some()
}

fn at_line_end(units: &Units, at: usize) -> bool {
    units.get(at).is_none_or(|unit| unit.line_end().is_some())
}

fn with_idle_comma(units: &Units, start: usize, end: usize) -> usize {
    let comma = blanks_after(units, end);
    let before = blanks_before(units, start);
    let is = |at: usize, marks: &str| {
        units.get(at).and_then(|unit| unit.character()).is_some_and(|mark| marks.contains(mark))
    };
    let idle = at_line_start(units, before) || is(before - 1, ".,;:!?([");
    if is(comma, ",;") && idle { comma + 1 } else { end }
}

fn close(units: &Units, stretch: &mut Edit) {
    let (left, right) = (blanks_before(units, stretch.start), blanks_after(units, stretch.end));
    let is = |at: usize, marks: &str| units[at].character().is_some_and(|mark| marks.contains(mark));
    if at_line_end(units, right) {
        (stretch.start, stretch.end) = (left, right);
    } else if at_line_start(units, left) {
        stretch.end = right;
    } else if is(right, ".,;:!?)]}") {
        (stretch.start, stretch.end) = (left, right);
    } else if is(left - 1, "([{") || (left < stretch.start && stretch.end < right) {
        stretch.end = right;
    }
}
