//! One `[[rule]]`: its verb and the keys any rule may have.

use std::ops::Range;

use toml::de::DeTable;

use super::fields::Fields;
use super::nearest::list;
use super::problem::Problems;
use super::scope::{SCOPE_KEYS, scope};
use super::{slips, verbs};
use crate::model::{Rule, Verb};

/// The keys any rule may have, besides those of its scope.
pub(super) const RULE_KEYS: &[&str] = &["label", "off"];

pub(super) fn rule(number: usize, table: &DeTable<'_>, place: Range<usize>, problems: &mut Problems) -> Option<Rule> {
    let mut fields = Fields::of("a rule", table, place.clone());
    let label = fields.string("label", problems);
    let off = fields.boolean("off", problems).unwrap_or(false);
    let picks_lines = SCOPE_KEYS.iter().any(|key| *key != "spare" && fields.place_of(key).is_some());
    let present = fields.present(Verb::NAMES);
    // Each is read, even if there should be only one: its own problems are to be shown as well.
    let mut read: Vec<Option<Verb>> =
        present.iter().map(|(name, _)| verbs::verb(name, &mut fields, picks_lines, problems)).collect();
    if let [first, others @ ..] = &present[..] {
        two_verbs(first.0, others, problems);
    }
    let scope = scope(&mut fields, problems);
    let known = |key: &str| RULE_KEYS.iter().chain(SCOPE_KEYS).chain(Verb::NAMES).any(|known| *known == key);
    let unknown = table.keys().any(|key| !known(key.get_ref()));
    if present.is_empty() && !unknown {
        let help = format!("a rule has one of {}", list(Verb::NAMES.iter().copied()));
        problems.add_helped(place.clone(), "this rule does nothing", "no verb", help);
    }
    fields.refuse_rest(problems, slips::explain_rule_key);
    let verb = read.pop().flatten()?;
    Some(Rule { number, label, off, verb, scope, place })
}

fn two_verbs(first: &str, others: &[(&'static str, Range<usize>)], problems: &mut Problems) {
    for (name, place) in others {
        problems.add_helped(
            place.clone(),
            format!("two verbs in one rule: `{first}` and `{name}`"),
            "a second verb",
            format!("put `{name}` under a [[rule]] of its own; rules run in the order written"),
        );
    }
}
