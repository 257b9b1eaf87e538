//! What to be careful about: rules that mean something, but probably not what their writer meant.

use regex_syntax::hir::{Class, Hir, HirKind};

use super::search_of;
use super::vanish::{gives, needs, needs_line_end, put_by, takes};
use crate::class::{CharSet, unicode_class};
use crate::model::{
    At, Case, DropLines, FlatRule, LetterCase, Pattern, Recase, Remove, Replace, Replacement, RuleSet, Search, Target,
    Verb, Which, flat,
};
use crate::program::{Program, RuleId};
use crate::shown::quoted;
use crate::text::chars::is_blank_byte;

/// One thing to be careful about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Caution {
    /// The rule it is about, of the program compiled from the same sets; `None`: a set as a whole.
    pub rule: Option<RuleId>,
    /// What it is about, as messages call it: `rule 3`, or the name of a set.
    pub about: String,
    /// What may be wrong and what to do, in a sentence without its full stop.
    pub message: String,
}

/// Everything to be careful about in these sets, in the order rules run, then what is about whole sets.
///
/// The examples of each set are run twice, to see whether a second run would change a result again.
pub fn cautions<'r>(sets: impl IntoIterator<Item = &'r RuleSet>) -> Vec<Caution> {
    let sets: Vec<&RuleSet> = sets.into_iter().collect();
    let rules = flat(sets.iter().copied());
    let mut found = Vec::new();
    for (index, rule) in rules.iter().enumerate() {
        let messages = of_search(rule).into_iter().chain(of_order(index, &rules));
        found.extend(messages.map(|message| Caution {
            rule: Some(RuleId(index)),
            about: format!("rule {}", rule.number),
            message,
        }));
    }
    for set in sets {
        if changes_again(set) {
            let message = "a second run changes the result of its examples again; make sure that runs are not repeated, \
                           or change the order of its rules";
            found.push(Caution { rule: None, about: set.name.clone(), message: message.to_owned() });
        }
    }
    found
}

// --- one rule by itself ----------------------------------------------------------------------------------------------

fn of_search(flat: &FlatRule<'_>) -> Vec<String> {
    let Some(search) = search_of(&flat.rule.verb) else { return Vec::new() };
    let mut messages = Vec::new();
    match &search.target {
        Target::Pattern(pattern) => messages.extend(of_pattern(pattern, &flat.rule.verb)),
        Target::Words(words) => messages.extend(of_words(&words.entries, search)),
        Target::Text(entries) => messages.extend(of_text(entries)),
        Target::Chars(_) | Target::Stock(_) | Target::Between(_) | Target::Positions(_) => {}
    }
    messages
}

fn of_pattern(pattern: &Pattern, verb: &Verb) -> Vec<String> {
    let mut messages = Vec::new();
    let Some(hir) = pattern.hir() else { return messages };
    if pattern.across_lines() && needs_line_end(hir, &['\r']) {
        messages.push(
            "its pattern looks for \\r, but the whole text is seen with each line end as \\n: write \\n".to_owned(),
        );
    }
    if !pattern.across_lines() && needs_line_end(hir, &['\n', '\r']) {
        let message = "its pattern looks for a line end, but sees one line without its end: add across_lines = true";
        messages.push(message.to_owned());
    }
    let acts_on_empty = !matches!(verb, Verb::Remove(_) | Verb::Recase(_) | Verb::Keep(_));
    let can_be_empty = hir.properties().minimum_len() == Some(0) && !is_anchor(hir);
    if can_be_empty && acts_on_empty {
        messages.push("its pattern can match nothing at all, so it is found between any two characters".to_owned());
    }
    let everything = takes_everything(hir);
    if everything {
        messages.push("its pattern takes every line whole, whatever is on it".to_owned());
    }
    if !everything && let Some(after) = greedy_rest(hir) {
        messages.push(format!(
            "the pattern's {after} takes as much as it can, also over the next of what should end it: \
             write .*? (as few as will do)"
        ));
    }
    messages
}

/// Whether an expression is made of places alone: `^`, `$`, `\b` are meant to be empty.
fn is_anchor(hir: &Hir) -> bool {
    !hir.properties().look_set().is_empty() && hir.properties().maximum_len() == Some(0)
}

fn takes_everything(hir: &Hir) -> bool {
    const LINES: &[&str] = &["Marrow Point 12", "#", "— é…", "0:14 x", "a"];
    let regex = regex_automata::meta::Regex::builder().build_from_hir(hir);
    regex.is_ok_and(|regex| {
        LINES.iter().all(|line| regex.find(line).is_some_and(|found| found.range() == (0..line.len())))
    })
}

