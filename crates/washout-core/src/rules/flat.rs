//! The rules of sets in the order they run, those of included sets in place.

use super::{CellScope, Field, Include, Rule, RuleSet, Scope, Search, Verb};

/// A rule that is on, with what it has from around it.
#[derive(Clone, Debug)]
pub(crate) struct FlatRule<'r> {
    /// `3`; `3.2` for the second rule of the set that rule 3 includes; `radio:3` where there are several sets.
    pub(crate) number: String,
    pub(crate) rule: &'r Rule,
    /// Which of the sets it is from, from 0.
    pub(crate) set: usize,
    /// Its own scope and those of the rules that include it.
    pub(crate) scopes: Vec<&'r Scope>,
    /// Its own place in tables within that of the rules that include it.
    pub(crate) cells: CellScope,
    /// The fields that its set is for.
    pub(crate) of_set: Option<&'r [Field]>,
    /// What its sets protect.
    pub(crate) protect: Vec<&'r Search>,
}

/// All rules that are on.
pub(crate) fn flat<'r>(sets: impl IntoIterator<Item = &'r RuleSet>) -> Vec<FlatRule<'r>> {
    let sets: Vec<&RuleSet> = sets.into_iter().collect();
    let mut all = Vec::new();
    for (index, set) in sets.iter().enumerate() {
        let prefix = if sets.len() > 1 { format!("{}:", short(&set.name)) } else { String::new() };
        let around = Around { set: index, of_set: set.table.fields.as_deref(), ..Around::default() };
        add(set, &prefix, &around, &mut all);
    }
    all
}

/// What the rules of a set have from those that include it.
#[derive(Clone, Debug, Default)]
struct Around<'r> {
    set: usize,
    scopes: Vec<&'r Scope>,
    cells: CellScope,
    of_set: Option<&'r [Field]>,
    protect: Vec<&'r Search>,
}

fn add<'r>(set: &'r RuleSet, prefix: &str, around: &Around<'r>, all: &mut Vec<FlatRule<'r>>) {
    let protect: Vec<&Search> = around.protect.iter().copied().chain(&set.protect).collect();
    for rule in set.rules.iter().filter(|rule| !rule.off) {
        let scopes: Vec<&Scope> = around.scopes.iter().copied().chain([&rule.scope]).collect();
        let cells = rule.cells.within(&around.cells);
        let (protect, of_set, set) = (protect.clone(), around.of_set, around.set);
        let number = format!("{prefix}{}", rule.number);
        match &rule.verb {
            Verb::Include(Include { set: included, .. }) => {
                add(included, &format!("{number}."), &Around { set, scopes, cells, of_set, protect }, all);
            }
            _ => all.push(FlatRule { number, rule, set, scopes, cells, of_set, protect }),
        }
    }
}

/// `notes/radio.wash.toml` is called `radio`.
fn short(set: &str) -> &str {
    let file = set.rsplit(['/', '\\']).next().unwrap_or(set);
    file.strip_suffix(".toml").map_or(file, |stem| stem.strip_suffix(".wash").unwrap_or(stem))
}
