//! How far a pattern that looks around or refers back looks from each place where it is tried.
//!
//! The backtracking engine counts its steps back, but not the bytes that a part of a pattern looks at at once:
//! `(?=.*z)a` looks at the rest of the line from each place of it. So where lines are long, a few places stand for all, and
//! an automaton that matches no less tells how many bytes are looked at from them.

use std::sync::OnceLock;

use fancy_regex::{Assertion, Expr, LookAround};
use regex_automata::hybrid::LazyStateID;
use regex_automata::hybrid::dfa::{Cache, DFA};
use regex_automata::nfa::thompson::{self, WhichCaptures};
use regex_automata::{Anchored, Input, MatchKind};

use super::expression::SIZE_LIMIT;
use crate::pattern::budget::WorkBudget;

/// Bytes that could have been looked at in vain before a text is looked into.
const UNCHECKED: u64 = 16 << 20;

/// Places that stand for all: that many, and one for that many bytes more. What is rarer than that, is looked from seldom.
const SAMPLES: usize = 32;
const BYTES_A_SAMPLE: usize = 64;

/// Bytes that are looked at at once in the time of a step.
const BYTES_A_STEP: u64 = 4;

/// How often over the length of the text may be looked at to tell the mean.
const ENOUGH: u64 = 8;

/// References within what references refer to, and so on: those farther in may stand for anything.
const DEEPEST: usize = 2;

/// What is needed to tell how far a pattern looks.
#[derive(Debug)]
pub(super) struct CostEstimate {
    pattern: String,
    automata: OnceLock<Option<CostAutomata>>,
}

#[derive(Debug)]
struct CostAutomata {
    /// For the pattern without what it looks at ahead, and for each of these together with what is before it.
    ahead: Vec<DFA>,
    behind: DFA,
}

/// What has been searched so far; one for each thread.
#[derive(Debug, Default)]
pub(super) struct CostWatch {
    possible: u64,
    caches: Option<(Vec<Cache>, Cache)>,
}

impl CostEstimate {
    /// `pattern`: in the syntax of the backtracking engine, its flags in it.
    pub(super) fn new(pattern: String) -> Self {
        Self { pattern, automata: OnceLock::new() }
    }

    /// Whether the work to search all of `text` is within bounds, each place tried once.
    pub(super) fn allows(&self, text: &[u8], watch: &mut CostWatch, budget: &mut WorkBudget) -> bool {
        let possible = (text.len() as u64).saturating_mul(text.len() as u64) / 2;
        watch.possible = watch.possible.saturating_add(possible);
        if watch.possible < UNCHECKED {
            return true;
        }
        let such_texts = watch.possible / possible.max(1);
        watch.possible = 0;
        let looked = self.mean(text, watch).saturating_mul(text.len() as u64);
        budget.spend(looked.saturating_mul(such_texts) / BYTES_A_STEP)
    }

    /// How many bytes are looked at from a place, in the mean.
    pub(super) fn mean(&self, text: &[u8], watch: &mut CostWatch) -> u64 {
        let automata = self.automata.get_or_init(|| CostAutomata::of(&self.pattern)).as_ref();
        let Some(automata) = automata else { return text.len() as u64 };
        let (ahead, behind) = watch.caches.get_or_insert_with(|| {
            (automata.ahead.iter().map(DFA::create_cache).collect(), automata.behind.create_cache())
        });
        let (mut looked, mut samples) = (0, 0);
        while samples < (SAMPLES + text.len() / BYTES_A_SAMPLE) as u64 && looked <= ENOUGH * text.len() as u64 {
            samples += 1;
            let place = spread(samples, text.len());
            let input = Input::new(text).anchored(Anchored::Yes);
            let (first, last) = (input.clone().range(place..), input.range(..place));
            for (dfa, cache) in automata.ahead.iter().zip(&mut *ahead) {
                let state = dfa.start_state_forward(cache, &first).ok();
                looked += looked_at(dfa, cache, state, text[place..].iter());
            }
            let state = automata.behind.start_state_reverse(behind, &last).ok();
            looked += looked_at(&automata.behind, behind, state, text[..place].iter().rev());
        }
        looked / samples
    }
}

