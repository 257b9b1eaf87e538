//! Stretches whose words, numbers and fields are put together in another way: `(\d+)\.(\d+)\.(\d+)` becomes `$3-$2-$1`.

use std::collections::HashSet;
use std::ops::Range;

use super::offer::{Offer, Target, quoted};
use crate::learn::pattern::{Detail, Pattern, class_of, is_one_shape, size, token_pattern};
use crate::learn::token::{Kind, Token, tokens};
use crate::learn::view::View;

/// A stretch, and what becomes of it.
struct Sample<'v> {
    before: &'v [char],
    after: Vec<char>,
}

/// A part of what is put: a part of the stretch, by its number, or a text.
#[derive(Clone, Debug, PartialEq, Eq)]
enum Part {
    Copy(usize),
    Text(String),
}

/// The most ways of putting one result together that are tried.
const MOST_WAYS: usize = 24;

/// The most edits of a line that one template makes.
const MOST_EDITS: usize = 8;

pub(super) fn offers(view: &View) -> Vec<Offer> {
    let mut offers = Vec::new();
    let mut seen = HashSet::new();
    for choice in choices(view) {
        let Choice { samples, starts, ends } = choice;
        let key: Vec<(Vec<char>, Vec<char>)> =
            samples.iter().map(|sample| (sample.before.to_vec(), sample.after.clone())).collect();
        if samples.is_empty() || !seen.insert((key, starts, ends)) {
            continue;
        }
        of_tokens(&samples, starts, ends, view.is_of_names, &mut offers);
        of_fields(&samples, starts, ends, view.is_of_names, &mut offers);
        if starts && ends {
            of_affixes(&samples, &mut offers);
        }
    }
    offers
}

/// Stretches of different lines that one template may make, and whether all are at the start or end of their lines.
struct Choice<'v> {
    samples: Vec<Sample<'v>>,
    starts: bool,
    ends: bool,
}

/// Whole lines; and of each line so many edits, counted from the start or from the end.
fn choices(view: &View) -> Vec<Choice<'_>> {
    let mut choices = Vec::new();
    let whole =
        view.changed().map(|(_, line)| Sample { before: &line.before, after: line.after.clone().unwrap_or_default() });
    choices.push(Choice { samples: whole.collect(), starts: true, ends: true });
    let most = view.changed().map(|(_, line)| line.edits.len()).max().unwrap_or(0).min(MOST_EDITS);
    for from_end in [false, true] {
        for skipped in 0..most.min(3) {
            for taken in 1..=most {
                let mut choice = Choice { samples: Vec::new(), starts: true, ends: true };
                for (_, line) in view.changed() {
                    let edits = line.edits.len();
                    if skipped + taken > edits {
                        continue;
                    }
                    let first = if from_end { edits - skipped - taken } else { skipped };
                    let edits = &line.edits[first..first + taken];
                    // Not into what other edits take.
                    let from = line.edits[..first].last().map_or(0, |edit| edit.taken.end);
                    let to = line.edits.get(first + taken).map_or(line.before.len(), |edit| edit.taken.start);
                    let widened = line.widened(edits[0].taken.start..edits[taken - 1].taken.end);
                    let stretch = widened.start.max(from)..widened.end.min(to);
                    let after = line.after.as_deref().unwrap_or_default();
                    let put = edits[0].put.start - (edits[0].taken.start - stretch.start)
                        ..edits[taken - 1].put.end + (stretch.end - edits[taken - 1].taken.end);
                    choice.starts &= stretch.start == 0;
                    choice.ends &= stretch.end == line.before.len();
                    choice.samples.push(Sample { before: &line.before[stretch], after: after[put].to_vec() });
                }
                choices.push(choice);
            }
        }
    }
    choices
}

