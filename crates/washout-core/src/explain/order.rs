//! What to be careful about in the order of rules.

use std::collections::HashSet;

use super::vanish::{gives, needs, recycle, takes};
use crate::class::CharSet;
use crate::rules::{
    Case, Collapse, DropLines, FlatRule, LetterCase, Recase, Remove, Replace, Replacement, Search, Target, Verb, Which,
};
use crate::stock::Stock;
use crate::text::At;

/// How far back and ahead words are compared: among many rules of words, each with each would take long.
const NEAR: usize = 200;

/// What all rules together say about each of them. Worked out in one walk: sets may have ten thousand rules.
pub(super) struct RuleEffects<'r> {
    rules: &'r [FlatRule<'r>],
    /// For each rule the earlier one after which nothing is left for it.
    taken_before: Vec<Option<usize>>,
    /// Rules that remove every one of some characters.
    removing: Vec<(usize, CharSet)>,
    /// Rules that make all capitals small.
    lowering: Vec<usize>,
    /// For each rule the earlier one that has taken marks which it goes by.
    marks_gone: Vec<Option<(usize, &'static str)>>,
}

impl<'r> RuleEffects<'r> {
    pub(super) fn of(rules: &'r [FlatRule<'r>]) -> Self {
        let mut order = Self {
            rules,
            taken_before: Vec::new(),
            removing: Vec::new(),
            lowering: Vec::new(),
            marks_gone: Vec::new(),
        };
        // The characters that are gone at this point, and the rule that took them.
        let mut gone: Vec<(usize, CharSet)> = Vec::new();
        // All of them together: one look tells nearly always that nothing is missing.
        let mut gone_at_all = CharSet::default();
        for (index, rule) in rules.iter().enumerate() {
            let search = rule.rule.verb.search();
            let search = search.filter(|search| needs(search, &gone_at_all));
            let taken = search.and_then(|search| gone.iter().find(|(_, gone)| needs(search, gone)));
            let taken = taken.map(|(earlier, _)| *earlier);
            order.taken_before.push(taken.or_else(|| words_taken_before(index, rules)));
            let marks = marks_needed(&rule.rule.verb).and_then(|(marks, why)| {
                let earlier = gone.iter().find(|(_, gone)| marks.iter().all(|mark| gone.contains(*mark)));
                Some((earlier?.0, why))
            });
            order.marks_gone.push(marks.filter(|_| taken.is_none()));
            match gives(&rule.rule.verb) {
                None => {
                    gone.clear();
                    gone_at_all = CharSet::default();
                }
                Some(given) if !given.is_empty() => {
                    gone.iter_mut().for_each(|(_, gone)| gone.subtract(&given));
                    gone.retain(|(_, gone)| !gone.is_empty());
                    gone_at_all.subtract(&given);
                }
                Some(_) => {}
            }
            let taken = takes(rule);
            if !taken.is_empty() {
                if matches!(&rule.rule.verb, Verb::Remove(_)) {
                    order.removing.push((index, taken.clone()));
                }
                gone_at_all.add(&taken);
                gone.push((index, taken));
            }
            let everywhere = !rule.cells.is_about_tables();
            if everywhere && matches!(&rule.rule.verb, Verb::Recase(Recase { to: LetterCase::Lower, within: None, .. }))
            {
                order.lowering.push(index);
            }
        }
        order
    }

    /// What may be wrong with this one among the others, a sentence each.
    pub(super) fn messages(&self, index: usize) -> Vec<String> {
        let number = |rule: usize| &self.rules[rule].number;
        let mut messages = Vec::new();
        if let Some(earlier) = self.taken_before[index] {
            messages.push(format!(
                "it can never match: rule {} takes all it looks for; put this one first, or take one of the two out",
                number(earlier)
            ));
        }
        if let Some((earlier, why)) = self.marks_gone[index] {
            messages.push(format!("{why}, and rule {} takes them away before: put this one first", number(earlier)));
        }
        if let Some(later) = self.line_ends_later(index) {
            messages.push(format!(
                "rule {} takes line ends away afterwards, and blanks on both sides of one come together: put this one after it",
                number(later)
            ));
        }
        if let Some(later) = self.destroyed_by(index) {
            messages.push(format!(
                "what it puts there is taken away again by rule {}; change their order, or what is put there",
                number(later)
            ));
        }
        if let Some(later) = self.lowered_later(index) {
            messages.push(format!(
                "it looks for small letters only, and rule {} makes capitals small afterwards: put that rule first, or \
                 add case = \"ignore\"",
                number(later)
            ));
        }
        messages
    }

    /// The later rule that takes away what this one puts there.
    fn destroyed_by(&self, index: usize) -> Option<usize> {
        let Verb::Replace(Replace { with: Replacement::Template(with), .. }) = &self.rules[index].rule.verb else {
            return None;
        };
        with.as_literal()?;
        let put = recycle(with);
        if put.ranges().all(|(first, _)| first.is_whitespace()) {
            return None;
        }
        let takes_all = |(later, taken): &&(usize, CharSet)| {
            *later > index && put.ranges().all(|(first, last)| (first..=last).all(|put| taken.contains(put)))
        };
        self.removing.iter().find(takes_all).map(|(later, _)| *later)
    }

    /// Where this one makes one blank of several, a later rule that takes line ends, with no such rule after it.
    fn line_ends_later(&self, index: usize) -> Option<usize> {
        let collapses = |rule: &FlatRule<'_>| match &rule.rule.verb {
            Verb::Collapse(Collapse { search: Search { target: Target::Chars(chars), .. }, .. }) => {
                chars.set.contains(' ')
            }
            _ => false,
        };
        if !collapses(&self.rules[index]) {
            return None;
        }
        let takes_ends = |rule: &FlatRule<'_>| {
            matches!(&rule.rule.verb, Verb::Remove(Remove { search, .. }) | Verb::Replace(Replace { search, .. })
                if search.takes_line_ends() && matches!(search.target, Target::Chars(_)))
        };
        let later = (index + 1..self.rules.len().min(index + NEAR)).find(|later| takes_ends(&self.rules[*later]))?;
        let mended = self.rules[later + 1..].iter().take(NEAR).any(collapses);
        (!mended).then_some(later)
    }

    /// A later rule that makes capitals small, where this one looks for words in small letters as they are written.
    fn lowered_later(&self, index: usize) -> Option<usize> {
        let verb = &self.rules[index].rule.verb;
        let acts = matches!(
            verb,
            Verb::Remove(_) | Verb::Replace(_) | Verb::DropLines(DropLines::Holding(_)) | Verb::KeepLines(_)
        );
        let search = verb.search().filter(|_| acts)?;
        let Target::Words(words) = &search.target else { return None };
        let small = words.entries.iter().all(|entry| !entry.chars().any(char::is_uppercase));
        if search.case == Case::Ignore || search.case_is_written || !small {
            return None;
        }
        self.lowering.iter().copied().find(|later| *later > index)
    }
}

