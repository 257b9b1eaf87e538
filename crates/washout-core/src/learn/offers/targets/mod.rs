//! What may describe a group of stretches: characters, a class, a stock pattern, words, marks, a place, a pattern.

mod patterns;
mod sets;
mod texts;

pub(super) use sets::{sets, stock};

use super::clusters::{Cluster, Place};
use super::offer::Target;
use crate::learn::token::Kind;
use crate::learn::view::View;

/// Opening marks with those that close.
pub(super) const MARKS: &[(char, char)] = &[
    ('(', ')'),
    ('[', ']'),
    ('{', '}'),
    ('<', '>'),
    ('（', '）'),
    ('［', '］'),
    ('【', '】'),
    ('「', '」'),
    ('『', '』'),
    ('«', '»'),
    ('“', '”'),
    ('„', '“'),
    ('‘', '’'),
];

/// What it costs that a string or pattern begins or ends inside a word or number.
const CUT: u32 = 8;

/// What it costs to take blanks, points and commas anywhere that stand between digits in all pairs, and how much less a pattern
/// costs there that says so.
const IN_NUMBERS: u32 = 14;

/// Whether it is about blanks, points or commas that have digits on both sides.
fn is_within_numbers(cluster: &Cluster, view: &View) -> bool {
    let is_of_digits =
        |side: Option<Vec<char>>| side.is_some_and(|side| side.iter().all(|one| Kind::of(*one) == Kind::Digits));
    cluster.texts(view).iter().all(|text| text.iter().all(|one| matches!(one, ' ' | '.' | ',' | '\'' | '\u{A0}')))
        && is_of_digits(cluster.neighbours(view, true))
        && is_of_digits(cluster.neighbours(view, false))
}

/// Where in their lines all stretches are.
#[derive(Clone, Copy, Debug, Default)]
#[expect(clippy::struct_excessive_bools, reason = "each is a question of its own")]
pub(super) struct Edges {
    starts: bool,
    ends: bool,
    /// Each at the start or at the end, and some at both.
    both: bool,
    /// More than one line changes.
    many: bool,
}

impl Edges {
    pub(super) fn of(cluster: &Cluster, view: &View) -> Self {
        let is_edge = |(line, range): &Place| range.start == 0 || range.end == view.lines[*line].before.len();
        let (starts, ends) = (cluster.is_at_start(), cluster.is_at_end(view));
        let both = !starts && !ends && cluster.places.iter().all(is_edge);
        Self { starts, ends, both, many: view.changed().count() > 1 }
    }
}

/// Every target that may take these stretches and no others.
pub(super) fn targets(cluster: &Cluster, view: &View) -> Vec<Target> {
    let texts = cluster.texts(view);
    let trimmed = cluster.trimmed(view);
    let edges = Edges::of(cluster, view);
    let mut targets = sets(&texts, edges);
    let doubt = is_within_numbers(cluster, view);
    if doubt {
        targets = targets.into_iter().map(|target| target.dearer(IN_NUMBERS)).collect();
    }
    // At an edge, characters describe the blanks as well.
    if trimmed != *cluster && !edges.starts && !edges.ends {
        let sets = sets(&trimmed.texts(view), Edges::of(&trimmed, view));
        targets.extend(sets.iter().map(|target| target.with("gap = \"close\"", 4)));
    }
    let is_number = texts::is_number_in_marks(&trimmed.texts(view));
    targets.extend(stock("", edges).into_iter().filter(|target| !(is_number && target.keys.contains("bracketed"))));
    targets.extend(texts::strings(&texts, &trimmed.texts(view), cluster.cuts_tokens(view), edges));
    targets.extend(texts::between(&trimmed.texts(view), edges));
    targets.extend(texts::positions(cluster, view));
    targets.extend(patterns::patterns(cluster, view));
    targets
}

/// A target, at the edge where all stretches are, or anywhere; and where that touches what stays, at other edges or once.
fn at_edges(target: &Target, edges: Edges) -> Vec<Target> {
    let at = |edge: &str, price: u32| target.with(&format!("at = \"{edge}\""), price);
    match edges {
        Edges { starts: true, ends: false, .. } => vec![at("start", 1), target.with("", 3)],
        Edges { starts: false, ends: true, .. } => vec![at("end", 1), target.with("", 3)],
        Edges { both: true, .. } => vec![at("edges", 1), target.with("", 3)],
        Edges { .. } => vec![target.clone().or(vec![at("start", 3), at("end", 3), at("edges", 3)]).or_one_of_line()],
    }
}
