//! What comes where nothing goes.

use std::fmt::Write as _;

use super::clusters::{Cluster, Place, by_put};
use super::offer::{Offer, Target, with};
use super::templates::group_reference;
use crate::learn::pattern::{Pattern, class_of, size};
use crate::learn::token::Kind;
use crate::learn::view::{Line, View};

pub(super) fn offers(view: &View) -> Vec<Offer> {
    let inserted = |line: &Line| line.edits.iter().filter(|edit| edit.taken.is_empty()).cloned().collect();
    let mut groups: Vec<Cluster> = Vec::new();
    for cluster in by_put(view, inserted) {
        let is_start = |place: &Place| place.1.start == 0;
        let is_end = |place: &Place| place.1.end == view.lines[place.0].before.len();
        groups.push(cluster.those(is_start));
        groups.push(cluster.those(is_end));
        groups.push(cluster.those(|place| !is_start(place) && !is_end(place)));
        groups.push(cluster);
    }
    groups.retain(|cluster| !cluster.places.is_empty());
    groups.dedup();
    groups.iter().flat_map(|cluster| of_cluster(cluster, view)).collect()
}

fn of_cluster(cluster: &Cluster, view: &View) -> Vec<Offer> {
    let put: Vec<char> = cluster.put.chars().collect();
    let mut offers = Vec::new();
    let edges = [("^", "^(?=.)", cluster.is_at_start()), ("$", "(?<=.)$", cluster.is_at_end(view))];
    for (edge, filled, is_there) in edges {
        if is_there {
            let beside = cluster.neighbours(view, edge == "$").filter(|beside| beside.len() > 1);
            let is_mark = beside
                .as_ref()
                .is_some_and(|beside| !Kind::of(beside[0]).is_word() && beside.iter().all(|other| *other == beside[0]));
            if let Some(class) = beside.filter(|_| is_mark).and_then(|beside| class_of(&beside)) {
                // Where the same mark is beside all of them, it is hardly there by chance.
                let source =
                    if edge == "^" { format!("^(?={})", class.source) } else { format!("(?<={})$", class.source) };
                let target = Target::pattern(&Pattern::new(source, 3));
                offers.push(
                    Offer::on("replace", &target, &with(&target, &cluster.put), size(&put)).putting(&cluster.put),
                );
            }
            let target = Target::pattern(&Pattern::new(edge, if is_mark { 8 } else { 2 }))
                .or(vec![Target::pattern(&Pattern::new(filled, 8))]);
            offers.push(Offer::on("replace", &target, &with(&target, &cluster.put), size(&put)).putting(&cluster.put));
        }
    }
    let sides = (cluster.neighbours(view, true), cluster.neighbours(view, false));
    let options = |side: Option<Vec<char>>, is_after: bool| -> Vec<Option<Pattern>> {
        let Some(side) = side else { return vec![None] };
        let is_blank = side.iter().any(|character| Kind::of(*character) == Kind::Blanks);
        let any = (is_after && !is_blank).then(|| Pattern::new(r"\S", 5));
        let literal =
            side.iter().all(|character| *character == side[0]).then(|| Pattern::literal(&side[..1], side.len() > 1));
        literal.into_iter().chain(class_of(&side)).chain(any).map(Some).chain([None]).collect()
    };
    let (befores, afters) = (options(sides.0, false), options(sides.1, true));
    for before in &befores {
        for after in &afters {
            let (mut source, mut made, mut price) = (String::new(), String::new(), size(&put) + 8);
            let put = cluster.put.replace('$', "$$");
            if let Some(before) = before {
                let _ = write!(source, "({})", before.source);
                made.push_str(&group_reference(1, put.chars().next()));
                price += before.price;
            }
            made.push_str(&put);
            if let Some(after) = after {
                // What comes next may be what the next match begins with.
                let _ = write!(source, "(?={})", after.source);
                price += after.price + 4;
            }
            match (before, after) {
                (None, None) => continue,
                (Some(_), Some(_)) => {}
                // Much else may be beside a single character.
                _ => price += 10,
            }
            let target = Target::pattern(&Pattern::new(source, 0)).or_one_of_line();
            offers.push(
                Offer::on("replace", &target, &format!("with = {}", super::quoted(&made)), price).putting(&cluster.put),
            );
            if let (Some(before), Some(after)) = (before, after) {
                // Without looking ahead, where no match begins in the one before.
                let target = Target::pattern(&Pattern::new(format!("({})({})", before.source, after.source), 0));
                let made = format!("{}{put}$2", group_reference(1, put.chars().next()));
                offers.push(
                    Offer::on("replace", &target, &format!("with = {}", super::quoted(&made)), price - 4)
                        .putting(&cluster.put),
                );
            }
        }
    }
    offers
}
