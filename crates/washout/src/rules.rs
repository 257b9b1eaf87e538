//! From `-r` and `--rule` to a program.

use std::path::Path;

use clap::ArgMatches;
use washout_core::names::{NamePart, NameSettings};
use washout_core::read::nearest;
use washout_core::rules::Rule;
use washout_core::{Program, RuleError, RuleId, RuleSet};
use washout_sets::{RuleFiles, SetError};

use crate::args::{PartArg, RuleArgs};
use crate::exit::Trouble;
use crate::kept_rules::{KeptRules, KeptSet, RulePart};
use crate::out::print_warning;
use crate::outputs::{self, Inputs, write_whole};
use crate::past::{rules_of_run, run_of};
use crate::rule_text::one_set;
use crate::show::command_line::program_name;
use crate::show::visible::{shown, shown_path};

/// Reads all rules that were given, in the order they were given, and compiles them.
pub(crate) fn program(args: &RuleArgs, given: &ArgMatches) -> Result<(Program, Vec<RuleSet>), Trouble> {
    let sets = sets(args, given)?;
    Ok((limited(Program::compile(&sets), args)?, sets))
}

/// With the memory that the command line allows.
pub(crate) fn limited(program: Program, args: &RuleArgs) -> Result<Program, Trouble> {
    if program.names().is_empty() {
        let message = "there is no rule that is on\nA rule starts with [[rule]] on a line of its own";
        return Err(Trouble::Usage(message.to_owned()));
    }
    Ok(match args.max_memory {
        Some(size) => program.with_memory_limit(size.as_u64()),
        None => program,
    })
}

/// The command line comes before the sets, and of these the last.
pub(crate) fn name_settings(part: Option<PartArg>, sets: &[RuleSet]) -> NameSettings {
    let part = part.map(|part| match part {
        PartArg::Stem => NamePart::Stem,
        PartArg::Extension => NamePart::Extension,
        PartArg::Whole => NamePart::Whole,
    });
    let typed = NameSettings { part, blanks: None };
    sets.iter().rev().fold(typed, |settings, set| settings.or(set.names.clone()))
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
        for read in source.read()? {
            match read {
                Ok(set) => sets.push(set),
                Err(found) => errors.extend(found),
            }
        }
    }
    if !errors.is_empty() {
        return Err(Trouble::Rules(errors));
    }
    if let Some(file) = &args.save_rules {
        save(&parts(args, given)?, file, &sets)?;
    }
    Ok(sets)
}

/// What messages call a rule that was typed; several are told apart by what follows.
const TYPED: &str = "--rule";

pub(crate) const FILES: RuleFiles = RuleFiles { typed: Some(TYPED) };

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
    // Rules that `again` runs were not typed.
    if let ([path], []) = (&args.rules[..], &args.rule[..]) {
        return vec![RuleSource::Set(path)];
    }
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
    Ok(read_set_and_text(path)?.map(|(set, _)| set))
}

/// The same with what it was read from.
pub(crate) fn read_set_and_text(path: &Path) -> Result<Result<(RuleSet, KeptSet), RuleError>, Trouble> {
    let kept = kept_set(path).map_err(|error| match error {
        SetError::Unreadable(reason) => {
            Trouble::Usage(format!("the rule set {} cannot be read: {reason}", shown_path(path)))
        }
        error => Trouble::Usage(error.to_string()),
    })?;
    Ok(read_kept(&kept).map(|set| (set, kept)))
}

fn kept_set(path: &Path) -> Result<KeptSet, SetError> {
    let name = washout_sets::resolved(path)?.to_string_lossy().into_owned();
    Ok(KeptSet { text: washout_sets::read_source(path)?, name, off: Vec::new() })
}

/// The rules that were given as texts, in the order they were given.
pub(crate) fn parts(args: &RuleArgs, given: &ArgMatches) -> Result<Vec<RulePart>, Trouble> {
    let mut parts = Vec::new();
    for source in in_order(args, given) {
        match source {
            RuleSource::Set(path) => match run_of(path) {
                Some(run) => parts.extend(parts_of_run(run)?),
                None => parts.extend(set_part(path).map(RulePart::Set)),
            },
            RuleSource::Rules(rules) => {
                parts.extend(rules.into_iter().map(|(_, rule)| RulePart::Rule(rule.to_owned())));
            }
        }
    }
    Ok(parts)
}

