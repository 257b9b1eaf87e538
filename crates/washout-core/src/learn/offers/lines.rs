//! Whole lines that go, and lines that are joined.

use super::clusters::{Cluster, Place};
use super::offer::Offer;
use super::targets::targets;
use crate::learn::token::{Kind, tokens};
use crate::learn::view::View;

pub(super) fn offers(view: &View) -> Vec<Offer> {
    let mut offers = Vec::new();
    let places = |goes: bool| -> Vec<Place> {
        let those =
            view.lines.iter().enumerate().filter(|(_, line)| line.after.is_none() == goes && !line.before.is_empty());
        those.map(|(number, line)| (number, 0..line.before.len())).collect()
    };
    let gone = places(true);
    if gone.is_empty() {
        return offers;
    }
    for (verb, places) in [("drop_lines", gone), ("keep_lines", places(false))] {
        for cluster in alike(&places, view) {
            for target in targets(&cluster, view) {
                offers.push(Offer::on(verb, &target, "", 0));
            }
        }
    }
    offers
}

/// How many characters of whole lines are tried by themselves.
const MOST_CHARACTERS: usize = 8;

/// What whole lines have in common: themselves, what they begin and end with, and single words that are in all of them.
fn alike(places: &[Place], view: &View) -> Vec<Cluster> {
    let Some((first, _)) = places.first() else { return Vec::new() };
    let text = |line: usize| &view.lines[line].before;
    let cluster = |places: Vec<Place>| Cluster { places, put: String::new() };
    let mut clusters = vec![cluster(places.to_vec())];
    let ends = |last: bool| {
        let token = |(line, _): &Place| {
            let tokens = tokens(text(*line));
            let token = if last { tokens.last() } else { tokens.first() };
            token.map_or((*line, 0..0), |token| (*line, token.range.clone()))
        };
        cluster(places.iter().map(token).collect())
    };
    clusters.extend([ends(false), ends(true)]);
    // Lines that go one by one, too: each group that begins alike.
    for place in places {
        let start = text(place.0).first();
        clusters.push(cluster(places.iter().filter(|other| text(other.0).first() == start).cloned().collect()));
    }
    // Words and marks that are in all of them.
    let shared = tokens(text(*first)).into_iter().filter(|token| token.kind != Kind::Blanks).filter_map(|token| {
        let wanted = &text(*first)[token.range.clone()];
        let found: Option<Vec<Place>> = places
            .iter()
            .map(|(line, _)| {
                let same = |token: &crate::learn::token::Token| &text(*line)[token.range.clone()] == wanted;
                tokens(text(*line)).into_iter().find(same).map(|token| (*line, token.range))
            })
            .collect();
        found.map(cluster)
    });
    clusters.extend(shared);
    // Single characters that are in all of them.
    let mut characters = text(*first).clone();
    characters.sort_unstable();
    characters.dedup();
    let shared = characters.into_iter().filter_map(|wanted| {
        let place = |(line, _): &Place| {
            let at = text(*line).iter().position(|character| *character == wanted)?;
            Some((*line, at..at + 1))
        };
        places.iter().map(place).collect::<Option<Vec<Place>>>().map(cluster)
    });
    clusters.extend(shared.take(MOST_CHARACTERS));
    clusters.retain(|cluster| cluster.places.iter().all(|(_, range)| !range.is_empty()));
    clusters.dedup();
    clusters
}
