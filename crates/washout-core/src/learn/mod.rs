//! Learning rules from examples: from texts as they are and as they should be to the rule set that makes one of the other.

mod distance;
mod offers;
mod on_lines;
mod pairs;
mod pattern;
mod readings;
mod runner;
mod search;
mod seen;
mod token;
mod view;
mod write;

pub use on_lines::{Doubt, OnLine};
pub use readings::{Difference, Reading};

use std::collections::HashMap;
use std::fmt;

use runner::Runner;
use seen::{Seen, part_that_differs};

/// A text as it is, and as it should be.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Pair {
    /// As it is.
    pub before: String,
    /// As it should be.
    pub after: String,
}

impl Pair {
    /// A pair of these texts.
    pub fn new(before: impl Into<String>, after: impl Into<String>) -> Self {
        Self { before: before.into(), after: after.into() }
    }
}

/// What is learnt from, and how.
#[derive(Clone, Copy, Debug, Default)]
#[non_exhaustive]
pub struct Lesson<'l> {
    /// The pairs that the rules are to make.
    pub pairs: &'l [Pair],
    /// Other lines, of which it is not known what they should become.
    pub others: &'l [String],
    /// The texts are names of files.
    pub names: bool,
    /// Where no rules are found, a table of the pairs is one.
    pub literal: bool,
}

impl<'l> Lesson<'l> {
    /// A lesson of these pairs.
    pub fn new(pairs: &'l [Pair]) -> Self {
        Self { pairs, ..Self::default() }
    }
}

/// What was learnt.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Learnt {
    /// The readings of the pairs, the likeliest first; there is at least one, and each makes every pair. Those after the first do
    /// something else with another line, which they name.
    pub readings: Vec<Reading>,
    /// The pairs that decided it: all of them, or of many a few, from which the others follow.
    pub examples: Vec<Pair>,
}

/// Why nothing was learnt.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum LearnError {
    /// No pair differs.
    NothingDiffers,
    /// Two pairs, by their numbers from 0, have the same text before and not the same after.
    Contradiction(usize, usize),
    /// No rules make this pair, by its number from 0: what it should become is in none of its words, and in no other pair.
    Unexplained(usize),
    /// The search was ended before it found any rules.
    Ended,
}

impl fmt::Display for LearnError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NothingDiffers => write!(f, "each text is the same before and after, so there is nothing to learn"),
            Self::Contradiction(one, other) => {
                write!(f, "pairs {} and {} are the same before, and not the same after", one + 1, other + 1)
            }
            Self::Unexplained(pair) => write!(f, "no rules make pair {} what it should become", pair + 1),
            Self::Ended => write!(f, "the time was over before any rules were found"),
        }
    }
}

impl std::error::Error for LearnError {}

