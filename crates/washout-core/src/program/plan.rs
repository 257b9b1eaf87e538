//! Which rules run together.

use std::ops::Range;
use std::sync::OnceLock;

use crate::operations::{CompiledRule, mergeable};
use crate::prefilter::{CandidateFinder, MOST_RULES, Prefilter, Requirement};

/// Rules in a row that are alike in what they must see.
#[derive(Clone, Debug)]
pub(crate) struct Segment {
    pub(crate) stages: Vec<Stage>,
    /// What these rules do to a line depends on that line alone, so parts of a text can be worked on at the same time.
    pub(crate) by_line: bool,
}

/// Rules in a row that run together: one, or several with a prefilter before them.
#[derive(Clone, Debug)]
pub(crate) struct Stage {
    pub(crate) rules: Range<usize>,
    /// Finds the lines that any of the rules may act on.
    pub(crate) prefilter: Option<Prefilter>,
    /// For each of them, if there is a prefilter: finds where that one rule may act, and where any of the rules merged with it
    /// may.
    candidate_finders: Vec<[OnceLock<CandidateFinder>; 2]>,
    /// For each of them, how many from it on are merged.
    merged: Vec<usize>,
    may_use_vectors: bool,
}

impl Stage {
    /// One rule by itself.
    fn alone(rule: usize) -> Self {
        Self {
            rules: rule..rule + 1,
            prefilter: None,
            candidate_finders: Vec::new(),
            merged: vec![1],
            may_use_vectors: true,
        }
    }

    fn with_prefilter(ops: &[CompiledRule], rules: Range<usize>) -> Self {
        let requirements: Vec<&[Requirement]> = ops.iter().map(|op| op.requirements().unwrap_or_default()).collect();
        let candidate_finders = ops.iter().map(|_| Default::default()).collect();
        let merged = (0..ops.len()).map(|rule| mergeable(&ops[rule..])).collect();
        let prefilter = Some(Prefilter::new(&requirements));
        Self { rules, prefilter, candidate_finders, merged, may_use_vectors: true }
    }

    /// How many rules from this one on are merged into one pass; the first rule is 0.
    pub(crate) fn merged(&self, rule: usize) -> usize {
        self.merged[rule]
    }

    /// Finds where any of `rules` may act: this rule alone, or all that are merged with it. Made at the first call.
    pub(crate) fn candidate_finder<'o>(
        &self,
        rule: usize,
        rules: impl ExactSizeIterator<Item = &'o CompiledRule>,
    ) -> &CandidateFinder {
        self.candidate_finders[rule][usize::from(rules.len() > 1)].get_or_init(|| {
            let (mut requirements, mut looks_near) = (Vec::new(), true);
            for rule in rules {
                requirements.extend_from_slice(rule.requirements().unwrap_or_default());
                looks_near &= rule.looks_near();
            }
            CandidateFinder::new(&requirements, looks_near, self.may_use_vectors)
        })
    }

    /// From now on it works as on a machine without vectors.
    pub(super) fn forgo_vectors(&mut self) {
        self.may_use_vectors = false;
        self.prefilter.iter_mut().for_each(Prefilter::forgo_vectors);
    }
}

/// The fewest rules a prefilter is worth: one rule looks for what it wants by itself.
const FEWEST_RULES: usize = 2;

/// How these rules run together.
pub(super) fn plan(ops: &[CompiledRule]) -> Vec<Segment> {
    let mut first = 0;
    let alike = ops.chunk_by(|one, next| one.is_by_line() == next.is_by_line());
    let segments = alike.map(|alike| {
        let mut stages = Vec::new();
        for row in alike.chunk_by(|one, next| one.requirements().is_some() && next.requirements().is_some()) {
            for part in row.chunks(MOST_RULES) {
                let rules = first..first + part.len();
                first = rules.end;
                stages.extend(stages_of(part, rules));
            }
        }
        Segment { stages, by_line: alike[0].is_by_line() }
    });
    segments.collect()
}

