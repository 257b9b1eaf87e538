//! One `[[rule]]`: its verb and the keys any rule may have.

use std::ops::Range;

use toml::de::{DeTable, DeValue};

use super::budget::MOST_RULES;
use super::cells::{CELL_KEYS, cells};
use super::fields::Fields;
use super::nearest::list;
use super::problem::Problems;
use super::scope::{SCOPE_KEYS, scope};
use super::verbs::Beside;
use super::{slips, verbs};
use crate::rules::{Count, Rule, Verb};

/// The keys any rule may have, besides those of its scope.
pub(super) const RULE_KEYS: &[&str] = &["label", "off", "expect", "expect_each", "expect_sections"];

pub(super) fn rule(number: usize, table: &DeTable<'_>, place: Range<usize>, problems: &mut Problems) -> Option<Rule> {
    match problems.budget().add_rule() {
        ..=MOST_RULES => {}
        // Reported once.
        count if count == MOST_RULES + 1 => {
            let message = format!("there are more than {MOST_RULES} rules, those of included sets counted");
            let help = "make several sets of them, and run one after the other";
            problems.add_helped(place, message, "one too many", help);
            return None;
        }
        _ => return None,
    }
    let mut fields = Fields::of("a rule", table, place.clone());
    let label = fields.string("label", problems);
    let off = fields.boolean("off", problems).unwrap_or(false);
    let picks_lines =
        SCOPE_KEYS.iter().any(|key| !["spare", "unclosed"].contains(key) && fields.place_of(key).is_some());
    let beside = Beside { picks_lines, has_rows: fields.place_of("rows").is_some() };
    let present = fields.present(Verb::NAMES);
    // Each is read, even if there should be only one: its own problems are to be shown as well.
    let mut read: Vec<Option<Verb>> =
        present.iter().map(|(name, _)| verbs::verb(name, &mut fields, beside, problems)).collect();
    if let [first, others @ ..] = &present[..] {
        two_verbs(first.0, others, problems);
    }
    let scope = scope(&mut fields, problems);
    let cells = cells(&mut fields, problems);
    if let Some((verb, _)) = present.iter().find(|(name, _)| Verb::ON_TABLES.contains(name)) {
        refuse_text_keys(verb, &mut fields, problems);
    }
    let expect = count("expect", &mut fields, problems);
    let expect_each = count("expect_each", &mut fields, problems);
    let sections_place = fields.place_of("expect_sections");
    let expect_sections = count("expect_sections", &mut fields, problems);
    let has_sections = scope.from_line.is_some() || scope.to_line.is_some();
    if let Some(place) = sections_place.filter(|_| !has_sections || cells.cell_lines) {
        let (message, help) = if has_sections {
            (
                "`expect_sections` counts the sections of a text, not those of cells",
                "use `expect`, which counts changes",
            )
        } else {
            ("`expect_sections` is about sections", "it goes with `from_line` and `to_line`, which say where they are")
        };
        problems.add_helped(place, message, "counts nothing", help);
    }
    if let (Some((_, _)), Some((key, place))) = (
        present.iter().find(|(name, _)| *name == "include"),
        fields.present(&["expect", "expect_each", "expect_sections", "to_field"]).pop(),
    ) {
        let help = "write it on the rules of that set";
        problems.add_helped(place, format!("`{key}` is about one rule, and `include` is many"), "not here", help);
    }
    let known =
        |key: &str| RULE_KEYS.iter().chain(CELL_KEYS).chain(SCOPE_KEYS).chain(Verb::NAMES).any(|known| *known == key);
    let unknown = table.keys().any(|key| !known(key.get_ref()));
    if present.is_empty() && !unknown {
        let help = format!("a rule has one of {}", list(Verb::NAMES.iter().copied()));
        problems.add_helped(place.clone(), "this rule does nothing", "no verb", help);
    }
    fields.refuse_rest(problems, slips::explain_rule_key);
    let verb = read.pop().flatten()?;
    Some(Rule { number, label, off, verb, scope, cells, expect, expect_each, expect_sections, place })
}

/// Keys that mean nothing for what acts on records or fields of a table.
fn refuse_text_keys(verb: &str, fields: &mut Fields<'_>, problems: &mut Problems) {
    let for_cells: &[&'static str] = if verb == "drop_records" {
        &["to_field", "cell_lines"]
    } else {
        &["fields", "rows", "to_field", "cell_lines"]
    };
    let keys: Vec<&'static str> = SCOPE_KEYS.iter().chain(for_cells).copied().collect();
    for (key, place) in fields.present(&keys) {
        let (what, help) = match verb {
            "drop_records" => ("on whole records", "`fields` and `rows` say which records go"),
            _ => ("on whole fields, the same in every record", "the fields are named in the verb itself"),
        };
        problems.add_helped(place, format!("`{verb}` acts {what}, and `{key}` means nothing for it"), "not here", help);
    }
}

/// `3`, `"3"`, `"1.."`, `"2..5"`, `"..5"`.
fn count(key: &'static str, fields: &mut Fields<'_>, problems: &mut Problems) -> Option<Count> {
    let (_, value) = fields.take(key)?;
    let written = match value.get_ref() {
        DeValue::Integer(number) => u64::from_str_radix(number.as_str(), number.radix()).ok().map(|n| n.to_string()),
        DeValue::String(text) => Some(text.to_string()),
        _ => None,
    };
    let read = |text: &str| {
        let (least, most) = text.split_once("..").unwrap_or((text, text));
        let open = |text: &str, open: Option<u64>| match text {
            "" => Some(open),
            _ => text.parse().ok().map(Some),
        };
        let count = Count { least: open(least, Some(0))??, most: open(most, None)? };
        (text != ".." && !text.is_empty()).then_some(count)
    };
    let Some(count) = written.as_deref().and_then(read) else {
        let help = format!("write {key} = 3, \"1..\" for one or more, or \"2..5\"");
        problems.add_helped(
            value.span(),
            format!("`{key}` is a number of {}", if key == "expect_sections" { "sections" } else { "changes" }),
            "cannot be read",
            help,
        );
        return None;
    };
    if let Some(most) = count.most.filter(|most| *most < count.least) {
        let message = format!("the range `{}` ends before it begins", written.unwrap_or_default());
        problems.add_helped(value.span(), message, "swapped", format!("write \"{most}..{}\"", count.least));
        return None;
    }
    Some(count)
}

fn two_verbs(first: &str, others: &[(&'static str, Range<usize>)], problems: &mut Problems) {
    for (name, place) in others {
        problems.add_helped(
            place.clone(),
            format!("two verbs in one rule: `{first}` and `{name}`"),
            "a second verb",
            format!("put `{name}` under a [[rule]] of its own; rules run in the order written"),
        );
    }
}