/// Marks by which a rule finds what it looks for, though it could do without, and why.
fn marks_needed(verb: &Verb) -> Option<(&'static [char], &'static str)> {
    if matches!(verb, Verb::Recase(Recase { to: LetterCase::Sentence, .. })) {
        return Some((&['.'], "it finds the ends of sentences by their full stops"));
    }
    match &verb.search()?.target {
        Target::Stock(stock) if stock.stock == Stock::SentenceEnd => {
            Some((&['.'], "it finds the ends of sentences by their full stops"))
        }
        Target::Words(words) if words.entries.iter().any(|word| word.contains(['\'', '’'])) => {
            Some((&['\'', '’'], "some of its words have apostrophes"))
        }
        _ => None,
    }
}

/// The earlier rule that has removed every word that this one looks for, with nothing between that could make words.
fn words_taken_before(index: usize, rules: &[FlatRule<'_>]) -> Option<usize> {
    let search = rules[index].rule.verb.search()?;
    let Target::Words(_) = &search.target else { return None };
    for earlier in (index.saturating_sub(NEAR)..index).rev() {
        if takes_same_words(&rules[earlier], search) {
            return Some(earlier);
        }
        let quiet = match &rules[earlier].rule.verb {
            Verb::Trim(_)
            | Verb::DropLines(_)
            | Verb::KeepLines(_)
            | Verb::DropRepeats(_)
            | Verb::DropRecords(_)
            | Verb::DropFields(_)
            | Verb::RenameFields(_) => true,
            Verb::Remove(remove) => matches!(remove.search.target, Target::Words(_)),
            _ => false,
        };
        if !quiet {
            return None;
        }
    }
    None
}

fn takes_same_words(earlier: &FlatRule<'_>, second: &Search) -> bool {
    let Verb::Remove(Remove { search: first, which: Which::All, .. }) = &earlier.rule.verb else { return false };
    let (Target::Words(taken), Target::Words(wanted)) = (&first.target, &second.target) else { return false };
    let everywhere = first.at == At::Anywhere
        && first.except.is_empty()
        && earlier.protect.is_empty()
        && !earlier.cells.is_about_tables()
        && earlier.scopes.iter().all(|scope| scope.is_all());
    if !everywhere || taken.hyphen != wanted.hyphen || (first.case == Case::Exact && second.case == Case::Ignore) {
        return false;
    }
    let spelled = |entry: &String| if first.case == Case::Ignore { entry.to_lowercase() } else { entry.clone() };
    let known: HashSet<String> = taken.entries.iter().map(spelled).collect();
    wanted.entries.iter().all(|entry| known.contains(&spelled(entry)))
}