/// A place in a text of this length for each number, as far from all those before as can be: by the golden ratio.
fn spread(number: u64, len: usize) -> usize {
    const GOLDEN: u64 = 0x9E37_79B9_7F4A_7C15;
    let fraction = u128::from(number.wrapping_mul(GOLDEN));
    usize::try_from((fraction * len as u128) >> 64).unwrap_or_default() // always less than `len`
}

/// How many of these bytes an automaton looks at from such a state.
fn looked_at<'t>(
    dfa: &DFA,
    cache: &mut Cache,
    first: Option<LazyStateID>,
    bytes: impl ExactSizeIterator<Item = &'t u8>,
) -> u64 {
    let all = bytes.len() as u64;
    let Some(mut state) = first else { return all };
    for (count, byte) in (0..).zip(bytes) {
        match dfa.next_state(cache, state, *byte) {
            Ok(next) if !next.is_dead() => state = next,
            Ok(_) => return count,
            Err(_) => break,
        }
    }
    all
}

/// A plain expression that matches wherever this one does, in the syntax of the backtracking engine, and maybe elsewhere.
pub(super) fn loose_form(pattern: &str) -> Option<String> {
    let tree = Expr::parse_tree(pattern).ok()?.expr;
    let mut groups = vec![&tree];
    each_group(&tree, &mut groups);
    Some(Simple { groups: &groups, depth: 0 }.without_looks(&tree))
}

impl CostAutomata {
    fn of(pattern: &str) -> Option<Self> {
        let tree = Expr::parse_tree(pattern).ok()?.expr;
        let mut groups = vec![&tree];
        each_group(&tree, &mut groups);
        let simple = Simple { groups: &groups, depth: 0 };
        let (mut ahead, mut behind) = (Vec::new(), Vec::new());
        simple.each_look_ahead(&tree, "", &mut ahead);
        ahead.push(simple.without_looks(&tree));
        simple.each_look_behind(&tree, &mut behind);
        let ahead = ahead.iter().map(|pattern| automaton(pattern, false)).collect::<Option<_>>()?;
        Some(Self { ahead, behind: automaton(&behind.join("|"), true)? })
    }
}

fn automaton(pattern: &str, backwards: bool) -> Option<DFA> {
    let config = thompson::Config::new()
        .utf8(false)
        .reverse(backwards)
        .which_captures(WhichCaptures::None)
        .nfa_size_limit(Some(SIZE_LIMIT));
    let hir = regex_syntax::parse(pattern).ok()?;
    let nfa = thompson::Compiler::new().configure(config).build_from_hir(&hir).ok()?;
    // Ahead, what prefers to be short is looked at no farther than to its first end.
    let kind = if backwards { MatchKind::All } else { MatchKind::LeftmostFirst };
    let config = DFA::config().match_kind(kind).skip_cache_capacity_check(true);
    DFA::builder().configure(config).build_from_nfa(nfa).ok()
}

/// The groups of an expression, in the order of their numbers.
fn each_group<'e>(expr: &'e Expr, groups: &mut Vec<&'e Expr>) {
    if let Expr::Group(inner) = expr {
        groups.push(inner);
    }
    expr.children_iter().for_each(|child| each_group(child, groups));
}

/// Makes expressions that look nowhere and refer to nothing, and match no less as they look at the same bytes.
#[derive(Clone, Copy)]
struct Simple<'e> {
    /// By their numbers; 0 is all.
    groups: &'e [&'e Expr],
    /// Of references.
    depth: usize,
}

/// What is not looked into.
const ANYTHING: &str = "(?s:.)*";

