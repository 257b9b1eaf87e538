//! A template as a rule.

use std::ops::Range;

use super::Part;
use crate::learn::offers::offer::{Offer, Target, quoted};
use crate::learn::pattern::Pattern;
use crate::learn::token::Kind;

/// The rule that takes the parts and puts them in this way, free or at the edges.
pub(super) fn template(
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
        price += 10 * u32::try_from(words).unwrap_or(0);
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
pub(in crate::learn::offers) fn group_reference(number: usize, next: Option<char>) -> String {
    match next {
        Some(next) if next.is_alphanumeric() || next == '_' => format!("${{{number}}}"),
        _ => format!("${number}"),
    }
}
