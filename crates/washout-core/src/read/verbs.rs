//! The verbs, a function for each. A key a function does not ask for means nothing for its verb.

use std::num::NonZeroUsize;

use super::fields::{Fields, Placed};
use super::include::include;
use super::pairs::{PAIR_KEYS, replace_pairs};
use super::patterns::{GroupRef, group, groups_help, template};
use super::problem::Problems;
use super::search::{case, default_gap, reads_target, search, search_keys, which};
use super::{records, slips};
use crate::rules::{
    BreakLines, BreakPlace, Case, Collapse, Decode, DropLines, DropRepeats, EmptyLines, Encoded, FinalLineEnd, Gap,
    HyphenAtLineEnd, JoinLines, Keep, KeepLines, LetterCase, LineEnds, MOST_DIGITS, MOST_LINE_COLUMNS, NormalForm,
    Normalize, Number, NumberPlace, Pad, Paragraphs, Recase, Remove, RepeatScope, Replace, Replacement, Search, Tabs,
    Target, Template, Trim, TrimAt, TrimClass, Unmatched, Verb, WrapLines,
};
use crate::text::{At, LineEnd};

/// A verb as rules write it.
struct VerbForm {
    name: &'static str,
    /// A rule of the verb, for messages.
    example: &'static str,
    /// Whether its value is a table of keys, which `read` is given; else `read` is given the keys of the rule.
    has_table: bool,
    read: fn(&mut Fields<'_>, Beside, &mut Problems) -> Option<Verb>,
}

/// What a rule has beside its verb, as far as verbs read differently for it.
#[derive(Clone, Copy)]
pub(super) struct Beside {
    /// Keys that say which lines it is about.
    pub(super) picks_lines: bool,
    /// `rows`.
    pub(super) has_rows: bool,
}

#[rustfmt::skip]
const VERBS: [VerbForm; Verb::NAMES.len()] = [
    VerbForm { name: "remove", example: r##"remove = { chars = "#-" }"##, has_table: true, read: |fields, _, problems| remove(fields, problems).map(Verb::Remove) },
    VerbForm { name: "replace", example: r#"replace = { text = "old", with = "new" }"#, has_table: true, read: |fields, _, problems| replace(fields, problems).map(Verb::Replace) },
    VerbForm { name: "keep", example: r"keep = { pattern = '\d+' }", has_table: true, read: |fields, _, problems| keep(fields, problems).map(Verb::Keep) },
    VerbForm { name: "collapse", example: r#"collapse = { chars = " " }"#, has_table: true, read: |fields, _, problems| collapse(fields, problems).map(Verb::Collapse) },
    VerbForm { name: "trim", example: r#"trim = { at = "end" }"#, has_table: true, read: |fields, _, problems| Some(Verb::Trim(trim(fields, problems))) },
    VerbForm { name: "recase", example: r#"recase = { to = "lower" }"#, has_table: true, read: |fields, _, problems| recase(fields, problems).map(Verb::Recase) },
    VerbForm { name: "normalize", example: r#"normalize = { form = "NFC" }"#, has_table: true, read: |fields, _, problems| normalize(fields, problems).map(Verb::Normalize) },
    VerbForm { name: "plain_letters", example: "plain_letters = {}", has_table: true, read: |_, _, _| Some(Verb::PlainLetters) },
    VerbForm { name: "decode", example: r#"decode = { what = "html-entities" }"#, has_table: true, read: |fields, _, problems| decode(fields, problems).map(Verb::Decode) },
    VerbForm { name: "drop_lines", example: r#"drop_lines = { text = "draft" }"#, has_table: true, read: |fields, beside, problems| drop_lines(fields, beside, problems).map(Verb::DropLines) },
    VerbForm { name: "keep_lines", example: r#"keep_lines = { text = "lamp" }"#, has_table: true, read: |fields, beside, problems| keep_lines(fields, beside, problems).map(Verb::KeepLines) },
    VerbForm { name: "drop_repeats", example: r#"drop_repeats = { scope = "file" }"#, has_table: true, read: |fields, _, problems| Some(Verb::DropRepeats(drop_repeats(fields, problems))) },
    VerbForm { name: "join_lines", example: r#"join_lines = { with = " " }"#, has_table: true, read: |fields, _, problems| Some(Verb::JoinLines(join_lines(fields, problems))) },
    VerbForm { name: "break_lines", example: r#"break_lines = { chars = ".?!" }"#, has_table: true, read: |fields, _, problems| break_lines(fields, problems).map(Verb::BreakLines) },
    VerbForm { name: "wrap_lines", example: "wrap_lines = { width = 72 }", has_table: true, read: |fields, _, problems| wrap_lines(fields, problems).map(Verb::WrapLines) },
    VerbForm { name: "line_ends", example: r#"line_ends = { to = "lf" }"#, has_table: true, read: |fields, _, problems| line_ends(fields, problems).map(Verb::LineEnds) },
    VerbForm { name: "tabs", example: r#"tabs = { to = "spaces", width = 4 }"#, has_table: true, read: |fields, _, problems| tabs(fields, problems).map(Verb::Tabs) },
    VerbForm { name: "pad", example: "pad = { width = 3 }", has_table: true, read: |fields, _, problems| pad(fields, problems).map(Verb::Pad) },
    VerbForm { name: "number", example: "number = { width = 3 }", has_table: true, read: |fields, _, problems| number(fields, problems).map(Verb::Number) },
    VerbForm { name: "drop_records", example: r#"drop_records = { repeated = "file" }"#, has_table: true, read: |fields, beside, problems| records::drop_records(fields, beside, problems).map(Verb::DropRecords) },
    VerbForm { name: "drop_fields", example: r#"drop_fields = ["Scratch"]"#, has_table: false, read: |fields, _, problems| records::drop_fields(fields, problems).map(Verb::DropFields) },
    VerbForm { name: "rename_fields", example: r#"rename_fields = { Rmks = "Remarks" }"#, has_table: false, read: |fields, _, problems| records::rename_fields(fields, problems).map(Verb::RenameFields) },
    VerbForm { name: "include", example: r#"include = "house.wash.toml""#, has_table: false, read: |fields, _, problems| include(fields, problems).map(Verb::Include) },
];

fn form(name: &str) -> Option<&'static VerbForm> {
    VERBS.iter().find(|form| form.name == name)
}

/// Reads the verb of this name.
pub(super) fn verb(name: &str, rule: &mut Fields<'_>, beside: Beside, problems: &mut Problems) -> Option<Verb> {
    let form = form(name)?;
    if !form.has_table {
        return (form.read)(rule, beside, problems);
    }
    let mut fields = rule.table(form.name, form.example, problems)?;
    let verb = (form.read)(&mut fields, beside, problems);
    fields.refuse_rest(problems, |key| slips::explain_verb_key(name, key));
    verb
}

/// A rule of the verb, for messages; empty if there is no such verb.
pub(super) fn example(verb: &str) -> &'static str {
    form(verb).map_or("", |form| form.example)
}

fn remove(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Remove> {
    let which = which(fields, problems);
    let gap = fields.choice("gap", Gap::NAMED, problems);
    let gap_place = fields.place_of("gap");
    let search = search(fields, problems)?;
    if let (At::WholeLine, Some(place)) = (search.at, gap_place) {
        let message = "`gap` means nothing where the whole line goes";
        problems.add_helped(place, message, "no gap is left", "leave out `gap`, or `at = \"whole-line\"`");
    }
    if let (true, Some(Gap::Close | Gap::Mend), Some(place)) = (search.takes_line_ends(), gap, fields.place_of("gap")) {
        let message = "a gap is closed within a line, and here line ends go";
        let help = "leave out `gap`; to join lines with one blank between them, use `join_lines`";
        problems.add_helped(place, message, "not with line ends", help);
    }
    let gap = gap.unwrap_or_else(|| default_gap(&search.target));
    Some(Remove { search, which, gap })
}

fn replace(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Replace> {
    let which = which(fields, problems);
    if !fields.present(PAIR_KEYS).is_empty() {
        return Some(replace_pairs(fields, which, problems));
    }
    if let Some((key, place)) = fields.present(&["whole_words", "follow_case"]).pop() {
        let help = "to find whole words, use `words`";
        problems.add_helped(place, format!("`{key}` goes with `pairs`"), "no pairs here", help);
    }
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
    Some(Replace { search, which, with: Replacement::Template(with) })
}

fn keep(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Keep> {
    let which = which(fields, problems);
    let joined_with = fields.string("joined_with", problems).unwrap_or_default();
    let unmatched = fields.choice("unmatched", Unmatched::NAMED, problems).unwrap_or(Unmatched::Empty);
    let group = group(fields, problems);
    let place = fields.place();
    let search = search(fields, problems)?;
    if search.takes_line_ends() {
        let help = "to join lines, use `join_lines` or `remove` line ends";
        problems.add_helped(place, "`keep` works within a line", "takes line ends", help);
    }
    let group = check_group(group, &search, problems)?;
    Some(Keep { search, which, joined_with, group, unmatched })
}

/// A group must be one of the pattern's.
fn check_group(group: Option<Placed<GroupRef>>, search: &Search, problems: &mut Problems) -> Option<usize> {
    let Some(group) = group else { return Some(0) };
    let Target::Pattern(pattern) = &search.target else {
        let message = "`group` goes with a pattern, which alone has groups";
        problems.add_helped(group.place, message, "no pattern here", "leave it out");
        return None;
    };
    let found = match &group.value {
        GroupRef::Number(number) => (*number < pattern.groups().len()).then_some(*number),
        GroupRef::Name(name) => pattern.groups().iter().position(|known| known.as_ref() == Some(name)),
    };
    if found.is_none() {
        let message = format!("the pattern has no group `{}`", group.value);
        problems.add_helped(group.place, message, "refers to no group", groups_help(pattern));
    }
    found
}

fn collapse(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Collapse> {
    let which = which(fields, problems);
    let with = fields.string("with", problems);
    let place = fields.place();
    let search = search(fields, problems)?;
    if !matches!(search.target, Target::Chars(_) | Target::Text(_)) {
        let help = "it takes `chars`, `class` and `text`; for other runs use `replace` with a pattern";
        problems.add_helped(place, "`collapse` is for characters and literal text", "another kind of target", help);
        return None;
    }
    Some(Collapse { search, which, with })
}

fn recase(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Recase> {
    if fields.place_of("to").is_none() {
        let help = "write to = \"lower\", \"upper\", \"title\" or \"sentence\"";
        problems.add_helped(fields.place(), "`recase` needs `to`, the case to put letters in", "no `to` here", help);
    }
    let to = fields.choice("to", LetterCase::NAMED, problems);
    let rest_place = fields.place_of("rest");
    let keeps_rest = fields.choice("rest", &[("lower", false), ("keep", true)], problems).unwrap_or(false);
    if let (Some(place), Some(LetterCase::Lower | LetterCase::Upper)) = (rest_place, to) {
        let message = "`rest` is about what `title` and `sentence` do not raise";
        problems.add_helped(
            place,
            message,
            "modifies nothing",
            "write to = \"title\" or \"sentence\", or leave it out",
        );
    }
    let which_place = fields.place_of("which");
    let which = which(fields, problems);
    if !reads_target(fields) {
        let modifier = ["which", "at", "case", "except"].into_iter().find(|key| fields.place_of(key).is_some());
        search_keys(fields);
        if let Some(place) = modifier.and_then(|key| fields.place_of(key)).or(which_place) {
            problems.add_helped(
                place,
                "without a target the whole of each line is recased",
                "modifies nothing",
                "add a target, or leave it out",
            );
        }
        return to.map(|to| Recase { to, keeps_rest, within: None });
    }
    let search = search(fields, problems)?;
    Some(Recase { to: to?, keeps_rest, within: Some((search, which)) })
}

fn trim(fields: &mut Fields<'_>, problems: &mut Problems) -> Trim {
    Trim {
        at: fields.choice("at", TrimAt::NAMED, problems).unwrap_or(TrimAt::Edges),
        class: fields.choice("class", TrimClass::NAMED, problems).unwrap_or(TrimClass::Blank),
    }
}

fn drop_lines(fields: &mut Fields<'_>, beside: Beside, problems: &mut Problems) -> Option<DropLines> {
    let empty_place = fields.place_of("empty");
    let empty = fields.choice("empty", EmptyLines::NAMED, problems);
    let Some(empty_place) = empty_place else {
        if beside.picks_lines && !reads_target(fields) {
            return Some(DropLines::Scope);
        }
        return search(fields, problems).map(DropLines::Holding);
    };
    if reads_target(fields) {
        let message = "`empty` stands alone: empty lines hold no match";
        problems.add_helped(empty_place, message, "with a target beside it", "make two rules of it");
    }
    empty.map(DropLines::Empty)
}

fn keep_lines(fields: &mut Fields<'_>, beside: Beside, problems: &mut Problems) -> Option<KeepLines> {
    if beside.picks_lines && !reads_target(fields) {
        return Some(KeepLines { search: None });
    }
    search(fields, problems).map(|search| KeepLines { search: Some(search) })
}

fn normalize(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Normalize> {
    if fields.place_of("form").is_none() {
        let help = "write form = \"NFC\", \"NFD\", \"NFKC\" or \"NFKD\"";
        problems.add_helped(fields.place(), "`normalize` needs `form`, the normalization form", "no `form` here", help);
    }
    fields.choice("form", NormalForm::NAMED, problems).map(|form| Normalize { form })
}

fn decode(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Decode> {
    if fields.place_of("what").is_none() {
        let help = "write what = \"html-entities\", \"percent\", \"double-utf8\" or \"digits\"";
        problems.add_helped(fields.place(), "`decode` needs `what`, the way it was written", "no `what` here", help);
    }
    fields.choice("what", Encoded::NAMED, problems).map(|what| Decode { what })
}

pub(super) fn drop_repeats(fields: &mut Fields<'_>, problems: &mut Problems) -> DropRepeats {
    DropRepeats {
        scope: fields.choice("scope", RepeatScope::NAMED, problems).unwrap_or(RepeatScope::Neighbours),
        case: case(Case::Exact, fields, problems),
        ignore_edges: fields.boolean("ignore_edges", problems).unwrap_or(false),
    }
}

fn line_ends(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<LineEnds> {
    let kinds = [("lf", LineEnd::Lf), ("crlf", LineEnd::CrLf)];
    let given = !fields.present(&["to", "final", "bom"]).is_empty();
    if !given {
        let help = "write to = \"lf\" or \"crlf\", final = \"one\" or \"none\", bom = \"drop\"";
        problems.add_helped(fields.place(), "this rule changes no line end", "nothing to do", help);
    }
    let ends = LineEnds {
        to: fields.choice("to", &kinds, problems),
        at_end: fields.choice("final", FinalLineEnd::NAMED, problems),
        drops_bom: fields.choice("bom", &[("drop", ())], problems).is_some(),
    };
    given.then_some(ends)
}

/// More columns than any tab stop stands for; a slip, or an attack on memory.
const MOST_TAB_COLUMNS: usize = 64;

fn tabs(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Tabs> {
    fields.choice("to", &[("spaces", ())], problems);
    let width = fields.number("width", 1..=MOST_TAB_COLUMNS, problems);
    if fields.place_of("width").is_none() {
        let message = "`tabs` needs `width`, the columns from one tab stop to the next";
        problems.add_helped(fields.place(), message, "no `width` here", "write width = 4, or 8");
    }
    width.map(|width| Tabs { width })
}

fn wrap_lines(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<WrapLines> {
    let width = fields.number("width", 1..=MOST_LINE_COLUMNS, problems);
    if fields.place_of("width").is_none() {
        let message = "`wrap_lines` needs `width`, the most columns of a line";
        problems.add_helped(fields.place(), message, "no `width` here", "write width = 72");
    }
    Some(WrapLines { width: NonZeroUsize::new(width?)? })
}

fn pad(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Pad> {
    let width = fields.number("width", 1..=MOST_DIGITS, problems);
    if fields.place_of("width").is_none() {
        let message = "`pad` needs `width`, how many digits a number has at least";
        problems.add_helped(fields.place(), message, "no `width` here", "write width = 3: 7 becomes 007");
    }
    let which = which(fields, problems);
    let within =
        if targeted(fields, "every number is padded", problems) { Some(search(fields, problems)?) } else { None };
    Some(Pad { width: width?, within, which })
}

/// More than any count needs, and no sum of them leaves what a number can hold.
const MOST_COUNT: usize = 1_000_000_000;

fn number(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Number> {
    let mut count = |key, least, default: usize| {
        let given = fields.place_of(key).is_some();
        let number = fields.number(key, least..=MOST_COUNT, problems);
        if given { number } else { Some(default) }
    };
    let (start, step) = (count("start", 0, 1), count("step", 1, 1));
    let width = fields.number("width", 1..=MOST_DIGITS, problems).unwrap_or(1);
    let place = fields.choice("place", NumberPlace::NAMED, problems).unwrap_or(NumberPlace::Start);
    let joined_with = fields.string("joined_with", problems).unwrap_or_else(|| " ".to_owned());
    let which_place = fields.place_of("which");
    let which = which(fields, problems);
    let instead_of = if targeted(fields, "each line gets a number", problems) {
        for (key, place) in fields.present(&["place", "joined_with"]) {
            let message = format!("with a target the number stands in its place, and `{key}` means nothing");
            problems.add_helped(place, message, "beside a target", "leave out the target, or this");
        }
        Some((search(fields, problems)?, which))
    } else {
        if let Some(place) = which_place {
            let message = "without a target each line gets a number, and `which` means nothing";
            problems.add_helped(place, message, "modifies nothing", "add a target, or leave it out");
        }
        None
    };
    let (start, step) = (start? as u64, step? as u64);
    Some(Number { start, step, width, instead_of, place, joined_with })
}

/// Whether there is a target, for verbs that can do without. Where there is none, nothing can modify it.
fn targeted(fields: &mut Fields<'_>, without: &str, problems: &mut Problems) -> bool {
    if reads_target(fields) {
        return true;
    }
    let modifier = ["at", "case", "except"].into_iter().find(|key| fields.place_of(key).is_some());
    search_keys(fields);
    if let Some((key, place)) = modifier.and_then(|key| Some((key, fields.place_of(key)?))) {
        let message = format!("without a target {without}, and `{key}` means nothing");
        problems.add_helped(place, message, "modifies nothing", "add a target, or leave it out");
    }
    false
}

fn join_lines(fields: &mut Fields<'_>, problems: &mut Problems) -> JoinLines {
    JoinLines {
        with: fields.string("with", problems).unwrap_or_else(|| " ".to_owned()),
        paragraphs: fields.choice("paragraphs", Paragraphs::NAMED, problems).unwrap_or(Paragraphs::Keep),
        hyphens: fields.choice("hyphens", HyphenAtLineEnd::NAMED, problems).unwrap_or(HyphenAtLineEnd::Leave),
    }
}

fn break_lines(fields: &mut Fields<'_>, problems: &mut Problems) -> Option<BreakLines> {
    let which = which(fields, problems);
    let place = fields.choice("place", BreakPlace::NAMED, problems).unwrap_or(BreakPlace::After);
    let tight = fields.boolean("tight", problems).unwrap_or(false);
    let target_place = fields.place();
    let search = search(fields, problems)?;
    if search.takes_line_ends() {
        problems.add(target_place, "a line is broken within, not at its own end", "takes line ends");
        return None;
    }
    Some(BreakLines { search, which, place, tight })
}

#[cfg(test)]
mod tests {
    use crate::RuleSet;
    use crate::rules::Verb;

    /// A verb with a row in the table of another verb, or with an example that is not one of its rules.
    #[test]
    fn the_example_of_each_verb_is_a_rule_of_it() {
        for name in Verb::NAMES.iter().filter(|name| **name != "include") {
            let set = RuleSet::read_one_rule("rule", super::example(name));
            let set = set.unwrap_or_else(|error| panic!("`{name}` in read/verbs.rs has no good example: {error:?}"));
            assert_eq!(set.rules[0].verb.name(), *name, "the row of `{name}` in read/verbs.rs reads another verb");
        }
    }
}