impl Simple<'_> {
    /// `expr` without what it looks at.
    fn without_looks(&self, expr: &Expr) -> String {
        match expr {
            // Where a group began need not be where what it took stands again: `(\Aa)\1` matches `aa`.
            Expr::Assertion(Assertion::StartText) if self.depth == 0 => r"\A".to_owned(),
            Expr::Assertion(Assertion::StartLine { .. }) if self.depth == 0 => "(?m:^)".to_owned(),
            Expr::Empty
            | Expr::Assertion(_)
            | Expr::LookAround(..)
            | Expr::KeepOut
            | Expr::ContinueFromPreviousMatchEnd
            | Expr::BackrefExistsCondition { .. }
            | Expr::DefineGroup { .. }
            | Expr::BacktrackingControlVerb(_) => String::new(),
            Expr::Any { .. } | Expr::Literal { .. } | Expr::Delegate { .. } => {
                let mut all = String::new();
                expr.to_str(&mut all, 3);
                all
            }
            Expr::Concat(parts) => parts.iter().map(|part| self.without_looks(part)).collect(),
            Expr::Alt(parts) => {
                let parts: Vec<_> = parts.iter().map(|part| self.without_looks(part)).collect();
                format!("(?:{})", parts.join("|"))
            }
            Expr::Group(inner) => self.without_looks(inner),
            Expr::AtomicGroup(inner) => self.without_looks(inner),
            Expr::Repeat { child, lo, hi, greedy } => {
                let most = if *hi == usize::MAX { String::new() } else { hi.to_string() };
                let lazy = if *greedy { "" } else { "?" };
                format!("(?:{}){{{lo},{most}}}{lazy}", self.without_looks(child))
            }
            Expr::Conditional { condition, true_branch, false_branch } => {
                let [condition, yes, no] = [condition, true_branch, false_branch].map(|part| self.without_looks(part));
                format!("(?:{condition})?(?:{yes}|{no})")
            }
            Expr::Backref { group, casei: false } if self.depth < DEEPEST && *group < self.groups.len() => {
                Simple { depth: self.depth + 1, ..*self }.without_looks(self.groups[*group])
            }
            _ => ANYTHING.to_owned(),
        }
    }

    /// All that is looked at ahead in `expr`, each together with what is before it: `before`, and the part of `expr`.
    fn each_look_ahead(&self, expr: &Expr, before: &str, found: &mut Vec<String>) {
        match expr {
            Expr::LookAround(inner, LookAround::LookAhead | LookAround::LookAheadNeg) => {
                // Whether it is there or not, it is not for what is before it to try on.
                found.push(format!("{before}(?:{}|)", self.without_looks(inner)));
                self.each_look_ahead(inner, before, found);
            }
            Expr::Concat(parts) => {
                let mut before = before.to_owned();
                for part in parts {
                    self.each_look_ahead(part, &before, found);
                    before += &self.without_looks(part);
                }
            }
            Expr::Repeat { child, .. } => {
                let before = format!("{before}(?:{})*", self.without_looks(child));
                self.each_look_ahead(child, &before, found);
            }
            _ => expr.children_iter().for_each(|child| self.each_look_ahead(child, before, found)),
        }
    }

    /// All that is looked for after places.
    fn each_look_behind(&self, expr: &Expr, found: &mut Vec<String>) {
        if let Expr::LookAround(inner, LookAround::LookBehind | LookAround::LookBehindNeg) = expr {
            found.push(format!("(?:{})", self.without_looks(inner)));
        }
        expr.children_iter().for_each(|child| self.each_look_behind(child, found));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn few_places_tell_how_far_all_of_them_look() {
        let line = "fog lamp ".repeat(10_000);
        let rest = line.len() as u64;
        for (pattern, least, most) in [
            ("x(?=y)", 0, 1),
            ("(?=.*z)a", rest / 3, rest),
            ("a(?!.*b)", rest / 36, rest / 9),
            ("lamp(?=.*z)", rest / 36, rest / 9),
            ("^(?!.*z)fog", 0, 1),
            (r"(?<=\w+)x", 0, 4),
            ("(?<=f.*)x", rest / 3, rest),
            (r"(\w+) \1", 2, 8),
            (r"(a)(\1\1)(\2\2)(\3\3)(\4)x", 0, 2),
            ("(?<!x)[a-z ]{100}z", 90, 110),
            ("(f)?(?(1)o.*|l)(?=y)", rest / 18, rest / 3),
            (r"(?:a\Kb|c)(?!d)", 0, 3),
            ("fog.*?lamp(?=x)", 0, 3),
            ("fog(?=.*?lamp)", 0, 3),
            ("fog(?=.*?x)", rest / 36, rest / 9),
            ("(?:fog(?= lamp.*x))*y", rest / 36, rest / 9),
            ("(?=f).*x", rest / 3, rest),
        ] {
            let mean = CostEstimate::new(pattern.to_owned()).mean(line.as_bytes(), &mut CostWatch::default());
            assert!((least..=most).contains(&mean), "{pattern}: {mean} of {rest}");
        }
    }
}
