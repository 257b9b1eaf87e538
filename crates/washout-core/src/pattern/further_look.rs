//! How far searches for a pattern look ahead of the matches they find.

use std::sync::OnceLock;

use regex_automata::hybrid::dfa::{Cache, DFA};
use regex_automata::nfa::thompson;
use regex_automata::{Anchored, Input};
use regex_syntax::hir::Hir;

use super::expression::Sees;
use crate::pattern::budget::WorkBudget;
use crate::text::lines::content_end;

/// Bytes that searches could have looked at in vain before one of them is looked into.
const UNCHECKED: u64 = 16 << 20;

/// How often the automaton may be thrown away while one search is looked into: more is work as much as a long look.
const REFILLS: usize = 8;

/// What is needed to look into a search.
#[derive(Debug)]
pub(super) struct FurtherLook {
    expression: Hir,
    automaton: OnceLock<Option<DFA>>,
    sees: Sees,
}

/// The searches so far; one for each thread.
#[derive(Debug, Default)]
pub(super) struct LookWatch {
    /// Where the line of the last match ends, or the text if searches see all of it.
    end: usize,
    /// How many bytes could have been looked at in vain since a search was last looked into.
    possible: u64,
    cache: Option<Cache>,
}

impl LookWatch {
    pub(super) fn see_another_text(&mut self) {
        self.end = 0;
    }
}

impl FurtherLook {
    pub(super) fn new(expression: &Hir, sees: Sees) -> Self {
        Self { expression: expression.clone(), automaton: OnceLock::new(), sees }
    }

    /// A search from `from` has found a match that ends at `end`. Whether the work is within bounds.
    ///
    /// No search looks beyond the end of its line, so short lines cost nothing. Where lines are so long that much could
    /// have been looked at in vain, one search of many is done again step by step, and stands for the others.
    #[inline]
    pub(super) fn allows(
        &self,
        text: &[u8],
        from: usize,
        end: usize,
        watch: &mut LookWatch,
        budget: &mut WorkBudget,
    ) -> bool {
        if end > watch.end {
            watch.end = if self.sees == Sees::Text { text.len() } else { content_end(text, end) };
        }
        let ahead = watch.end.saturating_sub(end) as u64;
        watch.possible += ahead;
        watch.possible < UNCHECKED || self.look_into(text, from, end, ahead, watch, budget)
    }

    #[cold]
    fn look_into(
        &self,
        text: &[u8],
        from: usize,
        end: usize,
        ahead: u64,
        watch: &mut LookWatch,
        budget: &mut WorkBudget,
    ) -> bool {
        let looked = self.looked_ahead(&text[..watch.end], from, end, &mut watch.cache) as u64;
        let searches = watch.possible / ahead.max(1);
        watch.possible = 0;
        budget.spend(looked.saturating_mul(searches))
    }

    /// How many bytes after `end` a search from `from` looks at, at the most; 0 if that cannot be told.
    fn looked_ahead(&self, text: &[u8], from: usize, end: usize, cache: &mut Option<Cache>) -> usize {
        let Some(dfa) = self.automaton.get_or_init(|| automaton(&self.expression)) else { return 0 };
        let cache = cache.get_or_insert_with(|| dfa.create_cache());
        let most_refills = cache.clear_count() + REFILLS;
        let input = Input::new(text).range(from..).anchored(Anchored::No);
        let Ok(mut state) = dfa.start_state_forward(cache, &input) else { return 0 };
        for (at, byte) in text.iter().enumerate().skip(from) {
            match dfa.next_state(cache, state, *byte) {
                Ok(next) if !next.is_dead() && !next.is_quit() => state = next,
                _ => return at.saturating_sub(end),
            }
            if cache.clear_count() > most_refills {
                break;
            }
        }
        text.len().saturating_sub(end)
    }
}

fn automaton(expression: &Hir) -> Option<DFA> {
    let nfa = thompson::Compiler::new().build_from_hir(expression).ok()?;
    DFA::builder()
        .configure(DFA::config().unicode_word_boundary(true).skip_cache_capacity_check(true))
        .build_from_nfa(nfa)
        .ok()
}

