//! The verbs, a function for each. A key a function does not ask for means nothing for its verb.

use super::fields::Fields;
use super::problem::Problems;
use super::search::{default_gap, reads_target, search, template, which};
use super::slips;
use crate::model::{
    At, BreakLines, BreakPlace, DropLines, EmptyLines, Gap, HyphenAtLineEnd, JoinLines, KeepLines, Paragraphs, Remove,
    Replace, Search, Target, Template, Trim, TrimAt, TrimClass, Verb,
};

pub(super) fn verb(name: &'static str, rule: &mut Fields<'_>, problems: &mut Problems) -> Option<Verb> {
    let mut fields = rule.table(name, example(name), problems)?;
    let verb = match name {
        "remove" => remove(&mut fields, problems).map(Verb::Remove),
        "replace" => replace(&mut fields, problems).map(Verb::Replace),
        "trim" => Some(Verb::Trim(trim(&mut fields, problems))),
        "drop_lines" => drop_lines(&mut fields, problems).map(Verb::DropLines),
        "keep_lines" => search(&mut fields, problems).map(|search| Verb::KeepLines(KeepLines { search })),
        "join_lines" => Some(Verb::JoinLines(join_lines(&mut fields, problems))),
        "break_lines" => break_lines(&mut fields, problems).map(Verb::BreakLines),
        _ => None,
    };
    fields.refuse_rest(problems, |key| slips::explain_verb_key(name, key));
    verb
}

/// A rule of the verb, for messages.
pub(super) fn example(verb: &str) -> &'static str {
    match verb {
        "remove" => r##"remove = { chars = "#-" }"##,
        "replace" => r#"replace = { text = "old", with = "new" }"#,
        "trim" => r#"trim = { at = "end" }"#,
        "drop_lines" => r#"drop_lines = { text = "draft" }"#,
        "keep_lines" => r#"keep_lines = { text = "lamp" }"#,
        "join_lines" => r#"join_lines = { with = " " }"#,
        _ => r#"break_lines = { chars = ".?!" }"#,
    }
}

fn remove(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Remove> {
    let which = which(fields, problems);
    let gaps = [("leave", Gap::Leave), ("close", Gap::Close), ("mend", Gap::Mend)];
    let gap = fields.choice("gap", &gaps, problems);
    let gap_place = fields.place_of("gap");
    let search = search(fields, problems)?;
    if let (At::WholeLine, Some(place)) = (search.at, gap_place) {
        let message = "`gap` means nothing where the whole line goes";
        problems.add_helped(place, message, "no gap is left", "leave out `gap`, or `at = \"whole-line\"`");
    }
    if let (true, Some(Gap::Close | Gap::Mend), Some(place)) = (takes_line_ends(&search), gap, fields.place_of("gap")) {
        let message = "a gap is closed within a line, and here line ends go";
        let help = "leave out `gap`; to join lines with one blank between them, use `join_lines`";
        problems.add_helped(place, message, "not with line ends", help);
    }
    let gap = gap.unwrap_or_else(|| default_gap(&search.target));
    Some(Remove { search, which, gap })
}

fn replace(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Replace> {
    let which = which(fields, problems);
    let has_with = fields.place_of("with").is_some();
    let with = fields.string_at("with", problems);
    if !has_with {
        let message = "`replace` needs `with`, what to put in place of each match";
        problems.add_helped(fields.place(), message, "no `with` here", "to put nothing there, use `remove`");
    }
    let search = search(fields, problems);
    let (search, with) = (search?, with?);
    let with = match &search.target {
        Target::Pattern(pattern) => template(&with, pattern, problems)?,
        _ => Template::literal(&with.value),
    };
    Some(Replace { search, which, with })
}

fn trim(fields: &mut Fields<'_>, problems: &mut Problems) -> Trim {
    let edges = [("start", TrimAt::Start), ("end", TrimAt::End), ("edges", TrimAt::Edges)];
    let classes = [("blank", TrimClass::Blank), ("whitespace", TrimClass::Whitespace)];
    Trim {
        at: fields.choice("at", &edges, problems).unwrap_or(TrimAt::Edges),
        class: fields.choice("class", &classes, problems).unwrap_or(TrimClass::Blank),
    }
}

fn drop_lines(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<DropLines> {
    let empty_place = fields.place_of("empty");
    let empty = fields.choice("empty", &[("all", EmptyLines::All), ("extra", EmptyLines::Extra)], problems);
    let Some(empty_place) = empty_place else { return search(fields, problems).map(DropLines::Holding) };
    if reads_target(fields) {
        let message = "`empty` stands alone: empty lines hold no match";
        problems.add_helped(empty_place, message, "with a target beside it", "make two rules of it");
    }
    empty.map(DropLines::Empty)
}

fn join_lines(fields: &mut Fields<'_>, problems: &mut Problems) -> JoinLines {
    let paragraphs = [("keep", Paragraphs::Keep), ("join", Paragraphs::Join)];
    let hyphens = [("leave", HyphenAtLineEnd::Leave), ("rejoin", HyphenAtLineEnd::Rejoin)];
    JoinLines {
        with: fields.string("with", problems).unwrap_or_else(|| " ".to_owned()),
        paragraphs: fields.choice("paragraphs", &paragraphs, problems).unwrap_or(Paragraphs::Keep),
        hyphens: fields.choice("hyphens", &hyphens, problems).unwrap_or(HyphenAtLineEnd::Leave),
    }
}

fn break_lines(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<BreakLines> {
    let which = which(fields, problems);
    let places = [("after", BreakPlace::After), ("before", BreakPlace::Before)];
    let place = fields.choice("place", &places, problems).unwrap_or(BreakPlace::After);
    let tight = fields.boolean("tight", problems).unwrap_or(false);
    let target_place = fields.place();
    let search = search(fields, problems)?;
    if takes_line_ends(&search) {
        problems.add(target_place, "a line is broken within, not at its own end", "takes line ends");
        return None;
    }
    Some(BreakLines { search, which, place, tight })
}

fn takes_line_ends(search: &Search) -> bool {
    match &search.target {
        Target::Chars(chars) => chars.set.has_line_ends(),
        Target::Text(entries) => entries.iter().any(|entry| entry.contains(['\n', '\r'])),
        Target::Words(_) | Target::Pattern(_) | Target::Stock(_) => false,
    }
}
