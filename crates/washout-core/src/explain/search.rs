//! What to be careful about in what one rule looks for.

use regex_syntax::hir::{Class, Hir, HirKind, Look};

use super::vanish::needs_line_end;
use crate::class::{CharSet, unicode_class};
use crate::pattern::Pattern;
use crate::rules::{
    Case, CharsTarget, FlatRule, PossibleHeading, Remove, Replace, Replacement, Search, Target, Verb, Which,
};
use crate::text::At;
use crate::text::chars::is_blank_byte;
use crate::text::shown::quoted;

/// What may be wrong with it, a sentence each.
pub(super) fn of_search(flat: &FlatRule<'_>) -> Vec<String> {
    let Some(search) = flat.rule.verb.search() else { return Vec::new() };
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
        Target::Chars(chars) => {
            messages.extend(glued_by_dashes(chars, search, &flat.rule.verb));
            messages.extend(meant_as_range(&chars.chars));
        }
        Target::Stock(_) | Target::Between(_) | Target::Positions(_) => {}
    }
    messages.extend(idle_exception(search));
    messages
}

/// More characters than that are a class, in which no one thinks of each.
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

/// `a-z` among characters, each of which stands for itself.
fn meant_as_range(chars: &str) -> Option<String> {
    let of_kind = |one: char, other: char| {
        let kinds: [fn(&char) -> bool; 3] = [char::is_ascii_digit, char::is_ascii_lowercase, char::is_ascii_uppercase];
        kinds.iter().any(|is_kind| is_kind(&one) && is_kind(&other)) && one < other
    };
    let chars: Vec<char> = chars.chars().collect();
    let range = chars.windows(3).find(|three| three[1] == '-' && of_kind(three[0], three[2]))?;
    let range: String = range.iter().collect();
    Some(format!(
        "“{range}” among its characters is no range: each of them is looked for, the hyphen too; for a range write \
         pattern = '[{range}]'"
    ))
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

/// A greedy `.*` or `.+` with more after it.
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

/// Whether someone has most likely meant a regular expression: `\d+`, `[0-9]+`, `.*`.
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
