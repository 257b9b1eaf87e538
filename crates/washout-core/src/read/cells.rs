//! The keys that say where in a table a rule acts.

use toml::Spanned;
use toml::de::DeValue;

use super::fields::Fields;
use super::problem::Problems;
use super::scope::line_search_in;
use crate::rules::{CellScope, Field, NewField, NewPlace, RowTest};

/// The keys any rule may have for this.
pub(super) const CELL_KEYS: &[&str] = &["fields", "to_field", "rows", "cell_lines"];

pub(super) fn cells(rule: &mut Fields<'_>, problems: &mut Problems) -> CellScope {
    CellScope {
        fields: field_list("fields", rule, problems),
        rows: rows(rule, problems),
        to_field: to_field(rule, problems),
        cell_lines: rule.boolean("cell_lines", problems).unwrap_or(false),
    }
}

/// A list of fields; a single one is a list of one.
pub(super) fn field_list(key: &'static str, table: &mut Fields<'_>, problems: &mut Problems) -> Option<Vec<Field>> {
    let (_, value) = table.take(key)?;
    let items = match value.get_ref() {
        DeValue::Array(items) => items.iter().collect(),
        _ => vec![value],
    };
    if items.is_empty() {
        let help = if key == "fields" { "to take all fields, leave it out" } else { "name one at least" };
        problems.add_helped(value.span(), format!("`{key}` is empty"), "no field", help);
        return None;
    }
    let fields: Vec<Option<Field>> = items.into_iter().map(|item| field(key, item, problems)).collect();
    fields.into_iter().collect()
}

/// `to_field = "Order"`, or `to_field = { field = "Order", after = "Kind" }`.
fn to_field(rule: &mut Fields<'_>, problems: &mut Problems) -> Option<NewField> {
    let (_, value) = rule.take("to_field")?;
    let DeValue::Table(table) = value.get_ref() else {
        return Some(NewField { field: field("to_field", value, problems)?, place: NewPlace::Source });
    };
    let mut table = Fields::of("`to_field`", table, value.span());
    let has_field = table.place_of("field").is_some();
    let field = one_field("field", &mut table, problems);
    if !has_field {
        let help = r#"write to_field = { field = "Order", after = "Kind" }"#;
        problems.add_helped(value.span(), "`to_field` needs `field`, the name of the field", "no `field` here", help);
    }
    let before = one_field("before", &mut table, problems).map(NewPlace::Before);
    let after = one_field("after", &mut table, problems).map(NewPlace::After);
    let at = table.choice("at", &[("start", &NewPlace::Start), ("end", &NewPlace::End)], problems).cloned();
    if let [_, (key, place), ..] = &table.present(&["before", "after", "at"])[..] {
        let message = "a new field is made at one place: `before` a field, `after` one, or `at` the start or end";
        problems.add_helped(place.clone(), message, "a second place", format!("leave out `{key}` or the other"));
    }
    table.refuse_rest(problems, |_| None);
    Some(NewField { field: field?, place: before.or(after).or(at).unwrap_or_default() })
}

fn one_field(key: &'static str, table: &mut Fields<'_>, problems: &mut Problems) -> Option<Field> {
    let (_, value) = table.take(key)?;
    field(key, value, problems)
}

pub(super) fn field(key: &str, value: &Spanned<DeValue<'_>>, problems: &mut Problems) -> Option<Field> {
    let field = match value.get_ref() {
        DeValue::String(name) if !name.is_empty() => Some(Field::Name(name.to_string())),
        DeValue::Integer(number) => {
            usize::from_str_radix(number.as_str(), number.radix()).ok().filter(|place| *place > 0).map(Field::Place)
        }
        _ => None,
    };
    if field.is_none() {
        let help = format!("write {key} = \"Keeper\" for a field by its name, {key} = 2 for the second");
        problems.add_helped(value.span(), "a field is a name, or a number from 1", "no field", help);
    }
    field
}

/// `rows = { field = "Kind", text = "oil" }`, or a list of those.
fn rows(rule: &mut Fields<'_>, problems: &mut Problems) -> Vec<RowTest> {
    let Some((_, value)) = rule.take("rows") else { return Vec::new() };
    let items = match value.get_ref() {
        DeValue::Array(items) => items.iter().collect(),
        _ => vec![value],
    };
    items.into_iter().filter_map(|item| row_test(item, problems)).collect()
}

fn row_test(item: &Spanned<DeValue<'_>>, problems: &mut Problems) -> Option<RowTest> {
    let example = r#"write rows = { field = "Kind", text = "oil" }"#;
    let DeValue::Table(table) = item.get_ref() else {
        problems.add_helped(item.span(), "`rows` is a field and what it has to hold", "no table", example);
        return None;
    };
    let mut test = Fields::of("`rows`", table, item.span());
    let field = one_field("field", &mut test, problems);
    if test.place_of("field").is_none() {
        problems.add_helped(item.span(), "`rows` needs `field`", "no `field` here", example);
    }
    let search = line_search_in("rows", test, problems)?;
    Some(RowTest { field: field?, search })
}
