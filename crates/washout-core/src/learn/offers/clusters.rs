//! Stretches that the same rule may act on.

use std::ops::Range;

use super::targets::MARKS;
use crate::learn::distance::Edit;
use crate::learn::token::{Kind, is_within_token, tokens};
use crate::learn::view::{Line, View};

/// A stretch: the number of its line, and its characters, both from 0.
pub(super) type Place = (usize, Range<usize>);

/// Stretches of lines in which the same is put.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Cluster {
    pub(super) places: Vec<Place>,
    pub(super) put: String,
}

impl Cluster {
    pub(super) fn texts<'v>(&self, view: &'v View) -> Vec<&'v [char]> {
        self.places.iter().map(|(line, range)| &view.lines[*line].before[range.clone()]).collect()
    }

    /// Whether each stretch is at the very start of its line.
    pub(super) fn is_at_start(&self) -> bool {
        self.places.iter().all(|(_, range)| range.start == 0)
    }

    /// Whether each is at the very end of its line.
    pub(super) fn is_at_end(&self, view: &View) -> bool {
        self.places.iter().all(|(line, range)| range.end == view.lines[*line].before.len())
    }

    /// Without the blanks at the edges of each stretch.
    pub(super) fn trimmed(&self, view: &View) -> Self {
        let trim = |line: usize, range: &Range<usize>| {
            let text = &view.lines[line].before[range.clone()];
            let is_blank = |character: &&char| Kind::of(**character) == Kind::Blanks;
            let before = text.iter().take_while(is_blank).count();
            let after = text[before..].iter().rev().take_while(is_blank).count();
            range.start + before..range.end - after
        };
        let places = self.places.iter().map(|(line, range)| (*line, trim(*line, range))).collect();
        Self { places, put: self.put.clone() }
    }

    /// What each of these stretches has before it, or after it.
    pub(super) fn neighbours(&self, view: &View, is_before: bool) -> Option<Vec<char>> {
        let neighbour = |(line, range): &Place| {
            let text = &view.lines[*line].before;
            let at = if is_before { range.start.checked_sub(1)? } else { range.end };
            text.get(at).copied()
        };
        self.places.iter().map(neighbour).collect()
    }

    /// Whether a stretch begins or ends inside a word or number.
    pub(super) fn cuts_tokens(&self, view: &View) -> bool {
        self.places.iter().any(|(line, range)| {
            let text = &view.lines[*line].before;
            is_within_token(text, range.start) || is_within_token(text, range.end)
        })
    }

    /// Those of its stretches for which this holds.
    pub(super) fn those(&self, is: impl Fn(&Place) -> bool) -> Self {
        Self { places: self.places.iter().filter(|place| is(place)).cloned().collect(), put: self.put.clone() }
    }

    fn filled(&self) -> bool {
        !self.places.is_empty() && self.places.iter().all(|(_, range)| !range.is_empty())
    }
}

/// Stretches that go, or in whose place the same is put, in groups: all of them, those at an edge, those of one kind.
pub(super) fn clusters(view: &View) -> Vec<Cluster> {
    let edits = |line: &Line| line.edits.iter().filter(|edit| !edit.taken.is_empty()).cloned().collect();
    let mut clusters = Vec::new();
    for cluster in by_put(view, edits).into_iter().chain(by_put(view, whole_words)).chain(by_put(view, parts)) {
        let slid = if cluster.put.is_empty() { [Some(false), Some(true)] } else { [None, None] };
        let mut versions = vec![cluster.clone()];
        versions.extend(slid.into_iter().flatten().map(|to_right| slide(&cluster, view, to_right)));
        for version in versions {
            add_groups(&version, view, &mut clusters);
        }
    }
    let mut unique: Vec<Cluster> = Vec::new();
    for cluster in clusters {
        if cluster.filled() && !unique.contains(&cluster) {
            unique.push(cluster);
        }
    }
    unique
}

/// Edits of all lines, together where they put the same.
pub(super) fn by_put(view: &View, edits: impl Fn(&Line) -> Vec<Edit>) -> Vec<Cluster> {
    let mut clusters: Vec<Cluster> = Vec::new();
    for (number, line) in view.changed() {
        for edit in edits(line) {
            let put: String = line.put(&edit).iter().collect();
            match clusters.iter_mut().find(|cluster| cluster.put == put) {
                Some(cluster) => cluster.places.push((number, edit.taken)),
                None => clusters.push(Cluster { places: vec![(number, edit.taken)], put }),
            }
        }
    }
    clusters
}

