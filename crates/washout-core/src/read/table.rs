//! `[table]`: what tables are like, and what rules see of them.

use super::cells::field_list;
use super::fields::Fields;
use super::problem::Problems;
use crate::rules::{TableFormat, TableSettings};

pub(super) fn table(fields: &mut Fields<'_>, problems: &mut Problems) -> TableSettings {
    if fields.place_of("table").is_none() {
        fields.present(&["table"]);
        return TableSettings::default();
    }
    let Some(mut table) = fields.table("table", "[table] on a line of its own, and its keys below", problems) else {
        return TableSettings::default();
    };
    let format = table.choice("format", &TableFormat::NAMED, problems);
    let fields = field_list("fields", &mut table, problems);
    let header = table.boolean("header", problems);
    let delimiter = table.string_at("delimiter", problems).and_then(|written| {
        let delimiter = TableSettings::delimiter_of(&written.value);
        if delimiter.is_none() {
            let help = "write delimiter = \";\" or delimiter = \"\\t\"";
            let message = "a delimiter is one ASCII character, and no quotation mark, letter or digit";
            problems.add_helped(written.place, message, "cannot be one", help);
        }
        delimiter
    });
    table.refuse_rest(problems, |_| None);
    TableSettings { format, fields, header, delimiter, said: true, ..TableSettings::default() }
}