/// Finds the rules that make every pair of a lesson: few, and simple ones. `goes_on` is asked now and then whether to go on; what
/// was found until then is given.
///
/// ```
/// use washout_core::learn::{Lesson, Pair, learn};
///
/// let pairs = [Pair::new("00:14 Marrow Point", "Marrow Point")];
/// let learnt = learn(&Lesson::new(&pairs), &|| true)?;
/// assert_eq!(learnt.readings[0].rules, ["remove = { stock = \"timestamp\" }"]);
/// # Ok::<(), washout_core::learn::LearnError>(())
/// ```
///
/// # Errors
/// Pairs that contradict each other or that no rules explain.
pub fn learn(lesson: &Lesson<'_>, goes_on: &dyn Fn() -> bool) -> Result<Learnt, LearnError> {
    let mut first_with: HashMap<&str, usize> = HashMap::new();
    let (mut different, mut numbers): (Vec<&Pair>, Vec<usize>) = (Vec::new(), Vec::new());
    for (number, pair) in lesson.pairs.iter().enumerate() {
        let first = *first_with.entry(&pair.before).or_insert(number);
        if lesson.pairs[first].after != pair.after {
            return Err(LearnError::Contradiction(first, number));
        }
        if first == number {
            different.push(pair);
            numbers.push(number);
        }
    }
    if different.iter().all(|pair| pair.before == pair.after) {
        return Err(LearnError::NothingDiffers);
    }
    let part = lesson.names.then(|| part_that_differs(lesson.pairs));
    let seen = |text: &str| Seen::of(text, part);
    let all: Vec<(String, String)> =
        different.iter().map(|pair| (seen(&pair.before).text, seen(&pair.after).text)).collect();
    let others: Vec<Seen> = lesson.others.iter().map(|other| seen(other)).collect();
    let first = seen(&different[0].before);
    let mut runner = Runner::default();
    // Few pairs decide most of it; those that they leave out come in where they turn out differently.
    let mut chosen = first_pairs(&all);
    // The one that came in last.
    let mut odd = None;
    loop {
        let pairs: Vec<(String, String)> = chosen.iter().map(|at| all[*at].clone()).collect();
        let (solutions, was_found) = solutions_of(&pairs, lesson.names, &mut runner, goes_on);
        if solutions.is_empty() {
            let odd = odd.or_else(|| odd_one_out(&chosen, &all, lesson.names, &mut runner, goes_on));
            let readings = vec![readings::table(&all, part)];
            let examples: Vec<Pair> = different.iter().take(MOST_EXAMPLES).map(|pair| (*pair).clone()).collect();
            return match () {
                () if lesson.literal && readings[0].makes(&all, &mut runner) => Ok(Learnt { readings, examples }),
                () if odd.is_none() && !was_found && !goes_on() => Err(LearnError::Ended),
                () => {
                    let odd = odd.map(|at| numbers[at]);
                    Err(LearnError::Unexplained(odd.unwrap_or_else(|| readings::least_explained(lesson.pairs))))
                }
            };
        }
        let mut readings = readings::readings(&solutions, &pairs, &others, &first, part, &mut runner);
        readings.retain(|reading| reading.makes(&all, &mut runner));
        if !readings.is_empty() {
            let examples = chosen.iter().map(|at| different[*at].clone()).collect();
            return Ok(Learnt { readings, examples });
        }
        let likeliest = &solutions[0].rules();
        let mut others = (0..all.len()).filter(|at| !chosen.contains(at));
        let failing = others.find(|at| !readings::make(likeliest, &all[*at], &mut runner));
        let Some(failing) = failing.filter(|_| chosen.len() < MOST_EXAMPLES) else {
            return Err(LearnError::Unexplained(readings::least_explained(lesson.pairs)));
        };
        odd = Some(failing);
        chosen.push(failing);
    }
}

/// The sets that make these pairs and invent nothing, and whether any set makes them.
fn solutions_of(
    pairs: &[(String, String)],
    names: bool,
    runner: &mut Runner,
    goes_on: &dyn Fn() -> bool,
) -> (Vec<search::Solution>, bool) {
    let mut solutions = search::search(pairs, names, runner, goes_on);
    let was_found = !solutions.is_empty();
    solutions.retain(|solution| !readings::invents(solution, pairs, runner));
    (solutions, was_found)
}

/// The pair without which rules are found that make all others, as where one has a slip in it.
fn odd_one_out(
    chosen: &[usize],
    all: &[(String, String)],
    names: bool,
    runner: &mut Runner,
    goes_on: &dyn Fn() -> bool,
) -> Option<usize> {
    let changed = |at: &usize| all[*at].0 != all[*at].1;
    // Two that remain may be alike by chance; less than that says nothing.
    if chosen.iter().filter(|at| changed(at)).count() < 3 {
        return None;
    }
    chosen.iter().copied().filter(changed).find(|odd| {
        let rest: Vec<(String, String)> = chosen.iter().filter(|at| *at != odd).map(|at| all[*at].clone()).collect();
        let solution = solutions_of(&rest, names, runner, goes_on).0.into_iter().next();
        solution.is_some_and(|solution| {
            let rules = solution.rules();
            (0..all.len()).all(|at| at == *odd || readings::make(&rules, &all[at], runner))
        })
    })
}

/// The most pairs that are looked at together.
const MOST_EXAMPLES: usize = 16;

/// The pairs to begin with, by their numbers: all of them, or the first ones that change and the first ones that stay.
fn first_pairs(all: &[(String, String)]) -> Vec<usize> {
    const FIRST: usize = 3;
    if all.len() <= 2 * FIRST {
        return (0..all.len()).collect();
    }
    let (changed, same): (Vec<usize>, Vec<usize>) = (0..all.len()).partition(|at| all[*at].0 != all[*at].1);
    let mut chosen: Vec<usize> = changed.into_iter().take(FIRST).chain(same.into_iter().take(FIRST)).collect();
    chosen.sort_unstable();
    chosen
}
