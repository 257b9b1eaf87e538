//! Where a rule may act: the lines in its scope, and what is not protected.

use washout_core::rules::{At, LinePlace, Scope, Search, Unclosed};

use super::find::find;
use super::units::{Units, lines};
use super::{content_end, holds, line_with};

/// What holds for each line and each unit of one text.
pub struct Guard {
    /// Start, end, and whether the line is in scope.
    lines: Vec<((usize, usize), bool)>,
    /// Units no match may share.
    barred: Vec<bool>,
    /// The same without line ends before protected lines.
    pub cores: Vec<bool>,
}

impl Guard {
    pub fn new(scopes: &[&Scope], protects: &[&Search], units: &Units) -> Self {
        let all = lines(units);
        let each: Vec<Vec<bool>> = scopes.iter().map(|one| scope(one, units, &all)).collect();
        let in_scope: Vec<bool> = (0..all.len()).map(|line| each.iter().all(|scope| scope[line])).collect();
        let (mut barred, mut cores) = (vec![false; units.len()], vec![false; units.len()]);
        for search in protects.iter().copied().chain(scopes.iter().flat_map(|scope| &scope.spare)) {
            for (start, end) in protected(search, units) {
                cores[start..end].fill(true);
                barred[start..end].fill(true);
                if search.at == At::WholeLine && start > 0 {
                    barred[start - 1] = true;
                }
            }
        }
        for scope in scopes {
            for (first, last) in left_open(scope, units, &all) {
                cores[all[first].0..all[last].1].fill(true);
                barred[all[first].0..all[last].1].fill(true);
            }
        }
        Self { lines: all.into_iter().zip(in_scope).collect(), barred, cores }
    }

    pub fn allows(&self, start: usize, end: usize) -> bool {
        self.in_scope(start, end) && self.is_free(start, end)
    }

    pub fn in_scope(&self, start: usize, end: usize) -> bool {
        let touched = |line: (usize, usize)| {
            let last = line.1 == self.barred.len();
            let empty = start == end && line.0 <= start && (start < line.1 || last);
            empty || (line.0 < end && line.1 > start)
        };
        self.lines.iter().filter(|(line, _)| touched(*line)).all(|(_, in_scope)| *in_scope)
    }

    pub fn is_free(&self, start: usize, end: usize) -> bool {
        if start == end {
            let barred = |at: Option<usize>| at.and_then(|at| self.barred.get(at)) == Some(&true);
            return !(barred(start.checked_sub(1)) && barred(Some(start)));
        }
        !self.barred[start..end].contains(&true)
    }

    pub fn allows_line(&self, line: (usize, usize)) -> bool {
        self.in_scope(line.0, line.1) && !self.has_core(line)
    }

    pub fn has_core(&self, line: (usize, usize)) -> bool {
        self.cores[line.0..line.1].contains(&true)
    }
}

/// Protected stretches; whole lines with their own line ends.
fn protected(search: &Search, units: &Units) -> Vec<(usize, usize)> {
    let found = find(search, units).into_iter().filter(|found| found.start < found.end);
    found
        .map(|found| match search.at {
            At::WholeLine => (line_with(units, found.start).0, line_with(units, found.end - 1).1),
            _ => (found.start, found.end),
        })
        .collect()
}

/// Which lines hold what is searched.
fn holding(search: Option<&Search>, units: &Units, all: &[(usize, usize)]) -> Option<Vec<bool>> {
    search.map(|search| all.iter().map(|line| holds(&find(search, units), units, *line)).collect())
}

/// The first and last line of each section that is left alone, since it does not close before another opens.
fn left_open(scope: &Scope, units: &Units, all: &[(usize, usize)]) -> Vec<(usize, usize)> {
    let Some(closes) = holding(scope.to_line.as_ref(), units, all).filter(|_| scope.unclosed == Unclosed::Leave) else {
        return Vec::new();
    };
    let opens = holding(scope.from_line.as_ref(), units, all);
    let opens_at = |line: usize| opens.as_ref().map_or(line == 0, |opens| opens[line]);
    let mut left = Vec::new();
    let mut from = 0;
    while let Some(first) = (from..all.len()).find(|line| opens_at(*line)) {
        let next = if opens.is_some() { first + 1 } else { first };
        match (next..all.len()).find(|line| closes[*line] || (opens.is_some() && opens_at(*line))) {
            Some(end) if closes[end] => from = end + 1,
            Some(end) => {
                left.push((first, end - 1));
                from = end;
            }
            None => {
                left.push((first, all.len() - 1));
                return left;
            }
        }
        if opens.is_none() {
            return left;
        }
    }
    left
}

fn scope(scope: &Scope, units: &Units, all: &[(usize, usize)]) -> Vec<bool> {
    let holds_all = |search: &Option<Search>| -> Option<Vec<bool>> { holding(search.as_ref(), units, all) };
    let (only, skip) = (holds_all(&scope.only_lines), holds_all(&scope.skip_lines));
    let sections = sections(holds_all(&scope.from_line).as_deref(), holds_all(&scope.to_line).as_deref(), all.len());
    let place = |place: LinePlace| match place {
        LinePlace::FromStart(number) => i64::try_from(number).unwrap(),
        LinePlace::FromEnd(number) => i64::try_from(all.len()).unwrap() + 1 - i64::try_from(number).unwrap(),
    };
    let numbered = |index: usize| {
        let number = i64::try_from(index).unwrap() + 1;
        scope.lines.is_none_or(|range| (place(range.first)..=place(range.last)).contains(&number))
    };
    let is = |held: &Option<Vec<bool>>, index: usize| held.as_ref().map(|held| held[index]);
    (0..all.len())
        .map(|index| {
            sections[index] && numbered(index) && is(&only, index) != Some(false) && is(&skip, index) != Some(true)
        })
        .collect()
}

fn sections(opens: Option<&[bool]>, closes: Option<&[bool]>, count: usize) -> Vec<bool> {
    if opens.is_none() && closes.is_none() {
        return vec![true; count];
    }
    let mut inside = vec![false; count];
    let mut from = 0;
    loop {
        let first = match opens {
            Some(opens) => (from..count).find(|line| opens[*line]),
            None => Some(0).filter(|_| from == 0 && count > 0),
        };
        let Some(first) = first else { return inside };
        let search_from = if opens.is_some() { first + 1 } else { first };
        let last = closes.and_then(|closes| (search_from..count).find(|line| closes[*line]));
        let last = last.unwrap_or(count - 1);
        inside[first..=last].fill(true);
        from = last + 1;
        if from >= count || opens.is_none() {
            return inside;
        }
    }
}

/// Protected stretches of a line's content.
pub fn cores_of(guard: &Guard, units: &Units, line: (usize, usize)) -> Vec<(usize, usize)> {
    let mut stretches: Vec<(usize, usize)> = Vec::new();
    for at in (line.0..content_end(units, line)).filter(|at| guard.cores[*at]) {
        match stretches.last_mut() {
            Some(last) if last.1 == at => last.1 = at + 1,
            _ => stretches.push((at, at + 1)),
        }
    }
    stretches
}
