//! Rules in plain words: what each does, what it has to see, what its pattern means, and what to be careful about.

mod cautions;
mod cut;
mod order;
mod pattern;
mod search;
mod tables;
mod vanish;
mod words;

pub use cautions::{Caution, Sample, cautions, cautions_of_some};
pub use cut::Cut;
pub use pattern::{PatternPiece, pattern_pieces};

use crate::program::Program;
use crate::rules::{FlatRule, RuleId, RuleName, RuleSet, Target, flat};

/// One rule in plain words.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Explanation {
    /// Which rule.
    pub rule: RuleName,
    /// What it does, in sentences.
    pub does: Vec<String>,
    /// What it has to see to do it.
    pub needs: String,
    /// Its pattern, piece by piece, if it has one.
    pub pieces: Vec<PatternPiece>,
}

/// Explains every rule of these sets that is on, in the order they run: [`RuleId`]s are those of the program that is
/// compiled from the same sets.
///
/// ```
/// use washout_core::RuleSet;
/// use washout_core::explain::explain;
///
/// let rules = RuleSet::read_one_rule("rule", "drop_lines = { empty = 'extra' }")?;
/// assert_eq!(explain([&rules])[0].does[0], "Of several empty lines in a row, keeps the first.");
/// # Ok::<(), washout_core::RuleError>(())
/// ```
pub fn explain<'r>(sets: impl IntoIterator<Item = &'r RuleSet>) -> Vec<Explanation> {
    let sets: Vec<&RuleSet> = sets.into_iter().collect();
    let program = Program::compile(sets.iter().copied());
    let rules = flat(sets);
    rules.iter().enumerate().map(|(index, rule)| one(rule, RuleId(index), &program)).collect()
}

fn one(flat: &FlatRule<'_>, id: RuleId, program: &Program) -> Explanation {
    let rule = flat.rule;
    let mut does = vec![words::verb(&rule.verb)];
    does.extend(tables::cells(flat));
    flat.scopes.iter().for_each(|scope| does.extend(words::scope(scope)));
    if !flat.protect.is_empty() {
        let protected: Vec<String> = flat.protect.iter().map(|search| words::found(search)).collect();
        does.push(format!(
            "The set protects {}: a match that shares a byte with one is left alone.",
            protected.join("; ")
        ));
    }
    does.extend(words::expectations(rule));
    let pattern = rule.verb.search().and_then(|search| match &search.target {
        Target::Pattern(pattern) => Some(pattern),
        _ => None,
    });
    let mut needs = program.needs(id);
    if pattern.is_some_and(crate::pattern::Pattern::looks_around) {
        needs.push_str(
            "; its pattern looks around or refers back, and runs on a backtracking engine whose work is bounded",
        );
    }
    let pieces = pattern.map_or_else(Vec::new, |pattern| pattern_pieces(pattern.source()));
    Explanation { rule: RuleName { number: flat.number.clone(), caption: rule.caption() }, does, needs, pieces }
}
