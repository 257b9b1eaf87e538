//! Rules tried on texts: the engine itself decides what each does.

use std::collections::HashMap;

use crate::program::Program;
use crate::rules::RuleSet;

/// Rules that were tried, ready to run. A rule that cannot be read, such as a key that its verb does not know, is none.
#[derive(Default)]
pub(super) struct Runner {
    programs: HashMap<String, Option<Program>>,
}

/// The most that texts may grow, in bytes, before a rule is given up.
const MOST_GROWTH: u64 = 1 << 20;

impl Runner {
    /// What a rule makes of a text; `None` if it is no rule, cannot go on, or leaves what is not UTF-8.
    pub(super) fn run(&mut self, rule: &str, text: &str) -> Option<String> {
        if !self.programs.contains_key(rule) {
            let set = RuleSet::read_one_rule("learnt", rule).ok();
            let program = set.map(|set| Program::compile([&set]).with_memory_limit(MOST_GROWTH));
            self.programs.insert(rule.to_owned(), program);
        }
        run(self.programs.get(rule)?.as_ref()?, text)
    }

    /// What rules make of a text, one after the other.
    pub(super) fn run_all<'r>(&mut self, rules: impl IntoIterator<Item = &'r str>, text: &str) -> Option<String> {
        rules.into_iter().try_fold(text.to_owned(), |text, rule| self.run(rule, &text))
    }
}

fn run(program: &Program, text: &str) -> Option<String> {
    let outcome = program.apply(text.as_bytes()).ok()?;
    std::str::from_utf8(outcome.text()).ok().map(str::to_owned)
}
