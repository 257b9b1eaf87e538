//! Regular expressions that take the stretches.

use super::{CUT, is_within_numbers};
use crate::learn::offers::clusters::Cluster;
use crate::learn::offers::offer::Target;
use crate::learn::pattern::{Pattern, class_of, is_one_shape, patterns_of};
use crate::learn::token::{Kind, Token, tokens};
use crate::learn::view::View;

/// Regular expressions, free or at an edge; and where these touch what stays, with what is beside all stretches.
pub(super) fn patterns(cluster: &Cluster, view: &View) -> Vec<Target> {
    let texts = cluster.texts(view);
    let (starts, ends) = (cluster.is_at_start(), cluster.is_at_end(view));
    let mut bare = patterns_of(&texts);
    if cluster.cuts_tokens(view) {
        bare.iter_mut().for_each(|pattern| pattern.price += CUT);
    }
    if ends {
        bare.extend(to_the_end(&texts));
    }
    if starts {
        bare.extend(from_the_start(&texts));
        bare.extend(up_to_mark(&texts, cluster, view));
    }
    let mut found = Vec::new();
    for pattern in bare {
        if pattern.source.is_empty() {
            continue;
        }
        let is_free = !pattern.source.contains(['*', '+'])
            || !(pattern.source.starts_with('.') || pattern.source.ends_with(".*"));
        let is_wide = [".*", ".+", "[^"].iter().any(|wide| pattern.source.contains(wide));
        if is_within_numbers(cluster, view) {
            found.extend(in_context(cluster, view, &pattern).pop());
        }
        let mut narrower = if is_wide { Vec::new() } else { in_context(cluster, view, &pattern) };
        let target = match (starts, ends) {
            (true, true) => pattern.between("^", "$", 2),
            (true, false) => at_start(&pattern),
            (false, true) => pattern.between("", "$", 1),
            (false, false) => pattern.clone(),
        };
        if starts && ends {
            narrower.push(Target::pattern(&pattern.between("^", "", 3)));
        }
        let anchored = Target::pattern(&target).or(narrower);
        found.push(if starts || ends { anchored } else { anchored.or_one_of_line() });
        if is_free && !(starts && ends) {
            // Where it happens to stand at an edge in all pairs, it is likelier to be meant there.
            found.push(Target::pattern(&pattern.between("", "", 5)));
        }
    }
    found
}

/// With `^`; blanks before it may be fewer or none.
fn at_start(pattern: &Pattern) -> Pattern {
    match pattern.source.strip_prefix(" +") {
        Some(rest) => Pattern::new(format!("^ *{rest}"), pattern.price + 1),
        None => pattern.between("^", "", 1),
    }
}

/// From what all begin with to the end of the line.
fn to_the_end(texts: &[&[char]]) -> Vec<Pattern> {
    let same = texts.iter().skip(1).fold(texts[0].len(), |most, text| {
        most.min(text.iter().zip(texts[0]).take_while(|(one, other)| one == other).count())
    });
    let mut found = Vec::new();
    // The mark alone, and the mark with the blanks beside it.
    for length in 1..=same.min(3) {
        let (mark, is_blank) = (&texts[0][..length], texts[0][..length].iter().all(|character| *character == ' '));
        if mark.iter().any(|character| Kind::of(*character).is_word()) {
            break;
        }
        // Where all words in it are numbers, they are likelier to be meant than anything.
        let cut: Vec<Vec<Token>> = texts.iter().map(|text| tokens(text)).collect();
        let is_same_word = |at: usize| {
            cut.iter()
                .zip(texts)
                .all(|(tokens, text)| text[tokens[at].range.clone()] == texts[0][cut[0][at].range.clone()])
        };
        let is_of_numbers = is_one_shape(&cut)
            && cut[0].iter().any(|token| token.kind == Kind::Digits)
            && (0..cut[0].len()).all(|at| cut[0][at].kind != Kind::Letters || is_same_word(at));
        let price = if is_blank { 8 } else { 5 } + if is_of_numbers { 10 } else { 0 };
        found.push(Pattern::literal(mark, true).between("", ".*", price));
        if texts
            .iter()
            .all(|text| text.len() == length + text[length..].iter().filter(|other| !mark.contains(other)).count())
        {
            let class = class_of(&mark[length - 1..]);
            found.extend(class.filter(|class| class.source != " ").map(|class| {
                let inside = class.source.trim_matches(['[', ']']);
                let price = 9 + if is_of_numbers { 10 } else { 0 };
                Pattern::literal(mark, true).then(&Pattern::new(format!("[^{inside}]*"), price))
            }));
        }
    }
    found
}

