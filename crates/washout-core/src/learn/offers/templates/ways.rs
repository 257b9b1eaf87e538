//! How results are put together of the parts of what they were made of.

use super::{Part, Sample};
use crate::learn::token::{Kind, tokens};

/// The most ways of putting one result together that are tried.
const MOST_WAYS: usize = 24;

/// The most steps of looking for them: where the same part stands in many places, there are more ways than can be tried.
const MOST_STEPS: usize = 2_000;

/// The ways in which all results can be put together of their parts.
pub(super) fn ways(samples: &[Sample<'_>], parts: &[Vec<&[char]>]) -> Vec<Vec<Part>> {
    let mut ways = Vec::new();
    let mut steps = MOST_STEPS;
    find_ways(&samples[0].after, &parts[0], 0, &mut Vec::new(), &mut ways, &mut steps);
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

fn find_ways(
    after: &[char],
    parts: &[&[char]],
    from: usize,
    way: &mut Vec<Part>,
    ways: &mut Vec<Vec<Part>>,
    steps: &mut usize,
) {
    if ways.len() >= MOST_WAYS || way.len() > 24 || *steps == 0 {
        return;
    }
    *steps -= 1;
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
            find_ways(after, parts, from + part.len(), way, ways, steps);
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
    find_ways(after, parts, end, way, ways, steps);
    match way.last_mut() {
        Some(Part::Text(last)) if joined => last.truncate(last.len() - text.len()),
        _ => {
            way.pop();
        }
    }
}
