//! From `-r` and `--rule` to a program.

use std::path::Path;

use clap::ArgMatches;
use washout_core::{Program, RuleError, RuleSet};

use crate::args::RuleArgs;
use crate::exit::Trouble;
use crate::show::visible::shown_path;

/// Reads all rules that were given, in the order they were given, and compiles them.
pub(crate) fn program(args: &RuleArgs, given: &ArgMatches) -> Result<Program, Trouble> {
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
            Err(error) => errors.push(error),
        }
    }
    if errors.is_empty() { Ok(Program::compile(&sets)) } else { Err(Trouble::Rules(errors)) }
}

enum Source<'a> {
    Set(&'a Path),
    /// Rules given one after the other count as one set, numbered from 1.
    Rules(Vec<&'a str>),
}

/// `-r` and `--rule` as they stood on the command line.
fn in_order<'a>(args: &'a RuleArgs, given: &ArgMatches) -> Vec<Source<'a>> {
    let places = |name| given.indices_of(name).into_iter().flatten();
    let sets = places("rules").zip(&args.rules).map(|(at, path)| (at, Source::Set(path)));
    let rules = places("rule").zip(&args.rule).map(|(at, rule)| (at, Source::Rules(vec![rule])));
    let mut all: Vec<(usize, Source<'a>)> = sets.chain(rules).collect();
    all.sort_by_key(|(at, _)| *at);
    let mut sources: Vec<Source<'a>> = Vec::new();
    for (_, source) in all {
        match (sources.last_mut(), source) {
            (Some(Source::Rules(before)), Source::Rules(rules)) => before.extend(rules),
            (_, source) => sources.push(source),
        }
    }
    sources
}

/// Reads the rule set in this file. The outer error: there is no text to read rules from.
pub(crate) fn read_set(path: &Path) -> Result<Result<RuleSet, RuleError>, Trouble> {
    let source = std::fs::read(path).map_err(|error| unreadable(path, &error.to_string()))?;
    let source = String::from_utf8(source).map_err(|error| {
        let good = String::from_utf8_lossy(&error.as_bytes()[..error.utf8_error().valid_up_to()]);
        let line = good.matches('\n').count() + 1;
        unreadable(path, &format!("line {line} is no UTF-8, and rule sets have to be"))
    })?;
    Ok(RuleSet::read(&path.to_string_lossy(), &source))
}

impl Source<'_> {
    fn read(&self) -> Result<Result<RuleSet, RuleError>, Trouble> {
        match self {
            Self::Set(path) => read_set(path),
            Self::Rules(rules) => Ok(read_rules(rules)),
        }
    }
}

fn unreadable(path: &Path, reason: &str) -> Trouble {
    let reason = reason.split(" (os error").next().unwrap_or(reason);
    Trouble::Usage(format!("the rule set {} cannot be read: {reason}", shown_path(path)))
}

fn read_rules(rules: &[&str]) -> Result<RuleSet, RuleError> {
    let mut set = RuleSet { name: "--rule".to_owned(), ..RuleSet::default() };
    for (index, rule) in rules.iter().enumerate() {
        let name = if rules.len() == 1 { "--rule".to_owned() } else { format!("--rule, number {}", index + 1) };
        let read = RuleSet::read_one_rule(&name, rule)?;
        set.rules.extend(read.rules.into_iter().map(|rule| washout_core::Rule { number: index + 1, ..rule }));
    }
    Ok(set)
}
