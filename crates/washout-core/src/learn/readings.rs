//! What the pairs leave open: sets that make all pairs, and other lines differently.

use super::Pair;
use super::distance::distance;
use super::on_lines::digits;
use super::runner::Runner;
use super::search::{MARGIN, Solution};
use super::seen::Seen;
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
    /// The rule set, with these pairs as its examples. Those of names are about the part of them that the rules see.
    pub fn rule_set(&self, pairs: &[Pair]) -> String {
        write::rule_set(self, pairs)
    }

    /// Whether it makes all of these pairs.
    pub(super) fn makes(&self, pairs: &[(String, String)], runner: &mut Runner) -> bool {
        pairs.iter().all(|pair| make(&self.rules, pair, runner))
    }
}

/// The most readings that are told.
const MOST_READINGS: usize = 3;

/// The most sets that are looked at, and the most lines on which they may differ.
const MOST_SETS: usize = 80;
const MOST_PROBES: usize = 400;

/// What it costs a reading that it leaves nothing of another line, or takes digits of it that stay in all pairs.
const RUINED_LINE: u32 = 10;

/// What a reading gains each time it changes twice as many other lines, and at most.
const TWICE_AS_MANY: u32 = 3;
const MOST_GAIN: u32 = 24;

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

/// Whether rules make this pair.
pub(super) fn make(rules: &[String], (before, after): &(String, String), runner: &mut Runner) -> bool {
    runner.run_all(rules.iter().map(|rule| &rule[..]), before).as_ref() == Some(after)
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
        .map(|(before, after)| format!("[{}, {}]", super::offers::quoted(before), super::offers::quoted(after)))
        .collect();
    let rules = vec![format!("replace = {{ pairs = [{}] }}", rows.join(", "))];
    Reading { rules, part, differs: None }
}

/// The likeliest readings of all solutions.
pub(super) fn readings(
    solutions: &[Solution],
    pairs: &[(String, String)],
    others: &[Seen],
    first: &Seen,
    part: Option<NamePart>,
    runner: &mut Runner,
) -> Vec<Reading> {
    let probes = if others.is_empty() {
        made_up(pairs).into_iter().map(|text| first.with(text)).collect()
    } else {
        some_of(others)
    };
    let mut sets: Vec<(u32, Vec<String>)> = Vec::new();
    let cheapest = solutions[0].price;
    for solution in solutions.iter().filter(|solution| solution.price <= cheapest + MARGIN) {
        let first = solution.rules();
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
    sets.retain(|(_, rules)| pairs.iter().all(|pair| make(rules, pair, runner)));
    let mut read: Vec<(u32, Vec<String>, Vec<Option<String>>)> = sets
        .into_iter()
        .map(|(price, rules)| {
            let results: Vec<Option<String>> =
                probes.iter().map(|probe| runner.run_all(rules.iter().map(|rule| &rule[..]), &probe.text)).collect();
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
        let differs = differs.map(|((probe, first), this)| Difference {
            line: probe.whole(&probe.text),
            first: probe.whole(first.as_ref().unwrap_or(&probe.text)),
            this: probe.whole(this.as_ref().unwrap_or(&probe.text)),
        });
        told.push(results);
        readings.push(Reading { rules, part, differs });
    }
    readings
}

/// The price of a reading, with what it does to other lines.
fn likelihood(price: u32, others: &[Seen], results: &[Option<String>], pairs: &[(String, String)]) -> u32 {
    let keeps_digits = pairs.iter().all(|(before, after)| digits(before) <= digits(after));
    let (mut ruined, mut changed) = (0, 0);
    for (other, result) in others.iter().zip(results) {
        let Some(result) = result else { continue };
        let is_emptied = result.is_empty() && !other.text.is_empty();
        let loses_digits = keeps_digits && digits(result) < digits(&other.text);
        ruined += u32::from(is_emptied || loses_digits);
        changed += u32::from(*result != other.text && !is_emptied);
    }
    let gain = (TWICE_AS_MANY * (u32::BITS - changed.leading_zeros())).min(MOST_GAIN);
    (price + RUINED_LINE * ruined.min(5)).saturating_sub(gain)
}

/// At most [`MOST_PROBES`] lines, spread from the first to the last.
fn some_of(others: &[Seen]) -> Vec<Seen> {
    let step = others.len().div_ceil(MOST_PROBES).max(1);
    others.iter().step_by(step).cloned().collect()
}

/// Lines like those of the pairs, the likeliest first: a number longer or shorter, a word more or less, other letters, and at last
/// other marks.
fn made_up(pairs: &[(String, String)]) -> Vec<String> {
    // By how unlikely they are.
    let mut probes: Vec<(u8, String)> = Vec::new();
    for (before, _) in pairs {
        let text: Vec<char> = before.chars().collect();
        let tokens = tokens(&text);
        for token in &tokens {
            let range = &token.range;
            let mut with = |rank: u8, put: &str| {
                let (start, end) = (text[..range.start].iter(), text[range.end..].iter());
                probes.push((rank, start.copied().chain(put.chars()).chain(end.copied()).collect()));
            };
            let own: String = text[range.clone()].iter().collect();
            match token.kind {
                Kind::Digits => [(0, format!("{own}7")), (0, "5".to_owned()), (1, "0042".to_owned())],
                Kind::Letters => [(0, format!("{own} and {own}")), (1, own.to_uppercase()), (1, own.to_lowercase())],
                Kind::Blanks => [(3, "  ".to_owned()), (4, String::new()), (4, String::new())],
                Kind::Marks(mark) => [(3, format!("{mark}{mark}")), (2, String::new()), (4, "#".to_owned())],
            }
            .iter()
            .for_each(|(rank, put)| with(*rank, put));
            if token.kind == Kind::Letters {
                with(2, "Øl");
            }
            if token.kind.is_word() {
                with(3, "");
            }
        }
        for (rank, text) in [(1, format!("x {before}")), (1, format!("{before} x")), (2, format!("{before} {before}"))]
        {
            probes.push((rank, text));
        }
    }
    probes.sort();
    let mut probes: Vec<String> = probes.into_iter().map(|(_, probe)| probe).collect();
    probes.dedup();
    probes.truncate(MOST_PROBES);
    probes
}
