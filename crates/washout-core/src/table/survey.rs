//! What is in the columns of a table: characters, lengths, and cells that look equal but are not.

use std::collections::{BTreeMap, HashMap};
use std::sync::LazyLock;

use super::alike::{Alike, CellCount, Glance, LookGroups, MOST_OF_A_CELL, look};
use super::block::field_of;
use super::csv::LONGEST_RECORD;
use super::error::{Broken, TableError};
use super::grid::{Extent, Grid};
use super::header::Header;
use super::held::Held;
use super::json::FoundFields;
use super::plan::Plan;
use crate::program::Program;
use crate::rules::{Ragged, RuleSet, TableFormat, TableSettings};
use crate::survey::Surveyed;
use crate::text::BOM;
use crate::text::chars::char_at;
use crate::text::lines::line_ends;

/// How much of a table is looked at at once, in bytes.
const BLOCK: usize = 256 << 10;

/// What is kept of the cells of all columns together, in bytes. Where it is not enough, the columns of which most is kept
/// are not searched for cells that look equal.
const MOST_KEPT: usize = 32 << 20;

/// Columns that are told apart: in JSON Lines each record may have keys of its own. Others are one column, [`OTHERS`].
const MOST_COLUMNS: usize = 4096;

/// The name of the column that cells of further columns are counted in.
const OTHERS: &str = "(other fields)";

/// What is in a table, column by column.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct TableSurvey {
    /// Its records, without the header.
    pub records: u64,
    /// Those with too few or too many fields, or that cannot be read.
    pub ragged: u64,
    /// Its columns, in order; in JSON Lines in the order in which they come first.
    pub columns: Vec<ColumnSurvey>,
}

/// What is in a column.
#[derive(Clone, Debug, Default)]
#[non_exhaustive]
pub struct ColumnSurvey {
    /// Its name, or its place if it has none.
    pub name: String,
    /// Its cells.
    pub cells: u64,
    /// Those with nothing in them.
    pub empty: u64,
    /// How many different ones there are; `None`: more than are counted.
    pub distinct: Option<u64>,
    /// How many different ones were counted: there are that many at least.
    pub distinct_counted: u64,
    /// The shortest and the longest that is not empty, in characters.
    pub lengths: Option<(u64, u64)>,
    /// The same without the white space at their edges.
    pub trimmed: Option<(u64, u64)>,
    /// Cells with white space at an edge, line ends aside.
    pub edges: CellCount,
    /// Cells that begin or end with a line end.
    pub edge_line_ends: CellCount,
    /// Cells with tabs.
    pub tabs: CellCount,
    /// Cells with escape sequences of terminals, tags, or HTML entities.
    pub escapes: CellCount,
    /// The same.
    pub tags: CellCount,
    /// The same.
    pub entities: CellCount,
    /// Cells with several blanks in a row.
    pub blank_runs: CellCount,
    /// Cells of several lines.
    pub several_lines: CellCount,
    /// Cells with characters no one sees.
    pub invisible: CellCount,
    /// Cells with white space that is not a plain blank and no tab.
    pub odd_spaces: CellCount,
    /// Characters that are not printable ASCII: each with how often it occurs and in which record first.
    pub characters: BTreeMap<Surveyed, CellCount>,
    /// Cells that look equal but are not: the groups with the most cells first.
    pub alike: Vec<Alike>,
}

/// What breaks look-ups in a column.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Finding {
    /// What it is.
    pub what: &'static str,
    /// The rule that mends it.
    pub rule: &'static str,
    /// The cells that have it.
    pub cells: CellCount,
}

/// The rules for what is written into cells as marks.
struct MarkRules {
    tags: Program,
    entities: Program,
    escapes: Program,
}