/// A greedy `.*` or `.+` with more behind it.
fn greedy_rest(hir: &Hir) -> Option<&'static str> {
    match hir.kind() {
        HirKind::Concat(parts) => {
            let rest = |index: usize| {
                let rest = &parts[index + 1..];
                !rest.is_empty() && !rest.iter().all(|part| matches!(part.kind(), HirKind::Look(_)))
            };
            let greedy = parts.iter().enumerate().find_map(|(index, part)| Some((index, greedy_any(part)?)));
            greedy.filter(|(index, _)| *index > 0 && rest(*index)).map(|(_, written)| written)
        }
        HirKind::Capture(capture) => greedy_rest(&capture.sub),
        HirKind::Alternation(parts) => parts.iter().find_map(greedy_rest),
        _ => None,
    }
}

fn greedy_any(hir: &Hir) -> Option<&'static str> {
    match hir.kind() {
        HirKind::Capture(capture) => greedy_any(&capture.sub),
        HirKind::Repetition(repetition) if repetition.greedy && repetition.max.is_none() => {
            let HirKind::Class(Class::Unicode(class)) = repetition.sub.kind() else { return None };
            let mut left_out = class.clone();
            left_out.negate();
            let any = left_out
                .ranges()
                .iter()
                .all(|range| matches!((range.start(), range.end()), ('\n' | '\r', '\n' | '\r')));
            any.then_some(if repetition.min == 0 { ".*" } else { ".+" })
        }
        _ => None,
    }
}

fn of_words(entries: &[String], search: &Search) -> Vec<String> {
    let mut messages = Vec::new();
    let with_letters: Vec<&String> = entries.iter().filter(|entry| entry.chars().any(char::is_alphabetic)).collect();
    let in_capitals = |entry: &&&String| {
        let letters: Vec<char> = entry.chars().filter(|letter| letter.is_alphabetic()).collect();
        letters.len() > 1 && letters.iter().all(|letter| letter.is_uppercase())
    };
    let capitals = with_letters.iter().filter(in_capitals).count();
    if search.case == Case::Exact && !search.case_is_written && capitals > 0 && capitals == with_letters.len() {
        let message = "its words are listed in capitals and are found in capitals only: add case = \"ignore\", or \
                       case = \"exact\" if that is meant";
        messages.push(message.to_owned());
    }
    let unspaced = unspaced_scripts();
    if let Some(entry) = entries.iter().find(|entry| entry.chars().any(|character| unspaced.contains(character))) {
        messages.push(format!(
            "{} is in a script that puts no blanks between words, so it is rarely found as a whole word: use text",
            quoted(entry)
        ));
    }
    messages
}

fn unspaced_scripts() -> CharSet {
    let scripts = r"[\p{Han}\p{Hiragana}\p{Katakana}\p{Thai}\p{Lao}\p{Khmer}\p{Myanmar}\p{Tibetan}]";
    unicode_class(scripts).unwrap_or_default()
}

/// Words given as text with blanks around them are missed beside punctuation and at line edges.
fn of_text(entries: &[String]) -> Vec<String> {
    let glued = entries.iter().find(|entry| blanks_around_a_word(entry));
    let message = |entry: &String| {
        format!(
            "{} is found only between blanks, not beside punctuation or at the edge of a line: `words` finds {} as a whole \
             word anywhere, and closes the gap",
            quoted(entry),
            quoted(entry.trim())
        )
    };
    glued.map(message).into_iter().collect()
}

fn blanks_around_a_word(entry: &str) -> bool {
    let bytes = entry.as_bytes();
    let both = bytes.len() > 2 && is_blank_byte(bytes[0]) && is_blank_byte(bytes[bytes.len() - 1]);
    both && entry.trim().chars().all(|letter| letter.is_alphabetic() || matches!(letter, '\'' | '’'))
}

// --- a rule among the others -----------------------------------------------------------------------------------------

