//! The stretches themselves as strings or words, what marks they stand between, and their places.

use super::{CUT, Edges, MARKS, at_edges};
use crate::learn::offers::clusters::Cluster;
use crate::learn::offers::offer::{Target, quoted_list};
use crate::learn::token::Kind;
use crate::learn::view::View;

/// The most different strings that a rule lists; of words twice as many.
const MOST_STRINGS: usize = 4;

/// The stretches themselves, as strings and as words.
pub(super) fn strings(texts: &[&[char]], trimmed: &[&[char]], cuts: bool, edges: Edges) -> Vec<Target> {
    let mut found = Vec::new();
    let entries = different(texts);
    if (1..=MOST_STRINGS).contains(&entries.len()) {
        let text = Target::list("text", &entries, texts.len() > entries.len());
        let is_of_words = trimmed.iter().all(|text| text.iter().all(|one| Kind::of(*one).is_word()));
        let has_words = trimmed.iter().any(|text| text.iter().any(|one| Kind::of(*one).is_word()));
        // Words are better said as words, and marks as characters.
        let is_mark_run = entries.len() == 1 && entries[0].chars().count() > 1;
        let text = text.with(
            "",
            if is_of_words {
                5
            } else if has_words || is_mark_run {
                0
            } else {
                4
            },
        );
        let is_whole = edges.starts && edges.ends && has_words;
        let text = text.with("", if cuts || is_whole { CUT } else { 0 });
        let ignoring = text.with("case = \"ignore\"", 4);
        found.extend(at_edges(&text, edges));
        let in_small: Vec<Vec<char>> =
            texts.iter().map(|text| text.iter().flat_map(|letter| letter.to_lowercase()).collect()).collect();
        let small = different(&in_small.iter().map(|text| &text[..]).collect::<Vec<_>>());
        if small.len() < entries.len() {
            found.push(Target::list("text", &small, true).with("case = \"ignore\"", 4));
        } else if entries.len() == 1 {
            found.push(ignoring);
        }
    }
    let words = different(trimmed);
    let is_word = |word: &String| {
        let first = word.chars().next().map(Kind::of);
        first.is_some_and(Kind::is_word) && !word.contains('\n')
    };
    if (1..=MOST_STRINGS * 2).contains(&words.len()) && words.iter().all(is_word) {
        let target = Target::list("words", &words, texts.len() > words.len());
        found.push(target.with("gap = \"leave\"", 4));
        found.extend(at_edges(&target, edges));
        let small = different(
            &trimmed
                .iter()
                .map(|text| text.iter().flat_map(|letter| letter.to_lowercase()).collect::<Vec<char>>())
                .collect::<Vec<_>>()
                .iter()
                .map(|text| &text[..])
                .collect::<Vec<_>>(),
        );
        if small.len() < words.len() {
            found.push(Target::list("words", &small, true).with("case = \"ignore\"", 3));
        }
    }
    found
}

fn different(texts: &[&[char]]) -> Vec<String> {
    let mut entries: Vec<String> = Vec::new();
    for text in texts {
        let entry: String = text.iter().collect();
        if !entry.is_empty() && !entries.contains(&entry) {
            entries.push(entry);
        }
    }
    entries
}

/// Whether each is a number between two marks: then the number is as likely to be meant as the marks.
pub(super) fn is_number_in_marks(texts: &[&[char]]) -> bool {
    texts.iter().all(|text| text.len() > 2 && text[1..text.len() - 1].iter().all(|one| Kind::of(*one) == Kind::Digits))
}

/// From an opening mark to the one that closes.
pub(super) fn between(trimmed: &[&[char]], edges: Edges) -> Vec<Target> {
    let ends = |text: &[char]| Some((*text.first()?, *text.last()?));
    let Some(marks) = trimmed.first().and_then(|text| ends(text)) else { return Vec::new() };
    if trimmed.iter().any(|text| text.len() < 2 || ends(text) != Some(marks)) {
        return Vec::new();
    }
    let has_inside = trimmed.iter().all(|text| text[1..text.len() - 1].iter().any(|one| *one != marks.0));
    let is_pair = MARKS.contains(&marks)
        || (marks.0 == marks.1 && has_inside && !Kind::of(marks.0).is_word() && Kind::of(marks.0) != Kind::Blanks);
    if !is_pair {
        return Vec::new();
    }
    let price = if is_number_in_marks(trimmed) { 24 } else { 8 };
    let target = Target::new(format!("between = {}", quoted_list(&[marks.0.to_string(), marks.1.to_string()])), price);
    let mut found = at_edges(&target, edges);
    found.push(target.with("gap = \"leave\"", 4));
    found
}

/// As many characters at the start of each line, or all from some place on.
pub(super) fn positions(cluster: &Cluster, view: &View) -> Vec<Target> {
    let Some((_, first)) = cluster.places.first() else { return Vec::new() };
    let mut found = Vec::new();
    if cluster.is_at_start() && cluster.places.iter().all(|(_, range)| range.end == first.end) {
        found.push(Target::new(format!("positions = \"1..{}\"", first.end), if first.end == 1 { 18 } else { 26 }));
    }
    if cluster.is_at_end(view) && cluster.places.iter().all(|(_, range)| range.start == first.start) {
        found.push(Target::new(format!("positions = \"{}..\"", first.start + 1), 24));
    }
    found
}