static MARKS: LazyLock<MarkRules> = LazyLock::new(|| {
    let rule =
        |rule: &str| RuleSet::read_one_rule("survey", rule).map(|set| Program::compile([&set])).unwrap_or_default();
    MarkRules {
        tags: rule(r#"remove = { stock = "tag" }"#),
        entities: rule(r#"decode = { what = "html-entities" }"#),
        escapes: rule(r#"remove = { stock = "ansi-escape" }"#),
    }
});

fn changes(rule: &Program, cell: &[u8]) -> bool {
    rule.apply(cell).is_ok_and(|outcome| outcome.changes().iter().any(|count| *count > 0))
}

/// Follows one table that comes in pieces.
///
/// ```
/// use washout_core::table::{TableFormat, TableSettings, TableSurveyor};
///
/// let mut surveyor = TableSurveyor::new(&TableSettings::default(), TableFormat::Csv);
/// surveyor.push(b"Keeper\nWren\nWren \n")?;
/// let survey = surveyor.finish()?;
/// assert_eq!(survey.columns[0].alike.len(), 1, "two cells look equal but are not");
/// # Ok::<(), washout_core::table::TableError>(())
/// ```
#[derive(Debug)]
pub struct TableSurveyor {
    program: Program,
    format: TableFormat,
    plan: Option<Plan>,
    held: Held,
    started: bool,
    /// The lines of the records so far, and of the header.
    lines: u64,
    survey: TableSurvey,
    /// The ways each column's cells are written, by what they look like.
    looks: Vec<LookGroups>,
    /// How much may still be kept of cells, in bytes.
    room: usize,
    by_name: HashMap<String, usize>,
    grid: Box<Grid>,
}

impl TableSurveyor {
    /// For a table like this.
    pub fn new(settings: &TableSettings, format: TableFormat) -> Self {
        let settings = TableSettings { ragged: Some(Ragged::Keep), only: None, fields: None, ..settings.clone() };
        let room = settings.survey_keeps.map_or(MOST_KEPT, |bytes| usize::try_from(bytes).unwrap_or(usize::MAX));
        // There is always room for one more cell.
        let room = room.max(2 * MOST_OF_A_CELL);
        Self {
            program: Program::default().with_table(settings),
            format,
            plan: None,
            held: Held::default(),
            started: false,
            lines: 0,
            survey: TableSurvey::default(),
            looks: Vec::new(),
            room,
            by_name: HashMap::new(),
            grid: Box::default(),
        }
    }

    /// Takes the next piece of the table, cut anywhere.
    ///
    /// # Errors
    /// A header that cannot be read, or a record that is longer than 64 MiB.
    pub fn push(&mut self, piece: &[u8]) -> Result<(), TableError> {
        if self.held.take(piece) < BLOCK { Ok(()) } else { self.work_off(false) }
    }

    /// Closes the table.
    ///
    /// # Errors
    /// As [`push`](Self::push).
    pub fn finish(mut self) -> Result<TableSurvey, TableError> {
        self.work_off(true)?;
        for (column, looks) in self.survey.columns.iter_mut().zip(self.looks) {
            (column.distinct, column.distinct_counted) = looks.distinct();
            column.alike = looks.alike();
        }
        Ok(self.survey)
    }

    fn work_off(&mut self, last: bool) -> Result<(), TableError> {
        let Some(held) = self.held.worth_a_try(last) else { return Ok(()) };
        let mut from = if !self.started && held.starts_with(BOM) { BOM.len() } else { 0 };
        if self.plan.is_none() {
            let Some(header) = Header::open(&self.program, self.format, &held[from..], last)? else {
                if held.len() > LONGEST_RECORD {
                    return Err(TableError::broken(0, 1, Broken::TooLong));
                }
                self.held.keep(held, 0);
                return Ok(());
            };
            self.lines += line_ends(&held[from..from + header.end]);
            from += header.end;
            if !self.format.is_json() {
                header.names.iter().for_each(|name| self.add_column(name));
            }
            let mut plan = Plan::new(&self.program, self.format, header, &[])?;
            plan.layout.seen.fill(true);
            self.plan = Some(plan);
        }
        self.started = true;
        let Some(plan) = self.plan.take() else { return Ok(()) };
        let mut text = &held[from..];
        while !text.is_empty() {
            let read = self.block(&plan, text, last)?;
            if read == 0 {
                break;
            }
            self.lines += line_ends(&text[..read]);
            text = &text[read..];
        }
        self.plan = Some(plan);
        if text.len() > LONGEST_RECORD {
            return Err(TableError::broken(self.survey.records + 1, self.lines + 1, Broken::TooLong));
        }
        let done = held.len() - text.len();
        self.held.keep(held, done);
        Ok(())
    }

    fn add_column(&mut self, name: &str) {
        self.by_name.entry(name.to_owned()).or_insert(self.survey.columns.len());
        self.survey.columns.push(ColumnSurvey { name: name.to_owned(), ..ColumnSurvey::default() });
        self.looks.push(LookGroups::default());
    }

    /// Drops what is kept of the cells of one column: of the one with the most, where cells that look equal mean least.
    fn make_room(&mut self) {
        if let Some(largest) = self.looks.iter_mut().max_by_key(|looks| looks.kept()) {
            self.room += largest.stop();
        }
    }

    /// The column of this name; a new one, if there is none yet.
    fn column_of(&mut self, name: &str) -> usize {
        let name = if self.by_name.len() >= MOST_COLUMNS && !self.by_name.contains_key(name) { OTHERS } else { name };
        if !self.by_name.contains_key(name) {
            self.add_column(name);
        }
        self.by_name[name]
    }

    /// Looks at the next records; gives how much of the text they are.
    fn block(&mut self, plan: &Plan, text: &[u8], last: bool) -> Result<usize, TableError> {
        let mut grid = std::mem::take(&mut self.grid);
        let extent = Extent { bytes: BLOCK, first: self.survey.records == 0, ..Extent::whole(last) };
        let mut found = FoundFields::default();
        // What is no good has no cells, and is counted; but after a fault in an array no record can be told from another.
        let read = match plan.read(text, extent, &mut grid, &mut found) {
            Ok(read) => read,
            Err((at, what)) if self.format == TableFormat::Json => {
                let record = self.survey.records + grid.records.len() as u64 + 1;
                return Err(TableError::broken(record, self.lines + line_ends(&text[..at]) + 1, what));
            }
            Err(_) => text.len(),
        };
        if last && read == text.len() && self.format == TableFormat::Json && !found.is_closed {
            return Err(TableError::broken(0, 1, Broken::OpenArray));
        }
        for record in 0..grid.records.len() {
            self.survey.records += 1;
            let cells = grid.cells_of(record);
            self.survey.ragged += u64::from(grid.records[record].is_ragged);
            for cell in cells {
                let column = if self.format.is_json() {
                    self.column_of(&field_of(&plan.layout, &grid, cell).unwrap_or_default())
                } else {
                    grid.cells[cell].column
                };
                let number = self.survey.records;
                self.survey.columns[column].add(grid.value(cell, text), number);
                self.room -= self.looks[column].add(grid.value(cell, text), number);
                if self.room < MOST_OF_A_CELL {
                    self.make_room();
                }
            }
        }
        self.grid = grid;
        Ok(read)
    }
}

impl ColumnSurvey {
    fn add(&mut self, value: &[u8], record: u64) {
        self.cells += 1;
        if value.is_empty() {
            self.empty += 1;
            return;
        }
        let trimmed = trim(value);
        widen(&mut self.lengths, bytecount::num_chars(value) as u64);
        widen(&mut self.trimmed, bytecount::num_chars(trimmed) as u64);
        let is_telling = value.iter().any(|byte| matches!(byte, ..b' ' | b'&' | b'<'));
        let has_line_ends = |text: &[u8]| memchr::memchr2(b'\n', b'\r', text).is_some();
        if trimmed.len() < value.len() && !is_telling {
            self.edges.add(record);
        } else if trimmed.len() < value.len() {
            let lead = trimmed.as_ptr().addr() - value.as_ptr().addr();
            let at_edges = has_line_ends(&value[..lead]) || has_line_ends(&value[lead + trimmed.len()..]);
            if at_edges { &mut self.edge_line_ends } else { &mut self.edges }.add(record);
        }
        if is_telling && has_line_ends(trimmed) {
            self.several_lines.add(record);
        }
        if is_telling && memchr::memchr(b'\t', trimmed).is_some() {
            self.tabs.add(record);
        }
        let marks = &*MARKS;
        for (byte, rule, count) in [
            (b'<', &marks.tags, &mut self.tags),
            (b'&', &marks.entities, &mut self.entities),
            (0x1B, &marks.escapes, &mut self.escapes),
        ] {
            if is_telling && memchr::memchr(byte, value).is_some() && changes(rule, value) {
                count.add(record);
            }
        }
        if memchr::memmem::find(trimmed, b"  ").is_some() {
            self.blank_runs.add(record);
        }
        if value.iter().all(|byte| matches!(byte, b' '..=b'~')) {
            return;
        }
        let (mut unseen, mut odd) = (false, false);
        let mut at = 0;
        while at < value.len() {
            let (surveyed, len) = match char_at(value, at) {
                Some((character, len)) => (Surveyed::Char(character), len),
                None => (Surveyed::Broken(value[at]), 1),
            };
            at += len;
            match surveyed {
                Surveyed::Char(' '..='~' | '\n' | '\r') => continue,
                Surveyed::Char('\t') | Surveyed::Broken(_) => {}
                Surveyed::Char(character) => match look(character) {
                    Glance::Unseen => unseen = true,
                    Glance::Space => odd = true,
                    Glance::Seen => {}
                },
            }
            self.characters.entry(surveyed).or_default().add(record);
        }
        if unseen {
            self.invisible.add(record);
        }
        if odd {
            self.odd_spaces.add(record);
        }
    }

    /// A column in which there is some of everything.
    fn with_everything(mut self) -> Self {
        for count in [
            &mut self.edges,
            &mut self.edge_line_ends,
            &mut self.tabs,
            &mut self.escapes,
            &mut self.tags,
            &mut self.entities,
            &mut self.blank_runs,
            &mut self.several_lines,
            &mut self.invisible,
            &mut self.odd_spaces,
        ] {
            count.add(1);
        }
        self
    }

    /// What breaks look-ups in this column, in the order in which rules should take it.
    pub fn findings(&self) -> Vec<Finding> {
        let finding = |cells, what, rule| Finding { what, rule, cells };
        let all = [
            finding(self.escapes, "terminal colours and moves", "remove = { stock = \"ansi-escape\" }"),
            finding(self.tags, "tags", "remove = { stock = \"tag\" }"),
            finding(self.entities, "HTML entities", "decode = { what = \"html-entities\" }"),
            finding(self.invisible, "characters nobody sees", "remove.class = [\"control\", \"invisible\"]"),
            finding(self.odd_spaces, "odd spaces", "replace = { class = \"odd-space\", with = \" \" }"),
            finding(
                self.edge_line_ends,
                "line ends at an edge",
                r"remove = { pattern = '\A\s+|\s+\z', across_lines = true }",
            ),
            finding(self.several_lines, "line ends within", r#"replace = { chars = "\n", with = " " }"#),
            finding(self.tabs, "tabs", r#"replace = { chars = "\t", with = " " }"#),
            finding(self.blank_runs, "several blanks in a row", "collapse = { class = \"blank\", with = \" \" }"),
            finding(self.edges, "white space at an edge", "trim.class = \"whitespace\""),
        ];
        all.into_iter().filter(|finding| finding.cells.count > 0).collect()
    }
}

/// A rule set of what breaks look-ups in these tables, with a comment each. `names`: what they are called.
pub fn table_draft(tables: &[&TableSurvey], names: &[String]) -> String {
    let quoted = |text: &str| serde_json::Value::from(text).to_string();
    let mut rules: Vec<(Finding, Vec<&str>)> = Vec::new();
    // Findings of all columns have one order.
    let column = ColumnSurvey::default().with_everything();
    for what in column.findings().into_iter().map(|finding| finding.what) {
        for column in tables.iter().flat_map(|table| &table.columns) {
            let Some(found) = column.findings().into_iter().find(|finding| finding.what == what) else { continue };
            match rules.iter_mut().find(|(finding, _)| finding.what == what) {
                Some((finding, fields)) => {
                    finding.cells.count += found.cells.count;
                    if !fields.contains(&column.name.as_str()) {
                        fields.push(&column.name);
                    }
                }
                None => rules.push((found, vec![&column.name])),
            }
        }
    }
    let mut draft = format!("title = {}\n\n[table]\n", quoted(&format!("Draft for {}", names.join(", "))));
    for (Finding { what, rule, cells }, fields) in rules {
        let fields: Vec<String> = fields.into_iter().map(quoted).collect();
        let fields = fields.join(", ");
        draft.extend([
            "\n# ",
            what,
            ": ",
            &cells.count.to_string(),
            " cells\n[[rule]]\nfields = [",
            &fields,
            "]\n",
            rule,
            "\n",
        ]);
    }
    draft
}

fn widen(range: &mut Option<(u64, u64)>, length: u64) {
    let (least, most) = range.unwrap_or((length, length));
    *range = Some((least.min(length), most.max(length)));
}

/// Without the white space at both edges.
fn trim(value: &[u8]) -> &[u8] {
    match std::str::from_utf8(value) {
        Ok(text) => text.trim().as_bytes(),
        Err(_) => value.trim_ascii(),
    }
}
