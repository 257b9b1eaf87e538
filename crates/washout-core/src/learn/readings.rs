//! What the pairs leave open: sets that make all pairs, and other lines differently.

use super::Pair;
use super::distance::distance;
use super::runner::Runner;
use super::search::{MARGIN, Solution};
use super::token::{Kind, tokens};
use super::write;
use crate::rules::NamePart;

/// One way to read the pairs, as rules.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Reading {
    /// The rules in order, as a rule set writes them: `remove = { chars = "_" }`.
    pub rules: Vec<String>,
    /// The part of names that the rules see, if they were learnt for names.
    pub part: Option<NamePart>,
    /// Where it differs from the first reading; the first one differs from none.
    pub differs: Option<Difference>,
}

/// A line with which two readings do something else.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Difference {
    /// The line: one of those that were given, or one made up of them.
    pub line: String,
    /// What the first reading makes of it.
    pub first: String,
    /// What this one makes of it.
    pub this: String,
}

impl Reading {
    /// The rule set, with the pairs as its examples.
    pub fn rule_set(&self, pairs: &[Pair]) -> String {
        write::rule_set(self, pairs)
    }
}

/// The most readings that are told.
const MOST_READINGS: usize = 3;

/// The most sets that are looked at, and the most lines on which they may differ.
const MOST_SETS: usize = 80;
const MOST_PROBES: usize = 400;

/// What it costs a reading that it leaves nothing of another line, or takes digits of it that stay in all pairs.
const RUINED_LINE: u32 = 10;

/// What a reading gains that changes every other line.
const ALL_CHANGED: usize = 8;

/// Whether a rule puts words for one pair alone that no other pair has, as a table of the pairs would.
pub(super) fn invents(solution: &Solution, pairs: &[(String, String)], runner: &mut Runner) -> bool {
    if pairs.iter().filter(|(before, after)| before != after).count() < 2 {
        return false;
    }
    let mut texts: Vec<String> = pairs.iter().map(|(before, _)| before.clone()).collect();
    for step in &solution.steps {
        let mut changed = 0;
        for text in &mut texts {
            if let Some(washed) = runner.run(&step[0].rule, text) {
                changed += usize::from(washed != *text);
                *text = washed;
            }
        }
        if changed < 2 && step[0].puts_words {
            return true;
        }
    }
    false
}

/// The pair whose text after has the least in common with what it was made of.
pub(super) fn least_explained(pairs: &[Pair]) -> usize {
    let share = |pair: &Pair| {
        let (before, after): (Vec<char>, Vec<char>) = (pair.before.chars().collect(), pair.after.chars().collect());
        let apart = distance(&before, &after, usize::MAX).unwrap_or(0);
        apart * 1000 / (before.len() + after.len()).max(1)
    };
    (0..pairs.len()).max_by_key(|number| (share(&pairs[*number]), pairs.len() - number)).unwrap_or(0)
}

/// A table of what the pairs say.
pub(super) fn table(pairs: &[(String, String)], part: Option<NamePart>) -> Reading {
    let changed = pairs.iter().filter(|(before, after)| before != after);
    let rows: Vec<String> = changed
        .map(|(before, after)| {
            format!("[{}, {}]", super::offers::quoted(before), super::offers::quoted(after))
        })
        .collect();
    let rules = vec![format!("replace = {{ pairs = [{}] }}", rows.join(", "))];
    Reading { rules, part, differs: None }
}