/// From the start of the line to the mark that is after all of them.
fn up_to_mark(texts: &[&[char]], cluster: &Cluster, view: &View) -> Option<Pattern> {
    let marks = cluster.neighbours(view, false)?;
    let mark = *marks.first()?;
    let is_none = Kind::of(mark).is_word() || Kind::of(mark) == Kind::Blanks;
    if is_none || marks.iter().any(|other| *other != mark) || texts.iter().any(|text| text.contains(&mark)) {
        return None;
    }
    let class = class_of(&[mark])?;
    let inside = class.source.trim_matches(['[', ']']);
    Some(Pattern::new(format!("[^{inside}]+(?={})", class.source), 7))
}

/// From the start of the line to what all end with.
fn from_the_start(texts: &[&[char]]) -> Vec<Pattern> {
    let same = texts.iter().skip(1).fold(texts[0].len(), |most, text| {
        most.min(text.iter().rev().zip(texts[0].iter().rev()).take_while(|(one, other)| one == other).count())
    });
    let mut found = Vec::new();
    for length in 1..=same.min(3) {
        let mark = &texts[0][texts[0].len() - length..];
        if mark.iter().any(|character| Kind::of(*character).is_word()) {
            break;
        }
        let is_blank = mark.iter().all(|character| *character == ' ');
        let price = if is_blank { 18 } else { 12 };
        found.push(Pattern::literal(mark, true).between(".*?", "", price));
        found.push(Pattern::literal(mark, true).between(".*", "", price + 1));
    }
    found
}

/// The pattern between what all stretches have before them, or after them.
fn in_context(cluster: &Cluster, view: &View, pattern: &Pattern) -> Vec<Target> {
    let mut found = Vec::new();
    let first = cluster.texts(view).iter().all(|text| text.first().is_some_and(|first| Kind::of(*first).is_word()));
    let last = cluster.texts(view).iter().all(|text| text.last().is_some_and(|last| Kind::of(*last).is_word()));
    if first && last {
        found.push(Target::pattern(&pattern.between(r"\b", r"\b", 4)));
    }
    if let Some(after) = cluster.neighbours(view, false) {
        found.extend(
            class_of(&after)
                .map(|class| Target::pattern(&pattern.between("", &format!("(?={})", class.source), 6 + class.price))),
        );
        if cluster.is_at_start() {
            found.extend(class_of(&after).map(|class| {
                Target::pattern(&pattern.between("^", &format!("(?={})", class.source), 6 + class.price))
            }));
        }
    }
    if let Some(before) = cluster.neighbours(view, true) {
        found
            .extend(class_of(&before).map(|class| {
                Target::pattern(&pattern.between(&format!("(?<={})", class.source), "", 6 + class.price))
            }));
        if cluster.is_at_end(view) {
            found.extend(class_of(&before).map(|class| {
                Target::pattern(&pattern.between(&format!("(?<={})", class.source), "$", 6 + class.price))
            }));
        }
    }
    let is_in_numbers = is_within_numbers(cluster, view);
    let class = |is_before: bool| class_of(&cluster.neighbours(view, is_before)?);
    if let (Some(before), Some(after)) = (class(true), class(false)) {
        let price = if is_in_numbers { 2 } else { 12 + before.price + after.price };
        let (before, after) = (format!("(?<={})", before.source), format!("(?={})", after.source));
        found.push(Target::pattern(&pattern.between(&before, &after, price)));
    }
    found
}