fn stages_of(ops: &[CompiledRule], rules: Range<usize>) -> Vec<Stage> {
    if ops.len() < FEWEST_RULES {
        return rules.map(Stage::alone).collect();
    }
    vec![Stage::with_prefilter(ops, rules)]
}

#[cfg(test)]
mod tests {
    use proptest::collection::vec;
    use proptest::prelude::*;

    use super::*;
    use crate::observe::NoObserver;
    use crate::{Program, RuleSet};

    const RULES: &[&str] = &[
        "remove.class = ['control', 'invisible']",
        "replace = { class = 'odd-space', with = ' ' }",
        "replace = { chars = 'é', with = '~' }",
        "replace = { chars = '#é', with = '' }",
        "remove.chars = '~#'",
        "replace = { chars = '#', with = '·é' }",
        "remove.class = 'broken'",
    ];

    fn programs(rules: &[usize]) -> impl Iterator<Item = Program> {
        rules.iter().map(|rule| Program::compile([&RuleSet::read_one_rule("rule", RULES[*rule]).expect("a rule")]))
    }

    #[test]
    fn rules_merge_unless_one_acts_on_what_another_puts() {
        for (rules, want) in
            [(&[0, 1, 2][..], 3), (&[1, 4], 2), (&[2, 4], 1), (&[3, 2, 4], 2), (&[5, 0, 2], 2), (&[6, 5], 2)]
        {
            let compiled: Vec<CompiledRule> = programs(rules).flat_map(|program| program.ops().to_vec()).collect();
            assert_eq!(mergeable(&compiled), want, "{rules:?}");
        }
        let with = |rule: &str| {
            let program = Program::compile([&RuleSet::read_one_rule("rule", rule).expect("a rule")]);
            program.ops()[0].char_rule().is_some()
        };
        for (rule, is_one) in [
            ("remove = { chars = '#', case = 'ignore' }", true),
            ("remove = { chars = '#', except = { chars = '#' } }", true),
            ("remove = { chars = '#', except = { text = ['##'] } }", false),
            ("remove = { chars = '#', which = 'first' }", false),
            ("remove = { chars = '#', at = 'edges' }", false),
            ("remove = { chars = '#', gap = 'close' }", false),
            ("remove.text = '#'", false),
            ("remove.chars = '#'\\nspare.text = 'a#'", false),
        ] {
            assert_eq!(with(&rule.replace("\\n", "\n")), is_one, "{rule}");
        }
    }

    fn bit() -> impl Strategy<Value = &'static [u8]> {
        let ascii = [&b"a"[..], b"~", b"x", b"#", b" ", b"\n", b"\x07", b"\r\n"];
        let parts = [&b"\xC3"[..], b"\xA9", b"\xE2", b"\x80", b"\x8B"];
        let whole = ["é", "\u{200B}", "\u{A0}", "\u{2003}"].map(str::as_bytes);
        proptest::sample::select([&ascii[..], &parts, &whole].concat())
    }

    proptest! {
        #[test]
        fn merged_rules_give_the_same_as_one_after_the_other(
            rules in vec(0..RULES.len(), 2..5), bits in vec(bit(), 0..60),
        ) {
            let mut text = bits.concat();
            text.push(b'\n');
            let set: Vec<RuleSet> =
                rules.iter().map(|rule| RuleSet::read_one_rule("rule", RULES[*rule]).expect("a rule")).collect();
            let program = Program::compile(&set);
            let mut washer = program.washer(NoObserver).with_sweeps();
            let mut washed = Vec::new();
            washer.push(&text, &mut washed).and_then(|()| washer.finish(&mut washed)).expect("no pattern");
            let mut changes = Vec::new();
            for one in programs(&rules) {
                let outcome = one.apply(&text).expect("no pattern");
                changes.extend_from_slice(outcome.changes());
                text = outcome.text().to_vec();
            }
            prop_assert_eq!(washed.escape_ascii().to_string(), text.escape_ascii().to_string());
            prop_assert_eq!(washer.changes(), &changes[..]);
        }
    }
}
