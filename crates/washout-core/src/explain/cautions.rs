//! What to be careful about: rules that mean something, but probably not what their writer meant.

use super::order::RuleEffects;
use super::search::of_search;
use crate::program::Program;
use crate::rules::{RuleId, RuleSet, flat};

/// One thing to be careful about.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Caution {
    /// The rule it is about, of the program compiled from the same sets; `None`: a set as a whole.
    pub rule: Option<RuleId>,
    /// What it is about, as messages call it: `rule 3`, or the name of a set.
    pub about: String,
    /// What may be wrong and what to do, in a sentence without its full stop.
    pub message: String,
}

/// A text to look at.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Sample {
    /// What messages call it.
    pub name: String,
    /// The text.
    pub text: Vec<u8>,
}

/// Everything to be careful about in these sets, in the order rules run, then what is about whole sets.
///
/// `program` is what these sets were compiled to: compiling large lists again would double the time a run takes to
/// start. The examples of each set, and each sample through all sets, are run twice, to see whether a second run would
/// change a result again.
///
/// ```
/// use washout_core::explain::cautions;
/// use washout_core::{Program, RuleSet};
///
/// let rules = vec![RuleSet::read_one_rule("rule", "remove.words = ['UM']")?];
/// let found = cautions(&rules, &Program::compile(&rules), &[]);
/// assert_eq!(found.len(), 1, "a word in capitals only");
/// # Ok::<(), washout_core::RuleError>(())
/// ```
pub fn cautions(sets: &[RuleSet], program: &Program, samples: &[Sample]) -> Vec<Caution> {
    cautions_of_some(sets, &vec![true; sets.len()], program, samples)
}

/// The same of those sets that are on, where `program` is what [`Program::compile_some`] made of them.
pub fn cautions_of_some(sets: &[RuleSet], is_on: &[bool], program: &Program, samples: &[Sample]) -> Vec<Caution> {
    let on = |set: &usize| is_on.get(*set).is_some_and(|is_on| *is_on);
    let (ids, rules): (Vec<usize>, Vec<_>) =
        flat(sets).into_iter().enumerate().filter(|(_, rule)| on(&rule.set)).unzip();
    let order = RuleEffects::of(&rules);
    let mut found = Vec::new();
    for (index, rule) in rules.iter().enumerate() {
        let messages = of_search(rule).into_iter().chain(order.messages(index));
        found.extend(messages.map(|message| Caution {
            rule: Some(RuleId(ids[index])),
            about: format!("rule {}", rule.number),
            message,
        }));
    }
    for set in sets.iter().enumerate().filter_map(|(index, set)| on(&index).then_some(set)) {
        if changes_again(set, (sets.len() == 1).then_some(program)) {
            let message = "a second run changes the result of its examples again; make sure that runs are not repeated, \
                           or change the order of its rules";
            found.push(Caution { rule: None, about: set.name.clone(), message: message.to_owned() });
        }
    }
    for Sample { name, text } in samples {
        let extension = name.rsplit_once('.').map(|(_, extension)| extension);
        let applied = |text: &[u8]| program.apply_as(program.form(extension), text);
        let again = |first: Vec<u8>| applied(&first).is_ok_and(|second| second != first);
        if applied(text).is_ok_and(again) {
            let message = "a second run changes the result again; make sure that runs are not repeated, or change the \
                           order of the rules";
            found.push(Caution { rule: None, about: name.clone(), message: message.to_owned() });
        }
    }
    found
}

/// Whether a second run changes the result of an example again.
/// `whole`: the set compiled, if it is already.
fn changes_again(set: &RuleSet, whole: Option<&Program>) -> bool {
    let of_all: Vec<_> = set.examples.iter().filter(|example| example.rule.is_none()).collect();
    if of_all.is_empty() {
        return false;
    }
    let compiled;
    let program = if let Some(whole) = whole {
        whole
    } else {
        compiled = Program::compile([set]);
        &compiled
    };
    let applied = |text: &[u8]| program.apply_as(program.form_of_examples(), text);
    of_all
        .iter()
        .any(|example| applied(&example.given).is_ok_and(|once| applied(&once).is_ok_and(|twice| twice != once)))
}
