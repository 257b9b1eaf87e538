//! Templates of fields: what marks part, or what stands between the same start and end.

use std::ops::Range;

use super::Sample;
use super::rule::template;
use super::ways::ways;
use crate::learn::offers::offer::Offer;
use crate::learn::pattern::{Pattern, class_of};
use crate::learn::token::{Kind, Token, tokens};

/// Templates of stretches that are parted by the same marks: fields, each of any kind.
pub(super) fn of_fields(samples: &[Sample<'_>], starts: bool, ends: bool, is_of_names: bool, offers: &mut Vec<Offer>) {
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
pub(super) fn of_affixes(samples: &[Sample<'_>], offers: &mut Vec<Offer>) {
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
