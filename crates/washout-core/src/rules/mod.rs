//! The checked model of a rule set: what rules mean, with nothing left that could turn out wrong later.
//!
//! Each verb is a type of its own and holds just the settings that mean something for it.

mod caption;
mod cells;
mod expect;
mod flat;
mod name_settings;
mod rule_id;
mod scope;
mod search;
mod table_settings;
mod template;
mod verb;

pub use crate::pattern::{Pattern, PatternError, PatternUse};
pub use crate::text::At;
pub use crate::words::Hyphen;
pub(crate) use cells::line_word;
pub use cells::{CellScope, Field, NewField, NewPlace, RowTest};
pub use expect::Count;
pub(crate) use flat::{FlatRule, flat};
pub use name_settings::{NamePart, NameSettings};
pub use rule_id::{RuleId, RuleName};
pub use scope::{LinePlace, LineRange, Scope, Unclosed};
pub use search::{
    BetweenTarget, Case, CharsTarget, Except, Marks, PositionsTarget, Search, StockTarget, Target, Which, WordsTarget,
};
pub use table_settings::{Ragged, TableFormat, TableSettings};
pub use template::{Part, Template, TemplateError};
pub use verb::{
    BreakLines, BreakPlace, Collapse, Decode, DropFields, DropLines, DropRecords, DropRepeats, EmptyFields, EmptyLines,
    Encoded, FinalLineEnd, Gap, HyphenAtLineEnd, Include, JoinLines, Keep, KeepLines, LetterCase, LineEnds,
    MOST_DIGITS, MOST_LINE_COLUMNS, NormalForm, Normalize, Number, NumberPlace, Pad, Pairs, Paragraphs,
    PossibleHeading, Recase, Remove, RenameFields, RepeatScope, Replace, Replacement, Tabs, Trim, TrimAt, TrimClass,
    Unmatched, Verb, WrapLines,
};

use std::ops::Range;

/// An ordered set of rules with its examples.
///
/// ```
/// let set = washout_core::RuleSet::read("log", "[[rule]]\ntrim = { at = 'end' }\n")?;
/// assert_eq!(set.rules[0].verb.name(), "trim");
/// # Ok::<(), washout_core::RuleError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct RuleSet {
    /// What messages call the set: a file name, or the words of a command line.
    pub name: String,
    /// `title`, a few words.
    pub title: Option<String>,
    /// `about`, a sentence or two.
    pub about: Option<String>,
    /// `protect`: what all rules of the set leave alone.
    pub protect: Vec<Search>,
    /// The rules, in the order they run.
    pub rules: Vec<Rule>,
    /// `[names]`: what rules see of the names of files.
    pub names: NameSettings,
    /// `[table]`: what tables are like, and what rules see of them.
    pub table: TableSettings,
    /// The examples, in the order written.
    pub examples: Vec<Example>,
    /// The files it was read with, as messages call them: lists, tables of pairs, included sets and the files these name,
    /// texts of examples.
    pub files: Vec<String>,
}

impl RuleSet {
    /// Turns the rule of this number off: `3`, or `3.2` for the second rule of the set that rule 3 includes. A rule that is not there
    /// is off already.
    ///
    /// ```
    /// let mut set = washout_core::RuleSet::read("log", "[[rule]]\ntrim = {}\n[[rule]]\nremove.chars = '#'\n")?;
    /// set.turn_off("2");
    /// assert!(!set.rules[0].off && set.rules[1].off);
    /// # Ok::<(), washout_core::RuleError>(())
    /// ```
    pub fn turn_off(&mut self, number: &str) {
        let (own, below) = number.split_once('.').map_or((number, None), |(own, below)| (own, Some(below)));
        let Some(rule) = self.rules.iter_mut().find(|rule| rule.number.to_string() == own) else { return };
        match (below, &mut rule.verb) {
            (None, _) => rule.off = true,
            (Some(below), Verb::Include(include)) => include.set.turn_off(below),
            (Some(_), _) => {}
        }
    }
}

/// One rule.
#[derive(Clone, Debug)]
pub struct Rule {
    /// Its place in its set, from 1. Rules that are off count too, so that numbers fit what the file shows.
    pub number: usize,
    /// `label`.
    pub label: Option<String>,
    /// `off = true`: read and checked, but not run.
    pub off: bool,
    /// What it does.
    pub verb: Verb,
    /// Where it may.
    pub scope: Scope,
    /// In which part of a table it acts.
    pub cells: CellScope,
    /// `expect`: how many changes it is to make over a whole run.
    pub expect: Option<Count>,
    /// `expect_each`: how many changes it is to make in each file.
    pub expect_each: Option<Count>,
    /// `expect_sections`: on how many sections it is to act over a whole run.
    pub expect_sections: Option<Count>,
    /// Where it stands in the source of its set, in bytes.
    pub place: Range<usize>,
}

/// An `[[example]]`: a text and what the rules make of it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Example {
    /// `label`.
    pub label: Option<String>,
    /// The text before.
    pub given: Vec<u8>,
    /// The text after.
    pub gives: Vec<u8>,
    /// `rule`: the number of the one rule it is about; `None`: all rules of the set.
    pub rule: Option<usize>,
}