fn of_order(index: usize, rules: &[FlatRule<'_>]) -> Vec<String> {
    let mut messages = Vec::new();
    if let Some(earlier) = taken_before(index, rules) {
        messages.push(format!(
            "it can never match: rule {} takes all it looks for; put this one first, or take one of the two out",
            rules[earlier].number
        ));
    }
    if let Some(later) = destroyed_by(index, rules) {
        messages.push(format!(
            "what it puts there is taken away again by rule {}; change their order, or what is put there",
            rules[later].number
        ));
    }
    if let Some(later) = recased_later(index, rules) {
        messages.push(format!(
            "it looks for small letters only, and rule {} makes capitals small afterwards: put that rule first, or add \
             case = \"ignore\"",
            rules[later].number
        ));
    }
    messages
}

/// The earlier rule after which nothing is left for this one.
fn taken_before(index: usize, rules: &[FlatRule<'_>]) -> Option<usize> {
    let search = search_of(&rules[index].rule.verb)?;
    for earlier in 0..index {
        if takes_same_words(earlier, index, rules) {
            return Some(earlier);
        }
        let mut gone = takes(&rules[earlier]);
        for between in &rules[earlier + 1..index] {
            match gives(&between.rule.verb) {
                Some(given) => gone.subtract(&given),
                None => gone = CharSet::default(),
            }
        }
        if !gone.is_empty() && needs(search, &gone) {
            return Some(earlier);
        }
    }
    None
}

/// Whether an earlier rule has removed every word that this one looks for, with nothing between that could make words.
fn takes_same_words(earlier: usize, index: usize, rules: &[FlatRule<'_>]) -> bool {
    let quiet = |rule: &FlatRule<'_>| match &rule.rule.verb {
        Verb::Trim(_) | Verb::DropLines(_) | Verb::KeepLines(_) | Verb::DropRepeats(_) => true,
        Verb::Remove(remove) => matches!(remove.search.target, Target::Words(_)),
        _ => false,
    };
    let Verb::Remove(Remove { search: first, which: Which::All, .. }) = &rules[earlier].rule.verb else { return false };
    let Some(second) = search_of(&rules[index].rule.verb) else { return false };
    let (Target::Words(taken), Target::Words(wanted)) = (&first.target, &second.target) else { return false };
    let everywhere = first.at == At::Anywhere
        && first.except.is_empty()
        && rules[earlier].protect.is_empty()
        && rules[earlier].scopes.iter().all(|scope| scope.is_all());
    let known = |entry: &String| match first.case {
        Case::Exact => second.case == Case::Exact && taken.entries.contains(entry),
        Case::Ignore => taken.entries.iter().any(|other| other.to_lowercase() == entry.to_lowercase()),
    };
    everywhere
        && taken.hyphen == wanted.hyphen
        && rules[earlier + 1..index].iter().all(quiet)
        && wanted.entries.iter().all(known)
}

/// The later rule that takes away what this one puts there.
fn destroyed_by(index: usize, rules: &[FlatRule<'_>]) -> Option<usize> {
    let Verb::Replace(Replace { with: Replacement::Template(with), .. }) = &rules[index].rule.verb else { return None };
    let put = put_by(with);
    let shows = put.ranges().any(|(first, _)| !first.is_whitespace());
    if !shows || with.as_literal().is_none() {
        return None;
    }
    (index + 1..rules.len()).find(|later| {
        let removes = matches!(&rules[*later].rule.verb, Verb::Remove(_));
        let taken = takes(&rules[*later]);
        removes && put.ranges().all(|(first, last)| (first..=last).all(|put| taken.contains(put)))
    })
}

/// A later rule that makes capitals small, where this one looks for words in small letters as they are written.
fn recased_later(index: usize, rules: &[FlatRule<'_>]) -> Option<usize> {
    let acts = matches!(
        &rules[index].rule.verb,
        Verb::Remove(_) | Verb::Replace(_) | Verb::DropLines(DropLines::Holding(_)) | Verb::KeepLines(_)
    );
    let search = search_of(&rules[index].rule.verb).filter(|_| acts)?;
    let Target::Words(words) = &search.target else { return None };
    let small = words.entries.iter().all(|entry| !entry.chars().any(char::is_uppercase));
    if search.case == Case::Ignore || search.case_is_written || !small {
        return None;
    }
    let lowers =
        |rule: &FlatRule<'_>| matches!(&rule.rule.verb, Verb::Recase(Recase { to: LetterCase::Lower, within: None }));
    (index + 1..rules.len()).find(|later| lowers(&rules[*later]))
}

// --- a set as a whole ------------------------------------------------------------------------------------------------

/// Whether a second run changes the result of an example again.
fn changes_again(set: &RuleSet) -> bool {
    let program = Program::compile([set]);
    let again = |first: &[u8]| program.apply(first).is_ok_and(|second| second.text() != first);
    set.prove().filter(|proof| proof.example.rule.is_none()).any(|proof| proof.got.is_ok_and(|got| again(&got)))
}
