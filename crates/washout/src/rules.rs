//! From `-r` and `--rule` to a program.

use std::path::Path;

use clap::ArgMatches;
use washout_core::read::nearest;
use washout_core::rules::Rule;
use washout_core::{Program, RuleError, RuleId, RuleSet};
use washout_sets::{RuleFiles, SetError};

use crate::args::RuleArgs;
use crate::exit::Trouble;
use crate::show::visible::{shown, shown_path};

/// Reads all rules that were given, in the order they were given, and compiles them.
pub(crate) fn program(args: &RuleArgs, given: &ArgMatches) -> Result<(Program, Vec<RuleSet>), Trouble> {
    let sets = sets(args, given)?;
    let program = Program::compile(&sets);
    let program = match args.max_memory {
        Some(size) => program.with_memory_limit(size.as_u64()),
        None => program,
    };
    if program.names().is_empty() {
        let message = "there is no rule that is on\nA rule starts with [[rule]] on a line of its own";
        return Err(Trouble::Usage(message.to_owned()));
    }
    Ok((program, sets))
}

/// The rule a command line means by its number, or by its label.
pub(crate) fn named_rule(program: &Program, text: &str) -> Result<RuleId, Trouble> {
    let names = program.names();
    let found = names.iter().position(|name| name.number == text);
    if let Some(index) = found.or_else(|| names.iter().position(|name| name.caption == text)) {
        return Ok(RuleId(index));
    }
    let all: Vec<&str> = names.iter().flat_map(|name| [name.number.as_str(), name.caption.as_str()]).collect();
    let near = nearest(text, all.iter().copied()).map_or_else(String::new, |near| format!("; did you mean `{near}`?"));
    let numbers = match names {
        [only] => only.number.clone(),
        [first, .., last] => format!("{} to {}", first.number, last.number),
        [] => "none".to_owned(),
    };
    Err(Trouble::Usage(format!("there is no rule `{}`{near}\nRules that are on: {numbers}", shown(text))))
}

/// Only the rules that `--only-rule` and `--up-to-rule` leave.
pub(crate) fn part(program: Program, only: Option<&str>, up_to: Option<&str>) -> Result<Program, Trouble> {
    let mut rules = 0..program.names().len();
    if let Some(last) = up_to {
        rules.end = named_rule(&program, last)?.0 + 1;
    }
    if let Some(only) = only {
        let only = named_rule(&program, only)?.0;
        rules = only..only + 1;
    }
    Ok(if rules.len() == program.names().len() { program } else { program.part(rules) })
}

/// Reads all rules that were given, in the order they were given.
pub(crate) fn sets(args: &RuleArgs, given: &ArgMatches) -> Result<Vec<RuleSet>, Trouble> {
    let sources = in_order(args, given);
    if sources.is_empty() {
        return Err(Trouble::Usage(
            "no rules given\nName a rule set with -r FILE, or give a rule: --rule 'remove.chars = \"#-\"'".to_owned(),
        ));
    }
    let (mut sets, mut errors) = (Vec::new(), Vec::new());
    for source in &sources {
        match source.read()? {
            Ok(set) => sets.push(set),
            Err(found) => errors.extend(found),
        }
    }
    if errors.is_empty() { Ok(sets) } else { Err(Trouble::Rules(errors)) }
}

/// What messages call a rule that was typed; several are told apart by what follows.
const TYPED: &str = "--rule";

const FILES: RuleFiles = RuleFiles { typed: Some(TYPED) };

/// The text of a ready set.
pub(crate) fn ready_source(name: &str) -> Result<&'static str, Trouble> {
    washout_sets::ready_source(name).map_err(|error| Trouble::Usage(error.to_string()))
}

enum RuleSource<'a> {
    Set(&'a Path),
    /// Rules given one after the other are one set. Each has its number among all `--rule`s, from 1.
    Rules(Vec<(usize, &'a str)>),
}

/// `-r` and `--rule` as they stood on the command line.
fn in_order<'a>(args: &'a RuleArgs, given: &ArgMatches) -> Vec<RuleSource<'a>> {
    let places = |name| given.indices_of(name).into_iter().flatten();
    let sets = places("rules").zip(&args.rules).map(|(at, path)| (at, RuleSource::Set(path)));
    let numbered = (1..).zip(args.rule.iter().map(String::as_str));
    let rules = places("rule").zip(numbered).map(|(at, rule)| (at, RuleSource::Rules(vec![rule])));
    let mut all: Vec<(usize, RuleSource<'a>)> = sets.chain(rules).collect();
    all.sort_by_key(|(at, _)| *at);
    let mut sources: Vec<RuleSource<'a>> = Vec::new();
    for (_, source) in all {
        match (sources.last_mut(), source) {
            (Some(RuleSource::Rules(before)), RuleSource::Rules(rules)) => before.extend(rules),
            (_, source) => sources.push(source),
        }
    }
    sources
}

/// Reads the rule set in this file. The outer error: there is no text to read rules from.
pub(crate) fn read_set(path: &Path) -> Result<Result<RuleSet, RuleError>, Trouble> {
    match washout_sets::read_set(path, &FILES) {
        Ok(set) => Ok(Ok(set)),
        Err(SetError::Rules(error)) => Ok(Err(error)),
        Err(SetError::Unreadable(reason)) => {
            Err(Trouble::Usage(format!("the rule set {} cannot be read: {reason}", shown_path(path))))
        }
        Err(error) => Err(Trouble::Usage(error.to_string())),
    }
}

impl RuleSource<'_> {
    fn read(&self) -> Result<Result<RuleSet, Vec<RuleError>>, Trouble> {
        match self {
            Self::Set(path) => Ok(read_set(path)?.map_err(|error| vec![error])),
            Self::Rules(rules) => Ok(read_rules(rules)),
        }
    }
}

/// Every rule is read, even after one that is wrong: all problems are to be shown.
fn read_rules(rules: &[(usize, &str)]) -> Result<RuleSet, Vec<RuleError>> {
    let mut set = RuleSet { name: TYPED.to_owned(), ..RuleSet::default() };
    let mut errors = Vec::new();
    for (number, rule) in rules {
        let name = if *number == 1 { TYPED.to_owned() } else { format!("{TYPED}, number {number}") };
        match RuleSet::read_one_rule_with(&name, rule, &FILES) {
            Ok(read) => {
                set.rules.extend(read.rules.into_iter().map(|rule| Rule { number: *number, ..rule }));
                set.files.extend(read.files);
            }
            Err(error) => errors.push(error),
        }
    }
    if errors.is_empty() { Ok(set) } else { Err(errors) }
}
