//! What to be careful about: rules that mean something, but probably not what their writer meant.

use std::collections::HashSet;

use regex_syntax::hir::{Class, Hir, HirKind, Look};

use super::search_of;
use super::vanish::{gives, needs, needs_line_end, put_by, takes};
use crate::class::{CharSet, unicode_class};
use crate::model::{
    At, Case, CharsTarget, Collapse, DropLines, FlatRule, LetterCase, Pattern, PossibleHeading, Recase, Remove,
    Replace, Replacement, RuleSet, Search, Target, Verb, Which, flat,
};
use crate::program::{Program, RuleId};
use crate::shown::quoted;
use crate::stock::Stock;
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
pub fn cautions(sets: &[RuleSet], program: &Program, samples: &[Sample]) -> Vec<Caution> {
    let rules = flat(sets);
    let order = Order::of(&rules);
    let mut found = Vec::new();
    for (index, rule) in rules.iter().enumerate() {
        let messages = of_search(rule).into_iter().chain(order.messages(index));
        found.extend(messages.map(|message| Caution {
            rule: Some(RuleId(index)),
            about: format!("rule {}", rule.number),
            message,
        }));
    }
    for set in sets {
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

// --- one rule by itself ----------------------------------------------------------------------------------------------

fn of_search(flat: &FlatRule<'_>) -> Vec<String> {
    let Some(search) = search_of(&flat.rule.verb) else { return Vec::new() };
    let mut messages = Vec::new();
    if let Verb::Replace(Replace { with: Replacement::Pairs(pairs), .. }) = &flat.rule.verb {
        messages.extend(pairs.headings.iter().map(|PossibleHeading { file, row: [from, to] }| {
            format!(
                "the first row of `{file}` reads as a heading ({from}, {to}) and is a pair: write heading = true to leave it \
                 out, or heading = false if it is one"
            )
        }));
    }
    match &search.target {
        Target::Pattern(pattern) => messages.extend(of_pattern(pattern, &flat.rule.verb)),
        Target::Words(words) => messages.extend(of_words(&words.entries, search)),
        Target::Text(entries) => messages.extend(of_text(entries)),
        Target::Chars(chars) => messages.extend(glued_by_dashes(chars, search, &flat.rule.verb)),
        Target::Stock(_) | Target::Between(_) | Target::Positions(_) => {}
    }
    messages.extend(idle_exception(search));
    messages
}

/// More characters than that are a class, in which nobody thinks of each.
const FEW: usize = 8;

/// Dashes that go with others of their class take the words beside them together.
fn glued_by_dashes(chars: &CharsTarget, search: &Search, verb: &Verb) -> Option<String> {
    let spares = search.except.chars.set.contains('-') || search.except.chars.set.contains('—');
    let takes_dashes = chars.set.contains('-') && chars.set.contains('—') && chars.set.len() > FEW;
    let removes = matches!(verb, Verb::Remove(Remove { which: Which::All, .. })) && search.at == At::Anywhere;
    (removes && takes_dashes && !spares).then(|| {
        "it takes dashes away between letters too, so that never—never and Fenn-Ward become one word: put a blank in \
         their place before, or leave them with except = { class = \"dash\" }"
            .to_owned()
    })
}

/// An exception that no match can be.
fn idle_exception(search: &Search) -> Option<String> {
    let except = &search.except;
    if except.is_empty() {
        return None;
    }
    let phrases = || except.words.iter().chain(&except.text);
    let known =
        |entries: &[String], entry: &String| entries.iter().any(|known| known.to_lowercase() == entry.to_lowercase());
    let applies = match &search.target {
        Target::Chars(chars) => {
            let mut shared = except.chars.set.clone();
            let mut rest = shared.clone();
            rest.subtract(&chars.set);
            shared.subtract(&rest);
            let long = search.at != At::Anywhere && phrases().next().is_some();
            !shared.is_empty() || long || phrases().any(|entry| entry.chars().count() == 1)
        }
        Target::Words(words) => !except.chars.set.is_empty() || phrases().any(|entry| known(&words.entries, entry)),
        Target::Text(entries) => !except.chars.set.is_empty() || phrases().any(|entry| known(entries, entry)),
        Target::Pattern(pattern) => {
            let regex = pattern.hir().and_then(|hir| regex_automata::meta::Regex::builder().build_from_hir(hir).ok());
            let whole = |entry: &String| {
                regex
                    .as_ref()
                    .is_none_or(|regex| regex.find(entry).is_some_and(|found| found.range() == (0..entry.len())))
            };
            search.case == Case::Ignore || !except.chars.set.is_empty() || phrases().any(whole)
        }
        Target::Stock(_) | Target::Between(_) | Target::Positions(_) => true,
    };
    (!applies).then(|| {
        "its `except` can never apply: it spares a match that is excepted as a whole, and none of these can be one; to leave \
         places alone, use spare"
            .to_owned()
    })
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
            // What has to end where the line does ends there either way.
            let ends = parts
                .last()
                .is_some_and(|last| matches!(last.kind(), HirKind::Look(Look::End | Look::EndLF | Look::EndCRLF)));
            greedy.filter(|(index, _)| *index > 0 && rest(*index) && !ends).map(|(_, written)| written)
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
    if let [only] = entries
        && only.split(", ").count() > 1
        && only.split(", ").all(|word| !word.trim().is_empty() && !word.contains(['.', '!', '?']))
    {
        let words: Vec<String> = only.split(',').map(|word| format!("\"{}\"", word.trim())).collect();
        messages.push(format!(
            "{} is one phrase with its commas: for several words write [{}]",
            quoted(only),
            words.join(", ")
        ));
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
    let expression = entries.iter().find(|entry| reads_as_expression(entry)).map(|entry| {
        format!("the text {} is looked for as it is written; a regular expression is a `pattern`", quoted(entry))
    });
    glued.map(message).into_iter().chain(expression).collect()
}

/// Whether somebody has most likely meant a regular expression: `\d+`, `[0-9]+`, `.*`.
fn reads_as_expression(entry: &str) -> bool {
    let has_class = ["\\d", "\\w", "\\s", "\\b"].iter().any(|class| entry.contains(class));
    let has_repeat = [".*", ".+", "]+", "]*", ")+", ")*"].iter().any(|repeat| entry.contains(repeat));
    let is_anchored = entry.len() > 2 && entry.starts_with('^') && entry.ends_with('$');
    has_class || has_repeat || is_anchored
}

fn blanks_around_a_word(entry: &str) -> bool {
    let bytes = entry.as_bytes();
    let both = bytes.len() > 2 && is_blank_byte(bytes[0]) && is_blank_byte(bytes[bytes.len() - 1]);
    both && entry.trim().chars().all(|letter| letter.is_alphabetic() || matches!(letter, '\'' | '’'))
}

// --- a rule among the others -----------------------------------------------------------------------------------------

/// How far back and ahead words are compared: among many rules of words, each with each would take long.
const NEAR: usize = 200;

/// What all rules together say about each of them. Worked out in one walk: sets may have ten thousand rules.
struct Order<'r> {
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

impl<'r> Order<'r> {
    fn of(rules: &'r [FlatRule<'r>]) -> Self {
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
            let search = search_of(&rule.rule.verb);
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

    fn messages(&self, index: usize) -> Vec<String> {
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
                "rule {} takes line ends away afterwards, and blanks on both sides of one come together: put this one behind it",
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
        let put = put_by(with);
        if put.ranges().all(|(first, _)| first.is_whitespace()) {
            return None;
        }
        let takes_all = |(later, taken): &&(usize, CharSet)| {
            *later > index && put.ranges().all(|(first, last)| (first..=last).all(|put| taken.contains(put)))
        };
        self.removing.iter().find(takes_all).map(|(later, _)| *later)
    }

    /// Where this one makes one blank of several, a later rule that takes line ends, with no such rule behind it.
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
        let search = search_of(verb).filter(|_| acts)?;
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
    match &search_of(verb)?.target {
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
    let search = search_of(&rules[index].rule.verb)?;
    let Target::Words(_) = &search.target else { return None };
    for earlier in (index.saturating_sub(NEAR)..index).rev() {
        if takes_same_words(&rules[earlier], search) {
            return Some(earlier);
        }
        let quiet = match &rules[earlier].rule.verb {
            Verb::Trim(_) | Verb::DropLines(_) | Verb::KeepLines(_) | Verb::DropRepeats(_) => true,
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

// --- a set as a whole ------------------------------------------------------------------------------------------------

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
