//! Rules tried on texts: the engine itself decides what each does.

use std::collections::HashMap;
use std::rc::Rc;

use crate::program::Program;
use crate::rules::RuleSet;

/// Rules that were tried, ready to run. A rule that cannot be read, such as a key that its verb does not know, is none.
#[derive(Default)]
pub(super) struct Runner {
    programs: HashMap<String, Option<Rc<Program>>>,
}

/// The most that texts may grow, in bytes, before a rule is given up.
const MOST_GROWTH: u64 = 1 << 20;

impl Runner {
    /// What a rule makes of a text; `None` if it is no rule, cannot go on, or leaves what is not UTF-8.
    pub(super) fn run(&mut self, rule: &str, text: &str) -> Option<String> {
        let program = match self.programs.get(rule) {
            Some(program) => program.clone(),
            None => {
                let program = RuleSet::read_one_rule("learnt", rule)
                    .ok()
                    .map(|set| Rc::new(Program::compile([&set]).with_memory_limit(MOST_GROWTH)));
                self.programs.insert(rule.to_owned(), program.clone());
                program
            }
        };
        run(&*program?, text)
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
