//! The verbs that act on records and fields of a table.

use std::collections::HashSet;

use toml::de::DeValue;

use super::cells::field_list;
use super::fields::Fields;
use super::problem::Problems;
use super::search::case;
use super::verbs::Beside;
use crate::rules::{Case, DropFields, DropRecords, DropRepeats, EmptyFields, RenameFields, RepeatScope};

/// `beside.has_rows`: whether the rule says which records it is about.
pub(super) fn drop_records(fields: &mut Fields<'_>, beside: Beside, problems: &mut Problems) -> Option<DropRecords> {
    let kinds = fields.present(&["empty", "repeated"]);
    let empty = fields.choice("empty", EmptyFields::NAMED, problems);
    let repeated = fields.choice("repeated", RepeatScope::NAMED, problems);
    if !kinds.iter().any(|(key, _)| *key == "repeated") {
        for (key, place) in fields.present(&["case", "ignore_edges"]) {
            let help = "it goes with `repeated`, and says how records are compared";
            problems.add_helped(place, format!("`{key}` compares nothing here"), "means nothing", help);
        }
    }
    match kinds[..] {
        [_, (_, ref place)] => {
            let message = "records are dropped as `empty` or as `repeated`";
            problems.add_helped(place.clone(), message, "a second condition", "make two rules of it");
            None
        }
        [] if beside.has_rows => Some(DropRecords::Rows),
        [] => {
            let help = "write empty = \"all\" or \"any\", or repeated = \"file\" or \"neighbours\"; or say with `rows` \
                        which records go";
            problems.add_helped(fields.place(), "this would drop every record", "nothing says which", help);
            None
        }
        _ => empty.map(DropRecords::Empty).or(repeated.map(|scope| {
            let ignore_edges = fields.boolean("ignore_edges", problems).unwrap_or(false);
            DropRecords::Repeated(DropRepeats { scope, case: case(Case::Exact, fields, problems), ignore_edges })
        })),
    }
}

/// `drop_fields = ["Scratch", 3]`
pub(super) fn drop_fields(rule: &mut Fields<'_>, problems: &mut Problems) -> Option<DropFields> {
    field_list("drop_fields", rule, problems).map(|fields| DropFields { fields })
}

/// `rename_fields = { Rmks = "Remarks" }`
pub(super) fn rename_fields(rule: &mut Fields<'_>, problems: &mut Problems) -> Option<RenameFields> {
    let example = r#"rename_fields = { Rmks = "Remarks" }"#;
    let (_, value) = rule.take("rename_fields")?;
    let DeValue::Table(table) = value.get_ref() else {
        let message = "`rename_fields` is a table: the old name of each field, and the new one";
        problems.add_helped(value.span(), message, "no table", format!("write {example}"));
        return None;
    };
    let mut names: Vec<(String, String)> = Vec::new();
    let mut known = HashSet::new();
    for (old, new) in table {
        let DeValue::String(name) = new.get_ref() else {
            let help = format!("write {example}; a name with dots or blanks in it stands in quotes");
            problems.add_helped(new.span(), "the new name of a field is a string", "no string", help);
            continue;
        };
        if name.is_empty() || old.get_ref().is_empty() {
            let message = "a field has a name of at least one character";
            problems.add_helped(new.span(), message, "no name", "to drop a field, use `drop_fields`");
        } else if !known.insert(name.to_string()) {
            let message = format!("two fields would be called `{name}`");
            problems.add_helped(new.span(), message, "called so already", "give each a name of its own");
        }
        names.push((old.get_ref().to_string(), name.to_string()));
    }
    if table.is_empty() {
        problems.add_helped(value.span(), "`rename_fields` is empty", "no field", format!("write {example}"));
    }
    (!names.is_empty()).then_some(RenameFields { names })
}
