//! The search for the rules that cost least: best first, a rule at a time.

use std::collections::HashMap;

use super::distance::distance;
use super::offers::{Offer, offers};
use super::runner::Runner;
use super::token::Kind;
use super::view::View;

/// The most rules of a set.
const MOST_RULES: usize = 7;

/// How many unfinished sets are extended by one more rule at each step.
const BEAM: usize = 20;

/// What at least one more rule costs.
const NEXT_RULE: u32 = 24;

/// What one more kind of edits is thought to cost.
const ONE_MORE_KIND: u32 = 7;

/// A set may cost so much more than the best one and still be worth a question.
pub(super) const MARGIN: u32 = 16;

/// What a character costs that a rule makes and a later one takes away again.
const DETOUR: usize = 3;

/// The longest detour of all texts together, in characters.
const MOST_DETOUR: usize = 8;

/// Rules that do the same to all pairs, the cheapest first.
pub(super) type Step = Vec<Offer>;

/// Rules that make every pair.
#[derive(Clone, Debug)]
pub(super) struct Solution {
    pub(super) steps: Vec<Step>,
    pub(super) price: u32,
}

impl Solution {
    /// The likeliest rule of each step.
    pub(super) fn rules(&self) -> Vec<String> {
        self.steps.iter().map(|step| step[0].rule.clone()).collect()
    }
}

/// Texts on their way, the rules so far, and their price.
struct State {
    texts: Vec<String>,
    steps: Vec<Step>,
    price: u32,
    /// How many characters have to go or come yet.
    left: usize,
    /// How many kinds of edits are left, once that is worked out.
    kinds: usize,
}

/// The sets that make all of these pairs, the cheapest first. `goes_on` is asked now and then; when it says no, what was found
/// so far is given.
pub(super) fn search(
    pairs: &[(String, String)],
    is_of_names: bool,
    runner: &mut Runner,
    goes_on: &dyn Fn() -> bool,
) -> Vec<Solution> {
    let afters: Vec<Vec<char>> = pairs.iter().map(|(_, after)| after.chars().collect()).collect();
    let befores: Vec<String> = pairs.iter().map(|(before, _)| before.clone()).collect();
    let all = |text: &String| text.chars().collect::<Vec<char>>();
    let left =
        befores.iter().zip(&afters).map(|(before, after)| apart(&all(before), after, usize::MAX).unwrap_or(0)).sum();
    let mut states = vec![State { texts: befores, steps: Vec::new(), price: 0, left, kinds: 1 }];
    let mut best_price: HashMap<Vec<String>, u32> = HashMap::new();
    let mut solutions: Vec<Solution> = Vec::new();
    // A set that costs more is of no use.
    let mut bound = u32::MAX;
    for _ in 0..MOST_RULES {
        let mut next: Vec<State> = Vec::new();
        for state in &states {
            if state.price + NEXT_RULE > bound || !goes_on() {
                continue;
            }
            for child in expand(state, &afters, is_of_names, &mut bound, runner, goes_on) {
                if child.left == 0 {
                    solutions.push(Solution { steps: child.steps, price: child.price });
                    continue;
                }
                let known = best_price.entry(child.texts.clone()).or_insert(u32::MAX);
                if child.price < *known {
                    *known = child.price;
                    next.push(child);
                }
            }
        }
        next.retain(|state| best_price.get(&state.texts) == Some(&state.price));
        next.sort_by_key(|state| (estimate(state), state.left));
        next.truncate(4 * BEAM);
        for state in &mut next {
            state.kinds = kinds_of_edits(&state.texts, &afters, is_of_names);
        }
        next.sort_by_key(|state| (estimate(state), state.left));
        next.truncate(BEAM);
        states = next;
        if states.is_empty() {
            break;
        }
    }
    solutions.sort_by_key(|solution| solution.price);
    solutions
}

/// The price of a finished set, as far as it can be told.
fn estimate(state: &State) -> u32 {
    let kinds = u32::try_from(state.kinds.saturating_sub(1)).unwrap_or(0);
    state.price + NEXT_RULE + ONE_MORE_KIND * kinds + u32::try_from(state.left.min(20) / 2).unwrap_or(0)
}

/// How many kinds of edits there are yet: those that take characters of one kind and put the same.
fn kinds_of_edits(texts: &[String], afters: &[Vec<char>], is_of_names: bool) -> usize {
    let pairs = texts.iter().zip(afters).map(|(text, after)| (text.chars().collect(), after.clone()));
    let view = View::of(pairs, is_of_names);
    let mut kinds = std::collections::HashSet::new();
    for (_, line) in view.changed() {
        for edit in &line.edits {
            let first = line.before.get(edit.taken.start).filter(|_| !edit.taken.is_empty());
            kinds.insert((first.map(|first| Kind::of(*first)), line.put(edit).to_vec()));
        }
    }
    kinds.len()
}

