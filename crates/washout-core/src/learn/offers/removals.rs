//! What goes, and what has the same put in its place.

use super::clusters::clusters;
use super::offer::{Offer, quoted, with};
use super::targets::{Edges, sets, targets};
use crate::learn::pattern::size;
use crate::learn::token::Kind;
use crate::learn::view::View;

pub(super) fn offers(view: &View) -> Vec<Offer> {
    let mut offers = Vec::new();
    offers.extend(one_by_one(view));
    for cluster in clusters(view) {
        let is_of_words = cluster.texts(view).iter().any(|text| text.iter().any(|one| Kind::of(*one).is_word()));
        for target in targets(&cluster, view) {
            if cluster.put.is_empty() {
                offers.push(Offer::on("remove", &target, "", 0));
                let is_inside = !cluster.is_at_start() && !cluster.is_at_end(view);
                if is_inside && !target.keys.contains("gap") && !target.keys.starts_with("stock") {
                    offers.push(Offer::on("remove", &target, "gap = \"close\"", 4));
                }
            } else {
                // Words that are put have to be paid for.
                let put: Vec<char> = cluster.put.chars().collect();
                let letters = put.iter().filter(|character| character.is_alphabetic()).count();
                let is_number =
                    target.keys.contains("\"digit\"") && put.iter().any(|one| Kind::of(*one) == Kind::Digits);
                let price = size(&put) + size(&put[..letters]) + if is_number { 12 } else { 0 };
                offers.push(Offer::on("replace", &target, &with(&target, &cluster.put), price).putting(&cluster.put));
                if !is_of_words && (target.keys.starts_with("chars") || target.keys.starts_with("class")) {
                    let more = format!("with = {}", quoted(&cluster.put));
                    offers.push(Offer::on("collapse", &target, &more, price + 4).putting(&cluster.put));
                }
            }
        }
        if cluster.put.is_empty() && !is_of_words {
            for target in sets(&cluster.texts(view), Edges::default()) {
                offers.push(Offer::on("collapse", &target, "", 4));
            }
        }
    }
    offers
}

/// Characters in place of each of which the same one is put: `0412` becomes `XXXX`.
fn one_by_one(view: &View) -> Vec<Offer> {
    let mut by_put: Vec<(char, Vec<&[char]>)> = Vec::new();
    for (_, line) in view.changed() {
        for edit in &line.edits {
            let (taken, put) = (&line.before[edit.taken.clone()], line.put(edit));
            let Some(first) =
                put.first().filter(|first| put.len() == taken.len() && put.iter().all(|one| one == *first))
            else {
                continue;
            };
            match by_put.iter_mut().find(|(character, _)| character == first) {
                Some((_, texts)) => texts.push(taken),
                None => by_put.push((*first, vec![taken])),
            }
        }
    }
    let mut offers = Vec::new();
    for (put, texts) in by_put.iter().filter(|(_, texts)| texts.iter().any(|text| text.len() > 1)) {
        let put = put.to_string();
        for target in sets(texts, Edges::default()) {
            offers.push(Offer::on("replace", &target, &with(&target, &put), 1).putting(&put));
        }
    }
    offers
}
