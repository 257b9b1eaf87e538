//! Patterns with large counted repeats, such as `q[a-q]{10000}x`, which may ask a search to keep thousands of ways to match
//! in mind at each byte.
//!
//! Nearly always it keeps a few, and those few come again: an automaton that is made on the way finds them quickly. Where
//! it would grow and grow instead, the ways are followed one by one, and each step is paid for.

use std::sync::OnceLock;

use regex_automata::hybrid::{dfa, regex};
use regex_automata::nfa::thompson::{self, NFA, State, WhichCaptures};
use regex_automata::util::primitives::StateID;
use regex_automata::{Anchored, Input, MatchErrorKind, MatchKind};
use regex_syntax::hir::{Hir, HirKind};

use super::TooMuchWork;
use crate::pattern::budget::{FOR_EACH_BYTE, WorkBudget};
use crate::text::lines::{content_end, line_start};
use crate::text::matches::Span;

/// What the automaton may take, in bytes.
const CAPACITY: usize = 2 << 20;

/// How often the automaton is thrown away before its growth is looked at.
const REFILLS: usize = 3;

/// Steps that a byte may cost.
#[expect(clippy::cast_possible_truncation, reason = "it is 256")]
const STEPS_A_BYTE: usize = FOR_EACH_BYTE as usize;

/// Bytes searched for each state made: with fewer, following the ways one by one is no slower.
const BYTES_A_STATE: usize = 10;

/// A pattern that is searched for within bounds.
#[derive(Debug, Default)]
pub(super) struct CountedRepeats(OnceLock<Option<RepeatAutomata>>);

#[derive(Debug)]
struct RepeatAutomata {
    nfa: NFA,
    regex: regex::Regex,
}

/// The memory searches need; one for each thread.
#[derive(Debug)]
pub(super) struct CountedMemory {
    cache: regex::Cache,
    now: PatternWays,
    next: PatternWays,
    stack: Vec<StateID>,
}

/// The ways to match that are left at one byte, the preferred first.
#[derive(Debug, Default)]
struct PatternWays {
    /// Each with the place where it starts.
    reading: Vec<(StateID, usize)>,
    /// For each state, whether it has been come to: then it holds this step's number.
    seen: Vec<u32>,
    step: u32,
}

impl CountedRepeats {
    /// `None` for patterns whose searches cannot keep more ways in mind than a byte may cost.
    pub(super) fn of(hir: &Hir) -> Option<Self> {
        (counted(hir, 1) > FOR_EACH_BYTE).then(Self::default)
    }

    /// The first match of `hir`, the pattern this has been made of. `within_line`: no match goes over a line's end.
    ///
    /// # Errors
    /// More work than the budget has.
    pub(super) fn find(
        &self,
        hir: &Hir,
        input: &Input<'_>,
        within_line: bool,
        memory: &mut Option<CountedMemory>,
        budget: &mut WorkBudget,
    ) -> Result<Option<Span>, TooMuchWork> {
        let automata = self.0.get_or_init(|| RepeatAutomata::of(hir)).as_ref();
        let Some(automata) = automata else { return Err(TooMuchWork { at: input.start() }) };
        let memory = memory.get_or_insert_with(|| automata.memory());
        let mut input = input.clone();
        while input.start() <= input.end() {
            let error = match automata.regex.try_search(&mut memory.cache, &input) {
                Ok(found) => return Ok(found.map(|found| Span::new(found.start(), found.end()))),
                Err(error) => error,
            };
            let offset = match *error.kind() {
                MatchErrorKind::GaveUp { offset } if budget.spend(CAPACITY as u64) => offset,
                // At a word boundary beside what is not ASCII.
                MatchErrorKind::Quit { offset, .. } => offset,
                _ => return Err(TooMuchWork { at: input.start() }),
            };
            let (all, text) = (input.get_span(), input.haystack());
            let mut line = all.range();
            if within_line {
                // The automaton describes a match one byte late. Nothing is on the lines before, and it is worth another
                // try on those behind.
                let at = offset.saturating_sub(1).clamp(all.start, all.end);
                line = all.start.max(line_start(text, at))..all.end.min(content_end(text, at));
            }
            input.set_range(line.clone());
            if let Some(found) = automata.follow(&input, memory, budget)? {
                return Ok(Some(found));
            }
            if line.end == all.end {
                break;
            }
            input.set_range(line.end + 1..all.end);
        }
        Ok(None)
    }

    /// Pays for a second look at a match, one that tells its groups.
    ///
    /// # Errors
    /// More work than the budget has.
    pub(super) fn pay_for_groups(
        &self,
        text: &[u8],
        found: Span,
        memory: &mut Option<CountedMemory>,
        budget: &mut WorkBudget,
    ) -> Result<(), TooMuchWork> {
        if let (Some(Some(automata)), Some(memory)) = (self.0.get(), memory) {
            let input = Input::new(text).range(found.start..found.end).anchored(Anchored::Yes);
            automata.follow(&input, memory, budget)?;
        }
        Ok(())
    }
}