/// Longer texts are compared by lines, in characters.
const LONG: usize = 6000;

/// How far two texts are apart: by characters, or if they are long by lines.
fn apart(before: &[char], after: &[char], most: usize) -> Option<usize> {
    if before.len() + after.len() < LONG {
        return distance(before, after, most);
    }
    let lines = |text| <[char]>::split(text, |character| *character == '\n').collect::<Vec<_>>();
    distance(&lines(before), &lines(after), most)
}

/// The states that one more rule leads to: one for each different result, with all the rules that lead to it.
fn expand(
    state: &State,
    afters: &[Vec<char>],
    is_of_names: bool,
    bound: &mut u32,
    runner: &mut Runner,
    goes_on: &dyn Fn() -> bool,
) -> Vec<State> {
    let texts = state.texts.iter().zip(afters).map(|(text, after)| (text.chars().collect(), after.clone()));
    let view = View::of(texts, is_of_names);
    let mut offers = offers(&view);
    offers.sort_by(|one, other| one.price.cmp(&other.price).then_with(|| one.rule.cmp(&other.rule)));
    let mut seen = std::collections::HashSet::new();
    let mut by_result: HashMap<Vec<String>, (usize, usize, Step)> = HashMap::new();
    let mut order = Vec::new();
    let distances: Vec<usize> =
        view.texts.iter().map(|(before, after)| apart(before, after, usize::MAX).unwrap_or(0)).collect();
    let mut waiting: std::collections::VecDeque<Offer> = offers.into();
    while let Some(mut offer) = waiting.pop_front() {
        if state.price.saturating_add(offer.price) > *bound {
            continue;
        }
        if !seen.insert(offer.rule.clone()) {
            continue;
        }
        if !goes_on() {
            break;
        }
        let narrower = std::mem::take(&mut offer.narrower);
        match try_rule(&offer.rule, state, &view, &distances, runner) {
            Tried::Nothing => {}
            Tried::Touches => waiting.extend(narrower),
            Tried::Leads { texts, left, detour } => {
                if left == 0 {
                    *bound = (*bound).min(state.price + offer.price + MARGIN);
                }
                if detour > 0 {
                    waiting.extend(narrower);
                }
                let entry = by_result.entry(texts.clone()).or_insert_with(|| {
                    order.push(texts);
                    (left, detour, Vec::new())
                });
                entry.2.push(offer);
            }
        }
    }
    let child = |texts: Vec<String>| {
        let (left, detour, mut step) = by_result.remove(&texts)?;
        step.sort_by(|one, other| one.price.cmp(&other.price).then_with(|| one.rule.cmp(&other.rule)));
        let price = state.price + step[0].price + u32::try_from(detour * DETOUR).unwrap_or(u32::MAX / 2);
        let steps = state.steps.iter().cloned().chain([step]).collect();
        Some(State { texts, steps, price, left, kinds: 1 })
    };
    order.into_iter().filter_map(child).collect()
}

/// What a rule does to the texts.
enum Tried {
    Nothing,
    /// It changes what should stay.
    Touches,
    Leads {
        texts: Vec<String>,
        left: usize,
        detour: usize,
    },
}

fn try_rule(rule: &str, state: &State, view: &View, distances: &[usize], runner: &mut Runner) -> Tried {
    let (mut texts, mut left_all, mut detour) = (Vec::with_capacity(state.texts.len()), 0, 0);
    for ((text, (before, after)), was_left) in state.texts.iter().zip(&view.texts).zip(distances.iter().copied()) {
        let Some(washed) = runner.run(rule, text) else { return Tried::Nothing };
        if washed == *text {
            left_all += was_left;
        } else if before == after {
            return Tried::Touches;
        } else {
            // What it changes has to be on the way: then what it does and what is left are together what was left before.
            let now: Vec<char> = washed.chars().collect();
            let most = was_left + MOST_DETOUR;
            let Some(left) = apart(&now, after, most) else { return Tried::Touches };
            let Some(moved) = apart(before, &now, most - left) else { return Tried::Touches };
            detour += (left + moved).saturating_sub(was_left);
            left_all += left;
        }
        texts.push(washed);
    }
    if texts == state.texts {
        Tried::Nothing
    } else if detour > MOST_DETOUR || left_all >= state.left {
        Tried::Touches
    } else {
        Tried::Leads { texts, left: left_all, detour }
    }
}
