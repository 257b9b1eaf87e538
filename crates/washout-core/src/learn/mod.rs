//! Learning rules from examples: from texts as they are and as they should be to the rule set that makes one of the other.

mod distance;
mod offers;
mod pattern;
mod readings;
mod runner;
mod search;
mod token;
mod view;
mod write;

pub use readings::Reading;

use std::fmt;

use crate::names::part_range;
use crate::rules::NamePart;
use runner::Runner;

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
    let part = lesson.names.then(|| part_of(lesson.pairs));
    let seen = |text: &str| part.map_or_else(|| text.to_owned(), |part| seen_part(text, part));
    let mut pairs: Vec<(String, String)> = Vec::new();
    for (number, pair) in lesson.pairs.iter().enumerate() {
        if let Some(other) = lesson.pairs[..number].iter().position(|other| other.before == pair.before && other.after != pair.after) {
            return Err(LearnError::Contradiction(other, number));
        }
        let pair = (seen(&pair.before), seen(&pair.after));
        if !pairs.contains(&pair) {
            pairs.push(pair);
        }
    }
    if pairs.iter().all(|(before, after)| before == after) {
        return Err(LearnError::NothingDiffers);
    }
    let mut runner = Runner::default();
    let mut solutions = search::search(&pairs, lesson.names, &mut runner, goes_on);
    let was_found = !solutions.is_empty();
    solutions.retain(|solution| !readings::invents(solution, &pairs, &mut runner));
    if solutions.is_empty() {
        return match () {
            () if lesson.literal => Ok(Learnt { readings: vec![readings::table(&pairs, part)] }),
            () if !was_found && !goes_on() => Err(LearnError::Ended),
            () => Err(LearnError::Unexplained(readings::least_explained(lesson.pairs))),
        };
    }
    let others: Vec<String> = lesson.others.iter().map(|other| seen(other)).collect();
    let readings = readings::readings(&solutions, &pairs, &others, part, &mut runner);
    Ok(Learnt { readings })
}

/// The part of names that differs.
fn part_of(pairs: &[Pair]) -> NamePart {
    let is_same_in = |part: NamePart| {
        pairs.iter().all(|pair| seen_part(&pair.before, part) == seen_part(&pair.after, part))
    };
    match (is_same_in(NamePart::Extension), is_same_in(NamePart::Stem)) {
        (true, _) => NamePart::Stem,
        (_, true) => NamePart::Extension,
        _ => NamePart::Whole,
    }
}

fn seen_part(name: &str, part: NamePart) -> String {
    name[part_range(name.as_bytes(), part, false)].to_owned()
}
