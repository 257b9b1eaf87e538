//! What is left to be done: the lines of a text, and what should become of each.

use std::ops::Range;

use super::distance::{Edit, distance, edits};
use super::token::{Kind, widened};

/// A line, and what should become of it.
#[derive(Clone, Debug)]
pub(super) struct Line {
    pub(super) before: Vec<char>,
    /// `None` where the line goes as a whole.
    pub(super) after: Option<Vec<char>>,
    /// What differs; of a line that goes, nothing.
    pub(super) edits: Vec<Edit>,
}

impl Line {
    fn new(before: &[char], after: Option<&[char]>) -> Self {
        let edits = after.map(|after| edits(before, after)).unwrap_or_default();
        Self { before: before.to_vec(), after: after.map(<[char]>::to_vec), edits }
    }

    /// What takes the place of the stretch of an edit.
    pub(super) fn put(&self, edit: &Edit) -> &[char] {
        self.after.as_deref().map(|after| &after[edit.put.clone()]).unwrap_or_default()
    }

    /// Whether there is nothing but blanks before this place.
    pub(super) fn is_start(&self, at: usize) -> bool {
        self.before[..at].iter().all(|character| Kind::of(*character) == Kind::Blanks)
    }

    /// Whether there is nothing but blanks from this place on.
    pub(super) fn is_end(&self, at: usize) -> bool {
        self.before[at..].iter().all(|character| Kind::of(*character) == Kind::Blanks)
    }

    /// The stretch with its words and numbers whole.
    pub(super) fn widened(&self, stretch: Range<usize>) -> Range<usize> {
        widened(&self.before, stretch)
    }
}

/// The lines of all pairs.
#[derive(Clone, Debug)]
pub(super) struct View {
    pub(super) lines: Vec<Line>,
    /// The texts themselves.
    pub(super) texts: Vec<(Vec<char>, Vec<char>)>,
    /// Line ends go or come.
    pub(super) moves_line_ends: bool,
    /// They are names of files.
    pub(super) is_of_names: bool,
}

/// The most lines of a text that are matched with lines of what it should become.
const MOST_LINES: usize = 400;

impl View {
    pub(super) fn of(texts: impl Iterator<Item = (Vec<char>, Vec<char>)>, is_of_names: bool) -> Self {
        let mut view = Self { lines: Vec::new(), texts: Vec::new(), moves_line_ends: false, is_of_names };
        for (before, after) in texts {
            let befores: Vec<&[char]> = before.split(|character| *character == '\n').collect();
            let afters: Vec<&[char]> = after.split(|character| *character == '\n').collect();
            view.moves_line_ends |= befores.len() != afters.len();
            if befores.len() == afters.len() {
                view.lines.extend(befores.iter().zip(&afters).map(|(before, after)| Line::new(before, Some(after))));
            } else if let Some(lines) = dropped(&befores, &afters) {
                view.lines.extend(lines);
            } else if befores.len().max(afters.len()) <= MOST_LINES {
                view.lines.extend(matched(&befores, &afters));
            }
            view.texts.push((before, after));
        }
        view.lines.sort_by(|one, other| (&one.before, &one.after).cmp(&(&other.before, &other.after)));
        view.lines.dedup_by(|one, other| one.before == other.before && one.after == other.after);
        view
    }

    /// The lines that do not stay as they are, but stay.
    pub(super) fn changed(&self) -> impl Iterator<Item = (usize, &Line)> + Clone {
        self.lines.iter().enumerate().filter(|(_, line)| !line.edits.is_empty())
    }
}

/// Lines of a text of which some go and the others stay as they are, if that is all that differs.
fn dropped(befores: &[&[char]], afters: &[&[char]]) -> Option<Vec<Line>> {
    let mut rest = afters.iter().peekable();
    let lines = befores.iter().map(|before| Line::new(before, rest.next_if_eq(&before).copied())).collect();
    rest.peek().is_none().then_some(lines)
}

/// Lines of a text with what they become, where whole lines go: those that are most alike belong together.
fn matched(befores: &[&[char]], afters: &[&[char]]) -> Vec<Line> {
    // The least cost of the first rows with the first columns; a line that comes from nothing costs more than any match.
    let columns = afters.len() + 1;
    let cost_of = |before: &[char], after: &[char]| {
        let most = before.len() + after.len();
        // A line that goes costs its length; two lines with little in common do not belong together.
        distance(before, after, most * 3 / 4)
    };
    let mut costs = vec![usize::MAX / 2; (befores.len() + 1) * columns];
    costs[0] = 0;
    let mut matches = vec![None; costs.len()];
    for row in 0..=befores.len() {
        for column in 0..columns {
            let cell = row * columns + column;
            if row > 0 {
                costs[cell] = costs[cell].min(costs[cell - columns] + befores[row - 1].len() + 1);
            }
            if column > 0 {
                costs[cell] = costs[cell].min(costs[cell - 1] + 2 * afters[column - 1].len() + 2);
            }
            if row > 0 && column > 0 {
                matches[cell] = cost_of(befores[row - 1], afters[column - 1]);
                if let Some(cost) = matches[cell] {
                    costs[cell] = costs[cell].min(costs[cell - columns - 1] + cost);
                }
            }
        }
    }
    let (mut row, mut column) = (befores.len(), afters.len());
    let mut lines = Vec::new();
    while row > 0 {
        let cell = row * columns + column;
        let is_match = column > 0 && matches[cell].is_some_and(|cost| costs[cell] == costs[cell - columns - 1] + cost);
        if is_match {
            (row, column) = (row - 1, column - 1);
            lines.push(Line::new(befores[row], Some(afters[column])));
        } else if costs[cell] == costs[cell - columns] + befores[row - 1].len() + 1 {
            row -= 1;
            lines.push(Line::new(befores[row], None));
        } else {
            column -= 1;
        }
    }
    lines
}