#[cfg(test)]
mod tests {
    use crate::observe::NoObserver;
    use crate::{Program, RuleSet};

    fn washed(text: &str) -> Result<usize, Option<u64>> {
        let set = RuleSet::read_one_rule("test", "remove.pattern = '.*[^A-Z]|[A-Z]'").expect("a rule");
        let program = Program::compile([&set]);
        let outcome = program.apply(text.as_bytes()).map_err(|error| error.line())?;
        Ok(outcome.text().len())
    }

    #[test]
    fn searches_that_look_over_one_long_line_again_and_again_are_stopped() {
        let long = "A".repeat(80_000);
        assert_eq!(washed(&format!("lamp\n{long}\n")), Err(Some(2)), "each search looks at the rest of the line");
        assert_eq!(washed(&format!("{long} \n")), Ok(1), "one match takes it all");
        let lines = "lamp lit ABC\n".repeat(100_000);
        assert_eq!(washed(&lines), Ok(100_000), "short lines are no such work, however many");
    }

    #[test]
    fn the_line_of_such_a_search_is_told_on_any_number_of_threads() {
        let set = RuleSet::read_one_rule("test", "remove.pattern = '.*[^A-Z]|[A-Z]'").expect("a rule");
        let program = Program::compile([&set]);
        let text = format!("{}{}\n{}", "lamp\n".repeat(20_000), "A".repeat(80_000), "lamp\n".repeat(20_000));
        for (threads, least, piece) in [(1, 1, 9_999), (2, 1_000, 200_000), (3, 1_000, 9_999), (4, 100, 100_000)] {
            let mut washer = program.washer(NoObserver).with_threads_on(threads, least);
            let mut washed = Vec::new();
            let pushed = text.as_bytes().chunks(piece).try_for_each(|piece| washer.push(piece, &mut washed));
            let line = pushed.and_then(|()| washer.finish(&mut washed)).map_err(|error| error.line());
            assert_eq!(line, Err(Some(20_001)), "{threads} threads, pieces of {piece}");
        }
    }

    #[test]
    fn the_line_is_told_behind_one_that_has_lost_its_end() {
        let rules = "[[rule]]\nreplace = { text = 'x', with = \"\\r\" }\n[[rule]]\ndrop_lines.text = 'gale'\n\
                     [[rule]]\nremove.pattern = 'Q.*[^A-Z]|Q'\n";
        let program = Program::compile([&RuleSet::read("test", rules).expect("rules")]);
        let text = format!("{}{}lamp\n{}\n", "oil\n".repeat(500), "fog xgale\noil\n".repeat(50), "Q".repeat(80_000));
        for washer in [program.washer(NoObserver), program.washer(NoObserver).with_sweeps()] {
            let pushed = washer.with_block_size(200_000).push(text.as_bytes(), &mut Vec::new());
            assert_eq!(pushed.map_err(|error| error.line()), Err(Some(602)));
        }
    }

    #[test]
    fn the_line_is_that_of_the_text_before_whatever_rules_before_have_dropped() {
        let rules = "[[rule]]\nremove.text = 'fog '\n[[rule]]\ndrop_lines.text = 'gale'\n[[rule]]\ntabs = { to = 'spaces', width = 4 }\n\
                     [[rule]]\nremove.pattern = 'Q.*[^A-Z]|Q'\n";
        let set = RuleSet::read("test", rules).expect("rules");
        let program = Program::compile([&set]);
        let text = format!("{}{}\n{}", "fog lamp\ngale\n\toil\n".repeat(500), "Q".repeat(80_000), "fog\n".repeat(500));
        for washer in [program.washer(NoObserver), program.washer(NoObserver).with_sweeps()] {
            let mut washer = washer.with_block_size(200_000);
            let pushed = washer.push(text.as_bytes(), &mut Vec::new());
            assert_eq!(pushed.map_err(|error| error.line()), Err(Some(1_501)));
        }
    }
}
