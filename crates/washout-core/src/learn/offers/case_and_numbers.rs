//! Letters in another case, and zeros before numbers, in parts of lines.

use super::clusters::Cluster;
use super::offer::{Offer, Target};
use crate::learn::pattern::patterns_of;
use crate::learn::token::{Kind, widened};
use crate::learn::view::View;

const CASES: &[&str] = &["upper", "lower", "title"];

pub(super) fn offers(view: &View) -> Vec<Offer> {
    let mut offers = recased(view);
    offers.extend(padded(view));
    offers
}

/// Words whose letters change their case.
fn recased(view: &View) -> Vec<Offer> {
    let mut cluster = Cluster { places: Vec::new(), put: String::new() };
    let mut single = cluster.clone();
    for (number, line) in view.changed() {
        for edit in &line.edits {
            let small = |text: &[char]| -> String { text.iter().flat_map(|letter| letter.to_lowercase()).collect() };
            let (taken, put) = (&line.before[edit.taken.clone()], line.put(edit));
            if !taken.is_empty() && small(taken) == small(put) {
                cluster.places.push((number, line.widened(edit.taken.clone())));
                single.places.push((number, edit.taken.clone()));
            }
        }
    }
    cluster.places.dedup();
    let mut offers = Vec::new();
    if cluster.places.is_empty() {
        return offers;
    }
    for cluster in [cluster, single] {
        let (starts, ends) = (cluster.is_at_start(), cluster.is_at_end(view));
        let texts = cluster.texts(view);
        let mut targets: Vec<Target> = Vec::new();
        for pattern in patterns_of(&texts) {
            let bounded = pattern.between(r"\b", r"\b", 3);
            let pattern = pattern.between(if starts { "^" } else { "" }, if ends { "$" } else { "" }, 1);
            targets.push(Target::pattern(&pattern).or_one_of_line());
            targets.push(Target::pattern(&bounded));
        }
        let mut words: Vec<String> = texts.iter().map(|text| text.iter().collect()).collect();
        words.sort_unstable();
        words.dedup();
        if words.len() <= 4 {
            targets.push(Target::list("words", &words, false).or_one_of_line());
        }
        for case in CASES {
            offers.extend(targets.iter().map(|target| Offer::on("recase", target, &format!("to = \"{case}\""), 2)));
        }
    }
    offers
}

/// Numbers that get zeros before them.
fn padded(view: &View) -> Vec<Offer> {
    let mut widths: Vec<usize> = Vec::new();
    let mut numbers = Cluster { places: Vec::new(), put: String::new() };
    let mut named = numbers.clone();
    for (number, line) in view.changed() {
        for edit in &line.edits {
            let put = line.put(edit);
            if !edit.taken.is_empty() || put.is_empty() || put.iter().any(|character| *character != '0') {
                continue;
            }
            let token = widened(&line.before, edit.taken.start..(edit.taken.start + 1).min(line.before.len()));
            if token.is_empty() || Kind::of(line.before[token.start]) != Kind::Digits {
                continue;
            }
            let width = token.len() + put.len();
            if !widths.contains(&width) {
                widths.push(width);
            }
            // With the word or mark before it.
            let from = line.before[..token.start].iter().rposition(|one| Kind::of(*one) != Kind::Blanks);
            let from = from.map_or(token.start, |at| widened(&line.before, at..at + 1).start);
            numbers.places.push((number, token.clone()));
            named.places.push((number, from..token.end));
        }
    }
    let mut offers = Vec::new();
    for width in widths.into_iter().filter(|width| *width <= 20) {
        let more = format!("width = {width}");
        offers.push(Offer::new(format!("pad = {{ {more} }}"), 6));
        for which in ["first", "last"] {
            offers.push(Offer::new(format!("pad = {{ {more}, which = \"{which}\" }}"), 10));
        }
        for (cluster, price) in [(&numbers, 0), (&named, 2)] {
            let edges = (cluster.is_at_start(), cluster.is_at_end(view));
            for pattern in patterns_of(&cluster.texts(view)) {
                let (start, end) = (if edges.0 { "^" } else { "" }, if edges.1 { "$" } else { "" });
                offers.push(Offer::on("pad", &Target::pattern(&pattern.between(start, end, 1)), &more, price));
            }
        }
    }
    offers
}