/// The likeliest readings of all solutions.
pub(super) fn readings(
    solutions: &[Solution],
    pairs: &[(String, String)],
    others: &[String],
    part: Option<NamePart>,
    runner: &mut Runner,
) -> Vec<Reading> {
    let probes = if others.is_empty() { made_up(pairs) } else { others.iter().take(MOST_PROBES).cloned().collect() };
    let mut sets: Vec<(u32, Vec<String>)> = Vec::new();
    let cheapest = solutions[0].price;
    for solution in solutions.iter().filter(|solution| solution.price <= cheapest + MARGIN) {
        let first: Vec<String> = solution.steps.iter().map(|step| step[0].rule.clone()).collect();
        sets.push((solution.price, first.clone()));
        for (at, step) in solution.steps.iter().enumerate() {
            for offer in step[1..].iter().filter(|offer| offer.price <= step[0].price + MARGIN).take(12) {
                let mut rules = first.clone();
                rules[at].clone_from(&offer.rule);
                sets.push((solution.price + offer.price - step[0].price, rules));
            }
        }
    }
    sets.sort_by_key(|(price, _)| *price);
    sets.truncate(MOST_SETS);
    // With other texts between, a rule may do something else: each set has to make all pairs by itself.
    sets.retain(|(_, rules)| {
        pairs.iter().all(|(before, after)| {
            runner.run_all(rules.iter().map(|rule| &rule[..]), before).as_ref() == Some(after)
        })
    });
    let mut read: Vec<(u32, Vec<String>, Vec<Option<String>>)> = sets
        .into_iter()
        .map(|(price, rules)| {
            let results: Vec<Option<String>> =
                probes.iter().map(|probe| runner.run_all(rules.iter().map(|rule| &rule[..]), probe)).collect();
            let price = if others.is_empty() { price } else { likelihood(price, &probes, &results, pairs) };
            (price, rules, results)
        })
        .collect();
    read.sort_by_key(|(price, ..)| *price);
    let Some((_, _, of_first)) = read.first().cloned() else { return Vec::new() };
    let mut readings: Vec<Reading> = Vec::new();
    let mut told: Vec<Vec<Option<String>>> = Vec::new();
    for (_, rules, results) in read {
        if readings.len() == MOST_READINGS || told.contains(&results) {
            continue;
        }
        let differs = probes.iter().zip(&of_first).zip(&results).find(|((_, first), this)| first != this);
        let differs = differs.map(|((line, first), this)| Difference {
            line: line.clone(),
            first: first.clone().unwrap_or_default(),
            this: this.clone().unwrap_or_default(),
        });
        told.push(results);
        readings.push(Reading { rules, part, differs });
    }
    readings
}

/// The price of a reading, with what it does to other lines.
fn likelihood(price: u32, others: &[String], results: &[Option<String>], pairs: &[(String, String)]) -> u32 {
    let digits = |text: &str| text.chars().filter(char::is_ascii_digit).count();
    let keeps_digits = pairs.iter().all(|(before, after)| digits(before) == digits(after));
    let (mut ruined, mut changed) = (0, 0);
    for (other, result) in others.iter().zip(results) {
        let Some(result) = result else { continue };
        let is_emptied = result.is_empty() && !other.is_empty();
        let loses_digits = keeps_digits && digits(result) < digits(other);
        ruined += u32::from(is_emptied || loses_digits);
        changed += usize::from(result != other && !is_emptied);
    }
    let gain = u32::try_from(changed * ALL_CHANGED / others.len().max(1)).unwrap_or(0);
    (price + RUINED_LINE * ruined.min(5)).saturating_sub(gain)
}

/// Lines like those of the pairs: a number longer or shorter, a word more or less, other letters.
fn made_up(pairs: &[(String, String)]) -> Vec<String> {
    let mut probes: Vec<String> = Vec::new();
    for (before, _) in pairs {
        let text: Vec<char> = before.chars().collect();
        let tokens = tokens(&text);
        let with = |at: usize, put: &str| -> String {
            let range = &tokens[at].range;
            text[..range.start].iter().copied().chain(put.chars()).chain(text[range.end..].iter().copied()).collect()
        };
        for (at, token) in tokens.iter().enumerate() {
            let own: String = text[token.range.clone()].iter().collect();
            match token.kind {
                Kind::Digits => probes.extend([with(at, &format!("{own}7")), with(at, "5"), with(at, "0042")]),
                Kind::Letters => probes.extend([
                    with(at, "Øl"),
                    with(at, &format!("{own} och {own}")),
                    with(at, &own.to_uppercase()),
                    with(at, &own.to_lowercase()),
                ]),
                Kind::Blanks => probes.push(with(at, "  ")),
                Kind::Marks(mark) => probes.extend([with(at, &format!("{mark}{mark}")), with(at, "#")]),
            }
            probes.push(with(at, ""));
        }
        probes.extend([format!("x {before}"), format!("{before} x"), format!("x {before} x"), format!("{before} {before}")]);
    }
    probes.sort_unstable();
    probes.dedup();
    probes.truncate(MOST_PROBES);
    probes
}
