//! What stays, where all else goes.

use super::offer::{Offer, Target, quoted};
use super::targets::{Edges, stock};
use crate::learn::pattern::{Pattern, class_of, patterns_of, size};
use crate::learn::token::{Kind, widened};
use crate::learn::view::{Line, View};

/// The classes that people keep, and their prices.
const CLASSES: &[(&str, u32)] = &[
    (r#"class = "digit""#, 10),
    (r#"class = "letter""#, 16),
    (r#"class = ["letter", "digit"]"#, 16),
    (r#"class = "upper""#, 16),
    (r#"class = ["letter", "mark", "digit"]"#, 20),
];

pub(super) fn offers(view: &View) -> Vec<Offer> {
    let mut offers = Vec::new();
    let joined = joins(view);
    // Where one stretch stays, what it is beside says more than what it is made of.
    let is_one = view
        .changed()
        .all(|(_, line)| line.after.as_deref().is_some_and(|after| place_of(&line.before, after, false).is_some()));
    // Where it is always the same mark that goes, that mark is meant, and not all that is no letter or digit.
    let mut gone: Vec<char> = view
        .changed()
        .flat_map(|(_, line)| line.edits.iter().flat_map(|edit| &line.before[edit.taken.clone()]))
        .copied()
        .filter(|character| !Kind::of(*character).is_word() && *character != ' ')
        .collect();
    gone.sort_unstable();
    gone.dedup();
    let is_of_few = gone.len() < 2;
    for (class, price) in CLASSES {
        let price = &(price + if is_one { 24 } else { 0 } + if is_of_few { 16 } else { 0 });
        for (more, cost) in &joined {
            let cost = cost + if more.is_empty() || class.contains("digit") { 0 } else { 6 };
            offers.push(Offer::on("keep", &Target::new(*class, *price), more, cost));
        }
    }
    for target in stock(", unmatched = \"leave\"", Edges::default()).into_iter().chain(stock("", Edges::default())) {
        for (more, cost) in &joined {
            let is_leaving = target.keys.contains("unmatched");
            let target = target.clone().or_one_of_line();
            offers.push(Offer::on("keep", &target, more, cost + if is_leaving { 6 } else { 8 }));
        }
    }
    offers.extend(of_one_stretch(view));
    offers
}

/// What may stand between stretches that stay, as keys.
fn joins(view: &View) -> Vec<(String, u32)> {
    let mut marks: Vec<String> = Vec::new();
    for (_, line) in view.changed() {
        let after = line.after.as_deref().unwrap_or_default();
        let mut run = String::new();
        for character in after {
            if Kind::of(*character).is_word() {
                if !run.is_empty() && !marks.contains(&run) {
                    marks.push(run.clone());
                }
                run.clear();
            } else {
                run.push(*character);
            }
        }
    }
    marks.truncate(3);
    let mut joins = vec![(String::new(), 0)];
    joins.extend(
        marks
            .iter()
            .map(|mark| (format!("joined_with = {}", quoted(mark)), 4 + 6 * size(&mark.chars().collect::<Vec<_>>()))),
    );
    joins
}

/// One stretch of each line stays.
fn of_one_stretch(view: &View) -> Vec<Offer> {
    let mut offers = Vec::new();
    let changed: Vec<&Line> = view.changed().map(|(_, line)| line).collect();
    if changed.is_empty() {
        return offers;
    }
    // The first place where it stands as a whole word, and the last one.
    for from_end in [false, true] {
        let found: Option<Vec<Kept<'_>>> = changed
            .iter()
            .map(|line| {
                let after = line.after.as_deref().filter(|after| !after.is_empty())?;
                let at = place_of(&line.before, after, from_end)?;
                Some((&line.before[..at], &line.before[at..at + after.len()], &line.before[at + after.len()..]))
            })
            .collect();
        if let Some(found) = found {
            kept(&found, &mut offers);
        }
    }
    offers
}

fn place_of(before: &[char], after: &[char], from_end: bool) -> Option<usize> {
    let is_there = |at: &usize| {
        let stretch = *at..*at + after.len();
        &before[stretch.clone()] == after && widened(before, stretch.clone()) == stretch
    };
    let mut places = 0..=before.len().checked_sub(after.len())?;
    if from_end { places.rev().find(is_there) } else { places.find(is_there) }
}

/// What is before a stretch that stays, the stretch, and what is after it.
type Kept<'v> = (&'v [char], &'v [char], &'v [char]);

/// Rules that keep the middle one of what is before, what stays, and what is after.
fn kept(found: &[Kept<'_>], offers: &mut Vec<Offer>) {
    let befores: Vec<&[char]> = found.iter().map(|(before, ..)| *before).collect();
    let middles: Vec<&[char]> = found.iter().map(|(_, middle, _)| *middle).collect();
    let afters: Vec<&[char]> = found.iter().map(|(.., after)| *after).collect();
    let starts = befores.iter().all(|before| before.is_empty());
    let ends = afters.iter().all(|after| after.is_empty());
    let mut patterns = patterns_of(&middles);
    // Long texts are not what a pattern of their words is for.
    patterns.retain(|pattern| pattern.price < 34 && !pattern.source.contains(".+") && !pattern.source.contains(".*"));
    patterns.extend(up_to(&middles, &afters, false));
    patterns.extend(up_to(&middles, &befores, true));
    patterns.push(Pattern::new(r"\S+", 6));
    for pattern in &patterns {
        for (before, groups) in sides(&befores, starts, true) {
            for (after, closes) in sides(&afters, ends, false) {
                // At the edge of the line it can be found but once.
                let is_once = before.source.starts_with('^') || after.source.ends_with('$');
                let mended = if is_once && !(starts && ends) { 4 } else { 0 };
                let is_grouped = groups || closes;
                let inner = if is_grouped { pattern.between("(", ")", 1) } else { pattern.clone() };
                let whole = before.then(&inner).then(&after);
                let group = if is_grouped { "group = 1, " } else { "" };
                for (unmatched, more) in [("unmatched = \"leave\"", 0), ("", 3)] {
                    let target = Target::pattern(&whole).or_one_of_line();
                    let keys = format!("{group}{unmatched}");
                    offers.push(Offer::on("keep", &target, keys.trim_end_matches(", "), 6 + more - mended));
                }
            }
        }
    }
}

/// What may stand on one side of what stays, and whether that takes characters: the edge of the line, all that is there, the
/// marks that are right beside it, nothing.
fn sides(texts: &[&[char]], is_edge: bool, is_before: bool) -> Vec<(Pattern, bool)> {
    let edge = |pattern: &Pattern, price: u32| {
        if is_before { pattern.between("^", "", price) } else { pattern.between("", "$", price) }
    };
    let nothing = Pattern::new("", 0);
    if is_edge {
        return vec![(edge(&nothing, 1), false), (Pattern::new("", 4), false)];
    }
    let mut sides = vec![(Pattern::new("", 4), false)];
    let is_same = |length: usize| {
        texts.iter().all(|text| {
            let side =
                if is_before { text.len().checked_sub(length).map(|from| &text[from..]) } else { text.get(..length) };
            let first = if is_before { &texts[0][texts[0].len() - length..] } else { &texts[0][..length] };
            side == Some(first)
        })
    };
    let same = (1..=texts[0].len()).take_while(|length| is_same(*length)).last().unwrap_or(0);
    let whole = |length: usize| texts.iter().all(|text| text.len() == length);
    if is_before {
        sides.extend(patterns_of(texts).iter().map(|pattern| (edge(pattern, 1), true)));
    }
    let mut lengths = vec![1.min(same), 2.min(same), same];
    lengths.dedup();
    for length in lengths.into_iter().filter(|length| *length > 0) {
        let side = if is_before { &texts[0][texts[0].len() - length..] } else { &texts[0][..length] };
        // A part of a word is no mark to go by.
        if side.iter().all(|one| Kind::of(*one).is_word()) {
            continue;
        }
        let literal = Pattern::literal(side, texts.len() > 1);
        let is_blank = side.iter().all(|one| Kind::of(*one) == Kind::Blanks);
        // Where it is not the whole side, it may stand in other places of the line too.
        let price = if is_blank {
            10
        } else if is_before {
            9
        } else {
            3
        };
        sides.push((if whole(length) { edge(&literal, 0) } else { literal.between("", "", price) }, true));
    }
    sides
}

/// Anything but the one character that is right after all of them, or right before.
fn up_to(middles: &[&[char]], sides: &[&[char]], is_before: bool) -> Option<Pattern> {
    let side = |side: &&[char]| if is_before { side.last().copied() } else { side.first().copied() };
    // Where a stretch is at the edge of its line, any mark is as far away as can be.
    let marks: Vec<char> = sides.iter().filter_map(side).collect();
    let mark = *marks.first()?;
    let is_same = marks.iter().all(|other| *other == mark);
    if !is_same || Kind::of(mark).is_word() || middles.iter().any(|middle| middle.contains(&mark)) {
        return None;
    }
    let class = class_of(&[mark])?;
    Some(Pattern::new(format!("[^{}]+", class.source.trim_matches(['[', ']'])), 7))
}