impl RepeatAutomata {
    fn of(hir: &Hir) -> Option<Self> {
        let nfa = |reverse| {
            let config = thompson::Config::new().utf8(false).reverse(reverse).which_captures(WhichCaptures::None);
            thompson::Compiler::new().configure(config).build_from_hir(hir).ok()
        };
        let dfa = |nfa: NFA, kind| {
            // To make a state may take a step for each state of the other automaton.
            let within_budget = nfa.states().len() / STEPS_A_BYTE;
            let config = dfa::Config::new()
                .match_kind(kind)
                .unicode_word_boundary(true)
                .cache_capacity(CAPACITY)
                .skip_cache_capacity_check(true)
                .minimum_cache_clear_count(Some(REFILLS))
                .minimum_bytes_per_state(Some(within_budget.max(BYTES_A_STATE)));
            dfa::DFA::builder().configure(config).build_from_nfa(nfa).ok()
        };
        let forward = nfa(false)?;
        let (first, back) = (dfa(forward.clone(), MatchKind::LeftmostFirst)?, dfa(nfa(true)?, MatchKind::All)?);
        Some(Self { nfa: forward, regex: regex::Builder::new().build_from_dfas(first, back) })
    }

    fn memory(&self) -> CountedMemory {
        let ways = || PatternWays { seen: vec![0; self.nfa.states().len()], ..PatternWays::default() };
        CountedMemory { cache: self.regex.create_cache(), now: ways(), next: ways(), stack: Vec::new() }
    }

    /// The first match, found by following all ways to match at the same time, byte by byte, the preferred ones first.
    fn follow(
        &self,
        input: &Input<'_>,
        memory: &mut CountedMemory,
        budget: &mut WorkBudget,
    ) -> Result<Option<Span>, TooMuchWork> {
        let CountedMemory { now, next, stack, .. } = memory;
        let (text, mut found) = (input.haystack(), None);
        now.clear();
        for at in input.start()..=input.end() {
            let mut steps = 1;
            if found.is_none() && (at == input.start() || !input.get_anchored().is_anchored()) {
                steps += now.add(&self.nfa, self.nfa.start_anchored(), at, text, at, stack);
            }
            if now.reading.is_empty() && (found.is_some() || input.get_anchored().is_anchored()) {
                break;
            }
            next.clear();
            steps += now.reading.len() as u64;
            let byte = (at < input.end()).then(|| text[at]);
            for (state, start) in now.reading.iter().copied() {
                let to = match (self.nfa.state(state), byte) {
                    (State::Match { .. }, _) => {
                        found = Some(Span::new(start, at));
                        break; // all after are less preferred
                    }
                    (State::ByteRange { trans }, Some(byte)) => trans.matches_byte(byte).then_some(trans.next),
                    (State::Sparse(sparse), Some(byte)) => sparse.matches_byte(byte),
                    (State::Dense(dense), Some(byte)) => dense.matches_byte(byte),
                    _ => None,
                };
                if let Some(to) = to {
                    steps += next.add(&self.nfa, to, start, text, at + 1, stack);
                }
            }
            if !budget.spend(steps) {
                return Err(TooMuchWork { at });
            }
            std::mem::swap(now, next);
        }
        Ok(found)
    }
}

impl PatternWays {
    fn clear(&mut self) {
        self.reading.clear();
        self.step = self.step.checked_add(1).unwrap_or_else(|| {
            self.seen.fill(0);
            1
        });
    }

    /// Adds all states that read something and can be come to from this one without reading. How many steps that took.
    fn add(
        &mut self,
        nfa: &NFA,
        state: StateID,
        start: usize,
        text: &[u8],
        at: usize,
        stack: &mut Vec<StateID>,
    ) -> u64 {
        let mut steps = 0;
        stack.push(state);
        while let Some(state) = stack.pop() {
            steps += 1;
            if std::mem::replace(&mut self.seen[state], self.step) == self.step {
                continue;
            }
            match nfa.state(state) {
                State::Union { alternates } => stack.extend(alternates.iter().rev()),
                State::BinaryUnion { alt1, alt2 } => stack.extend([*alt2, *alt1]),
                State::Capture { next, .. } => stack.push(*next),
                State::Look { look, next } if nfa.look_matcher().matches(*look, text, at) => stack.push(*next),
                State::Look { .. } | State::Fail => {}
                _ => self.reading.push((state, start)),
            }
        }
        steps
    }
}

