//! How far two texts are apart, and where they differ.

use std::ops::Range;

use super::token::is_within_token;

/// What a character costs that goes or comes, and a place where texts begin to differ: two places with one common character
/// between them cost less than three characters, so that texts that share a letter by chance differ in one place.
const CHARACTER: u32 = 10;
const PLACE: u32 = 12;
/// A place that begins or ends inside a word or number.
const INSIDE: u32 = 6;

/// The most cells of a table of distances. Beyond it, all between the common start and the common end is one place.
const MOST_CELLS: usize = 250_000;

/// How many characters, or lines, have to go or come to make the second text of the first, or `None` if that is more than `most`.
/// (The greedy algorithm of Myers, "An O(ND) Difference Algorithm", 1986.)
pub(super) fn distance<T: PartialEq>(before: &[T], after: &[T], most: usize) -> Option<usize> {
    let (start, end) = common(before, after);
    let (before, after) = (&before[start..before.len() - end], &after[start..after.len() - end]);
    let most = most.min(before.len() + after.len());
    // The furthest place in `before` on each diagonal; `middle` is the diagonal 0.
    let middle = most + 1;
    let mut furthest = vec![0; 2 * middle + 1];
    for steps in 0..=most {
        for diagonal in (middle - steps..=middle + steps).step_by(2) {
            let comes = diagonal == middle - steps
                || (diagonal != middle + steps && furthest[diagonal - 1] < furthest[diagonal + 1]);
            let mut x = if comes { furthest[diagonal + 1] } else { furthest[diagonal - 1] + 1 };
            // Off the table: nothing is there to be reached.
            let Some(mut y) = (x + middle).checked_sub(diagonal) else { continue };
            while x < before.len() && y < after.len() && before[x] == after[y] {
                (x, y) = (x + 1, y + 1);
            }
            furthest[diagonal] = x;
            if x >= before.len() && y >= after.len() {
                return Some(steps);
            }
        }
    }
    None
}

/// Characters that two texts have in common at their start, and at their end.
pub(super) fn common<T: PartialEq>(before: &[T], after: &[T]) -> (usize, usize) {
    let start = before.iter().zip(after).take_while(|(one, other)| one == other).count();
    let rest = before[start..].iter().rev().zip(after[start..].iter().rev());
    (start, rest.take_while(|(one, other)| one == other).count())
}

/// A stretch of a text that becomes another. Positions are characters from 0.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct Edit {
    pub(super) taken: Range<usize>,
    pub(super) put: Range<usize>,
}

/// The edits that make the second text of the first: few characters in few places, which begin and end between words.
pub(super) fn edits(before: &[char], after: &[char]) -> Vec<Edit> {
    if before == after {
        return Vec::new();
    }
    let (start, end) = common(before, after);
    // What goes may be moved a little into what is the same on both sides.
    let (skipped, rest) = (start.saturating_sub(ROOM), end.saturating_sub(ROOM));
    let (inner_before, inner_after) = (&before[skipped..before.len() - rest], &after[skipped..after.len() - rest]);
    let (rows, columns) = (inner_before.len() + 1, inner_after.len() + 1);
    if rows * columns > MOST_CELLS {
        return vec![Edit { taken: start..before.len() - end, put: start..after.len() - end }];
    }
    let edges = (skipped..skipped + rows).map(|at| if is_within_token(before, at) { INSIDE } else { 0 }).collect();
    let costs = Costs::of(inner_before, inner_after, edges);
    let moved = |range: Range<usize>| range.start + skipped..range.end + skipped;
    let edits = costs.edits(inner_before.len(), inner_after.len()).into_iter();
    edits.map(|edit| Edit { taken: moved(edit.taken), put: moved(edit.put) }).collect()
}

/// How much of what two texts have in common at their edges is compared with what differs, in characters.
const ROOM: usize = 24;

/// The least cost of making the start of `after` of the start of `before`, where the last characters are the same, and where
/// they are part of an edit.
struct Costs {
    columns: usize,
    /// What it costs to begin or end an edit at each place of `before`.
    edges: Vec<u32>,
    same: Vec<u32>,
    edit: Vec<u32>,
}

