//! Rules and examples.

use std::collections::BTreeMap;

use schemars::JsonSchema;

use super::target::{OneOrMany, RowsTable, TargetTable};
use super::verbs::{
    BreakLines, Collapse, Decode, DropLines, DropRecords, DropRepeats, JoinLines, Keep, KeepLines, LineEnds, Normalize,
    Number, Pad, PlainLetters, Recase, Remove, Replace, Tabs, Trim, Unclosed,
};

/// A number of changes or sections: 3, "1..", "2..5".
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum Count {
    Exactly(u64),
    Range(String),
}

/// One rule: one verb, and what any rule may have.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "Rule")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct RuleTable {
    /// What tables and messages call the rule.
    label: Option<String>,
    /// Read and checked, but not run.
    off: Option<bool>,
    /// How many changes it is to make over a whole run; else nothing at all is written.
    expect: Option<Count>,
    /// How many changes it is to make in each file; else nothing at all is written.
    expect_each: Option<Count>,
    /// On how many sections it is to act over a whole run; else nothing at all is written.
    expect_sections: Option<Count>,
    /// Only lines that hold a match.
    only_lines: Option<TargetTable>,
    /// No line that holds a match.
    skip_lines: Option<TargetTable>,
    /// Only these lines: "1..5", "-3..", "7".
    lines: Option<String>,
    /// A section opens with a line that holds a match.
    from_line: Option<TargetTable>,
    /// A section closes with the next later line that holds a match.
    to_line: Option<TargetTable>,
    /// What becomes of a section that does not close.
    unclosed: Option<Unclosed>,
    /// What is left alone: a match that shares a byte with one of these stays.
    spare: Option<OneOrMany<TargetTable>>,
    /// In tables: only these fields, by the name in the header, or by number from 1.
    fields: Option<OneOrMany<FieldRef>>,
    /// In tables: the result goes to this field, made right after the one it comes from if it is not there.
    to_field: Option<NewFieldRef>,
    /// In tables: only records of which a field holds a match.
    rows: Option<OneOrMany<RowsTable>>,
    /// In tables: what the rule says of lines is meant of the lines within a cell.
    cell_lines: Option<bool>,
    remove: Option<Remove>,
    replace: Option<Replace>,
    keep: Option<Keep>,
    collapse: Option<Collapse>,
    trim: Option<Trim>,
    recase: Option<Recase>,
    normalize: Option<Normalize>,
    plain_letters: Option<PlainLetters>,
    decode: Option<Decode>,
    drop_lines: Option<DropLines>,
    keep_lines: Option<KeepLines>,
    drop_repeats: Option<DropRepeats>,
    join_lines: Option<JoinLines>,
    break_lines: Option<BreakLines>,
    line_ends: Option<LineEnds>,
    tabs: Option<Tabs>,
    pad: Option<Pad>,
    number: Option<Number>,
    drop_records: Option<DropRecords>,
    /// Drops these fields of a table, in every record.
    drop_fields: Option<OneOrMany<FieldRef>>,
    /// Renames fields of a table: the old name of each, and the new one.
    rename_fields: Option<BTreeMap<String, String>>,
    /// The rules of another set, in place: a file beside this one or below, or ready:NAME.
    include: Option<String>,
}

/// A field of a table: its name, or its place from 1.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum FieldRef {
    Name(String),
    Place(std::num::NonZeroUsize),
}

/// The field a result goes to, and where it is made.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum NewFieldRef {
    Field(FieldRef),
    Placed(NewFieldTable),
}

/// A field that is made at a place of its own, if it is not there. In JSON it is always made after its source.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "NewField")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct NewFieldTable {
    /// The field.
    field: FieldRef,
    /// Right before this one.
    before: Option<FieldRef>,
    /// Right after this one.
    after: Option<FieldRef>,
    /// As the first or the last of all.
    at: Option<NewFieldAt>,
}

#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum NewFieldAt {
    Start,
    End,
}

/// How a table is written.
#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum TableFormat {
    Csv,
    Tsv,
    Jsonl,
    Json,
    Text,
}

/// What tables are like, and what rules see of them.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "Table")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct TableTable {
    /// How tables are written; by the extension of the file if it is left out. "text": no file is a table.
    format: Option<TableFormat>,
    /// The fields of rules that name none themselves; all if it is left out.
    fields: Option<OneOrMany<FieldRef>>,
    /// Whether the first record names the fields; true if it is left out.
    header: Option<bool>,
    /// What stands between fields, one ASCII character.
    delimiter: Option<String>,
}

/// A part of a name.
#[derive(JsonSchema)]
#[schemars(rename_all = "kebab-case")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum NamePart {
    Stem,
    Extension,
    Whole,
}

/// What rules see of the names of files.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "Names")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct NamesTable {
    /// The part of a name; the stem if it is left out.
    part: Option<NamePart>,
    /// The ASCII characters that count as blanks; " _" if it is left out.
    blanks: Option<String>,
}

/// What the rules make of a text.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields, rename = "Example")]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) struct ExampleTable {
    /// What it shows.
    label: Option<String>,
    /// The one rule it is about, by number or label; all rules if it is left out.
    rule: Option<RuleRef>,
    /// The text before.
    given: Option<String>,
    /// The file that holds the text before.
    given_file: Option<String>,
    /// The text after.
    gives: Option<String>,
    /// The file that holds the text after.
    gives_file: Option<String>,
}

/// A rule of the set, by number or label.
#[derive(JsonSchema)]
#[schemars(untagged)]
#[expect(dead_code, reason = "only its shape is asked for")]
pub(super) enum RuleRef {
    Number(usize),
    Label(String),
}