/// Templates of stretches whose tokens are of the same kinds.
fn of_tokens(samples: &[Sample<'_>], starts: bool, ends: bool, is_of_names: bool, offers: &mut Vec<Offer>) {
    let cut: Vec<Vec<Token>> = samples.iter().map(|sample| tokens(sample.before)).collect();
    if cut[0].is_empty() || cut[0].len() > 24 || !is_one_shape(&cut) {
        return;
    }
    for split in [true, false] {
        let cut: Vec<Vec<Token>> = if split {
            match split_numbers(samples, &cut) {
                Some(cut) => cut,
                None => continue,
            }
        } else {
            cut.clone()
        };
        let parts: Vec<Vec<&[char]>> = samples
            .iter()
            .zip(&cut)
            .map(|(sample, tokens)| tokens.iter().map(|token| &sample.before[token.range.clone()]).collect())
            .collect();
        let ways = ways(samples, &parts);
        let details: &[Detail] = if split { &[Detail::Lengths] } else { &Detail::ALL };
        for way in ways {
            for detail in details {
                let patterns: Vec<Pattern> = (0..cut[0].len())
                    .map(|at| {
                        let texts: Vec<&[char]> = parts.iter().map(|parts| parts[at]).collect();
                        token_pattern(cut[0][at].kind, &texts, *detail, samples.len() > 1)
                    })
                    .collect();
                offers.extend(template(&parts, &patterns, &way, starts, ends, is_of_names));
                // A word at the edge of the line may as well be several.
                if starts && ends && !split {
                    let mut open = patterns.clone();
                    let last = open.len() - 1;
                    for at in [0, last] {
                        if cut[0][at].kind == Kind::Letters && *detail == Detail::Words {
                            open[at] = Pattern::new(".+", 5);
                        }
                    }
                    if last > 0 && open != patterns {
                        offers.extend(template(&parts, &open, &way, true, true, false));
                    }
                }
            }
        }
    }
}

/// The same tokens, where numbers whose digits part ways are as many tokens. `None` if there is no such number.
fn split_numbers(samples: &[Sample<'_>], cut: &[Vec<Token>]) -> Option<Vec<Vec<Token>>> {
    let after = tokens(&samples[0].after);
    let numbers: Vec<&[char]> = after
        .iter()
        .filter(|token| token.kind == Kind::Digits)
        .map(|token| &samples[0].after[token.range.clone()])
        .collect();
    let mut split = vec![Vec::new(); cut.len()];
    let mut any = false;
    for at in 0..cut[0].len() {
        let token = &cut[0][at];
        let text = &samples[0].before[token.range.clone()];
        let lengths = if token.kind == Kind::Digits { lengths(text, &numbers) } else { None };
        let lengths = lengths.filter(|_| cut.iter().all(|tokens| tokens[at].range.len() == token.range.len()));
        any |= lengths.is_some();
        for (tokens, split) in cut.iter().zip(&mut split) {
            let token = &tokens[at];
            match &lengths {
                None => split.push(token.clone()),
                Some(lengths) => {
                    let mut start = token.range.start;
                    for length in lengths {
                        split.push(Token { kind: Kind::Digits, range: start..start + length });
                        start += length;
                    }
                }
            }
        }
    }
    any.then_some(split)
}

/// The lengths of numbers, in any order, that make this one when they stand one after the other.
fn lengths(text: &[char], numbers: &[&[char]]) -> Option<Vec<usize>> {
    fn rest(text: &[char], numbers: &[&[char]], taken: &mut Vec<usize>, found: &mut Vec<usize>) -> bool {
        if text.is_empty() {
            return taken.len() > 1;
        }
        for (at, number) in numbers.iter().enumerate() {
            if !taken.contains(&at) && text.starts_with(number) {
                taken.push(at);
                found.push(number.len());
                if rest(&text[number.len()..], numbers, taken, found) {
                    return true;
                }
                taken.pop();
                found.pop();
            }
        }
        false
    }
    let mut found = Vec::new();
    rest(text, numbers, &mut Vec::new(), &mut found).then_some(found)
}

/// Templates of stretches that are parted by the same marks: fields, each of any kind.
fn of_fields(samples: &[Sample<'_>], starts: bool, ends: bool, is_of_names: bool, offers: &mut Vec<Offer>) {
    if !(starts && ends) {
        return;
    }
    let cut: Vec<Vec<Token>> = samples.iter().map(|sample| tokens(sample.before)).collect();
    let delimiters = |sample: &Sample<'_>, tokens: &[Token]| -> Vec<(Kind, String)> {
        let marks = tokens.iter().filter(|token| matches!(token.kind, Kind::Marks(_)));
        marks.map(|token| (token.kind, sample.before[token.range.clone()].iter().collect())).collect()
    };
    let marks = delimiters(&samples[0], &cut[0]);
    let has_blank = |sample: &Sample<'_>| sample.before.iter().filter(|character| **character == ' ').count() == 1;
    let by_blank = marks.is_empty() && samples.iter().all(has_blank);
    if marks.len() > 6 || (marks.is_empty() && !by_blank) {
        return;
    }
    if samples.iter().zip(&cut).any(|(sample, tokens)| delimiters(sample, tokens) != marks) {
        return;
    }
    // A delimiter has the blanks around it, where all samples have them.
    let fields: Vec<Vec<Range<usize>>> = samples
        .iter()
        .zip(&cut)
        .map(|(sample, tokens)| {
            let is_mark = |kind: Kind| matches!(kind, Kind::Marks(_)) || (by_blank && kind == Kind::Blanks);
            let mut ranges = Vec::new();
            let mut start = 0;
            for token in tokens.iter().filter(|token| is_mark(token.kind)) {
                let blank_before = token.range.start - trailing_blanks(&sample.before[start..token.range.start]);
                let blank_after = token.range.end + leading_blanks(&sample.before[token.range.end..]);
                ranges.extend([start..blank_before, blank_before..blank_after]);
                start = blank_after;
            }
            ranges.push(start..sample.before.len());
            ranges
        })
        .collect();
    if fields.iter().any(|ranges| ranges.iter().any(|range| range.start > range.end)) {
        return;
    }
    let parts: Vec<Vec<&[char]>> = samples
        .iter()
        .zip(&fields)
        .map(|(sample, ranges)| ranges.iter().map(|range| &sample.before[range.clone()]).collect())
        .collect();
    let count = parts[0].len();
    if parts.iter().any(|parts| parts.len() != count) {
        return;
    }
    let mut patterns = Vec::new();
    for at in 0..count {
        let texts: Vec<&[char]> = parts.iter().map(|parts| parts[at]).collect();
        if at % 2 == 1 {
            let first = texts[0];
            let Some(mark) = first.iter().find(|character| **character != ' ').or(first.first()) else { return };
            let is_same = texts.iter().all(|text| *text == first);
            patterns.push(if is_same {
                Pattern::literal(first, true)
            } else {
                Pattern::literal(&[*mark], true).between(" *", " *", 4)
            });
            continue;
        }
        let is_number =
            texts.iter().all(|text| !text.is_empty() && text.iter().all(|one| Kind::of(*one) == Kind::Digits));
        let next =
            parts[0].get(at + 1).and_then(|delimiter| delimiter.iter().find(|one| **one != ' ').or(delimiter.first()));
        let has_empty = texts.iter().any(|text| text.is_empty());
        patterns.push(match next {
            _ if is_number => Pattern::new(r"\d+", 4),
            None if has_empty => Pattern::new(".*", 6),
            None => Pattern::new(".+", 5),
            Some(mark) => {
                let Some(class) = class_of(&[*mark]) else { return };
                let inside = class.source.trim_matches(['[', ']']).to_owned();
                Pattern::new(format!("[^{inside}]{}", if has_empty { "*" } else { "+" }), 6)
            }
        });
    }
    for way in ways(samples, &parts) {
        offers.extend(template(&parts, &patterns, &way, true, true, is_of_names));
    }
}

/// Templates of lines that begin and end alike, with anything between.
fn of_affixes(samples: &[Sample<'_>], offers: &mut Vec<Offer>) {
    let shared = |from_end: bool| {
        let cut: Vec<Vec<&[char]>> = samples
            .iter()
            .map(|sample| {
                let mut texts: Vec<&[char]> =
                    tokens(sample.before).into_iter().map(|token| &sample.before[token.range]).collect();
                if from_end {
                    texts.reverse();
                }
                texts
            })
            .collect();
        let same =
            (0..cut[0].len()).take_while(|at| cut.iter().all(|texts| texts.get(*at) == Some(&cut[0][*at]))).count();
        let length = |count: usize| cut[0][..count].iter().map(|text| text.len()).sum::<usize>();
        let most = if samples.len() == 1 { same.min(1) } else { same };
        let mut lengths: Vec<usize> = (0..=most).rev().map(length).take(3).collect();
        lengths.push(0);
        lengths.dedup();
        lengths
    };
    for start in shared(false) {
        for end in shared(true) {
            if (start, end) == (0, 0) || samples.iter().any(|sample| start + end >= sample.before.len()) {
                continue;
            }
            let first = samples[0].before;
            let (prefix, suffix) = (&first[..start], &first[first.len() - end..]);
            let is_shared = samples.len() > 1;
            let patterns =
                [Pattern::literal(prefix, is_shared), Pattern::new(".+", 6), Pattern::literal(suffix, is_shared)];
            // What they begin and end with is put as a text, not as a group.
            let parts: Vec<Vec<&[char]>> = samples
                .iter()
                .map(|sample| vec![&[][..], &sample.before[start..sample.before.len() - end], &[][..]])
                .collect();
            for way in ways(samples, &parts) {
                offers.extend(template(&parts, &patterns, &way, true, true, false));
            }
        }
    }
}

fn leading_blanks(text: &[char]) -> usize {
    text.iter().take_while(|character| **character == ' ').count()
}

fn trailing_blanks(text: &[char]) -> usize {
    text.iter().rev().take_while(|character| **character == ' ').count()
}

/// The ways in which all results can be put together of their parts.
fn ways(samples: &[Sample<'_>], parts: &[Vec<&[char]>]) -> Vec<Vec<Part>> {
    let mut ways = Vec::new();
    find_ways(&samples[0].after, &parts[0], 0, &mut Vec::new(), &mut ways);
    ways.retain(|way: &Vec<Part>| {
        way.iter().any(|part| matches!(part, Part::Copy(_)))
            && samples.iter().zip(parts).all(|(sample, parts)| {
                let mut made = Vec::with_capacity(sample.after.len());
                for part in way {
                    match part {
                        Part::Copy(at) => made.extend_from_slice(parts[*at]),
                        Part::Text(text) => made.extend(text.chars()),
                    }
                }
                made == sample.after
            })
    });
    ways
}

fn find_ways(after: &[char], parts: &[&[char]], from: usize, way: &mut Vec<Part>, ways: &mut Vec<Vec<Part>>) {
    if ways.len() >= MOST_WAYS || way.len() > 24 {
        return;
    }
    if from == after.len() {
        ways.push(way.clone());
        return;
    }
    // The parts that come after the last copy are the likelier ones.
    let last = way.iter().rev().find_map(|part| if let Part::Copy(at) = part { Some(*at + 1) } else { None });
    let order = (last.unwrap_or(0)..parts.len()).chain(0..last.unwrap_or(0).min(parts.len()));
    let mut has_copy = false;
    for at in order {
        let part = parts[at];
        let is_copy =
            part.first().is_some_and(|first| Kind::of(*first) != Kind::Blanks) && after[from..].starts_with(part);
        // Not a part of a longer word or number: those are no copies, except of numbers that part ways.
        if is_copy {
            has_copy |= Kind::of(part[0]).is_word();
            way.push(Part::Copy(at));
            find_ways(after, parts, from + part.len(), way, ways);
            way.pop();
        }
    }
    if has_copy {
        return;
    }
    // A token that is nowhere before.
    let end = from + tokens(&after[from..])[0].range.end;
    let text: String = after[from..end].iter().collect();
    let joined = if let Some(Part::Text(last)) = way.last_mut() {
        last.push_str(&text);
        true
    } else {
        way.push(Part::Text(text.clone()));
        false
    };
    find_ways(after, parts, end, way, ways);
    match way.last_mut() {
        Some(Part::Text(last)) if joined => last.truncate(last.len() - text.len()),
        _ => {
            way.pop();
        }
    }
}

/// The rule that takes the parts and puts them in this way, free or at the edges.
fn template(
    parts: &[Vec<&[char]>],
    patterns: &[Pattern],
    way: &[Part],
    starts: bool,
    ends: bool,
    is_of_names: bool,
) -> Vec<Offer> {
    let groups = groups(parts, way);
    let mut source = String::new();
    let mut price: u32 = patterns.iter().map(|pattern| pattern.price).sum();
    if let [only] = parts {
        // What words are in one line says little about those of others.
        let words =
            only.iter().filter(|part| part.first().is_some_and(|first| Kind::of(*first) == Kind::Letters)).count();
        price += 10 * size(&vec![(); words]);
    }
    let mut numbers = vec![0; groups.len()];
    let mut in_order: Vec<(usize, &Range<usize>)> = groups
        .iter()
        .enumerate()
        .filter_map(|(at, group)| if let Piece::Group(range) = group { Some((at, range)) } else { None })
        .collect();
    in_order.sort_by_key(|(_, range)| range.start);
    let (mut at, mut number) = (0, 0);
    let mut last: Option<&Range<usize>> = None;
    for (place, range) in &in_order {
        if last == Some(*range) {
            numbers[*place] = number;
            continue;
        }
        if range.start < at {
            // One group is in another: that is no template that a person would write.
            return Vec::new();
        }
        number += 1;
        numbers[*place] = number;
        patterns[at..range.start].iter().for_each(|pattern| source.push_str(&pattern.source));
        source.push('(');
        let group = patterns[(*range).clone()].iter().fold(Pattern::new("", 0), |all, part| all.then(part));
        // A group of one text alone says nothing that the text does not say.
        let is_text = (*range).clone().all(|at| patterns[at].source == Pattern::literal(parts[0][at], true).source);
        price += if is_text { 10 } else { 0 };
        source.push_str(&group.source);
        source.push(')');
        price += 1;
        at = range.end;
        last = Some(*range);
    }
    patterns[at..].iter().for_each(|pattern| source.push_str(&pattern.source));
    let mut made = String::new();
    for (place, piece) in groups.iter().enumerate() {
        match piece {
            Piece::Text(text) => {
                let letters = text.chars().filter(|character| character.is_alphabetic()).count();
                price += u32::try_from(text.chars().count() + letters).unwrap_or(u32::MAX / 1000);
                made.push_str(&text.replace('$', "$$"));
            }
            Piece::Group(_) => {
                let next = match groups.get(place + 1) {
                    Some(Piece::Text(text)) => text.chars().next(),
                    _ => None,
                };
                made.push_str(&group_reference(numbers[place], next));
            }
        }
    }
    let pattern = Pattern::new(source, price);
    let more = format!("with = {}", quoted(&made));
    let put: String =
        groups.iter().filter_map(|piece| if let Piece::Text(text) = piece { Some(&text[..]) } else { None }).collect();
    let offer = |pattern: Pattern| Offer::on("replace", &Target::pattern(&pattern), &more, 0).putting(&put);
    let mut offers = Vec::new();
    match (starts, ends) {
        (true, true) => {
            // Names often go on: with a number, or what copying adds.
            offers.push(offer(pattern.between("^", "$", if is_of_names { 4 } else { 2 })));
            offers.push(offer(pattern.between("^", "", 3)));
        }
        (true, false) => {
            offers.push(offer(pattern.between("^", "", 1)));
            offers.push(offer(pattern.between("", "", 4)));
        }
        (false, true) => {
            offers.push(offer(pattern.between("", "$", 1)));
            offers.push(offer(pattern.between("", "", 4)));
        }
        (false, false) => {
            // Where blanks come at its edges, others may be there already.
            let doubt = if made.starts_with(' ') || made.ends_with(' ') { 10 } else { 0 };
            offers.push(offer(pattern.between("", "", doubt)));
            offers.push(offer(pattern.between(r"\b", r"\b", 6)));
        }
    }
    offers
}

/// What is put: parts of the stretch that stand there one after the other, and texts.
enum Piece {
    Group(Range<usize>),
    Text(String),
}

/// Parts that are copied in their order, with what is between them, are one group.
fn groups(parts: &[Vec<&[char]>], way: &[Part]) -> Vec<Piece> {
    let mut pieces: Vec<Piece> = Vec::new();
    let mut rest = way;
    while let Some((first, others)) = rest.split_first() {
        rest = others;
        let at = match first {
            Part::Text(text) => {
                pieces.push(Piece::Text(text.clone()));
                continue;
            }
            Part::Copy(at) => *at,
        };
        let mut range = at..at + 1;
        loop {
            match rest {
                [Part::Copy(next), others @ ..] if *next == range.end => {
                    range.end += 1;
                    rest = others;
                }
                [Part::Text(text), Part::Copy(next), others @ ..]
                    if *next == range.end + 1
                        && parts.iter().all(|parts| parts[range.end].iter().copied().eq(text.chars())) =>
                {
                    range.end += 2;
                    rest = others;
                }
                _ => break,
            }
        }
        pieces.push(Piece::Group(range));
    }
    pieces
}

/// `$1`, or `${1}` where the next character would belong to the name of the group.
pub(super) fn group_reference(number: usize, next: Option<char>) -> String {
    match next {
        Some(next) if next.is_alphanumeric() || next == '_' => format!("${{{number}}}"),
        _ => format!("${number}"),
    }
}