const NEVER: u32 = u32::MAX / 2;

impl Costs {
    fn of(before: &[char], after: &[char], edges: Vec<u32>) -> Self {
        let columns = after.len() + 1;
        let cells = columns * (before.len() + 1);
        let mut costs = Self { columns, edges, same: vec![NEVER; cells], edit: vec![NEVER; cells] };
        costs.same[0] = 0;
        for row in 0..=before.len() {
            for column in 0..=after.len() {
                let cell = row * columns + column;
                if row > 0 && column > 0 && before[row - 1] == after[column - 1] {
                    let from = cell - columns - 1;
                    costs.same[cell] = costs.same[from].min(costs.edit[from] + costs.edges[row - 1]);
                }
                let goes = if row > 0 { costs.edit_after(row - 1, cell - columns) } else { NEVER };
                let comes = if column > 0 { costs.edit_after(row, cell - 1) } else { NEVER };
                costs.edit[cell] = goes.min(comes).saturating_add(CHARACTER).min(NEVER);
            }
        }
        costs
    }

    /// The cost of having come to this cell and being in an edit.
    fn edit_after(&self, row: usize, cell: usize) -> u32 {
        self.edit[cell].min(self.same[cell] + PLACE + self.edges[row])
    }

    /// The edits that cost least, of texts that are so long.
    fn edits(&self, mut row: usize, mut column: usize) -> Vec<Edit> {
        let mut edits: Vec<Edit> = Vec::new();
        let last = row * self.columns + column;
        let mut is_edit = self.edit[last] < self.same[last];
        if is_edit {
            edits.push(Edit { taken: row..row, put: column..column });
        }
        while row > 0 || column > 0 {
            let cell = row * self.columns + column;
            if !is_edit {
                let from = cell - self.columns - 1;
                (row, column) = (row - 1, column - 1);
                is_edit = self.same[from] > self.edit[from] + self.edges[row];
                if is_edit {
                    edits.push(Edit { taken: row..row, put: column..column });
                }
                continue;
            }
            let goes = row > 0 && self.edit_after(row - 1, cell - self.columns) + CHARACTER == self.edit[cell];
            if goes {
                row -= 1;
            } else {
                column -= 1;
            }
            let from = row * self.columns + column;
            if let Some(edit) = edits.last_mut() {
                (edit.taken.start, edit.put.start) = (row, column);
            }
            is_edit = self.edit[from] <= self.same[from] + PLACE + self.edges[row];
        }
        edits.reverse();
        edits
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        /// Held against the table of longest common subsequences; and the edits make the second text of the first.
        #[test]
        fn distances_are_least_and_edits_are_complete(before in "[ab1 ]{0,12}", after in "[ab1 ]{0,12}") {
            let (before, after): (Vec<char>, Vec<char>) = (before.chars().collect(), after.chars().collect());
            let mut longest = vec![vec![0; after.len() + 1]; before.len() + 1];
            for row in 0..before.len() {
                for column in 0..after.len() {
                    longest[row + 1][column + 1] = if before[row] == after[column] {
                        longest[row][column] + 1
                    } else {
                        longest[row][column + 1].max(longest[row + 1][column])
                    };
                }
            }
            let least = before.len() + after.len() - 2 * longest[before.len()][after.len()];
            prop_assert_eq!(distance(&before, &after, usize::MAX), Some(least));
            prop_assert_eq!(distance(&before, &after, least), Some(least));
            prop_assert!(least == 0 || distance(&before, &after, least - 1).is_none());

            let (mut made, mut from) = (Vec::new(), 0);
            for edit in edits(&before, &after) {
                made.extend_from_slice(&before[from..edit.taken.start]);
                prop_assert_ne!(&before[edit.taken.clone()], &after[edit.put.clone()]);
                made.extend_from_slice(&after[edit.put]);
                from = edit.taken.end;
            }
            made.extend_from_slice(&before[from..]);
            prop_assert_eq!(made, after);
        }
    }
}