/// How many characters stand under repeats once those are written out, where that is more than once; each is `times` there.
fn counted(hir: &Hir, times: u64) -> u64 {
    match hir.kind() {
        HirKind::Literal(literal) if times > 1 => times.saturating_mul(literal.0.len() as u64),
        HirKind::Class(_) if times > 1 => times,
        HirKind::Empty | HirKind::Look(_) | HirKind::Literal(_) | HirKind::Class(_) => 0,
        HirKind::Capture(capture) => counted(&capture.sub, times),
        HirKind::Concat(parts) | HirKind::Alternation(parts) => {
            parts.iter().fold(0, |sum: u64, part| sum.saturating_add(counted(part, times)))
        }
        HirKind::Repetition(repetition) => {
            let most = u64::from(repetition.max.unwrap_or(repetition.min));
            counted(&repetition.sub, times.saturating_mul(most.max(1)))
        }
    }
}

#[cfg(test)]
mod tests {
    use regex_automata::meta;

    use super::*;
    use crate::observe::NoObserver;
    use crate::{Program, RuleSet};

    #[test]
    fn what_keeps_many_ways_in_mind_is_told_from_the_repeats() {
        for (pattern, is_counted) in [
            (r"\d{4}-\d{2}", false),
            (r"[a-z]{256}", false),
            (r"[a-z]{257}", true),
            (r"(?:ab|c){50,100}", true),
            (r"(?:(?:x{10}y){10}){3}", true),
            (r"x+[a-z]*", false),
            (r"x{300,}", true),
            (r"(?:a{4294967295}){4294967295}{4294967295}", true),
        ] {
            let hir = regex_syntax::parse(pattern).expect("a pattern");
            assert_eq!(CountedRepeats::of(&hir).is_some(), is_counted, "{pattern}");
        }
    }

    #[test]
    fn ways_followed_one_by_one_lead_to_the_match_an_automaton_finds() {
        let texts = ["", "a", "ab", "aab ba", "abcabc\nab", "éab\u{e9}", "xaaay", "a\r\nb", "aaaaaaaa"];
        for pattern in [
            "a",
            "a|ab",
            "ab|a",
            "a*",
            "a*?",
            "(a|b)+?b",
            r"\ba+\b",
            "(?m)^a?$",
            "[^a]{2}",
            "a{2,3}",
            "a{2,3}?",
            "(?:)|a",
            "x?a{3}y?",
            "é",
            "(?s:.)b",
            "[a-c]+c|a",
            r"\Bb",
        ] {
            let hir = regex_syntax::parse(pattern).expect("a pattern");
            let config = meta::Config::new().utf8_empty(false);
            let regex = meta::Regex::builder().configure(config).build_from_hir(&hir).expect("a pattern");
            let automata = RepeatAutomata::of(&hir).expect("small");
            let (mut memory, mut budget) = (automata.memory(), WorkBudget::default());
            for text in texts {
                for from in 0..=text.len() {
                    let input = Input::new(text).range(from..);
                    let found = automata.follow(&input, &mut memory, &mut budget).expect("little work");
                    let want = regex.find(input).map(|found| Span::new(found.start(), found.end()));
                    assert_eq!(found, want, "{pattern} in {text:?} from {from}");
                }
            }
        }
    }

    fn washed(rule: &str, text: &str) -> Result<String, Option<u64>> {
        let program = Program::compile([&RuleSet::read_one_rule("test", rule).expect("a rule")]);
        let mut washed = Vec::new();
        let mut washer = program.washer(NoObserver);
        let done = washer.push(text.as_bytes(), &mut washed).and_then(|()| washer.finish(&mut washed));
        done.map(|()| String::from_utf8(washed).expect("text")).map_err(|error| error.line())
    }

    #[test]
    fn lines_on_which_the_automaton_grows_too_much_are_searched_within_bounds() {
        // On each line of nothing but q, a new way to match begins at every byte.
        let (hard, light) = ("q".repeat(6_000), "the lamp q\n");
        let line = |inner: &str| format!("{light}{hard}{inner}\r\n{light}");
        let rule = |rest: &str| format!("replace = {{ pattern = 'q([a-q]{{2000}})x{rest}', with = '<${{1}}>' }}");
        for (rule, inner, out) in [
            (rule(""), "x", format!("{}<{}>", "q".repeat(3_999), "q".repeat(2_000))),
            (rule(""), "", hard.clone()),
            (rule(r"\b"), "x é", format!("{}<{}> é", "q".repeat(3_999), "q".repeat(2_000))),
        ] {
            let text = line(inner).repeat(2);
            let want = format!("{light}{out}\r\n{light}").repeat(2);
            assert_eq!(washed(&rule, &text), Ok(want), "{rule}");
        }
        let too_much = washed(&rule(""), &line("").repeat(60)).expect_err("more work than a step for each byte");
        assert!(too_much.is_some_and(|line| line % 3 == 2), "one of the hard lines, not {too_much:?}");
        let edges = "remove = { pattern = 'q[a-q]{2000}x', at = 'edges' }";
        assert_eq!(washed(edges, &line("").repeat(3)), Ok(line("").repeat(3)));
    }
}