/// Edits inside words and numbers, as edits of the whole word or number.
fn whole_words(line: &Line) -> Vec<Edit> {
    let mut edits: Vec<Edit> = Vec::new();
    for edit in &line.edits {
        let wide = line.widened(edit.taken.clone());
        match edits.last_mut() {
            // In one word with the edit before: what is between them is the same before and after.
            Some(last) if last.taken.end > edit.taken.start || wide.start < last.taken.end => {
                last.put.end = edit.put.end + (wide.end - edit.taken.end);
                last.taken.end = wide.end;
            }
            _ => {
                let (before, after) = (edit.taken.start - wide.start, wide.end - edit.taken.end);
                edits.push(Edit { taken: wide, put: edit.put.start - before..edit.put.end + after });
            }
        }
    }
    let length = line.after.as_ref().map_or(0, Vec::len);
    edits.retain(|edit| !line.edits.contains(edit) && !edit.taken.is_empty() && edit.put.end <= length);
    edits
}

/// Where marks, blanks and what stands between marks become something together: each of them as if it went by itself, or
/// became that.
fn parts(line: &Line) -> Vec<Edit> {
    let mut edits = Vec::new();
    for edit in line.edits.iter().filter(|edit| !edit.put.is_empty() && edit.taken.len() > 1) {
        let text = &line.before[edit.taken.clone()];
        let nothing = edit.put.start..edit.put.start;
        for token in tokens(text).into_iter().filter(|token| !token.kind.is_word()) {
            let taken = edit.taken.start + token.range.start..edit.taken.start + token.range.end;
            let closing = MARKS.iter().find(|(open, _)| token.kind == Kind::Marks(*open)).map(|(_, close)| *close);
            let close = closing.and_then(|close| text[token.range.end..].iter().position(|one| *one == close));
            if let Some(close) = close {
                edits.push(Edit { taken: taken.start..taken.end + close + 1, put: nothing.clone() });
            }
            edits.push(Edit { taken: taken.clone(), put: nothing.clone() });
            edits.push(Edit { taken, put: edit.put.clone() });
        }
    }
    edits
}

/// What goes may as well be a little further left or right, where the same characters stand there.
fn slide(cluster: &Cluster, view: &View, to_right: bool) -> Cluster {
    let moved = |line: &Line, range: &Range<usize>| {
        let (text, mut range) = (&line.before, range.clone());
        if to_right {
            while range.end < text.len() && text[range.start] == text[range.end] {
                range = range.start + 1..range.end + 1;
            }
        } else {
            while range.start > 0 && text[range.start - 1] == text[range.end - 1] {
                range = range.start - 1..range.end - 1;
            }
        }
        range
    };
    let places = cluster.places.iter().map(|(line, range)| (*line, moved(&view.lines[*line], range))).collect();
    Cluster { places, put: cluster.put.clone() }
}

fn add_groups(cluster: &Cluster, view: &View, clusters: &mut Vec<Cluster>) {
    let text = |place: &Place| &view.lines[place.0].before[place.1.clone()];
    let is_start = |place: &Place| view.lines[place.0].is_start(place.1.start);
    let is_end = |place: &Place| view.lines[place.0].is_end(place.1.end);
    clusters.push(cluster.clone());
    clusters.push(cluster.those(is_start));
    clusters.push(cluster.those(is_end));
    clusters.push(cluster.those(|place| !is_start(place)));
    clusters.push(cluster.those(|place| !is_end(place)));
    clusters.push(cluster.those(|place| !is_start(place) && !is_end(place)));
    // Those that begin alike, and those of one shape.
    for place in &cluster.places {
        let first = text(place).iter().find(|character| Kind::of(**character) != Kind::Blanks);
        clusters.push(
            cluster.those(|other| text(other).iter().find(|character| Kind::of(**character) != Kind::Blanks) == first),
        );
        let shape: Vec<Kind> = tokens(text(place)).iter().map(|token| token.kind).collect();
        clusters
            .push(cluster.those(|other| tokens(text(other)).iter().map(|token| token.kind).eq(shape.iter().copied())));
        clusters.push(cluster.those(|other| text(other) == text(place)));
    }
}