/// A rule set with its text.
pub(crate) fn set_part(path: &Path) -> Option<KeptSet> {
    kept_set(path).ok()
}

/// The rules of a run that had the same ones for all files.
fn parts_of_run(run: i64) -> Result<Vec<RulePart>, Trouble> {
    match rules_of_run(run)? {
        KeptRules::Given(parts) => Ok(parts),
        KeptRules::Project(_) => Err(Trouble::Usage(format!(
            "the rules of run {run} are those of a project file, which says which of them are for which files\n\
             To run them once more: {program} again {run}",
            program = program_name()
        ))),
    }
}

/// Writes rules as one set; `my:NAME` is a personal one.
fn save(parts: &[RulePart], file: &Path, sets: &[RuleSet]) -> Result<(), Trouble> {
    let text = one_set(parts).map_err(|why| Trouble::Usage(shown(&why)))?;
    let place = washout_sets::resolved(file).map_err(|error| Trouble::Usage(error.to_string()))?;
    let folder = place.parent().unwrap_or(Path::new("")).to_owned();
    let failed = |error| Trouble::File(shown_path(&folder), error);
    if place != file {
        std::fs::create_dir_all(&folder).map_err(failed)?;
    }
    // Lists and other sets are named from the folder of the set.
    let whole =
        |folder: &Path| std::path::absolute(if folder.as_os_str().is_empty() { Path::new(".") } else { folder }).ok();
    let moved = sets.iter().find(|set| {
        !set.files.is_empty() && whole(Path::new(&set.name).parent().unwrap_or(Path::new(""))) != whole(&folder)
    });
    if let Some(set) = moved {
        return Err(Trouble::Usage(format!(
            "{} names files, which are found from its own folder only: {}\nSave the rules in that folder",
            shown(&set.name),
            shown(&set.files.join(", "))
        )));
    }
    // The same rules may be there: a run that was refused after this point is run again.
    if !std::fs::read(&place).is_ok_and(|saved| saved == text.as_bytes()) {
        let choice = crate::args::ChoiceArgs::default();
        for output in outputs::start(&[&place], &Inputs::of(&[], &choice), false)? {
            write_whole(output, &text)?;
        }
    }
    Ok(print_warning(&format!("the rules are in {}", shown_path(&place)))?)
}

impl RuleSource<'_> {
    /// Reads what it is; a run may have had several sets.
    fn read(&self) -> Result<Vec<Result<RuleSet, Vec<RuleError>>>, Trouble> {
        Ok(match self {
            Self::Set(path) => match run_of(path) {
                Some(run) => read_parts(&parts_of_run(run)?),
                None => vec![read_set(path)?.map_err(|error| vec![error])],
            },
            Self::Rules(rules) => vec![read_rules(rules)],
        })
    }
}

/// Reads what was kept of a run. Rules that follow each other are one set, as those of a command line.
fn read_parts(parts: &[RulePart]) -> Vec<Result<RuleSet, Vec<RuleError>>> {
    let mut read = Vec::new();
    let mut number = 0;
    for group in parts.chunk_by(|one, next| matches!((one, next), (RulePart::Rule(_), RulePart::Rule(_)))) {
        if let [RulePart::Rule(_), ..] = group {
            let rules = group.iter().filter_map(|part| match part {
                RulePart::Rule(rule) => Some(rule.as_str()),
                RulePart::Set(_) => None,
            });
            let numbered: Vec<_> = rules
                .map(|rule| {
                    number += 1;
                    (number, rule)
                })
                .collect();
            read.push(read_rules(&numbered));
        } else {
            read.extend(group.iter().map(read_part));
        }
    }
    read
}

/// Reads one of these parts.
pub(crate) fn read_part(part: &RulePart) -> Result<RuleSet, Vec<RuleError>> {
    match part {
        RulePart::Set(set) => read_kept(set).map_err(|error| vec![error]),
        RulePart::Rule(rule) => read_rules(&[(1, rule)]),
    }
}

/// Reads a rule set that was kept; those of its rules that were turned off are off.
pub(crate) fn read_kept(kept: &KeptSet) -> Result<RuleSet, RuleError> {
    let mut set = RuleSet::read_with(&kept.name, &kept.text, &FILES)?;
    kept.off.iter().for_each(|number| set.turn_off(number));
    Ok(set)
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
