//! Stretches whose words, numbers and fields are put together in another way: `(\d+)\.(\d+)\.(\d+)` becomes `$3-$2-$1`.

mod fields;
mod rule;
mod ways;

pub(super) use rule::group_reference;

use std::collections::HashSet;

use super::offer::Offer;
use crate::learn::pattern::{Detail, Pattern, is_one_shape, token_pattern};
use crate::learn::token::{Kind, Token, tokens};
use crate::learn::view::View;
use fields::{of_affixes, of_fields};
use rule::template;
use ways::ways;

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

/// Whole lines; and of each line the same number of neighbouring edits, counted from the start or from the end.
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
